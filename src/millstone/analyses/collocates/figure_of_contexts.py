"""Contexts drawn: what is near the one node and near the other, as bars to two sides."""

import math
from collections.abc import Sequence
from typing import Any

import pandas as pd
from matplotlib.axes import Axes
from matplotlib.figure import Figure
from matplotlib.ticker import FuncFormatter

from millstone.analyses.base.groups.notes import is_carried_by_few
from millstone.core.corpus.corpus import GroupSize
from millstone.core.tables.result import Result
from millstone.outputs.charts import theme
from millstone.outputs.charts.colours import GroupLook
from millstone.outputs.charts.panels import MOST_PANELS, panels_of
from millstone.outputs.charts.settings import ChartSettings

_BLOCKS = ("group", "node", "target", "reference")
_FAINT = 0.4


def draw_contexts(result: Result, settings: ChartSettings) -> Figure:
    """A panel for each pair: rates near the reference to the left, near the target to the right."""
    blocks = [name for name in _BLOCKS if name in result.frame]
    pairs = list(result.frame.groupby(blocks, sort=False))
    chosen = [(names, _strongest(rows, settings.most_drawn())) for names, rows in pairs[:MOST_PANELS]]
    longest = max(len(rows) for _, rows in chosen)
    figure, grid = panels_of(len(chosen), 2, longest * 0.22 + 1.2, 1.2)
    for axes, (names, rows) in zip(grid, chosen, strict=True):
        _draw_pair(axes, rows, _look_of(result, names[-2:], settings))
        axes.set_title(theme.plain(names[0], 60) if len(result.frame[blocks[0]].unique()) > 1 else "", pad=22)
    theme.heading(figure, settings, f"Contexts: {_told(result)}")
    left, right = str(result.settings.get("span", "5,5")).split(",")
    hidden = f" {len(pairs) - len(chosen):,} more pairs are not drawn." if len(pairs) > len(chosen) else ""
    theme.caption(
        figure,
        [
            f"The {settings.most_drawn()} terms of each side with the highest log-likelihood over documents, up to "
            f"{left} words to the left of a place, {right} to the right. Bars: occurrences per 1,000 tokens near it, "
            "faint on the side that has fewer. Hollow: tokens alone tell the difference, not documents, or one "
            f"document has most of it. At the right: log ratio with its 95 % interval over documents.{hidden}",
            theme.sizes_line(result.groups),
        ],
    )
    return figure


def _told(result: Result) -> str:
    """The nodes of a figure in words."""
    if "node" in result.frame:
        nodes = list(result.frame["node"].unique())
        return f"what is near {nodes[0]}, group by group" if len(nodes) == 1 else "what is near the same nodes"
    return f"what is near {result.frame['target'].iloc[0]} and near {result.frame['reference'].iloc[0]}"


def _strongest(rows: pd.DataFrame, top: int) -> pd.DataFrame:
    """The `top` terms of each side that are ranked first, by log ratio from target to reference."""
    first = rows.sort_values("rank", kind="stable").groupby("higher_in", sort=False).head(top)
    return first.sort_values("log_ratio", ascending=False, kind="stable").reset_index(drop=True)


def _look_of(result: Result, names: Sequence[str], settings: ChartSettings) -> GroupLook:
    """The colours of two sides: of groups their own, of nodes the first two."""
    is_of_groups = any(size.name == name for size in result.groups for name in names)
    sides = result.groups if is_of_groups else [GroupSize(name, 0, 0) for name in names]
    return GroupLook(sides, settings.chart_colors)


def _draw_pair(axes: Axes, rows: pd.DataFrame, look: GroupLook) -> None:
    target, reference = rows["target"].iloc[0], rows["reference"].iloc[0]
    few = is_carried_by_few(rows).tolist()
    axes.grid(axis="x")
    for side, name, sign in (("target", target, 1), ("reference", reference, -1)):
        colour = look.colour(name)
        for row, (rate, higher) in enumerate(zip(rows[f"per_thousand_{side}"], rows["higher_in"], strict=True)):
            strong = 1.0 if higher == name else _FAINT
            face = "white" if few[row] else colour
            axes.barh(row, sign * rate, color=face, edgecolor=colour, linewidth=1.2, height=0.62, alpha=strong)
    axes.axvline(0, color=theme.INK, linewidth=1)
    theme.name_rows(axes, rows["collocate"].tolist())
    theme.name_the_ends(axes, target, reference, look)
    theme.right_edge(axes, [_ratio(one) for one in rows.to_dict("records")], "log ratio")
    reach = 1.05 * float(rows[["per_thousand_target", "per_thousand_reference"]].max().max())
    axes.set_xlim(-reach, reach)
    axes.xaxis.set_major_formatter(FuncFormatter(lambda value, _: f"{abs(value):,.10g}"))
    axes.set_xlabel("per 1,000 tokens near it")


def _ratio(row: dict[Any, Any]) -> str:
    """A log ratio with its interval, of which an end may not exist."""
    low, high = (float(row[f"log_ratio_{end}"]) for end in ("low", "high"))
    if math.isnan(high) and not math.isnan(low):
        return f"at least {low:.1f}"
    if math.isnan(low) and not math.isnan(high):
        return f"at most {high:.1f}"
    if math.isnan(low):
        return f"{row['log_ratio']:.1f}"
    return f"{row['log_ratio']:.1f} ({low:.1f} to {high:.1f})"
