"""Where the entries of a dictionary occur in a corpus, and how often in each document."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np

from millstone.core.base.arrays import concat_ranges, stable_order, unique
from millstone.core.corpus.corpus import Corpus
from millstone.core.dictionary.dictionary import Dictionary, Entry
from millstone.core.dictionary.overlaps import Candidates, CategoryMatches, preference, resolved
from millstone.core.dictionary.vocabulary import Vocabulary
from millstone.core.matrix.cells import SparseMatrix, remap_columns
from millstone.core.matrix.totals import column_sums
from millstone.core.tokenise.token_rules import are_words


@dataclass(frozen=True, eq=False)
class DictionaryMatches:
    """The matches of a dictionary in a corpus of D documents and F forms.

    Outside the spans in which an entry of several words could match, what a token counts for follows from its
    form alone; so most is counted on the vocabulary, and only the spans are gone through token by token.

    Attributes
    ----------
    corpus : Corpus
    of_forms : mapping
        Category -> Places among the forms, as if each stood alone.
    in_spans : mapping
        Category -> Places among the tokens of `spans`.
    spans : ndarray
        (A,) int64 the positions of the tokens in the spans: those of words, ascending, then those of marks of
        punctuation.
    """

    corpus: Corpus
    of_forms: Mapping[str, CategoryMatches]
    in_spans: Mapping[str, CategoryMatches]
    spans: np.ndarray
    _whole: dict[str, CategoryMatches] = field(default_factory=dict)

    def numbers(self, names: Sequence[str]) -> np.ndarray:
        """(D, names) int64 places of each category in each document."""
        found: np.ndarray = np.rint(self._sums(names, weighted=False)).astype(np.int64)
        return found

    def weights(self, names: Sequence[str]) -> np.ndarray:
        """(D, names) float: the weights of these places added up."""
        return self._sums(names, weighted=True)

    def _sums(self, names: Sequence[str], weighted: bool) -> np.ndarray:
        size = (len(self.corpus.forms), len(names))
        forms = [self.of_forms[name] for name in names]
        values = np.concatenate([one.weight if weighted else np.ones(len(one.start)) for one in forms])
        columns = np.repeat(np.arange(len(names)), [len(one.start) for one in forms])
        of_form = SparseMatrix.of_cells(values, np.concatenate([one.start for one in forms]), columns, size)
        found = self._outside.product(of_form)
        if len(self.spans):
            for column, name in enumerate(names):
                places = self.in_spans[name]
                weight = places.weight if weighted else None
                found[:, column] += np.bincount(
                    self.document_of_span[places.start], weights=weight, minlength=len(found)
                )
        return found

    def covered(self, names: Collection[str]) -> np.ndarray:
        """(D,) int64 tokens that any of the categories covers, without marks of punctuation."""
        form = np.zeros(len(self.corpus.forms), dtype=np.int64)
        token = np.zeros(len(self.spans), dtype=bool)
        for name in names:
            form[self.of_forms[name].start] = 1
            token[self.in_spans[name].tokens()] = True
        if self.corpus.has_marks:
            words = are_words(self.corpus.forms)
            form *= words
            if len(self.spans):
                token &= words[self.corpus.sequence[0][self.spans]] > 0
        found = self._outside @ form
        if len(self.spans):
            found = found + np.bincount(self.document_of_span[token], minlength=len(found))
        return np.asarray(found, dtype=np.int64)

    @property
    def is_empty(self) -> bool:
        """Whether no entry of any category stands anywhere."""
        return not self.numbers(list(self.of_forms)).any()

    def places(self, name: str) -> CategoryMatches:
        """All places of a category, in text order; the corpus has to be from an ordered scan."""
        if name not in self._whole:
            forms, (at, of_these) = self.of_forms[name], self._single
            number = np.full(len(self.corpus.forms), -1, dtype=np.int32)
            number[forms.start] = np.arange(len(forms.start), dtype=np.int32)
            which = number[of_these]
            here = which >= 0
            alone = replace(
                forms,
                start=at[here],
                length=np.ones(int(here.sum()), dtype=np.int64),
                weight=forms.weight[which[here]],
                entry=forms.entry[which[here]],
            )
            within = self.in_spans[name]
            first, last = self.spans[within.start], self.spans[within.start + within.length - 1]
            # between the words of one place there may be marks of punctuation
            whole = replace(within, start=first, length=last - first + 1)
            self._whole[name] = CategoryMatches.joined([alone, whole])
        return self._whole[name]

    def entry_hits(self, name: str, entries: int) -> np.ndarray:
        """(entries,) int64 how many places each entry of a category won; an exception, how many it took."""
        forms, spans = self.of_forms[name], self.in_spans[name]
        freq = column_sums(self.corpus.form_counts)
        if len(self.spans):
            freq -= np.bincount(self.corpus.sequence[0][self.spans], minlength=len(freq))
        own = forms.entry >= 0
        found = np.zeros(entries, dtype=np.int64)
        np.add.at(found, forms.entry[own], freq[forms.start[own]])
        np.add.at(found, forms.lost, freq[forms.lost_at])
        np.add.at(found, spans.entry[spans.entry >= 0], 1)
        np.add.at(found, spans.lost, 1)
        return found

    def uncounted(self) -> np.ndarray:
        """(F,) int64 occurrences of each form that no category counts."""
        left = column_sums(self.corpus.form_counts)
        token = np.zeros(len(self.spans), dtype=bool)
        for name, places in self.of_forms.items():
            left[places.start] = 0
            token[self.in_spans[name].tokens()] = True
        if len(self.spans):
            ids = self.corpus.sequence[0][self.spans]
            every = np.bincount(ids, minlength=len(left))
            left = np.where(left > 0, left - every, 0)
            left += np.bincount(ids[~token], minlength=len(left))
        return left

    @cached_property
    def _single(self) -> tuple[np.ndarray, np.ndarray]:
        """Positions and forms of the tokens outside the spans that count for any category by themselves."""
        ids, _, _ = self.corpus.sequence
        counts = np.zeros(len(self.corpus.forms), dtype=bool)
        for places in self.of_forms.values():
            counts[places.start] = True
        at = np.flatnonzero(counts[ids])
        in_spans = np.zeros(len(ids), dtype=bool)
        in_spans[self.spans] = True
        at = at[~in_spans[at]]
        return at, ids[at]

    @cached_property
    def document_of_span(self) -> np.ndarray:
        """(A,) the number of the document of each token in the spans."""
        _, starts, _ = self.corpus.sequence
        return np.searchsorted(starts, self.spans, side="right") - 1

    @cached_property
    def _outside(self) -> SparseMatrix:
        """(D, F) the occurrences of the forms that count outside the spans."""
        counts = np.zeros(len(self.corpus.forms), dtype=bool)
        for places in self.of_forms.values():
            counts[places.start] = True
        column_of = np.where(counts, np.arange(len(counts)), -1).astype(np.int32)
        every = remap_columns(self.corpus.form_counts, column_of, len(counts))
        if not len(self.spans):
            return every
        ids = self.corpus.sequence[0][self.spans]
        inside = counts[ids]
        # what stands in the spans is taken away again
        rows = np.concatenate((every.row_of_cells, self.document_of_span[inside]))
        times = np.concatenate((every.data, np.full(int(inside.sum()), -1, dtype=every.data.dtype)))
        return SparseMatrix.of_cells(times, rows, np.concatenate((every.indices, ids[inside])), every.shape)


def needs_order(dictionary: Dictionary) -> bool:
    """Whether an entry has several words, so that their order must be known.

    Parameters
    ----------
    dictionary : Dictionary

    Returns
    -------
    bool
    """
    return any(len(entry.patterns) > 1 for entries in dictionary.categories.values() for entry in entries)


def vocabulary_of(corpus: Corpus) -> Vocabulary:
    """The vocabulary of a corpus, with its tags where there are any.

    Parameters
    ----------
    corpus : Corpus

    Returns
    -------
    Vocabulary
    """
    return Vocabulary(corpus.forms, [token.tag for token in corpus.annotation], corpus.lowered)


def find_matches(corpus: Corpus, dictionary: Dictionary, vocabulary: Vocabulary | None = None) -> DictionaryMatches:
    """Match a dictionary.

    Parameters
    ----------
    corpus : Corpus
        From an ordered scan where an entry has several words (`needs_order`).
    dictionary : Dictionary
    vocabulary : Vocabulary, optional
        That of the corpus, where it is known already.

    Returns
    -------
    DictionaryMatches
        Matches of single words by form, and of several words by place.

    Notes
    -----
    An entry of several words is looked up from its rarest word, so the cost goes with that word's occurrences.
    Where the corpus has marks of punctuation, these do not part the words of an entry; an entry that consists of
    marks is looked for among all tokens.
    """
    vocabulary = vocabulary or vocabulary_of(corpus)
    alone = {name: _alone(entries, vocabulary) for name, entries in dictionary.categories.items()}
    of_forms = resolved(dictionary, alone, len(corpus.forms))
    none = {name: CategoryMatches.joined([]) for name in of_forms}
    if not needs_order(dictionary):
        return DictionaryMatches(corpus, of_forms, none, np.array([], dtype=np.int64))
    rows = [_rows_of_entries(row, dictionary, vocabulary) for row in _token_rows(corpus)]
    spans = np.concatenate([row.spans for row in rows])
    if not len(spans):
        return DictionaryMatches(corpus, of_forms, none, spans)
    ids = corpus.sequence[0][spans]
    offsets = np.cumsum([0, *(len(row.spans) for row in rows)])[:-1].tolist()
    candidates = {
        name: Candidates.joined(
            [
                *(row.candidates[name].moved_by(offset) for row, offset in zip(rows, offsets, strict=True)),
                _at_tokens(alone[name], ids, len(corpus.forms)),
            ]
        )
        for name in dictionary.categories
    }
    return DictionaryMatches(corpus, of_forms, resolved(dictionary, candidates, len(spans)), spans)


def find_places(corpus: Corpus, dictionary: Dictionary) -> Mapping[str, CategoryMatches]:
    """The places of every category, parents included; `corpus` is from an ordered scan.

    Parameters
    ----------
    corpus : Corpus
        From an ordered scan.
    dictionary : Dictionary

    Returns
    -------
    mapping of str to CategoryMatches
        Name -> its places.
    """
    matches = find_matches(corpus, dictionary)
    return {name: matches.places(name) for name in dictionary.names()}


def _alone(entries: Sequence[Entry], vocabulary: Vocabulary) -> Candidates:
    """The entries of one word on the forms: for each form the one that wins, ascending by form."""
    found = []
    for place, entry in enumerate(entries):
        if len(entry.patterns) == 1:
            forms = vocabulary.matches(*entry.words[0])
            found.append(_of_entry(entry, place, forms))
    every = Candidates.joined(found)
    every = every.at(np.lexsort((every.order, every.start)))
    is_first = np.append(True, every.start[1:] != every.start[:-1])[: len(every.start)]
    return every.at(is_first)


def _of_entry(entry: Entry, place: int, start: np.ndarray) -> Candidates:
    size = len(start)
    return Candidates(
        start,
        np.full(size, len(entry.patterns), dtype=np.int64),
        np.full(size, entry.weight),
        np.full(size, entry.is_exception),
        np.full(size, preference(entry.is_exception, entry.has_wildcards, place), dtype=np.int64),
    )


def _at_tokens(alone: Candidates, ids: np.ndarray, forms: int) -> Candidates:
    """Candidates of single forms as candidates at each token that has the form."""
    number = np.full(forms, -1, dtype=np.int64)
    number[alone.start] = np.arange(len(alone.start))
    which = number[ids]
    at = np.flatnonzero(which >= 0)
    found = alone.at(which[at])
    return Candidates(at, found.length, found.weight, found.is_exception, found.order)


@dataclass(frozen=True)
class _TokenRow:
    """The tokens in which entries of several are looked for.

    `ids` are their forms, `at` their positions in the corpus (None where all tokens are in the row), `breaks` the
    places in the row before which a sentence ends; `punctuation` is whether entries of marks are looked for, or
    entries of words, or (None) both.
    """

    ids: np.ndarray
    breaks: np.ndarray
    at: np.ndarray | None = None
    punctuation: bool | None = None

    def holds(self, entry: Entry) -> bool:
        return len(entry.patterns) > 1 and self.punctuation in (None, entry.is_punctuation)


@dataclass(frozen=True)
class _RowCandidates:
    """The positions in the corpus of the tokens in which entries could match, and where among these."""

    spans: np.ndarray
    candidates: Mapping[str, Candidates]


def _token_rows(corpus: Corpus) -> list[_TokenRow]:
    """All tokens in one row; with marks of punctuation, the words by themselves, then all tokens."""
    ids, _, breaks = corpus.sequence
    if not corpus.has_marks:
        return [_TokenRow(ids, breaks)]
    at = np.flatnonzero(are_words(corpus.forms)[ids])
    of_words = _TokenRow(ids[at], np.searchsorted(at, breaks), at, punctuation=False)
    return [of_words, _TokenRow(ids, breaks, punctuation=True)]


def _rows_of_entries(row: _TokenRow, dictionary: Dictionary, vocabulary: Vocabulary) -> _RowCandidates:
    """Where the entries of several words could match in a row of tokens, category by category."""
    found = _in_row(row, dictionary, vocabulary)
    every = Candidates.joined(found.values())
    spans = unique(concat_ranges(every.start, every.length))
    among = {name: replace(one, start=np.searchsorted(spans, one.start)) for name, one in found.items()}
    return _RowCandidates(spans if row.at is None else row.at[spans], among)


def _in_row(row: _TokenRow, dictionary: Dictionary, vocabulary: Vocabulary) -> dict[str, Candidates]:
    ids, breaks = row.ids, row.breaks
    forms = vocabulary.size
    frequency = np.bincount(ids, minlength=forms)
    entries = [
        (name, place, entry)
        for name, entries in dictionary.categories.items()
        for place, entry in enumerate(entries)
        if row.holds(entry)
    ]
    rarest = []
    for _, _, entry in entries:
        forms_of_words = [vocabulary.matches(*word) for word in entry.words]
        least = min(range(len(forms_of_words)), key=lambda number: frequency[forms_of_words[number]].sum())
        rarest.append((least, forms_of_words[least]))
    wanted = np.zeros(forms, dtype=bool)
    for _, forms_of_one in rarest:
        wanted[forms_of_one] = True
    at = np.flatnonzero(wanted[ids])
    at = at[stable_order(ids[at])]
    ends = np.cumsum(np.where(wanted, frequency, 0))
    found: dict[str, list[Candidates]] = {name: [] for name in dictionary.categories}
    for (name, place, entry), (offset, forms_of_one) in zip(entries, rarest, strict=True):
        spans = concat_ranges(ends[forms_of_one] - frequency[forms_of_one], frequency[forms_of_one])
        start = np.sort(at[spans]) - offset
        length = len(entry.patterns)
        start = start[(start >= 0) & (start + length <= len(ids))]
        for further, word in enumerate(entry.words):
            if further != offset and len(start):
                start = start[vocabulary.mask(*word)[ids[start + further]]]
        sentence = np.searchsorted(breaks, np.stack((start, start + length - 1)), side="right")
        found[name].append(_of_entry(entry, place, start[sentence[0] == sentence[1]]))
    return {name: Candidates.joined(some) for name, some in found.items()}
