"""Terms of a network in the texts of a step: where they occur, and the lines in which two occur together."""

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

import numpy as np

from millstone.analyses.base.counted_tokens import tokens_left, with_phrases
from millstone.analyses.base.dictionary_input import dictionary_of, note_idle_rules
from millstone.analyses.base.nodes import term_map_of
from millstone.analyses.base.origin import Origin, RowMatches, in_groups, with_other_word
from millstone.analyses.base.step import Step
from millstone.analyses.base.term_results import counted_terms
from millstone.analyses.network.compute import chosen_terms
from millstone.analyses.network.occurrences import Occurrences, Positions
from millstone.core.corpus.corpus import ALL, Corpus
from millstone.core.dictionary.matches import find_matches
from millstone.core.matches.matches import Spans, documents_of
from millstone.core.matches.term_matches import CountedTokens, term_places
from millstone.core.matrix.cells import SparseMatrix, with_columns
from millstone.texts.scanned_texts import Material

if TYPE_CHECKING:
    pass


def occurrences_of(step: Step[Any], material: Material, notes: list[str]) -> tuple[Occurrences, Mapping[str, int]]:
    """Where the terms occur that are to be linked, and how many tokens each rule of preparation left out."""
    if step.settings.dictionary:
        return _of_categories(step, material.corpus, notes), {}
    terms = counted_terms(step, material, notes)
    counts = terms.of_one_size
    chosen = chosen_terms(counts.part(counts.groups).docs, step.settings, bool(step.preparation.only))
    number = np.full(len(counts.terms), -1, dtype=np.int32)
    number[chosen] = np.arange(len(chosen))
    positions = None
    if step.settings.span:
        of_form = terms.prepared.term_map.term_of
        positions = _positions(step, material.corpus, np.where(of_form >= 0, number[of_form], -1))
    matrix = with_columns(counts.matrix, number, len(chosen))
    return Occurrences(counts.terms[chosen], matrix, material.corpus.tokens, positions), counts.left_out


def _positions(step: Step[Any], corpus: Corpus, number_of: np.ndarray) -> Positions:
    """Every token whose form has a number."""
    counted = with_phrases(step, CountedTokens.all_of(corpus))
    number = number_of[counted.corpus.sequence[0]]
    at = np.flatnonzero(number >= 0)
    places = counted.as_written(Spans(at, np.ones(len(at), dtype=np.int64)))
    return Positions(places.start, places.end - 1, number[at], documents_of(corpus, places))


def _of_categories(step: Step[Any], corpus: Corpus, notes: list[str]) -> Occurrences:
    note_idle_rules(step, notes)
    dictionary = dictionary_of(step)
    names = sorted(dictionary.shown_categories)
    matches = find_matches(corpus, dictionary)
    counts = SparseMatrix.of_dense(matches.numbers(names))
    chosen = chosen_terms(np.bincount(counts.indices, minlength=len(names)), step.settings, all_listed=True)
    positions = None
    if step.settings.span:
        every = [matches.places(names[number]) for number in chosen.tolist()]
        start = np.concatenate([one.start for one in every])
        order = np.argsort(start, kind="stable")
        places = Spans(start, np.concatenate([one.length for one in every])).at(order)
        number = np.repeat(np.arange(len(every)), [len(one.start) for one in every])[order]
        positions = Positions(places.start, places.end - 1, number, documents_of(corpus, places))
    terms = np.array(names, dtype=object)[chosen]
    return Occurrences(terms, counts.columns(chosen), corpus.tokens, positions, are_categories=True)


def lines_together(origin: Origin, corpus: Corpus) -> RowMatches:
    """The units that hold both terms of a row, each at the two places nearest to each other.

    With ``--span`` the occurrences of the one term that have the other near, of which the table counts the fewer.
    """
    step, row = origin.step, origin.rows.iloc[0]
    left = tokens_left(step, corpus)
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


def _in_groups(origin: Origin, corpus: Corpus, places: Spans) -> Spans:
    return places if origin.groups == {ALL} else in_groups(corpus, places, origin.groups)


def _places(step: Step[Any], corpus: Corpus, term: str) -> Spans:
    """All places of a term, or of a category."""
    if step.settings.dictionary:
        found = find_matches(corpus, dictionary_of(step)).places(term)
        return Spans(found.start, found.length)
    preparation = step.preparation
    counted = with_phrases(step, CountedTokens.all_of(corpus))
    return term_places(counted, term_map_of(step, counted.corpus), term, preparation.ngram[0], preparation.bridge)


def _nearest(corpus: Corpus, here: Spans, there: Spans) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
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
