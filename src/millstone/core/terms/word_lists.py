"""Lists and tables of words that preparation refers to, and how their entries are matched."""

from bisect import bisect_left
from collections.abc import Callable, Mapping, Sequence, Set
from dataclasses import field

import numpy as np

from millstone.core.base.light_dataclass import frozen
from millstone.core.base.wildcards import has_wildcards, unescaped, wildcard_test
from millstone.core.tokenise.words import fold_case, normalise, words

UNSURE = "?"
"""Before lemmas that only a rule makes, with blanks between them: one counts where the texts have it."""


@frozen
class WordList:
    """A list of words under the name it was given by; `classes` names the class of an entry, if it has any.

    `note` is what the user should know about it.
    """

    name: str
    entries: Sequence[str]
    classes: Mapping[str, str] = field(default_factory=dict)
    shipped: bool = False
    note: str = ""

    @property
    def rule(self) -> str:
        """The name of the rule that leaves these words out."""
        return f"words of {self.name}" if self.name.startswith("--") else f"stop list {self.name}"


@frozen
class Lemmas:
    """Where lemmas come from; `lemma_of` takes a form as written and gives None where it knows none.

    What it gives may be `UNSURE`. Forms in `irregular`, in small letters, are known to differ much from their lemma.
    With `spare_names`, forms in capitals within sentences are not asked for. A form in capitals
    throughout is not one of the `pronouns`, which are in small letters: US is not us. `leaves` says which of many
    words in small letters are surely their own lemmas, so that their forms need not be asked for. `version` changes
    with its data; "" where looking up is so quick that nothing need be kept.
    """

    name: str
    lemma_of: Callable[[str], str | None]
    spare_names: bool = False
    version: str = ""
    pronouns: Set[str] = frozenset()
    irregular: Set[str] = frozenset()
    leaves: Callable[[Sequence[str]], np.ndarray] | None = None


@frozen
class WordLists:
    """The lists and tables that preparation refers to."""

    stop: Sequence[WordList] = ()
    only: WordList | None = None
    spare: WordList | None = None
    lemmas: Sequence[Lemmas] = ()
    stem: Callable[[str], str] | None = None
    merge: Mapping[str, str] = field(default_factory=dict)


def folding(case: str) -> Callable[[str], str]:
    """The function that the setting `case` applies to a word."""
    return fold_case if case == "lower" else str


def entry_tokens(entry: str) -> list[str]:
    """The tokens of an entry of a list, as those of a text."""
    return [token for piece in entry.split() for token in words(piece)] or entry.split()


def as_word(entry: str) -> str:
    """An entry of a list as a word of a text in small letters: normalised, without signs that no word has."""
    return " ".join(map(fold_case, entry_tokens(entry)))


def is_in_capitals(word: str) -> bool:
    """Whether a word of two letters or more is in capitals throughout, as an abbreviation is."""
    return len(word) > 1 and word.isupper()


class Entries:
    """The entries of a list, as words after the same normalisation and case as the text, or as patterns.

    With `as_typed`, entries in capitals throughout fit only words written so, in any case; `capitals` are these.
    """

    def __init__(self, word_list: WordList | None, fold: Callable[[str], str], as_typed: bool = False) -> None:
        entries = word_list.entries if word_list else ()
        apart = [entry for entry in entries if as_typed and is_in_capitals(entry) and not is_pattern(entry)]
        self.capitals = frozenset(" ".join(entry_tokens(entry)) for entry in apart)
        entries = [entry for entry in entries if entry not in apart]
        patterns = [entry for entry in entries if is_pattern(entry)]
        words_only = (entry for entry in entries if not is_pattern(entry))
        self._words = self.capitals | {" ".join(map(fold, entry_tokens(entry))) for entry in words_only}
        self._tests = [wildcard_test(fold(normalise(pattern))) for pattern in patterns]

    def __contains__(self, word: str) -> bool:
        return word in self._words or any(fits(word) for fits in self._tests)

    def among(self, words: Sequence[str]) -> np.ndarray:
        """(words,) bool: which of some different words in code-point order fit an entry."""
        found = np.zeros(len(words), dtype=bool)
        places = ((bisect_left(words, entry), entry) for entry in self._words)
        found[[place for place, entry in places if words[place : place + 1] == [entry]]] = True
        for fits in self._tests:
            found |= np.fromiter(map(fits, words), dtype=bool, count=len(words))
        return found


def is_pattern(entry: str) -> bool:
    """Whether an entry is a pattern, not a word, with ``*`` for any letters or ``?`` for one."""
    # one with signs that are taken as they stand is held against words as they stand, too
    return (has_wildcards(entry) or unescaped(entry) != entry) and len(entry.split()) == 1


def entries_of_several_words(word_list: WordList) -> list[str]:
    """The entries that can only leave out n-grams or phrases.

    Parameters
    ----------
    word_list : WordList

    Returns
    -------
    list of str
    """
    return [entry for entry in word_list.entries if not is_pattern(entry) and len(entry_tokens(entry)) > 1]
