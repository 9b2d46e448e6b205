"""Trend: which terms, or categories of a dictionary, rise or fall over ordered periods."""

from collections.abc import Collection
from pathlib import Path
from typing import Any

import numpy as np

from millstone.analyses.base.analysis import Analysis, DrawProgress
from millstone.analyses.base.checks import check_select
from millstone.analyses.base.groups.notes import TakeNote
from millstone.analyses.base.matches.dictionary_input import (
    check_dictionary,
    dictionary_of,
    has_order,
    note_idle_rules,
)
from millstone.analyses.base.step import Step
from millstone.analyses.base.term_results import counted_terms, noted_table, result_of_terms
from millstone.analyses.trend.compute import courses, group_periods, trends
from millstone.analyses.trend.schema import COURSE, schema
from millstone.analyses.trend.schema import courses as courses_schema
from millstone.analyses.trend.settings import TrendSettings
from millstone.core.base.errors import DataError, UsageError
from millstone.core.base.wording import listed, nearest, numbered
from millstone.core.corpus.corpus import Corpus, group_sizes
from millstone.core.corpus.group_names import check_group_names
from millstone.core.corpus.periods import Periods, looks_ordered, periods_of
from millstone.core.dictionary.matches import find_matches
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.tables.result import Result
from millstone.core.tables.schema import Schema
from millstone.core.tables.table import Table
from millstone.core.terms.counts import Counts
from millstone.texts.scanned_texts import ScannedTexts

_MOST_DRAWN = 200
_OF_TEXTS = ("document", "group")


class TrendAnalysis(Analysis[TrendSettings]):
    """Trend: which terms, or categories of a dictionary, rise or fall over ordered periods."""

    def schema(self) -> Schema:
        """How its table is laid out."""
        return schema()

    def further_schemas(self) -> tuple[Schema, ...]:
        """The schema of the rates behind a figure."""
        return (courses_schema(),)

    def sees_punctuation(self, step: Step[TrendSettings]) -> bool:
        """Whether terms are counted, not categories."""
        return not step.settings.dictionary

    def validate_settings(self, step: Step[TrendSettings]) -> Step[TrendSettings]:
        """A field says in which order documents stand."""
        step.require_input()
        if not step.settings.over:
            raise UsageError(
                "trend needs the order of the documents", "type --over FIELD, a field of numbers or dates"
            )
        check_select(step)
        if step.settings.dictionary and (step.counted.count_field or step.counted.count_tags):
            asked = "--count-field" if step.counted.count_field else "--count-tags"
            raise UsageError(
                f"--dictionary counts categories, and {asked} something else", "leave one of the two out"
            )
        return step

    def check(self, step: Step[TrendSettings], made: Collection[Path]) -> None:
        """The dictionary can be read."""
        if step.settings.dictionary:
            check_dictionary(step, made)

    def needs_token_order(self, step: Step[TrendSettings]) -> bool:
        """Whether an entry of the dictionary has several words."""
        return has_order(step)

    def row_limits(self, step: Step[TrendSettings]) -> tuple[int, int] | None:
        """How often a term must occur in a group to have a row."""
        return (step.settings.min_freq, 0)

    def analyse(
        self, step: Step[TrendSettings], material: ScannedTexts, notes: list[str], drawing: DrawProgress
    ) -> Result:
        """The trend of each term or category in each group."""
        settings, corpus = step.settings, material.corpus
        periods = periods_of_step(step, corpus)
        without = int((periods.of < 0).sum())
        if without:
            notes.append(f"left out {numbered(without, 'document')} without a value of {settings.over}")
        drawn: list[Table] = []
        on_screen = not step.output.output or COURSE in step.output.columns

        def of_counts(counts: Counts, note: TakeNote) -> Table:
            table = trends(counts, periods, settings, note, on_screen)
            if step.chart.chart:
                drawn.extend(_courses(counts, periods, table))
            return table

        if settings.dictionary:
            note_idle_rules(step, notes)
            counts = _of_categories(step, corpus)
            table = of_counts(counts, notes.append)
            sizes = group_sizes(corpus.documents, corpus.tokens, corpus.groups)
            check_group_names(sizes, words_needed=False)
            columns = schema().of_table(table.names)
            result = Result("trend", table, columns, sizes, step.typed, schema=schema())
        else:
            terms = counted_terms(step, material, notes)
            result = result_of_terms(step, terms, noted_table(terms, of_counts, notes), notes)
        if not drawn:
            return result
        every = Table.joined(drawn)
        return result.with_table("courses", every, courses_schema().of_table(every.names), courses_schema())


def periods_of_step(step: Step[Any], corpus: Corpus) -> Periods:
    """The periods of the documents of a step.

    Raises
    ------
    DataError
        For a field that does not exist, or holds text.
    """
    over, documents = step.settings.over, corpus.documents
    fields = [name for name in documents.names if name not in _OF_TEXTS]
    if over not in fields:
        ordered = [name for name in fields if looks_ordered(_cells(corpus, name))]
        known = f"fields of numbers or dates: {listed(ordered)}" if ordered else "no field holds numbers or dates"
        raise DataError(
            f"--over: the texts have no field {over!r}{nearest(over, fields)}",
            f"{known}; --path-pattern takes fields from the names of files",
        )
    cells = _cells(corpus, over)
    if not any(cell.strip() for cell in cells):
        raise DataError(f"--over {over}: no document has a value", "name another field")
    try:
        return periods_of(cells, step.settings.period, over, documents["document"].tolist())
    except DataError as error:
        ordered = [name for name in fields if name != over and looks_ordered(_cells(corpus, name))]
        if not ordered or "neither a number" not in error.what:
            raise
        raise DataError(error.what, f"{error.remedy}: {listed(ordered)}") from error


def _cells(corpus: Corpus, name: str) -> list[str]:
    return list(map(str, corpus.documents[name].tolist()))


def _of_categories(step: Step[Any], corpus: Corpus) -> Counts:
    """The categories of the dictionary as terms."""
    dictionary = dictionary_of(step)
    names = dictionary.shown_categories
    numbers = find_matches(corpus, dictionary).numbers(names)
    return Counts(
        SparseMatrix.of_dense(numbers.astype(np.int32)),
        np.array(names, dtype=object),
        corpus.tokens,
        corpus.documents,
        corpus.groups,
        {},
    )


def _courses(counts: Counts, periods: Periods, table: Table) -> list[Table]:
    """The rates of the first terms of each group, for a figure."""
    found = []
    for one in group_periods(counts, periods):
        own = table.at(np.flatnonzero(table["group"] == one.group)) if len(table) else table
        if len(own):
            found.append(courses(counts, one, own["term"][:_MOST_DRAWN].tolist()))
    return found


ANALYSIS = TrendAnalysis()
