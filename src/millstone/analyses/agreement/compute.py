"""How right categories are, and how far coders agree."""

from collections.abc import Iterator, Mapping, Sequence
from itertools import combinations

import numpy as np

from millstone.analyses.agreement.sheets import NO_CODE, CodedSheets
from millstone.analyses.base.groups.notes import TakeNote
from millstone.core.base.light_dataclass import frozen
from millstone.core.base.wording import listed, numbered
from millstone.core.coding.agreement import (
    Estimate,
    cohen_kappa,
    krippendorff_alpha,
    percent_agreement,
    with_interval,
)
from millstone.core.coding.misclassified import Coded, precision_of, recall_and_f1
from millstone.core.coding.sealed import Hits
from millstone.core.tables.table import Table

_UNKNOWN = Estimate(np.nan, np.nan, np.nan)
_MEASURES = ("precision", "recall", "f1", "percent_agreement", "kappa", "alpha")
COLUMNS = (
    *("category", "units", "hits", "coded_1"),
    *(f"{name}{end}" for name in _MEASURES[:3] for end in ("", "_low", "_high")),
    *("coders", "shared"),
    *(f"{name}{end}" for name in _MEASURES[3:] for end in ("", "_low", "_high")),
)


@frozen
class Settled:
    """The units of a category on which there is one code.

    Attributes
    ----------
    which : ndarray
        (settled,) int64 their numbers among the units of the sheets.
    coded : Coded
        Whether the category counts each, its code and its weight.
    hits : list
        (units,) of each unit of the sheets the entries that count in it; None where the category counts nothing.
    tied : int
        Units left out because as many coders say 1 as 0.
    uncoded : int
        How many units the texts have in strata of which no unit is settled.
    """

    which: np.ndarray
    coded: Coded
    hits: list[Hits]
    tied: int
    uncoded: int


def settled(sheets: CodedSheets, category: int, arbiter: str = "") -> Settled:
    """The code of each unit that most coders agree on, or the arbiter's, with the weight of the unit.

    Parameters
    ----------
    sheets : CodedSheets
    category : int
        Its number.
    arbiter : str
        A coder whose codes hold where there are any.

    Returns
    -------
    Settled
        A unit weighs as many units of the texts as its stratum has, by those of it that are settled.
    """
    codes, decided = _compared(sheets, category, arbiter)
    ones, zeros = (codes == 1).sum(axis=1), (codes == 0).sum(axis=1)
    code = np.where(ones > zeros, 1, np.where(zeros > ones, 0, NO_CODE))
    code = np.where(decided != NO_CODE, decided, code)
    which = np.flatnonzero(code != NO_CODE)
    hits = [sheets.sealed.units[name].hits[category] for name in sheets.units]
    stratum = sheets.strata[which]
    sizes = np.array([size for _, size, _ in sheets.sealed.strata], dtype=float)
    number = np.bincount(stratum, minlength=len(sizes))
    weight = (sizes / np.maximum(number, 1))[stratum]
    hit = np.array([hits[unit] is not None for unit in which.tolist()], dtype=bool)
    tied = int(((code == NO_CODE) & (ones + zeros > 0)).sum())
    return Settled(which, Coded(hit, code[which] == 1, stratum, weight), hits, tied, int(sizes[number == 0].sum()))


def _compared(sheets: CodedSheets, category: int, arbiter: str) -> tuple[np.ndarray, np.ndarray]:
    """(units, coders) the codes of those who are compared, and (units,) those of the arbiter."""
    codes = sheets.codes[category]
    own = np.array([name == arbiter for name in sheets.coders])
    decided = codes[:, own].max(axis=1, initial=NO_CODE)
    return codes[:, ~own], decided


