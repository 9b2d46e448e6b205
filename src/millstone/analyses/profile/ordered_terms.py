"""The kept terms of documents in text order, one or several documents taken together."""

from functools import cached_property

import numpy as np

from millstone.analyses.profile.settings import ProfileSettings
from millstone.analyses.profile.word_classes import tokens_by_class
from millstone.core.base.arrays import merged, unique_counts
from millstone.core.corpus.corpus import Corpus
from millstone.core.statistics.richness import previous_places
from millstone.core.terms.term_map import TermMap

# up to so many tokens it is quicker to sort them than to count all terms
_FEW = 100_000


class OrderedTerms:
    """The kept terms of documents in text order, and the lengths of their sentences."""

    def __init__(self, corpus: Corpus, term_map: TermMap) -> None:
        ids, starts, breaks = corpus.sequence
        terms = term_map.term_of[ids]
        kept = terms >= 0
        self.tokens = corpus.tokens
        self.classes = tokens_by_class(corpus)
        self._terms = terms if kept.all() else terms[kept]
        is_kept = (term_map.term_of >= 0).astype(np.int64)
        lengths = np.fromiter(map(len, corpus.forms), dtype=np.int64, count=len(corpus.forms))
        self._starts = np.concatenate(([0], np.cumsum(corpus.form_counts @ is_kept)))
        self.lengths = np.diff(self._starts)
        self.characters = corpus.form_counts @ (lengths * is_kept)
        self.sentences = np.diff(np.searchsorted(merged(breaks, starts), starts))

    def kept_terms(self, documents: np.ndarray) -> np.ndarray:
        """(tokens,) the kept terms of some documents, one after the other."""
        pieces = [self._terms[self._starts[one] : self._starts[one + 1]] for one in documents.tolist()]
        return np.concatenate([self._terms[:0], *pieces])


class Together:
    """Some documents taken together, of which measures are made.

    Parameters
    ----------
    texts : OrderedTerms
    documents : ndarray
        (documents,) their numbers.
    settings : ProfileSettings
    """

    def __init__(self, texts: OrderedTerms, documents: np.ndarray, settings: ProfileSettings) -> None:
        self._texts, self._documents, self.settings = texts, documents, settings

    @cached_property
    def terms(self) -> np.ndarray:
        """(N,) the kept terms in text order."""
        return self._texts.kept_terms(self._documents)

    @cached_property
    def before(self) -> np.ndarray:
        """(N,) where each term stood last, -1 where it had not stood."""
        return previous_places(self.terms)

    @cached_property
    def freq(self) -> np.ndarray:
        """(V,) occurrences of each term."""
        terms = self.terms
        freq = unique_counts(terms)[1] if len(terms) < _FEW else np.bincount(terms)
        return freq[freq > 0]

    @cached_property
    def tokens(self) -> int:
        """All word tokens."""
        return int(self._texts.tokens[self._documents].sum())

    @property
    def hapaxes(self) -> int:
        """Terms that occur once."""
        return int((self.freq == 1).sum())

    @property
    def characters(self) -> int:
        """Characters of the kept tokens as written."""
        return int(self._texts.characters[self._documents].sum())

    @property
    def sentences(self) -> int:
        """Sentences that have tokens."""
        return int(self._texts.sentences[self._documents].sum())

    def units(self, unit_of: np.ndarray) -> np.ndarray:
        """(N,) the unit of each kept token, from that of each document."""
        return np.repeat(unit_of[self._documents], self._texts.lengths[self._documents])

    def share(self, of_class: np.ndarray) -> float:
        """The share of a word class, (D,) tokens of it, in percent."""
        return ratio(100 * int(of_class[self._documents].sum()), self.tokens)


def ratio(value: float, whole: float) -> float:
    """`value` by `whole`; NaN where that is 0."""
    return value / whole if whole else np.nan
