"""The places behind a row of collocates."""

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from millstone.analyses.base.matches.counted_tokens import counted_tokens, tokens_left
from millstone.analyses.base.matches.nodes import nodes_of, term_map_of
from millstone.analyses.base.matches.origin import Origin, RowMatches, in_groups, places_of_node, with_other_word
from millstone.analyses.collocates.compared import apart, reference_step
from millstone.analyses.collocates.compute import tokens_together
from millstone.analyses.collocates.near import BOTH
from millstone.core.base.errors import DataError
from millstone.core.corpus.corpus import Corpus
from millstone.core.matches.matches import Matches
from millstone.core.matches.term_matches import CountedTokens
from millstone.core.terms.term_map import TermMap

TRACED = {"collocates": ("collocate",), "contexts": ("collocate", "target", "reference")}


def row_matches(origin: Origin, corpus: Corpus) -> RowMatches:
    """For each token counted together the place of the node nearest to it, with the token and how far it is."""
    step = origin.step
    if origin.table == "contexts":
        return _of_contexts(origin, corpus)
    if step.settings.by_side and "side" not in origin.rows:
        raise DataError("--from: the table counts by side, and lacks the column side", "make the table again")
    counted = counted_tokens(step, corpus)
    term_map = term_map_of(step, counted.corpus)
    found = [_together(one, corpus, counted, term_map) for one in origin.each]
    start, length, token, size = (np.concatenate(parts) for parts in zip(*found, strict=True))
    order = np.argsort(start, kind="stable")
    return with_other_word(corpus, Matches(start, length).at(order), Matches(token, size).at(order))


def _together(one: Origin, corpus: Corpus, counted: CountedTokens, term_map: TermMap) -> tuple[np.ndarray, ...]:
    """Start and length of each place of a row, and of the token near it."""
    row = one.rows.iloc[0]
    places = places_of_node(one, corpus, "node")
    side = str(row.get("side", BOTH))
    nearest, token = tokens_together(
        corpus, term_map, places, str(row["collocate"]), side, one.step.settings, counted
    )
    found = places.at(nearest)
    return found.start, found.length, token.start, token.length


def _of_contexts(origin: Origin, corpus: Corpus) -> RowMatches:
    """The tokens of a row near the one node and near the other, or near the node in both groups."""
    step = origin.step
    counted = counted_tokens(step, corpus)
    term_map = term_map_of(step, counted.corpus)
    found = []
    for one in origin.each:
        row = one.rows.iloc[0]
        for name, of_side in _sides(one, corpus, str(row["target"]), str(row["reference"])):
            nearest, other = tokens_together(
                corpus, term_map, of_side, str(row["collocate"]), BOTH, step.settings, counted
            )
            near = of_side.at(nearest)
            found.append((near.start, near.length, other.start, other.length, np.full(len(near), name, dtype=object)))
    start, length, token, size, node = (np.concatenate([one[at] for one in found]) for at in range(5))
    order = np.argsort(start, kind="stable")
    lines, columns = with_other_word(corpus, Matches(start, length).at(order), Matches(token, size).at(order))
    return lines, {"near": node[order], **columns}


def _sides(origin: Origin, corpus: Corpus, target: str, reference: str) -> Iterator[tuple[str, Matches]]:
    """The name of each node of a row with its places in the groups of the row."""
    step, left = origin.step, tokens_left(origin.step, corpus)
    if step.settings.against_group:
        yield str(origin.rows.iloc[0]["node"]), places_of_node(origin, corpus, "node")
        return
    of_row = replace(origin, rows=origin.rows.drop(columns=["target", "reference"]))
    nodes = [nodes_of(one, left.corpus, []) for one in (step, reference_step(step))]
    own, other, _ = apart(nodes[0][target], next(iter(nodes[1].values())))
    for name, places in ((target, own), (reference, other)):
        yield name, in_groups(corpus, left.as_written(places), of_row.groups)
