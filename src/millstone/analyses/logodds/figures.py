"""Weighted log odds drawn: panels of dots with 95 % intervals."""

from collections.abc import Mapping

import numpy as np
import pandas as pd
from matplotlib.axes import Axes
from matplotlib.figure import Figure

from millstone.analyses.base.groups.notes import is_carried_by_few
from millstone.analyses.logodds.compute import interval
from millstone.core.tables.result import Result
from millstone.outputs.charts import theme
from millstone.outputs.charts.clouds.cloud import cloud_of, draw_clouds
from millstone.outputs.charts.colours import SOFT, GroupLook
from millstone.outputs.charts.draw import Figures
from millstone.outputs.charts.labels import name_points
from millstone.outputs.charts.panels import MOST_PANELS, across_of_lists, lowest, panels_of
from millstone.outputs.charts.points import panels_by, sizes_of
from millstone.outputs.charts.settings import ChartSettings, CloudSettings, LogOddsChartSettings


def draw(result: Result, settings: LogOddsChartSettings) -> Figure:
    """One panel per group with its highest terms, or one panel per term with its groups."""
    frame = result.frame[result.frame["z"].notna()]
    lists = frame.groupby(["target", "against"], sort=False)
    # by group where that takes fewer panels, and no more than can be drawn
    is_fewer = lists.ngroups <= min(MOST_PANELS, frame["term"].nunique())
    by_group = settings.panels == "group" or (settings.panels == "auto" and is_fewer)
    look = GroupLook(result.groups, settings.chart_colors)
    if by_group:
        panels = [
            (f"{group} against {against}", rows.sort_values("rank").head(settings.most_drawn()), "term")
            for (group, against), rows in lists
        ]
    else:
        panels = [
            (term, _strongest(frame[frame["term"] == term], settings.most_drawn()), "target")
            for term in _terms(frame)
        ]
    shown = panels[:MOST_PANELS]
    figure = _figure_of(shown, look)
    values = result.settings.get("count_field")
    what = f"which values of {values!r} each group has" if values else "what each group uses"
    theme.heading(figure, settings, f"Weighted log odds: {what} more than the others")
    hidden = len(panels) - len(shown)
    fewer = not by_group and lists.ngroups > settings.most_drawn()
    theme.caption(figure, _caption(result, settings, by_group, hidden, fewer))
    return figure


def _terms(frame: pd.DataFrame) -> list[str]:
    """The terms, that with the largest absolute z in any group first."""
    largest = frame.assign(size=frame["z"].abs()).groupby("term", sort=False)["size"].max()
    return [str(term) for term in largest.sort_values(ascending=False, kind="stable").index]


def _strongest(rows: pd.DataFrame, most: int) -> pd.DataFrame:
    """The groups with the largest absolute z, in their own order."""
    strongest = rows["z"].abs().sort_values(ascending=False, kind="stable").index[:most]
    return rows[rows.index.isin(strongest)]


def _figure_of(panels: list[tuple[str, pd.DataFrame, str]], look: GroupLook) -> Figure:
    across = across_of_lists(len(panels))
    rows = max(len(frame) for _, frame, _ in panels)
    figure, grid = panels_of(len(panels), across, rows * 0.22 + 0.9, 1.2, share_x=True)
    for axes, (title, frame, labels) in zip(grid, panels, strict=True):
        draw_panel(axes, frame, labels, look)
        colour = look.text_colour(frame["target"].iloc[0]) if labels == "term" else theme.INK
        axes.set_title(theme.plain(title), color=colour)
    for axes in lowest(grid, across):
        axes.set_xlabel("log odds ratio (natural logarithm)")
        axes.tick_params(labelbottom=True)
    return figure


def draw_panel(axes: Axes, frame: pd.DataFrame, labels: str, look: GroupLook) -> Axes:
    """One panel; `labels` is the column that names the rows."""
    axes.grid(axis="x")
    axes.axvline(0, color=theme.INK, linewidth=1)
    low, high = interval(frame["log_odds"], frame["std_error"])
    for row, (group, odds, left, right) in enumerate(zip(frame["target"], frame["log_odds"], low, high, strict=True)):
        theme.dots_with_intervals(axes, [row], [odds], [left], [right], look.colour(group), look.mark(group))
    theme.name_rows(axes, frame[labels].tolist())
    pairs = zip(frame["freq"], frame["freq_against"], strict=True)
    theme.right_edge(axes, [f"{here:,} : {there:,}" for here, there in pairs], "freq")
    return axes


