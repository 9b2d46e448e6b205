"""The profile of groups or documents: how large, how varied, how repetitive."""

from collections.abc import Mapping, Sequence

import numpy as np

from millstone.analyses.profile.intervals import MEASURES_WITH_INTERVAL, intervals
from millstone.analyses.profile.measures import MEASURES
from millstone.analyses.profile.ordered_terms import OrderedTerms, Together
from millstone.analyses.profile.settings import ProfileSettings
from millstone.analyses.profile.word_classes import WORD_CLASSES
from millstone.core.corpus.corpus import Corpus, group_codes, group_sizes
from millstone.core.evidence.sampling import sampling_units
from millstone.core.statistics.richness import expected_types
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
        ``group, documents``, the measures, those of mattr, mtld and hdd with 95 % intervals over sampling units, the
        shares of word classes where there are tags, ``repeated_documents``. With ``per_document`` one row per
        document instead: ``document, group``, the metadata, the measures. Under ``equal_length`` also
        ``equal_tokens, equal_types, equal_ttr``. What needs more tokens than there are is empty.
    """
    settings = settings or ProfileSettings()
    texts = OrderedTerms(corpus, term_map)
    if settings.per_document:
        each = [np.array([number]) for number in range(len(corpus.documents))]
    else:
        codes = group_codes(corpus.documents, corpus.groups)
        each = [np.flatnonzero(codes == number) for number in range(len(corpus.groups))]
    together = [Together(texts, documents, settings) for documents in each]
    names = [name for name in MEASURES if name != "mtld" or settings.mtld] + list(texts.classes)
    names = [name for name in names if not only or name in only]
    if settings.per_document:
        rows = [_measured(one, texts, names) for one in together]
        described = corpus.documents.renamed(renamed(corpus.documents.names, (*MEASURES, *WORD_CLASSES)))
        table = _with_equal_length(Table.of_rows(rows, names), together, settings)
        return described.with_columns(dict(table.items()))
    table = Table.of_rows([_measured(one, texts, names) for one in together], names)
    table = _with_equal_length(table, together, settings)
    sampling = sampling_units(corpus.documents, settings.sampling_unit, settings.independent_units)
    table = _with_intervals(table, together, sampling.of)
    sizes = group_sizes(corpus.documents, corpus.tokens, corpus.groups)
    table = table.with_columns({"group": corpus.groups, "documents": [size.documents for size in sizes]}, place=0)
    return table.with_columns({"repeated_documents": [(repeated or {}).get(group, 0) for group in corpus.groups]})


def _with_equal_length(table: Table, together: Sequence[Together], settings: ProfileSettings) -> Table:
    """Add types and ttr as a random sample of the tokens has them, where that is asked for."""
    if not settings.equal_length:
        return table
    shortest = settings.equal_length == "shortest"
    sizes = [len(one.terms) for one in together if len(one.terms)]
    tokens = min(sizes, default=0) if shortest else int(settings.equal_length)
    types = np.array([expected_types(one.freq, tokens) if len(one.terms) else np.nan for one in together])
    return table.with_columns(
        {"equal_tokens": np.full(len(together), tokens), "equal_types": types, "equal_ttr": types / max(tokens, 1)}
    )


def _with_intervals(table: Table, together: Sequence[Together], unit_of: np.ndarray) -> Table:
    """Add the limits of the intervals of the measures that have such."""
    wanted = [name for name in MEASURES_WITH_INTERVAL if name in table]
    found = []
    for row, one in enumerate(together):
        values = {name: float(np.asarray(table[name], dtype=float)[row]) for name in wanted}
        found.append(intervals(one, one.units(unit_of), values))
    for name in wanted:
        limits = np.array([one[name] for one in found])
        columns = {f"{name}_{end}": limits[:, side] for side, end in enumerate(("low", "high"))}
        table = table.with_columns(columns, table.names.index(name) + 1)
    return table


def _measured(one: Together, texts: OrderedTerms, names: Sequence[str]) -> list[float]:
    """Some measures of some documents taken together; no other is computed."""
    return [one.share(texts.classes[name]) if name in texts.classes else MEASURES[name].of(one) for name in names]
