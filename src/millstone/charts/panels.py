"""Figures of several panels: how many stand side by side, and how high the figure must be."""

import math

from matplotlib.axes import Axes
from matplotlib.figure import Figure

from millstone.charts import theme

MOST_PANELS = 12
"""Figures with a panel for each list or comparison draw the first of them."""


def panels_of(
    number: int,
    across: int,
    each: float,
    around: float = 0.0,
    share_x: bool = False,
    share_y: bool = False,
    width: float = theme.WIDTH,
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
    figure = theme.new_figure(max(theme.HEIGHT, down * each + around), width)
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
