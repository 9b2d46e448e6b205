"""Panels in which every term is a point."""

import pandas as pd
from matplotlib.axes import Axes
from matplotlib.figure import Figure

from millstone.core.tables.result import Result
from millstone.outputs.charts import theme
from millstone.outputs.charts.panels import MOST_PANELS, panels_of


def sizes_of(result: Result) -> str:
    """The line on the sizes of the groups, and how many comparisons have no panel."""
    names = [name for name in ("target", "reference", "group", "against") if name in result.frame.columns]
    hidden = len(result.frame.drop_duplicates(names)) - MOST_PANELS
    more = f" {hidden} more comparisons are not drawn." if hidden > 0 else ""
    return theme.sizes_line(result.groups) + more


def panels_by(result: Result, names: list[str]) -> tuple[Figure, list[tuple[Axes, pd.DataFrame]]]:
    """A figure with a panel for each combination of values in some columns, and the rows of each."""
    parts = [frame for _, frame in result.frame.groupby(names, sort=False)][:MOST_PANELS]
    figure, grid = panels_of(len(parts), 3, 4.2)
    return figure, list(zip(grid, parts, strict=True))
