"""The contrast cloud: a framed column per group, its terms in order of effect, written as large as they are sure."""

import numpy as np
import pandas as pd
from matplotlib.axes import Axes
from matplotlib.figure import Figure
from matplotlib.patches import Rectangle

from millstone.charts import theme
from millstone.charts.settings import ChartSettings
from millstone.charts.theme import GroupLook
from millstone.core.result import Result

_SMALLEST, _LARGEST = 8.0, 30.0
_MOST_COLUMNS = 6


def draw(result: Result, settings: ChartSettings) -> Figure:
    """A column for each group that has terms of its own."""
    look = GroupLook(result.groups)
    columns = _columns(result.frame, [size.name for size in result.groups], settings.chart_top)[:_MOST_COLUMNS]
    figure = theme.new_figure()
    grid = figure.subplots(1, max(len(columns), 1), squeeze=False).ravel()
    largest = max((rows["lower"].max() for _, rows in columns), default=1.0)
    for axes, (group, rows) in zip(grid, columns, strict=False):
        _draw_column(axes, group, rows, largest, look)
    if not columns:
        grid[0].axis("off")
        grid[0].text(0.5, 0.5, "no term is surely more frequent in any group", ha="center")
    theme.heading(figure, "Contrast cloud: the terms of each group")
    theme.caption(
        figure,
        [
            f"The {settings.chart_top} terms of each group with the largest log ratio whose 95 % interval lies above "
            "0, from top to bottom in the order of the log ratio. Size: the lower limit of the interval, that is "
            "how much more frequent the term is at least.",
            theme.sizes_line(result.groups),
        ],
    )
    return figure


def _columns(frame: pd.DataFrame, groups: list[str], top: int) -> list[tuple[str, pd.DataFrame]]:
    """For each group its rows with ``term, effect, lower``, seen from that group."""
    found = []
    for group in groups:
        as_target = frame["target"] == group
        as_reference = (frame["reference"] == group) & ~frame["target"].eq(group)
        here = frame[(as_target | as_reference) & (frame["higher_in"] == group)]
        sign = np.where(here["target"] == group, 1, -1)
        lower = np.where(here["target"] == group, here["log_ratio_low"], -here["log_ratio_high"])
        rows = pd.DataFrame({"term": here["term"], "effect": sign * here["log_ratio"], "lower": lower})
        rows = rows[rows["lower"] > 0].sort_values("effect", ascending=False, kind="stable")
        rows = rows.drop_duplicates("term").head(top)
        if len(rows):
            found.append((group, rows))
    return found


def _draw_column(axes: Axes, group: str, rows: pd.DataFrame, largest: float, look: GroupLook) -> None:
    axes.set_xlim(0, 1)
    axes.set_ylim(0, 1)
    axes.set_xticks([])
    axes.set_yticks([])
    axes.spines["bottom"].set_visible(False)
    colour = look.text_colour(group)
    axes.add_patch(Rectangle((0, 0), 1, 1, fill=False, edgecolor=look.colour(group), linewidth=2.5, clip_on=False))
    axes.set_title(theme.plain(group), color=colour)
    sizes = _SMALLEST + (_LARGEST - _SMALLEST) * (rows["lower"].to_numpy() / largest)
    figure = axes.get_figure()
    if figure is None:
        return
    figure.draw_without_rendering()
    frame = axes.get_window_extent()
    texts = [
        axes.text(0.5, 0, theme.plain(term), fontsize=size, color=colour, ha="center", va="top")
        for term, size in zip(rows["term"], sizes, strict=True)
    ]
    for text in texts:
        width = text.get_window_extent().width
        if width > 0.92 * frame.width:
            text.set_fontsize(text.get_fontsize() * 0.92 * frame.width / width)
    heights = np.array([text.get_window_extent().height for text in texts]) / frame.height
    room = 0.94
    if heights.sum() * 1.15 > room:
        shrink = room / (heights.sum() * 1.15)
        for text in texts:
            text.set_fontsize(text.get_fontsize() * shrink)
        heights = heights * shrink
    gap = min(0.02, (room - heights.sum()) / max(len(texts), 1))
    top = 0.97
    for text, height in zip(texts, heights, strict=True):
        text.set_y(top)
        top -= height + gap
