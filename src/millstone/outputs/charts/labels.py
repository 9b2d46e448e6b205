"""Names beside points, placed so that none lies on another."""

from collections.abc import Sequence

import numpy as np
from matplotlib.axes import Axes
from matplotlib.figure import Figure
from matplotlib.transforms import Bbox

from millstone.outputs.charts import theme

# where a name may stand, seen from its point: offset in points, and how it is aligned
_PLACES = (
    *((6, 0, "left", "center"), (-6, 0, "right", "center"), (0, 6, "center", "bottom"), (0, -6, "center", "top")),
    *((5, 5, "left", "bottom"), (-5, 5, "right", "bottom"), (5, -5, "left", "top"), (-5, -5, "right", "top")),
    *((14, 12, "left", "bottom"), (-14, 12, "right", "bottom"), (14, -12, "left", "top"), (-14, -12, "right", "top")),
)


def name_points(
    axes: Axes,
    x: np.ndarray,
    y: np.ndarray,
    names: Sequence[str],
    colours: Sequence[str],
    beside: tuple[np.ndarray, np.ndarray] | None = None,
) -> int:
    """Write names beside their points, the most important first; those without a free place are left out.

    Parameters
    ----------
    axes : Axes
        With its limits set and all points drawn.
    x, y : ndarray
        (names,) the points, in data coordinates.
    names, colours : sequence of str
    beside : pair of ndarray, optional
        Further points, (others,) each, that no name may cover.

    Returns
    -------
    int
        How many names were written.
    """
    figure = axes.get_figure()
    if not isinstance(figure, Figure) or not len(names):
        return 0
    figure.draw_without_rendering()
    inside = axes.get_window_extent()
    taken = _boxes(axes, x, y) + (_boxes(axes, *beside) if beside else [])
    written = 0
    for number, (name, colour) in enumerate(zip(names, colours, strict=True)):
        for right, up, across, down in _PLACES:
            text = axes.annotate(
                theme.plain(name),
                (x[number], y[number]),
                (right, up),
                textcoords="offset points",
                ha=across,
                va=down,
                fontsize=9,
                color=colour,
            )
            box = text.get_window_extent()
            if _within(box, inside) and not any(box.overlaps(one) for one in taken):
                taken.append(box)
                written += 1
                break
            text.remove()
    return written


def _boxes(axes: Axes, x: np.ndarray, y: np.ndarray) -> list[Bbox]:
    points = axes.transData.transform(np.column_stack((x, y)).astype(float))
    return [Bbox.from_bounds(one - 2.5, two - 2.5, 5, 5) for one, two in points]


def _within(box: Bbox, outer: Bbox) -> bool:
    return bool(box.x0 >= outer.x0 and box.x1 <= outer.x1 and box.y0 >= outer.y0 and box.y1 <= outer.y1)
