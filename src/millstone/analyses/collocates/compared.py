"""Which contexts a step compares, and the result of it."""

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from millstone.analyses.base.groups.pairs import comparisons
from millstone.analyses.base.matches.counted_tokens import counted_tokens
from millstone.analyses.base.matches.dictionary_input import dictionary_of
from millstone.analyses.base.matches.nodes import expression_of, nodes_among
from millstone.analyses.base.step import Step
from millstone.analyses.collocates.contexts import ContextPair, ContextSide, NearCounts, contexts
from millstone.analyses.collocates.near import BOTH, near_of
from millstone.analyses.collocates.schema import contexts as contexts_schema
from millstone.core.base.errors import DataError, UsageError
from millstone.core.base.wording import nearest, nearest_names, numbered
from millstone.core.corpus.corpus import group_codes
from millstone.core.corpus.group_names import check_group_names
from millstone.core.evidence.sampling import sampling_units
from millstone.core.matches.matches import Matches
from millstone.core.settings.declare import option
from millstone.core.tables.result import Result
from millstone.texts.scanned_texts import ScannedTexts
from millstone.texts.term_counts import TermCounts

Nodes = Mapping[str, Matches]
_OF_LISTS = ("by_side", "repelled", "measures", "rank_by")
_OF_COMPARED = ("sampling_unit", "independent_units", "adjust")


def is_compared(step: Step[Any]) -> bool:
    """Whether contexts are compared, where otherwise each node has its list."""
    return bool(step.settings.against or step.settings.against_group)


def check_compared(step: Step[Any]) -> None:
    """Raise UsageError for settings that do not go together."""
    settings = step.settings
    if settings.against and settings.against_group:
        raise UsageError(
            "--against and --against-group: contexts of two expressions, or of one in two groups",
            "leave one of the two out; --against compares within each group",
        )
    for name in _OF_LISTS if is_compared(step) else _OF_COMPARED:
        if name in step.typed:
            typed = "--against" if settings.against else "--against-group"
            if is_compared(step):
                raise UsageError(
                    f"{option(name)}: not with {typed}, whose table has both sides", f"leave {option(name)} out"
                )
            raise UsageError(
                f"{option(name)}: nothing is compared",
                f"leave {option(name)} out, or add --against or --against-group",
            )


def check_reference(step: Step[Any], made: Collection[Path]) -> None:
    """The expression or the category of ``--against`` can be read."""
    settings = step.settings
    if not settings.against:
        return
    if not settings.dictionary:
        expression_of(step, settings.against, "--against")
    elif not any(Path(path).resolve() in made for path in settings.dictionary):
        names = dictionary_of(step).names()
        if settings.against not in names:
            raise DataError(
                f"--against: there is no category {settings.against!r}{nearest(settings.against, names)}",
                f"they are {nearest_names(settings.against, names)}",
            )


def compared_contexts(step: Step[Any], material: ScannedTexts, terms: TermCounts, notes: list[str]) -> Result:
    """The contexts that a step compares, as a result."""
    corpus, settings = material.corpus, step.settings
    check_group_names(terms.sizes, words_needed=False)
    nodes = nodes_among(step, material, terms.prepared, notes)
    pairs = _Pairs(step, material, terms, notes)
    every = list(pairs.of_nodes(nodes) if settings.against else pairs.of_groups(nodes))
    sampling = sampling_units(corpus.documents, settings.sampling_unit, settings.independent_units)
    within = "group" if settings.against else "node"
    table = contexts(terms.of_one_size, every, sampling, settings, within, notes.append)
    if not len(table):
        notes.append(f"no term is near both sides together {settings.min_together} times or more (--min-together)")
    schema = contexts_schema()
    columns = schema.of_table(table.names)
    return Result("contexts", table, columns, terms.sizes, step.typed, terms.left_out, schema=schema)


