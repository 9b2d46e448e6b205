"""The places behind a number of a category."""

import numpy as np

from millstone.analyses.base.matches.counted_tokens import tokens_left
from millstone.analyses.base.matches.dictionary_input import dictionary_of
from millstone.analyses.base.matches.origin import Origin, RowMatches
from millstone.core.base.errors import UsageError
from millstone.core.corpus.corpus import Corpus
from millstone.core.dictionary.matches import find_matches
from millstone.core.matches.matches import Matches, documents_of

TRACED = {"categories": ("document", "group")}


def row_matches(origin: Origin, corpus: Corpus) -> RowMatches:
    """The places of the category that ``--select`` names in the document of a row."""

    dictionary = dictionary_of(origin.step)
    names = [name for name in origin.select if name in dictionary.names()]
    if len(names) != 1:
        raise UsageError(
            "--from: a row of categories has a number for each category", "choose one with --select CATEGORY"
        )
    if marks := [entry.text for entry in dictionary.punctuation(names[0])]:
        raise UsageError(
            f"--from: {names[0]!r} counts punctuation ({', '.join(marks[:3])}), of which no lines are made",
            "see it in the texts: categories ... --punctuation keep --marked",
        )
    tokens, row = tokens_left(origin.step, corpus), origin.rows.iloc[0]
    found = find_matches(tokens.corpus, dictionary).places(names[0])
    places = tokens.as_written(Matches(found.start, found.length))
    same = (corpus.documents["document"] == str(row["document"])) & (corpus.documents["group"] == str(row["group"]))
    return places.at(np.flatnonzero(same[documents_of(corpus, places)])), {}
