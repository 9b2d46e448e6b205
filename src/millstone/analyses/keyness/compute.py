"""Keyness: which terms set two sides apart, how strongly, how surely, and in which direction."""

import numpy as np

from millstone.analyses.base.groups.notes import TakeNote
from millstone.analyses.base.groups.pairs import check_some_left, left_out_as_unknown, sampling_of, sides_of
from millstone.analyses.keyness.comparing.comparison import OF_RATES, OVER_UNITS, P_LIKE, ComparisonRun, Progress
from millstone.analyses.keyness.comparing.selection import select
from millstone.analyses.keyness.comparing.summary import keyness_summary
from millstone.analyses.keyness.comparing.table import keyness_table
from millstone.analyses.keyness.measures import MEASURES, measures_named
from millstone.analyses.keyness.settings import KeynessSettings
from millstone.core.base.errors import DataError, UsageError
from millstone.core.base.wording import nearest
from millstone.core.corpus.group_names import check_group_names
from millstone.core.evidence.adjusting import adjusting_of
from millstone.core.tables.table import Table
from millstone.core.terms.background import Background
from millstone.core.terms.counts import Counts


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
    sides = sides_of(counts, settings.against, listed)
    units = sampling_of(counts, listed, settings)
    held = adjusting_of(counts.documents, settings.adjust_for) if settings.adjust_for and units is not None else None
    compared = [_checked(ComparisonRun(*both, settings, background, progress, units, held)) for both in sides]
    unknown = left_out_as_unknown([(one.target, one.reference) for one in compared])
    check_some_left(sum(len(one.wanted) for one in compared), unknown)
    selections = [select(one) for one in compared]
    tables = [keyness_table(*both) for both in zip(compared, selections, strict=True)]
    if unknown:
        note(unknown)
    for text in keyness_summary(compared, [one.passing for one in selections], settings):
        note(text)
    asked = [name for one in settings.measures for name in measures_named(one)]
    if not any(one.passing for one in selections) and not settings.shared and "smallest_ratio" not in asked:
        note("no term passes: --measures smallest_ratio says how large a difference these texts could have shown")
    return Table.joined(tables)


def check_settings(settings: KeynessSettings, has_background: bool) -> None:
    """Raise UsageError for measures that do not exist, and settings that do not go together."""
    asked = [name for one in settings.measures for name in measures_named(one)]
    for name in (*asked, *((settings.rank_by,) if settings.rank_by else ())):
        if name not in MEASURES:
            raise UsageError(
                f"there is no measure {name!r}{nearest(name, MEASURES)}", f"the measures are {', '.join(MEASURES)}"
            )
    if (settings.below is None) == has_background:
        raise UsageError(
            "--background and --below belong together", "type --shared --background LIST --below RATE_PER_MILLION"
        )
    if has_background and not settings.shared:
        raise UsageError("--background: only --shared uses it", "type --shared as well")
    if settings.resample and settings.rank_by in P_LIKE and settings.test in OF_RATES:
        raise UsageError(
            f"--rank-by {settings.rank_by} with --resample: --test {settings.test} is not recomputed for each sample",
            "rank by ll or log_ratio, or leave --resample out",
        )
    if settings.count == "documents" and settings.test in OF_RATES:
        raise UsageError(
            f"--test {settings.test} compares rates in documents, and --count documents has no rates",
            "leave one of the two out",
        )
    if settings.count == "documents" and settings.test == "documents" and not settings.sampling_unit:
        raise UsageError(
            "--test documents asks how a term varies between documents, and --count documents only whether they "
            "have it",
            "leave --test out (it is g2 then), or name with --sampling-unit which documents belong together",
        )
    if settings.count == "documents" and settings.adjust_for:
        raise UsageError(
            "--adjust-for holds rates in tokens against each other, and --count documents has none",
            "leave one of the two out",
        )
    if settings.interval == "resample" and not settings.resample:
        raise UsageError(
            "--interval resample: the number of samples is missing",
            "type --resample N as well, such as --resample 2000",
        )


def _checked(one: ComparisonRun) -> ComparisonRun:
    """The comparison; DataError where all documents of both sides belong together: there is nothing to compare."""
    named = one.settings.sampling_unit
    if named and one.units is not None and len(one.units.target) < 2:
        both = f"{one.comparison.target} and {one.comparison.reference}"
        raise DataError(
            f"--sampling-unit {named}: all documents of {both} are one unit, and there is nothing to compare",
            "name a field of which they have several values, or leave the option out",
        )
    return one


def _check_documents(counts: Counts, settings: KeynessSettings) -> None:
    if counts.listed is None:
        return
    asked = [f"--test {settings.test}"] if settings.test in OVER_UNITS else []
    asked += [f"--interval {settings.interval}"] if settings.interval not in ("", "tokens") else []
    asked += [f"--sampling-unit {settings.sampling_unit}"] if settings.sampling_unit else []
    asked += ["--adjust-for"] if settings.adjust_for else []
    asked += ["--resample"] if settings.resample else []
    asked += ["--max-share"] if settings.max_share else []
    if settings.count == "documents" and np.isnan(counts.listed.documents).any():
        asked.append("--count documents")
    if asked:
        raise DataError(
            f"{asked[0]} needs documents, and a frequency list has none",
            "give the texts themselves" + (", or name --docs and --documents" if "--count" in asked[0] else ""),
        )
