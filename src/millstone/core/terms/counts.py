"""The documents x terms matrix, on which every analysis of terms is row sums and array operations."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import field, replace
from functools import cached_property, partial

import numpy as np

from millstone.core.base.arrays import unique, unique_inverse
from millstone.core.base.light_dataclass import frozen
from millstone.core.corpus.corpus import Corpus, GroupSize, group_codes, group_sizes
from millstone.core.matrix.cells import SparseMatrix, remap_columns
from millstone.core.matrix.totals import column_sums, document_frequency
from millstone.core.tables.table import Table
from millstone.core.terms.term_map import TermMap, left_out_tokens
from millstone.core.tokenise.token_rules import are_words

_NONE = np.array([], dtype=np.int64)


@frozen
class SingleTerms:
    """The terms that n-grams are made of: `matrix` (D, terms) int32 occurrences, `tokens` (D,) all word tokens."""

    matrix: SparseMatrix
    tokens: np.ndarray


@frozen
class NgramNames:
    """The n-grams of a count: `words`, (n-grams, n) int32, are numbers in `terms`, (terms,), which `single` counts.

    They are spelled out only where they are asked for, since there may be many millions of them.
    """

    words: np.ndarray
    terms: np.ndarray
    single: "SingleTerms | None" = None

    def __len__(self) -> int:
        return len(self.words)

    def __getitem__(self, which: np.ndarray | slice) -> np.ndarray:
        columns = [self.terms[self.words[which, place]] for place in range(self.words.shape[1])]
        return np.array([" ".join(words) for words in zip(*columns, strict=True)], dtype=object)

    def __iter__(self) -> Iterator[str]:
        return iter(self[:].tolist())


@frozen
class Counts:
    """Counted terms of D documents.

    Attributes
    ----------
    matrix : SparseMatrix
        (D, terms) int32, occurrences of kept terms.
    terms : ndarray of str or NgramNames
        (terms,) in code-point order.
    base : ndarray
        (D,) int64, all word tokens of each document, left-out ones too; for n-grams their places.
    documents : Table
        D rows: ``document``, ``group``, then the metadata.
    groups : tuple of str
        The groups in the order of tables and charts.
    left_out : mapping
        Rule -> tokens it left out.
    make_forms : callable or None
        Counts the words behind the terms, where several words may count as one.
    left_out_ngrams : mapping
        Name of a stop list -> occurrences of n-grams that it left out.
    listed : Listed or None
        Where the counts are those of frequency lists: each row of the matrix is a list.
    """

    matrix: SparseMatrix
    terms: np.ndarray | NgramNames
    base: np.ndarray
    documents: Table
    groups: tuple[str, ...]
    left_out: Mapping[str, int]
    make_forms: "Callable[[], FormCounts] | None" = None
    left_out_ngrams: Mapping[str, int] = field(default_factory=dict)
    listed: "Listed | None" = None

    @cached_property
    def forms(self) -> "FormCounts | None":
        """The words behind the terms; None where each term is one word."""
        return self.make_forms() if self.make_forms else None

    @property
    def words_of_terms(self) -> int:
        """How many words each term has: of n-grams n, else 1."""
        return self.terms.words.shape[1] if isinstance(self.terms, NgramNames) else 1

    @cached_property
    def codes(self) -> np.ndarray:
        """(D,) the number of each document's group."""
        return group_codes(self.documents, self.groups)

    @cached_property
    def sizes(self) -> tuple[GroupSize, ...]:
        """The groups with their documents, 0 where a list does not say, and tokens."""
        sizes = group_sizes(self.documents, self.base, self.groups)
        if self.listed is None:
            return sizes
        known = dict(zip(self.documents["group"], np.nan_to_num(self.listed.documents).astype(int), strict=True))
        return tuple(replace(size, documents=int(known[size.name])) for size in sizes)

    def part(self, groups: tuple[str, ...]) -> "Part":
        """The documents of `groups` taken together."""
        rows = [self._rows_of[group] for group in groups]
        return Part(self, rows[0] if len(rows) == 1 else unique(np.concatenate(rows or [_NONE])))

    @cached_property
    def _rows_of(self) -> dict[str, np.ndarray]:
        """Group -> the numbers of its documents, rising."""
        order = np.argsort(self.codes, kind="stable")
        bounds = np.searchsorted(self.codes[order], np.arange(len(self.groups) + 1))
        return {group: order[bounds[one] : bounds[one + 1]] for one, group in enumerate(self.groups)}


@frozen
class Listed:
    """Frequency lists that stand for documents: what they know besides the occurrences of their terms.

    Attributes
    ----------
    docs : ndarray
        (lists, terms) float documents with a term, NaN where not known.
    documents : ndarray
        (lists,) float documents in all, NaN where not known.
    unknown : ndarray
        (lists, terms) bool: a list that was cut off lacks the term, which may be frequent all the same.
    cut : tuple of str
        (lists,) why each list lacks terms, such as ``--top 6``; empty where it is whole.
    """

    docs: np.ndarray
    documents: np.ndarray
    unknown: np.ndarray
    cut: tuple[str, ...]


@frozen
class FormCounts:
    """The W words, after case, that are counted: `matrix` (D, W) int32, `words` (W,), `term_of` (W,) int64."""

    matrix: SparseMatrix
    words: np.ndarray | NgramNames
    term_of: np.ndarray


