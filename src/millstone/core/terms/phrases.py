"""Multiword expressions that count as one term."""

from collections.abc import Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from millstone.core.base.arrays import concat_ranges, unique
from millstone.core.corpus.corpus import Corpus, Token
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.terms.word_lists import entry_tokens, folding

if TYPE_CHECKING:
    from millstone.core.dictionary.overlaps import CategoryMatches

_CATEGORY = "phrases"


def with_phrases(corpus: Corpus, phrases: Sequence[str], case: str = "lower") -> Corpus:
    """A corpus in which each place of a phrase is one token, longest first, leftmost first.

    Parameters
    ----------
    corpus : Corpus
        From an ordered scan, D documents, T tokens.
    phrases : sequence of str
        Expressions of two words or more; within a sentence, wherever their words follow each other.
    case : str
        ``lower``: matched in any case; ``keep``: as written.

    Returns
    -------
    Corpus
        ``tokens``, the base of rates, stays that of the words.
    """
    places = _places(corpus, phrases, case)
    if places is None:
        return corpus
    ids, starts, breaks = corpus.sequence
    forms = list(corpus.forms)
    numbers = {form: number for number, form in enumerate(forms)} if not corpus.annotation else {}
    new_ids = ids.copy()
    for start, length in zip(places.start.tolist(), places.length.tolist(), strict=True):
        phrase = " ".join(corpus.forms[one] for one in ids[start : start + length])
        if phrase not in numbers:
            numbers[phrase] = len(forms)
            forms.append(phrase)
        new_ids[start] = numbers[phrase]
    swallowed = _swallowed(places, len(ids))
    before = np.concatenate(([0], np.cumsum(~swallowed)))
    new_ids, new_starts = new_ids[~swallowed], before[starts]
    rows = np.repeat(np.arange(len(starts) - 1), np.diff(new_starts))
    ones = np.ones(len(new_ids), dtype=np.int32)
    annotation = (*corpus.annotation, *map(Token, forms[len(corpus.forms) :])) if corpus.annotation else ()
    return replace(
        corpus,
        forms=forms,
        form_counts=SparseMatrix.of_cells(ones, rows, new_ids, (len(starts) - 1, len(forms))),
        annotation=annotation,
        kept_lowered=None,
        ids=new_ids,
        starts=new_starts,
        breaks=unique(before[breaks]),
    )


def tokens_in_phrases(corpus: Corpus, phrases: Sequence[str], case: str = "lower") -> tuple[np.ndarray, np.ndarray]:
    """Of each token of `with_phrases` the first token of the corpus that it is made of, and the one after it.

    Parameters
    ----------
    corpus : Corpus
    phrases : sequence of str
        Those that were joined.
    case : str, optional
        The rule for case.

    Returns
    -------
    tuple[ndarray, ndarray]
        Each (tokens of the phrased corpus,) int64.
    """
    size = len(corpus.sequence[0])
    places = _places(corpus, phrases, case)
    first = np.flatnonzero(~_swallowed(places, size)) if places is not None else np.arange(size)
    return first, np.append(first[1:], size)


def _places(corpus: Corpus, phrases: Sequence[str], case: str) -> "CategoryMatches | None":
    """The places of phrases; None where there are none."""
    if not phrases:
        return None
    # few runs have phrases, and what finds them takes 30 ms to import
    from millstone.core.dictionary.dictionary import Dictionary, Entry
    from millstone.core.dictionary.matches import find_places

    fold = folding(case)
    entries = tuple(
        Entry(tuple(map(fold, tokens)), is_exception=False, case=case == "keep", weight=1.0)
        for tokens in map(entry_tokens, phrases)
        if len(tokens) > 1
    )
    places = find_places(corpus, Dictionary({_CATEGORY: entries}))[_CATEGORY] if entries else None
    return places if places is not None and len(places.start) else None


def _swallowed(places: "CategoryMatches", size: int) -> np.ndarray:
    """(tokens,) bool: those that a phrase takes up, its first left aside."""
    swallowed = np.zeros(size, dtype=bool)
    swallowed[concat_ranges(places.start + 1, places.length - 1)] = True
    return swallowed
