"""Dispersion: how evenly terms or expressions are spread."""

from collections.abc import Collection, Mapping
from dataclasses import replace
from pathlib import Path

from millstone.analyses.base.analysis import Analysis, DrawProgress
from millstone.analyses.base.matches.nodes import check_nodes, nodes_among
from millstone.analyses.base.step import Step
from millstone.analyses.base.term_results import counted_terms, result_of_terms
from millstone.analyses.dispersion.compute import along_groups, dispersion_of_nodes, dispersion_of_terms
from millstone.analyses.dispersion.schema import schema
from millstone.analyses.dispersion.settings import DispersionSettings
from millstone.core.corpus.corpus import Corpus
from millstone.core.matches.matches import Matches
from millstone.core.tables.result import Result
from millstone.core.tables.schema import Schema
from millstone.outputs.charts.settings import DispersionChartSettings
from millstone.texts.scanned_texts import ScannedTexts


class DispersionAnalysis(Analysis[DispersionSettings]):
    """Dispersion: how evenly terms or expressions are spread."""

    ignores_punctuation = True
    may_find_nothing = True

    def schema(self) -> Schema:
        """How its table is laid out."""
        return schema()

    def check(self, step: Step[DispersionSettings], made: Collection[Path]) -> None:
        """The expressions can be read."""
        check_nodes(step, made)

    def analyse(
        self, step: Step[DispersionSettings], material: ScannedTexts, notes: list[str], drawing: DrawProgress
    ) -> Result:
        """The dispersion of each term, or of the places of each node."""

        terms = counted_terms(step, material, notes)
        if not of_nodes(step):
            return result_of_terms(
                step, terms, terms.table(lambda counts: dispersion_of_terms(counts, step.settings)), notes
            )
        nodes = nodes_among(step, material, terms.prepared, notes)
        result = result_of_terms(step, terms, dispersion_of_nodes(material.corpus, nodes), notes)
        if step.chart.chart:
            result = _with_places(result, material.corpus, nodes)
        meaning = replace(result.columns["term"], meaning="the expression or category that was looked for")
        return replace(result, columns={**result.columns, "term": meaning}, left_out={})

    def validate_settings(self, step: Step[DispersionSettings]) -> Step[DispersionSettings]:
        """The usual figure is of what is looked for."""
        step.require_input()
        assert isinstance(step.chart, DispersionChartSettings)
        kind = step.chart.chart_kind or ("places" if of_nodes(step) else "evenness")
        return replace(step, chart=replace(step.chart, chart_kind=kind))

    def needs_token_order(self, step: Step[DispersionSettings]) -> bool:
        """Whether the order of the words must be known."""
        return of_nodes(step)


def of_nodes(step: Step[DispersionSettings]) -> bool:
    """Whether expressions or categories are looked for, not all terms."""
    return bool(step.settings.find or step.settings.dictionary)


def _with_places(result: Result, corpus: Corpus, nodes: Mapping[str, Matches]) -> Result:
    """The result with what a figure of places needs: where they are, and where the documents of each group begin."""
    places, borders = along_groups(corpus, nodes)
    return result.with_table("places", places).with_table("borders", borders)


ANALYSIS = DispersionAnalysis()
