"""Lists drawn as bars, a panel for each."""

from collections.abc import Sequence
from dataclasses import dataclass

from matplotlib.figure import Figure

from millstone.core.tables.result import Result
from millstone.outputs.charts import theme
from millstone.outputs.charts.colours import GroupLook, as_text
from millstone.outputs.charts.panels import MOST_PANELS, across_of_lists, panels_of
from millstone.outputs.charts.settings import ChartSettings


@dataclass(frozen=True)
class BarList:
    """One list: its title, its group, a name and a length for each bar, and what is printed at the right."""

    title: str
    group: str
    names: Sequence[str]
    values: Sequence[float]
    beside: Sequence[str]


def draw_bars(
    result: Result,
    settings: ChartSettings,
    lists: Sequence[BarList],
    axis: str,
    beside: str,
    heading: str,
    caption: str,
) -> Figure:
    """A panel for each list; `axis` and `beside` name the lengths and what is printed at the right."""
    shown = lists[:MOST_PANELS]
    longest = max(len(one.names) for one in shown)
    figure, grid = panels_of(len(shown), min(across_of_lists(len(shown)), 3), longest * 0.22 + 0.9, 1.2, share_x=True)
    look = GroupLook(result.groups, settings.chart_colors)
    for axes, one in zip(grid, shown, strict=True):
        is_group = any(size.name == one.group for size in result.groups)
        colour = look.colour(one.group) if is_group else look.numbered(0)
        axes.grid(axis="x")
        axes.barh(range(len(one.names)), one.values, color=colour, height=0.62)
        theme.name_rows(axes, one.names)
        theme.right_edge(axes, one.beside, beside)
        axes.set_title(theme.plain(one.title), color=as_text(colour))
        axes.set_xlabel(axis)
        axes.set_xlim(0, None)
    theme.heading(figure, settings, heading)
    hidden = f" {len(lists) - len(shown):,} more lists are not drawn." if len(lists) > len(shown) else ""
    theme.caption(figure, [f"{caption}{hidden}", theme.sizes_line(result.groups)])
    return figure
