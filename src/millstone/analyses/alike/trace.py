"""The places behind a row of words used differently: those with a context that the row names."""

import numpy as np

from millstone.analyses.alike.compute import context_from
from millstone.analyses.alike.space import Space
from millstone.analyses.base.matches.nodes import expressions_of, found_expressions, term_map_of, words_of
from millstone.analyses.base.matches.origin import Origin, RowMatches, in_groups
from millstone.core.base.errors import DataError
from millstone.core.corpus.corpus import Corpus
from millstone.core.matches.matches import Matches
from millstone.core.matches.term_matches import CountedTokens, term_places

TRACED = {"difference": ("node", "target", "reference", "contexts_target", "contexts_reference")}


def row_matches(origin: Origin, corpus: Corpus) -> RowMatches:
    """Where the node of a row has one of the contexts that set its groups apart, and which.

    Raises
    ------
    DataError
        For a node that the settings of the table do not have.
    """
    step, row = origin.step, origin.rows.iloc[0]
    term_map = term_map_of(step, corpus)
    if step.settings.terms:
        nodes = {str(row["node"]): term_places(CountedTokens.all_of(corpus), term_map, str(row["node"]))}
    else:
        nodes = dict(found_expressions(step, corpus, expressions_of(step), words_of(step, corpus, term_map), []))
    if str(row["node"]) not in nodes:
        raise DataError(f"--from: the table was not made of {row['node']!r}", "make the table again")
    places = in_groups(corpus, nodes[str(row["node"])], origin.groups)
    space = Space(corpus, term_map, np.ones(len(corpus.documents), dtype=bool))
    found = _with_context(space, places, [str(row[name]) for name in ("contexts_target", "contexts_reference")])
    chosen = np.flatnonzero(found != "")
    return places.at(chosen), {"context": found[chosen]}


def _with_context(space: Space, places: Matches, named: list[str]) -> np.ndarray:
    """(places,) the first of the contexts named that each place has; empty where it has none."""
    known = {word: number for number, word in enumerate(space.words)}
    distance, word, which = space.contexts_one_by_one(places)
    found = np.full(len(places), "", dtype=object)
    for text in (text.strip() for contexts in named for text in contexts.split(";") if text.strip()):
        has = np.zeros(len(places), dtype=np.int64)
        wanted = context_from(text, known)
        for at, number in wanted.items():
            has[which[(distance == at) & (word == number)]] += 1
        found[(has == len(wanted)) & (has > 0) & (found == "")] = text
    return found
