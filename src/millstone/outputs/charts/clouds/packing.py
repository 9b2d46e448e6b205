"""Shapes packed around the middle of an area, the gaps of large ones filled with small ones."""

from collections.abc import Iterable

import numpy as np

_ASTRAY = 0.03
_BEYOND = 40


def spaced(shape: np.ndarray, across: int) -> np.ndarray:
    """A shape with the cells that must stay free: one beyond its last row, `across` beyond the columns of each row.

    Returns
    -------
    ndarray of bool
        (h + 1, w + across)
    """
    found = np.zeros((shape.shape[0] + 1, shape.shape[1] + across), dtype=bool)
    for by in range(across + 1):
        found[:-1, by : by + shape.shape[1]] |= shape
    found[1:] |= found[:-1].copy()
    return found


class Area:
    """An area of cells into which shapes are put, one after the other, each at the free place nearest to the middle.

    Where a shape may lie is known for all places at once: the overlaps of a shape with what is there already are a
    correlation, and a product of their Fourier transforms.

    Parameters
    ----------
    rows, columns : int
        The size of the area, in cells.
    seed : int
        Each shape aims at a point near the middle, drawn at random; the same seed gives the same places.
    """

    def __init__(self, rows: int, columns: int, seed: int = 1) -> None:
        self._size = (rows, columns)
        from scipy import fft

        # places are counted around: what reaches beyond an edge must not meet the other one
        self._padded = tuple(fft.next_fast_len(side + _BEYOND, real=True) for side in (rows, columns))
        self._taken = np.zeros((self._padded[0], self._padded[1] // 2 + 1), dtype=np.complex64)
        self._chance = np.random.default_rng(seed)
        self._waves = (
            -2j * np.pi * np.fft.fftfreq(self._padded[0])[:, None],
            -2j * np.pi * np.fft.rfftfreq(self._padded[1])[None, :],
        )

    def place(self, shape: np.ndarray, across: int = 1) -> tuple[int, int] | None:
        """Put a shape where it touches no other, and return its first row and column.

        Parameters
        ----------
        shape : ndarray of bool
            (h, w) the cells that it covers.
        across : int
            How many cells after it in each row must be free, at most 40; one beyond its last row always is.

        Returns
        -------
        tuple of int or None
            None where no place is free; nothing is put down then.
        """
        rows, columns = self._size
        high, wide = shape.shape
        aim = 0.5 + _ASTRAY * self._chance.standard_normal(2)
        if high > rows or wide > columns:
            return None
        from scipy import fft

        # single precision is enough: sums of some thousand cells are exact to a hundredth
        spectrum = fft.rfft2(spaced(shape, min(across, _BEYOND)).astype(np.float32), self._padded)
        overlaps = fft.irfft2(self._taken * spectrum.conj(), self._padded)
        free = overlaps[: rows - high + 1, : columns - wide + 1] < 0.5
        # the third power fills the corners of an area, as the second would not
        down = np.abs((np.arange(rows - high + 1) + high / 2) / rows - aim[0]) ** 3
        right = np.abs((np.arange(columns - wide + 1) + wide / 2) / columns - aim[1]) ** 3
        distance = np.where(free, (down[:, None] + right[None, :]).astype(np.float32), np.inf)
        row, column = divmod(int(distance.argmin()), distance.shape[1])
        if not free[row, column]:
            return None
        shift = np.exp(self._waves[0] * row) * np.exp(self._waves[1] * column)
        self._taken += spectrum * shift.astype(np.complex64)
        return row, column


def packed(
    area: Area, shapes: Iterable[tuple[np.ndarray, int]], all_or_none: bool = False
) -> list[tuple[int, int] | None]:
    """Put shapes into an area, in the order given.

    Parameters
    ----------
    area : Area
    shapes : iterable of (ndarray of bool, int)
        The cells that each covers, and how many after it in each row must be free.
    all_or_none : bool
        End at the first shape that finds no place.

    Returns
    -------
    list
        First row and column of each; None where it found no place.
    """
    found: list[tuple[int, int] | None] = []
    for shape, across in shapes:
        found.append(area.place(shape, across))
        if all_or_none and found[-1] is None:
            break
    return found
