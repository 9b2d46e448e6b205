"""The places behind a row of keyness."""

from millstone.analyses.base.matches.origin import Origin, RowMatches, matches_of_terms
from millstone.core.corpus.corpus import Corpus

TRACED = {"keyness": ("term",)}


def row_matches(origin: Origin, corpus: Corpus) -> RowMatches:
    """Where the term of a row occurs, in its groups."""
    return matches_of_terms(origin, corpus)
