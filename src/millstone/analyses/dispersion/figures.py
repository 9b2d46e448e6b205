"""Dispersion drawn: every place of a node along the texts; how even terms are against how frequent."""

from collections.abc import Mapping
from itertools import pairwise

import numpy as np
import pandas as pd
from matplotlib.axes import Axes
from matplotlib.figure import Figure
from matplotlib.ticker import FuncFormatter

from millstone.core.base.errors import DataError
from millstone.core.tables.result import Result
from millstone.outputs.charts import theme
from millstone.outputs.charts.colours import SOFT, GroupLook
from millstone.outputs.charts.draw import Figures
from millstone.outputs.charts.labels import name_points
from millstone.outputs.charts.panels import MOST_PANELS, panels_of
from millstone.outputs.charts.settings import DispersionChartSettings

_MOST_BORDERS = 60
_LEAST_FREQ = 5
_NEIGHBOURS = 25


def draw_places(result: Result, settings: DispersionChartSettings) -> Figure:
    """A panel per group, a row per node, a tick at each place along the tokens of the group.

    Raises
    ------
    DataError
        For a table of terms, or one that was saved, which have no places.
    """
    if "places" not in result.tables:
        raise DataError(
            "--chart-kind places: the table has no places", "look for expressions: dispersion ... --find EXPRESSION"
        )
    places, borders = result.tables["places"].frame, result.tables["borders"].frame
    nodes = list(dict.fromkeys(result.frame["term"]))
    groups = [size for size in result.groups if size.tokens][:MOST_PANELS]
    figure, grid = panels_of(len(groups), 1, max(len(nodes) * 0.32, 0.6) + 0.75, 1.2)
    look = GroupLook(result.groups, settings.chart_colors)
    for axes, size in zip(grid, groups, strict=True):
        here = borders[borders["group"] == size.name]
        _borders(axes, here, size.tokens)
        for row, node in enumerate(nodes):
            at = places.loc[(places["group"] == size.name) & (places["term"] == node), "at"]
            axes.vlines(at, row - 0.32, row + 0.32, color=look.colour(size.name), linewidth=0.9, alpha=0.8)
        own = result.frame[result.frame["group"] == size.name]
        pairs = zip(own["freq"].astype(int), own["docs"].fillna(0).astype(int), strict=True)
        theme.name_rows(axes, nodes)
        theme.right_edge(axes, [f"{freq:,} in {docs:,}" for freq, docs in pairs], "places in docs")
        axes.set_xlim(0, max(size.tokens, 1))
        axes.xaxis.set_major_formatter(FuncFormatter(lambda value, _: f"{value:,.0f}"))
        axes.set_title(theme.plain(size.name, 90), color=look.text_colour(size.name), pad=14)
    grid[-1].set_xlabel("tokens of the group, from the first to the last as its texts are read")
    few = [number <= _MOST_BORDERS for number in borders["group"].value_counts()]
    lines = " Faint lines: where a document begins" if any(few) else ""
    lines += f", in groups of up to {_MOST_BORDERS} of them." if lines and not all(few) else "." if lines else ""
    theme.heading(figure, settings, "Dispersion: where the places are")
    hidden = sum(1 for size in result.groups if size.tokens) - len(groups)
    more = f" {hidden:,} more groups are not drawn." if hidden > 0 else ""
    theme.caption(
        figure,
        [
            f"Each stroke a place.{lines} At the right: places, and documents that have one.{more}",
            theme.sizes_line(result.groups),
        ],
    )
    return figure


def _borders(axes: Axes, borders: pd.DataFrame, tokens: int) -> None:
    begins = borders["begins"].to_numpy()
    if len(begins) > _MOST_BORDERS:
        return
    for at in begins[1:]:
        axes.axvline(at, color=theme.FAINT, linewidth=0.8, zorder=0)
    # a name where it fits: a sign is about 0.006 of the width
    for name, (first, after) in zip(borders["document"], pairwise([*begins, tokens]), strict=True):
        if len(str(name)) * 0.0055 * tokens < after - first:
            axes.text((first + after) / 2, -0.62, theme.plain(str(name), 200), fontsize=7, color=SOFT, ha="center")


def draw_evenness(result: Result, settings: DispersionChartSettings) -> Figure:
    """dp of each term against its frequency; the terms less even than others of their frequency named."""
    parts = [(name, rows[rows["dp"].notna()]) for name, rows in result.frame.groupby("group", sort=False)]
    parts = [(name, rows) for name, rows in parts if len(rows)]
    if not parts:
        raise DataError(
            "there is nothing to draw: no term has a dp",
            "a group of one document has none; cut it with --unit parts:10",
        )
    shown = parts[:MOST_PANELS]
    figure, grid = panels_of(len(shown), 3, 4.2)
    look = GroupLook(result.groups, settings.chart_colors)
    for axes, (group, rows) in zip(grid, shown, strict=True):
        x, y = rows["freq"].to_numpy(float), rows["dp"].to_numpy(float)
        theme.logarithmic(axes, "x")
        axes.grid(axis="y")
        axes.scatter(x, y, s=9, color=SOFT, alpha=0.35, linewidths=0)
        first = _less_even(x, y)[: settings.most_drawn()]
        axes.scatter(
            x[first], y[first], s=22, color=look.colour(str(group)), marker=look.mark(str(group)), linewidths=0
        )
        axes.set_title(theme.plain(str(group)), color=look.text_colour(str(group)))
        axes.set_ylim(0, 1.04)
        axes.margins(x=0.12)
        axes.set_xlabel("occurrences")
        axes.set_ylabel("dp: 0 even, 1 in few documents")
        name_points(
            axes, x[first], y[first], rows["term"].iloc[first].tolist(), [look.text_colour(str(group))] * len(first)
        )
    theme.heading(figure, settings, "Dispersion: how even terms are, and how frequent")
    more = f" {len(parts) - len(shown)} more groups are not drawn." if len(parts) > len(shown) else ""
    theme.caption(
        figure,
        [
            f"Each term a point. Large and, where there is room, named: the {settings.most_drawn()} of {_LEAST_FREQ} "
            f"occurrences or more whose dp lies farthest above the median of the {2 * _NEIGHBOURS} terms nearest in "
            f"frequency.{more}",
            theme.sizes_line(result.groups),
        ],
    )
    return figure


def _less_even(freq: np.ndarray, dp: np.ndarray) -> np.ndarray:
    """The terms by how far their dp lies above the median of those nearest in frequency, the farthest first."""
    order = np.argsort(freq, kind="stable")
    usual = pd.Series(dp[order]).rolling(2 * _NEIGHBOURS + 1, center=True, min_periods=1).median().to_numpy()
    above = np.full(len(freq), -np.inf)
    above[order] = np.where(freq[order] >= _LEAST_FREQ, dp[order] - usual, -np.inf)
    first = np.argsort(-above, kind="stable")
    return first[above[first] > 0]


FIGURES: Mapping[str, Figures] = {"dispersion": {"places": draw_places, "evenness": draw_evenness}}
