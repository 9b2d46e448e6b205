"""The smallest ratios that a comparison of groups would find, by frequency."""

from collections.abc import Iterator
from itertools import permutations
from typing import Any

import numpy as np
from scipy import special

from millstone.analyses.base.groups.notes import TakeNote
from millstone.analyses.base.groups.pairs import check_some_left, check_two_groups, chosen_terms
from millstone.analyses.plan.settings import PlanSettings, planned_group
from millstone.core.base.errors import DataError
from millstone.core.base.light_dataclass import frozen
from millstone.core.base.wording import listed
from millstone.core.corpus.group_names import check_group_names
from millstone.core.evidence.power import smallest_ratio
from millstone.core.evidence.quasi_likelihood import dispersion
from millstone.core.evidence.sampling import SamplingUnits, sampling_units
from millstone.core.evidence.unit_sums import UnitsOfSides, smallest_p, unit_sums
from millstone.core.statistics.contingency import log_likelihood
from millstone.core.tables.table import Table, WholeNumbers
from millstone.core.terms.counts import Counts

FEW = 8
"""With fewer units on a side the test finds less than it should, and the ratios are too hopeful."""
_HIGHEST = 100_000
_LEAST = 4.0
"""Documents that a test over documents takes at least: two on each side."""


@frozen
class _Sides:
    """Two sides: their tokens, how many units they have, and the terms that were measured in them, if any.

    Attributes
    ----------
    target, reference : str
    n1, n2 : int
    units : UnitsOfSides
    rate, dispersion : ndarray
        (terms,) per million tokens on both sides together, and how many times more they vary than chance would.
    terms : int
        How many are compared.
    """

    target: str
    reference: str
    n1: int
    n2: int
    units: UnitsOfSides
    rate: np.ndarray
    dispersion: np.ndarray
    terms: int


def plan(counts: Counts, settings: PlanSettings | None = None, note: TakeNote = lambda text: None) -> Table:
    """The smallest ratios that comparisons of groups of texts would find.

    Parameters
    ----------
    counts : Counts
        Two groups or more.
    settings : PlanSettings, optional
    note : callable
        Receives what to look out for.

    Returns
    -------
    Table
        ``target, reference, per_million, terms, design_effect, design_effect_90, smallest_ratio,
        smallest_ratio_strict, documents_for_2``: a row for each order of two groups, and for each band of frequency
        that has terms: 1, 3, 10, 30, ... per million tokens.

    Raises
    ------
    DataError
        For one group, or no term that is left.

    References
    ----------
    Self, S. G. & Mauritsen, R. H. (1988). Power/sample size calculations for generalized linear models.
    """
    settings = settings or PlanSettings()
    check_two_groups(counts.groups, "a plan")
    check_group_names(counts.sizes)
    units = sampling_units(counts.documents, settings.sampling_unit, settings.independent_units)
    sides, lone = [], []
    for target, reference in permutations(counts.groups, 2):
        one = _measured(counts, target, reference, units, settings)
        if one is None:
            lone += [
                group for group in (target, reference) if units.number(counts.part((group,)).rows_with_tokens) < 2
            ]
        else:
            sides.append(one)
    if lone:
        named = listed(dict.fromkeys(lone))
        one_unit = units.counted(1).removeprefix("1 ")
        note(
            f"one {one_unit} in {named}: how much words vary between documents is not known, and nothing can be said"
        )
    if not sides:
        raise DataError(
            "no two groups have two documents each: how much words vary between documents is not known",
            "give more documents, or type --sizes NAME=DOCUMENTSxTOKENS in place of texts",
        )
    pairs = [one for one in sides if one.target < one.reference]
    terms = [
        f"{one.terms:,} terms" + (f" of {one.target} and {one.reference}" if len(pairs) > 1 else "") for one in pairs
    ]
    note(f"p below {settings.alpha:g}, power {settings.power:g}; smallest_ratio_strict allows for {listed(terms)}")
    return _planned(sides, settings, note)


def plan_of_sizes(settings: PlanSettings, note: TakeNote = lambda text: None) -> Table:
    """The smallest ratios that comparisons would find in texts that are still to be gathered.

    Parameters
    ----------
    settings : PlanSettings
        With sizes of two groups or more.
    note : callable
        Receives what was assumed.

    Returns
    -------
    Table
        As `plan` gives it without ``terms`` and ``design_effect_90``; for words of 1 to 30,000 per million tokens.
    """
    sides = []
    for one, other in permutations([planned_group(typed) for typed in settings.sizes], 2):
        sizes = np.repeat([float(one.tokens), float(other.tokens)], [one.documents, other.documents])
        first = np.arange(len(sizes)) < one.documents
        empty = np.zeros(0, dtype=np.int64), np.zeros(len(sizes) + 1, dtype=np.int64)
        units = UnitsOfSides(
            np.where(first, sizes, 0), np.where(first, 0, sizes), (empty[0], empty[0]), (empty[1], empty[1])
        )
        n1, n2 = one.documents * one.tokens, other.documents * other.tokens
        sides.append(_Sides(one.name, other.name, n1, n2, units, np.zeros(0), np.zeros(0), settings.terms))
    if settings.design_effect == PlanSettings().design_effect:
        note(
            "design effect 1: words are taken to vary between documents as chance would have it, and most vary more; "
            "millstone plan INPUT measures it in texts of the kind"
        )
    note(f"smallest_ratio_strict allows for {settings.terms:,} terms")
    return _planned(sides, settings, note).without("terms", "design_effect_90")


