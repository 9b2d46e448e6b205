"""Keyness drawn: a dot with its 95 % interval for each of the strongest terms of both sides."""

import math

import pandas as pd
from matplotlib.axes import Axes
from matplotlib.figure import Figure

from millstone.charts import theme
from millstone.charts.settings import ChartSettings
from millstone.charts.theme import GroupLook
from millstone.core.result import Result

_COLUMNS_OF_PANELS = 3


def draw(result: Result, settings: ChartSettings) -> Figure:
    """A panel a comparison: terms by log ratio, the two sides named at the two ends of the axis."""
    panels = list(result.frame.groupby(["target", "reference"], sort=False))
    across = min(len(panels), _COLUMNS_OF_PANELS)
    down = math.ceil(len(panels) / across)
    chosen = [strongest(frame, settings.chart_top) for _, frame in panels]
    rows = max((len(frame) for frame in chosen), default=1)
    figure = theme.new_figure(max(theme.HEIGHT, down * (rows * 0.2 + 1.6)) if down > 1 or rows > 32 else theme.HEIGHT)
    grid = figure.subplots(down, across, squeeze=False).ravel()
    look = GroupLook(result.groups)
    for axes, frame in zip(grid, chosen, strict=False):
        draw_comparison(axes, frame, look)
    for axes in grid[len(panels) :]:
        axes.remove()
    theme.heading(figure, "Keyness: which terms set the groups apart")
    theme.caption(figure, _caption(result, settings))
    return figure


def strongest(frame: pd.DataFrame, top: int) -> pd.DataFrame:
    """The `top` terms of each side with the highest ll, by log ratio from target to reference."""
    drawn = frame[frame["log_ratio"].notna() & frame["higher_in"].fillna("").ne("")]
    first = drawn.sort_values("rank", kind="stable").groupby("higher_in", sort=False).head(top)
    return first.sort_values("log_ratio", ascending=False, kind="stable")


def draw_comparison(axes: Axes, frame: pd.DataFrame, look: GroupLook) -> Axes:
    """One comparison; `frame` holds the rows to draw, from top to bottom."""
    if frame.empty:
        axes.text(0.5, 0.5, "no term differs", ha="center", transform=axes.transAxes)
        return axes
    target, reference = frame["target"].iloc[0], frame["reference"].iloc[0]
    axes.grid(axis="x")
    axes.axvline(0, color=theme.INK, linewidth=1)
    height = pd.Series(range(len(frame)), index=frame.index)
    warned = frame["note"].fillna("").str.contains("document")
    for side in (target, reference):
        for is_warned in (False, True):
            some = frame[(frame["higher_in"] == side) & (warned == is_warned)]
            theme.dots_with_intervals(
                axes,
                height[some.index].tolist(),
                some["log_ratio"].tolist(),
                some["log_ratio_low"].tolist(),
                some["log_ratio_high"].tolist(),
                look.colour(side),
                look.mark(side),
                filled=not is_warned,
            )
    theme.name_rows(axes, frame["term"].tolist())
    reach = max(frame["log_ratio_high"].abs().max(), frame["log_ratio_low"].abs().max())
    axes.set_xlim(-1.05 * reach, 1.05 * reach)
    _name_the_ends(axes, target, reference, look)
    pairs = zip(frame["freq_target"], frame["freq_reference"], strict=True)
    theme.right_edge(axes, [f"{b:,} : {a:,}" for a, b in pairs], "freq")
    axes.set_xlabel("log ratio (log2 of the two rates)")
    return axes


def _name_the_ends(axes: Axes, target: str, reference: str, look: GroupLook) -> None:
    ends = ((0.0, "left", f"◂ {reference}", reference), (1.0, "right", f"{target} ▸", target))
    for x, side, text, group in ends:
        axes.text(
            x,
            1.012,
            theme.plain(text),
            transform=axes.transAxes,
            ha=side,
            va="bottom",
            fontweight="bold",
            color=look.text_colour(group),
        )


def _caption(result: Result, settings: ChartSettings) -> list[str]:
    zeros = {"smooth": "0.5 is added to every count", "skip": "terms with a zero are left out"}
    rule = zeros.get(str(result.settings.get("zeros")), "0.5 stands for a zero")
    return [
        f"The {settings.chart_top} terms of each side with the highest log-likelihood, by log ratio, with 95 % "
        f"intervals ({rule}); 1 is twice as frequent. Hollow: the table's note warns that few documents carry it. "
        "At the right: occurrences on the left side : on the right side.",
        theme.sizes_line(result.groups),
    ]
