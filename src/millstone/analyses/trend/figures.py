"""Trends drawn: the rates of terms in each period with their fit, or how fast they change."""

from collections.abc import Mapping

import numpy as np
import pandas as pd
from matplotlib.axes import Axes
from matplotlib.figure import Figure
from matplotlib.ticker import StrMethodFormatter

from millstone.analyses.trend.compute import ALPHA
from millstone.core.base.errors import DataError
from millstone.core.base.wording import numbered
from millstone.core.tables.result import Result
from millstone.outputs.charts import theme
from millstone.outputs.charts.colours import SOFT, GroupLook
from millstone.outputs.charts.draw import Figures
from millstone.outputs.charts.panels import panels_of
from millstone.outputs.charts.settings import ChartSettings

_ACROSS, _USUAL, _MOST_LABELS, _MOST_WIDE = 4, 12, 7, 24
_STEPS = tuple(one * 10**power for power in range(12) for one in (1, 2, 4, 5))
"""How many periods lie between two labels."""


def draw_courses(result: Result, settings: ChartSettings) -> Figure:
    """A small panel for each of the terms that change most surely.

    Raises
    ------
    DataError
        For a saved table, which lacks the rates of periods.
    """
    if "courses" not in result.tables:
        raise DataError(
            "this figure needs the rates of each period, which a saved table of trends does not have",
            "draw it with trend and --chart, or choose --chart-kind slopes",
        )
    courses = result.tables["courses"].frame
    rows = result.frame.sort_values("rank", kind="stable").groupby("group", sort=False)
    chosen = rows.head(settings.most_drawn(_USUAL)).sort_values(["group", "rank"], kind="stable")
    several = chosen["group"].nunique() > 1
    figure, grid = panels_of(len(chosen), min(_ACROSS, len(chosen)), 2.1, 1.4)
    look = GroupLook(result.groups, settings.chart_colors)
    for axes, row in zip(grid, chosen.to_dict("records"), strict=True):
        own = courses[(courses["group"] == row["group"]) & (courses["term"] == row["term"])]
        _draw_course(axes, own, look.colour(row["group"]), is_sure=bool(row["p_adjusted"] < ALPHA))
        where = f" ({row['group']})" if several else ""
        axes.set_title(theme.plain(f"{row['term']}{where}"), fontsize=10.5)
    theme.heading(figure, settings, "Trend: what rises and what falls")
    theme.caption(
        figure,
        [
            f"{_first(settings.most_drawn(_USUAL))} Dots: {_counted(result)} in each period, larger for larger "
            "periods, with 95 % intervals; line and band: the fitted rate, which changes by the same percentage per "
            "unit, with its 95 % interval. Hollow: does not pass. Axes begin at 0.",
            theme.sizes_line(result.groups),
        ],
    )
    return figure


def _counted(result: Result) -> str:
    """The unit of the rates, for a caption."""
    field = result.settings.get("count_field")
    return f"documents per million with each value of {field}" if field else "occurrences per million tokens"


def _first(most: int) -> str:
    """Which terms are drawn, for a caption."""
    return f"Of each group the terms with the lowest p, {numbered(most, 'term')} at most."


def _draw_course(axes: Axes, rows: pd.DataFrame, colour: str, is_sure: bool) -> None:
    axes.grid(axis="y")
    x = rows["x"].to_numpy(dtype=float)
    if rows["fitted"].notna().all():
        axes.fill_between(x, rows["fitted_low"], rows["fitted_high"], color=colour, alpha=0.16, linewidth=0)
        axes.plot(x, rows["fitted"], color=colour, linewidth=1.6)
    axes.vlines(x, rows["rate_low"], rows["rate_high"], color=SOFT, linewidth=1.1, alpha=0.45)
    size = rows["tokens"].to_numpy(dtype=float)
    widest = 50 if len(rows) <= _MOST_WIDE else 20
    inside = colour if is_sure else "white"
    marks = {"s": 10 + widest * size / size.max(), "facecolor": inside, "edgecolor": colour, "zorder": 3}
    axes.scatter(x, rows["per_million"], **marks)
    top = float(np.nanmax([rows["per_million"].max(), rows["rate_high"].quantile(0.9)]))
    axes.set_ylim(0, 1.1 * top if top > 0 else 1)
    step = next(step for step in _STEPS if step * _MOST_LABELS >= len(rows))
    shown = rows.iloc[::step]
    axes.set_xticks(
        shown["x"], [theme.plain(label) for label in shown["period"]], rotation=30, ha="right", fontsize=8
    )
    axes.yaxis.set_major_formatter(StrMethodFormatter("{x:,.0f}" if top >= 10 else "{x:,.2f}"))
    axes.tick_params(axis="y", labelsize=8)


def draw_slopes(result: Result, settings: ChartSettings) -> Figure:
    """A panel for each group: by how much the rates of terms change, with intervals."""
    frame = result.frame[result.frame["change_percent"].notna()]
    groups = [(group, _chosen(rows, settings.most_drawn())) for group, rows in frame.groupby("group", sort=False)]
    figure, grid = panels_of(len(groups), 3, max(len(rows) for _, rows in groups) * 0.22 + 0.9, 1.2)
    look = GroupLook(result.groups, settings.chart_colors)
    for axes, (group, rows) in zip(grid, groups, strict=True):
        axes.grid(axis="x")
        axes.axvline(0, color=theme.INK, linewidth=1)
        ends = rows[["change_low", "change_high"]].to_numpy(dtype=float)
        reach = float(np.nanmax(np.abs(np.clip(ends, -100, np.nanmax(rows["change_percent"].abs()) * 3))))
        axes.set_xlim(-1.05 * min(reach, 100), 1.05 * reach)
        for is_sure in (True, False):
            some = rows[(rows["p_adjusted"] < ALPHA) == is_sure]
            theme.dots_with_intervals(
                axes,
                some.index.tolist(),
                some["change_percent"].tolist(),
                some["change_low"].tolist(),
                some["change_high"].tolist(),
                look.colour(str(group)),
                look.mark(str(group)),
                filled=is_sure,
            )
        theme.name_rows(axes, rows["term"].tolist())
        theme.right_edge(axes, [f"{number:,}" for number in rows["freq"]], "freq")
        axes.set_title(theme.plain(str(group)) if len(groups) > 1 else "")
        axes.set_xlabel("change per unit, in percent")
    theme.heading(figure, settings, "Trend: how fast rates change")
    theme.caption(
        figure,
        [
            f"{_first(settings.most_drawn())} By how much their fitted rate changes per unit of the field (a year, "
            "of dates), with 95 % intervals over periods. Hollow: does not pass. At the right: occurrences.",
            theme.sizes_line(result.groups),
        ],
    )
    return figure


def _chosen(rows: pd.DataFrame, top: int) -> pd.DataFrame:
    first = rows.sort_values("rank", kind="stable").head(top)
    return first.sort_values("change_percent", ascending=False, kind="stable").reset_index(drop=True)


FIGURES: Mapping[str, Figures] = {"trend": {"courses": draw_courses, "slopes": draw_slopes}}
