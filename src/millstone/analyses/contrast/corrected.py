"""Shares of units of a category in two groups: as counted, and corrected by what coders say of a sample of them."""

from collections.abc import Iterator, Sequence
from pathlib import Path

import numpy as np

from millstone.analyses.agreement.compute import settled
from millstone.analyses.agreement.sheets import CodedSheets, check_arbiter, read_sheets
from millstone.analyses.base.groups.pairs import Comparison, comparisons
from millstone.analyses.base.matches.dictionary_input import dictionary_of, note_no_hit
from millstone.analyses.base.step import Step
from millstone.analyses.contrast.compute import FEW
from millstone.analyses.contrast.settings import ContrastSettings
from millstone.core.base.errors import DataError, UsageError
from millstone.core.base.light_dataclass import frozen
from millstone.core.base.wording import listed, numbered
from millstone.core.coding.agreement import Estimate
from millstone.core.coding.misclassified import (
    LEAST,
    Coded,
    Rates,
    corrected_difference,
    corrected_share,
    rates_of,
    reach_of,
)
from millstone.core.coding.prevalence import Share, difference_of, share_of
from millstone.core.coding.sealed import names_of_units
from millstone.core.corpus.corpus import Corpus
from millstone.core.dictionary.matches import find_matches
from millstone.core.evidence.sampling import sampling_units
from millstone.core.settings.as_typed import settings_words
from millstone.core.settings.declare import declared
from millstone.core.settings.inputs import InputOptions
from millstone.core.tables.table import Table
from millstone.outputs.files.companion import read_companion
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.scanned_texts import ScannedTexts

FEW_CODED, FEW_OF_A_CODE = 30, 5
"""A group has rates of its own with so many coded units, and so many of each code."""
_WIDE = 2
_TOGETHER = "one rate for both"
_PERCENT = 100
COLUMNS = (
    *("group_a", "group_b", "category", "share_a", "share_b", "difference", "ci_low", "ci_high"),
    *("corrected_a", "corrected_b", "corrected_difference", "corrected_low", "corrected_high"),
    *("sensitivity_a", "sensitivity_b", "specificity_a", "specificity_b", "coded_a", "coded_b"),
    *("units_a", "units_b", "note"),
)


@frozen
class _Counted:
    """The units of the texts, with hits and groups, and which of them are coded.

    Attributes
    ----------
    hits : ndarray
        (units, categories) bool.
    categories : tuple of str
        Those that the dictionary and the sheets both have.
    group : ndarray
        (units,) its group.
    cluster : ndarray
        (units,) int64 the sampling unit of each.
    place : ndarray
        (coded,) int64 the number of each unit of the sheets among those of the texts.
    noun : str
        What a sampling unit is called.
    """

    hits: np.ndarray
    categories: tuple[str, ...]
    group: np.ndarray
    cluster: np.ndarray
    place: np.ndarray
    noun: str


def corrected(step: Step[ContrastSettings], material: ScannedTexts, notes: list[str]) -> Table:
    """The shares of units of each category in each pair of groups, as counted and corrected.

    Parameters
    ----------
    step : Step
        With a dictionary and coding sheets.
    material : ScannedTexts
        Cut into the units of the sheets.
    notes : list of str

    Returns
    -------
    Table
        `COLUMNS`; shares and differences in percent. Two groups with `FEW_CODED` coded units each have rates of their
        own, others those of all units.

    Raises
    ------
    DataError
        For coded units that the texts do not have, no category in common, or a category that hardly tells anything.

    References
    ----------
    Rogan, W. J. & Gladen, B. (1978). Estimating prevalence from the results of a screening test.
    """
    settings, groups = step.settings, material.corpus.groups
    # what is read of sheets is not read of the texts, which other steps share
    provenance = Provenance()
    sheets = read_sheets(settings.corrected_by, InputOptions(), provenance, "--corrected-by")
    notes += provenance.notes
    check_arbiter(settings.arbiter, sheets)
    counted = _counted(step, material.corpus, sheets, notes)
    rows, reaches = [], []
    for column, name in enumerate(counted.categories):
        coded = _coded(sheets, counted, column, settings.arbiter)
        for compared in comparisons(groups, settings.against):
            sides, apart = _sides(counted, column, coded, compared, settings.same_rates)
            reaches.append((name, _reach(sides)))
            rows.append(_row(name, sides, apart or settings.same_rates, counted.noun))
    if not any(reach >= LEAST for _, reach in reaches):
        name, reach = reaches[0]
        why = "no unit of it is coded" if np.isnan(reach) else f"sensitivity + specificity - 1 is {reach:.2f}"
        raise DataError(
            f"--corrected-by: {name} cannot be corrected, since {why}",
            f"below {LEAST:g} a category tells next to nothing: mend the dictionary, or code more units",
        )
    table = Table.of_rows(rows, list(COLUMNS))
    refused = dict.fromkeys(name for name, reach in reaches if not reach >= LEAST)
    if refused:
        notes.append(
            f"{listed(refused)}: not corrected where a category hardly tells its units from others (see note)"
        )
    together = sum(_TOGETHER in note for note in table["note"])
    if together:
        notes.append(
            f"{together:,} of {numbered(len(rows), 'row')} corrected with one rate for both groups: fewer than "
            f"{FEW_CODED} coded units of a group, or {FEW_OF_A_CODE} of a code"
        )
    _note_wide(table, np.array([reach for _, reach in reaches]), settings.same_rates, notes)
    return table


