"""The summary of keyness: how many terms pass, over what, and what could not be seen."""

from collections.abc import Iterator, Sequence

import numpy as np

from millstone.analyses.base.groups.held_equal import notes_on_fields
from millstone.analyses.base.groups.pairs import ALPHA
from millstone.analyses.keyness.comparing.comparison import OF_RATES, UNITS_FOR_TEST, ComparisonRun
from millstone.analyses.keyness.comparing.selection import smallest_margin
from millstone.analyses.keyness.settings import KeynessSettings
from millstone.core.base.wording import listed, numbered
from millstone.core.evidence.unit_sums import UnitsOfSides, smallest_p

_NAMED = 4
_MUCH_LONGER = 0.5
_ADJUSTED = {"bh": "p adjusted", "holm": "p adjusted by Holm", "bonferroni": "p adjusted by Bonferroni", "none": "p"}
_IN_THESE = "p and intervals say what differs in these texts, not in others like them"


def keyness_summary(
    compared: Sequence[ComparisonRun], passing: Sequence[int], settings: KeynessSettings
) -> list[str]:
    """The sentences above a table of keyness.

    Parameters
    ----------
    compared : sequence of Compared
    passing : sequence of int
        How many terms of each pass.
    settings : KeynessSettings

    Returns
    -------
    list of str
        First whether tests are over documents at all, then how many terms pass, then what limits the test.
    """
    found = [*_without_units(compared)]
    tests = dict.fromkeys(one.test for one in compared)
    for test in tests:
        some = [(one, number) for one, number in zip(compared, passing, strict=True) if one.test == test]
        found.append(_passing([one for one, _ in some], [number for _, number in some], settings))
    found += [*_few_units(compared), *_units(compared), *_held_equal(compared, settings)]
    if "all" in settings.measures and "fisher" not in settings.measures:
        found.append("--measures all leaves out fisher, which is slow: --measures all,fisher adds it")
    if "permutation" in tests:
        found.append(_relabelled(compared, settings))
    if "rank" in tests or settings.count == "documents":
        found += _of_length(compared)
    return found


def _relabelled(compared: Sequence[ComparisonRun], settings: KeynessSettings) -> str:
    """How the units were put on the sides anew, and how small p can become by that."""
    ways, terms = min((one.rates.relabelling.ways, len(one.wanted)) for one in compared)
    if ways <= settings.draws:
        smallest, further = min(one.rates.relabelling.smallest_p for one in compared), ""
        tried = f"all {ways:,} ways to put the units on the two sides were counted"
    else:
        smallest, further = 1 / (1 + settings.draws), " (more --draws reach further)"
        tried = f"{settings.draws:,} draws, seed {settings.seed}"
    factor = 1 if settings.adjust == "none" else terms
    adjusted = f", adjusted {min(1, smallest * factor):.2g} for a single term" if factor > 1 else ""
    return f"permutation: {tried}; the smallest p that can be reached is {smallest:.2g}{adjusted}{further}"


def _of_length(compared: Sequence[ComparisonRun]) -> Iterator[str]:
    """Where units of different length make the test one of length."""
    for one in compared:
        if one.units is None or not min(one.target.documents, one.reference.documents):
            continue
        mean = [part.tokens / max(len(part.base), 1) for part in (one.target, one.reference)]
        if max(mean) > (1 + _MUCH_LONGER) * min(mean):
            longer = one.comparison.target if mean[0] > mean[1] else one.comparison.reference
            test = "--count documents" if one.of_documents else "--test rank"
            yield (
                f"documents of {longer} are {max(mean) / min(mean):.1f} times as long: {test} then measures length, "
                "since longer ones have more of all words; --test documents allows for it"
            )


def _without_units(compared: Sequence[ComparisonRun]) -> Iterator[str]:
    """Where p and intervals are of tokens, since documents are not known or there is one only."""
    if any(one.sampling is None for one in compared):
        yield f"frequency lists have no documents: {_IN_THESE}"
    lone: dict[str, None] = {}
    for one in compared:
        names = (one.comparison.target, one.comparison.reference)
        numbers = (2, 2) if one.units is None else one.units.number
        lone |= dict.fromkeys(name for name, number in zip(names, numbers, strict=True) if number < 2)
    if lone:
        sampling = next(one.sampling for one in compared if one.sampling is not None)
        yield f"one {sampling.counted(1).removeprefix('1 ')} in {listed(lone)}: {_IN_THESE}"


def _few_units(compared: Sequence[ComparisonRun]) -> Iterator[str]:
    """Where so few units are compared that little can show."""
    least: dict[str, float] = {}
    names: dict[str, list[str]] = {}
    for one in compared:
        if one.sums is None or one.units is None or one.sampling is None or min(one.units.number) >= UNITS_FOR_TEST:
            continue
        first, second = one.units.number
        apart = " (--independent-units: parts)" if one.sampling.noun == "text" else ""
        sizes = f"{one.sampling.counted(first)} against {second:,}{apart}"
        least[sizes] = min(_least(one, one.units), least.get(sizes, 1))
        names.setdefault(sizes, []).append(f"{one.comparison.target} against {one.comparison.reference}")
    for sizes, smallest in least.items():
        reach = f"(the smallest p that a term can have is {smallest:.2g})"
        found = f"{sizes}: only large and steady differences can show {reach}"
        if smallest >= ALPHA:
            found = f"{sizes}: no term can reach p < {ALPHA:g}, whatever its counts {reach}"
        elif not smallest:
            found = f"{sizes}: p of {compared[0].test} is rough"
        yield found if len(compared) == 1 else f"{listed(names[sizes])}: {found}"


