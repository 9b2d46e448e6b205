"""Measures of dispersion: how unevenly terms are spread over the parts of a corpus."""

import math

import numpy as np

from millstone.core.base.arrays import unique, unique_counts
from millstone.core.matrix.cells import AT_ONCE, SparseMatrix, batches
from millstone.core.matrix.totals import column_sums, document_frequency

_HALF_LOG = math.log(2 * math.pi) / 2
_NEAR = 1e-3


def deviation_of_proportions(matrix: SparseMatrix, base: np.ndarray) -> np.ndarray:
    """How unevenly each term is spread over the parts: half the sum of |v_i - s_i|.

    Parameters
    ----------
    matrix : SparseMatrix
        (parts, terms) occurrences.
    base : ndarray
        (parts,) tokens, all above 0.

    Returns
    -------
    ndarray
        (terms,) from 0, even, to 1 - min s_i; NaN for terms that do not occur, and for a single part.

    References
    ----------
    Gries, S. Th. (2008). Dispersions and adjusted frequencies in corpora.

    Examples
    --------
    >>> matrix = SparseMatrix.of_dense(np.array([[2, 0], [2, 3]]))
    >>> deviation_of_proportions(matrix, np.array([50, 50])).tolist()
    [0.0, 0.5]
    """
    parts, terms = matrix.shape
    if parts < 2:
        return np.full(terms, np.nan)
    totals = column_sums(matrix)
    share = base / base.sum()
    summed = np.zeros(terms)
    for here, row in batches(matrix):
        column, share_here = matrix.indices[here], share[row]
        # parts without the term add s_i each: 1 in all, less the s_i of the parts that have it
        present = np.abs(matrix.data[here] / totals[column] - share_here) - share_here
        # one after the other, so that the last digit does not depend on how many there are at a time
        np.add.at(summed, column, present)
    return np.where(totals > 0, np.maximum(1 + summed, 0) / 2, np.nan)


