"""Small questions that are asked of long arrays, without arrays of their size being made on the way."""

from collections.abc import Iterator

import numpy as np
import pandas as pd

STRETCH = 1 << 20


def begins(values: np.ndarray) -> np.ndarray:
    """(values,) bool: which values differ from the one before; the first one does."""
    found = np.ones(len(values), dtype=bool)
    np.not_equal(values[1:], values[:-1], out=found[1:])
    return found


def merged(some: np.ndarray, others: np.ndarray) -> np.ndarray:
    """The different values of two arrays, in order."""
    both = np.sort(np.concatenate((some, others)))
    return both[begins(both)]


def different_pairs(first: np.ndarray, second: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """The different ones of some pairs of whole numbers from 0, and the number of each pair among them."""
    if not len(first) or (int(first.max()) + 1) * (int(second.max()) + 1) >= 1 << 63:
        return first, second, np.arange(len(first))
    size = int(second.max()) + 1
    number, different = pd.factorize(first.astype(np.int64) * size + second)
    return *np.divmod(different, size), number


def stable_order(places: np.ndarray) -> np.ndarray:
    """The order that sorts whole numbers from 0 to below 2^31, equal ones in the order in which they stand."""
    return np.sort((places.astype(np.int64) << 32) | np.arange(len(places))) & 0xFFFFFFFF


def stretches(size: int) -> Iterator[slice]:
    """So many values in stretches that fit the cache."""
    return (slice(at, min(at + STRETCH, size)) for at in range(0, size, STRETCH))
