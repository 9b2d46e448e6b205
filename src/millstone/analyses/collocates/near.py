"""The tokens near the places of a node."""

from typing import NamedTuple

import numpy as np

from millstone.analyses.collocates.settings import CollocatesSettings
from millstone.core.corpus.corpus import Corpus
from millstone.core.matches.matches import Matches, reach
from millstone.core.matches.surroundings import covered
from millstone.core.matches.term_matches import CountedTokens

BOTH = "both"


class Near(NamedTuple):
    """The tokens near a node: positions of all word tokens, of those that count, and the form of each of these."""

    words: np.ndarray
    tokens: np.ndarray
    forms: np.ndarray


def near_of(
    corpus: Corpus, places: Matches, settings: CollocatesSettings, counted: CountedTokens | None
) -> dict[str, Near]:
    """The tokens in the spans, by side; positions ascend and are those of the texts, of a phrase its first."""
    ids, _, _ = corpus.sequence
    left, right = reach(corpus, places, settings.span, settings.within)
    sides = {"left": covered(left, places.start, len(ids)), "right": covered(places.end, right, len(ids))}
    found = {}
    for side, words in (sides if settings.by_side else {BOTH: sides["left"] | sides["right"]}).items():
        near = np.flatnonzero(words)
        if counted is None:
            found[side] = Near(near, near, ids[near])
        else:
            inside = np.flatnonzero(counted.inside(words))
            found[side] = Near(near, counted.first[inside], counted.corpus.sequence[0][inside])
    return found
