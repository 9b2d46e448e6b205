"""Dispersion: how evenly terms, or the places of expressions, are spread over the documents of a group."""

from collections.abc import Mapping

import numpy as np

from millstone.analyses.dispersion.measures import MEASURES, Spread
from millstone.analyses.dispersion.settings import DispersionSettings
from millstone.analyses.freq.compute import terms_by_frequency
from millstone.core.corpus.corpus import Corpus, group_codes
from millstone.core.corpus.documents import as_objects
from millstone.core.matches.matches import Matches, documents_of
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.tables.table import Table, WholeNumbers
from millstone.core.terms.counts import Counts


def dispersion_of_terms(counts: Counts, settings: DispersionSettings | None = None) -> Table:
    """The dispersion of each kept term in each group.

    Parameters
    ----------
    counts : Counts
    settings : DispersionSettings, optional
        Chooses rows.

    Returns
    -------
    Table
        ``group, term, freq, per_million, docs, docs_percent, dp, dp_expected, evenness, dp_norm, juilland_d``; by
        group, then frequency, then code points.
    """
    settings = settings or DispersionSettings()
    tables = []
    for group in counts.groups:
        part = counts.part((group,))
        terms = terms_by_frequency(part, settings.min_freq, settings.max_freq, settings.min_docs)
        names = np.asarray(counts.terms[terms], dtype=object)
        tables.append(_table(group, names, part.matrix, part.base, part.documents, terms))
    return Table.joined(tables)


def dispersion_of_nodes(corpus: Corpus, nodes: Mapping[str, Matches]) -> Table:
    """The dispersion of nodes, in their order; a node without a match in a group has freq 0, the rest empty.

    Parameters
    ----------
    corpus : Corpus
        From an ordered scan.
    nodes : mapping
        Name -> places.
    """
    every = np.stack([places_per_document(corpus, places) for places in nodes.values()], axis=1)
    codes = group_codes(corpus.documents, corpus.groups)
    tables = []
    for number, group in enumerate(corpus.groups):
        rows = np.flatnonzero((codes == number) & (corpus.tokens > 0))
        matrix = SparseMatrix.of_dense(every[rows])
        names = as_objects(list(nodes))
        documents = int((codes == number).sum())
        table = _table(group, names, matrix, corpus.tokens[rows], documents, np.arange(len(nodes)))
        absent = table["freq"] == 0
        empty = ("per_million", "docs_percent", *MEASURES)
        columns = {name: np.where(absent, np.nan, table[name]) for name in empty}
        docs = WholeNumbers(table["docs"], absent) if absent.any() else table["docs"]
        tables.append(table.with_columns({"docs": docs, **columns}))
    return Table.joined(tables)


def places_per_document(corpus: Corpus, places: Matches) -> np.ndarray:
    """(D,) int64 how many places lie in each document."""
    return np.bincount(documents_of(corpus, places), minlength=len(corpus.tokens)).astype(np.int64)


def along_groups(corpus: Corpus, nodes: Mapping[str, Matches]) -> tuple[Table, Table]:
    """Where places lie along the tokens of their group, as its documents are read one after the other.

    Returns
    -------
    places, borders : Table
        ``group, term, at``, a row per place; ``group, document, begins``, a row per document with tokens. Tokens of a
        group are counted from 0.
    """
    _, starts, _ = corpus.sequence
    codes, lengths = group_codes(corpus.documents, corpus.groups), np.diff(starts)
    begins = np.zeros(len(lengths), dtype=np.int64)
    for number in range(len(corpus.groups)):
        here = codes == number
        begins[here] = np.cumsum(lengths[here]) - lengths[here]
    groups = np.array(corpus.groups, dtype=object)
    places = []
    for name, one in nodes.items():
        document = documents_of(corpus, one)
        at = begins[document] + one.start - starts[document]
        places.append(Table({"group": groups[codes[document]], "term": name, "at": at}))
    filled = np.flatnonzero(lengths > 0)
    borders = Table(
        {
            "group": groups[codes[filled]],
            "document": corpus.documents["document"][filled],
            "begins": begins[filled],
        }
    )
    return Table.joined(places), borders


def _table(
    group: str, names: np.ndarray, matrix: SparseMatrix, base: np.ndarray, documents: float, terms: np.ndarray
) -> Table:
    spread, docs = Spread(matrix, base, terms), np.bincount(matrix.indices, minlength=matrix.shape[1])[terms]
    return Table(
        {
            "group": group,
            "term": names,
            "freq": spread.freq,
            "per_million": 1e6 * spread.freq / max(int(base.sum()), 1),
            "docs": docs,
            "docs_percent": 100 * docs / (documents or 1),
            **{name: measure.of(spread) for name, measure in MEASURES.items()},
        }
    )
