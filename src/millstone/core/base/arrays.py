"""Small NumPy helpers that avoid full-size temporaries."""

import os
from collections.abc import Callable, Iterator
from types import ModuleType
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from millstone.core import _compiled

    compiled = _compiled

# of what functions of the compiled part take and give, as in compiled/module.c
_INTERFACE = 2


def _load_compiled() -> ModuleType | None:
    """The compiled part; None where no C compiler was present, or it is not wanted: arrays do the same."""
    if os.environ.get("MILLSTONE_PURE"):
        return None
    try:
        # it may not be there
        from millstone.core import _compiled as found
    except ImportError:
        return None
    # one that an earlier version left behind is not used
    return found if getattr(found, "INTERFACE", 0) == _INTERFACE else None


if not TYPE_CHECKING:
    compiled = _load_compiled()

STRETCH = 1 << 20
_TABLE = 8


def one_by_one(function: Callable[[float], float], values: np.ndarray) -> np.ndarray:
    """A function of the C library of each value, float64 of the same shape; arrays may differ in the last digit.

    Parameters
    ----------
    function : Callable[[float], float]
        Such as `math.erfc`.
    values : ndarray
        Of any shape.

    Returns
    -------
    ndarray
    """
    return np.fromiter(map(function, values.ravel().tolist()), dtype=float, count=values.size).reshape(values.shape)


def begins(values: np.ndarray) -> np.ndarray:
    """(values,) bool: which values differ from the one before; the first one does.

    Parameters
    ----------
    values : ndarray
        (values,)

    Returns
    -------
    ndarray
        (values,) bool.
    """
    found = np.ones(len(values), dtype=bool)
    np.not_equal(values[1:], values[:-1], out=found[1:])
    return found


def merged(some: np.ndarray, others: np.ndarray) -> np.ndarray:
    """Sorted unique values of two arrays.

    Parameters
    ----------
    some : ndarray
        (some,)
    others : ndarray
        (others,)

    Returns
    -------
    ndarray
        (values,) rising.
    """
    both = np.sort(np.concatenate((some, others)))
    found: np.ndarray = both[begins(both)]
    return found


def unique_pairs(first: np.ndarray, second: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Unique pairs of non-negative integers, and the index of each input pair among them.

    Parameters
    ----------
    first : ndarray
        (pairs,) integers from 0.
    second : ndarray
        (pairs,) integers from 0.

    Returns
    -------
    tuple[ndarray, ndarray, ndarray]
        (unique,) first and second of each pair, and (pairs,) int64 its index.
    """
    if not len(first) or (int(first.max()) + 1) * (int(second.max()) + 1) >= 1 << 63:
        return first, second, np.arange(len(first))
    size = int(second.max()) + 1
    different, number = unique_inverse(first.astype(np.int64) * size + second)
    return *np.divmod(different, size), number


def unique(values: np.ndarray) -> np.ndarray:
    """Sorted unique values; faster than np.unique, which also handles cases we never have.

    Parameters
    ----------
    values : ndarray
        (values,)

    Returns
    -------
    ndarray
        (unique,) rising.
    """
    ordered = np.sort(values)
    found: np.ndarray = ordered[begins(ordered)]
    return found


def unique_counts(values: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Sorted unique values and their counts.

    Parameters
    ----------
    values : ndarray
        (values,)

    Returns
    -------
    tuple[ndarray, ndarray]
        (unique,) rising, and (unique,) int64.
    """
    ordered = np.sort(values)
    at = np.flatnonzero(begins(ordered))
    return ordered[at], np.diff(at, append=len(ordered))


def in_sorted(values: np.ndarray, some: np.ndarray) -> np.ndarray:
    """(values,) bool: which values are one of `some`, which rise.

    Parameters
    ----------
    values : ndarray
        (values,)
    some : ndarray
        (some,) rising.

    Returns
    -------
    ndarray
    """
    if not len(some):
        return np.zeros(len(values), dtype=bool)
    found: np.ndarray = some[np.minimum(np.searchsorted(some, values), len(some) - 1)] == values
    return found


def unique_inverse(values: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Sorted unique values, and for each input its index among them.

    Parameters
    ----------
    values : ndarray
        (values,)

    Returns
    -------
    tuple[ndarray, ndarray]
        (unique,) rising, and (values,) int64.
    """
    size = _TABLE * len(values) + 1
    if values.dtype.kind in "iu" and len(values) and values.min() >= 0:
        size = int(values.max()) + 1
    if size <= _TABLE * len(values):
        present = np.zeros(size, dtype=bool)
        present[values] = True
        different = np.flatnonzero(present)
        place = np.cumsum(present) - 1
        return different, place[values]
    order = np.argsort(values, kind="stable")
    ordered = values[order]
    is_new = begins(ordered)
    number = np.empty(len(values), dtype=np.int64)
    number[order] = np.cumsum(is_new) - 1
    return ordered[is_new], number


def dense_rank(values: np.ndarray) -> np.ndarray:
    """(values,) int64 the place of each number among the different ones, from the smallest; NaN comes last.

    Parameters
    ----------
    values : ndarray
        (values,)

    Returns
    -------
    ndarray
        (values,) int64 from 0.
    """
    order = np.argsort(values, kind="stable")
    place = np.empty(len(values), dtype=np.int64)
    place[order] = np.cumsum(begins(values[order])) - 1
    return place


def stable_order(places: np.ndarray) -> np.ndarray:
    """The order that sorts whole numbers from 0 to below 2^31, equal ones in the order in which they stand.

    Parameters
    ----------
    places : ndarray
        (places,) integers from 0 to below 2^31.

    Returns
    -------
    ndarray
        (places,) int64.
    """
    return np.sort((places.astype(np.int64) << 32) | np.arange(len(places))) & 0xFFFFFFFF


def concat_ranges(start: np.ndarray, length: np.ndarray) -> np.ndarray:
    """The positions ``start .. start + length - 1`` of each span, one after the other.

    Parameters
    ----------
    start : ndarray
        (spans,) integers.
    length : ndarray
        (spans,) integers from 0.

    Returns
    -------
    ndarray
        (sum of lengths,) int64.
    """
    ends = np.cumsum(length)
    total = int(ends[-1]) if len(ends) else 0
    found: np.ndarray = np.arange(total) + np.repeat(start - (ends - length), length)
    return found


def chunks(size: int) -> Iterator[slice]:
    """Slices that cover range(size), each small enough for the CPU cache.

    Parameters
    ----------
    size : int
        How many values there are.

    Returns
    -------
    iterator of slice
    """
    return (slice(at, min(at + STRETCH, size)) for at in range(0, size, STRETCH))
