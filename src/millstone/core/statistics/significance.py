"""p values, and their adjustment for the number of tests."""

import math

import numpy as np

from millstone.core.base.arrays import one_by_one


def chi2_upper_tail(statistic: np.ndarray) -> np.ndarray:
    """p of a chi-squared statistic with one degree of freedom.

    Parameters
    ----------
    statistic : ndarray
        Of any shape, 0 or more.

    Returns
    -------
    ndarray
        Of the same shape, 0 to 1.
    """
    return one_by_one(math.erfc, np.sqrt(statistic / 2))


def normal_tails(z: np.ndarray) -> np.ndarray:
    """Two-sided p of a standard normal deviate, from its absolute value.

    Parameters
    ----------
    z : ndarray
        Of any shape, 0 or more.

    Returns
    -------
    ndarray
        Of the same shape, 0 to 1.
    """
    return one_by_one(math.erfc, z / math.sqrt(2))


def adjusted(p: np.ndarray, method: str = "bh", times: np.ndarray | None = None) -> np.ndarray:
    """Adjust p values for their number.

    Parameters
    ----------
    p : ndarray
        (tests,); NaN stays NaN and does not count.
    method : {"bh", "holm", "bonferroni", "none"}
    times : ndarray, optional
        (tests,) how many tests have this p, 1 or more; by default each stands for itself.

    Returns
    -------
    ndarray
        (tests,) 0 to 1.

    References
    ----------
    Benjamini, Y. & Hochberg, Y. (1995). Controlling the false discovery rate. Holm, S. (1979). A
    simple sequentially rejective multiple test procedure.

    Examples
    --------
    >>> adjusted(np.array([0.01, 0.04, 0.03])).round(3).tolist()
    [0.03, 0.04, 0.04]
    """
    result = np.full(len(p), np.nan)
    known = np.flatnonzero(~np.isnan(p))
    order = known[np.argsort(p[known], kind="stable")]
    ordered, together = p[order], np.ones(len(order), dtype=np.int64) if times is None else times[order]
    # among equal p values, Benjamini-Hochberg uses the last position, Holm the first
    position = np.cumsum(together)
    tests = int(position[-1]) if len(position) else 0
    if method == "bh":
        scaled = np.minimum.accumulate((ordered * tests / position)[::-1])[::-1]
    elif method == "holm":
        scaled = np.maximum.accumulate(ordered * (tests - (position - together)))
    else:
        scaled = ordered * (tests if method == "bonferroni" else 1)
    result[order] = np.minimum(scaled, 1)
    return result
