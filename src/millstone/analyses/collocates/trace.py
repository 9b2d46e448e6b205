"""The places behind a row of collocates."""

import numpy as np

from millstone.analyses.base.matches.counted_tokens import counted_tokens
from millstone.analyses.base.matches.nodes import term_map_of
from millstone.analyses.base.matches.origin import Origin, RowMatches, places_of_node, with_other_word
from millstone.analyses.collocates.compute import BOTH, tokens_together
from millstone.core.base.errors import DataError
from millstone.core.corpus.corpus import Corpus
from millstone.core.matches.matches import Matches
from millstone.core.matches.term_matches import CountedTokens
from millstone.core.terms.term_map import TermMap

TRACED = {"collocates": ("collocate",)}


def row_matches(origin: Origin, corpus: Corpus) -> RowMatches:
    """For each token counted together the place of the node nearest to it, with the token and how far it is."""
    step = origin.step
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
