"""The profile of groups or documents: how large, how varied, how repetitive."""

from collections.abc import Mapping

import numpy as np

from millstone.core.arrays import counted, merged, unique
from millstone.core.columns import renamed
from millstone.core.corpus.corpus import Corpus, group_codes, group_sizes
from millstone.core.describe.word_classes import WORD_CLASSES, tokens_by_class
from millstone.core.settings.analyses import ProfileSettings
from millstone.core.statistics.richness import (
    mean_segment_ttr,
    moving_average_ttr,
    previous_places,
    textual_diversity,
    yule_k,
)
from millstone.core.table import Table
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

    Returns
    -------
    Table
        ``group, documents``, the measures, the shares of word classes where there are tags, ``repeated_documents``;
        with ``per_document`` one row per document instead: ``document, group``, the metadata, the measures. What
        needs more tokens than there are is empty.
    """
    settings = settings or ProfileSettings()
    texts = _Texts(corpus, term_map)
    if settings.per_document:
        rows = [texts.measures(np.array([number]), settings) for number in range(len(corpus.documents))]
        described = corpus.documents.renamed(renamed(corpus.documents.names, (*MEASURES, *WORD_CLASSES)))
        return described.with_columns(dict(_table(rows, settings, texts).items()))
    codes = group_codes(corpus.documents, corpus.groups)
    rows = [texts.measures(np.flatnonzero(codes == number), settings) for number in range(len(corpus.groups))]
    table = _table(rows, settings, texts)
    sizes = group_sizes(corpus.documents, corpus.tokens, corpus.groups)
    table = table.with_columns({"group": corpus.groups, "documents": [size.documents for size in sizes]}, place=0)
    return table.with_columns({"repeated_documents": [(repeated or {}).get(group, 0) for group in corpus.groups]})


def _table(rows: list[dict[str, float]], settings: ProfileSettings, texts: "_Texts") -> Table:
    names = [name for name in MEASURES if name != "mtld" or settings.mtld]
    names += texts.classes
    return Table.of_rows([[row[name] for name in names] for row in rows], names)


def vocabulary_growth(corpus: Corpus, term_map: TermMap, points: int = 300) -> Table:
    """How the vocabulary of each group grows as its documents are read in their order.

    Parameters
    ----------
    corpus : Corpus
        From an ordered scan.
    term_map : TermMap
    points : int
        About how many places of each group are given.

    Returns
    -------
    Table
        ``group, tokens, types``: different terms among the first so many kept tokens.
    """
    texts = _Texts(corpus, term_map)
    codes = group_codes(corpus.documents, corpus.groups)
    parts = []
    for number, group in enumerate(corpus.groups):
        types = np.cumsum(previous_places(texts.kept_terms(np.flatnonzero(codes == number))) < 0)
        places = unique(np.linspace(0, len(types), points + 1).round().astype(int))
        met = np.concatenate(([0], types))[places]
        parts.append(Table({"group": group, "tokens": places, "types": met}))
    return Table.joined(parts)


class _Texts:
    """The kept terms of documents in text order, and the lengths of their sentences."""

    def __init__(self, corpus: Corpus, term_map: TermMap) -> None:
        ids, starts, breaks = corpus.sequence
        terms = term_map.term_of[ids]
        kept = terms >= 0
        self._tokens = corpus.tokens
        self.classes = tokens_by_class(corpus)
        self._terms = terms if kept.all() else terms[kept]
        is_kept = (term_map.term_of >= 0).astype(np.int64)
        lengths = np.fromiter(map(len, corpus.forms), dtype=np.int64, count=len(corpus.forms))
        self._starts = np.concatenate(([0], np.cumsum(corpus.form_counts @ is_kept)))
        self._characters = corpus.form_counts @ (lengths * is_kept)
        self._sentences = np.diff(np.searchsorted(merged(breaks, starts), starts))

    def kept_terms(self, documents: np.ndarray) -> np.ndarray:
        """(tokens,) the kept terms of some documents, one after the other."""
        pieces = [self._terms[self._starts[one] : self._starts[one + 1]] for one in documents.tolist()]
        return np.concatenate([self._terms[:0], *pieces])

    def measures(self, documents: np.ndarray, settings: ProfileSettings) -> dict[str, float]:
        """All measures of some documents taken together, those numbered `documents`."""
        terms = self.kept_terms(documents)
        before = previous_places(terms)
        freq = counted(terms)[1] if len(terms) < _FEW else np.bincount(terms)
        freq = freq[freq > 0]
        tokens, kept, types = int(self._tokens[documents].sum()), len(terms), len(freq)
        hapaxes = int((freq == 1).sum())
        characters = int(self._characters[documents].sum())
        return {
            "tokens": tokens,
            "kept_tokens": kept,
            "types": types,
            "hapaxes": hapaxes,
            "hapax_percent": _per(100 * hapaxes, types),
            "ttr": _per(types, kept),
            "msttr": mean_segment_ttr(before, settings.segment),
            "mattr": moving_average_ttr(before, settings.window),
            "mtld": textual_diversity(before) if settings.mtld else np.nan,
            "guiraud_r": _per(types, kept**0.5),
            "yule_k": yule_k(freq),
            "mean_word_length": _per(characters, kept),
            "mean_sentence_length": _per(tokens, int(self._sentences[documents].sum())),
            **{name: _per(100 * int(one[documents].sum()), tokens) for name, one in self.classes.items()},
        }


def _per(value: float, whole: float) -> float:
    return value / whole if whole else np.nan
