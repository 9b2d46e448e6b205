"""Collocates: what occurs near an expression more often than chance would have it."""

from collections.abc import Collection
from dataclasses import replace
from pathlib import Path

from millstone.analyses.base.analysis import Analysis, DrawProgress
from millstone.analyses.base.groups.pairs import comparisons
from millstone.analyses.base.matches.counted_tokens import counted_tokens
from millstone.analyses.base.matches.nodes import check_nodes, nodes_among, require_nodes
from millstone.analyses.base.step import Step
from millstone.analyses.base.term_results import counted_terms
from millstone.analyses.collocates.compared import check_compared, check_reference, compared_contexts, is_compared
from millstone.analyses.collocates.compute import collocates
from millstone.analyses.collocates.measures import optional_measures
from millstone.analyses.collocates.schema import contexts as contexts_schema
from millstone.analyses.collocates.schema import schema
from millstone.analyses.collocates.settings import CollocatesSettings
from millstone.core.base.errors import UsageError
from millstone.core.base.wording import nearest
from millstone.core.corpus.group_names import check_group_names
from millstone.core.tables.result import Result
from millstone.core.tables.schema import Schema
from millstone.texts.scanned_texts import ScannedTexts


class CollocatesAnalysis(Analysis[CollocatesSettings]):
    """Collocates: what occurs near an expression more often than chance would have it."""

    reads_running_text = True
    ignores_punctuation = True
    may_find_nothing = True

    def schema(self) -> Schema:
        """How its table is laid out."""
        return schema()

    def further_schemas(self) -> tuple[Schema, ...]:
        """The schema of contexts that are compared."""
        return (contexts_schema(),)

    def validate_settings(self, step: Step[CollocatesSettings]) -> Step[CollocatesSettings]:
        """Something is looked for, and terms are single words."""
        if step.preparation.ngram != (1, 1):
            raise UsageError("--ngram: collocates are single terms", "leave --ngram out")
        check_compared(step)
        return require_nodes(step)

    def check(self, step: Step[CollocatesSettings], made: Collection[Path]) -> None:
        """The expressions can be read, and the measures exist."""
        for name in step.settings.measures:
            if name not in optional_measures():
                raise UsageError(
                    f"there is no measure {name!r}{nearest(name, optional_measures())}",
                    f"the measures are {', '.join(optional_measures())}",
                )
        if not any(step.settings.span):
            raise UsageError("--span 0,0: nothing is near", "type numbers of words, such as --span 5,5")
        check_nodes(step, made)
        check_reference(step, made)

    def check_groups(self, step: Step[CollocatesSettings], groups: tuple[str, ...]) -> None:
        """``--against-group`` names a group of the texts."""
        if step.settings.against_group:
            comparisons(groups, step.settings.against_group, option="--against-group")

    def columns(self, step: Step[CollocatesSettings]) -> Collection[str]:
        """The columns that its table may have."""
        return contexts_schema().names if is_compared(step) else self.schema().names

    def analyse(
        self, step: Step[CollocatesSettings], material: ScannedTexts, notes: list[str], drawing: DrawProgress
    ) -> Result:
        """The collocates of each node in each group, or the contexts that are compared."""
        terms = counted_terms(step, material, notes)
        if is_compared(step):
            return compared_contexts(step, material, terms, notes)
        corpus, term_map = material.corpus, terms.prepared.term_map
        nodes = nodes_among(step, material, terms.prepared, notes)
        counted = counted_tokens(step, corpus) if step.preparation.phrases else None
        table = collocates(corpus, term_map, terms.of_one_size, nodes, step.settings, counted)
        if not len(table) and any(map(len, nodes.values())):
            than = "less" if step.settings.repelled else "more"
            notes.append(
                f"no term occurs near it {than} often than expected, and {step.settings.min_together} times or more "
                "(--min-together)"
            )
        check_group_names(terms.sizes, words_needed=False)
        schema = replace(self.schema(), ordered_by=(step.settings.rank_by,))
        columns = schema.of_table(table.names)
        result = Result("collocates", table, columns, terms.sizes, step.typed, terms.left_out, schema=schema)
        if not step.chart.chart or step.settings.by_side:
            return result
        # the figure says which side a collocate prefers
        by_side = replace(step.settings, by_side=True, min_together=1)
        sides = collocates(corpus, term_map, terms.of_one_size, nodes, by_side, counted, every=True)
        return result.with_table("sides", sides)

    def needs_token_order(self, step: Step[CollocatesSettings]) -> bool:
        """Whether the order of the words must be known."""
        return True


ANALYSIS = CollocatesAnalysis()
