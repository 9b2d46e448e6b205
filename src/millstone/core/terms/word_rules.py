"""The rules that leave words out: which of them leaves out a word, and which entries of lists fit none."""

import re
from collections.abc import Callable, Iterator, Sequence, Set

import numpy as np

from millstone.core.corpus.corpus import Corpus
from millstone.core.settings.preparation import Preparation
from millstone.core.terms.word_lists import (
    Entries,
    WordList,
    WordLists,
    as_word,
    entry_tokens,
    fold_case,
    folding,
    is_pattern,
)
from millstone.core.tokenise.words import normalise
from millstone.core.wildcards import wildcard_test

_LETTER = re.compile(r"[^\W\d_]")


def left_out_by(
    corpus: Corpus, preparation: Preparation, lists: WordLists, written: Sequence[str], results: Sequence[str]
) -> tuple[np.ndarray, tuple[str, ...]]:
    """(words,) the number of the first rule that leaves each word out, -1 for none; and the names of all rules."""
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
    written: Sequence[str],
    results: Sequence[str],
) -> Iterator[tuple[str, np.ndarray]]:
    """The rules that leave words out: the name of each, and (words,) bool, which ones."""
    if preparation.pos:
        tags = {tag.casefold() for tag in preparation.pos}
        yield (
            "part of speech",
            np.array([token.tag.casefold() not in tags for token in corpus.annotation], dtype=bool),
        )
    if preparation.numbers == "drop":
        yield "numbers", np.array([_LETTER.search(word) is None for word in results], dtype=bool)
    for pattern in preparation.drop:
        yield f"drop {pattern}", _among(Entries(WordList("", [pattern]), fold), written, results)
    for stop_list in lists.stop:
        yield stop_list.rule, _among(Entries(stop_list, fold), written, results)
    if preparation.length != (0, None):
        least, most = preparation.length
        size = np.fromiter(map(len, results), dtype=np.int64, count=len(results))
        yield "length", (size < least) | (size > (most if most is not None else size))
    if lists.only:
        yield "not among --only", ~_among(Entries(lists.only, fold), written, results)


def _among(entries: Entries, written: Sequence[str], results: Sequence[str]) -> np.ndarray:
    """(words,) bool: whether the written form or the resulting term is among the entries."""
    found = entries.among(results)
    return found if written is results else found | entries.among(written)


def idle_entries(
    lists: WordLists,
    fold: Callable[[str], str],
    written: Sequence[str],
    results: Sequence[str],
    before: Sequence[str],
) -> dict[str, list[str]]:
    """The entries of the user's own lists that fit no word; `before` are the words before they were merged.

    Entries of stop lists of several words are noted elsewhere.
    """
    found = {}
    own = [one for one in (*lists.stop, lists.only, lists.spare) if one is not None and not one.shipped]
    known = {*written, *results} if own else set()
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
        mergeable = {*map(fold_case, written), *map(fold_case, before)}
        missing = [term for term in lists.merge if as_word(term) not in mergeable]
        if missing:
            found["--merge"] = missing
    return found


def _fits_any(entry: str, fold: Callable[[str], str], known: Set[str]) -> bool:
    if is_pattern(entry):
        return any(map(wildcard_test(fold(normalise(entry))), known))
    return " ".join(map(fold, entry_tokens(entry))) in known
