"""Statistics of the 2 x 2 table of a term in two corpora, for all terms at once.

Throughout, `a` and `b` are (terms,) occurrences in target and reference, `n1` and `n2` the
numbers of all tokens there, above 0; every result is (terms,) float, NaN where it is undefined.
"""

import math

import numpy as np

from millstone.core.base.arrays import one_by_one

Z95 = 1.959963984540054
"""The normal quantile of a two-sided 95 % interval, 1.959964."""
Z90 = 1.6448536269514722
"""The quantile of a 90 % interval, 1.644854."""


# a statistic so large that p is 0 as a floating-point number; how far logarithms of equal likelihoods may differ
_CERTAIN, _EQUALLY_LIKELY = 1490.0, 1e-9
# tables whose log probability is this much lower cannot change the sum
_NEGLIGIBLE = 60.0


def log_likelihood(a: np.ndarray, b: np.ndarray, n1: float, n2: float) -> np.ndarray:
    """Two-cell log-likelihood ``2 (a ln(a/E1) + b ln(b/E2))``, 0 or more.

    Parameters
    ----------
    a : ndarray
        (terms,) occurrences in the target.
    b : ndarray
        (terms,) occurrences in the reference.
    n1 : float
        Tokens of the target, above 0.
    n2 : float
        Tokens of the reference, above 0.

    Returns
    -------
    ndarray
        (terms,) float.

    Notes
    -----
    Computed as ``2 (E1 f(x1) + E2 f(x2))`` with ``x = (observed - E) / E`` and
    ``f(x) = (1 + x) ln(1 + x) - x``, which is the same sum without cancellation when the rates
    are nearly equal and the counts large.

    References
    ----------
    Rayson, P. & Garside, R. (2000). Comparing corpora using frequency profiling.

    Examples
    --------
    >>> log_likelihood(np.array([12, 5]), np.array([3, 5]), 1000, 1000).round(3).tolist()
    [5.782, 0.0]
    """
    a, b = np.asarray(a, dtype=float), np.asarray(b, dtype=float)
    expected1, expected2 = n1 * (a + b) / (n1 + n2), n2 * (a + b) / (n1 + n2)
    excess = (a * n2 - b * n1) / (n1 + n2)
    with np.errstate(invalid="ignore", divide="ignore"):
        both = expected1 * convex(excess / expected1) + expected2 * convex(-excess / expected2)
    return 2 * np.where(a + b > 0, both, np.nan)


def four_cell_log_likelihood(a: np.ndarray, b: np.ndarray, n1: float, n2: float) -> np.ndarray:
    """Log-likelihood of the whole 2 x 2 table: a, b, N1 - a and N2 - b; 0 or more.

    Parameters
    ----------
    a : ndarray
        (terms,) occurrences in the target.
    b : ndarray
        (terms,) occurrences in the reference.
    n1 : float
        Tokens of the target, above 0.
    n2 : float
        Tokens of the reference, above 0.

    Returns
    -------
    ndarray
        (terms,) float.

    References
    ----------
    Dunning, T. (1993). Accurate methods for the statistics of surprise and coincidence.

    Examples
    --------
    >>> four_cell_log_likelihood(np.array([12, 5]), np.array([3, 5]), 1000, 1000).round(3).tolist()
    [5.823, 0.0]
    """
    expected, excess = _four_cells(a, b, n1, n2)
    with np.errstate(invalid="ignore", divide="ignore"):
        cells = [
            np.where(cell > 0, cell * convex(sign * excess / cell), 0)
            for cell, sign in zip(expected, (1, -1, -1, 1), strict=True)
        ]
    return 2 * np.where(np.asarray(a) + b > 0, sum(cells), np.nan)


def pearson_chi2(a: np.ndarray, b: np.ndarray, n1: float, n2: float) -> np.ndarray:
    """Pearson's chi-squared of the 2 x 2 table, without continuity correction; NaN where a margin is 0.

    Parameters
    ----------
    a : ndarray
        (terms,) occurrences in the target.
    b : ndarray
        (terms,) occurrences in the reference.
    n1 : float
        Tokens of the target, above 0.
    n2 : float
        Tokens of the reference, above 0.

    Returns
    -------
    ndarray
        (terms,) float.

    Examples
    --------
    >>> pearson_chi2(np.array([12, 5]), np.array([3, 5]), 1000, 1000).round(3).tolist()
    [5.441, 0.0]
    """
    expected, excess = _four_cells(a, b, n1, n2)
    with np.errstate(invalid="ignore", divide="ignore"):
        found = excess**2 * sum(1 / cell for cell in expected)
    return np.where(np.minimum.reduce(expected) > 0, found, np.nan)


def _four_cells(a: np.ndarray, b: np.ndarray, n1: float, n2: float) -> tuple[list[np.ndarray], np.ndarray]:
    """Expected counts of the four cells, and the excess of a over its expectation."""
    a, b = np.asarray(a, dtype=float), np.asarray(b, dtype=float)
    size = n1 + n2
    rest = size - a - b
    expected = [n1 * (a + b) / size, n2 * (a + b) / size, n1 * rest / size, n2 * rest / size]
    return expected, (a * n2 - b * n1) / size