def expected_deviation(freq: np.ndarray, base: np.ndarray) -> np.ndarray:
    """The deviation of proportions that chance gives on the average, where each occurrence falls anywhere.

    Parameters
    ----------
    freq : ndarray
        (terms,) occurrences.
    base : ndarray
        (parts,) tokens, all above 0.

    Returns
    -------
    ndarray
        (terms,) exact, ``sum of E|X_i - f s_i| / 2 f`` with X_i binomial; NaN for terms that do not occur, and for a
        single part.

    References
    ----------
    De Moivre, A. (1730). Miscellanea analytica; Diaconis, P. & Zabell, S. (1991). Closed form summation for classical
    distributions: ``E|X - f s| = 2 v (1 - s) P(X = v)``, v = floor(f s) + 1.

    Examples
    --------
    >>> expected_deviation(np.array([1, 2]), np.array([50, 50])).tolist()
    [0.5, 0.25]
    """
    found = np.full(len(freq), np.nan)
    if len(base) < 2:
        return found
    sizes, times = unique_counts(base)
    share, different = sizes / base.sum(), unique(freq[freq > 0])
    by_freq = np.empty(len(different))
    at_once = max(1, AT_ONCE // len(sizes))
    for at in range(0, len(different), at_once):
        f = different[at : at + at_once, np.newaxis].astype(float)
        v = np.floor(f * share) + 1
        by_freq[at : at + at_once] = (v * (1 - share) * _binomial(v, f, share)) @ times / f[:, 0]
    known = np.flatnonzero(freq > 0)
    found[known] = by_freq[np.searchsorted(different, freq[known])]
    return found


def _binomial(v: np.ndarray, f: np.ndarray, share: np.ndarray) -> np.ndarray:
    """P(X = v) for v near f times the share, 1 to f, to nearly all digits however large f is (Loader 2000)."""
    rest = f - v
    with np.errstate(divide="ignore", invalid="ignore"):
        log = _stirling(f) - _stirling(v) - _stirling(rest) - _away(v, f * share) - _away(rest, f * (1 - share))
        found = np.exp(log) * np.sqrt(f / (2 * np.pi * v * rest))
    values: np.ndarray = np.where(rest > 0, found, share**f)
    return values


def _stirling(x: np.ndarray) -> np.ndarray:
    """ln x! less Stirling's formula."""
    known = np.array([0.0] + [math.lgamma(n + 1) - (n + 0.5) * math.log(n) + n - _HALF_LOG for n in range(1, 16)])
    inverse = 1 / np.maximum(x, 1)
    series = inverse * (1 / 12 - inverse**2 * (1 / 360 - inverse**2 * (1 / 1260 - inverse**2 / 1680)))
    found: np.ndarray = np.where(x < len(known), known[np.minimum(x, len(known) - 1).astype(np.int64)], series)
    return found


def _away(x: np.ndarray, mean: np.ndarray) -> np.ndarray:
    """x ln(x / mean) + mean - x, also where the two are nearly equal."""
    apart = (x - mean) / mean
    near = np.abs(apart) < _NEAR
    small = np.where(near, apart, 0)
    series = small**2 * (1 / 2 - small * (1 / 6 - small * (1 / 12 - small * (1 / 20 - small / 30))))
    far = (1 + apart) * np.log(np.where(x > 0, x, 1) / mean) - apart
    return mean * np.where(near, series, np.where(x > 0, far, 1))


def evenness(dp: np.ndarray, expected: np.ndarray) -> np.ndarray:
    """How evenly terms are spread: 1 as evenly as chance spreads them, 0 all in the smallest part.

    ``1 - (dp - expected) / (1 - expected)``, cut at 0 and 1; (terms,) each.

    Parameters
    ----------
    dp : ndarray
        (terms,) deviation of proportions, 0 to 1.
    expected : ndarray
        (terms,) the deviation that chance alone leaves.

    Returns
    -------
    ndarray
        (terms,) 0 to 1.
    """
    with np.errstate(invalid="ignore", divide="ignore"):
        found: np.ndarray = np.clip(1 - (dp - expected) / (1 - expected), 0, 1)
        return found


def juilland_d(matrix: SparseMatrix, base: np.ndarray) -> np.ndarray:
    """1 - V / sqrt(k - 1), V the coefficient of variation of the rates in k parts; not below 0.

    Of (parts, terms) occurrences and the (parts,) tokens, as in `deviation_of_proportions`: (terms,) from 0, all in
    one part, to 1, even; NaN for terms that do not occur, and for a single part.

    Parameters
    ----------
    matrix : SparseMatrix
        (parts, terms) counts.
    base : ndarray
        (parts,) tokens.

    Returns
    -------
    ndarray
        (terms,) 0 to 1.

    References
    ----------
    Juilland, A., Brodin, D. & Davidovitch, C. (1971). Frequency dictionary of French words.

    Examples
    --------
    >>> matrix = SparseMatrix.of_dense(np.array([[2, 3], [2, 0]]))
    >>> juilland_d(matrix, np.array([50, 50])).tolist()
    [1.0, 0.0]
    """
    parts, terms = matrix.shape
    if parts < 2:
        return np.full(terms, np.nan)
    total, away = np.zeros(terms), np.zeros(terms)
    for here, row in batches(matrix):
        np.add.at(total, matrix.indices[here], matrix.data[here] / base[row])
    mean = total / parts
    for here, row in batches(matrix):
        column = matrix.indices[here]
        rate = matrix.data[here] / base[row]
        # parts without the term are away from the mean by all of it, which is added below
        present = (rate - mean[column]) ** 2 - mean[column] ** 2
        np.add.at(away, column, present)
    with np.errstate(invalid="ignore", divide="ignore"):
        variation = np.sqrt(np.maximum(away / parts + mean**2, 0)) / mean
    found = np.maximum(1 - variation / np.sqrt(parts - 1), 0)
    # where one part has all of them it is 0 by definition, not nearly
    found[document_frequency(matrix) == 1] = 0
    return np.where(total > 0, found, np.nan)
