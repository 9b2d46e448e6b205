"""The rules that leave words out: which of them leaves out a word, and which entries of lists fit none."""

import re
from collections.abc import Callable, Iterator, Sequence, Set
from functools import partial

import numpy as np

from millstone.core.base.wildcards import wildcard_test
from millstone.core.corpus.corpus import Corpus
from millstone.core.corpus.form_words import FormWords
from millstone.core.settings.preparation import Preparation
from millstone.core.terms.word_lists import Entries, WordList, WordLists, as_word, entry_tokens, folding, is_pattern
from millstone.core.tokenise.words import fold_case, normalise

_LETTER = re.compile(r"[^\W\d_]")


def left_out_by(
    corpus: Corpus, preparation: Preparation, lists: WordLists, written: FormWords, results: FormWords
) -> tuple[np.ndarray, tuple[str, ...]]:
    """(F,) the number of the first rule that leaves each form out, -1 for none; and the names of all rules.

    Parameters
    ----------
    corpus : Corpus
    preparation : Preparation
    lists : WordLists
        Word lists, as they were read.
    written : FormWords
        (F,) words before, and
    results : FormWords
        (F,) after the rules that change words.

    Returns
    -------
    tuple[ndarray, tuple of str]
        (F,) int64, and the names.
    """
    fold = folding(preparation.case)
    rules = list(_rules(corpus, preparation, lists, fold, written, results))
    left_out = np.full(len(results), -1, dtype=np.int32)
    for rule, (_, unwanted) in reversed(list(enumerate(rules))):
        left_out[unwanted] = rule
    if lists.spare:
        left_out[_among(Entries(lists.spare, fold, as_typed=True), written, results)] = -1
    return left_out, tuple(name for name, _ in rules)


def _rules(
    corpus: Corpus,
    preparation: Preparation,
    lists: WordLists,
    fold: Callable[[str], str],
    written: FormWords,
    results: FormWords,
) -> Iterator[tuple[str, np.ndarray]]:
    """The rules that leave words out: the name of each, and (F,) bool, which forms."""
    if preparation.pos:
        tags = {tag.casefold() for tag in preparation.pos}
        yield (
            "part of speech",
            np.array([token.tag.casefold() not in tags for token in corpus.annotation], dtype=bool),
        )
    if preparation.numbers == "drop":
        yield "numbers", results.map_words(_without_letters)
    for pattern in preparation.drop:
        yield f"drop {pattern}", _among(Entries(WordList("", [pattern]), fold), written, results)
    for stop_list in lists.stop:
        yield stop_list.rule, _among(Entries(stop_list, fold), written, results)
    if preparation.length != (0, None):
        least, most = preparation.length
        yield "length", results.map_words(partial(_beyond, least, most))
    if lists.only:
        yield "not among --only", ~_among(Entries(lists.only, fold), written, results)


def _without_letters(words: Sequence[str]) -> np.ndarray:
    return np.array([_LETTER.search(word) is None for word in words], dtype=bool)


def _beyond(least: int, most: int | None, words: Sequence[str]) -> np.ndarray:
    size = np.fromiter(map(len, words), dtype=np.int64, count=len(words))
    return (size < least) | (size > (most if most is not None else size))


def _among(entries: Entries, written: FormWords, results: FormWords) -> np.ndarray:
    """(F,) bool: whether the written form or the resulting term is among the entries."""
    found = results.map_words(entries.among)
    return found if written is results else found | written.map_words(entries.among)


def idle_entries(
    lists: WordLists,
    fold: Callable[[str], str],
    written: FormWords,
    results: FormWords,
    before: FormWords,
) -> dict[str, list[str]]:
    """The entries of the user's own lists that fit no word; `before` are the words before they were merged.

    Entries of stop lists of several words are noted elsewhere.

    Parameters
    ----------
    lists : WordLists
        Word lists, as they were read.
    fold : Callable[[str], str]
        The rule for case.
    written : FormWords
        (F,) words before, and
    results : FormWords
        (F,) after the rules that change words.
    before : FormWords

    Returns
    -------
    dict of str to list of str
        List -> its entries.
    """
    found = {}
    own = [one for one in (*lists.stop, lists.only, lists.spare) if one is not None and not one.shipped]
    known = {*written.words, *results.words} if own else set()
    for word_list in own:
        apart = Entries(word_list, fold, as_typed=word_list is lists.spare).capitals
        of_words = word_list in lists.stop
        missing = [
            entry
            for entry in word_list.entries
            if (is_pattern(entry) or len(entry_tokens(entry)) == 1 or not of_words)
            and not (entry in known if entry in apart else _fits_any(entry, fold, known))
        ]
        if missing:
            found[word_list.name] = missing
    if lists.merge:
        mergeable = {*map(fold_case, written.words), *map(fold_case, before.words)}
        missing = [term for term in lists.merge if as_word(term) not in mergeable]
        if missing:
            found["--merge"] = missing
    return found


def _fits_any(entry: str, fold: Callable[[str], str], known: Set[str]) -> bool:
    if is_pattern(entry):
        return any(map(wildcard_test(fold(normalise(entry))), known))
    return " ".join(map(fold, entry_tokens(entry))) in known
