"""Differences between groups in values of their documents."""

from collections.abc import Collection
from dataclasses import replace
from typing import TYPE_CHECKING

from millstone.charts.settings import ContrastChartSettings
from millstone.core.errors import DataError, UsageError
from millstone.core.layout import Layout
from millstone.core.settings.analyses import ContrastSettings
from millstone.sources.settings import Inputs
from millstone.study.checks import check_exists, check_select
from millstone.study.command import Command

if TYPE_CHECKING:
    from pathlib import Path

    from millstone.charts.draw import Figures
    from millstone.core.result import Result
    from millstone.study.command import Drawing
    from millstone.study.step import Step
    from millstone.study.texts.material import Material


def settle(step: "Step") -> "Step":
    """Values come from a dictionary, from measures and fields, or from a table."""
    settings = step.settings
    if not settings.table and not settings.dictionary and not settings.values:
        raise UsageError(
            "contrast needs values",
            "type --dictionary FILE.toml, --values MEASURES, or --table FILE --values COLUMNS",
        )
    if settings.table and settings.dictionary:
        raise UsageError("--table and --dictionary: values are taken from one of them", "leave one of the two out")
    check_select(step)
    if settings.table:
        # what the other steps of a study read does not matter here
        return replace(step, inputs=Inputs(()))
    step.require_input()
    return step


def check(step: "Step", made: "Collection[Path]") -> None:
    """The dictionary can be read, and the table is there."""
    from millstone.study.texts.dictionary_input import check_dictionary

    check_dictionary(step, made)
    if step.settings.table:
        check_exists(step.settings.table, "table", made)


def check_groups(step: "Step", groups: tuple[str, ...]) -> None:
    """The group that ``--against`` names is one of the texts."""
    if step.settings.table or (len(groups) == 1 and shows_course(step)):
        return
    if len(groups) == 1 and step.reading.unit.size:
        raise _one_group(groups[0])
    from millstone.core.compare.pairs import check_two_groups, group_pairs

    check_two_groups(groups, "a contrast")
    group_pairs(groups, step.settings.against)
    _check_omnibus(step, groups)


def _check_omnibus(step: "Step", groups: tuple[str, ...]) -> None:
    if step.settings.omnibus and len(groups) < 3:
        raise DataError(f"--omnibus: there are {len(groups)} groups", "it is for three groups or more")


def _one_group(name: str) -> DataError:
    return DataError(
        f"a contrast needs two groups, and there is one: {name!r}",
        "give a second one, or ask for the development within texts: --trend FILE.csv, or --chart FILE.png "
        "--chart-kind development",
    )


def looks_at_order(step: "Step") -> bool:
    """Whether a measure is among the values, or an entry of the dictionary has several words."""
    from millstone.core.describe.profile import MEASURES
    from millstone.core.describe.word_classes import WORD_CLASSES
    from millstone.study.texts.dictionary_input import has_order

    return has_order(step) or bool(set(step.settings.values) & {*MEASURES, *WORD_CLASSES})