def agreement(sheets: CodedSheets, arbiter: str, seed: int, note: TakeNote) -> Table:
    """Precision, recall and F1 of each category, and how far coders agree on it.

    Parameters
    ----------
    sheets : CodedSheets
    arbiter : str
        A coder whose codes hold where others differ; "" for none.
    seed : int
        Of the bootstrap.
    note : callable
        Receives what to look out for.

    Returns
    -------
    Table
        A row for each category: `COLUMNS`, NaN where something is not defined.
    """
    rows = []
    for number, name in enumerate(sheets.sealed.categories):
        own = settled(sheets, number, arbiter)
        recall, f1 = recall_and_f1(own.coded, seed) if len(own.which) else (_UNKNOWN, _UNKNOWN)
        of_category = (precision_of(own.coded), recall, f1)
        codes, _ = _compared(sheets, number, arbiter)
        shared = codes[(codes != NO_CODE).sum(axis=1) > 1]
        row: list[object] = [name, len(own.which), int(own.coded.hit.sum()), int(own.coded.code.sum())]
        row += [value for one in of_category for value in _parts(one)]
        row += [int((codes != NO_CODE).any(axis=0).sum()), len(shared)]
        row += [value for one in _between_coders(shared, seed) for value in _parts(one)]
        rows.append(tuple(row))
        for text in _odd(name, own, sheets):
            note(text)
    _note_coders(sheets, arbiter, note)
    return Table.of_rows(rows, list(COLUMNS))


def _parts(one: Estimate) -> tuple[float, float, float]:
    return one.value, one.low, one.high


def _between_coders(codes: np.ndarray, seed: int) -> Iterator[Estimate]:
    """Per cent agreement, kappa and alpha over units with two codes or more."""
    if not len(codes):
        yield from (_UNKNOWN,) * 3
        return
    counts = np.stack([(codes == 0).sum(axis=1), (codes == 1).sum(axis=1)], axis=1)
    pairs = [pair for pair in combinations(range(codes.shape[1]), 2) if (codes[:, pair] != NO_CODE).all(axis=1).any()]

    def kappa(weight: np.ndarray | None) -> np.ndarray:
        of_pairs = []
        for one, other in pairs:
            both = (codes[:, [one, other]] != NO_CODE).all(axis=1)
            own = None if weight is None else weight[:, both]
            of_pairs.append(cohen_kappa(codes[both, one], codes[both, other], own))
        found: np.ndarray = np.mean(of_pairs, axis=0)
        return found

    for statistic in (
        lambda weight: percent_agreement(counts, weight),
        kappa,
        lambda weight: krippendorff_alpha(counts, weight),
    ):
        yield with_interval(statistic, len(codes), seed)


def _odd(name: str, own: Settled, sheets: CodedSheets) -> Iterator[str]:
    """Remarks on the row of a category."""
    if not len(own.which):
        yield f"{name} is not coded in any unit"
        return
    if own.tied:
        verb = "is" if own.tied == 1 else "are"
        yield (
            f"{name}: {numbered(own.tied, 'unit')} on which as many coders say 1 as 0 {verb} left out of precision, "
            "recall and F1: --cases lists them, --arbiter settles them"
        )
    if own.uncoded:
        yield (
            f"{name}: {own.uncoded:,} units of the texts are in strata of which none is coded, and are not spoken for"
        )
    if not own.coded.hit.any():
        yield f"{name} counts nothing in the units that were coded: no precision"
    elif not own.coded.code.any():
        yield f"no unit is coded 1 for {name}: no recall"


def _note_coders(sheets: CodedSheets, arbiter: str, note: TakeNote) -> None:
    given = (sheets.codes != NO_CODE).any(axis=0)
    each = listed([f"{name} {int(given[:, at].sum()):,}" for at, name in enumerate(sheets.coders)])
    rest = len(sheets.sealed.units) - len(sheets.units)
    left = f"; {numbered(rest, 'unit')} not coded" if rest else ""
    note(f"{numbered(len(sheets.units), 'unit')} of {len(sheets.sealed.units):,} coded, by {each}{left}")
    for at, name in enumerate(sheets.coders):
        if name != arbiter and _settles(sheets.codes, at):
            note(
                f"{name} codes only where others differ, as one does who settles: --arbiter {name} keeps them out of "
                "kappa and alpha"
            )
    compared = given[:, [name != arbiter for name in sheets.coders]]
    if compared.shape[1] > 1 and not (compared.sum(axis=1) > 1).any():
        note("no unit was coded by two coders: how far they agree is not known; code --overlap gives units to all")


