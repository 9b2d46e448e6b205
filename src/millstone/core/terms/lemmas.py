"""The lemma of each written form: the first source that knows one says what it is."""

from collections.abc import Sequence
from operator import eq

import numpy as np

from millstone.core.base.arrays import unique
from millstone.core.base.light_dataclass import frozen
from millstone.core.corpus.corpus import Corpus
from millstone.core.corpus.form_words import FormWords, sorted_unique
from millstone.core.matrix.totals import column_sums
from millstone.core.settings.preparation import GIVEN
from millstone.core.terms.word_lists import UNSURE, Lemmas, is_in_capitals
from millstone.core.tokenise.words import fold_case

NO_PRONOUN = "in capitals, so no pronoun"
"""Where the lemma of a form in capitals comes from that would be a pronoun's in small letters."""


@frozen
class FoundLemmas:
    """The lemmas of F forms.

    Attributes
    ----------
    words : sequence of str
        The different lemmas that differ from their form.
    number : ndarray
        (F,) int32: which of them a form has; -1 where the form is its own lemma, or none is known.
    sources : FormWords
        (F,) the name of what said so, such as ``lemmas en``; empty where none is known.
    """

    words: Sequence[str]
    number: np.ndarray
    sources: FormWords


def find_lemmas(corpus: Corpus, sources: Sequence[Lemmas]) -> FoundLemmas:
    """The lemmas of the forms of a corpus.

    Parameters
    ----------
    corpus : Corpus
    sources : sequence of Lemmas
        Where lemmas come from, the first that has one counts.

    Returns
    -------
    FoundLemmas
    """
    size = len(corpus.forms)
    spares = any(source.spare_names for source in sources)
    is_name = names_in(corpus) if spares else np.zeros(size, dtype=bool)
    # 0: not known; 1: no pronoun; then the sources
    known_by = np.zeros(size, dtype=np.int32)
    found: dict[int, str] = {}
    for code, source in enumerate(sources, 2):
        unknown = np.flatnonzero(known_by == 0)
        if source.pronouns:
            apart = _pronouns_in_capitals(corpus, source, unknown)
            known_by[apart] = 1
            unknown = unknown[known_by[unknown] == 0]
        asked = unknown[~is_name[unknown]] if source.spare_names else unknown
        if source.leaves is not None:
            left = corpus.lowered.map_words(source.leaves)[asked]
            known_by[asked[left]] = code
            asked = asked[~left]
        lemmas = _looked_up(corpus, source, asked.tolist())
        known_by[list(lemmas)] = code
        found |= {number: lemma for number, lemma in lemmas.items() if lemma != corpus.forms[number]}
    words, place = sorted_unique(list(found.values()))
    number = np.full(size, -1, dtype=np.int32)
    number[list(found)] = place
    names = ["", NO_PRONOUN, *(f"lemmas {source.name}" for source in sources)]
    return FoundLemmas(words, number, FormWords.numbered(names, known_by))


def _pronouns_in_capitals(corpus: Corpus, source: Lemmas, asked: np.ndarray) -> list[int]:
    """The forms of pronouns that are in capitals throughout, as an abbreviation is."""
    words = corpus.lowered
    is_pronoun = np.fromiter(map(source.pronouns.__contains__, words.words), dtype=bool, count=len(words.words))
    return [n for n in asked[is_pronoun[words.number[asked]]].tolist() if is_in_capitals(corpus.forms[n])]


def _looked_up(corpus: Corpus, source: Lemmas, asked: Sequence[int]) -> dict[int, str]:
    """The number of a form -> its lemma, for those that a source knows."""
    if source.name == GIVEN:
        return {number: lemma for number in asked if (lemma := corpus.annotation[number].lemma)}
    found = {number: known for number in asked if (known := source.lemma_of(corpus.forms[number]))}
    unsure = [number for number, lemma in found.items() if lemma.startswith(UNSURE)]
    present = set(corpus.lowered.words) if unsure else set()
    for number in unsure:
        guesses = found[number].removeprefix(UNSURE).split()
        found[number] = next((one for one in guesses if fold_case(one) in present), corpus.forms[number])
    return found


def names_in(corpus: Corpus) -> np.ndarray:
    """(F,) bool: the forms that look like names.

    They begin with a capital, not all of their letters are capitals, and they stand within sentences
    more often than the same word in small letters stands anywhere.

    Parameters
    ----------
    corpus : Corpus

    Returns
    -------
    ndarray
    """
    ids, starts, breaks = corpus.sequence
    totals = column_sums(corpus.form_counts)
    opening = unique(np.concatenate((breaks, starts)))
    opening = opening[opening < len(ids)]
    inside = totals - np.bincount(ids[opening], minlength=len(totals))
    small = corpus.lowered
    is_small = np.fromiter(map(eq, corpus.forms, small), dtype=bool, count=len(small))
    of_small = np.zeros(len(small.words), dtype=np.int64)
    of_small[small.number[is_small]] = totals[is_small]
    may_be = ~is_small & (inside > of_small[small.number])
    capital = [n for n in np.flatnonzero(may_be).tolist() if _begins_with_capital(corpus.forms[n])]
    found = np.zeros(len(corpus.forms), dtype=bool)
    found[capital] = True
    return found


def _begins_with_capital(form: str) -> bool:
    return form[0].isupper() and not form.isupper()
