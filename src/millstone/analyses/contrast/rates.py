"""The rates of categories in two groups, with fields of the texts held equal where that is asked for."""

from collections.abc import Mapping, Sequence

import numpy as np

from millstone.analyses.base.groups.held_equal import disagreement, held_equal, notes_on_fields
from millstone.analyses.base.groups.notes import TakeNote
from millstone.analyses.base.groups.pairs import ALPHA, Comparison
from millstone.analyses.contrast.settings import ContrastSettings
from millstone.analyses.keyness.sides import TwoCorpusCounts
from millstone.core.base.wording import numbered
from millstone.core.corpus.documents import as_objects
from millstone.core.evidence.adjusting import adjusting_of
from millstone.core.evidence.sampling import SamplingUnits
from millstone.core.evidence.unit_sums import units_and_sums
from millstone.core.statistics.significance import adjusted, chi2_upper_tail
from millstone.core.tables.table import Table
from millstone.core.terms.counts import Counts

_HELD = ("log_ratio_conditional", "log_ratio_conditional_low", "log_ratio_conditional_high", "p_conditional")


def rates(value: str, compared: Comparison, places: Counts, sampling: SamplingUnits | None) -> dict[str, object]:
    """The ratio of the rates of a category's places in two groups, over sampling units; empty for other values.

    Parameters
    ----------
    value : str
        A category, or another value.
    compared : Comparison
    places : Counts
        The places of categories in all documents.
    sampling : SamplingUnits or None
        Of these documents.

    Returns
    -------
    dict of str to float
        ``log_ratio, log_ratio_low, log_ratio_high, design_effect, p_rate``.
    """
    found = dict.fromkeys(("log_ratio", "log_ratio_low", "log_ratio_high", "design_effect", "p_rate"), np.nan)
    names = list(places.terms)
    if value not in names:
        return dict(found)
    target, reference = places.part((compared.target,)), places.part(compared.against)
    if not target.tokens or not reference.tokens:
        return dict(found)
    term = np.array([names.index(value)])
    a, b = target.freq[term], reference.freq[term]
    _, sums = units_and_sums(target, reference, term, sampling) if a[0] + b[0] else (None, None)
    sides = TwoCorpusCounts(a, b, target.tokens, reference.tokens, sums=sums, over_units=sums is not None)
    statistic = sides.likelihood if sums is None else sides.by_documents
    values = (sides.ratio[0], *sides.limits, sides.design_effect, chi2_upper_tail(statistic))
    return dict(zip(found, (float(one[0]) for one in values), strict=True)) if a[0] + b[0] else dict(found)


def with_fields_held(
    table: Table,
    compared: Sequence[Comparison],
    places: Counts,
    sampling: SamplingUnits | None,
    settings: ContrastSettings,
    note: TakeNote,
) -> Table:
    """The table with the ratios of categories among texts that are alike in some fields.

    Parameters
    ----------
    table : Table
        A row for each value and comparison.
    compared : sequence of Comparison
    places : Counts
        The places of categories in all documents.
    sampling : SamplingUnits or None
    settings : ContrastSettings
        With the fields.
    note : callable
        Receives how many categories differ, and what the fields leave out.

    Returns
    -------
    Table
        With ``log_ratio_conditional, log_ratio_conditional_low, log_ratio_conditional_high, p_conditional,
        p_conditional_adjusted`` before the note, which says where the ratios disagree.
    """
    assert sampling is not None
    adjusting = adjusting_of(places.documents, settings.adjust_for)
    found = {name: np.full(len(table), np.nan) for name in _HELD}
    row_of = {
        key: row for row, key in enumerate(zip(table["value"], table["group_a"], table["group_b"], strict=True))
    }
    sides, without = [], []
    for one in compared:
        target, reference = places.part((one.target,)), places.part(one.against)
        held = held_equal(one, target, reference, sampling, adjusting)
        if held is None:
            without.append(one)
            continue
        sides.append((one, target, reference))
        ratios = held.ratios(target, np.arange(len(places.terms)))
        rows = [row_of[name, one.target, one.reference] for name in places.terms]
        values = (ratios.log_ratio, ratios.low, ratios.high, ratios.p)
        for name, own in zip(_HELD, values, strict=True):
            found[name][rows] = own
    p, p_rate = adjusted(found["p_conditional"], settings.adjust), adjusted(_floats(table, "p_rate"), settings.adjust)
    passes = p < ALPHA
    note(_passing(adjusting.named, passes, p_rate < ALPHA))
    for text in notes_on_fields(adjusting, sides, without):
        note(text)
    told = disagreement(
        _floats(table, "log_ratio"), found["log_ratio_conditional"], passes | (p_rate < ALPHA), adjusting.named
    )
    columns = {**found, "p_conditional_adjusted": p, "note": _noted(table, told)}
    return table.without("note").with_columns(columns)


def _passing(named: str, passes: np.ndarray, passes_without: np.ndarray) -> str:
    """How many rates differ with fields held equal, and of how many that differ without."""
    both = int((passes & passes_without).sum())
    return (
        f"with {named} held equal {numbered(int(passes.sum()), 'difference')} of rates pass (p adjusted < "
        f"{ALPHA:g}), {both:,} of the {int(passes_without.sum()):,} that pass without"
    )


def _noted(table: Table, told: Mapping[str, np.ndarray]) -> np.ndarray:
    """The notes of the rows with further ones, each of which says which rows have it."""
    notes = list(map(str, table["note"].tolist()))
    for text, which in told.items():
        for row in np.flatnonzero(which).tolist():
            notes[row] = "; ".join(filter(None, (notes[row], text)))
    return as_objects(notes)


def _floats(table: Table, name: str) -> np.ndarray:
    return np.asarray(table[name], dtype=float)
