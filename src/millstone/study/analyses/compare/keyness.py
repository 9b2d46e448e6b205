"""Keyness: the terms that set groups apart."""

from collections.abc import Collection
from dataclasses import replace
from typing import TYPE_CHECKING

from millstone.charts.settings import KeynessChartSettings
from millstone.core.layout import Layout
from millstone.core.settings.analyses import KeynessSettings
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
    """The measures and the list exist, and the settings go together."""
    from millstone.core.compare.keyness import check_settings

    check_settings(step.settings, bool(step.settings.background))
    if step.settings.background:
        check_exists(step.settings.background, "frequency list", made)


def analyse(step: "Step", material: "Material", notes: list[str], drawing: "Drawing") -> "Result":
    """The terms of each comparison, with their measures."""
    from millstone.core.compare.keyness import keyness
    from millstone.core.compare.pairs import ALPHA
    from millstone.core.compare.side_by_side import comparisons_beside, key_terms
    from millstone.core.wording import numbered
    from millstone.results.toml import as_dictionary
    from millstone.study.texts.list_material import background_list
    from millstone.study.texts.term_counts import counted_terms, with_list

    settings: KeynessSettings = step.settings
    terms = counted_terms(step, material, notes)
    background = background_list(settings.background, step, notes) if settings.background else None

    def table(asked: KeynessSettings, notes: list[str]) -> "Table":
        def of_counts(counts: "Counts") -> "Table":
            counts, listed = with_list(step, counts, notes)
            return keyness(counts, asked, background, listed, notes.append, drawing)

        return terms.table(of_counts)

    found = table(settings, notes)
    result = terms.result(step, comparisons_beside(found) if settings.wide else found, notes)
    if _draws_all(step):
        result = result.with_table("compared", table(settings.in_full, []))
    if settings.as_dictionary:
        keys = key_terms(found, material.corpus.groups, settings.alpha or ALPHA)
        content, passed_over = as_dictionary(keys, f"key terms: {' '.join(step.inputs.input)}")
        if passed_over:
            notes.append(f"{numbered(passed_over, 'key term')} with * ? or ! left out of the dictionary")
        if not any(keys.values()):
            notes.append(f"no term is key, so {settings.as_dictionary} has no category")
        result = replace(result, files={"as_dictionary": content})
    return result


def _draws_all(step: "Step") -> bool:
    """Whether every compared term is to be drawn, though only some of them are to be listed."""
    of_points = step.chart.chart_kind in ("evidence", "frequencies")
    return of_points and bool(step.chart.chart) and bool(step.settings != step.settings.in_full)


def columns(step: "Step") -> Collection[str]:
    """The columns that its table may have."""
    from millstone.core.statistics.keyness_measures import MEASURES

    if step.settings.wide:
        return ()
    return (
        *("target", "reference", "rank", "term", "n", "freq_target", "freq_reference", "rank_target"),
        *("rank_reference", "per_million_target", "per_million_reference", "docs_percent_target"),
        *("docs_percent_reference", "higher_in", *MEASURES, "shared_low", "shared_high"),
        *("per_million_background", "resample_low", "resample_high", "rank_low", "rank_high", "note"),
    )


def figures(result: str) -> "Figures":
    """The figures of its table."""
    from millstone.charts.figures import cloud, keyness, points

    return {
        "intervals": keyness.draw,
        "evidence": points.draw_evidence,
        "frequencies": points.draw_frequencies,
        "ranks": keyness.draw_ranks,
        "cloud": cloud.draw_keyness,
    }


COMMAND = Command(
    "keyness",
    "which terms set groups apart",
    KeynessSettings,
    KeynessChartSettings,
    "log_ratio is the size of a difference: 1 means twice as frequent in the target, -1 half as frequent.\n"
    "p_adjusted says how surely such texts differ, design_effect how unevenly documents have the term.",
    (
        "keyness guestbook.csv --text entry --group hut --min-freq 5",
        "keyness journals --against pairs --stop en --chart keyness.svg",
        "keyness early=journals/Ostrel/2016.txt late=journals/Ostrel/2019.txt --top 10",
    ),
    analyse,
    row_limits=lambda step: (step.settings.min_freq, step.settings.min_docs),
    layout=Layout(
        blocks=("target", "reference"),
        joint=" compared with ",
        shown=(
            *("rank", "term", "n", "higher_in", "log_ratio", "log_ratio_low", "log_ratio_high"),
            *("freq_target", "freq_reference", "ll", "g2", "chi2", "design_effect", "ll_documents", "p_adjusted"),
            *("bic", "ell", "percent_diff", "relative_risk", "odds_ratio", "diff_coefficient", "odds_share"),
            *("p", "fisher", "shared_low", "shared_high", "per_million_background"),
            *("resample_low", "resample_high", "rank_low", "rank_high", "note"),
        ),
        leaving=(
            *(
                "ll",
                "g2",
                "chi2",
                "design_effect",
                "ll_documents",
                "p",
                "fisher",
                "odds_share",
                "diff_coefficient",
                "odds_ratio",
                "relative_risk",
            ),
            *(
                "percent_diff",
                "ell",
                "bic",
                "rank_low",
                "resample_low",
                "note",
                "rank",
                "log_ratio_low",
                "p_adjusted",
            ),
            *("freq_target", "n", "higher_in"),
        ),
        beside="higher_in_",
        leaving_beside=(
            *("per_million_target", "per_million_reference", "docs_percent_target", "docs_percent_reference"),
            *("ll", "g2", "chi2", "design_effect", "ll_documents", "log_ratio_low", "log_ratio_high", "note"),
            *("freq_target", "freq_reference"),
            *("p_adjusted", "higher_in", "rank"),
        ),
        marks=("target", "reference", "term", "log_ratio", "log_ratio_low", "log_ratio_high", "ll_documents"),
        drawn=(
            *("target", "reference", "rank", "term", "freq_target", "freq_reference", "higher_in"),
            *("log_ratio", "log_ratio_low", "log_ratio_high", "p_adjusted"),
        ),
    ),
    columns=columns,
    places_of=places_of_terms,
    figures=figures,
    check=check,
    files={"as_dictionary": (".toml",)},
    check_groups=check_against,
    of_terms=True,
)
