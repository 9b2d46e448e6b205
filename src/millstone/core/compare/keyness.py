"""Keyness: which terms set two sides apart, how strongly, how surely, and in which direction."""

import numpy as np

from millstone.core.compare.comparison import DOCUMENTS_FOR_TEST, OVER_DOCUMENTS, P_LIKE, Compared, Progress
from millstone.core.compare.keyness_table import keyness_table
from millstone.core.compare.notes import TakeNote
from millstone.core.compare.pairs import ALPHA, check_group_names, check_some_left, left_out_as_unknown, sides_of
from millstone.core.compare.selection import select
from millstone.core.corpus.corpus import noun_of
from millstone.core.errors import DataError, UsageError
from millstone.core.settings.analyses import KeynessSettings
from millstone.core.statistics.keyness_measures import MEASURES
from millstone.core.table import Table
from millstone.core.terms.background import Background
from millstone.core.terms.counts import Counts
from millstone.core.wording import listed, nearest

_NAMED = 4


def keyness(
    counts: Counts,
    settings: KeynessSettings | None = None,
    background: Background | None = None,
    listed: Counts | None = None,
    note: TakeNote = lambda text: None,
    progress: Progress = lambda done, of: None,
) -> Table:
    """Compare the terms of groups.

    Parameters
    ----------
    counts : Counts
        Two groups or more; with `listed` one is enough.
    settings : KeynessSettings, optional
    background : Background, optional
        The list that ``below`` refers to.
    listed : Counts, optional
        A frequency list under the same terms, against which every group is held.
    note : callable
        Receives how many terms were compared, how many pass, and what to look out for.
    progress : callable
        Called with how many random draws are done, of how many.

    Returns
    -------
    Table
        ``target, reference, rank, term, freq_target, freq_reference, rank_target, rank_reference,
        per_million_target, per_million_reference, docs_percent_target, docs_percent_reference,
        higher_in, log_ratio, log_ratio_low, log_ratio_high``, the statistic, ``p_adjusted``, the other measures
        that were asked for, and ``note``; ranked within a comparison, both directions together.

    Raises
    ------
    DataError
        For one group only, a group without tokens, or a group to compare with that does not exist.
    UsageError
        For settings that do not go together.
    """
    settings = settings or KeynessSettings()
    check_settings(settings, background is not None)
    check_group_names(counts.sizes)
    for one in (counts, *((listed,) if listed is not None else ())):
        _check_documents(one, settings)
    compared = [
        Compared(*sides, settings, background, progress) for sides in sides_of(counts, settings.against, listed)
    ]
    unknown = left_out_as_unknown([(one.target, one.reference) for one in compared])
    check_some_left(sum(len(one.wanted) for one in compared), unknown)
    selections = [select(one) for one in compared]
    tables = [keyness_table(*both) for both in zip(compared, selections, strict=True)]
    if unknown:
        note(unknown)
    for text in _notes(compared, [one.passing for one in selections], settings):
        note(text)
    return Table.joined(tables)


def check_settings(settings: KeynessSettings, has_background: bool) -> None:
    """Raise UsageError for measures that do not exist, and settings that do not go together."""
    for name in (*settings.measures, *((settings.rank_by,) if settings.rank_by else ())):
        if name not in MEASURES and not (name == "all" and not settings.rank_by == "all"):
            raise UsageError(
                f"there is no measure {name!r}{nearest(name, MEASURES)}", f"the measures are {', '.join(MEASURES)}"
            )
    if (settings.below is None) == has_background:
        raise UsageError(
            "--background and --below belong together", "type --shared --background LIST --below RATE_PER_MILLION"
        )
    if has_background and not settings.shared:
        raise UsageError("--background: only --shared uses it", "type --shared as well")
    if settings.resample and settings.rank_by in P_LIKE and settings.test in OVER_DOCUMENTS:
        raise UsageError(
            f"--rank-by {settings.rank_by} with --resample: --test {settings.test} is not made anew for each sample",
            "rank by ll or log_ratio, or leave --resample out",
        )
    if settings.count == "documents" and settings.test in OVER_DOCUMENTS:
        raise UsageError(
            f"--test {settings.test} compares rates in documents, and --count documents has no rates",
            "leave one of the two out",
        )


