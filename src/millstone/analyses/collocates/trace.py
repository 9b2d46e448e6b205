"""The places behind a row of collocates."""

from millstone.analyses.base.matches.counted_tokens import counted_tokens
from millstone.analyses.base.matches.nodes import term_map_of
from millstone.analyses.base.matches.origin import Origin, RowMatches, places_of_node, with_other_word
from millstone.analyses.collocates.compute import tokens_together
from millstone.core.corpus.corpus import Corpus


def row_matches(origin: Origin, corpus: Corpus) -> RowMatches:
    """For each token counted together the place of the node nearest to it, with the token and how far it is."""
    step, row = origin.step, origin.rows.iloc[0]
    places = places_of_node(origin, corpus, "node")
    counted = counted_tokens(step, corpus)
    what = term_map_of(step, counted.corpus), places, str(row["collocate"]), str(row["side"]), step.settings
    nearest, token = tokens_together(corpus, *what, counted)
    return with_other_word(corpus, places.at(nearest), token)
