"""Frequency lists drawn: commonest terms, rank against frequency, share of tokens, growth of the vocabulary."""

from collections.abc import Mapping

import numpy as np
import pandas as pd
from matplotlib.axes import Axes
from matplotlib.figure import Figure
from matplotlib.ticker import FuncFormatter

from millstone.core.base.errors import DataError
from millstone.core.tables.result import Result
from millstone.outputs.charts import theme
from millstone.outputs.charts.clouds.cloud import cloud_of, draw_clouds
from millstone.outputs.charts.colours import GroupLook
from millstone.outputs.charts.draw import Figures
from millstone.outputs.charts.panels import MOST_PANELS, across_of_lists, lowest, panels_of
from millstone.outputs.charts.settings import CloudSettings, FrequencyChartSettings

_POINTS = 400


def draw_lists(result: Result, settings: FrequencyChartSettings) -> Figure:
    """The commonest terms of each group by their rate, a panel per group."""
    _check(result)
    lists = list(result.frame.groupby("group", sort=False))
    shown = lists[:MOST_PANELS]
    across = across_of_lists(len(shown))
    figure, grid = panels_of(len(shown), across, settings.most_drawn() * 0.22 + 0.9, 1.2, share_x=True)
    look = GroupLook(result.groups, settings.chart_colors)
    for axes, (group, rows) in zip(grid, shown, strict=True):
        draw_terms(axes, rows.head(settings.most_drawn()), look)
        axes.set_title(theme.plain(str(group)), color=look.text_colour(str(group)))
    grid[0].set_xlim(0, 1.05 * max(rows["per_million"].max() for _, rows in shown))
    for axes in lowest(grid, across):
        axes.set_xlabel(_rate(result))
        axes.tick_params(labelbottom=True)
    more = f" {len(lists) - len(shown):,} more groups are not drawn." if len(lists) > len(shown) else ""
    theme.heading(figure, settings, "The commonest terms of each group")
    first = f"The first {settings.most_drawn()} terms of each list; at the right: occurrences and documents.{more}"
    theme.caption(figure, [first, theme.sizes_line(result.groups)])
    return figure


def draw_terms(axes: Axes, rows: pd.DataFrame, look: GroupLook) -> Axes:
    """The terms of one group by their rate, from the top down."""
    group = str(rows["group"].iloc[0])
    axes.grid(axis="x")
    at = np.arange(len(rows))
    axes.hlines(at, 0, rows["per_million"], color=look.colour(group), linewidth=2.2, alpha=0.55)
    axes.plot(rows["per_million"], at, look.mark(group), color=look.colour(group), markersize=6, linestyle="")
    theme.name_rows(axes, rows["term"].tolist())
    pairs = zip(rows["freq"], rows["docs"], strict=True)
    theme.right_edge(axes, [f"{freq:,} in {docs:,}" for freq, docs in pairs], "freq in docs")
    axes.xaxis.set_major_formatter(FuncFormatter(lambda value, _: f"{value:,.0f}"))
    axes.locator_params(axis="x", nbins=3)
    return axes


def draw_ranks(result: Result, settings: FrequencyChartSettings) -> Figure:
    """Each term by its rank and its rate, a line per group."""
    return _curves(result, settings, of_ranks=True)


def draw_shares(result: Result, settings: FrequencyChartSettings) -> Figure:
    """The share of the text that the commonest terms make up, a line per group."""
    return _curves(result, settings, of_ranks=False)


def _check(result: Result) -> None:
    if "group" not in result.frame.columns:
        raise DataError("a table with the groups side by side cannot be drawn", "leave --wide out")