def _check_documents(counts: Counts, settings: KeynessSettings) -> None:
    if counts.listed is None:
        return
    asked = [f"--test {settings.test}"] if settings.test in OVER_DOCUMENTS else []
    asked += ["--resample"] if settings.resample else []
    asked += ["--max-share"] if settings.max_share else []
    if settings.count == "documents" and np.isnan(counts.listed.documents).any():
        asked.append("--count documents")
    if asked:
        raise DataError(
            f"{asked[0]} needs documents, and a frequency list has none",
            "give the texts themselves" + (", or name --docs and --documents" if "--count" in asked[0] else ""),
        )


_ADJUSTED = {"bh": "Benjamini & Hochberg", "holm": "Holm", "bonferroni": "Bonferroni", "none": "not adjusted"}


def _notes(compared: list[Compared], passing: list[int], settings: KeynessSettings) -> list[str]:
    """How many terms were compared and how many pass, and what to watch for in the test."""
    found = [_passing(compared, passing, settings)]
    if "all" in settings.measures and "fisher" not in settings.measures:
        found.append("--measures all leaves out fisher, which is slow: --measures all,fisher adds it")
    test = compared[0].test
    if test in OVER_DOCUMENTS:
        few = sorted(
            {
                name
                for one in compared
                for name, number in zip((one.comparison.target, one.comparison.reference), one.observed, strict=True)
                if number < DOCUMENTS_FOR_TEST
            }
        )
        if few:
            noun = noun_of(compared[0].target.counts.documents)
            averaged = noun == "part" and not settings.independent_units
            counted = "texts (--independent-units: parts)" if averaged else f"{noun}s"
            found.append(f"fewer than {DOCUMENTS_FOR_TEST} {counted} in {listed(few)}: p of {test} is rough")
    if test == "permutation":
        least = 1 / (1 + settings.draws)
        most = max(len(one.wanted) for one in compared)
        factor = 1 if settings.adjust == "none" else most
        found.append(
            f"permutation: {settings.draws:,} draws, seed {settings.seed}; the smallest adjusted p that a single "
            f"term can reach is {min(1, least * factor):.2g} (more --draws reach further)"
        )
    return found


def _passing(compared: list[Compared], passing: list[int], settings: KeynessSettings) -> str:
    if settings.shared:
        rule = f"90 % interval of the log ratio within -{settings.margin:g} to {settings.margin:g}"
        if compared[0].background is not None:
            rule = f"on both sides, below {settings.below:g} per million in {compared[0].background.name}"
        return _counted(compared, passing, rule)
    rules = []
    if settings.alpha is not None or settings.min_log_ratio is None:
        adjustment = _ADJUSTED[settings.adjust]
        rules.append(f"p adjusted < {settings.alpha or ALPHA:g} ({compared[0].test}, {adjustment})")
    if settings.min_log_ratio is not None:
        rules.append(f"log ratio {settings.min_log_ratio:g} or more either way")
    if settings.direction != "both":
        rules.append(f"higher in the {settings.direction}")
    return _counted(compared, passing, ", ".join(rules))


def _counted(compared: list[Compared], passing: list[int], rule: str) -> str:
    """``61 of 1,902 terms pass (RULE)``, for several comparisons one by one."""
    if len(compared) == 1:
        return f"{passing[0]:,} of {len(compared[0].wanted):,} terms pass: {rule}"
    parts = [
        f"{one.comparison.target} against {one.comparison.reference} {number:,} of {len(one.wanted):,}"
        for one, number in zip(compared[:_NAMED], passing, strict=False)
    ]
    return f"terms that pass: {'; '.join(parts)}{'; ...' if len(compared) > _NAMED else ''}: {rule}"
