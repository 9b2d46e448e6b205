"""Results under many settings drawn: the curve of effects, and which settings each is of."""

from collections.abc import Mapping

import numpy as np
import pandas as pd
from matplotlib.axes import Axes
from matplotlib.figure import Figure

from millstone.analyses.vary.rows import BLOCKS, FORMS
from millstone.core.base.errors import DataError
from millstone.core.base.wording import numbered
from millstone.core.tables.result import Result
from millstone.outputs.charts import theme
from millstone.outputs.charts.colours import SOFT, GroupLook
from millstone.outputs.charts.draw import Figures
from millstone.outputs.charts.settings import ChartSettings

_USUAL, _MOST_OF_ONE = 4, 12
_INTERVALS = "Lines: 95 % intervals, an arrow where one has no end. "
_ROW, _CURVE = 0.19, 2.2
_OF_TABLE = ("combination", "effect", "low", "high", "p_adjusted", "passes", "rank", "freq", "term", *BLOCKS)


def draw_curve(result: Result, settings: ChartSettings) -> Figure:
    """A panel for each term: its effects in order of size, with intervals, and below them their settings.

    Raises
    ------
    DataError
        For a saved table without that of every row beside it.
    """
    if "each" not in result.tables:
        raise DataError(
            "this figure needs every row under every combination, and there is only the summary",
            "save them beside it with --each FILE.csv, or draw the figure with vary and --chart",
        )
    every = result.tables["each"].frame
    options = [name for name in every.columns if name not in _OF_TABLE]
    values = {name: list(dict.fromkeys(every[name].astype(str))) for name in options}
    blocks = [name for name in BLOCKS if name in result.frame.columns]
    chosen = _chosen(result.frame, blocks, settings.most_drawn(_USUAL))
    look = GroupLook(result.groups, settings.chart_colors)
    form = FORMS.get(str(result.settings.get("of", "")))
    figure, panels = _panels(len(chosen), sum(map(len, values.values())) + len(values))
    for row, (top, below) in zip(chosen, panels, strict=True):
        named = [str(row[one]) for one in (*blocks, "term")]
        own = every[(every[[*blocks, "term"]].astype(str) == named).all(axis=1)]
        own = own.sort_values(["effect", "combination"], kind="stable").reset_index(drop=True)
        colour = look.colour(named[0]) if blocks else theme.INK
        _draw_effects(top, own, colour, form is None or form.is_signed)
        top.set_title(theme.plain(_title(row, blocks), 60), fontsize=10.5)
        top.set_ylabel(form.called if form else "effect")
        _draw_settings(below, own, values)
    theme.heading(figure, settings, "Vary: would it hold with other settings?")
    theme.caption(
        figure,
        [
            f"Each column is one of {numbered(int(every['combination'].nunique()), 'combination')} of settings, in "
            "order of the effect; its settings are marked below. Filled: passes. "
            f"{_INTERVALS if 'low' in every else ''}The first rows of the table.",
            theme.sizes_line(result.groups),
        ],
    )
    return figure


def _panels(number: int, lines: int) -> tuple[Figure, list[tuple[Axes, Axes]]]:
    """A figure with so many panels, each with a curve, and so many lines of settings below it."""
    across = min(2, number)
    down = -(-number // across)
    heights = [_CURVE, _ROW * lines]
    figure = theme.new_figure(max(theme.least_height(), down * (sum(heights) + 0.5) + 1.2))
    grid = figure.subplots(2 * down, across, squeeze=False, height_ratios=heights * down, sharex="col")
    pairs = [(grid[2 * row, column], grid[2 * row + 1, column]) for row in range(down) for column in range(across)]
    for pair in pairs[number:]:
        for axes in pair:
            axes.remove()
    return figure, pairs[:number]


def _chosen(frame: pd.DataFrame, blocks: list[str], most: int) -> list[dict[str, object]]:
    """The rows that are drawn: from each list in turn the first one, then the second, until there are enough."""
    parts = [part for _, part in frame.groupby(blocks, sort=False)] if blocks else [frame]
    turns = max(map(len, parts))
    found = [part.iloc[turn].to_dict() for turn in range(min(turns, most)) for part in parts if turn < len(part)]
    return found[:most]


def _title(row: Mapping[str, object], blocks: list[str]) -> str:
    named = [str(row[name]) for name in blocks]
    return f"{row['term']}: {' compared with '.join(named)}" if named else str(row["term"])


def _draw_effects(axes: Axes, rows: pd.DataFrame, colour: str, is_signed: bool) -> None:
    axes.grid(axis="y")
    x = np.arange(len(rows))
    if is_signed:
        axes.axhline(0, color=theme.INK, linewidth=1)
    if "low" in rows:
        _draw_intervals(axes, x, rows[["low", "high"]].to_numpy(dtype=float), rows["effect"].to_numpy(dtype=float))
    size = 26 if len(rows) <= 60 else 10
    for passes, inside in (("yes", colour), ("no", "white")):
        some = np.flatnonzero(rows["passes"] == passes)
        axes.scatter(x[some], rows["effect"].iloc[some], s=size, facecolor=inside, edgecolor=colour, zorder=3)
    axes.tick_params(axis="x", length=0, labelbottom=False)
    axes.tick_params(axis="y", labelsize=8)


def _draw_intervals(axes: Axes, x: np.ndarray, ends: np.ndarray, effect: np.ndarray) -> None:
    """Standing intervals; one without an end goes on to the edge, in an arrow."""
    known = np.concatenate((ends.ravel(), effect))
    known = np.append(known[~np.isnan(known)], 0.0)
    room = 0.06 * float(known.max() - known.min() or 1.0)
    edges = known.min() - room, known.max() + room
    axes.set_ylim(edges[0] - room, edges[1] + room)
    lacking = np.isnan(ends)
    for side, mark in enumerate("v^"):
        only = lacking[:, side] & ~lacking[:, 1 - side]
        ends[only, side] = edges[side]
        axes.plot(x[only], ends[only, side], mark, color=SOFT, markersize=4)
    axes.vlines(x, ends[:, 0], ends[:, 1], color=SOFT, linewidth=1.1, alpha=0.6)


def _draw_settings(axes: Axes, rows: pd.DataFrame, values: Mapping[str, list[str]]) -> None:
    """A row for each value of each option, with a mark where an effect is of it."""
    labels: list[tuple[float, str]] = []
    at = 0.0
    for name, own in values.items():
        for value in own:
            has = rows[name].astype(str) == value
            axes.scatter(np.arange(len(rows)), np.full(len(rows), at), s=5, color=theme.FAINT)
            axes.scatter(np.flatnonzero(has), np.full(int(has.sum()), at), s=14, color=theme.INK, marker="s")
            labels.append((at, f"{name.replace('_', '-')} {value}"))
            at += 1
        at += 0.5
    axes.set_ylim(at - 0.5, -0.7)
    axes.set_yticks([place for place, _ in labels], [theme.plain(text, 40) for _, text in labels], fontsize=8)
    axes.set_xticks([])
    axes.spines["bottom"].set_visible(False)


FIGURES: Mapping[str, Figures] = {"vary": {"curve": draw_curve}, "moved": {"curve": draw_curve}}
