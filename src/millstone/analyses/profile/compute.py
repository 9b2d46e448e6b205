"""The profile of groups or documents: how large, how varied, how repetitive."""

from collections.abc import Mapping, Sequence

import numpy as np

from millstone.analyses.profile.measures import MEASURES
from millstone.analyses.profile.ordered_terms import OrderedTerms, Together
from millstone.analyses.profile.settings import ProfileSettings
from millstone.analyses.profile.word_classes import WORD_CLASSES
from millstone.core.corpus.corpus import Corpus, group_codes, group_sizes
from millstone.core.tables.columns import renamed
from millstone.core.tables.table import Table
from millstone.core.terms.term_map import TermMap


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
        rows = [_measured(texts, np.array([number]), settings, names) for number in range(len(corpus.documents))]
        described = corpus.documents.renamed(renamed(corpus.documents.names, (*MEASURES, *WORD_CLASSES)))
        return described.with_columns(dict(Table.of_rows(rows, names).items()))
    codes = group_codes(corpus.documents, corpus.groups)
    rows = [
        _measured(texts, np.flatnonzero(codes == number), settings, names) for number in range(len(corpus.groups))
    ]
    table = Table.of_rows(rows, names)
    sizes = group_sizes(corpus.documents, corpus.tokens, corpus.groups)
    table = table.with_columns({"group": corpus.groups, "documents": [size.documents for size in sizes]}, place=0)
    return table.with_columns({"repeated_documents": [(repeated or {}).get(group, 0) for group in corpus.groups]})


def _measured(
    texts: OrderedTerms, documents: np.ndarray, settings: ProfileSettings, names: Sequence[str]
) -> list[float]:
    """Some measures of some documents taken together, those numbered `documents`; no other is computed."""
    one = Together(texts, documents, settings)
    return [one.share(texts.classes[name]) if name in texts.classes else MEASURES[name].of(one) for name in names]
