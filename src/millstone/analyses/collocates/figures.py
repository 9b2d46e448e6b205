"""Collocates drawn: the strongest of each node as dots by their association, marked by the side they prefer."""

from collections.abc import Mapping

import pandas as pd
from matplotlib.figure import Figure
from matplotlib.lines import Line2D

from millstone.analyses.collocates.figure_of_contexts import draw_contexts
from millstone.core.tables.result import Result
from millstone.outputs.charts import theme
from millstone.outputs.charts.colours import SOFT, GroupLook
from millstone.outputs.charts.draw import Figures
from millstone.outputs.charts.panels import MOST_PANELS, panels_of
from millstone.outputs.charts.settings import ChartSettings

_MARKS = {"left": "<", "right": ">", "both": "o"}
_WORDS = {"left": "mostly to the left", "right": "mostly to the right", "both": "on both sides"}
_MOSTLY = 2 / 3


def draw(result: Result, settings: ChartSettings) -> Figure:
    """A panel for each node and group, its collocates from the strongest down."""
    measure = str(result.settings.get("rank_by", "log_dice"))
    lists = [(key, rows) for key, rows in result.frame.groupby(["group", "node"], sort=False) if len(rows)]
    shown = lists[:MOST_PANELS]
    figure, grid = panels_of(len(shown), 3, settings.most_drawn() * 0.22 + 0.9, 1.2)
    look = GroupLook(result.groups, settings.chart_colors)
    several = len({group for (group, _), _ in lists}) > 1
    for axes, ((group, node), every) in zip(grid, shown, strict=True):
        rows = every.head(settings.most_drawn()).reset_index(drop=True)
        sides = _sides(rows, result)
        axes.grid(axis="x")
        low = min(float(rows[measure].min()), 0)
        for row, (value, side) in enumerate(zip(rows[measure], sides, strict=True)):
            axes.hlines(row, low, value, color=look.colour(group), linewidth=2.2, alpha=0.4)
            axes.plot([value], [row], _MARKS[side], color=look.colour(group), markersize=7)
        theme.name_rows(axes, rows["collocate"].tolist())
        pairs = zip(rows["together"], rows["freq"], strict=True)
        theme.right_edge(axes, [f"{near:,} of {freq:,}" for near, freq in pairs], "near, of all")
        axes.set_title(theme.plain(f"{node} ({group})" if several else str(node)), color=look.text_colour(group))
        axes.set_xlabel(result.columns[measure].title if measure in result.columns else measure)
    marks = [Line2D([], [], color=SOFT, marker=_MARKS[one], linestyle="", label=_WORDS[one]) for one in _MARKS]
    figure.legend(handles=marks, loc="outside upper right", ncols=3)
    theme.heading(figure, settings, "Collocates: what occurs near")
    left, right = str(result.settings.get("span", "5,5")).split(",")
    hidden = f" {len(lists) - len(shown):,} more lists are not drawn." if len(lists) > len(shown) else ""
    theme.caption(
        figure,
        [
            f"The {settings.most_drawn()} strongest collocates, up to {left} words to the left, {right} to the "
            "right. A pointed mark: two thirds or more of its occurrences near the node are on that side. At the "
            f"right: occurrences near the node, of all.{hidden}",
            theme.sizes_line(result.groups),
        ],
    )
    return figure


def _sides(rows: pd.DataFrame, result: Result) -> list[str]:
    """The side that each collocate prefers."""
    if set(rows["side"]) != {"both"}:
        values: list[str] = rows["side"].tolist()
        return values
    if "sides" not in result.tables:
        return ["both"] * len(rows)
    by_side = result.tables["sides"].frame.set_index(["group", "node", "collocate", "side"])["together"]
    found = []
    for one in rows.itertuples():
        near = {side: int(by_side.get((one.group, one.node, one.collocate, side), 0)) for side in ("left", "right")}
        most = max(near, key=near.__getitem__)
        found.append(most if near[most] >= _MOSTLY * sum(near.values()) else "both")
    return found


FIGURES: Mapping[str, Figures] = {"collocates": {"strongest": draw}, "contexts": {"sides": draw_contexts}}
