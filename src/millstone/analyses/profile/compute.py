"""The profile of groups or documents: how large, how varied, how repetitive."""

from collections.abc import Mapping, Sequence
from functools import cached_property

import numpy as np

from millstone.analyses.profile.settings import ProfileSettings
from millstone.analyses.profile.word_classes import WORD_CLASSES, tokens_by_class
from millstone.core.base.arrays import counted, merged
from millstone.core.corpus.corpus import Corpus, group_codes, group_sizes
from millstone.core.statistics.richness import (
    mean_segment_ttr,
    moving_average_ttr,
    previous_places,
    textual_diversity,
    yule_k,
)
from millstone.core.tables.columns import renamed
from millstone.core.tables.table import Table
from millstone.core.terms.term_map import TermMap

MEASURES = (
    *("tokens", "kept_tokens", "types", "hapaxes", "hapax_percent", "ttr", "msttr", "mattr", "mtld"),
    *("guiraud_r", "yule_k", "mean_word_length", "mean_sentence_length"),
)

# up to so many tokens it is quicker to sort them than to count all terms
_FEW = 100_000


def profile(
    corpus: Corpus,
    term_map: TermMap,
    settings: ProfileSettings | None = None,
    repeated: Mapping[str, int] | None = None,
    only: Sequence[str] = (),
) -> Table:
    """How large and how varied each group, or each document, is.

    Parameters
    ----------
    corpus : Corpus
        From an ordered scan.
    term_map : TermMap
        Measures of variety are computed on the kept terms, in the order of the text.
    settings : ProfileSettings, optional
    repeated : mapping, optional
        Group -> documents whose text occurred before in it.
    only : sequence of str
        The measures that are wanted, by their names; all by default.

    Returns
    -------
    Table
        ``group, documents``, the measures, the shares of word classes where there are tags, ``repeated_documents``;
        with ``per_document`` one row per document instead: ``document, group``, the metadata, the measures. What
        needs more tokens than there are is empty.
    """
    settings = settings or ProfileSettings()
    texts = OrderedTerms(corpus, term_map)
    names = [name for name in MEASURES if name != "mtld" or settings.mtld] + list(texts.classes)
    names = [name for name in names if not only or name in only]
    if settings.per_document:
        rows = [texts.measures(np.array([number]), settings, names) for number in range(len(corpus.documents))]
        described = corpus.documents.renamed(renamed(corpus.documents.names, (*MEASURES, *WORD_CLASSES)))
        return described.with_columns(dict(Table.of_rows(rows, names).items()))
    codes = group_codes(corpus.documents, corpus.groups)
    rows = [texts.measures(np.flatnonzero(codes == number), settings, names) for number in range(len(corpus.groups))]
    table = Table.of_rows(rows, names)
    sizes = group_sizes(corpus.documents, corpus.tokens, corpus.groups)
    table = table.with_columns({"group": corpus.groups, "documents": [size.documents for size in sizes]}, place=0)
    return table.with_columns({"repeated_documents": [(repeated or {}).get(group, 0) for group in corpus.groups]})


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
        self.characters = corpus.form_counts @ (lengths * is_kept)
        self.sentences = np.diff(np.searchsorted(merged(breaks, starts), starts))

    def kept_terms(self, documents: np.ndarray) -> np.ndarray:
        """(tokens,) the kept terms of some documents, one after the other."""
        pieces = [self._terms[self._starts[one] : self._starts[one + 1]] for one in documents.tolist()]
        return np.concatenate([self._terms[:0], *pieces])

    def measures(self, documents: np.ndarray, settings: ProfileSettings, names: Sequence[str]) -> list[float]:
        """Some measures of some documents taken together, those numbered `documents`; no other is computed."""
        one = _Together(self, documents, settings)
        return [one.share(self.classes[name]) if name in self.classes else getattr(one, name) for name in names]


class _Together:
    """Some documents taken together: each measure under its name."""

    def __init__(self, texts: OrderedTerms, documents: np.ndarray, settings: ProfileSettings) -> None:
        self._texts, self._documents, self._settings = texts, documents, settings

    @cached_property
    def _terms(self) -> np.ndarray:
        return self._texts.kept_terms(self._documents)

    @cached_property
    def _before(self) -> np.ndarray:
        return previous_places(self._terms)

    @cached_property
    def _freq(self) -> np.ndarray:
        terms = self._terms
        freq = counted(terms)[1] if len(terms) < _FEW else np.bincount(terms)
        return freq[freq > 0]

    @cached_property
    def tokens(self) -> int:
        return int(self._texts.tokens[self._documents].sum())

    @property
    def kept_tokens(self) -> int:
        return len(self._terms)

    @property
    def types(self) -> int:
        return len(self._freq)

    @property
    def hapaxes(self) -> int:
        return int((self._freq == 1).sum())

    @property
    def hapax_percent(self) -> float:
        return _per(100 * self.hapaxes, self.types)

    @property
    def ttr(self) -> float:
        return _per(self.types, self.kept_tokens)

    @property
    def msttr(self) -> float:
        return mean_segment_ttr(self._before, self._settings.segment)

    @property
    def mattr(self) -> float:
        return moving_average_ttr(self._before, self._settings.window)

    @property
    def mtld(self) -> float:
        return textual_diversity(self._before)

    @property
    def guiraud_r(self) -> float:
        return _per(self.types, self.kept_tokens**0.5)

    @property
    def yule_k(self) -> float:
        return yule_k(self._freq)

    @property
    def mean_word_length(self) -> float:
        return _per(int(self._texts.characters[self._documents].sum()), self.kept_tokens)

    @property
    def mean_sentence_length(self) -> float:
        return _per(self.tokens, int(self._texts.sentences[self._documents].sum()))

    def share(self, of_class: np.ndarray) -> float:
        """The share of a word class, (D,) tokens of it, in percent."""
        return _per(100 * int(of_class[self._documents].sum()), self.tokens)


def _per(value: float, whole: float) -> float:
    return value / whole if whole else np.nan
