"""Weighted log odds of terms."""

from collections.abc import Collection
from pathlib import Path

from millstone.analyses.base.analysis import Analysis, DrawProgress, texts_of
from millstone.analyses.base.checks import check_exists
from millstone.analyses.base.groups.against import check_against, with_list
from millstone.analyses.base.step import Step
from millstone.analyses.base.term_results import counted_terms, result_of_terms
from millstone.analyses.logodds.compute import log_odds
from millstone.analyses.logodds.schema import schema
from millstone.analyses.logodds.settings import PRIORS, LogOddsSettings
from millstone.core.tables.result import Result
from millstone.core.tables.schema import Schema
from millstone.core.tables.table import Table
from millstone.core.terms.counts import Counts
from millstone.texts.list_material import background_list
from millstone.texts.scanned_texts import ScannedTexts


class LogOddsAnalysis(Analysis[LogOddsSettings]):
    """Weighted log odds of terms."""

    def schema(self) -> Schema:
        """How its table is laid out."""
        return schema()

    def check(self, step: Step[LogOddsSettings], made: Collection[Path]) -> None:
        """The list that the prior is made of exists."""
        if step.settings.prior not in PRIORS:
            check_exists(step.settings.prior, "frequency list", made)

    def analyse(
        self, step: Step[LogOddsSettings], material: ScannedTexts, notes: list[str], drawing: DrawProgress
    ) -> Result:
        """The terms of each group, with their log odds."""
        settings: LogOddsSettings = step.settings
        terms = counted_terms(step, material, notes)
        named = settings.prior not in PRIORS
        background = background_list(settings.prior, texts_of(step), notes) if named else None

        def of_counts(counts: Counts) -> Table:
            counts, listed = with_list(step, counts, notes)
            return log_odds(counts, settings, background, listed, notes.append)

        return result_of_terms(step, terms, terms.table(of_counts), notes)

    def row_limits(self, step: Step[LogOddsSettings]) -> tuple[int, int] | None:
        """How often a term must occur in a group, and in how many documents, to have a row."""
        return (step.settings.min_freq, step.settings.min_docs)

    def check_groups(self, step: Step[LogOddsSettings], groups: tuple[str, ...]) -> None:
        """``--against`` names a group of the texts, or a list."""
        check_against(step, groups)


ANALYSIS = LogOddsAnalysis()
