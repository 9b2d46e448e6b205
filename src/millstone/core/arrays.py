"""Small questions that are asked of long arrays, without arrays of their size being made on the way."""

from collections.abc import Iterator

import numpy as np

_STRETCH = 1 << 20


def begins(values: np.ndarray) -> np.ndarray:
    """(values,) bool: which values differ from the one before; the first one does."""
    found = np.ones(len(values), dtype=bool)
    np.not_equal(values[1:], values[:-1], out=found[1:])
    return found


def merged(some: np.ndarray, others: np.ndarray) -> np.ndarray:
    """The different values of two arrays, in order."""
    both = np.sort(np.concatenate((some, others)))
    return both[begins(both)]


def stretches(size: int) -> Iterator[slice]:
    """So many values in stretches that fit the cache."""
    return (slice(at, min(at + _STRETCH, size)) for at in range(0, size, _STRETCH))
