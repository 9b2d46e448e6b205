"""The places behind a row of trends, each with its period."""

import numpy as np

from millstone.analyses.base.matches.counted_tokens import tokens_left
from millstone.analyses.base.matches.dictionary_input import dictionary_of
from millstone.analyses.base.matches.origin import Origin, RowMatches, in_groups, matches_of_terms
from millstone.analyses.trend.analysis import periods_of_step
from millstone.core.corpus.corpus import Corpus
from millstone.core.dictionary.matches import find_matches
from millstone.core.matches.matches import Matches, documents_of

TRACED = {"trend": ("term",)}


def row_matches(origin: Origin, corpus: Corpus) -> RowMatches:
    """Where the term or the category of a row stands, in its group, in documents that have a period."""
    if origin.step.settings.dictionary:
        tokens = tokens_left(origin.step, corpus)
        found = find_matches(tokens.corpus, dictionary_of(origin.step)).places(str(origin.rows["term"].iloc[0]))
        places = in_groups(corpus, tokens.as_written(Matches(found.start, found.length)), origin.groups)
    else:
        places, _ = matches_of_terms(origin, corpus)
    periods = periods_of_step(origin.step, corpus)
    of = periods.of[documents_of(corpus, places)]
    known = np.flatnonzero(of >= 0)
    return places.at(known), {"period": np.array(periods.labels, dtype=object)[of[known]]}
