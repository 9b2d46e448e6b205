"""Totals of the columns of a matrix of counts."""

import numpy as np

from millstone.core.base.arrays import compiled
from millstone.core.matrix.cells import AT_ONCE, SparseMatrix


def column_sums(matrix: SparseMatrix) -> np.ndarray:
    """(columns,) int64: the counts of all rows added up; `matrix` holds integers.

    Parameters
    ----------
    matrix : SparseMatrix
        (rows, columns)

    Returns
    -------
    ndarray
    """
    return matrix.column_totals.copy()


def added_times(times: np.ndarray, numbers: np.ndarray, totals: np.ndarray) -> None:
    """Add (n,) int32 times to the (numbers,) int64 totals of their numbers, (n,) int32 from 0.

    Parameters
    ----------
    times : ndarray
        (n,) int32.
    numbers : ndarray
        (n,) int32 from 0.
    totals : ndarray
        (numbers,) int64; is changed.
    """
    if compiled is not None:
        compiled.sums(np.ascontiguousarray(times), np.ascontiguousarray(numbers), totals)
    else:
        # values of one kind are added fifty times as fast
        np.add.at(totals, numbers, times.astype(totals.dtype))


def document_frequency(matrix: SparseMatrix) -> np.ndarray:
    """(columns,) int64: in how many rows each column has a cell.

    Parameters
    ----------
    matrix : SparseMatrix
        (rows, columns)

    Returns
    -------
    ndarray
    """
    found = np.zeros(matrix.shape[1], dtype=np.int64)
    for at in range(0, matrix.nnz, at_once := max(AT_ONCE, matrix.shape[1])):
        found += np.bincount(matrix.indices[at : at + at_once], minlength=matrix.shape[1])
        matrix.forget()
    return found
