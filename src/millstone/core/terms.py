"""From written forms to terms: each decision is taken once per different word."""

import unicodedata
from collections.abc import Mapping, Sequence, Set
from dataclasses import dataclass

import numpy as np

from millstone.core.settings import Preparation
from millstone.core.tokens import words


@dataclass(frozen=True)
class TermMap:
    """Which term each of F forms counts as, or which rule left it out.

    Attributes
    ----------
    terms : ndarray of str
        (terms,) in code-point order.
    term_of : ndarray
        (F,) int32: the number of the form's term, or ``-1 - r`` when rule r left it out.
    rules : tuple of str
        The names of the rules, in the order they apply.
    """

    terms: np.ndarray
    term_of: np.ndarray
    rules: tuple[str, ...]


@dataclass(frozen=True)
class StopList:
    """The words of a stop list under the name it was given by."""

    name: str
    entries: Sequence[str]


def fold_case(word: str) -> str:
    """Unicode lower case, in NFC."""
    return unicodedata.normalize("NFC", word.lower())


def map_terms(forms: Sequence[str], preparation: Preparation, stop_lists: Sequence[StopList] = ()) -> TermMap:
    """Decide for each form what it counts as.

    Parameters
    ----------
    forms : sequence of str
        (F,) the different forms of a corpus.
    preparation : Preparation
        Case and length.
    stop_lists : sequence of StopList
        Applied in their order; a word is reported under the first that has it.

    Returns
    -------
    TermMap
    """
    fold = preparation.case == "lower"
    results = [fold_case(form) for form in forms] if fold else list(forms)
    left_out = np.full(len(forms), -1, dtype=np.int32)
    stop_words = [_entry_words(stop_list, fold) for stop_list in stop_lists]
    least, most = preparation.length
    for number, result in enumerate(results):
        rule = next((r for r, entries in enumerate(stop_words) if result in entries), None)
        if rule is None and not least <= len(result) <= (most if most is not None else len(result)):
            rule = len(stop_lists)
        if rule is not None:
            left_out[number] = rule
    terms = sorted({results[number] for number in np.flatnonzero(left_out < 0)})
    numbers = {term: number for number, term in enumerate(terms)}
    term_of = np.array([numbers.get(result, 0) for result in results], dtype=np.int32).reshape(len(forms))
    return TermMap(
        terms=np.array(terms, dtype=object),
        term_of=np.where(left_out < 0, term_of, -1 - left_out).astype(np.int32),
        rules=(*(f"stop list {stop_list.name}" for stop_list in stop_lists), "length"),
    )


def _entry_words(stop_list: StopList, fold: bool) -> Set[str]:
    found = set()
    for entry in stop_list.entries:
        tokens = [token for piece in entry.split() for token in words(piece)]
        if len(tokens) == 1:
            found.add(fold_case(tokens[0]) if fold else tokens[0])
    return found


def entries_of_several_words(stop_list: StopList) -> list[str]:
    """The entries that can only leave out n-grams."""
    return [entry for entry in stop_list.entries if sum(len(words(piece)) for piece in entry.split()) > 1]


def left_out_tokens(term_map: TermMap, form_totals: np.ndarray) -> Mapping[str, int]:
    """Tokens each rule left out; `form_totals` is (F,), the occurrences of each form."""
    found = {}
    for number, rule in enumerate(term_map.rules):
        tokens = int(form_totals[term_map.term_of == -1 - number].sum())
        if tokens:
            found[rule] = tokens
    return found
