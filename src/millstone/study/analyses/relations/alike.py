"""Alike: words used in contexts like those of an expression."""

from collections.abc import Collection
from typing import TYPE_CHECKING

from millstone.charts.settings import ChartSettings
from millstone.core.errors import UsageError
from millstone.core.layout import Layout
from millstone.core.settings.relations import AlikeSettings
from millstone.study.command import Command

if TYPE_CHECKING:
    from pathlib import Path

    from millstone.charts.draw import Figures
    from millstone.core.result import Result
    from millstone.core.table import Table
    from millstone.study.command import Drawing
    from millstone.study.step import Step
    from millstone.study.texts.material import Material

_COMPARED, _DRAWS = 20, 20
# with so many pairs of groups the wait would be long
_PAIRS = 10


def settle(step: "Step") -> "Step":
    """Something is looked for, among single words."""
    step.require_input()
    if not step.settings.find:
        raise UsageError("alike needs something to look for", "type --find EXPRESSION, such as --find hut")
    if step.preparation.ngram != (1, 1):
        raise UsageError("--ngram: words used alike are single terms", "leave --ngram out")
    return step


def check(step: "Step", made: "Collection[Path]") -> None:
    """The expressions can be read."""
    from millstone.study.reading.nodes import check_expressions

    check_expressions(step)


def analyse(step: "Step", material: "Material", notes: list[str], drawing: "Drawing") -> "Result":
    """The terms that are used like each node."""
    from itertools import combinations

    from millstone.core.corpus.corpus import group_sizes, units_by_group
    from millstone.core.relations.columns import ALIKE
    from millstone.core.relations.similarity import alike, overlap_by_chance
    from millstone.core.result import Result
    from millstone.core.terms.counts import left_out_words
    from millstone.core.terms.term_map import check_annotation
    from millstone.study.reading.nodes import expressions_of, found_expressions, term_map_of, words_of

    corpus = material.corpus
    check_annotation(corpus, step.preparation)
    term_map = term_map_of(step, corpus)
    nodes = found_expressions(step, corpus, expressions_of(step), words_of(step, corpus, term_map), notes)
    groups = units_by_group(corpus, not step.reading.group)
    table = alike(corpus, term_map, nodes, groups, step.settings)
    _note_rare(step, table, {name: len(places) for name, places in nodes.items()}, list(groups), notes)
    shared = {}
    for one, other in list(combinations(groups, 2))[:_PAIRS]:
        halves = groups[one], groups[other]
        shared[one, other] = overlap_by_chance(corpus, term_map, nodes, halves, _COMPARED, _DRAWS, step.settings)
        drawing(len(shared), len(groups) * (len(groups) - 1) // 2)
    _note_overlap(table, list(groups), shared, notes)
    sizes = group_sizes(corpus.documents, corpus.tokens, corpus.groups)
    left_out = left_out_words(corpus, term_map)
    return Result("alike", table, ALIKE, sizes, step.typed, left_out, layout=step.command.layout)


def _note_rare(step: "Step", table: "Table", places: dict[str, int], groups: list[str], notes: list[str]) -> None:
    """Say of which nodes there are too few places, in all or in some groups."""
    from millstone.core.wording import listed, numbered

    for name, number in places.items():
        missing = [group for group in groups if not ((table["group"] == group) & (table["node"] == name)).any()]
        if number and missing:
            where = f" in {listed(missing)}" if len(groups) > 1 else ""
            notes.append(
                f"{name!r} is too rare{where} for words used alike: {numbered(number, 'place')} in all, "
                f"--min-freq {step.settings.min_freq}"
            )


def _note_overlap(
    table: "Table", groups: list[str], by_chance: dict[tuple[str, str], dict[str, float]], notes: list[str]
) -> None:
    """Say how far the most alike terms of two groups are the same, and how far those of random halves are."""
    from itertools import combinations

    from millstone.core.wording import listed

    for (node,), rows in table.by(["node"]):
        first = {group: own["term"][:_COMPARED].tolist() for (group,), own in rows.by(["group"])}
        for one, other in combinations([group for group in groups if group in first], 2):
            both = [term for term in first[one] if term in first[other]]
            most = min(len(first[one]), len(first[other]))
            named = f" ({listed(both)})" if both else ""
            usual = by_chance.get((one, other), {}).get(str(node))
            halves = "" if usual is None else f"; of random halves of these texts {usual:.1f} on the average"
            notes.append(
                f"{node}: of the {most} terms most alike in {one} and in {other}, {len(both)} are the same{named}"
                f"{halves}"
            )


def figures(result: str) -> "Figures":
    """Bars of the similarities."""
    from millstone.charts.figures import bars

    return {"bars": bars.draw_alike}


def columns(step: "Step") -> Collection[str]:
    """The columns of its table."""
    from millstone.core.relations.similarity import COLUMNS

    return COLUMNS


COMMAND = Command(
    "alike",
    "which words are used like an expression?",
    AlikeSettings,
    ChartSettings,
    "Two words are alike that have the same neighbours: one or two words before and after, each at its distance,\n"
    "within the sentence. Such lists bring together words of one kind, opposites too. contexts shows what made a\n"
    "term alike; _ is where the word stands.",
    (
        "alike guestbook.csv --text entry --find stove --stop en --top 10",
        "alike guestbook.csv --text entry --find 'soup, porridge' --stop en --min-freq 10 --top 10",
        "alike guestbook.csv --text entry --group hut --find path --stop en --top 5",
    ),
    analyse,
    settle=settle,
    check=check,
    looks_at_order=lambda step: True,
    reads_on=True,
    layout=Layout(
        blocks=("group", "node"),
        joint=": ",
        shown=("rank", "term", "similarity", "freq", "shared_contexts", "contexts"),
        leaving=("rank", "shared_contexts", "freq", "contexts"),
        marks=("node", "term", "similarity", "shared_contexts"),
        drawn=("group", "node", "term", "similarity", "shared_contexts"),
        empty="no words used alike",
    ),
    columns=columns,
    figures=figures,
    may_find_nothing=True,
    of_plain_words=True,
)
