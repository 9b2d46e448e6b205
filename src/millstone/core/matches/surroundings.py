"""A corpus of the surroundings of places: only the tokens near them."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from millstone.core.base.arrays import unique
from millstone.core.corpus.corpus import Corpus
from millstone.core.matches.matches import Matches, reach
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.tokenise.token_rules import are_words


def near_tokens(corpus: Corpus, nodes: Sequence[Matches], span: tuple[int, int]) -> np.ndarray:
    """(T,) bool: the tokens within the span of any place, those of a place itself only near another.

    Parameters
    ----------
    corpus : Corpus
        From an ordered scan.
    nodes : sequence of Matches
        Matches of each node.
    span : tuple[int, int]
        Tokens to the left and to the right.

    Returns
    -------
    ndarray
    """
    size = len(corpus.sequence[0])
    near = np.zeros(size, dtype=bool)
    for places in nodes:
        left, right = reach(corpus, places, span)
        near |= covered(left, places.start, size) | covered(places.end, right, size)
    return near


def covered(first: np.ndarray, after: np.ndarray, size: int) -> np.ndarray:
    """(size,) bool: the positions from any `first` to before its `after`.

    Parameters
    ----------
    first : ndarray
        (spans,)
    after : ndarray
        (spans,)
    size : int
        How many positions there are.

    Returns
    -------
    ndarray
    """
    change = np.bincount(first, minlength=size + 1) - np.bincount(after, minlength=size + 1)
    return np.cumsum(change)[:size] > 0


def only_near(corpus: Corpus, near: np.ndarray) -> Corpus:
    """The corpus of the tokens that are near; documents stay, also those without any.

    Parameters
    ----------
    corpus : Corpus
        From an ordered scan.
    near : ndarray
        (T,) bool.

    Returns
    -------
    Corpus
        Its ``tokens``, the base of rates, are those near. Tokens that did not stand side by side are as if a sentence
        ended between them.
    """
    ids, starts, breaks = corpus.sequence
    before = np.concatenate(([0], np.cumsum(near)))
    # where a token was left out just before one that stays
    torn = np.flatnonzero(near & ~np.concatenate(([True], near[:-1])))
    new_ids, new_starts = ids[near], before[starts]
    rows = np.repeat(np.arange(len(starts) - 1), np.diff(new_starts))
    ones = np.ones(len(new_ids), dtype=np.int32)
    form_counts = SparseMatrix.of_cells(ones, rows, new_ids, (len(starts) - 1, len(corpus.forms)))
    return replace(
        corpus,
        form_counts=form_counts,
        tokens=form_counts @ are_words(corpus.forms),
        ids=new_ids,
        starts=new_starts,
        breaks=unique(np.concatenate((before[breaks], before[torn]))),
    )
