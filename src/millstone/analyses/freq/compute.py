"""Frequency lists and dispersion."""

from operator import add
from typing import Any

import numpy as np

from millstone.analyses.dispersion.measures import MEASURES as DISPERSION
from millstone.analyses.dispersion.measures import Spread
from millstone.analyses.freq.measures import MEASURES, NgramCounts
from millstone.analyses.freq.settings import FrequencySettings
from millstone.core.base.arrays import begins, unique_inverse
from millstone.core.matrix.totals import column_sums
from millstone.core.statistics.association import (
    ngram_parts,
)
from millstone.core.statistics.ranks import competition_ranks
from millstone.core.tables.table import Table, WholeNumbers
from millstone.core.terms.counts import Counts, FormCounts, NgramNames, Part

TOTAL = "total"
SHOWN_OF_DISPERSION = ("dp", "dp_expected", "evenness")
"""The measures of dispersion that a frequency list has."""


def frequency_list(counts: Counts, settings: FrequencySettings | None = None) -> Table:
    """The terms of each group with frequency, documents and dispersion.

    Parameters
    ----------
    counts : Counts
    settings : FrequencySettings, optional
        Choose rows; ranks are among all kept terms.

    Returns
    -------
    Table
        ``group, rank, term, freq, per_million, docs, docs_percent, dp, dp_expected, evenness``; for n-grams ``mi,
        t_score, log_dice``; and ``forms``, the words behind each term, where several may count as one. By group, then
        rank, equal frequencies in code-point order.
    """
    settings = settings or FrequencySettings()
    # put together column by column: of many groups a table each would take far longer than counting
    lists = [_list_of(counts, group, settings) for group in counts.groups]
    sizes = [len(one["rank"]) for one in lists]
    columns: dict[str, Any] = {"group": np.repeat(np.array(counts.groups, dtype=object), sizes)}
    for name in list(lists[0]):
        parts = [one.pop(name) for one in lists]
        columns[name] = np.concatenate(parts) if len(parts) > 1 else parts[0]
    return Table(columns | {"docs": WholeNumbers.of(columns["docs"])})


def side_by_side(counts: Counts, settings: FrequencySettings | None = None) -> Table:
    """The terms with their frequency in each group and in all of them.

    Parameters
    ----------
    counts : Counts
    settings : FrequencySettings, optional
        A term has a row when it is chosen in any group; its row is whole all the same.

    Returns
    -------
    Table
        ``term``, then ``freq, per_million, rank, docs`` of each group, ``_GROUP`` after each name, and of the
        total; by frequency in the total. A term that is absent from a group has no rank there.
    """
    settings = settings or FrequencySettings()
    parts = {group: counts.part((group,)) for group in counts.groups}
    chosen = np.zeros(len(counts.terms), dtype=bool)
    for part in parts.values():
        chosen[_chosen(counts, part, settings)[0]] = True
    total = counts.part(counts.groups)
    terms = np.flatnonzero(chosen)
    terms = terms[np.argsort(-total.freq[terms], kind="stable")]
    columns: dict[str, Any] = {"term": counts.terms[terms]}
    for name, part in [*parts.items(), (TOTAL if TOTAL not in parts else f"{TOTAL}_of_all", total)]:
        freq, unknown = part.freq[terms], part.unknown[terms]
        rate = 1e6 * freq / max(part.tokens, 1)
        columns[f"freq_{name}"] = WholeNumbers(freq, unknown) if unknown.any() else freq
        columns[f"per_million_{name}"] = np.where(unknown, np.nan, rate)
        columns[f"rank_{name}"] = WholeNumbers(competition_ranks(freq, part.freq), (freq == 0) | unknown)
        columns[f"docs_{name}"] = WholeNumbers.of(part.docs[terms])
    return Table(columns)


def terms_by_frequency(part: Part, min_freq: int, max_freq: int, min_docs: int) -> np.ndarray:
    """The numbers of the terms that are present and within the limits, the commonest first; 0 means no limit."""
    wanted = part.freq >= max(min_freq, 1)
    if min_docs:
        wanted &= part.docs >= min_docs
    if max_freq:
        wanted &= part.freq <= max_freq
    terms = np.flatnonzero(wanted)
    return terms[np.argsort(-part.freq[terms], kind="stable")]


def _chosen(counts: Counts, part: Part, settings: FrequencySettings) -> tuple[np.ndarray, dict[str, np.ndarray]]:
    """The chosen terms of those that are present, by rank, and their associations."""
    terms = terms_by_frequency(part, settings.min_freq, settings.max_freq, settings.min_docs)
    association = _association(counts, part, terms)
    if settings.min_log_dice is not None and association:
        firm = association["log_dice"] >= settings.min_log_dice
        terms, association = terms[firm], {name: values[firm] for name, values in association.items()}
    return terms, association


def _list_of(counts: Counts, group: str, settings: FrequencySettings) -> dict[str, np.ndarray]:
    part = counts.part((group,))
    terms, association = _chosen(counts, part, settings)
    freq, docs = part.freq[terms], part.docs[terms]
    spread = Spread(part.matrix, part.base, terms)
    columns = {
        "rank": competition_ranks(freq, part.freq),
        "term": np.asarray(counts.terms[terms], dtype=object),
        "freq": freq,
        "per_million": 1e6 * freq / max(part.tokens, 1),
        "docs": docs,
        "docs_percent": 100 * docs / (part.documents or 1),
        **{name: DISPERSION[name].of(spread) for name in SHOWN_OF_DISPERSION},
        **association,
    }
    if counts.forms is not None:
        columns["forms"] = _forms(counts.forms, part, terms)
    return columns


def _association(counts: Counts, part: Part, chosen: np.ndarray) -> dict[str, np.ndarray]:
    """How firmly the words of the chosen n-grams are tied; nothing for single terms."""
    if not isinstance(counts.terms, NgramNames):
        return {}
    freq, words = part.freq[chosen].astype(float), counts.terms.words
    if words.shape[1] > 2 and counts.terms.single is not None:
        single = counts.terms.single
        each = column_sums(single.matrix.rows(part.rows))[words[chosen]].astype(float)
        data = NgramCounts(freq, each, np.full(len(chosen), float(single.tokens[part.rows].sum())))
    else:
        first, last, size = ngram_parts(words, part.freq, part.tokens, chosen)
        data = NgramCounts(freq, np.column_stack((first, last)), size)
    return {name: measure.of(data) for name, measure in MEASURES.items()}


def _forms(forms: FormCounts, part: Part, terms: np.ndarray) -> np.ndarray:
    """(terms,) the words of some terms with their frequency, commonest first: ``walk: 12; walks: 7``."""
    place = np.full(len(part.freq), -1, dtype=np.int64)
    place[terms] = np.arange(len(terms))
    freq = column_sums(forms.matrix.rows(part.rows))
    some = np.flatnonzero((freq > 0) & (place[forms.term_of] >= 0))
    some = some[np.lexsort((-freq[some], place[forms.term_of[some]]))]
    # many words have the same frequency, and writing numbers is slow
    different, number = unique_inverse(freq[some])
    ends = np.array([f": {times}" for times in different.tolist()], dtype=object)[number]
    shown = np.array(list(map(add, forms.words[some].tolist(), ends.tolist())), dtype=object)
    # every term that is chosen has a word
    starts = np.flatnonzero(begins(place[forms.term_of[some]]))
    after = np.append(starts[1:], len(some))
    found = shown[starts]
    for term in np.flatnonzero(after - starts > 1).tolist():
        found[term] = "; ".join(shown[starts[term] : after[term]])
    return found
