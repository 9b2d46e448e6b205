"""A network drawn: terms on a map, with their links behind them."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import pandas as pd
from matplotlib import patheffects
from matplotlib.axes import Axes
from matplotlib.collections import LineCollection
from matplotlib.figure import Figure
from matplotlib.lines import Line2D

from millstone.analyses.network.boxes import spread_out
from millstone.analyses.network.graph import community_names, map_places
from millstone.core.base.errors import DataError
from millstone.core.base.wording import listed
from millstone.core.tables.result import Result
from millstone.outputs.charts import theme
from millstone.outputs.charts.bars import BarList, draw_bars
from millstone.outputs.charts.colours import SOFT, GroupLook, as_text, mark_of
from millstone.outputs.charts.draw import Figures
from millstone.outputs.charts.panels import MOST_PANELS, panels_of
from millstone.outputs.charts.settings import ChartSettings, NetworkChartSettings

_MANY = 90
_LARGE = 16.0, 12.0
_LARGEST, _SMALLEST = 11.0, 4.5
_MARK = 0.05, 0.14
_PAD = 0.045
_MOST_NAMED = 8
_FAINT, _FEW = 0.18, 150
_MARKS = {
    "docs": "the number of units",
    "freq": "the occurrences of the term",
    "degree": "the number of its links",
    "strength": "the strength of its links together",
    "betweenness": "the share of shortest paths that lead over it",
}


@dataclass(frozen=True)
class _Plan:
    """Where the terms of all panels stand, in inches: the mark and the left edge of its name; type size."""

    marks: dict[str, tuple[float, float]]
    names: dict[str, tuple[float, float]]
    radius: dict[str, float]
    size: float


def draw_map(result: Result, settings: NetworkChartSettings) -> Figure:
    """A panel per network; a term is at the same place in all of them.

    Raises
    ------
    DataError
        For a saved table of links without one of its nodes.
    """
    if "nodes" not in result.tables:
        raise DataError(
            "a map needs the communities of the terms, and no table of nodes of this network lies beside its links",
            "save the nodes beside the links (--nodes FILE), or type --chart-kind links",
        )
    links, nodes = result.frame, result.tables["nodes"].frame
    groups = links["group"].drop_duplicates().tolist()[:MOST_PANELS]
    linked = _linked(nodes, links[links["group"].isin(groups)])
    terms = sorted(set(linked["term"]))
    width, height = _LARGE if len(terms) > _MANY else (theme.WIDTH, theme.HEIGHT)
    across = min(len(groups), 2 if len(groups) in (2, 4) else 3)
    down = -(-len(groups) // across)
    figure, grid = panels_of(len(groups), across, (height - 1.7) / min(down, 2), 1.7, width=width)
    theme.heading(figure, settings, f"Network: {len(terms):,} terms that occur together")
    drawn = len(groups), linked["community"].nunique()
    theme.caption(figure, _caption(result, links, nodes, drawn, settings.chart_marks))
    for axes, group in zip(grid, groups, strict=True):
        axes.set(xticks=[], yticks=[])
        axes.set_title(theme.plain(group) if len(groups) > 1 else "")
        axes.spines[:].set_visible(len(groups) > 1)
        axes.spines[:].set_color(theme.FAINT)
    look = GroupLook((), settings.chart_colors)
    if len(groups) == 1:
        handles = [_handle(number, name, look) for number, name in enumerate(community_names(linked)[:_MOST_NAMED])]
        figure.legend(handles=handles, loc="outside upper right", ncols=4, fontsize=8.5)
    figure.draw_without_rendering()
    colours = _colours(linked, groups)
    plan = _planned(grid[0], links[links["group"].isin(groups)], linked, terms, settings.chart_marks)
    strongest = float(links["association"].max())
    for axes, group in zip(grid, groups, strict=True):
        here = links[links["group"] == group], linked[linked["group"] == group]
        _draw(axes, *here, plan, look, colours[group], strongest)
    return figure


def _linked(nodes: pd.DataFrame, links: pd.DataFrame) -> pd.DataFrame:
    """The terms of the links that are shown, which may be some of all."""
    ends = [links[["group", end]].set_axis(["group", "term"], axis=1) for end in ("term_a", "term_b")]
    return nodes.merge(pd.concat(ends).drop_duplicates(), on=["group", "term"])


def _handle(number: int, name: str, look: GroupLook) -> Line2D:
    colour, mark = look.numbered(number), mark_of(number)
    return Line2D([], [], color=colour, marker=mark, linestyle="", label=theme.plain(name, 60))


def _planned(axes: Axes, links: pd.DataFrame, linked: pd.DataFrame, terms: list[str], marks_by: str) -> _Plan:
    """Places at which no name lies on another or on a mark, in type as large as there is room for."""
    number = {term: place for place, term in enumerate(terms)}
    # a pair may be linked in several panels: its strongest link places it
    pairs = links.groupby(["term_a", "term_b"], sort=True)["association"].max().reset_index()
    a, b = (pairs[end].map(number).to_numpy() for end in ("term_a", "term_b"))
    wanted = map_places(len(terms), a, b, pairs["association"].to_numpy(dtype=float))
    box = axes.get_window_extent()
    room = float(box.width) / theme.DPI, float(box.height) / theme.DPI
    if room[1] > room[0]:
        wanted = wanted[:, ::-1]
    large = linked.groupby("term")[marks_by].max().reindex(terms).to_numpy(dtype=float)
    radius = _MARK[0] + (_MARK[1] - _MARK[0]) * np.sqrt(large / (large.max() or 1.0))
    size = _LARGEST
    while True:
        widths, height = _widths(axes, terms, size)
        sizes = np.column_stack((2 * radius + widths + 3 * _PAD, np.maximum(2 * radius, height) + _PAD))
        margin = sizes.max(axis=0) / 2
        places = margin + wanted * np.maximum(np.array(room) - 2 * margin, 0)
        found = spread_out(places, sizes, room, np.argsort(-large, kind="stable").tolist())
        if found is not None:
            break
        if size <= _SMALLEST:
            raise DataError(f"{len(terms):,} terms do not fit on a map", "draw fewer with --terms or --most-links")
        size *= 0.93
    left = found[:, 0] - sizes[:, 0] / 2
    marks = {term: (left[row] + _PAD / 2 + radius[row], found[row, 1]) for term, row in number.items()}
    names = {term: (left[row] + 2 * radius[row] + 1.5 * _PAD, found[row, 1]) for term, row in number.items()}
    return _Plan(marks, names, dict(zip(terms, radius.tolist(), strict=True)), size)


def _widths(axes: Axes, terms: list[str], size: float) -> tuple[np.ndarray, float]:
    """How wide each name is, and how high a line, in inches."""
    text = axes.text(0, 0, "", fontsize=size)
    widths = []
    for term in terms:
        text.set_text(theme.plain(term, 200))
        widths.append(float(text.get_window_extent().width) / theme.DPI)
    text.remove()
    return np.array(widths), size * 1.25 / 72


def _colours(linked: pd.DataFrame, groups: list[str]) -> dict[str, dict[int, int]]:
    """The colour of each community of each panel: that of the one to the left with which it shares most terms."""
    seen = pd.DataFrame(columns=["term", "colour"])
    found: dict[str, dict[int, int]] = {}
    for group in groups:
        here = linked[linked["group"] == group]
        shared = here.merge(seen, on="term").groupby(["community", "colour"]).size().sort_values(kind="stable")
        own: dict[int, int] = {}
        for community, colour in reversed(list(shared.index)):
            if community not in own and colour not in own.values():
                own[community] = colour
        free = (number for number in range(len(linked)) if number not in own.values())
        for community in sorted(set(here["community"]) - set(own)):
            own[community] = next(free)
        found[group] = own
        coloured = here.assign(colour=here["community"].map(own))[["term", "colour"]]
        seen = pd.concat([seen, coloured], ignore_index=True) if len(seen) else coloured
    return found


def _draw(
    axes: Axes,
    links: pd.DataFrame,
    nodes: pd.DataFrame,
    plan: _Plan,
    look: GroupLook,
    colours: dict[int, int],
    strongest: float,
) -> None:
    box = axes.get_window_extent()
    axes.set_xlim(0, float(box.width) / theme.DPI)
    axes.set_ylim(0, float(box.height) / theme.DPI)
    share = (links["association"] / strongest).to_numpy(dtype=float)
    ends = [[plan.marks[one], plan.marks[other]] for one, other in zip(links["term_a"], links["term_b"], strict=True)]
    # weak ones are thin and faint, the more so the more there are; the strongest lie on top
    faint = _FAINT * min(1.0, (_FEW / max(len(ends), 1)) ** 0.5)
    for number in np.argsort(share, kind="stable").tolist():
        line = LineCollection([ends[number]], colors=SOFT, linewidths=0.5 + 3.5 * share[number])
        line.set_alpha(faint + 0.5 * share[number])
        line.set_zorder(1)
        axes.add_collection(line)
    halo = [patheffects.withStroke(linewidth=2.2, foreground="white", alpha=0.85)]
    for row in nodes.itertuples():
        x, y = plan.marks[row.term]
        number = colours[row.community]
        colour, mark = look.numbered(number), mark_of(number)
        diameter = 2 * plan.radius[row.term] * 72
        axes.plot([x], [y], mark, color=colour, markersize=diameter, markeredgecolor="white", zorder=3)
        axes.text(
            *plan.names[row.term],
            theme.plain(row.term, 200),
            fontsize=plan.size,
            va="center",
            color=as_text(colour),
            path_effects=halo,
            zorder=4,
        )


def _caption(
    result: Result, links: pd.DataFrame, nodes: pd.DataFrame, drawn: tuple[int, int], marks: str
) -> list[str]:
    settings, (panels, communities) = result.settings, drawn
    association = str(settings.get("association", "dice"))
    where = f"within {settings['span']} tokens of each other" if "span" in settings else "in the same unit"
    if "span" not in settings and "unit" in settings:
        where = f"in the same unit ({settings['unit']})"
    alone = int((nodes["degree"] == 0).sum())
    hidden = f" Not drawn: {alone:,} of {len(nodes):,} terms, without a link." if alone else ""
    cut = int(result.tables["cut"].frame["links"].sum()) if "cut" in result.tables else 0
    hidden += f" {cut:,} weaker links are left out." if cut else ""
    matched = settings.get("match")
    if isinstance(matched, list | tuple) and matched:
        hidden += f" Only links with a term that fits {listed(matched)}."
    unnamed = communities - _MOST_NAMED
    hidden += f" {unnamed:,} smaller communities are not in the list above." if panels == 1 and unnamed > 0 else ""
    of_panels = ", listed with its commonest terms"
    if panels > 1:
        of_panels = "; communities of two groups that share most terms look alike"
    strongest = f"{links['association'].max():.2f}"
    return [
        f"Terms that occur {where}. The stronger the association ({association}, up to {strongest}), the wider the "
        "line and, as far as names leave room, the nearer the terms; the area of a mark grows with "
        f"{_MARKS[marks]}, its colour and form show the community{of_panels}.{hidden}",
        theme.sizes_line(result.groups),
    ]


def draw_links(result: Result, settings: ChartSettings) -> Figure:
    """The strongest links of each network."""
    lists = []
    several = result.frame["group"].nunique() > 1
    for group, every in result.frame.groupby("group", sort=False):
        rows = every.head(settings.most_drawn())
        names = [f"{one} – {other}" for one, other in zip(rows["term_a"], rows["term_b"], strict=True)]
        beside = [f"{number:,}" for number in rows["together"]]
        lists.append(BarList(str(group) if several else "", str(group), names, rows["association"].tolist(), beside))
    return draw_bars(
        result,
        settings,
        lists,
        f"association ({result.settings.get('association', 'dice')})",
        "together",
        "Network: the strongest links",
        f"The {settings.most_drawn()} strongest links of each network at most; at the right, in how many units the "
        "two occur together.",
    )


FIGURES: Mapping[str, Figures] = {"network": {"map": draw_map, "links": draw_links}}
