"""Terms of a network in the texts of a step: where they occur, and the lines in which two occur together."""

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

import numpy as np

from millstone.analyses.base.matches.counted_tokens import with_phrases
from millstone.analyses.base.matches.dictionary_input import dictionary_of, note_idle_rules
from millstone.analyses.base.step import Step
from millstone.analyses.base.term_results import counted_terms
from millstone.analyses.network.compute import chosen_terms
from millstone.analyses.network.occurrences import Occurrences, Positions
from millstone.core.corpus.corpus import Corpus
from millstone.core.dictionary.matches import find_matches
from millstone.core.matches.matches import Matches, documents_of
from millstone.core.matches.term_matches import CountedTokens
from millstone.core.matrix.cells import SparseMatrix, remap_columns
from millstone.texts.scanned_texts import ScannedTexts

if TYPE_CHECKING:
    pass


def occurrences_of(
    step: Step[Any], material: ScannedTexts, notes: list[str]
) -> tuple[Occurrences, Mapping[str, int]]:
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
    matrix = remap_columns(counts.matrix, number, len(chosen))
    return Occurrences(counts.terms[chosen], matrix, material.corpus.tokens, positions), counts.left_out


def _positions(step: Step[Any], corpus: Corpus, number_of: np.ndarray) -> Positions:
    """Every token whose form has a number."""
    counted = with_phrases(step, CountedTokens.all_of(corpus))
    number = number_of[counted.corpus.sequence[0]]
    at = np.flatnonzero(number >= 0)
    places = counted.as_written(Matches(at, np.ones(len(at), dtype=np.int64)))
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
        places = Matches(start, np.concatenate([one.length for one in every])).at(order)
        number = np.repeat(np.arange(len(every)), [len(one.start) for one in every])[order]
        positions = Positions(places.start, places.end - 1, number, documents_of(corpus, places))
    terms = np.array(names, dtype=object)[chosen]
    return Occurrences(terms, counts.columns(chosen), corpus.tokens, positions, are_categories=True)