def _note_wide(table: Table, reach: np.ndarray, same_rates: bool, notes: list[str]) -> None:
    """Say where the error of the coded units makes up most of an interval."""
    width = {
        name: np.asarray(table[f"{name}_high"]) - np.asarray(table[f"{name}_low"]) for name in ("ci", "corrected")
    }
    wide = int((width["corrected"] > _WIDE * width["ci"] / reach).sum())
    if wide:
        also = "" if same_rates else ", or --same-rates if the category may be taken to err alike in all groups"
        which = f"{wide:,} of {numbered(len(reach), 'corrected interval')} {'is' if wide == 1 else 'are'}"
        notes.append(f"{which} wide because few units are coded: code more{also}")


def _counted(step: Step[ContrastSettings], corpus: Corpus, sheets: CodedSheets, notes: list[str]) -> _Counted:
    """The hits of the dictionary in all units, and where the coded ones are among these."""
    dictionary = dictionary_of(step)
    matches = find_matches(corpus, dictionary)
    note_no_hit(dictionary, matches, notes)
    categories = tuple(name for name in dictionary.shown_categories if name in sheets.sealed.categories)
    if not categories:
        raise DataError(
            f"--corrected-by: the sheets have codes of {listed(sheets.sealed.categories)}, and the dictionary has "
            f"{listed(dictionary.shown_categories)}",
            "choose a category with --select that is in both",
        )
    hits = matches.numbers(categories) > 0
    place = _places(step, corpus, sheets)
    if without := [name for name in dictionary.shown_categories if name not in categories]:
        notes.append(f"not in the sheets, and left out: {listed(without)}")
    _note_changes(hits[place], categories, sheets, notes)
    before = sum(size for _, size, _ in sheets.sealed.strata)
    now = int((corpus.tokens > 0).sum())
    if abs(now - before) > before / _PERCENT:
        notes.append(
            f"the texts have {now:,} units now, and had {before:,} when the sheet was drawn: its weights are of those"
        )
    settings = step.settings
    sampling = sampling_units(corpus.documents, settings.sampling_unit, settings.independent_units)
    return _Counted(hits, categories, corpus.documents["group"], sampling.of, place, sampling.counted(2)[2:])


def _places(step: Step[ContrastSettings], corpus: Corpus, sheets: CodedSheets) -> np.ndarray:
    """The numbers of the coded units among those of the texts."""
    if str(step.reading.unit) != sheets.sealed.unit:
        raise UsageError(
            f"--corrected-by: the units of the sheets are of --unit {sheets.sealed.unit}, here they are of --unit "
            f"{step.reading.unit}",
            f"type --unit {sheets.sealed.unit}",
        )
    number_of = {name: number for number, name in enumerate(names_of_units(corpus.documents["document"]))}
    tokens = corpus.tokens.tolist()
    gone = [
        at
        for at, name in enumerate(sheets.units)
        if name not in number_of or tokens[number_of[name]] != sheets.sealed.units[name].tokens
    ]
    if gone:
        first = gone[0]
        drawn = read_companion(Path(sheets.drawn_in)).get("settings", {})
        of_reading = {name: value for name, value in drawn.items() if name in declared(InputOptions)}
        options = " ".join(settings_words(of_reading, (InputOptions,)))
        raise DataError(
            f"--corrected-by: {numbered(len(gone), 'coded unit')} of {len(sheets.units):,} "
            f"{'is' if len(gone) == 1 else 'are'} not in these texts as when the sheet was drawn, such as "
            f"{sheets.units[first]} of the document {sheets.documents[first]}",
            f"give the texts of which it was drawn, read alike: {options}",
        )
    return np.array([number_of[name] for name in sheets.units], dtype=np.int64)


