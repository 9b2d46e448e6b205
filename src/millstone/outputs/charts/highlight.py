"""Some terms of a figure in their colours, and all others in grey."""

from collections.abc import Collection, Sequence

import numpy as np
from matplotlib.artist import Artist
from matplotlib.axes import Axes
from matplotlib.collections import Collection as Marks
from matplotlib.collections import LineCollection
from matplotlib.colors import to_hex, to_rgba
from matplotlib.figure import Figure
from matplotlib.lines import Line2D
from matplotlib.patches import PathPatch, Rectangle
from matplotlib.text import Text

GREY = "#b4babf"
_NEAR = 0.5


def highlight(figure: Figure, terms: Collection[str]) -> list[str]:
    """Draw all but some terms in grey.

    Parameters
    ----------
    figure : Figure
        Its rows are named at the left edge, its points and words by themselves.
    terms : collection of str
        In any case.

    Returns
    -------
    list of str
        The terms that the figure does not show.
    """
    wanted = {term.lower(): term for term in terms}
    met: set[str] = set()
    for axes in figure.axes:
        rows = _rows(axes)
        met |= {name for name in rows.values() if name in wanted}
        grey = [at for at, name in rows.items() if name not in wanted]
        for one in axes.get_children():
            word = _word_of(one)
            if word in wanted:
                met.add(word)
            elif word or (rows and _is_in(one, axes, grey)):
                _make_grey(one)
            elif rows and isinstance(one, Marks):
                _grey_rows(one, grey)
            elif rows and isinstance(one, Line2D) and one.get_linestyle() == "None":
                _grey_points(one, axes, grey)
        for label in axes.get_yticklabels():
            if label.get_text().lower() not in wanted and label.get_text():
                label.set_color(GREY)
    return [term for word, term in wanted.items() if word not in met]


def _rows(axes: Axes) -> dict[float, str]:
    """Where each row with a name lies, and its name in small letters."""
    labels = zip(axes.get_yticks(), axes.get_yticklabels(), strict=False)
    return {float(at): label.get_text().lower() for at, label in labels if label.get_text()}


def _word_of(one: Artist) -> str:
    """The word that an artist is, in small letters; "" for none."""
    if isinstance(one, PathPatch):
        label = str(one.get_label())
        return "" if label.startswith("_") else label.lower()
    return ""


def _is_in(one: Artist, axes: Axes, rows: Sequence[float]) -> bool:
    """Whether an artist lies in one of some rows, and in no other."""
    if isinstance(one, Line2D):
        points = np.column_stack([np.asarray(one.get_xdata(), float), np.asarray(one.get_ydata(), float)])
    elif isinstance(one, Text):
        points = np.array([one.get_position()], dtype=float)
    elif isinstance(one, Rectangle) and one is not axes.patch:
        points = np.array([(one.get_x(), one.get_y()), (one.get_x(), one.get_y() + one.get_height())], dtype=float)
    else:
        return False
    if not len(points):
        return False
    # some are placed along the axis, and not by its values
    transform = axes.transData if isinstance(one, Rectangle) else one.get_transform()
    heights = axes.transData.inverted().transform(transform.transform(points))[:, 1]
    middle = float(heights.mean())
    return bool(np.ptp(heights) <= 1 and any(abs(middle - at) < _NEAR for at in rows))


def _grey_points(one: Line2D, axes: Axes, grey: Sequence[float]) -> None:
    """Draw those of several points in grey that lie in some rows."""
    across, heights = np.asarray(one.get_xdata(), dtype=float), np.asarray(one.get_ydata(), dtype=float)
    is_grey = np.array([any(abs(height - at) < _NEAR for at in grey) for height in heights], dtype=bool)
    if not is_grey.any():
        return
    apart = Line2D(across[is_grey], heights[is_grey])
    apart.update_from(one)
    one.set_data(across[~is_grey], heights[~is_grey])
    _make_grey(apart)
    axes.add_line(apart)
    apart.set_clip_on(one.get_clip_on())


def _grey_rows(one: Marks, grey: Sequence[float]) -> None:
    """Draw those marks or lines of several in grey that lie in some rows."""
    if isinstance(one, LineCollection):
        heights = np.array([float(np.mean(np.asarray(line)[:, 1])) for line in one.get_segments()])
    else:
        heights = np.asarray(one.get_offsets(), dtype=float)[:, 1]
    is_grey = np.array([any(abs(height - at) < _NEAR for at in grey) for height in heights], dtype=bool)
    if not is_grey.any():
        return
    for colours, change in ((one.get_facecolor(), one.set_facecolor), (one.get_edgecolor(), one.set_edgecolor)):
        every = np.asarray(colours, dtype=float)
        if not len(every):
            continue
        every = np.resize(every, (len(heights), every.shape[1])).copy()
        # a hollow mark stays so
        hollow = (every[:, :3] == 1).all(axis=1)
        every[is_grey & ~hollow] = to_rgba(GREY)
        change(list(map(tuple, every.tolist())))


def _make_grey(one: Artist) -> None:
    if isinstance(one, Line2D):
        one.set_color(GREY)
        if to_hex(one.get_markerfacecolor()) != "#ffffff":
            one.set_markerfacecolor(GREY)
        one.set_markeredgecolor(GREY)
    elif isinstance(one, PathPatch | Rectangle):
        # a hollow one stays so
        change = one.set_edgecolor if to_hex(one.get_facecolor()) == "#ffffff" else one.set_facecolor
        change(GREY)
    elif isinstance(one, Text):
        one.set_color(GREY)
