"""N-grams: so many terms in a row within a sentence, counted by document."""

from collections.abc import Sequence
from dataclasses import replace
from functools import partial

import numpy as np

from millstone.core.base.arrays import begins, merged, unique_inverse
from millstone.core.corpus.corpus import Corpus
from millstone.core.matrix.cells import SparseMatrix, remap_columns
from millstone.core.matrix.totals import column_sums
from millstone.core.tables.table import distinct_rows
from millstone.core.terms.counts import (
    Counts,
    FormCounts,
    NgramNames,
    SingleTerms,
    left_out_words,
    words_of_terms,
)
from millstone.core.terms.term_map import TermMap
from millstone.core.terms.word_lists import WordLists, entry_tokens, folding, is_pattern

_MOST = 2**63 - 1


def count_ngrams(
    corpus: Corpus,
    term_map: TermMap,
    n: int,
    bridge: bool = False,
    lists: WordLists | None = None,
    case: str = "lower",
) -> Counts:
    """Count the n-grams of kept terms in each document.

    Parameters
    ----------
    corpus : Corpus
        From an ordered scan, D documents.
    term_map : TermMap
    n : int
        2 or more.
    bridge : bool
        N-grams reach over words that are left out; otherwise such a word ends them.
    lists : WordLists, optional
        Entries of several words of its stop lists leave out the n-grams that are the same.
    case : str
        How these entries are compared, as in `Preparation`.

    Returns
    -------
    Counts
        `terms` are `NgramNames` in code-point order; `base` is the number of n-gram places of each
        document: the sum over its sentences of max(0, length - n + 1), before anything is left out.
    """
    _, starts, breaks = corpus.sequence
    base = _places(starts, merged(breaks, starts), n)
    words, matrix = _of_numbers(corpus, term_map.term_of, n, bridge, len(term_map.terms))
    single = SingleTerms(remap_columns(corpus.form_counts, term_map.term_of, len(term_map.terms)), corpus.tokens)
    names = NgramNames(words, term_map.terms, single)
    unwanted, left_out = _stopped(names, lists or WordLists(), case, column_sums(matrix))
    if len(unwanted):
        wanted = np.setdiff1d(np.arange(len(words)), unwanted)
        names, matrix = replace(names, words=words[wanted]), matrix.columns(wanted)
    words_left_out = left_out_words(corpus, term_map)
    make_forms = partial(_form_counts, corpus, term_map, names, bridge) if term_map.merged else None
    return Counts(
        matrix, names, base, corpus.documents, corpus.groups, words_left_out, make_forms, left_out_ngrams=left_out
    )


def _of_numbers(
    corpus: Corpus, number_of: np.ndarray, n: int, bridge: bool, vocabulary: int
) -> tuple[np.ndarray, SparseMatrix]:
    """The n-grams of the numbers that forms have, (F,), below 0 for none; and how often each document has them."""
    ids, starts, breaks = corpus.sequence
    breaks = merged(breaks, starts)
    numbers = number_of[ids]
    kept = numbers >= 0
    if bridge:
        before = np.concatenate(([0], np.cumsum(kept)))
        numbers, starts, breaks = numbers[kept], before[starts], before[breaks]
        kept = np.ones(len(numbers), dtype=bool)
    return _counted(numbers, beginnings(kept, breaks, n), starts, n, max(vocabulary, 1))


def _form_counts(corpus: Corpus, term_map: TermMap, names: NgramNames, bridge: bool) -> FormCounts:
    """The n-grams of words behind n-grams of terms."""
    behind, n = words_of_terms(term_map), names.words.shape[1]
    words, matrix = _of_numbers(corpus, behind.of_form, n, bridge, len(behind.words))
    # both are rows of numbers of terms: those that are the same are the same n-gram
    rows = np.concatenate((names.words, behind.term_of[words].astype(np.int32)))
    number, first = distinct_rows(list(rows.T))
    place = np.full(len(first), -1, dtype=np.int64)
    place[number[: len(names)]] = np.arange(len(names))
    term_of = place[number[len(names) :]]
    known = np.flatnonzero(term_of >= 0)
    return FormCounts(matrix.columns(known), NgramNames(words[known], behind.words), term_of[known])


