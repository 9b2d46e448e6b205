"""The places behind a link of a network."""

from typing import Any

import numpy as np

from millstone.analyses.base.matches.counted_tokens import tokens_left, with_phrases
from millstone.analyses.base.matches.dictionary_input import dictionary_of
from millstone.analyses.base.matches.nodes import term_map_of
from millstone.analyses.base.matches.origin import Origin, RowMatches, in_groups, with_other_word
from millstone.analyses.base.step import Step
from millstone.core.corpus.corpus import ALL, Corpus
from millstone.core.dictionary.matches import find_matches
from millstone.core.matches.matches import Matches, documents_of
from millstone.core.matches.term_matches import CountedTokens, term_places

TRACED = {"network": ("term_a", "term_b"), "nodes": ("term",), "communities": ("terms",)}


def row_matches(origin: Origin, corpus: Corpus) -> RowMatches:
    """The places of a term, or the units that hold several terms of a community, or both terms of a link.

    Of a link each unit is shown at the two places nearest to each other. With ``--span`` the occurrences of the one
    term that have the other near are shown, of which the table counts the fewer.
    """
    step, row = origin.step, origin.rows.iloc[0]
    left = tokens_left(step, corpus)
    if origin.table == "communities":
        return _of_community(origin, left)
    if origin.table == "nodes":
        return left.as_written(_in_groups(origin, left.corpus, _places(step, left.corpus, str(row["term"])))), {}
    one, other = (
        _in_groups(origin, left.corpus, _places(step, left.corpus, str(row[end]))) for end in ("term_a", "term_b")
    )
    if not step.settings.span:
        at, of_other, away = _nearest(left.corpus, one, other)
        unit = documents_of(left.corpus, one)[at]
        nearest = np.lexsort((at, away, unit))
        nearest = nearest[np.unique(unit[nearest], return_index=True)[1]]
        found, beside = one.at(at[nearest]), other.at(of_other[nearest])
    else:
        sides = []
        for here, there in ((one, other), (other, one)):
            at, of_other, away = _nearest(left.corpus, here, there)
            fits = away <= step.settings.span
            sides.append((here.at(at[fits]), there.at(of_other[fits])))
        found, beside = min(sides, key=lambda pair: len(pair[0]))
    _, columns = with_other_word(left.corpus, found, beside)
    return left.as_written(found), columns


def _of_community(origin: Origin, left: CountedTokens) -> RowMatches:
    """The units that hold two or more terms of a community, each at the first of them, with the others."""
    corpus = left.corpus
    terms = str(origin.rows.iloc[0]["terms"]).split("; ")
    every = [_in_groups(origin, corpus, _places(origin.step, corpus, term)) for term in terms]
    start, length = (np.concatenate([getattr(one, name) for one in every]) for name in ("start", "length"))
    term = np.repeat(np.arange(len(terms)), [len(one) for one in every])
    order = np.lexsort((term, start))
    places, term = Matches(start[order], length[order]), term[order]
    unit = documents_of(corpus, places)
    # each term counts once in a unit, at its first place
    first = np.sort(np.unique(unit * len(terms) + term, return_index=True)[1])
    unit, term = unit[first], term[first]
    begin = np.flatnonzero(np.append(True, unit[1:] != unit[:-1])[: len(unit)])
    number = np.diff(np.append(begin, len(unit)))
    several = number > 1
    others = [
        ", ".join(terms[one] for one in term[at + 1 : at + many].tolist())
        for at, many in zip(begin[several].tolist(), number[several].tolist(), strict=True)
    ]
    found = left.as_written(places.at(first[begin[several]]))
    return found, {"collocate": np.array(others, dtype=object)}


def _in_groups(origin: Origin, corpus: Corpus, places: Matches) -> Matches:
    return places if origin.groups == {ALL} else in_groups(corpus, places, origin.groups)


def _places(step: Step[Any], corpus: Corpus, term: str) -> Matches:
    """All places of a term, or of a category."""
    if step.settings.dictionary:
        found = find_matches(corpus, dictionary_of(step)).places(term)
        return Matches(found.start, found.length)
    preparation = step.preparation
    counted = with_phrases(step, CountedTokens.all_of(corpus))
    return term_places(counted, term_map_of(step, counted.corpus), term, preparation.ngram[0], preparation.bridge)


def _nearest(corpus: Corpus, here: Matches, there: Matches) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Places that have one of the others in their unit: their numbers, that of the nearest other, how far it is."""
    unit, of_there = documents_of(corpus, here), documents_of(corpus, there)
    best, away = np.full(len(here), -1), np.full(len(here), np.iinfo(np.int64).max)
    after = np.searchsorted(there.start, here.start)
    for side in (after - 1, after) if len(there) else ():
        one = np.clip(side, 0, len(there) - 1)
        distance = np.maximum(there.start[one] - (here.end - 1), here.start - (there.end[one] - 1))
        closer = (of_there[one] == unit) & (distance < away)
        best, away = np.where(closer, one, best), np.where(closer, distance, away)
    at = np.flatnonzero(best >= 0)
    return at, best[at], away[at]
