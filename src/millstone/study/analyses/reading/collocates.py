"""Collocates: what occurs near an expression more often than chance would have it."""

from collections.abc import Collection
from typing import TYPE_CHECKING

from millstone.charts.settings import ChartSettings
from millstone.core.errors import UsageError
from millstone.core.layout import Layout
from millstone.core.settings.reading import CollocatesSettings
from millstone.study.command import Command

if TYPE_CHECKING:
    from pathlib import Path

    from millstone.charts.draw import Figures
    from millstone.core.corpus.corpus import Corpus
    from millstone.core.result import Result
    from millstone.study.command import Behind, Drawing
    from millstone.study.reading.origin import Origin
    from millstone.study.step import Step
    from millstone.study.texts.material import Material

_MEASURES = ("delta_p_near", "delta_p_of")


def settle(step: "Step") -> "Step":
    """Something is looked for, and terms are single words."""
    from millstone.study.reading.nodes import require_nodes

    if step.preparation.ngram != (1, 1):
        raise UsageError("--ngram: collocates are single terms", "leave --ngram out")
    return require_nodes(step)


def check(step: "Step", made: "Collection[Path]") -> None:
    """The expressions can be read, and the measures exist."""
    from millstone.core.wording import nearest
    from millstone.study.reading.nodes import check_nodes

    for name in step.settings.measures:
        if name not in _MEASURES:
            raise UsageError(
                f"there is no measure {name!r}{nearest(name, _MEASURES)}", f"the measures are {', '.join(_MEASURES)}"
            )
    if not any(step.settings.span):
        raise UsageError("--span 0,0: nothing is near", "type numbers of words, such as --span 5,5")
    check_nodes(step, made)


def analyse(step: "Step", material: "Material", notes: list[str], drawing: "Drawing") -> "Result":
    """The collocates of each node in each group."""
    from dataclasses import replace

    from millstone.core.columns import COLLOCATES
    from millstone.core.reading.collocates import collocates
    from millstone.study.reading.nodes import nodes_among
    from millstone.study.reading.tokens import counted_tokens
    from millstone.study.texts.term_counts import counted_terms

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
    result = terms.result(step, table.renamed({"node": "term"}).only(["group", "term"]), [])
    result = replace(result, table=table, columns={name: COLLOCATES[name] for name in table.names})
    if not step.chart.chart or step.settings.by_side:
        return result
    # the figure says which side a collocate prefers
    by_side = replace(step.settings, by_side=True, min_together=1)
    sides = collocates(corpus, term_map, terms.of_one_size, nodes, by_side, counted, every=True)
    return result.with_table("sides", sides)


def places_of(origin: "Origin", corpus: "Corpus") -> "Behind":
    """For each token counted together the place of the node nearest to it, with the token and how far it is."""
    from millstone.core.reading.collocates import tokens_together
    from millstone.study.reading.nodes import term_map_of
    from millstone.study.reading.origin import places_of_node, with_other_word
    from millstone.study.reading.tokens import counted_tokens

    step, row = origin.step, origin.rows.iloc[0]
    places = places_of_node(origin, corpus, "node")
    counted = counted_tokens(step, corpus)
    what = term_map_of(step, counted.corpus), places, str(row["collocate"]), str(row["side"]), step.settings
    nearest, token = tokens_together(corpus, *what, counted)
    return with_other_word(corpus, places.at(nearest), token)


def figures(result: str) -> "Figures":
    """The strongest collocates."""
    from millstone.charts.figures import collocates

    return {"strongest": collocates.draw}


def columns(step: "Step") -> Collection[str]:
    """The columns that its table may have."""
    from millstone.core.columns import COLLOCATES

    return tuple(COLLOCATES)


COMMAND = Command(
    "collocates",
    "which words occur near an expression more often than by chance?",
    CollocatesSettings,
    ChartSettings,
    "together counts the collocate within the span of any place; expected is what chance would give. log_dice is\n"
    "14 where two words never stand without each other and does not depend on the size of the corpus; mi prefers\n"
    "rare words, t_score and ll common ones.",
    (
        "collocates guestbook.csv --text entry --group hut --find stove --stop en",
        "collocates journals --find 'path*' --stop en --span 3 --by-side --top 8",
        "collocates guestbook.csv --text entry --find 'warden, wardens' --stop en --rank-by ll",
    ),
    analyse,
    settle=settle,
    check=check,
    looks_at_order=lambda step: True,
    reads_on=True,
    layout=Layout(
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
    ),
    columns=columns,
    places_of=places_of,
    figures=figures,
    may_find_nothing=True,
    of_plain_words=True,
)
