"""The places behind a row of a table of dispersion."""

from millstone.analyses.base.matches.origin import Origin, RowMatches, matches_of_terms, places_of_node
from millstone.analyses.dispersion.analysis import of_nodes
from millstone.core.corpus.corpus import Corpus

TRACED = {"dispersion": ("term",)}


def row_matches(origin: Origin, corpus: Corpus) -> RowMatches:
    """Where the term or the node of a row stands, in its groups."""
    if not of_nodes(origin.step):
        return matches_of_terms(origin, corpus)
    return places_of_node(origin, corpus, "term"), {}
