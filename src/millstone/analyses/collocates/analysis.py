"""Collocates: what occurs near an expression more often than chance would have it."""

from collections.abc import Collection
from dataclasses import replace
from pathlib import Path

from millstone.analyses.base.analysis import Analysis, DrawProgress
from millstone.analyses.base.matches.counted_tokens import counted_tokens
from millstone.analyses.base.matches.nodes import check_nodes, nodes_among, require_nodes
from millstone.analyses.base.step import Step
from millstone.analyses.base.term_results import counted_terms, result_of_terms
from millstone.analyses.collocates.compute import collocates
from millstone.analyses.collocates.settings import CollocatesSettings
from millstone.core.base.errors import UsageError
from millstone.core.base.wording import nearest
from millstone.core.tables.columns import COLLOCATES
from millstone.core.tables.layout import Layout
from millstone.core.tables.result import Result
from millstone.texts.scanned_texts import Material

_MEASURES = ("delta_p_near", "delta_p_of")


class CollocatesAnalysis(Analysis[CollocatesSettings]):
    """Collocates: what occurs near an expression more often than chance would have it."""

    layout = Layout(
        blocks=("group", "node"),
        joint=": ",
        shown=(
            *("collocate", "side", "together", "expected", "freq", "log_dice", "mi", "t_score", "ll"),
            *("docs_together", "delta_p_near", "delta_p_of", "note"),
        ),
        leaving=(
            *("side", "delta_p_of", "delta_p_near", "t_score", "ll", "mi", "docs_together", "note", "expected"),
            "freq",
        ),
        marks=("node", "collocate", "together", "log_dice"),
        drawn=("group", "node", "collocate", "side", "together", "freq"),
    )
    reads_running_text = True
    ignores_punctuation = True
    may_find_nothing = True

    def validate_settings(self, step: Step[CollocatesSettings]) -> Step[CollocatesSettings]:
        """Something is looked for, and terms are single words."""
        if step.preparation.ngram != (1, 1):
            raise UsageError("--ngram: collocates are single terms", "leave --ngram out")
        return require_nodes(step)

    def check(self, step: Step[CollocatesSettings], made: Collection[Path]) -> None:
        """The expressions can be read, and the measures exist."""
        for name in step.settings.measures:
            if name not in _MEASURES:
                raise UsageError(
                    f"there is no measure {name!r}{nearest(name, _MEASURES)}",
                    f"the measures are {', '.join(_MEASURES)}",
                )
        if not any(step.settings.span):
            raise UsageError("--span 0,0: nothing is near", "type numbers of words, such as --span 5,5")
        check_nodes(step, made)

    def analyse(
        self, step: Step[CollocatesSettings], material: Material, notes: list[str], drawing: DrawProgress
    ) -> Result:
        """The collocates of each node in each group."""

        terms = counted_terms(step, material, notes)
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
        result = result_of_terms(step, terms, table.renamed({"node": "term"}).only(["group", "term"]), [])
        result = replace(result, table=table, columns={name: COLLOCATES[name] for name in table.names})
        if not step.chart.chart or step.settings.by_side:
            return result
        # the figure says which side a collocate prefers
        by_side = replace(step.settings, by_side=True, min_together=1)
        sides = collocates(corpus, term_map, terms.of_one_size, nodes, by_side, counted, every=True)
        return result.with_table("sides", sides)

    def columns(self, step: Step[CollocatesSettings]) -> Collection[str]:
        """The columns that its table may have."""
        return tuple(COLLOCATES)

    def needs_token_order(self, step: Step[CollocatesSettings]) -> bool:
        """Whether the order of the words must be known."""
        return True


ANALYSIS = CollocatesAnalysis()