def _places(starts: np.ndarray, breaks: np.ndarray, n: int) -> np.ndarray:
    """(D,) int64 n-gram places."""
    lengths = np.diff(breaks)
    document = np.searchsorted(starts, breaks[:-1], side="right") - 1
    places = np.maximum(lengths - n + 1, 0)
    return np.bincount(document, weights=places, minlength=len(starts) - 1).astype(np.int64)


def beginnings(kept: np.ndarray, breaks: np.ndarray, n: int) -> np.ndarray:
    """(tokens - n + 1,) bool: whether n kept terms in a row begin within a sentence.

    Parameters
    ----------
    kept : ndarray
        (tokens,) bool: which are terms.
    breaks : ndarray
        (breaks,) the tokens with which a sentence begins.
    n : int
        Terms in a row.

    Returns
    -------
    ndarray
    """
    size = max(len(kept) - n + 1, 0)
    is_start = np.zeros(len(kept) + 1, dtype=bool)
    is_start[breaks] = True
    found = kept[:size].copy()
    for further in range(1, n):
        found &= kept[further : further + size] & ~is_start[further : further + size]
    return found


def _counted(
    terms: np.ndarray, begins_here: np.ndarray, starts: np.ndarray, n: int, vocabulary: int
) -> tuple[np.ndarray, SparseMatrix]:
    """Unique n-grams, (n-grams, n) in order, and how often they occur in each document."""
    size, length = len(starts) - 1, len(begins_here)
    # the words are packed into one number; re-index (prefix, word) pairs so that it stays small enough
    packed, span = terms[:length][begins_here].astype(np.int64), vocabulary
    steps: list[np.ndarray | None] = []
    for further in range(1, n):
        if span > _MOST // vocabulary:
            packed, span = _made_small(packed, steps)
        packed *= vocabulary
        packed += terms[further : further + length][begins_here]
        span *= vocabulary
        steps.append(None)
    if span > _MOST // max(size, 1):
        packed, span = _made_small(packed, steps)
    if size > 1:
        packed *= size
        packed += np.repeat(np.arange(size, dtype=np.int32), np.diff(starts))[:length][begins_here]
    packed.sort()
    at = np.flatnonzero(begins(packed))
    times = np.diff(at, append=len(packed)).astype(np.int32)
    packed = packed[at]
    del at
    grams, rows = np.divmod(packed, size) if size > 1 else (packed, np.zeros(len(packed), dtype=np.int32))
    is_new = begins(grams)
    columns = np.cumsum(is_new, dtype=np.int32) - 1
    words = _unpacked(grams[is_new], steps, n, vocabulary)
    return words, SparseMatrix.of_cells(times, rows, columns, (size, len(words)))


def _made_small(packed: np.ndarray, steps: list[np.ndarray | None]) -> tuple[np.ndarray, int]:
    """The numbers replaced by smaller ones in the same order, and how many there are."""
    different, numbers = unique_inverse(packed)
    steps.append(different)
    return numbers.astype(np.int64), len(different)


def _unpacked(packed: np.ndarray, steps: Sequence[np.ndarray | None], n: int, vocabulary: int) -> np.ndarray:
    """(n-grams, n) int32 from packed numbers; a step is a word, or what smaller numbers stand for."""
    words = np.zeros((len(packed), n), dtype=np.int32)
    place = n - 1
    for step in reversed(steps):
        if step is None:
            packed, words[:, place] = np.divmod(packed, vocabulary)
            place -= 1
        else:
            packed = step[packed]
    words[:, 0] = packed
    return words


def _stopped(names: NgramNames, lists: WordLists, case: str, freq: np.ndarray) -> tuple[np.ndarray, dict[str, int]]:
    """The n-grams that an entry of several words names, and how many occurrences each list leaves out."""
    fold = folding(case)
    number_of = {term: number for number, term in enumerate(names.terms.tolist())} if lists.stop else {}
    unwanted: set[int] = set()
    left_out: dict[str, int] = {}
    for stop_list in lists.stop:
        for entry in stop_list.entries:
            words = [number_of.get(fold(token), -1) for token in entry_tokens(entry)]
            if is_pattern(entry) or len(words) != names.words.shape[1] or min(words) < 0:
                continue
            found = set(np.flatnonzero((names.words == words).all(axis=1)).tolist()) - unwanted
            unwanted |= found
            for one in found:
                left_out[stop_list.name] = left_out.get(stop_list.name, 0) + int(freq[one])
    return np.array(sorted(unwanted), dtype=np.int64), left_out
