"""The places on a branch of a word tree."""

from millstone.analyses.base.matches.origin import Origin, RowMatches, places_of_node
from millstone.analyses.wordtree.compute import places_on
from millstone.core.corpus.corpus import ALL, Corpus

TRACED = {"wordtree": ("group", "node", "side", "branch", "parent")}


def row_matches(origin: Origin, corpus: Corpus) -> RowMatches:
    """The places on the branch of a row."""
    row = origin.rows.iloc[0]
    places = places_of_node(origin, corpus, "node", everywhere=row["group"] == ALL)
    branch = str(row["parent"]), str(row["branch"])
    return places_on(corpus, places, str(row["side"]), *branch, origin.step.settings), {}
