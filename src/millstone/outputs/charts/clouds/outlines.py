"""Words as outlines of their letters, and the cells that such outlines cover."""

import math
from dataclasses import dataclass, replace

import matplotlib as mpl
import numpy as np
from matplotlib.backends.backend_agg import RendererAgg
from matplotlib.font_manager import FontProperties
from matplotlib.path import Path
from matplotlib.textpath import text_to_path
from matplotlib.transforms import Affine2D

CELL = 1.5
"""The width of a cell, in points."""
_LARGE = 60.0


@dataclass(frozen=True)
class Outline:
    """The outline of a word of 1 point, its lower left corner at (0, 0), with its width and height in points.

    `baseline` is how far its baseline is from the lower left corner: above it, or, of a word that is turned, right of
    it.
    """

    path: Path
    width: float
    height: float
    baseline: float
    is_turned: bool = False

    def turned(self) -> "Outline":
        """The outline turned, to be read from below."""
        found = _at_corner(Affine2D().rotate_deg(90).transform_path(self.path))
        # what was above the baseline is now left of it
        return replace(found, baseline=self.height - self.baseline, is_turned=True)

    def drawn(self, size: float, x: float, y: float) -> Path:
        """The outline `size` points large, its lower left corner at (x, y), in points."""
        return Affine2D().scale(size).translate(x, y).transform_path(self.path)

    def cells(self, size: float, cell: float = CELL) -> np.ndarray:
        """The cells that it covers, be it in part, when it is drawn `size` points large.

        Parameters
        ----------
        size, cell : float
            Of the letters, and the width of a cell, in points.

        Returns
        -------
        ndarray of bool
            (rows, columns), the lowest row first.
        """
        wide, high = (max(math.ceil(side * size / cell), 1) for side in (self.width, self.height))
        renderer = RendererAgg(wide, high, 72)
        renderer.draw_path(renderer.new_gc(), self.path, Affine2D().scale(size / cell), (0.0, 0.0, 0.0))
        return np.asarray(renderer.buffer_rgba())[::-1, :, 3] > 0

    def edge_and_ink(self) -> tuple[float, float]:
        """The length of its edge, in points, and its area, in square points; about."""
        shape = self.cells(_LARGE)
        padded = np.pad(shape, 1).astype(np.int8)
        edge = sum(float(np.abs(np.diff(padded, axis=axis)).sum()) for axis in (0, 1))
        return edge * CELL / _LARGE, float(shape.sum()) * CELL**2 / _LARGE**2


def outline_of(word: str) -> Outline | None:
    """The outline of a word; None where nothing is to be seen of it."""
    properties = FontProperties(family=mpl.rcParams["font.family"], weight="bold")
    # unlike outlines, a measure of the text warns of characters that the fonts lack
    RendererAgg(1, 1, 72).get_text_width_height_descent(word, properties, False)
    points, codes = text_to_path.get_text_path(properties, word)
    if not len(points):
        return None
    return _at_corner(Affine2D().scale(1 / text_to_path.FONT_SCALE).transform_path(Path(points, codes)))


def _at_corner(path: Path) -> Outline:
    # the points that bend a curve bound it; its true extent takes far longer to find
    points = np.asarray(path.vertices)
    low, high = points.min(axis=0), points.max(axis=0)
    width, height = (float(side) for side in high - low)
    return Outline(Path(points - low, path.codes), width, height, float(-low[1]))