def _curves(result: Result, settings: FrequencyChartSettings, of_ranks: bool) -> Figure:
    _check(result)
    figure = theme.new_figure()
    axes = figure.subplots()
    look = GroupLook(result.groups, settings.chart_colors)
    axes.grid()
    for group, rows in result.frame.groupby("group", sort=False):
        rate = np.sort(rows["per_million"].to_numpy(float))[::-1]
        place = np.arange(1, len(rate) + 1)
        value = rate if of_ranks else np.cumsum(rate) / 1e4
        some = np.unique(np.geomspace(1, len(rate), _POINTS).round().astype(int)) - 1
        _line(axes, place[some], value[some], str(group), look)
    theme.logarithmic(axes, "x")
    axes.set_xlabel("rank of the term")
    if of_ranks:
        theme.logarithmic(axes, "y")
        axes.set_ylabel(_rate(result))
        theme.heading(figure, settings, "Rank and frequency")
        said = "Each term by its rank in the list and its rate, both on logarithmic axes."
    else:
        axes.set_ylim(0, None)
        axes.set_ylabel("share of all tokens of the group, in percent")
        theme.heading(figure, settings, "Share of the text that the commonest terms make up")
        said = "Terms from the commonest on, their occurrences added up."
    _name_lines(figure, axes)
    left_out = " Words that were left out are not among them." if result.left_out else ""
    theme.caption(figure, [said + left_out, theme.sizes_line(result.groups)])
    return figure


def draw_growth(result: Result, settings: FrequencyChartSettings) -> Figure:
    """Different terms met against tokens read, a line per group."""
    if "growth" not in result.tables:
        raise DataError(
            "the growth of the vocabulary cannot be drawn from a frequency list",
            "draw it from the texts: millstone freq ... --chart growth.png --chart-kind growth",
        )
    figure = theme.new_figure()
    axes = figure.subplots()
    look = GroupLook(result.groups, settings.chart_colors)
    axes.grid()
    for group, rows in result.tables["growth"].frame.groupby("group", sort=False):
        _line(axes, rows["tokens"].to_numpy(), rows["types"].to_numpy(), str(group), look)
    for axis in (axes.xaxis, axes.yaxis):
        axis.set_major_formatter(FuncFormatter(lambda value, _: f"{value:,.0f}"))
    axes.set_xlim(left=0)
    axes.set_ylim(bottom=0)
    axes.set_xlabel("kept tokens read")
    axes.set_ylabel("different terms met")
    theme.heading(figure, settings, "Growth of the vocabulary")
    _name_lines(figure, axes)
    said = "Different terms met so far, the documents of a group read in their order; the order matters."
    theme.caption(figure, [said, theme.sizes_line(result.groups)])
    return figure


def _line(axes: Axes, x: np.ndarray, y: np.ndarray, group: str, look: GroupLook) -> None:
    every = max(len(x) // 12, 1)
    axes.plot(
        x,
        y,
        color=look.colour(group),
        marker=look.mark(group),
        markevery=(every // 2, every),
        markersize=5,
        linewidth=1.6,
        label=theme.plain(group),
    )


def _name_lines(figure: Figure, axes: Axes) -> None:
    handles, _ = axes.get_legend_handles_labels()
    figure.legend(handles=handles, loc="outside upper right", ncols=min(len(handles), 6))


def _rate(result: Result) -> str:
    return result.columns["per_million"].unit if "per_million" in result.columns else "per million tokens"


def draw_cloud(result: Result, settings: CloudSettings) -> Figure:
    """The commonest words of each group, as large as their rates."""
    if "group" not in result.frame.columns:
        raise DataError("a table with the groups side by side cannot be drawn", "leave --wide out")
    unit = result.columns["per_million"].unit if "per_million" in result.columns else "per million tokens"
    clouds = [
        cloud_of(str(group), rows, "per_million", settings)
        for group, rows in result.frame.groupby("group", sort=False)
    ]
    size = f"The area of a word grows with its rate ({unit}), on one scale for all panels"
    return draw_clouds(result, settings, clouds, "The commonest words of each group", size, "terms")


FIGURES: Mapping[str, Figures] = {
    "freq": {
        "terms": draw_lists,
        "cloud": draw_cloud,
        "rank": draw_ranks,
        "share": draw_shares,
        "growth": draw_growth,
    }
}
"""Table -> its figures, the usual one first."""
