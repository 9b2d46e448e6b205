"""How a vocabulary grows along its texts."""

import numpy as np

from millstone.analyses.profile.ordered_terms import OrderedTerms
from millstone.core.base.arrays import unique
from millstone.core.corpus.corpus import Corpus, group_codes
from millstone.core.statistics.richness import previous_places
from millstone.core.tables.table import Table
from millstone.core.terms.term_map import TermMap


def vocabulary_growth(corpus: Corpus, term_map: TermMap, points: int = 300) -> Table:
    """How the vocabulary of each group grows as its documents are read in their order.

    Parameters
    ----------
    corpus : Corpus
        From an ordered scan.
    term_map : TermMap
    points : int
        About how many places of each group are given.

    Returns
    -------
    Table
        ``group, tokens, types``: different terms among the first so many kept tokens.
    """
    texts = OrderedTerms(corpus, term_map)
    codes = group_codes(corpus.documents, corpus.groups)
    parts = []
    for number, group in enumerate(corpus.groups):
        types = np.cumsum(previous_places(texts.kept_terms(np.flatnonzero(codes == number))) < 0)
        places = unique(np.linspace(0, len(types), points + 1).round().astype(int))
        met = np.concatenate(([0], types))[places]
        parts.append(Table({"group": group, "tokens": places, "types": met}))
    return Table.joined(parts)