class _Pairs:
    """The pairs of contexts of a step."""

    def __init__(self, step: Step[Any], material: ScannedTexts, terms: TermCounts, notes: list[str]) -> None:
        self._step, self._material, self._terms, self._notes = step, material, terms, notes
        self._counted = counted_tokens(step, material.corpus) if step.preparation.phrases else None

    def of_nodes(self, nodes: Nodes) -> Iterator[ContextPair]:
        """Each node with the one of ``--against``, in each group."""
        corpus, notes = self._material.corpus, self._notes
        name, reference = reference_of(self._step, self._material, self._terms, notes)
        for node, places in nodes.items():
            if node == name:
                raise UsageError(f"--against: {name!r} is what --find looks for", "name another expression")
            _require_places(node, places, notes)
            _require_places(name, reference, notes)
            own, other, shared = apart(places, reference)
            if shared:
                places_of = f"{numbered(shared, 'place')} of {node}"
                notes.append(f"{places_of} overlap with places of {name}: counted in neither")
            if not len(own) or not len(other):
                raise DataError(
                    f"--against: all places of {node if not len(own) else name} overlap with places of "
                    f"{name if not len(own) else node}",
                    "name two expressions that differ, such as --find 'old hut' --against 'new hut'",
                )
            near = [near_of(corpus, one, self._step.settings, self._counted)[BOTH] for one in (own, other)]
            both = len(np.intersect1d(near[0].words, near[1].words, assume_unique=True))
            if both:
                notes.append(f"{numbered(both, 'token')} near both {node} and {name}: counted on either side")
            counts = [self._near_counts(*one) for one in zip((own, other), near, strict=True)]
            codes = group_codes(corpus.documents, corpus.groups)
            for number, group in enumerate(corpus.groups):
                here = np.flatnonzero(codes == number)
                sides = (ContextSide(*one, here) for one in zip((node, name), counts, strict=True))
                yield ContextPair(group, *sides)

    def of_groups(self, nodes: Nodes) -> Iterator[ContextPair]:
        """Each node in a group, and in the one or those that it is held against."""
        corpus = self._material.corpus
        codes = group_codes(corpus.documents, corpus.groups)
        place = {group: number for number, group in enumerate(corpus.groups)}
        for node, places in nodes.items():
            _require_places(node, places, self._notes)
            near = near_of(corpus, places, self._step.settings, self._counted)[BOTH]
            counts = self._near_counts(places, near)
            for one in comparisons(corpus.groups, self._step.settings.against_group):
                sides = (
                    ContextSide(name, counts, np.flatnonzero(np.isin(codes, [place[group] for group in groups])))
                    for name, groups in ((one.target, (one.target,)), (one.reference, one.against))
                )
                yield ContextPair(node, *sides)

    def _near_counts(self, places: Matches, near: Any) -> NearCounts:
        return NearCounts.of(self._material.corpus, self._terms.prepared.term_map, places, near)


def reference_step(step: Step[Any]) -> Step[Any]:
    """The step that looks for what ``--against`` names."""
    settings = step.settings
    changed = {"select": (settings.against,)} if settings.dictionary else {"find": (settings.against,)}
    return replace(step, settings=replace(settings, **changed))


def reference_of(step: Step[Any], material: ScannedTexts, terms: TermCounts, notes: list[str]) -> tuple[str, Matches]:
    """The node that ``--against`` names, with its places."""
    found = nodes_among(reference_step(step), material, terms.prepared, notes)
    name = step.settings.against if step.settings.dictionary else next(iter(found))
    return name, found[name]


def apart(one: Matches, other: Matches) -> tuple[Matches, Matches, int]:
    """Places of two nodes without those that overlap with one of the other, and how many of the first do so."""
    first, second = (_overlapping(*pair) for pair in ((one, other), (other, one)))
    return one.at(np.flatnonzero(~first)), other.at(np.flatnonzero(~second)), int(first.sum())


def _overlapping(one: Matches, other: Matches) -> np.ndarray:
    """(P,) bool: which places of the one share a token with a place of the other; both ascend, none overlap."""
    following = np.searchsorted(other.end, one.start, side="right")
    inside = following < len(other)
    found = np.zeros(len(one), dtype=bool)
    found[inside] = other.start[following[inside]] < one.end[inside]
    return found


def _require_places(name: str, places: Matches, notes: Sequence[str]) -> None:
    if not len(places):
        absent = next((note for note in notes if note.startswith(f"no {name!r}")), f"no {name!r} in the texts")
        raise DataError(
            f"{absent}; nothing is near it", "fix its spelling; millstone freq --match PATTERN shows what there is"
        )