def _note_changes(hits: np.ndarray, categories: Sequence[str], sheets: CodedSheets, notes: list[str]) -> None:
    """Say in how many coded units the dictionary counts otherwise than when they were drawn."""
    for column, name in enumerate(categories):
        number = sheets.sealed.categories.index(name)
        then = np.array([sheets.sealed.units[unit].hits[number] is not None for unit in sheets.units])
        if changed := int((then != hits[:, column]).sum()):
            notes.append(
                f"{name} counts otherwise in {numbered(changed, 'coded unit')} than when the sheet was drawn: it is "
                "corrected as it counts now"
            )


@frozen
class _Coded:
    """The settled units of a category, and (settled,) their numbers among the units of the sheets."""

    which: np.ndarray
    units: Coded

    def of(self, inside: np.ndarray) -> Coded:
        """Those of some units of the sheets, (units,) bool."""
        here, own = inside[self.which], self.units
        return Coded(own.hit[here], own.code[here], own.stratum[here], own.weight[here])


def _coded(sheets: CodedSheets, counted: _Counted, column: int, arbiter: str) -> _Coded:
    """The settled units of a category, with its hits as they are now."""
    own = settled(sheets, sheets.sealed.categories.index(counted.categories[column]), arbiter)
    hit = counted.hits[counted.place[own.which], column]
    return _Coded(own.which, Coded(hit, own.coded.code, own.coded.stratum, own.coded.weight))


@frozen
class _Side:
    """A side of a comparison: its name, its share of units, its rates, and how many of its units are coded."""

    name: str
    share: Share
    rates: Rates
    coded: int
    units: int


def _sides(
    counted: _Counted, column: int, coded: _Coded, compared: Comparison, same_rates: bool
) -> tuple[tuple[_Side, _Side], bool]:
    """Both sides of a comparison, and whether each has rates of its own; otherwise both have those of all units."""
    found = []
    for name, groups in ((compared.target, (compared.target,)), (compared.reference, compared.against)):
        inside = np.isin(counted.group, groups)
        own = coded.of(inside[counted.place])
        share = share_of(counted.hits[:, column], inside, counted.cluster)
        found.append((name, share, own, int(inside.sum())))
    apart = not same_rates and all(_tells_enough(own) for _, _, own, _ in found)
    every = rates_of(coded.units)
    first, second = (
        _Side(name, share, rates_of(own) if apart else every, len(own.hit), units)
        for name, share, own, units in found
    )
    return (first, second), apart


def _tells_enough(coded: Coded) -> bool:
    ones = int(coded.code.sum())
    return len(coded.code) >= FEW_CODED and min(ones, len(coded.code) - ones) >= FEW_OF_A_CODE


def _row(name: str, sides: tuple[_Side, _Side], as_asked: bool, noun: str) -> tuple[object, ...]:
    first, second = (side.share for side in sides)
    rates = sides[0].rates, sides[1].rates
    variances, covariance = (first.variance, second.variance), first.covariance(second)
    raw = difference_of(first, second)
    values, told = (np.nan, np.nan), Estimate(np.nan, np.nan, np.nan)
    if is_corrected := _reach(sides) >= LEAST:
        values = corrected_share(first.value, rates[0]), corrected_share(second.value, rates[1])
        told = corrected_difference((first.value, second.value), variances, rates, covariance)
    shares = (first.value, second.value, raw.value, raw.low, raw.high)
    return (
        *(side.name for side in sides),
        name,
        *(_PERCENT * one for one in (*shares, *values, told.value, told.low, told.high)),
        *(one.sensitivity for one in rates),
        *(one.specificity for one in rates),
        *(side.coded for side in sides),
        *(side.units for side in sides),
        "; ".join(_notes(sides, as_asked, is_corrected, noun)),
    )


def _reach(sides: tuple[_Side, _Side]) -> float:
    """How far the category tells units of it from others, on the side where it tells less; NaN for unknown."""
    return float(np.min([reach_of(side.rates) for side in sides]))


def _notes(sides: tuple[_Side, _Side], as_asked: bool, is_corrected: bool, noun: str) -> Iterator[str]:
    if not is_corrected:
        yield "hardly tells units of it from others: not corrected"
    elif not as_asked:
        yield f"{_TOGETHER}: too few coded units of each group"
    if few := [side.name for side in sides if side.share.clusters < FEW]:
        yield f"fewer than {FEW} {noun} in {listed(few)}: intervals too narrow"
