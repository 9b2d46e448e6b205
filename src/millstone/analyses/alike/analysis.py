"""Alike: words used in contexts like those of an expression."""

from collections.abc import Collection, Mapping
from itertools import combinations
from pathlib import Path

from millstone.analyses.alike.compute import alike, overlap_by_chance
from millstone.analyses.alike.difference import commonest_terms, differences
from millstone.analyses.alike.schema import difference as difference_schema
from millstone.analyses.alike.schema import schema
from millstone.analyses.alike.settings import AlikeSettings
from millstone.analyses.base.analysis import Analysis, DrawProgress
from millstone.analyses.base.groups.pairs import check_two_groups, group_pairs
from millstone.analyses.base.matches.nodes import (
    check_expressions,
    expressions_of,
    found_expressions,
    term_map_of,
    words_of,
)
from millstone.analyses.base.step import Step
from millstone.core.base.errors import UsageError
from millstone.core.base.wording import listed, numbered
from millstone.core.corpus.corpus import Corpus, group_sizes, units_by_group
from millstone.core.corpus.group_names import PAIRS
from millstone.core.evidence.sampling import sampling_units
from millstone.core.matches.matches import Matches
from millstone.core.settings.declare import option
from millstone.core.tables.result import Result
from millstone.core.tables.schema import Schema
from millstone.core.tables.table import Table
from millstone.core.terms.counts import left_out_words
from millstone.core.terms.term_map import TermMap, check_annotation
from millstone.texts.scanned_texts import ScannedTexts

_COMPARED, _DRAWS = 20, 20
_PAIRS = 10


class AlikeAnalysis(Analysis[AlikeSettings]):
    """Alike: words used in contexts like those of an expression."""

    reads_running_text = True
    ignores_punctuation = True
    may_find_nothing = True

    def schema(self) -> Schema:
        """How its table is laid out."""
        return schema()

    def further_schemas(self) -> tuple[Schema, ...]:
        """The schema of how differently words are used."""
        return (difference_schema(),)

    def columns(self, step: Step[AlikeSettings]) -> Collection[str]:
        """The columns that its table may have."""
        return (difference_schema() if step.settings.terms else self.schema()).names

    def validate_settings(self, step: Step[AlikeSettings]) -> Step[AlikeSettings]:
        """Something is looked for, among single words."""
        step.require_input()
        settings = step.settings
        if settings.terms and settings.find:
            raise UsageError(
                "--terms and --find: one of them says which words are compared", "leave one of the two out"
            )
        if not settings.find and not settings.terms:
            raise UsageError("alike needs something to look for", "type --find EXPRESSION, such as --find hut")
        for name in ("sampling_unit", "independent_units", "adjust", "draws"):
            if name in step.typed and not (settings.difference or settings.terms):
                raise UsageError(
                    f"{option(name)}: nothing is compared", "type --difference FILE as well, or --terms N"
                )
        if step.preparation.ngram != (1, 1):
            raise UsageError("--ngram: words used alike are single terms", "leave --ngram out")
        return step

    def check_groups(self, step: Step[AlikeSettings], groups: tuple[str, ...]) -> None:
        """A difference is one of two groups."""
        if step.settings.difference or step.settings.terms:
            check_two_groups(groups, "a difference in use")

    def check(self, step: Step[AlikeSettings], made: Collection[Path]) -> None:
        """The expressions can be read."""
        check_expressions(step)

    def analyse(
        self, step: Step[AlikeSettings], material: ScannedTexts, notes: list[str], drawing: DrawProgress
    ) -> Result:
        """The terms that are used like each node."""

        corpus = material.corpus
        check_annotation(corpus, step.preparation)
        term_map = term_map_of(step, corpus)
        sizes = group_sizes(corpus.documents, corpus.tokens, corpus.groups)
        left_out = left_out_words(corpus, term_map)
        if step.settings.terms:
            nodes: Mapping[str, Matches] = commonest_terms(corpus, term_map, step.settings.terms)
            table, laid_out = _difference(step, corpus, term_map, nodes, notes, drawing), difference_schema()
        else:
            words = words_of(step, corpus, term_map)
            nodes = found_expressions(step, corpus, expressions_of(step), words, notes)
            table, laid_out = _used_alike(step, corpus, term_map, nodes, notes, drawing), self.schema()
        columns = laid_out.of_table(table.names)
        result = Result(laid_out.name, table, columns, sizes, step.typed, left_out, schema=laid_out)
        if not step.settings.difference:
            return result
        apart = table if step.settings.terms else _difference(step, corpus, term_map, nodes, notes, drawing)
        return result.with_table("difference", apart, difference_schema().of_table(apart.names), difference_schema())

    def needs_token_order(self, step: Step[AlikeSettings]) -> bool:
        """Whether the order of the words must be known."""
        return True


def _used_alike(
    step: Step[AlikeSettings],
    corpus: Corpus,
    term_map: TermMap,
    nodes: Mapping[str, Matches],
    notes: list[str],
    drawing: DrawProgress,
) -> Table:
    """The terms that are used like each node; how far lists of groups are the same goes to `notes`."""
    groups = units_by_group(corpus, not step.reading.group)
    table = alike(corpus, term_map, nodes, groups, step.settings)
    _note_rare(step, table, {name: len(places) for name, places in nodes.items()}, list(groups), notes)
    shared = {}
    for one, other in list(combinations(groups, 2))[:_PAIRS]:
        halves = groups[one], groups[other]
        shared[one, other] = overlap_by_chance(corpus, term_map, nodes, halves, _COMPARED, _DRAWS, step.settings)
        drawing(len(shared), len(groups) * (len(groups) - 1) // 2)
    _note_overlap(table, list(groups), shared, notes)
    return table


def _difference(
    step: Step[AlikeSettings],
    corpus: Corpus,
    term_map: TermMap,
    nodes: Mapping[str, Matches],
    notes: list[str],
    drawing: DrawProgress,
) -> Table:
    """How differently each node is used in each two groups."""
    settings = step.settings
    units = sampling_units(corpus.documents, settings.sampling_unit, settings.independent_units)
    pairs = group_pairs(corpus.groups, PAIRS)
    return differences(corpus, term_map, nodes, pairs, units, settings, notes.append, drawing)


def _note_rare(
    step: Step[AlikeSettings], table: Table, places: dict[str, int], groups: list[str], notes: list[str]
) -> None:
    """Say of which nodes there are too few places, in all or in some groups."""
    for name, number in places.items():
        missing = [group for group in groups if not ((table["group"] == group) & (table["node"] == name)).any()]
        if number and missing:
            where = f" in {listed(missing)}" if len(groups) > 1 else ""
            notes.append(
                f"{name!r} is too rare{where} for words used alike: {numbered(number, 'place')} in all, "
                f"--min-freq {step.settings.min_freq}"
            )


def _note_overlap(
    table: Table, groups: list[str], by_chance: dict[tuple[str, str], dict[str, float]], notes: list[str]
) -> None:
    """Say how far the most alike terms of two groups are the same, and how far those of random halves are."""

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


ANALYSIS = AlikeAnalysis()
