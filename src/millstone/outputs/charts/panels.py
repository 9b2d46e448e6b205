"""Figures of several panels: how many stand side by side, and how high the figure must be."""

import math
from collections.abc import Mapping, Sequence

import numpy as np
import pandas as pd
from matplotlib.axes import Axes
from matplotlib.figure import Figure

from millstone.core.statistics.means import group_means
from millstone.core.tables.columns import Column
from millstone.core.tables.table import Table
from millstone.outputs.charts import theme

MOST_PANELS = 12
"""Figures with a panel for each list or comparison draw the first of them."""


def panels_of(
    number: int,
    across: int,
    each: float,
    around: float = 0.0,
    share_x: bool = False,
    share_y: bool = False,
    width: float = 0.0,
) -> tuple[Figure, list[Axes]]:
    """A figure with so many panels, from left to right and from the top down.

    Parameters
    ----------
    number : int
        Panels, 1 or more.
    across : int
        How many stand side by side at most.
    each, around : float
        The height of a row of panels, and of what stands above and below them, in inches; a figure is never lower
        than the usual height.
    share_x, share_y : bool
        All panels have the same axis.
    width : float
        Of the figure, in inches.
    """
    across = min(number, across)
    down = math.ceil(number / across)
    figure = theme.new_figure(max(theme.least_height(), down * each + around), width or theme.least_width(across))
    grid = figure.subplots(down, across, squeeze=False, sharex=share_x, sharey=share_y).ravel()
    for axes in grid[number:]:
        axes.remove()
    return figure, list(grid[:number])


def across_of_lists(number: int) -> int:
    """How many lists of terms stand side by side, so that few places stay empty."""
    return 3 if number in (1, 2, 3, 5, 6, 9) else 4


def lowest(panels: list[Axes], across: int) -> list[Axes]:
    """The panels with none below them."""
    return panels[max(len(panels) - across, 0) :]


CUT = " Intervals end where values do: a share or a rate cannot be below 0, nor a share above the whole."


def possible_means(
    frame: pd.DataFrame, values: Sequence[str], groups: Sequence[str], columns: Mapping[str, Column]
) -> pd.DataFrame:
    """The means of `group_means`, their intervals cut off at the limits of the columns; ``cut`` says which were."""
    means = group_means(Table.of_frame(frame), values, groups).to_frame()
    known = [columns.get(str(value)) for value in means["value"]]
    least = np.array([column.least if column else -np.inf for column in known], dtype=float)
    most = np.array([column.most if column else np.inf for column in known], dtype=float)
    cut = (means["low"] < least) | (means["high"] > most)
    return means.assign(low=means["low"].clip(lower=least), high=means["high"].clip(upper=most), cut=cut)
