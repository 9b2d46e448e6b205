"""Measures of dispersion: how unevenly terms are spread over the parts of a corpus."""

import numpy as np

from millstone.core.matrix.cells import SparseMatrix, batches, column_sums, filled_rows


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


def juilland_d(matrix: SparseMatrix, base: np.ndarray) -> np.ndarray:
    """1 - V / sqrt(k - 1), V the coefficient of variation of the rates in k parts; not below 0.

    Of (parts, terms) occurrences and the (parts,) tokens, as in `deviation_of_proportions`: (terms,) from 0, all in
    one part, to 1, even; NaN for terms that do not occur, and for a single part.

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
    found[filled_rows(matrix) == 1] = 0
    return np.where(total > 0, found, np.nan)
