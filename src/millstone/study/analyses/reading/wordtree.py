"""Word tree: how the contexts of an expression branch."""

from collections.abc import Collection
from typing import TYPE_CHECKING

from millstone.charts.settings import ChartSettings
from millstone.core.layout import Layout
from millstone.core.settings.reading import WordTreeSettings
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


def settle(step: "Step") -> "Step":
    """Something is looked for."""
    from millstone.study.reading.nodes import require_nodes

    return require_nodes(step)


def check(step: "Step", made: "Collection[Path]") -> None:
    """The expressions can be read."""
    from millstone.study.reading.nodes import check_nodes

    check_nodes(step, made)


def analyse(step: "Step", material: "Material", notes: list[str], drawing: "Drawing") -> "Result":
    """The branches of each node."""
    from millstone.core.columns import WORD_TREE
    from millstone.core.corpus.corpus import group_sizes
    from millstone.core.reading.word_tree import word_tree
    from millstone.core.result import Result
    from millstone.study.reading.nodes import nodes_of

    corpus = material.corpus
    nodes = nodes_of(step, corpus, notes)
    # without groups that were asked for, all texts are one
    pooled = step.settings.together or not step.reading.group
    table = word_tree(corpus, nodes, step.settings, pooled)
    sizes = group_sizes(corpus.documents, corpus.tokens, corpus.groups)
    return Result("wordtree", table, WORD_TREE, sizes, step.typed, layout=step.command.layout)


def places_of(origin: "Origin", corpus: "Corpus") -> "Behind":
    """The places on the branch of a row."""
    from millstone.core.corpus.corpus import ALL
    from millstone.core.reading.word_tree import places_on
    from millstone.study.reading.origin import places_of_node

    row = origin.rows.iloc[0]
    places = places_of_node(origin, corpus, "node", everywhere=row["group"] == ALL)
    branch = str(row["parent"]), str(row["branch"])
    return places_on(corpus, places, str(row["side"]), *branch, origin.step.settings), {}


def figures(result: str) -> "Figures":
    """The tree."""
    from millstone.charts.figures import word_tree

    return {"tree": word_tree.draw}


def columns(step: "Step") -> Collection[str]:
    """The columns of its table."""
    from millstone.core.columns import WORD_TREE

    return tuple(WORD_TREE)


COMMAND = Command(
    "wordtree",
    "how do the contexts of an expression branch?",
    WordTreeSettings,
    ChartSettings,
    "From the node outwards, word by word within the sentence. Words that all places of a branch share are one\n"
    "branch, so that each level is a fork. What is not shown is added up as (N more), and sentences that end\n"
    "there as (end): the branches of a fork add up to it.",
    (
        "wordtree guestbook.csv --text entry --find stove",
        "wordtree guestbook.csv --text entry --group hut --find 'the stove' --side both --depth 2",
        "wordtree journals --find 'path' --side left --min-places 3",
    ),
    analyse,
    settle=settle,
    check=check,
    looks_at_order=lambda step: True,
    reads_on=True,
    layout=Layout(
        tree="branch",
        empty="no branches: what was looked for does not occur in the texts",
        drawn=("group", "node", "side", "level", "branch", "places"),
        traced=("parent",),
        marks=("node", "side", "level", "branch", "parent"),
    ),
    columns=columns,
    places_of=places_of,
    figures=figures,
    chooses_rows=False,
    may_find_nothing=True,
    of_plain_words=True,
)