def _least(one: ComparisonRun, units: UnitsOfSides) -> float:
    """The smallest p that a term can have; 0 where the test has none."""
    if one.test in ("rank", "permutation"):
        return one.rates.relabelling.smallest_p
    return 0.0 if one.test == "welch" else smallest_p(units)


def _units(compared: Sequence[ComparisonRun]) -> Iterator[str]:
    """How many units lie on both sides, and how many documents stand for themselves."""
    sampling = compared[0].sampling
    if sampling is None:
        return
    both = max(int(one.units.on_both.sum()) if one.units is not None else 0 for one in compared)
    if both:
        up_to = "up to " if len(compared) > 1 else ""
        lie = "lie on both sides, and are compared within themselves"
        lie = "lies on both sides, and is compared within itself" if both == 1 else lie
        yield f"{up_to}{sampling.counted(both)} {lie}"
    if sampling.without:
        yield (
            f"{numbered(sampling.without, 'document')} without a value of {sampling.field}: each is a sampling unit "
            "of its own"
        )


def _passing(compared: Sequence[ComparisonRun], passing: Sequence[int], settings: KeynessSettings) -> str:
    if settings.shared:
        return _sharing(compared, passing, settings)
    over = _over(compared[0])
    asks_p = settings.alpha is not None or settings.min_log_ratio is None
    test = "" if compared[0].test == "documents" else f", {compared[0].test}"
    rules = []
    if settings.min_log_ratio is not None:
        rules.append(f"log ratio {settings.min_log_ratio:g} or more either way")
    if settings.direction != "both":
        rules.append(f"higher in the {settings.direction}")
    head = "pass"
    if asks_p:
        head = f"pass over {over} ({_ADJUSTED[settings.adjust]} < {settings.alpha or ALPHA:g}{test})"
    rule = ("; " if asks_p else ": ") + ", ".join(rules) if rules else ""
    return _counted(compared, passing, head + rule, [_more(one) if asks_p and not rules else "" for one in compared])


def _over(one: ComparisonRun) -> str:
    """The noun for what the test counts, such as ``documents`` or ``units by author``."""
    if one.sampling is None or one.test not in ("documents", *OF_RATES):
        return "numbers of documents" if one.of_documents else "tokens"
    return f"units by {one.sampling.field}" if one.sampling.field else f"{one.sampling.noun}s"


def _more(one: ComparisonRun) -> str:
    """How many terms differ over tokens, and not over units."""
    number = int(one.times[one.by_tokens_only].sum())
    if one.sums is None:
        return ""
    if one.test in ("documents", *OF_RATES):
        return f"{number:,} more differ by tokens alone" if number else ""
    return f"{number:,} of them by tokens alone" if number else ""


def _held_equal(compared: Sequence[ComparisonRun], settings: KeynessSettings) -> Iterator[str]:
    """How many terms pass with fields held equal, of those that pass without, and what the fields leave out."""
    adjusting = compared[0].adjusting
    if adjusting is None:
        return
    alpha = settings.alpha or ALPHA
    said = []
    for one in compared:
        if one.conditional is None:
            continue
        with_, without = one.p_conditional_adjusted < alpha, one.sides.p_adjusted[one.row_of] < alpha
        where = f"{one.comparison.target} against {one.comparison.reference} " if len(compared) > 1 else ""
        kept = f"{int((with_ & without).sum()):,} of the {int(without.sum()):,} that pass without"
        said.append(f"{where}{int(with_.sum()):,} ({kept})")
    if said:
        yield f"with {adjusting.named} held equal these pass: {listed(said, _NAMED, '; ')}"
    yield from notes_on_fields(
        adjusting,
        [(one.comparison, one.target, one.reference) for one in compared if one.conditional is not None],
        [one.comparison for one in compared if one.conditional is None],
    )


def _sharing(compared: Sequence[ComparisonRun], passing: Sequence[int], settings: KeynessSettings) -> str:
    rule = f"90 % interval of the log ratio within -{settings.margin:g} to {settings.margin:g}"
    if compared[0].background is not None:
        rule = f"on both sides, below {settings.below:g} per million in {compared[0].background.name}"
        return _counted(compared, passing, f"pass: {rule}", [""] * len(compared))
    found = _counted(compared, passing, f"pass: {rule}", [""] * len(compared))
    margins = [smallest_margin(one) for one, number in zip(compared, passing, strict=True) if not number]
    least = min((margin for margin in margins if not np.isnan(margin)), default=np.nan)
    if np.isnan(least):
        return found
    # rounded up, so that the margin that is named finds something
    return f"{found}; the smallest --margin that would find a term is {np.ceil(1000 * least) / 1000:g}"


def _counted(compared: Sequence[ComparisonRun], passing: Sequence[int], rule: str, more: Sequence[str]) -> str:
    """``61 of 1,902 terms pass (RULE); 7 more ...``, for several comparisons one by one."""
    if len(compared) == 1:
        tail = f"; {more[0]}" if more[0] else ""
        return f"{passing[0]:,} of {len(compared[0].wanted):,} terms {rule}{tail}"
    parts = [
        f"{one.comparison.target} against {one.comparison.reference} {number:,} of {len(one.wanted):,}"
        + (f" ({further.replace(' differ', '')})" if further else "")
        for one, number, further in zip(compared[:_NAMED], passing, more, strict=False)
    ]
    return f"terms that {rule}: {'; '.join(parts)}{'; ...' if len(compared) > _NAMED else ''}"
