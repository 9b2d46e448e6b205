"""Profiles drawn: how groups differ in the measures chosen."""

from collections.abc import Mapping

import pandas as pd
from matplotlib.axes import Axes
from matplotlib.figure import Figure

from millstone.core.base.errors import DataError
from millstone.core.base.wording import listed, nearest
from millstone.core.tables.columns import Column
from millstone.core.tables.result import Result
from millstone.outputs.charts import theme
from millstone.outputs.charts.colours import GroupLook
from millstone.outputs.charts.draw import Figures
from millstone.outputs.charts.panels import panels_of, possible_means
from millstone.outputs.charts.settings import ProfileChartSettings

_ACROSS = 3


def draw(result: Result, settings: ProfileChartSettings) -> Figure:
    """One panel per measure, one row per group; with one row per document also the documents and the mean.

    Raises
    ------
    DataError
        For a measure that the table does not have, or that is empty throughout.
    """
    frame = result.frame
    measures = [name for name in settings.chart_measures if _can_draw(frame, name, settings)]
    if not measures:
        raise DataError("there is nothing to draw: the measures are empty", "choose others with --chart-measures")
    groups = [size.name for size in result.groups if size.name in set(frame["group"])]
    figure, grid = panels_of(len(measures), _ACROSS, len(groups) * 0.3 + 1.2, 1.2, share_y=True)
    look = GroupLook(result.groups, settings.chart_colors)
    by_document = "document" in frame.columns
    for number, (axes, name) in enumerate(zip(grid, measures, strict=True)):
        draw_measure(axes, frame, name, groups, result.columns, look)
        if number % _ACROSS == 0:
            theme.name_rows(axes, groups)
        column = result.columns[name]
        axes.set_title(column.title)
        axes.set_xlabel(column.unit)
    theme.heading(figure, settings, "Profile: how the groups differ")
    said = "; ".join(f"{result.columns[name].title}: {result.columns[name].meaning}" for name in measures)
    how = " Strokes: documents; dots: their mean with its 95 % interval (Student's t)." if by_document else ""
    theme.caption(figure, [f"{said}.{how} The axes do not begin at 0.", theme.sizes_line(result.groups)])
    return figure


def _can_draw(frame: pd.DataFrame, name: str, settings: ProfileChartSettings) -> bool:
    if name not in frame.columns or not pd.api.types.is_numeric_dtype(frame[name]):
        if settings.chart_measures == ProfileChartSettings.chart_measures:
            return False
        known = [str(one) for one in frame.columns if pd.api.types.is_numeric_dtype(frame[one])]
        raise DataError(
            f"--chart-measures: the table has no measure {name!r}{nearest(name, known)}",
            f"its measures: {listed(known)}",
        )
    return bool(frame[name].notna().any())


def draw_measure(
    axes: Axes, frame: pd.DataFrame, name: str, groups: list[str], columns: Mapping[str, Column], look: GroupLook
) -> Axes:
    """One measure, one row per group."""
    axes.grid(axis="x")
    by_document = "document" in frame.columns
    means = possible_means(frame, [name], groups, columns).set_index("group") if by_document else None
    for row, group in enumerate(groups):
        values = frame.loc[frame["group"] == group, name].dropna()
        colour, mark = look.colour(group), look.mark(group)
        if means is None:
            axes.plot(values, [row] * len(values), mark, color=colour, markersize=9)
            continue
        axes.plot(
            values, [row + 0.16] * len(values), "|", color=colour, alpha=0.75, markersize=10, markeredgewidth=1.4
        )
        mean = means.loc[group]
        theme.dots_with_intervals(axes, [row - 0.1], [mean["mean"]], [mean["low"]], [mean["high"]], colour, mark)
    return axes


FIGURES: Mapping[str, Figures] = {"profile": {"measures": draw}}
