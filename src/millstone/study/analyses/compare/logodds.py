"""Weighted log odds of terms."""

from collections.abc import Collection
from typing import TYPE_CHECKING

from millstone.charts.settings import LogOddsChartSettings
from millstone.core.layout import Layout
from millstone.core.settings.analyses import PRIORS, LogOddsSettings
from millstone.study.checks import check_against, check_exists
from millstone.study.command import Command, places_of_terms

if TYPE_CHECKING:
    from pathlib import Path

    from millstone.charts.draw import Figures
    from millstone.core.result import Result
    from millstone.core.table import Table
    from millstone.core.terms.counts import Counts
    from millstone.study.command import Drawing
    from millstone.study.step import Step
    from millstone.study.texts.material import Material


def check(step: "Step", made: "Collection[Path]") -> None:
    """The list that the prior is made of exists."""
    if step.settings.prior not in PRIORS:
        check_exists(step.settings.prior, "frequency list", made)


def analyse(step: "Step", material: "Material", notes: list[str], drawing: "Drawing") -> "Result":
    """The terms of each group, with their log odds."""
    from millstone.core.compare.logodds import log_odds
    from millstone.study.texts.list_material import background_list
    from millstone.study.texts.term_counts import counted_terms, with_list

    settings: LogOddsSettings = step.settings
    terms = counted_terms(step, material, notes)
    named = settings.prior not in PRIORS
    background = background_list(settings.prior, step, notes) if named else None

    def of_counts(counts: "Counts") -> "Table":
        counts, listed = with_list(step, counts, notes)
        return log_odds(counts, settings, background, listed, notes.append)

    return terms.result(step, terms.table(of_counts), notes)


def columns(step: "Step") -> Collection[str]:
    """The columns that its table may have."""
    return (
        *("group", "against", "rank", "term", "n", "freq", "freq_against", "log_odds", "std_error", "z"),
        *("design_effect", "z_documents", "log_ratio", "note"),
    )


def figures(result: str) -> "Figures":
    """The figures of its table."""
    from millstone.charts.figures import cloud, logodds, points

    return {"panels": logodds.draw, "scores": points.draw_scores, "cloud": cloud.draw_log_odds}


COMMAND = Command(
    "logodds",
    "weighted log odds of terms, per group",
    LogOddsSettings,
    LogOddsChartSettings,
    "log_odds is above 0 for what the group uses more; terms are in the order of z, the log odds by their\n"
    "standard error, which is no test: the pooled prior is made of the same texts.",
    (
        "logodds guestbook.csv --text entry --group hut --stop en",
        "logodds guestbook.csv --text entry --group season --against winter --top 8",
        "logodds journals --prior uniform --chart logodds.png --panels group",
    ),
    analyse,
    row_limits=lambda step: (step.settings.min_freq, step.settings.min_docs),
    layout=Layout(
        blocks=("group", "against"),
        joint=" against ",
        shown=(
            *("rank", "term", "n", "log_odds", "std_error", "z", "design_effect", "z_documents", "log_ratio"),
            *("freq", "freq_against", "note"),
        ),
        leaving=(
            *("std_error", "design_effect", "freq_against", "freq", "log_ratio", "note", "n", "rank", "z"),
            "z_documents",
        ),
        marks=("group", "against", "term", "log_odds", "std_error", "z"),
        drawn=("group", "against", "term", "freq", "freq_against", "log_odds", "std_error", "z"),
    ),
    columns=columns,
    places_of=places_of_terms,
    figures=figures,
    check=check,
    check_groups=check_against,
    of_terms=True,
)
