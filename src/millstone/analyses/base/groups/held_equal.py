"""Ratios of rates with fields of the texts held equal (``--adjust-for``): their columns, checks and notes."""

from collections.abc import Iterator, Mapping, Sequence

import numpy as np

from millstone.analyses.base.groups.pairs import Comparison
from millstone.core.base.errors import DataError
from millstone.core.base.light_dataclass import frozen
from millstone.core.base.wording import listed, numbered
from millstone.core.evidence.adjusting import Adjusting
from millstone.core.evidence.conditional import AdjustedDesign, ConditionalRatios, conditional_ratios
from millstone.core.evidence.sampling import SamplingUnits
from millstone.core.tables.columns import LOG2, PROBABILITY, number
from millstone.core.terms.counts import Part

CONDITIONAL = (
    number(
        "log_ratio_conditional",
        "log ratio held",
        "log ratio among texts that are alike in the fields of --adjust-for",
        LOG2,
        priority=2,
        optional=True,
    ),
    number(
        "log_ratio_conditional_low",
        "held low",
        "lower limit of its 95 % interval over sampling units",
        LOG2,
        priority=4,
        partner="log_ratio_conditional_high",
        optional=True,
    ),
    number(
        "log_ratio_conditional_high",
        "held high",
        "upper limit of its 95 % interval over sampling units",
        LOG2,
        partner="log_ratio_conditional_low",
        optional=True,
    ),
    number(
        "p_conditional_adjusted",
        "p held adjusted",
        "p_conditional, adjusted for the number of tests",
        PROBABILITY,
        4,
        priority=3,
        optional=True,
    ),
    number(
        "p_conditional",
        "p held",
        "p that the rates are equal among texts that are alike in the fields of --adjust-for",
        PROBABILITY,
        4,
        priority=9,
        optional=True,
    ),
)
"""The columns of ``--adjust-for``."""
_MUCH = 0.5


def fields_held(settings: Mapping[str, object]) -> list[str]:
    """The names of the fields that a result holds equal, from its settings; empty where there are none."""
    typed = str(settings.get("adjust_for", ""))
    return [field.removesuffix(":number") for field in typed.split(",") if field]


@frozen
class HeldEqual:
    """The documents of two sides whose fields are held equal: `rows` are their numbers."""

    rows: np.ndarray
    design: AdjustedDesign

    def ratios(self, part: Part, wanted: np.ndarray) -> ConditionalRatios:
        """The conditional ratios of some terms; `part` is either side."""
        return conditional_ratios(part.counts.matrix.rows(self.rows).columns(wanted), self.design)


def held_equal(
    compared: Comparison, target: Part, reference: Part, sampling: SamplingUnits, adjusting: Adjusting
) -> HeldEqual | None:
    """The documents of a comparison in the fields that are to be held equal.

    Returns
    -------
    HeldEqual or None
        None where a side has not two sampling units with values.

    Raises
    ------
    DataError
        Where the fields say which side a document is on, or have as many values as there are units.
    """
    sides = [rows[adjusting.known[rows]] for rows in (target.rows_with_tokens, reference.rows_with_tokens)]
    if min(sampling.number(rows) for rows in sides) < 2:
        return None
    rows = np.concatenate(sides)
    pattern, patterns = adjusting.design(rows)
    in_target = np.arange(len(rows)) < len(sides[0])
    design = AdjustedDesign(in_target, sampling.of[rows], pattern, patterns, target.counts.base[rows])
    if design.separates:
        field = adjusting.separating(rows, in_target)
        raise DataError(
            f"--adjust-for: {f'{field} sets' if field else f'{adjusting.named} together set'} all texts of "
            f"{compared.target} from {compared.reference} apart, and nothing is left to compare",
            "leave the field out; texts of both groups must share some of its values",
        )
    if design.units - design.of_fields < 2:
        raise DataError(
            f"--adjust-for: too many different values of {adjusting.named} for the "
            f"{sampling.counted(design.units)} of {compared.target} and {compared.reference}",
            "name fewer fields, or fields with fewer values",
        )
    return HeldEqual(rows, design)


def disagreement(log_ratio: np.ndarray, held: np.ndarray, told: np.ndarray, named: str) -> dict[str, np.ndarray]:
    """Notes where holding fields equal changes the sign of a log ratio, or changes it by more than half.

    Parameters
    ----------
    log_ratio, held : ndarray
        (terms,) float.
    told : ndarray
        (terms,) bool: which terms are worth a note.
    named : str
        The fields in words.

    Returns
    -------
    dict of str to ndarray
        Note -> (terms,) bool.
    """
    with np.errstate(invalid="ignore"):
        turns = told & (log_ratio * held < 0)
        much = told & ~turns & (np.abs(held - log_ratio) > _MUCH * np.abs(log_ratio))
        less = much & (np.abs(held) < np.abs(log_ratio))
    return {
        f"with {named} held equal the difference turns round": turns,
        f"over half of it goes with {named}": less,
        f"with {named} held equal it is over half as large again": much & ~less,
    }


def notes_on_fields(
    adjusting: Adjusting, compared: Sequence[tuple[Comparison, Part, Part]], without: Sequence[Comparison]
) -> Iterator[str]:
    """Levels that occur in one group only, documents that are left out, and comparisons without such ratios."""
    for one, target, reference in compared:
        rows = [part.rows_with_tokens[adjusting.known[part.rows_with_tokens]] for part in (target, reference)]
        base = target.counts.base
        where = f"{one.target} against {one.reference}: " if len(compared) > 1 else ""
        for group, own, other in ((one.target, *rows), (one.reference, rows[1], rows[0])):
            alone = []
            for field in adjusting.fields:
                here, there = field.values[own], field.values[other]
                for number_of in () if field.is_number else np.setdiff1d(here, there).tolist():
                    share = base[own[here == number_of]].sum() / base[own].sum()
                    alone.append(f"{field.name} {field.levels[number_of]} ({100 * share:.0f} % of its tokens)")
            if alone:
                yield (
                    f"{where}in {group} only: {listed(alone)}; such texts say nothing about the difference with "
                    f"{adjusting.named} held equal"
                )
    missing = int((~adjusting.known).sum())
    if missing:
        numbers = listed([field.name for field in adjusting.fields if field.is_number])
        yield f"{numbered(missing, 'document')} without a value of {numbers}: left out where it is held equal"
    if without:
        named = listed([f"{one.target} against {one.reference}" for one in without])
        yield f"{named}: one sampling unit on a side, so nothing can be held equal, and these columns are empty"
