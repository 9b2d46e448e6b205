"""Measures on two corpora and one term, for all terms at once.

Throughout, `a` and `b` are (terms,) occurrences in target and reference, `n1` and `n2` the
numbers of all tokens there, above 0; every result is (terms,) float, NaN where it is undefined.
"""

import numpy as np
from scipy import special

Z95 = float(special.ndtri(0.975))
"""The normal quantile of a two-sided 95 % interval, 1.959964."""


def log_likelihood(a: np.ndarray, b: np.ndarray, n1: float, n2: float) -> np.ndarray:
    """Two-cell log-likelihood ``2 (a ln(a/E1) + b ln(b/E2))``, 0 or more.

    References
    ----------
    Rayson, P. & Garside, R. (2000). Comparing corpora using frequency profiling.

    Examples
    --------
    >>> log_likelihood(np.array([12, 5]), np.array([3, 5]), 1000, 1000).round(3).tolist()
    [5.782, 0.0]

    Notes
    -----
    Computed as ``2 (E1 f(x1) + E2 f(x2))`` with ``x = (observed - E) / E`` and
    ``f(x) = (1 + x) ln(1 + x) - x``, which is the same sum without cancellation when the rates
    are nearly equal and the counts large.
    """
    a, b = np.asarray(a, dtype=float), np.asarray(b, dtype=float)
    expected1, expected2 = n1 * (a + b) / (n1 + n2), n2 * (a + b) / (n1 + n2)
    excess = (a * n2 - b * n1) / (n1 + n2)
    with np.errstate(invalid="ignore", divide="ignore"):
        both = expected1 * _convex(excess / expected1) + expected2 * _convex(-excess / expected2)
    return 2 * np.where(a + b > 0, both, np.nan)


def _convex(x: np.ndarray) -> np.ndarray:
    small = x**2 * (1 / 2 - x * (1 / 6 - x * (1 / 12 - x / 20)))
    x = np.maximum(x, -1.0)
    return np.where(np.abs(x) < 1e-4, small, special.xlog1py(1 + x, x) - x)


def chi2_upper_tail(statistic: np.ndarray) -> np.ndarray:
    """p of a chi-squared statistic with one degree of freedom."""
    return special.erfc(np.sqrt(statistic / 2))


def log_ratio(
    a: np.ndarray, b: np.ndarray, n1: float, n2: float, zeros: str = "add"
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """``log2`` of the ratio of the two rates, with the limits of its 95 % interval.

    Parameters
    ----------
    zeros : {"add", "smooth", "skip"}
        0.5 in place of a zero; 0.5 added to each count and 1 to each size; or empty.

    Returns
    -------
    log_ratio, low, high : ndarray
        (terms,) each.

    References
    ----------
    Hardie, A. (2014). Log ratio: an informal introduction. Interval: Katz, D. et al. (1978).
    Obtaining confidence intervals for the risk ratio in cohort studies.

    Examples
    --------
    >>> [limit.round(3).tolist() for limit in log_ratio(np.array([12, 4]), np.array([3, 0]), 1000, 1000)]
    [[2.0, 3.0], [0.179, -1.24], [3.821, 7.24]]
    """
    a, b, n1, n2 = _without_zeros(a, b, n1, n2, zeros)
    with np.errstate(invalid="ignore", divide="ignore"):
        centre = np.log2(a / n1) - np.log2(b / n2)
        variance = np.maximum(1 / a - 1 / n1, 0) + np.maximum(1 / b - 1 / n2, 0)
        half = Z95 * np.sqrt(variance) / np.log(2)
    return centre, centre - half, centre + half


def _without_zeros(
    a: np.ndarray, b: np.ndarray, n1: float, n2: float, zeros: str
) -> tuple[np.ndarray, np.ndarray, float, float]:
    a, b = np.asarray(a, dtype=float), np.asarray(b, dtype=float)
    if zeros == "smooth":
        return a + 0.5, b + 0.5, n1 + 1, n2 + 1
    if zeros == "skip":
        either = (a == 0) | (b == 0)
        return np.where(either, np.nan, a), np.where(either, np.nan, b), n1, n2
    return np.where(a == 0, 0.5, a), np.where(b == 0, 0.5, b), n1, n2


def adjusted(p: np.ndarray, method: str = "bh") -> np.ndarray:
    """Adjust p values for their number.

    Parameters
    ----------
    p : ndarray
        (tests,); NaN stays NaN and does not count.
    method : {"bh", "holm", "bonferroni", "none"}

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
    tests = len(order)
    ordered, position = p[order], np.arange(1, tests + 1)
    if method == "bh":
        scaled = np.minimum.accumulate((ordered * tests / position)[::-1])[::-1]
    elif method == "holm":
        scaled = np.maximum.accumulate(ordered * (tests + 1 - position))
    else:
        scaled = ordered * (tests if method == "bonferroni" else 1)
    result[order] = np.minimum(scaled, 1)
    return result


def ranking(score: np.ndarray, then: np.ndarray) -> np.ndarray:
    """Row order by descending `score`; values equal to 1e-9 are ties and go by descending `then`.

    What is still equal keeps its place; NaN comes last. Both are (rows,).
    """
    first = np.argsort(-np.nan_to_num(score, nan=-np.inf), kind="stable")
    ordered = np.nan_to_num(score[first], nan=-np.inf)
    with np.errstate(invalid="ignore"):
        drop = ordered[:-1] - ordered[1:]
        is_new = drop > 1e-9 * np.maximum(1, np.abs(ordered[:-1]))
    level = np.empty(len(score), dtype=np.int64)
    level[first] = np.concatenate(([0], np.cumsum(is_new)))[: len(score)]
    return np.lexsort((np.arange(len(score)), -then, level))
