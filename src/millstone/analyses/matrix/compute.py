"""The documents x terms table, for other programs."""

from collections.abc import Callable

import numpy as np

from millstone.analyses.matrix.settings import MatrixSettings
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.tables.columns import renamed
from millstone.core.tables.matrix_result import DocumentTerms
from millstone.core.tables.table import Table
from millstone.core.terms.counts import Counts, Part


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
    across = np.array(counts.groups if settings.by == "group" else _headings(counts), dtype=object)
    return DocumentTerms(Table({"term": names}), across, values.transposed())


def _wanted(whole: Part, settings: MatrixSettings) -> np.ndarray:
    wanted = (whole.freq >= settings.min_freq) & (whole.docs >= settings.min_docs)
    return wanted & (whole.freq <= settings.max_freq) if settings.max_freq else wanted


def _headings(counts: Counts) -> list[str]:
    """The names of documents as headings of columns; where some are alike, their groups, with the name if need be."""
    names, groups = (list(map(str, counts.documents[name].tolist())) for name in ("document", "group"))
    if len(set(names)) == len(names):
        return names
    if len(set(groups)) == len(groups):
        return groups
    return [f"{group}/{name}" for group, name in zip(groups, names, strict=True)]


def _weighted(matrix: SparseMatrix, base: np.ndarray, weight: str, rarity: np.ndarray) -> SparseMatrix:
    if weight == "count":
        return matrix
    ways: dict[str, Callable[[], np.ndarray]] = {
        "relative": lambda: matrix.data / base[matrix.row_of_cells],
        "binary": lambda: np.ones(len(matrix.data), dtype=np.int8),
        "tfidf": lambda: matrix.data * np.log(rarity)[matrix.indices],
    }
    return matrix.with_data(ways[weight]())
