"""Keyness: the terms that set groups apart."""

from collections.abc import Collection
from dataclasses import replace
from pathlib import Path

import numpy as np

from millstone.analyses.base.analysis import Analysis, DrawProgress, texts_of
from millstone.analyses.base.checks import check_adjust_for, check_exists
from millstone.analyses.base.groups.against import check_against, with_list
from millstone.analyses.base.groups.notes import TakeNote
from millstone.analyses.base.groups.pairs import ALPHA
from millstone.analyses.base.step import Step
from millstone.analyses.base.term_results import counted_terms, noted_table, result_of_terms
from millstone.analyses.keyness.comparing.comparison import OVER_UNITS
from millstone.analyses.keyness.comparing.table import comparisons_beside, key_terms
from millstone.analyses.keyness.compute import check_settings, keyness
from millstone.analyses.keyness.overlap import overlap
from millstone.analyses.keyness.schema import overlap as overlap_schema
from millstone.analyses.keyness.schema import schema
from millstone.analyses.keyness.settings import KeynessSettings
from millstone.core.base.wording import numbered
from millstone.core.tables.result import Result
from millstone.core.tables.schema import Schema
from millstone.core.tables.table import Table, is_missing
from millstone.core.terms.counts import Counts
from millstone.outputs.files.toml import as_dictionary
from millstone.texts.list_material import background_list
from millstone.texts.scanned_texts import ScannedTexts
from millstone.texts.term_counts import TermCounts

_OF_CHANCE = (
    *("log_ratio_low", "log_ratio_high", "p", "p_adjusted", "fisher"),
    *("log_ratio_conditional_low", "log_ratio_conditional_high", "p_conditional", "p_conditional_adjusted"),
)


class KeynessAnalysis(Analysis[KeynessSettings]):
    """Keyness: the terms that set groups apart."""

    def schema(self) -> Schema:
        """How its table is laid out."""
        return schema()

    def further_schemas(self) -> tuple[Schema, ...]:
        """The schema of how alike lists are."""
        return (overlap_schema(),)

    def check(self, step: Step[KeynessSettings], made: Collection[Path]) -> None:
        """The measures and the list exist, and the settings go together."""
        check_adjust_for(step)
        check_settings(step.settings, bool(step.settings.background))
        if step.settings.background:
            check_exists(step.settings.background, "frequency list", made)

    def analyse(
        self, step: Step[KeynessSettings], material: ScannedTexts, notes: list[str], drawing: DrawProgress
    ) -> Result:
        """The terms of each comparison, with their measures."""
        settings: KeynessSettings = step.settings
        terms = counted_terms(step, material, notes)
        background = background_list(settings.background, texts_of(step), notes) if settings.background else None

        def table(asked: KeynessSettings, notes: list[str]) -> Table:
            def of_counts(counts: Counts, note: TakeNote) -> Table:
                counts, of_list = with_list(step, counts, notes)
                return keyness(counts, asked, background, of_list, note, drawing)

            return noted_table(terms, of_counts, notes)

        found = _without_chance(table(settings, notes), material, notes)
        result = result_of_terms(step, terms, _beside(found, terms) if settings.wide else found, notes)
        if not settings.wide:
            result = replace(result, schema=replace(result.schema, ordered_by=(ranked_by(settings, found),)))
        if _draws_all(step):
            result = result.with_table("compared", table(settings.in_full, []))
        if settings.overlap:
            alike = terms.table(lambda counts: _overlap(step, counts, notes))
            result = result.with_table("overlap", alike, overlap_schema().of_table(alike.names), overlap_schema())
        if settings.keys_to:
            keys = key_terms(found, material.corpus.groups, settings.alpha or ALPHA)
            content, passed_over = as_dictionary(keys, f"key terms: {' '.join(step.inputs.input)}")
            if passed_over:
                notes.append(f"{numbered(passed_over, 'key term')} with * ? or ! left out of the dictionary")
            if not any(keys.values()):
                notes.append(f"no term is key, so {settings.keys_to} has no category")
            result = replace(result, files={"keys_to": content})
        return result

    def columns(self, step: Step[KeynessSettings]) -> Collection[str]:
        """The columns that its table may have."""
        return () if step.settings.wide else self.schema().names

    def row_limits(self, step: Step[KeynessSettings]) -> tuple[int, int] | None:
        """How often a term must occur in a group, and in how many documents, to have a row."""
        return (step.settings.min_freq, step.settings.min_docs)

    def check_groups(self, step: Step[KeynessSettings], groups: tuple[str, ...]) -> None:
        """``--against`` names a group of the texts, or a list."""
        check_against(step, groups)


def _beside(table: Table, terms: TermCounts) -> Table:
    """One row per term, the comparisons side by side; of n-grams of several sizes size by size."""
    if "n" not in table:
        return comparisons_beside(table, terms.of_one_size)
    sizes = [
        comparisons_beside(rows.without("n"), terms.counted[int(n)]).with_columns({"n": int(n)}, 1)
        for (n,), rows in table.by(["n"])
    ]
    return Table.joined(sizes)


def _overlap(step: Step[KeynessSettings], counts: Counts, notes: list[str]) -> Table:
    counts, of_list = with_list(step, counts, notes)
    return overlap(counts, step.settings, of_list, notes.append)


def _without_chance(table: Table, material: ScannedTexts, notes: list[str]) -> Table:
    """A table without p and intervals where two preparations of the same texts are compared."""
    if not material.same_texts:
        return table
    pairs = zip(table["target"].tolist(), table["reference"].tolist(), strict=True)
    same = np.array([frozenset(pair) in material.same_texts for pair in pairs], dtype=bool)
    if not same.any():
        return table
    # what is said of p does not hold
    notes[:] = [note for note in notes if " pass over " not in note]
    notes.append(
        "lists of the same texts, prepared in two ways: p and intervals are empty, for nothing was drawn anew; what "
        "the settings moved is in the frequencies and ratios (millstone vary says why)"
    )
    empty = {name: np.where(same, np.nan, table[name].astype(float)) for name in _OF_CHANCE if name in table}
    return table.with_columns(empty)


def ranked_by(settings: KeynessSettings, table: Table) -> str:
    """The column by which a table of keyness is ranked."""
    if settings.rank_by:
        return settings.rank_by
    over_units = settings.test in ("", *OVER_UNITS) and not is_missing(table["ll_documents"]).all()
    return "ll_documents" if over_units else next(name for name in ("g2", "chi2", "ll") if name in table)


def _draws_all(step: Step[KeynessSettings]) -> bool:
    """Whether every compared term is to be drawn, though only some of them are to be listed."""
    of_points = step.chart.chart_kind in ("evidence", "frequencies")
    return of_points and bool(step.chart.chart) and bool(step.settings != step.settings.in_full)


ANALYSIS = KeynessAnalysis()