def analyse(step: "Step", material: "Material", notes: list[str], drawing: "Drawing") -> "Result":
    """The differences of each pair of groups; of one group, the course of its values."""
    from millstone.core.columns import CONTRAST, CONTRAST_RATES, OMNIBUS, TREND
    from millstone.core.compare.contrast import contrast, omnibus
    from millstone.core.compare.trends import trends
    from millstone.core.result import Result
    from millstone.study.texts.document_values import (
        check_parts,
        columns_kept,
        columns_of_values,
        observations,
        values_of,
    )

    settings = step.settings
    found = values_of(step, material, notes)
    given, values, sizes = found.table, found.names, found.sizes
    groups = tuple(size.name for size in sizes)
    kept = given.only(columns_kept(given, values))
    meanings = columns_of_values(step, given, values)
    if settings.trend or (len(groups) == 1 and shows_course(step)):
        check_parts(given, "--trend" if settings.trend else "--chart-kind development")
        course = trends(given, values, groups)
        if len(groups) == 1:
            notes.append(f"one group, {groups[0]}: nothing to compare; shown is each value from beginning to end")
            result = Result("trend", course, TREND, sizes, step.typed, layout=_COURSE)
            result = result.with_table("documents", kept, meanings)
            return result.with_table("trend", course, TREND) if settings.trend else result
    if len(groups) == 1 and "part_of" in given:
        raise _one_group(groups[0])
    seen = observations(found, groups, settings, notes)
    table = contrast(seen, settings, notes.append)
    meaning = CONTRAST if found.places is None else CONTRAST_RATES
    result = Result("contrast", table, meaning, sizes, step.typed, layout=step.command.layout).with_table(
        "documents", kept, meanings
    )
    if settings.omnibus:
        _check_omnibus(step, groups)
        result = result.with_table("omnibus", omnibus(seen), OMNIBUS)
    return result.with_table("trend", course, TREND) if settings.trend else result


def shows_course(step: "Step") -> bool:
    """Whether it is asked how values move within texts, for which one group is enough."""
    drawn = bool(step.chart.chart) and step.chart.chart_kind == "development"
    return bool(step.settings.trend) or drawn


def columns(step: "Step") -> Collection[str]:
    """The columns that its table may have."""
    from millstone.core.columns import CONTRAST_RATES, TREND

    return (*CONTRAST_RATES, *TREND)


def figures(result: str) -> "Figures":
    """Means, documents, effect sizes, development over parts, a heat map."""
    from millstone.charts.figures import contrast

    drawn: Figures = {
        "means": contrast.draw,
        "documents": contrast.draw_documents,
        "effects": contrast.draw_effects,
        "development": contrast.draw_development,
        "heat": contrast.draw_heat,
    }
    if result != "trend":
        return drawn
    # of one group, with which nothing is compared
    return {name: drawn[name] for name in ("development", "means", "documents", "heat")}


_COURSE = Layout(leaving=("parts", "texts", "rho", "departing", "slope_low", "group"))
COMMAND = Command(
    "contrast",
    "by how much do groups differ in a value of their documents?",
    ContrastSettings,
    ContrastChartSettings,
    "Each document is one observation. difference is that of the means, hedges_g the same in standard\n"
    "deviations. Of a dictionary log_ratio compares places per token, over documents.",
    (
        "contrast guestbook.csv --text entry --group hut --dictionary dictionary.toml --select weather,fear",
        "contrast guestbook.csv --text entry --group hut --values tokens,mean_word_length --against Ostrel",
        "contrast journals --dictionary dictionary.toml --unit parts:10 --trend trend.csv --chart trend.png "
        "--chart-kind development",
    ),
    analyse,
    layout=Layout(
        blocks=("group_a", "group_b"),
        joint=" compared with ",
        shown=(
            *("value", "mean_a", "mean_b", "difference", "ci_low", "ci_high"),
            *("hedges_g", "cliffs_delta", "p_adjusted", "p_rank_adjusted", "higher_in"),
            *("log_ratio", "log_ratio_low", "log_ratio_high", "p_rate_adjusted", "note"),
        ),
        leaving=(
            *(
                "p_rate_adjusted",
                "log_ratio_low",
                "log_ratio",
                "cliffs_delta",
                "p_rank_adjusted",
                "mean_a",
                "hedges_g",
                "note",
                "ci_low",
                "higher_in",
                "p_adjusted",
            ),
        ),
        drawn=(
            *("value", "group_a", "group_b", "hedges_g", "hedges_g_low", "hedges_g_high", "p_adjusted", "higher_in"),
        ),
    ),
    columns=columns,
    figures=figures,
    settle=settle,
    check=check,
    check_groups=check_groups,
    looks_at_order=looks_at_order,
    tables=("omnibus", "trend"),
    of_plain_words=True,
)