def fisher_p(a: np.ndarray, b: np.ndarray, n1: int, n2: int) -> np.ndarray:
    """p of Fisher's exact test, two-sided: the sum over all tables no more probable than the observed one.

    Parameters
    ----------
    a : ndarray
        (terms,) occurrences in the target.
    b : ndarray
        (terms,) occurrences in the reference.
    n1 : int
        Tokens of the target, above 0.
    n2 : int
        Tokens of the reference, above 0.

    Returns
    -------
    ndarray
        (terms,) with a relative error below 1e-10, held against exact rational arithmetic down to 1e-300; 0 below
        what a floating-point number can hold.

    References
    ----------
    Fisher, R. A. (1934). Statistical methods for research workers, 5th ed.

    Examples
    --------
    >>> fisher_p(np.array([12, 5]), np.array([3, 5]), 1000, 1000).round(4).tolist()
    [0.0345, 1.0]
    """
    pairs = np.stack((np.asarray(a), np.asarray(b)), axis=1).astype(np.int64)
    different, which = np.unique(pairs, axis=0, return_inverse=True)
    certain = four_cell_log_likelihood(different[:, 0], different[:, 1], n1, n2) > _CERTAIN
    found = [
        0.0 if sure else _fisher(x, y, int(n1), int(n2))
        for (x, y), sure in zip(different.tolist(), certain.tolist(), strict=True)
    ]
    return np.array(found, dtype=float)[which.ravel()]


def _fisher(a: int, b: int, n1: int, n2: int) -> float:
    """p of one table: each likelihood as a multiple of its neighbour's, outwards from the likeliest table."""
    both = a + b
    likeliest = (both + 1) * (n1 + 1) // (n1 + n2 + 2)
    least, most = max(0, both - n2), min(both, n1)
    enough = _log_likelihood(a, both, n1, n2) - _NEGLIGIBLE
    start = _reach(likeliest, least, enough, both, n1, n2)
    end = _reach(likeliest, most, enough, both, n1, n2)
    x = np.arange(start, end, dtype=float)
    # from each table to the next one
    steps = np.log((both - x) * (n1 - x) / ((x + 1) * (n2 - both + x + 1)))
    up = np.cumsum(steps[likeliest - start :])
    down = -np.cumsum(steps[: likeliest - start][::-1])
    logs = np.concatenate((down[::-1], [0.0], up))
    likelihood = np.exp(logs)
    no_likelier = logs <= logs[a - start] + _EQUALLY_LIKELY
    return min(1.0, float(likelihood[no_likelier].sum() / likelihood.sum()))


def _log_likelihood(x: int, both: int, n1: int, n2: int) -> float:
    """The logarithm of a table's likelihood, but for a constant."""
    return -sum(map(math.lgamma, (x + 1, both - x + 1, n1 - x + 1, n2 - both + x + 1)))


def _reach(likeliest: int, limit: int, enough: float, both: int, n1: int, n2: int) -> int:
    """The table between the likeliest one and the last one on a side beyond which none matters to the sum."""
    near, far = likeliest, limit
    while abs(far - near) > 1:
        middle = (near + far) // 2
        if _log_likelihood(middle, both, n1, n2) > enough:
            near = middle
        else:
            far = middle
    return far


def bayes_information(statistic: np.ndarray, n1: float, n2: float) -> np.ndarray:
    """``statistic - ln(N)``: above 2 positive, 6 strong, 10 very strong evidence; below 0 for no difference.

    Parameters
    ----------
    statistic : ndarray
        (terms,) a log-likelihood.
    n1 : float
        Tokens of the target, above 0.
    n2 : float
        Tokens of the reference, above 0.

    Returns
    -------
    ndarray
        (terms,) float.

    References
    ----------
    Wilson, A. (2013). Embracing Bayes factors for key item analysis in corpus linguistics.

    Examples
    --------
    >>> bayes_information(np.array([10.0]), 600, 400).round(3).tolist()
    [3.092]
    """
    found: np.ndarray = statistic - np.log(n1 + n2)
    return found


def largest_log_likelihood(a: np.ndarray, b: np.ndarray, n1: float, n2: float) -> np.ndarray:
    """``-2 (a + b) ln(min(N1, N2) / N)``: the largest ll a term could have; ll by it is 0 to 1.

    Parameters
    ----------
    a : ndarray
        (terms,) occurrences in the target.
    b : ndarray
        (terms,) occurrences in the reference.
    n1 : float
        Tokens of the target, above 0.
    n2 : float
        Tokens of the reference, above 0.

    Returns
    -------
    ndarray
        (terms,) float.

    References
    ----------
    Johnston, J. E., Berry, K. J. & Mielke, P. W. (2006). Measures of effect size for chi-squared and
    likelihood-ratio goodness-of-fit tests.

    Examples
    --------
    >>> largest_log_likelihood(np.array([12, 5]), np.array([0, 5]), 1000, 1000).round(3).tolist()
    [16.636, 13.863]
    """
    found: np.ndarray = -2 * (np.asarray(a, dtype=float) + b) * np.log(min(n1, n2) / (n1 + n2))
    return found


def convex(x: np.ndarray) -> np.ndarray:
    """``(1 + x) ln(1 + x) - x``, also where x is so small that the difference would lose its digits; x from -1.

    Parameters
    ----------
    x : ndarray
        (values,) from -1.

    Returns
    -------
    ndarray
        (values,) 0 or more.
    """
    x = np.maximum(x, -1.0)
    found = np.where(x > -1, (1 + x) * one_by_one(math.log1p, np.where(x > -1, x, 0)), 0) - x
    near = np.flatnonzero(np.abs(x) < 1e-4)
    # there the difference above loses its digits
    small = x[near]
    found[near] = small**2 * (1 / 2 - small * (1 / 6 - small * (1 / 12 - small / 20)))
    values: np.ndarray = found
    return values
