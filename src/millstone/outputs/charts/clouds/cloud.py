"""Word clouds: the words of each group in a separate panel, each as large as a value of it."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import pandas as pd
from matplotlib.axes import Axes
from matplotlib.figure import Figure
from matplotlib.patches import PathPatch
from matplotlib.path import Path

from millstone.core.base.wording import numbered
from millstone.core.tables.result import Result
from millstone.outputs.charts import theme
from millstone.outputs.charts.clouds.outlines import CELL, Outline, outline_of
from millstone.outputs.charts.clouds.packing import Area, packed
from millstone.outputs.charts.colours import GroupLook
from millstone.outputs.charts.panels import MOST_PANELS, panels_of
from millstone.outputs.charts.settings import CloudSettings, SeededCloudSettings
from millstone.outputs.charts.svg_text import WordText, as_text

_FULL, _SHRINK, _TRIES = 0.72, 0.94, 24
_TALLEST = 0.9
_BLANK, _APART, _COARSE = 0.14, 0.6, 2
_EDGE, _WIDEST = 0.04, 0.8


@dataclass(frozen=True)
class Cloud:
    """The words of one group, the largest values first; which of them few documents carry; how many it has in all."""

    group: str
    words: list[str]
    values: np.ndarray
    hollow: np.ndarray
    number: int


@dataclass(frozen=True)
class _Panel:
    """Words and their outlines of 1 point, largest first, their values, and the size of the panel in points."""

    words: list[str]
    outlines: list[Outline]
    values: np.ndarray
    hollow: np.ndarray
    width: float
    height: float

    def shares(self, largest: float, settings: CloudSettings, scale: float) -> np.ndarray:
        """The size of each word, in points, at which its area is proportional to its value."""
        return scale * settings.chart_sizes[1] * np.sqrt(self.values / largest)

    def sizes(self, largest: float, settings: CloudSettings, scale: float) -> np.ndarray:
        """The size of each word, in points: that of its share, but none below the smallest size."""
        found: np.ndarray = np.maximum(self.shares(largest, settings, scale), settings.chart_sizes[0])
        return found


@dataclass(frozen=True)
class _Filled:
    """The outcome of packing: words of each panel without a place, and words larger than their share."""

    missing: Sequence[int]
    raised: int


def cloud_of(
    group: str, rows: pd.DataFrame, by: str, settings: CloudSettings, hollow: "pd.Series[bool] | None" = None
) -> Cloud:
    """The words of a group, as large as their values in the column `by`.

    Parameters
    ----------
    group : str
    rows : DataFrame
        With the columns ``term`` and `by`.
    by : str
    settings : CloudSettings
    hollow : Series of bool, optional
        The rows that few documents carry; its index is that of `rows`.
    """
    rows = rows[rows[by] > 0]
    values = rows[by].to_numpy(dtype=float)
    order = np.argsort(-values, kind="stable")[: settings.words_drawn()]
    few = np.zeros(len(rows), dtype=bool) if hollow is None else hollow[rows.index].to_numpy()
    return Cloud(group, rows["term"].iloc[order].tolist(), values[order], few[order], len(rows))


def draw_clouds(
    result: Result, settings: CloudSettings, clouds: Sequence[Cloud], heading: str, size: str, bars: str
) -> Figure:
    """A panel for each group that has words; `size` says what areas mean, `bars` which figure has axes."""
    clouds = [cloud for cloud in clouds if cloud.words]
    if not clouds:
        return _empty(result, settings, heading, bars)
    shown = clouds[:MOST_PANELS]
    across = math.ceil(len(shown) / (1 if len(shown) <= 3 else 2 if len(shown) <= 8 else 3))
    down = math.ceil(len(shown) / across)
    figure, grid = panels_of(len(shown), across, (theme.HEIGHT - 1.6) / min(down, 2), 1.6)
    look = GroupLook(result.groups, settings.chart_colors)
    theme.heading(figure, settings, heading)
    for axes, cloud in zip(grid, shown, strict=True):
        axes.set(xticks=[], yticks=[])
        axes.spines[:].set_visible(False)
        axes.set_title(theme.plain(cloud.group), color=look.text_colour(cloud.group))
    more = f" {len(clouds) - len(shown):,} more groups are not drawn." if len(clouds) > len(shown) else ""
    # the longest caption there can be makes the room that words are put into
    every = [len(cloud.words) for cloud in shown]
    _caption(figure, result, size, shown, _Filled(every, sum(every)), bars, more)
    figure.draw_without_rendering()
    figure.set_layout_engine("none")
    seed = _seed(result, settings)
    panels = [_panel(axes, cloud, settings, seed) for axes, cloud in zip(grid, shown, strict=True)]
    filled = _fill(grid, panels, [look.text_shades(cloud.group, len(cloud.words)) for cloud in shown], settings, seed)
    _caption(figure, result, size, shown, filled, bars, more)
    return figure


def _empty(result: Result, settings: CloudSettings, heading: str, bars: str) -> Figure:
    """A figure that says that no group has any distinctive term."""
    figure = theme.new_figure()
    axes = figure.subplots()
    axes.axis("off")
    axes.text(0.5, 0.5, "no term is surely more frequent in any group", ha="center", fontsize=14)
    theme.heading(figure, settings, heading)
    said = f"How unsure the differences are is drawn by --chart-kind {bars}."
    theme.caption(figure, [said, theme.sizes_line(result.groups)])
    return figure


def _seed(result: Result, settings: CloudSettings) -> int:
    """The seed of the figure, or that of the table where both are draws of one command."""
    return settings.seed if isinstance(settings, SeededCloudSettings) else int(str(result.settings.get("seed", 1)))


def _panel(axes: Axes, cloud: Cloud, settings: CloudSettings, seed: int) -> _Panel:
    box = axes.get_window_extent()
    width, height = (float(side) * 72 / theme.DPI for side in (box.width, box.height))
    axes.set(xlim=(0, width), ylim=(0, height))
    outlines = [outline_of(word) for word in cloud.words]
    is_seen = np.array([outline is not None for outline in outlines], dtype=bool)
    seen = [outline for outline in outlines if outline is not None]
    words = [word for word, outline in zip(cloud.words, outlines, strict=True) if outline is not None]
    turned = round((1 - settings.chart_upright) * len(seen))
    # the largest word is the last to be turned
    order = 1 + np.random.default_rng(seed).permutation(max(len(seen) - 1, 0))
    which = {*[*order.tolist(), 0][:turned]}
    placed = [outline.turned() if at in which else outline for at, outline in enumerate(seen)]
    return _Panel(words, placed, cloud.values[is_seen], cloud.hollow[is_seen], width, height)


def _fill(
    grid: Sequence[Axes],
    panels: Sequence[_Panel],
    colours: Sequence[Sequence[str]],
    settings: CloudSettings,
    seed: int,
) -> _Filled:
    """Draw the words of all panels, on one scale."""
    largest = max(float(panel.values.max(initial=0)) for panel in panels)
    scale, cell = _first_scale(panels, largest, settings), _COARSE * CELL
    for attempt in range(_TRIES):
        sizes = [panel.sizes(largest, settings, scale) for panel in panels]
        # the smallest size there is cannot shrink
        is_last = attempt == _TRIES - 1 or all((one <= settings.chart_sizes[0]).all() for one in sizes)
        cell = CELL if is_last else cell
        places, done = _places_of_all(panels, sizes, seed, cell, not is_last)
        if is_last or (done == 1 and cell == CELL):
            break
        # what fits in coarse cells is tried in fine ones; the earlier a word finds no place, the more is to be gained
        cell, scale = (CELL, scale) if done == 1 else (cell, scale * (1 - max(1 - done, 0.12) / 3))
    for axes, panel, inks, size, place in zip(grid, panels, colours, sizes, places, strict=True):
        for number, at in enumerate(place):
            if at is not None:
                outline, corner = panel.outlines[number], (at[1] * CELL, at[0] * CELL)
                edge = _EDGE * float(size[number]) if panel.hollow[number] else 0.0
                patch = _word(outline.drawn(float(size[number]), *corner), panel.words[number], inks[number], edge)
                axes.add_artist(patch)
                as_text(patch, axes, WordText(panel.words[number], float(size[number]), corner, outline))
    least = settings.chart_sizes[0]
    small = [panel.shares(largest, settings, scale) < least for panel in panels]
    drawn = [[at is not None for at in place] for place in places]
    raised = sum(int((one & some).sum()) for one, some in zip(small, map(np.array, drawn), strict=True))
    return _Filled([some.count(False) for some in drawn], raised)


def _word(path: Path, word: str, ink: str, edge: float) -> PathPatch:
    """A word of a colour, or hollow with an edge so wide."""
    looks = {"facecolor": "white", "edgecolor": ink} if edge else {"facecolor": ink, "edgecolor": "none"}
    patch = PathPatch(path, linewidth=min(edge, _WIDEST), label=word, **looks)
    patch.set_in_layout(False)
    return patch


def _first_scale(panels: Sequence[_Panel], largest: float, settings: CloudSettings) -> float:
    """The largest scale at which no word is too large for its panel, and all together fill what can be filled."""
    least, most = settings.chart_sizes
    measured = [
        np.array([(one.width, one.height, *one.edge_and_ink()) for one in panel.outlines]).reshape(-1, 4).T
        for panel in panels
    ]
    scale = 1.0
    while scale * most > least:
        fits = True
        for panel, (width, height, edge, ink) in zip(panels, measured, strict=True):
            sizes = panel.sizes(largest, settings, scale)
            is_too_large = (width * sizes > panel.width) | (height * sizes > _TALLEST * panel.height)
            taken = float((edge * sizes * CELL + ink * sizes**2).sum())
            fits = fits and taken <= _FULL * panel.width * panel.height and not is_too_large[sizes > least].any()
        if fits:
            break
        scale *= _SHRINK
    return scale


_Places = list[tuple[int, int] | None]


def _places_of_all(
    panels: Sequence[_Panel], sizes: Sequence[np.ndarray], seed: int, cell: float, all_or_none: bool
) -> tuple[list[_Places], float]:
    """The places of the words of each panel, and the share of words up to the first that found none."""
    found = []
    for panel, size in zip(panels, sizes, strict=True):
        found.append(_places(panel, size, seed, cell, all_or_none))
        if all_or_none and None in found[-1]:
            return found, len(found[-1]) / len(panel.outlines)
    return found, 1.0


def _places(panel: _Panel, sizes: np.ndarray, seed: int, cell: float, all_or_none: bool) -> _Places:
    shapes = (outline.cells(float(size), cell) for outline, size in zip(panel.outlines, sizes, strict=True))
    # terms of several words are further apart than their words
    blank = _APART if any(" " in word for word in panel.words) else _BLANK
    gaps = (1 + round(blank * float(size) / cell) for size in sizes)
    area = Area(int(panel.height / cell), int(panel.width / cell), seed)
    return packed(area, zip(shapes, gaps, strict=True), all_or_none)


def _caption(
    figure: Figure,
    result: Result,
    size: str,
    clouds: Sequence[Cloud],
    filled: _Filled,
    bars: str,
    more: str,
) -> None:
    drawn = [len(cloud.words) - without for cloud, without in zip(clouds, filled.missing, strict=True)]
    of = "; ".join(f"{cloud.group} {few:,} of {cloud.number:,}" for cloud, few in zip(clouds, drawn, strict=True))
    missing = sum(filled.missing)
    lost = f" {numbered(missing, 'word')} found no place." if missing else ""
    if filled.raised:
        lost += f" {numbered(filled.raised, 'word')} at the smallest size, larger than the share."
    if any(cloud.hollow.any() for cloud in clouds):
        lost = f" Hollow: the table's note warns that few documents carry it.{lost}"
    theme.caption(
        figure,
        [
            f"{size}. Words shown: {of}.{lost}{more} Where a word lies means nothing, and lengths compare better "
            f"than areas: --chart-kind {bars} draws the same on an axis.",
            theme.sizes_line(result.groups),
        ],
    )