def _settles(codes: np.ndarray, coder: int) -> bool:
    """Whether a coder codes only units on which two others or more do not agree."""
    others = np.delete(codes, coder, axis=2)
    differing = (others == 1).any(axis=2) & (others == 0).any(axis=2)
    own = codes[:, :, coder] != NO_CODE
    return bool(codes.shape[2] > 2 and own.any() and differing[own].all())


def entries(sheets: CodedSheets, arbiter: str) -> Table:
    """How often each entry of the dictionary is right, those of each category with the lowest precision first.

    Parameters
    ----------
    sheets : CodedSheets
    arbiter : str

    Returns
    -------
    Table
        ``category, entry, hits, right, precision, precision_low, precision_high, wrong``: a unit in which several
        entries count is a hit of each.
    """
    rows = []
    for number, name in enumerate(sheets.sealed.categories):
        own = settled(sheets, number, arbiter)
        hits = own.hits
        found = []
        for entry, text in enumerate(sheets.sealed.entries[number]):
            here = np.array([entry in (hits[unit] or ()) for unit in own.which.tolist()], dtype=bool)
            if here.any():
                estimate = precision_of(_of_entry(own.coded, here))
                wrong = own.which[here & ~own.coded.code]
                example = sheets.texts[wrong[0]] if len(wrong) else ""
                counted = int(here.sum()), int((here & own.coded.code).sum())
                found.append((name, text, *counted, *_parts(estimate), example))
        rows += sorted(found, key=lambda row: (row[4], -row[2], row[1]))
    return Table.of_rows(
        rows, ["category", "entry", "hits", "right", "precision", "precision_low", "precision_high", "wrong"]
    )


def _of_entry(coded: Coded, hit: np.ndarray) -> Coded:
    return Coded(hit, coded.code, coded.stratum, coded.weight)


def cases(sheets: CodedSheets, arbiter: str) -> Table:
    """The units in which category and coders differ, or coders among themselves.

    Parameters
    ----------
    sheets : CodedSheets
    arbiter : str

    Returns
    -------
    Table
        ``category, case, entries, codes, unit_id, document, text``: by category, wrong hits first.
    """
    rows: list[tuple[str, ...]] = []
    for number, name in enumerate(sheets.sealed.categories):
        own = settled(sheets, number, arbiter)
        hits = own.hits
        codes, _ = _compared(sheets, number, arbiter)
        case: dict[int, str] = {}
        for unit in np.flatnonzero((codes == 1).any(axis=1) & (codes == 0).any(axis=1)).tolist():
            case[unit] = "coders differ"
        wrong = own.coded.hit != own.coded.code
        for unit, is_hit in zip(own.which[wrong].tolist(), own.coded.hit[wrong].tolist(), strict=True):
            case[unit] = "wrong hit" if is_hit else "missed"
        order = sorted(case, key=lambda unit: (_ORDER[case[unit]], hits[unit] or (), sheets.texts[unit]))
        rows += [(name, case[unit], *_described(sheets, number, unit, hits)) for unit in order]
    return Table.of_rows(rows, ["category", "case", "entries", "codes", "unit_id", "document", "text"])


_ORDER: Mapping[str, int] = {"wrong hit": 0, "missed": 1, "coders differ": 2}


def _described(sheets: CodedSheets, category: int, unit: int, hits: Sequence[Hits]) -> tuple[str, ...]:
    known = sheets.sealed.entries[category]
    given = sheets.codes[category, unit].tolist()
    codes = [f"{name} {code}" for name, code in zip(sheets.coders, given, strict=True) if code != NO_CODE]
    return (
        ", ".join(known[entry] for entry in hits[unit] or () if entry < len(known)),
        ", ".join(codes),
        sheets.units[unit],
        sheets.documents[unit],
        sheets.texts[unit],
    )
