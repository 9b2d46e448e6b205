"""Differences between groups in values of their documents."""

from collections.abc import Collection
from dataclasses import replace
from pathlib import Path

from millstone.analyses.base.analysis import Analysis, DrawProgress
from millstone.analyses.base.checks import check_adjust_for, check_exists, check_select
from millstone.analyses.base.groups.pairs import check_two_groups, comparisons
from millstone.analyses.base.matches.dictionary_input import check_dictionary, counts_punctuation, has_order
from millstone.analyses.base.step import Step
from millstone.analyses.contrast.compute import contrast, omnibus
from millstone.analyses.contrast.corrected import corrected
from millstone.analyses.contrast.document_values import (
    check_parts,
    columns_kept,
    columns_of_values,
    observations,
    values_of,
)
from millstone.analyses.contrast.schema import corrected as corrected_schema
from millstone.analyses.contrast.schema import omnibus as omnibus_schema
from millstone.analyses.contrast.schema import schema, trend
from millstone.analyses.contrast.settings import ContrastSettings
from millstone.analyses.contrast.trends import trends
from millstone.analyses.profile.measures import MEASURES
from millstone.analyses.profile.word_classes import WORD_CLASSES
from millstone.core.base.errors import DataError, UsageError
from millstone.core.base.wording import listed
from millstone.core.corpus.corpus import group_sizes
from millstone.core.settings.declare import option
from millstone.core.settings.inputs import Inputs
from millstone.core.tables.result import Result
from millstone.core.tables.schema import Schema
from millstone.texts.scanned_texts import ScannedTexts


class ContrastAnalysis(Analysis[ContrastSettings]):
    """Differences between groups in values of their documents."""

    def schema(self) -> Schema:
        """How its table is laid out."""
        return schema()

    def further_schemas(self) -> tuple[Schema, ...]:
        """The schemas of its further tables, and of the one that stands in place of the first."""
        return (omnibus_schema(), trend(), corrected_schema())

    def columns(self, step: Step[ContrastSettings]) -> Collection[str]:
        """The columns that the table of a step may have."""
        return corrected_schema().names if step.settings.corrected_by else self.schema().names

    def validate_settings(self, step: Step[ContrastSettings]) -> Step[ContrastSettings]:
        """Values come from a dictionary, from measures and fields, or from a table."""
        settings = step.settings
        if not settings.table and not settings.dictionary and not settings.values:
            raise UsageError(
                "contrast needs values",
                "type --dictionary FILE.toml, --values MEASURES, or --table FILE --values COLUMNS",
            )
        if settings.table and settings.dictionary:
            raise UsageError(
                "--table and --dictionary: values are taken from one of them", "leave one of the two out"
            )
        check_select(step)
        _check_corrected(step)
        check_adjust_for(step)
        if settings.adjust_for and not settings.dictionary:
            raise UsageError(
                "--adjust-for holds the rates of categories against each other, and there is no --dictionary",
                "type --dictionary FILE.toml, or leave the option out",
            )
        if settings.table:
            # what the other steps of a study read does not matter here
            return replace(step, inputs=Inputs(()))
        step.require_input()
        return step

    def check(self, step: Step[ContrastSettings], made: Collection[Path]) -> None:
        """The dictionary can be read, and the table is there."""
        check_dictionary(step, made)
        if step.settings.table:
            check_exists(step.settings.table, "table", made)

    def check_groups(self, step: Step[ContrastSettings], groups: tuple[str, ...]) -> None:
        """The group that ``--against`` names is one of the texts."""
        if step.settings.table or (len(groups) == 1 and shows_course(step)):
            return
        if len(groups) == 1 and step.reading.unit.size:
            raise _one_group(groups[0])

        check_two_groups(groups, "a contrast")
        comparisons(groups, step.settings.against)
        _check_omnibus(step, groups)

    def sees_punctuation(self, step: Step[ContrastSettings]) -> bool:
        """Whether an entry of the dictionary is punctuation."""
        return counts_punctuation(step)

    def needs_token_order(self, step: Step[ContrastSettings]) -> bool:
        """Whether a measure is among the values, or an entry of the dictionary has several words."""
        return (
            bool(step.settings.corrected_by)
            or has_order(step)
            or bool(set(step.settings.values) & {*MEASURES, *WORD_CLASSES})
        )

    def analyse(
        self, step: Step[ContrastSettings], material: ScannedTexts, notes: list[str], drawing: DrawProgress
    ) -> Result:
        """The differences of each pair of groups; of one group, the course of its values."""
        settings = step.settings
        if settings.corrected_by:
            table, corpus = corrected(step, material, notes), material.corpus
            sizes = group_sizes(corpus.documents, corpus.tokens, corpus.groups)
            laid_out = corrected_schema()
            return Result("corrected", table, laid_out.of_table(table.names), sizes, step.typed, schema=laid_out)
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
                result = Result("trend", course, trend().of_table(course.names), sizes, step.typed, schema=trend())
                result = result.with_table("documents", kept, meanings)
                return (
                    result.with_table("trend", course, trend().of_table(course.names)) if settings.trend else result
                )
        if len(groups) == 1 and "part_of" in given:
            raise _one_group(groups[0])
        seen = observations(found, groups, settings, notes)
        table = contrast(seen, settings, notes.append)
        columns = self.schema().of_table(table.names)
        result = Result("contrast", table, columns, sizes, step.typed, schema=self.schema())
        result = result.with_table("documents", kept, meanings)
        if settings.omnibus:
            _check_omnibus(step, groups)
            tested = omnibus(seen)
            result = result.with_table("omnibus", tested, omnibus_schema().of_table(tested.names))
        return result.with_table("trend", course, trend().of_table(course.names)) if settings.trend else result


def _check_corrected(step: Step[ContrastSettings]) -> None:
    """Raise UsageError for what does not go together with coding sheets."""
    settings = step.settings
    if not settings.corrected_by:
        if name := next((name for name in ("arbiter", "same_rates") if getattr(settings, name)), ""):
            raise UsageError(
                f"{option(name)} is about coding sheets, and there is no --corrected-by",
                "leave it out, or name the sheet",
            )
        return
    if not settings.dictionary:
        raise UsageError(
            "--corrected-by corrects the categories of a dictionary, and there is none", "type --dictionary FILE.toml"
        )
    others = {
        name: bool(getattr(settings, name)) for name in ("values", "adjust_for", "by_length", "omnibus", "trend")
    }
    others |= {"chart": bool(step.chart.chart)}
    if clash := [option(name) for name, is_there in others.items() if is_there]:
        raise UsageError(
            f"--corrected-by compares shares of units, which have no {listed(clash)}",
            "leave one of the two out",
        )


def _check_omnibus(step: Step[ContrastSettings], groups: tuple[str, ...]) -> None:
    if step.settings.omnibus and len(groups) < 3:
        raise DataError(f"--omnibus: there are {len(groups)} groups", "it is for three groups or more")


def _one_group(name: str) -> DataError:
    return DataError(
        f"a contrast needs two groups, and there is one: {name!r}",
        "give a second one, or ask for the development within texts: --trend FILE.csv, or --chart FILE.png "
        "--chart-kind development",
    )


def shows_course(step: Step[ContrastSettings]) -> bool:
    """Whether it is asked how values move within texts, for which one group is enough."""
    drawn = bool(step.chart.chart) and step.chart.chart_kind == "development"
    return bool(step.settings.trend) or drawn


ANALYSIS = ContrastAnalysis()
