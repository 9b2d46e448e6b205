"""Boxes placed as near to where they should be as others leave room for."""

import math
from collections.abc import Sequence

import numpy as np

_STEP = 0.03


def spread_out(
    wanted: np.ndarray, sizes: np.ndarray, room: tuple[float, float], order: Sequence[int] | None = None
) -> np.ndarray | None:
    """Place boxes one after the other, each at the free place nearest to where it should be.

    Parameters
    ----------
    wanted : ndarray
        (N, 2) the centres where the boxes should be.
    sizes : ndarray
        (N, 2) width and height of each.
    room : tuple of float
        Width and height of the area from (0, 0) in which all must lie.
    order : sequence of int, optional
        Which box is placed first, and so on.

    Returns
    -------
    ndarray or None
        (N, 2) the centres; None where they do not fit. The same each time.
    """
    across, down = (int(side / _STEP) for side in room)
    taken = np.zeros((across, down), dtype=np.int32)
    found = np.zeros_like(wanted, dtype=float)
    for box in range(len(wanted)) if order is None else order:
        wide, high = (math.ceil(side / _STEP) for side in sizes[box])
        if wide > across or high > down:
            return None
        # how many cells are taken in the rectangle before each corner, and from these in the box at each place
        sums = np.zeros((across + 1, down + 1), dtype=np.int32)
        sums[1:, 1:] = taken.cumsum(axis=0).cumsum(axis=1)
        inside = sums[wide:, high:] - sums[:-wide, high:] - sums[wide:, :-high] + sums[:-wide, :-high]
        x, y = np.nonzero(inside == 0)
        if not len(x):
            return None
        centre = np.column_stack((x + wide / 2, y + high / 2)) * _STEP
        best = int(((centre - wanted[box]) ** 2).sum(axis=1).argmin())
        found[box] = centre[best]
        taken[x[best] : x[best] + wide, y[best] : y[best] + high] = 1
    return found