def _caption(result: Result, settings: LogOddsChartSettings, by_group: bool, hidden: int, fewer: bool) -> list[str]:
    prior = str(result.settings.get("prior", "pooled"))
    is_field = "count_field" in result.settings
    one, verb, counted = ("value", "has", "documents") if is_field else ("term", "uses", "occurrences")
    for name in ("prior_weight", "prior_count"):
        prior += f", {name.removeprefix('prior_')} {result.settings[name]}" if name in result.settings else ""
    which = f"The {settings.most_drawn()} {one}s of each group with the highest z, in that order"
    if not by_group:
        which = (
            f"A panel for each {one}"
            if hidden <= 0
            else f"The {MOST_PANELS} {one}s with the largest |z| of any group"
        )
        which += f", the {settings.most_drawn()} groups with the largest |z| in each" if fewer else ""
    missing = "comparisons are" if by_group else f"{one}s are"
    more = f" {hidden:,} more {missing} not drawn." if hidden > 0 else ""
    return [
        f"{which}, with 95 % intervals; prior: {prior}. Above 0: the group "
        f"{verb} the {one} more often. At the right: {counted} in the group : on the other side.{more}",
        theme.sizes_line(result.groups, of_documents=is_field),
    ]


def draw_scores(result: Result, settings: ChartSettings) -> Figure:
    """z of log odds against frequency, which shows how the prior holds rare terms back."""
    look = GroupLook(result.groups, settings.chart_colors)
    figure, panels = panels_by(result, ["target", "against"])
    for axes, rows in panels:
        frame = rows[rows["z"].notna()]
        both = (frame["freq"] + frame["freq_against"]).to_numpy(dtype=float)
        z = frame["z"].to_numpy()
        colour = look.colour(frame["target"].iloc[0])
        theme.logarithmic(axes, "x")
        axes.grid(axis="y")
        axes.axhline(0, color=theme.INK, linewidth=1)
        axes.scatter(both, z, s=9, color=SOFT, alpha=0.35, linewidths=0)
        chosen = np.argsort(-z, kind="stable")[: settings.most_drawn()]
        axes.scatter(both[chosen], z[chosen], s=24, color=colour, linewidths=0)
        axes.set_title(
            theme.plain(f"{frame['target'].iloc[0]} against {frame['against'].iloc[0]}"),
            color=look.text_colour(frame["target"].iloc[0]),
        )
        axes.set_xlabel("occurrences on both sides")
        axes.set_ylabel("z")
        axes.margins(x=0.15, y=0.08)
        colours = [look.text_colour(frame["target"].iloc[0])] * len(chosen)
        name_points(axes, both[chosen], z[chosen], frame["term"].iloc[chosen].tolist(), colours)
    theme.heading(figure, settings, "Weighted log odds: z against frequency")
    prior = result.settings.get("prior", "pooled")
    theme.caption(
        figure,
        [
            f"Each term a point; the {settings.most_drawn()} with the highest z are coloured and, where there is "
            f"room, named. Prior: {prior}. z orders terms, it is not a test.",
            sizes_of(result),
        ],
    )
    return figure


def draw_cloud(result: Result, settings: CloudSettings) -> Figure:
    """The terms that a group uses more than the others, as large as their z."""
    clouds = []
    for group, rows in result.frame.groupby("target", sort=False):
        higher = rows[rows["z"] > 0].sort_values("z", ascending=False, kind="stable").drop_duplicates("term")
        clouds.append(cloud_of(str(group), higher, "z", settings, is_carried_by_few(higher)))
    size = "The area of a word grows with z, its log odds by their standard error; only terms whose z is above 0"
    return draw_clouds(
        result, settings, clouds, "Contrast cloud: the terms that each group uses more", size, "panels"
    )


FIGURES: Mapping[str, Figures] = {"logodds": {"panels": draw, "scores": draw_scores, "cloud": draw_cloud}}