def _measured(
    counts: Counts, target: str, reference: str, units: SamplingUnits, settings: PlanSettings
) -> _Sides | None:
    """Two groups with their terms; None where one has not two sampling units."""
    one, other = (counts.part((group,)) for group in (target, reference))
    of_sides = UnitsOfSides.of(one, other, units)
    if min(of_sides.number) < 2:
        return None
    wanted = np.flatnonzero(chosen_terms(one, other, settings))
    check_some_left(len(wanted))
    sums = unit_sums(one, other, wanted, of_sides)
    n1, n2 = one.tokens, other.tokens
    with np.errstate(divide="ignore"):
        own = np.log(sums.a / n1) - np.log(sums.b / n2)
    at = np.where((sums.a > 0) & (sums.b > 0), own, 0.0)
    rate = 1e6 * (sums.a + sums.b) / (n1 + n2)
    return _Sides(target, reference, n1, n2, of_sides, rate, dispersion(sums, at), len(wanted))


def _planned(sides: list[_Sides], settings: PlanSettings, note: TakeNote) -> Table:
    rows = [row for one in sides for row in _rows(one, settings)]
    few = [one for one in sides if min(one.units.number) < FEW and one.target < one.reference]
    noun = f"units by {settings.sampling_unit}" if settings.sampling_unit else "documents"
    for sizes in dict.fromkeys(one.units.number for one in few):
        alike = [one for one in few if one.units.number == sizes]
        least = min(smallest_p(one.units) for one in alike)
        said = "only large and steady differences can show, and the ratios are too hopeful"
        if least >= settings.alpha:
            said = "no ratio can be found"
        named = listed([f"{one.target} and {one.reference}" for one in alike])
        reach = f"the smallest p that a term can have is {least:.2g}"
        note(f"{named}: {sizes[0]} against {sizes[1]} {noun}: {said} ({reach})")
    if any(np.isnan(row["smallest_ratio"]) for row in rows):
        note("empty: no ratio can be found, however large; such terms are too rare for so few texts")
    table = Table.of_rows([tuple(row.values()) for row in rows], list(rows[0]))
    whole = {name: WholeNumbers.of(np.asarray(table[name], dtype=float)) for name in ("terms", "documents_for_2")}
    return table.with_columns(whole)


def _rows(one: _Sides, settings: PlanSettings) -> Iterator[dict[str, Any]]:
    """A row for each band that has terms; without texts for each that may have some."""
    reachable = smallest_p(one.units) < settings.alpha
    documents = len(one.units.target)
    for least, most in _bands():
        of_band = (one.rate >= least) & (one.rate < most)
        inside = one.dispersion[of_band]
        measured = len(one.rate) > 0
        if measured and not len(inside):
            continue
        phi = float(np.median(inside)) if measured else max(settings.design_effect, 1.0)
        rate = float(one.rate[of_band].mean()) if measured else least
        count = np.array([rate * (one.n1 + one.n2) / 1e6])
        z = [_z(level, settings.power) for level in (settings.alpha, settings.alpha / one.terms)]
        found = [float(smallest_ratio(count, one.n1, one.n2, phi, at)[0]) if reachable else np.nan for at in z]
        share = 2 * one.n1 / (2 * one.n1 + one.n2)
        information = log_likelihood(count * share, count * (1 - share), one.n1, one.n2)[0]
        yield {
            "target": one.target,
            "reference": one.reference,
            "per_million": least,
            "terms": len(inside) if measured else np.nan,
            "design_effect": phi,
            "design_effect_90": float(np.quantile(inside, 0.9)) if measured else np.nan,
            "smallest_ratio": found[0],
            "smallest_ratio_strict": found[1],
            "documents_for_2": max(float(np.ceil(documents * z[0] ** 2 * phi / information)), _LEAST),
        }


def _bands() -> Iterator[tuple[int, int]]:
    """1 to 3, 3 to 10, 10 to 30, ... per million tokens."""
    power = 1
    while power < _HIGHEST:
        yield power, 3 * power
        yield 3 * power, 10 * power
        power *= 10


def _z(level: float, power: float) -> float:
    """The quantiles of the normal distribution that belong to a two-sided level and a power, added up."""
    return float(special.ndtri(1 - level / 2) + special.ndtri(power))
