"""The documents x terms table, for other programs."""

from collections.abc import Iterator
from dataclasses import field
from itertools import count

import numpy as np

from millstone.core.columns import renamed
from millstone.core.frozen import frozen
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.result import Result
from millstone.core.settings.analyses import MatrixSettings
from millstone.core.table import ColumnCells, Table
from millstone.core.terms.counts import Counts, Part

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


def document_terms(counts: Counts, settings: MatrixSettings | None = None) -> DocumentTerms:
    """The counts of terms as a table.

    Parameters
    ----------
    counts : Counts
    settings : MatrixSettings, optional
        ``min_freq``, ``max_freq`` and ``min_docs`` choose terms by the whole corpus; ``weight`` is count,
        relative (count by the tokens of the row), binary, or tfidf: count x ln(D / docs), D the documents
        of the corpus and docs those with the term (Sparck Jones 1972).

    Returns
    -------
    DocumentTerms
        Metadata with the name of a column are renamed to ``NAME_given``.
    """
    settings = settings or MatrixSettings()
    whole = counts.part(counts.groups)
    terms = np.flatnonzero(_wanted(whole, settings))
    names = np.asarray(counts.terms[terms], dtype=object)
    matrix, base = counts.matrix.columns(terms), counts.base
    rows = counts.documents.renamed(renamed(counts.documents.names, set(names.tolist())))
    if settings.by == "group":
        parts = [counts.part((group,)) for group in counts.groups]
        matrix = SparseMatrix.of_dense(np.array([part.freq[terms] for part in parts]).reshape(len(parts), len(terms)))
        base = np.array([part.tokens for part in parts], dtype=np.int64)
        rows = Table({"group": counts.groups})
    values = _weighted(matrix, base, settings.weight, len(counts.documents) / whole.docs[terms])
    if not settings.transpose:
        return DocumentTerms(rows, names, values)
    # a term may have the name of a column
    across = np.array(counts.groups if settings.by == "group" else counts.documents["document"], dtype=object)
    return DocumentTerms(Table({"term": names}), across, values.transposed())


def _wanted(whole: Part, settings: MatrixSettings) -> np.ndarray:
    wanted = (whole.freq >= settings.min_freq) & (whole.docs >= settings.min_docs)
    return wanted & (whole.freq <= settings.max_freq) if settings.max_freq else wanted


def _weighted(matrix: SparseMatrix, base: np.ndarray, weight: str, rarity: np.ndarray) -> SparseMatrix:
    if weight == "count":
        return matrix
    data = {
        "relative": lambda: matrix.data / base[matrix.row_of_cells],
        "binary": lambda: np.ones(len(matrix.data), dtype=np.int8),
        "tfidf": lambda: matrix.data * np.log(rarity)[matrix.indices],
    }[weight]()
    return matrix.with_data(data)
