"""The documents x terms table as a result."""

from collections.abc import Iterator
from dataclasses import field
from itertools import count

import numpy as np

from millstone.core.base.light_dataclass import frozen
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.tables.result import Result
from millstone.core.tables.table import ColumnCells, Table

BATCH_CELLS = 1 << 22
_SHOWN = 20


@frozen
class DocumentTerms:
    """A table with one row per document or group, or one row per term.

    Attributes
    ----------
    rows : Table
        What is known of each row: ``document, group`` and metadata, or ``group``, or ``term``.
    names : ndarray of str
        (columns,) the terms, documents or groups.
    values : SparseMatrix
        (rows, columns) counts or weights, zeros left out.
    """

    rows: Table
    names: np.ndarray
    values: SparseMatrix

    @property
    def filled(self) -> float:
        """The share of cells that are not 0, 0 to 1."""
        return self.values.nnz / max(self.values.shape[0] * self.values.shape[1], 1)

    def preview(self) -> Table:
        """The first rows, with the columns that have most of what is counted, in the order of the table."""
        values = self.values
        total = np.bincount(values.indices, weights=values.data, minlength=len(self.names))
        first = np.argsort(-total, kind="stable")[:_SHOWN]
        first = np.sort(first)
        dense = values.rows(slice(_SHOWN)).columns(first).toarray()
        shown = self.rows.first(_SHOWN)
        for name, cells in zip(self.names[first].tolist(), dense.T, strict=True):
            # two documents may have the same name
            number = next(number for number in count(1) if _numbered(name, number) not in shown)
            shown = shown.with_columns({_numbered(name, number): cells})
        return shown

    def batches(self) -> Iterator[list[ColumnCells]]:
        """All columns of the table, in parts of some rows; at least one part."""
        size = max(BATCH_CELLS // max(len(self.names), 1), 1)
        for start in range(0, max(len(self.rows), 1), size):
            here = slice(start, start + size)
            yield [*(cells for _, cells in self.rows.at(here).items()), *self.values.rows(here).toarray().T]

    @property
    def columns(self) -> list[str]:
        """The names of all columns, of which two may be the same."""
        return [*self.rows.names, *self.names.tolist()]


def _numbered(name: str, number: int) -> str:
    return name if number == 1 else f"{name} ({number})"


@frozen
class MatrixResult(Result):
    """A result whose table is a matrix; `table` holds only as much of it as a screen can show."""

    matrix: DocumentTerms = field(kw_only=True)
