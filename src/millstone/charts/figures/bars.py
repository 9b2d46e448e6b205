"""Lists drawn as bars: the strongest links of a network, the words that are used alike."""

from collections.abc import Sequence
from dataclasses import dataclass

from matplotlib.figure import Figure

from millstone.charts import theme
from millstone.charts.colours import GroupLook, as_text
from millstone.charts.panels import MOST_PANELS, across_of_lists, panels_of
from millstone.charts.settings import ChartSettings
from millstone.core.result import Result


@dataclass(frozen=True)
class _List:
    """One list: its title, its group, a name and a length for each bar, and what is printed at the right."""

    title: str
    group: str
    names: Sequence[str]
    values: Sequence[float]
    beside: Sequence[str]


def _draw(
    result: Result,
    settings: ChartSettings,
    lists: Sequence[_List],
    axis: str,
    beside: str,
    heading: str,
    caption: str,
) -> Figure:
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


def draw_links(result: Result, settings: ChartSettings) -> Figure:
    """The strongest links of each network."""
    lists = []
    several = result.frame["group"].nunique() > 1
    for group, every in result.frame.groupby("group", sort=False):
        rows = every.head(settings.most_drawn())
        names = [f"{one} – {other}" for one, other in zip(rows["term_a"], rows["term_b"], strict=True)]
        beside = [f"{number:,}" for number in rows["together"]]
        lists.append(_List(str(group) if several else "", str(group), names, rows["association"].tolist(), beside))
    return _draw(
        result,
        settings,
        lists,
        f"association ({result.settings.get('association', 'dice')})",
        "together",
        "Network: the strongest links",
        f"The {settings.most_drawn()} strongest links of each network at most; at the right, in how many units the "
        "two occur together.",
    )


def draw_alike(result: Result, settings: ChartSettings) -> Figure:
    """The terms most alike to each node."""
    lists = []
    several = result.frame["group"].nunique() > 1
    for (group, node), every in result.frame.groupby(["group", "node"], sort=False):
        rows = every.head(settings.most_drawn())
        title = f"{node} ({group})" if several else str(node)
        beside = [f"{number:,}" for number in rows["shared_contexts"]]
        lists.append(_List(title, str(group), rows["term"].tolist(), rows["similarity"].tolist(), beside))
    return _draw(
        result,
        settings,
        lists,
        "similarity",
        "shared",
        "Words used alike",
        f"The {settings.most_drawn()} most alike terms at most: cosine of their contexts, which are the words one "
        "and two places before and after; at the right, how many contexts the two share.",
    )