@frozen
class Part:
    """Some documents of a corpus added up: a group, or all groups but one."""

    counts: Counts
    rows: np.ndarray

    @cached_property
    def rows_with_tokens(self) -> np.ndarray:
        """(documents,) the numbers of the documents that have tokens, rising."""
        found: np.ndarray = self.rows[self.counts.base[self.rows] > 0]
        return found

    @cached_property
    def matrix(self) -> SparseMatrix:
        """(documents, terms) int32, documents with tokens only."""
        rows = self.rows_with_tokens
        return self.counts.matrix.rows(rows) if len(rows) < len(self.counts.base) else self.counts.matrix

    @cached_property
    def base(self) -> np.ndarray:
        """(documents,) int64, tokens of each document that has any."""
        found: np.ndarray = self.counts.base[self.rows_with_tokens]
        return found

    @cached_property
    def names(self) -> np.ndarray:
        """(documents,) names of the documents that have tokens."""
        found: np.ndarray = self.counts.documents["document"][self.rows_with_tokens]
        return found

    @cached_property
    def freq(self) -> np.ndarray:
        """(terms,) int64 occurrences."""
        return column_sums(self.matrix)

    @cached_property
    def docs(self) -> np.ndarray:
        """(terms,) int64 documents with the term; of lists float, NaN where not known."""
        if self.counts.listed is not None:
            found: np.ndarray = self.counts.listed.docs[self.rows].sum(axis=0)
            return found
        return document_frequency(self.matrix)

    @cached_property
    def unknown(self) -> np.ndarray:
        """(terms,) bool: whose frequency is not known, since a cut list lacks them."""
        if self.counts.listed is None:
            return np.zeros(len(self.counts.terms), dtype=bool)
        return np.asarray(self.counts.listed.unknown[self.rows].any(axis=0))

    @property
    def cut(self) -> dict[str, str]:
        """The names of the cut lists among them, each with the reason, such as ``--top 6``."""
        if self.counts.listed is None:
            return {}
        names = self.counts.documents["group"]
        return {names[row]: self.counts.listed.cut[row] for row in self.rows if self.counts.listed.cut[row]}

    @property
    def tokens(self) -> int:
        """All word tokens: the base of rates."""
        return int(self.base.sum())

    @property
    def documents(self) -> float:
        """Number of documents, those without tokens too; of lists NaN where not known."""
        if self.counts.listed is not None:
            return float(self.counts.listed.documents[self.rows].sum())
        return len(self.rows)


def count(corpus: Corpus, term_map: TermMap, base: str = "all") -> Counts:
    """Count the terms of a corpus under a TermMap.

    Parameters
    ----------
    corpus : Corpus
    term_map : TermMap
    base : str
        Rates are of ``all`` word tokens, or of the ``kept`` ones.

    Returns
    -------
    Counts
        (documents, terms) counts, and what was left out.
    """
    matrix = remap_columns(corpus.form_counts, term_map.term_of, len(term_map.terms))
    return Counts(
        matrix=matrix,
        terms=term_map.terms,
        base=corpus.tokens if base == "all" else matrix @ are_words(term_map.terms),
        documents=corpus.documents,
        groups=corpus.groups,
        left_out=left_out_words(corpus, term_map),
        make_forms=partial(_form_counts, corpus, term_map) if term_map.merged else None,
    )


def left_out_words(corpus: Corpus, term_map: TermMap) -> Mapping[str, int]:
    """Word tokens that each rule left out.

    Parameters
    ----------
    corpus : Corpus
    term_map : TermMap

    Returns
    -------
    mapping of str to int
        Rule -> tokens.
    """
    form_totals = column_sums(corpus.form_counts)
    if form_totals.sum() > corpus.tokens.sum():
        # marks of punctuation are terms, and what is left out is reported of words only
        form_totals = form_totals * are_words(corpus.forms)
    return left_out_tokens(term_map, form_totals)


def _form_counts(corpus: Corpus, term_map: TermMap) -> FormCounts:
    words = words_of_terms(term_map)
    return FormCounts(remap_columns(corpus.form_counts, words.of_form, len(words.words)), words.words, words.term_of)


@frozen
class WordsOfTerms:
    """The words that count as terms: `words` (W,), `term_of` (W,) int64, and `of_form` (F,) int32, -1 for none."""

    words: np.ndarray
    term_of: np.ndarray
    of_form: np.ndarray


def words_of_terms(term_map: TermMap) -> WordsOfTerms:
    """The words, after case, behind the terms of a term map that merges some.

    Parameters
    ----------
    term_map : TermMap
        With stages.

    Returns
    -------
    WordsOfTerms
        A word that stands for two terms, since its annotation differs, is among them twice.
    """
    written, kept = term_map.stages[0].values, np.flatnonzero(term_map.term_of >= 0)
    pairs = term_map.term_of[kept].astype(np.int64) * len(written.words) + written.number[kept]
    pairs, column = unique_inverse(pairs)
    of_form = np.full(len(term_map.term_of), -1, dtype=np.int32)
    of_form[kept] = column
    term_of, word = np.divmod(pairs, max(len(written.words), 1))
    return WordsOfTerms(np.array(written.words, dtype=object)[word], term_of, of_form)
