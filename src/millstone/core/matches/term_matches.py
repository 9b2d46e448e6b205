"""Where a term stands: every token, or row of tokens, that was counted as it."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from millstone.core.base.arrays import merged
from millstone.core.corpus.corpus import Corpus
from millstone.core.matches.matches import Matches
from millstone.core.matches.surroundings import only_near
from millstone.core.terms.ngrams import beginnings
from millstone.core.terms.phrases import tokens_in_phrases, with_phrases
from millstone.core.terms.term_map import TermMap


@dataclass(frozen=True)
class CountedTokens:
    """The tokens that were counted, and which tokens of the texts they are.

    Attributes
    ----------
    corpus : Corpus
        As it was counted: tokens left out by ``--around`` are not in it, a phrase is one token.
    first, after : ndarray
        (tokens,) int64: the first token of the texts that each is made of, and the one after its last.
    """

    corpus: Corpus
    first: np.ndarray
    after: np.ndarray

    @classmethod
    def all_of(cls, corpus: Corpus) -> "CountedTokens":
        """Every token of an ordered corpus."""
        tokens = np.arange(len(corpus.sequence[0]))
        return cls(corpus, tokens, tokens + 1)

    def near(self, near: np.ndarray) -> "CountedTokens":
        """Only those that are `near`, (tokens,) bool."""
        return CountedTokens(only_near(self.corpus, near), self.first[near], self.after[near])

    def with_phrases(self, phrases: Sequence[str], case: str) -> "CountedTokens":
        """Join each phrase into one token."""
        if not phrases:
            return self
        begin, end = tokens_in_phrases(self.corpus, phrases, case)
        return CountedTokens(with_phrases(self.corpus, phrases, case), self.first[begin], self.after[end - 1])

    def as_written(self, places: Matches) -> Matches:
        """Places among these tokens as places in the texts."""
        start = self.first[places.start]
        return Matches(start, self.after[places.end - 1] - start)

    def inside(self, tokens: np.ndarray) -> np.ndarray:
        """Which of them are made of some of the texts' `tokens` only, (tokens,) bool."""
        before = np.concatenate(([0], np.cumsum(tokens)))
        found: np.ndarray = before[self.after] - before[self.first] == self.after - self.first
        return found


def term_places(counted: CountedTokens, term_map: TermMap, term: str, n: int = 1, bridge: bool = False) -> Matches:
    """All places of a term, or of an n-gram, overlapping ones too.

    Parameters
    ----------
    counted : CountedTokens
    term_map : TermMap
        Of the counted corpus.
    term : str
        As it stands in a table: the words of an n-gram with blanks between them.
    n : int
        Words of the n-gram.
    bridge : bool
        N-grams reach over words that are left out.

    Returns
    -------
    Matches
        In the order of the texts.
    """
    ids, starts, breaks = counted.corpus.sequence
    terms = term_map.term_of[ids]
    at = np.arange(len(ids))
    breaks = merged(breaks, starts)
    kept = terms >= 0
    if bridge:
        breaks = np.concatenate(([0], np.cumsum(kept)))[breaks]
        at, terms = at[kept], terms[kept]
        kept = np.ones(len(terms), dtype=bool)
    if n == 1:
        found = np.flatnonzero(terms == _number(term_map, term))
    else:
        found = np.flatnonzero(beginnings(kept, breaks, n))
        names = term_map.terms
        wanted = _split(term, n, set(names.tolist()))
        for step, word in enumerate(wanted):
            found = found[terms[found + step] == _number(term_map, word)]
    return counted.as_written(Matches(at[found], at[found + n - 1] + 1 - at[found]))


def _number(term_map: TermMap, term: str) -> int:
    found = int(np.searchsorted(term_map.terms, term))
    return found if found < len(term_map.terms) and term_map.terms[found] == term else -2


def _split(term: str, n: int, known: set[str]) -> list[str]:
    """The n terms of an n-gram, some of which may have several words themselves."""
    words = term.split(" ")
    if len(words) == n:
        return words

    def parts(at: int, left: int) -> list[str] | None:
        if not left:
            return [] if at == len(words) else None
        for end in range(at + 1, len(words) - left + 2):
            one = " ".join(words[at:end])
            if one in known and (rest := parts(end, left - 1)) is not None:
                return [one, *rest]
        return None

    return parts(0, n) or words
