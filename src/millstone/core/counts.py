"""The documents x terms matrix, on which every analysis of terms is row sums and array operations."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import pandas as pd
from scipy import sparse

from millstone.core.corpus import Corpus, GroupSize, group_codes, group_sizes
from millstone.core.terms import TermMap, left_out_tokens


@dataclass(frozen=True)
class Counts:
    """Counted terms of D documents.

    Attributes
    ----------
    matrix : csr_array
        (D, terms) int64, occurrences of kept terms.
    terms : ndarray of str
        (terms,) in code-point order.
    base : ndarray
        (D,) int64, all word tokens of each document, left-out ones too.
    documents : DataFrame
        D rows: ``document``, ``group``, then the metadata.
    groups : tuple of str
        The groups in the order of tables and charts.
    left_out : mapping
        Rule -> tokens it left out.
    """

    matrix: sparse.csr_array
    terms: np.ndarray
    base: np.ndarray
    documents: pd.DataFrame
    groups: tuple[str, ...]
    left_out: Mapping[str, int]

    @cached_property
    def codes(self) -> np.ndarray:
        """(D,) the number of each document's group."""
        return group_codes(self.documents, self.groups)

    @cached_property
    def sizes(self) -> tuple[GroupSize, ...]:
        """The groups with their documents and tokens."""
        return group_sizes(self.documents, self.base, self.groups)

    def part(self, groups: tuple[str, ...]) -> "Part":
        """The documents of `groups` taken together."""
        wanted = [self.groups.index(group) for group in groups]
        return Part(self, np.flatnonzero(np.isin(self.codes, wanted)))


@dataclass(frozen=True)
class Part:
    """Some documents of a corpus added up: a group, or all groups but one."""

    counts: Counts
    rows: np.ndarray

    @cached_property
    def matrix(self) -> sparse.csr_array:
        """(documents, terms) int64, documents with tokens only."""
        return self.counts.matrix[self.rows[self.counts.base[self.rows] > 0]]

    @cached_property
    def base(self) -> np.ndarray:
        """(documents,) int64, tokens of each document that has any."""
        base = self.counts.base[self.rows]
        return base[base > 0]

    @cached_property
    def names(self) -> np.ndarray:
        """(documents,) names of the documents that have tokens."""
        names = self.counts.documents["document"].to_numpy(dtype=object)[self.rows]
        return names[self.counts.base[self.rows] > 0]

    @cached_property
    def freq(self) -> np.ndarray:
        """(terms,) int64 occurrences."""
        return np.asarray(self.matrix.sum(axis=0), dtype=np.int64).ravel()

    @cached_property
    def docs(self) -> np.ndarray:
        """(terms,) int64 documents with the term."""
        return np.bincount(self.matrix.indices, minlength=len(self.counts.terms)).astype(np.int64)

    @property
    def tokens(self) -> int:
        """All word tokens: the base of rates."""
        return int(self.base.sum())

    @property
    def documents(self) -> int:
        """Number of documents, those without tokens too."""
        return len(self.rows)


def count(corpus: Corpus, term_map: TermMap) -> Counts:
    """Count the terms of a corpus under a TermMap. The cost is one sparse product."""
    kept = np.flatnonzero(term_map.term_of >= 0)
    cells = (np.ones(len(kept), dtype=np.int64), (kept, term_map.term_of[kept]))
    selector = sparse.coo_array(cells, shape=(len(term_map.term_of), len(term_map.terms))).tocsr()
    matrix = sparse.csr_array(corpus.form_counts @ selector)
    form_totals = np.asarray(corpus.form_counts.sum(axis=0), dtype=np.int64).ravel()
    return Counts(
        matrix=matrix,
        terms=term_map.terms,
        base=corpus.tokens,
        documents=corpus.documents,
        groups=corpus.groups,
        left_out=left_out_tokens(term_map, form_totals),
    )


def competition_ranks(freq: np.ndarray) -> np.ndarray:
    """Ranks 1, 2, 2, 4 by descending frequency; `freq` is (terms,) int64."""
    ascending = np.sort(freq)
    return len(freq) - np.searchsorted(ascending, freq, side="right") + 1
