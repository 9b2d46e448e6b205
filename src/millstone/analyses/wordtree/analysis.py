"""Word tree: how the contexts of an expression branch."""

from collections.abc import Collection
from pathlib import Path

from millstone.analyses.base.analysis import Analysis, DrawProgress
from millstone.analyses.base.matches.nodes import check_nodes, nodes_of, require_nodes
from millstone.analyses.base.step import Step
from millstone.analyses.wordtree.compute import word_tree
from millstone.analyses.wordtree.schema import schema
from millstone.analyses.wordtree.settings import WordTreeSettings
from millstone.core.corpus.corpus import group_sizes
from millstone.core.tables.result import Result
from millstone.core.tables.schema import Schema
from millstone.texts.scanned_texts import ScannedTexts


class WordTreeAnalysis(Analysis[WordTreeSettings]):
    """Word tree: how the contexts of an expression branch."""

    reads_running_text = True
    ignores_punctuation = True
    may_find_nothing = True

    def schema(self) -> Schema:
        """How its table is laid out."""
        return schema()

    def validate_settings(self, step: Step[WordTreeSettings]) -> Step[WordTreeSettings]:
        """Something is looked for."""
        return require_nodes(step)

    def check(self, step: Step[WordTreeSettings], made: Collection[Path]) -> None:
        """The expressions can be read."""
        check_nodes(step, made)

    def analyse(
        self, step: Step[WordTreeSettings], material: ScannedTexts, notes: list[str], drawing: DrawProgress
    ) -> Result:
        """The branches of each node."""
        corpus = material.corpus
        nodes = nodes_of(step, corpus, notes)
        # without groups that were asked for, all texts are one
        pooled = step.settings.together or not step.reading.group
        table = word_tree(corpus, nodes, step.settings, pooled)
        sizes = group_sizes(corpus.documents, corpus.tokens, corpus.groups)
        return Result("wordtree", table, self.schema().of_table(table.names), sizes, step.typed, schema=self.schema())

    def needs_token_order(self, step: Step[WordTreeSettings]) -> bool:
        """Whether the order of the words must be known."""
        return True


ANALYSIS = WordTreeAnalysis()
