"""The documents x terms table, for other programs."""

from collections.abc import Iterator
from dataclasses import dataclass, field

import numpy as np
import pandas as pd
from scipy import sparse

from millstone.core.columns import renamed
from millstone.core.result import Result
from millstone.core.settings.analyses import MatrixSettings
from millstone.core.terms.counts import Counts, Part

BATCH_CELLS = 1 << 22
_SHOWN = 20


@dataclass(frozen=True)
class DocumentTerms:
    """A table with one row per document or group, or one row per term.

    Attributes
    ----------
    rows : DataFrame
        What is known of each row: ``document, group`` and metadata, or ``group``, or ``term``.
    names : ndarray of str
        (columns,) the terms, documents or groups.
    values : csr_array
        (rows, columns) counts or weights, zeros left out.
    """

    rows: pd.DataFrame
    names: np.ndarray
    values: sparse.csr_array

    @property
    def filled(self) -> float:
        """The share of cells that are not 0, 0 to 1."""
        return self.values.nnz / max(self.values.shape[0] * self.values.shape[1], 1)

    def preview(self) -> pd.DataFrame:
        """The first rows, with the columns that have most of what is counted, in the order of the table."""
        total = np.asarray(self.values.sum(axis=0), dtype=float).ravel()
        first = np.argsort(-total, kind="stable")[:_SHOWN]
        first = np.sort(first)
        dense = pd.DataFrame(self.values[:_SHOWN, first].toarray(), columns=self.names[first])
        return pd.concat([self.rows.iloc[:_SHOWN].reset_index(drop=True), dense], axis=1)

    def batches(self) -> Iterator[pd.DataFrame]:
        """The table in parts of some rows, each with all its columns; at least one part."""
        size = max(BATCH_CELLS // max(len(self.names), 1), 1)
        for start in range(0, max(len(self.rows), 1), size):
            dense = pd.DataFrame(self.values[start : start + size].toarray(), columns=self.names)
            described = self.rows.iloc[start : start + size].reset_index(drop=True)
            yield pd.concat([described, dense], axis=1)


@dataclass(frozen=True)
class MatrixResult(Result):
    """A result whose table is a matrix; `frame` holds only as much of it as a screen can show."""

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
    names = counts.terms[terms]
    matrix, base = counts.matrix[:, terms], counts.base
    rows = counts.documents.rename(columns=renamed(counts.documents.columns, set(names.tolist())))
    if settings.by == "group":
        parts = [counts.part((group,)) for group in counts.groups]
        matrix = sparse.csr_array(np.array([part.freq[terms] for part in parts]).reshape(len(parts), len(terms)))
        base = np.array([part.tokens for part in parts], dtype=np.int64)
        rows = pd.DataFrame({"group": list(counts.groups)})
    values = _weighted(sparse.csr_array(matrix), base, settings.weight, len(counts.documents) / whole.docs[terms])
    if not settings.transpose:
        return DocumentTerms(rows, names, values)
    # a term may have the name of a column
    across = np.array(counts.groups if settings.by == "group" else counts.documents["document"], dtype=object)
    return DocumentTerms(pd.DataFrame({"term": names}), across, sparse.csr_array(values.T))


def _wanted(whole: Part, settings: MatrixSettings) -> np.ndarray:
    wanted = (whole.freq >= settings.min_freq) & (whole.docs >= settings.min_docs)
    return wanted & (whole.freq <= settings.max_freq) if settings.max_freq else wanted


def _weighted(matrix: sparse.csr_array, base: np.ndarray, weight: str, rarity: np.ndarray) -> sparse.csr_array:
    if weight == "count":
        return matrix
    rows = np.repeat(np.arange(matrix.shape[0]), np.diff(matrix.indptr))
    data = {
        "relative": lambda: matrix.data / base[rows],
        "binary": lambda: np.ones(len(matrix.data), dtype=np.int8),
        "tfidf": lambda: matrix.data * np.log(rarity)[matrix.indices],
    }[weight]()
    return sparse.csr_array((data, matrix.indices, matrix.indptr), shape=matrix.shape)
