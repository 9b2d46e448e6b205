"""Large matrices of which most cells are 0: what counting needs of them, by array operations alone."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING, Any, NamedTuple

import numpy as np

from millstone.core.base.arrays import begins, compiled, concat_ranges
from millstone.core.base.errors import DataError
from millstone.core.matrix.on_disk import forget, growing_like, joined, lies_on_disk

if TYPE_CHECKING:
    from scipy import sparse

AT_ONCE = 1 << 20
_BITS = 62
_DENSE = 4
"""An array with all places of some rows may be so many times as long as their cells."""


@dataclass(frozen=True, eq=False)
class SparseMatrix:
    """The cells of a matrix that are not 0, row by row; what is made of a matrix on disk is on disk, too.

    Attributes
    ----------
    data : ndarray
        (cells,) the values, integers or floats.
    indices : ndarray
        (cells,) integers: the column of each cell, rising within a row.
    indptr : ndarray
        (rows + 1,) integers: where the cells of each row start, and the end of the last.
    shape : tuple of int
        Rows and columns.
    """

    data: np.ndarray
    indices: np.ndarray
    indptr: np.ndarray
    shape: tuple[int, int]

    @classmethod
    def of_cells(
        cls, values: np.ndarray, rows: np.ndarray, columns: np.ndarray, shape: tuple[int, int]
    ) -> "SparseMatrix":
        """The matrix that has these cells, (cells,) each, in any order; those of one place are added up."""
        order = np.argsort(rows, kind="stable") if np.any(rows[1:] < rows[:-1]) else slice(None)
        ends = np.concatenate(([0], np.cumsum(np.bincount(rows, minlength=shape[0]))))
        found = cls(values[order], columns[order].astype(np.int32), ends, shape)
        return remap_columns(found, np.arange(shape[1], dtype=np.int32), shape[1])

    @classmethod
    def of_dense(cls, values: np.ndarray) -> "SparseMatrix":
        """Build it from a (rows, columns) array."""
        rows, columns = np.nonzero(values)
        ends = np.concatenate(([0], np.cumsum(np.bincount(rows, minlength=values.shape[0]))))
        return cls(values[rows, columns], columns.astype(np.int32), ends, (values.shape[0], values.shape[1]))

    @property
    def nnz(self) -> int:
        """How many cells are not 0."""
        return len(self.data)

    @property
    def row_of_cells(self) -> np.ndarray:
        """(cells,) int64 the row of each cell."""
        return np.repeat(np.arange(self.shape[0]), np.diff(self.indptr))

    @property
    def on_disk(self) -> bool:
        """Whether the cells are in files."""
        return lies_on_disk(self.data) or lies_on_disk(self.indices)

    def forget(self) -> None:
        """Give back the memory of cells that were read from files."""
        forget(self.data, self.indices)

    @cached_property
    def column_totals(self) -> np.ndarray:
        """(columns,) int64: the counts of all rows added up; not to be changed."""
        columns = self.shape[1]
        total = np.zeros(columns, dtype=np.int64)
        is_plain = self.data.dtype == self.indices.dtype == np.int32
        at_once = max(AT_ONCE, columns)
        for at in range(0, self.nnz, at_once):
            here = slice(at, at + at_once)
            if compiled is not None and is_plain:
                data, indices = (np.ascontiguousarray(one[here]) for one in (self.data, self.indices))
                compiled.sums(data, indices, total)
            else:
                # counts are far below 2^53, up to which these sums are exact
                sums = np.bincount(self.indices[here], weights=self.data[here], minlength=columns)
                total += sums.astype(np.int64)
            self.forget()
        return total

    def with_data(self, data: np.ndarray) -> "SparseMatrix":
        """Replace the values, (cells,)."""
        return SparseMatrix(data, self.indices, self.indptr, self.shape)

    def rows(self, which: np.ndarray | Sequence[int] | slice) -> "SparseMatrix":
        """Some rows: a slice, the numbers of rows, or (rows,) bool."""
        numbers = np.arange(self.shape[0])[which]
        lengths = np.diff(self.indptr)[numbers]
        ends = np.concatenate(([0], np.cumsum(lengths)))
        shape = (len(numbers), self.shape[1])
        if len(numbers) and np.array_equal(numbers, np.arange(numbers[0], numbers[0] + len(numbers))):
            cells = slice(int(self.indptr[numbers[0]]), int(self.indptr[numbers[-1] + 1]))
            return SparseMatrix(self.data[cells], self.indices[cells], ends, shape)
        data, indices = (growing_like(one, dtype=one.dtype) for one in (self.data, self.indices))
        for some in row_batches(ends) if self.on_disk else [slice(0, len(numbers))]:
            places = concat_ranges(self.indptr[numbers[some]], lengths[some])
            data.add(self.data[places])
            indices.add(self.indices[places])
            self.forget()
        return SparseMatrix(data.array(), indices.array(), ends, shape)

    def columns(self, which: np.ndarray) -> "SparseMatrix":
        """Some columns by their numbers, each once; in the order in which they are named."""
        column_of = np.full(self.shape[1], -1, dtype=np.int32)
        column_of[which] = np.arange(len(which), dtype=np.int32)
        return remap_columns(self, column_of, len(which))

    @classmethod
    def stacked(cls, parts: Sequence["SparseMatrix"]) -> "SparseMatrix":
        """Matrices of the same columns one below the other."""
        data = joined([one.data for one in parts], np.result_type(*(one.data for one in parts)))
        indices = joined([one.indices for one in parts], np.result_type(*(one.indices for one in parts)))
        lengths = np.concatenate([np.diff(one.indptr) for one in parts])
        return cls(data, indices, np.concatenate(([0], np.cumsum(lengths))), (len(lengths), parts[0].shape[1]))

    def transposed(self) -> "SparseMatrix":
        """(columns, rows)."""
        # equal ones keep their order, so that the rows rise within each column
        order = np.argsort(self.indices, kind="stable")
        ends = np.concatenate(([0], np.cumsum(np.bincount(self.indices, minlength=self.shape[1]))))
        rows = self.row_of_cells[order].astype(np.int32)
        return SparseMatrix(self.data[order], rows, ends, (self.shape[1], self.shape[0]))

    def row_sums(self) -> np.ndarray:
        """(rows,) int64: the whole numbers of each row added up."""
        found = np.zeros(self.shape[0], dtype=np.int64)
        for some in row_batches(self.indptr):
            filled = some.start + np.flatnonzero(np.diff(self.indptr[some.start : some.stop + 1]))
            if len(filled):
                first, last = self.indptr[some.start], self.indptr[some.stop]
                found[filled] = np.add.reduceat(self.data[first:last], self.indptr[filled] - first, dtype=np.int64)
            self.forget()
        return found

    def __matmul__(self, values: np.ndarray) -> np.ndarray:
        """The product with a (columns,) or a (columns, several) array; integers give int64, else float."""
        values = np.asarray(values)
        if values.ndim == 2:
            return np.stack([self @ one for one in values.T], axis=1) if values.shape[1] else self._zeros(values)
        whole = values.dtype.kind in "biu" and self.data.dtype.kind in "biu"
        found = np.zeros(self.shape[0], dtype=np.int64 if whole else float)
        for here, row in batches(self):
            first = int(row[0]) if len(row) else 0
            # one after the other, so that the sum does not depend on how many there are; whole ones are below 2^53
            sums = np.bincount(row - first, weights=self.data[here] * values[self.indices[here]])
            found[first : first + len(sums)] = sums
        return found

    def _zeros(self, values: np.ndarray) -> np.ndarray:
        return np.zeros((self.shape[0], values.shape[1]), dtype=np.result_type(self.data, values))

    def product(self, other: "SparseMatrix") -> np.ndarray:
        """(rows, columns of the other) float: the product with a matrix that has few columns."""
        found = np.zeros(self.shape[0] * other.shape[1])
        for here, row in batches(self):
            first = other.indptr[self.indices[here]]
            number = other.indptr[self.indices[here] + 1] - first
            which = concat_ranges(first, number)
            places = np.repeat(row, number) * other.shape[1] + other.indices[which]
            found += np.bincount(places, np.repeat(self.data[here], number) * other.data[which], len(found))
        return found.reshape(self.shape[0], other.shape[1])

    def toarray(self) -> np.ndarray:
        """(rows, columns) with all the zeros."""
        found = np.zeros(self.shape, dtype=self.data.dtype)
        np.add.at(found, (self.row_of_cells, self.indices), self.data)
        return found

    def to_sparse(self) -> "sparse.csr_array":
        """The matrix of SciPy, for what takes products."""
        from scipy import sparse

        return sparse.csr_array((self.data, self.indices, self.indptr), shape=self.shape)


def remap_columns(matrix: SparseMatrix, column_of: np.ndarray, columns: int) -> SparseMatrix:
    """The values of a matrix under other columns; where several become one they are added up.

    Parameters
    ----------
    matrix : SparseMatrix
        (rows, old columns); a column may stand in a row several times, and in any order.
    column_of : ndarray
        (old columns,) int32 below `columns`; those below 0 are left out.
    columns : int

    Returns
    -------
    SparseMatrix
        (rows, `columns`); the cells of a row rise by column.
    """

    if compiled is not None and matrix.data.dtype == matrix.indices.dtype == column_of.dtype == np.int32:
        return _moved(matrix, column_of, columns)

    def move(indices: np.ndarray, values: np.ndarray, row: np.ndarray) -> "MatrixCells":
        moved = column_of.take(indices)
        if not len(moved) or moved.min() >= 0:
            return MatrixCells(values, moved, row)
        wanted = moved >= 0
        return MatrixCells(values[wanted], moved[wanted], row[wanted])

    return map_cells(matrix, move, columns)


def _moved(matrix: SparseMatrix, column_of: np.ndarray, columns: int) -> SparseMatrix:
    """Remap columns with the C extension."""
    assert compiled is not None
    shape = (matrix.shape[0], columns)
    column_of = np.ascontiguousarray(column_of)
    if not matrix.on_disk:
        values, indices, ends = _moved_rows(matrix, column_of, slice(0, matrix.shape[0]))
        return SparseMatrix(values, indices, ends.astype(matrix.indptr.dtype), shape)
    data, places = (growing_like(matrix.data, matrix.indices, dtype=np.int32) for _ in range(2))
    lengths = [np.zeros(1, dtype=np.int64)]
    for some in row_batches(matrix.indptr):
        values, indices, ends = _moved_rows(matrix, column_of, some)
        data.add(values)
        places.add(indices)
        lengths.append(np.diff(ends))
        matrix.forget()
    return SparseMatrix(data.array(), places.array(), np.cumsum(np.concatenate(lengths)), shape)


def _moved_rows(
    matrix: SparseMatrix, column_of: np.ndarray, some: slice
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """The cells of some rows under other columns: values, columns, and where each row ends, from 0."""
    assert compiled is not None
    ends = np.ascontiguousarray(matrix.indptr[some.start : some.stop + 1], dtype=np.int64)
    here = slice(int(ends[0]), int(ends[-1]))
    ends = ends - here.start
    size = int(ends[-1])
    values, indices, new_ends = np.empty(size, dtype=np.int32), np.empty(size, dtype=np.int32), np.empty_like(ends)
    data, old = (np.ascontiguousarray(one[here]) for one in (matrix.data, matrix.indices))
    try:
        compiled.moved(data, old, ends, column_of, values, indices, new_ends)
    except OverflowError as error:
        raise _too_many() from error
    kept = int(new_ends[-1])
    return (values, indices, new_ends) if kept == size else (values[:kept].copy(), indices[:kept].copy(), new_ends)


def map_cells(
    matrix: SparseMatrix, move: Callable[[np.ndarray, np.ndarray, np.ndarray], "MatrixCells"], columns: int
) -> SparseMatrix:
    """The matrix with other cells: `move` gives those that some cells become, from their columns, values and rows.

    Parameters
    ----------
    matrix : SparseMatrix
        (rows, columns)
    move : Callable[[ndarray, ndarray, ndarray], 'MatrixCells']
        Gives the cells that some become.
    columns : int
        How many the new matrix has.

    Returns
    -------
    SparseMatrix
        (rows, `columns`)
    """
    kind = matrix.data.dtype
    data, indices = (growing_like(matrix.data, matrix.indices, dtype=one) for one in (kind, np.int32))
    ends = np.zeros(matrix.shape[0] + 1, dtype=matrix.indptr.dtype)
    for here, row in batches(matrix):
        some = _tidy(move(matrix.indices[here], matrix.data[here], row), columns)
        if len(some.rows):
            data.add(some.data)
            indices.add(some.indices)
            first = int(some.rows[0])
            number = np.bincount(some.rows - first)
            ends[first + 1 : first + 1 + len(number)] = number
    np.cumsum(ends, out=ends)
    return SparseMatrix(data.array(), indices.array(), ends, (matrix.shape[0], columns))


class MatrixCells(NamedTuple):
    """Some cells: their values, columns and rows, of which the last rise."""

    data: np.ndarray
    indices: np.ndarray
    rows: np.ndarray


def _tidy(cells: MatrixCells, columns: int) -> MatrixCells:
    """Sort the cells, with those of one place added up."""
    values, moved, row = cells
    if not len(row):
        return MatrixCells(values, moved.astype(np.int32), row)
    first, shift = int(row[0]), max(columns - 1, 1).bit_length()
    # a place in one number; shifting takes a tenth of the time of dividing
    places = (row - first) << shift | moved
    if not (places[1:] > places[:-1]).all():
        places, values = _added(places, values, (int(row[-1]) - first + 1) << shift)
        row, moved = (places >> shift) + first, places & ((1 << shift) - 1)
    return MatrixCells(values, moved.astype(np.int32, copy=False), row)


def _added(places: np.ndarray, values: np.ndarray, size: int) -> tuple[np.ndarray, np.ndarray]:
    """Unique integers below `size`, ascending, with the sum of their values; zero sums are dropped."""
    whole = values.dtype.kind in "iu"
    if whole and size <= _DENSE * len(places):
        # counts are far below 2^53, up to which these sums are exact
        sums = np.bincount(places, weights=values, minlength=size)
        found = np.flatnonzero(sums)
        return found, _narrowed(sums[found], values.dtype)
    bits = int(values.max()).bit_length() if whole and values.min() >= 0 else _BITS
    if bits + size.bit_length() <= _BITS:
        # to sort numbers alone takes a tenth of the time that their order takes
        together = np.sort(places << bits | values.astype(np.int64))
        places, values = together >> bits, (together & ((1 << bits) - 1)).astype(values.dtype)
    else:
        order = np.argsort(places, kind="stable")
        places, values = places[order], values[order]
    first = begins(places)
    if not first.all():
        if whole:
            values = _narrowed(np.add.reduceat(values, np.flatnonzero(first), dtype=np.int64), values.dtype)
        else:
            # one after the other, so that the sum does not depend on how many there are
            values = np.bincount(np.cumsum(first) - 1, weights=values)
        places = places[first]
    filled = values != 0
    return (places, values) if filled.all() else (places[filled], values[filled])


def _narrowed(sums: np.ndarray, kind: np.dtype[Any]) -> np.ndarray:
    """Sums in as many bits as the values had."""
    if len(sums) and sums.max() > np.iinfo(kind).max:
        raise _too_many()
    return sums.astype(kind, copy=False)


def _too_many() -> DataError:
    return DataError(
        f"a term occurs more than {np.iinfo(np.int32).max:,} times in one document", "cut the documents with --unit"
    )


def batches(matrix: SparseMatrix) -> Iterator[tuple[slice, np.ndarray]]:
    """Some rows at a time: which cells of a matrix they have, and (cells,) int64 the row of each.

    Parameters
    ----------
    matrix : SparseMatrix
        (rows, columns)

    Yields
    ------
    tuple[slice, ndarray]
    """
    for some in row_batches(matrix.indptr):
        start, end = some.start, some.stop
        here = slice(int(matrix.indptr[start]), int(matrix.indptr[end]))
        yield here, np.repeat(np.arange(start, end), np.diff(matrix.indptr[start : end + 1]))
        matrix.forget()


def row_batches(indptr: np.ndarray) -> Iterator[slice]:
    """Rows that have about a million cells together, at least one at a time.

    Parameters
    ----------
    indptr : ndarray
        (rows + 1,) where the cells of each row begin.

    Yields
    ------
    slice
    """
    start, rows = 0, len(indptr) - 1
    while start < rows:
        most = int(indptr[start]) + AT_ONCE
        end = max(int(np.searchsorted(indptr, most, side="right")) - 1, start + 1)
        yield slice(start, end)
        start = end
