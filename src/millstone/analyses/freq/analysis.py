"""Frequency lists."""

from collections.abc import Collection

from millstone.analyses.base.analysis import Analysis, DrawProgress
from millstone.analyses.base.step import Step
from millstone.analyses.base.term_results import counted_terms, result_of_terms
from millstone.analyses.freq.compute import frequency_list, side_by_side
from millstone.analyses.freq.growth import vocabulary_growth
from millstone.analyses.freq.schema import schema
from millstone.analyses.freq.settings import FrequencySettings
from millstone.core.tables.result import Result
from millstone.core.tables.schema import Schema
from millstone.texts.scanned_texts import ScannedTexts


class FrequencyAnalysis(Analysis[FrequencySettings]):
    """Frequency lists."""

    def schema(self) -> Schema:
        """How its table is laid out."""
        return schema()

    def analyse(
        self, step: Step[FrequencySettings], material: ScannedTexts, notes: list[str], drawing: DrawProgress
    ) -> Result:
        """A frequency list for each group, or the groups side by side."""
        terms = counted_terms(step, material, notes)
        terms.note_lone_documents("dp is empty", notes)
        list_of = side_by_side if step.settings.wide else frequency_list
        result = result_of_terms(step, terms, terms.table(lambda counts: list_of(counts, step.settings)), notes)
        if not shows_growth(step):
            return result
        return result.with_table("growth", vocabulary_growth(terms.prepared.corpus, terms.prepared.term_map))

    def columns(self, step: Step[FrequencySettings]) -> Collection[str]:
        """The columns that its table may have."""
        return () if step.settings.wide else self.schema().names

    def needs_token_order(self, step: Step[FrequencySettings]) -> bool:
        """Whether the order of the words must be known."""
        return shows_growth(step)

    def least_freq(self, step: Step[FrequencySettings]) -> int:
        """How often a term must occur in all texts together to change anything."""
        return 1 if shows_growth(step) else step.settings.min_freq

    def row_limits(self, step: Step[FrequencySettings]) -> tuple[int, int] | None:
        """How often a term must occur in a group, and in how many documents, to have a row."""
        return (step.settings.min_freq, step.settings.min_docs)


def shows_growth(step: Step[FrequencySettings]) -> bool:
    """Whether the growth of the vocabulary is to be drawn."""
    return bool(step.chart.chart) and step.chart.chart_kind == "growth"


ANALYSIS = FrequencyAnalysis()
