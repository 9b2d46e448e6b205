"""Ranks and the order of rows."""

import numpy as np

from millstone.core.base.arrays import begins, stable_order, unique_counts, unique_inverse


def competition_ranks(freq: np.ndarray, among: np.ndarray) -> np.ndarray:
    """Ranks 1, 2, 2, 4 by descending frequency; `freq` is (ranked,) and `among` (terms,), both int64.

    Parameters
    ----------
    freq : ndarray
        (ranked,) int64.
    among : ndarray
        (terms,) int64, the frequencies that are ranked.

    Returns
    -------
    ndarray
        (ranked,) int64 from 1.
    """
    values, times = unique_counts(among)
    above = len(among) - np.cumsum(times)
    return above[np.searchsorted(values, freq)] + 1


def dense_ranks(score: np.ndarray, then: np.ndarray) -> np.ndarray:
    """Ranks from 0 by descending `score`; values equal to 1e-9 are ties and go by descending `then`.

    What is equal in both has the same rank; NaN comes last. All are (rows,).

    Parameters
    ----------
    score : ndarray
        (rows,) float.
    then : ndarray
        (rows,) what decides between ties.

    Returns
    -------
    ndarray
        (rows,) int64 from 0.
    """
    first = np.argsort(-np.nan_to_num(score, nan=-np.inf), kind="stable")
    ordered = np.nan_to_num(score[first], nan=-np.inf)
    with np.errstate(invalid="ignore"):
        drop = ordered[:-1] - ordered[1:]
        is_new = drop > 1e-9 * np.maximum(1, np.abs(ordered[:-1]))
    level = np.empty(len(score), dtype=np.int64)
    level[first] = np.concatenate(([0], np.cumsum(is_new)))[: len(score)]
    order = np.lexsort((-then, level))
    found = np.empty(len(score), dtype=np.int64)
    found[order] = np.cumsum(begins(level[order]) | begins(then[order])) - 1
    return found


def ranking(score: np.ndarray, then: np.ndarray) -> np.ndarray:
    """Row order by descending `score`, ties as `dense_ranks` has them; what is equal keeps its order.

    Parameters
    ----------
    score : ndarray
        (rows,) float.
    then : ndarray
        (rows,) what decides between ties.

    Returns
    -------
    ndarray
        (rows,) int64.
    """
    return stable_order(dense_ranks(score, then))


def average_ranks(values: np.ndarray) -> np.ndarray:
    """Ranks from 1, the smallest first; equal values have the mean of their ranks.

    Parameters
    ----------
    values : ndarray
        (values,).

    Returns
    -------
    ndarray
        (values,) float.

    Examples
    --------
    >>> average_ranks(np.array([3, 1, 3])).tolist()
    [2.5, 1.0, 2.5]
    """
    different, number = unique_inverse(values)
    times = np.bincount(number, minlength=len(different))
    found: np.ndarray = (np.cumsum(times) - (times - 1) / 2)[number]
    return found
