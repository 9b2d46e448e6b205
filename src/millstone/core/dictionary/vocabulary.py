"""The forms of a corpus that the words of a dictionary stand for."""

from bisect import bisect_left
from collections.abc import Iterator, Sequence

import numpy as np

from millstone.core.base.wildcards import ends_of, has_wildcards, wildcard_test
from millstone.core.corpus.form_words import FormWords, folded
from millstone.core.tokenise.words import fold_case

_LAST = "\U0010ffff"


class Vocabulary:
    """Finds the forms of a corpus that a pattern stands for; each pattern is looked for once.

    Parameters
    ----------
    forms : sequence of str
        (F,) as written.
    tags : sequence of str, optional
        (F,) their parts of speech, in annotated texts.
    lowered : FormWords, optional
        The forms in small letters, where they are known.
    """

    def __init__(self, forms: Sequence[str], tags: Sequence[str] = (), lowered: FormWords | None = None) -> None:
        self.size = len(forms)
        self._lowered = lowered
        self._forms = forms
        self._tags = np.array([tag.casefold() for tag in tags], dtype=object)
        self._spellings: dict[bool, _Spellings] = {}
        self._found: dict[tuple[str, bool, str], np.ndarray] = {}

    def matches(self, pattern: str, case: bool, tag: str = "") -> np.ndarray:
        """Numbers of the forms that match, int64, ascending; with a tag, those that have it."""
        key = (pattern, case, tag)
        if key not in self._found:
            if case not in self._spellings:
                self._spellings[case] = self._spelled(case)
            found = self._spellings[case].matches(pattern)
            if tag:
                found = found[self._tags[found] == tag] if len(self._tags) else found[:0]
            self._found[key] = found
        return self._found[key]

    def _spelled(self, case: bool) -> "_Spellings":
        if not case and self._lowered is not None:
            return _Spellings(self._lowered)
        return _Spellings(FormWords.of(self._forms if case else folded(self._forms, fold_case)))

    def mask(self, pattern: str, case: bool, tag: str = "") -> np.ndarray:
        """(forms,) bool, true for the forms that match."""
        mask = np.zeros(self.size, dtype=bool)
        mask[self.matches(pattern, case, tag)] = True
        return mask


class _Spellings:
    """Unique spellings in order, and the forms of each."""

    def __init__(self, spelled: FormWords) -> None:
        self._words = spelled.words
        self._forms = np.argsort(spelled.number, kind="stable")
        sizes = np.bincount(spelled.number, minlength=len(spelled.words))
        self._first = np.concatenate(([0], np.cumsum(sizes)))
        self._turned: list[tuple[str, int]] | None = None

    def matches(self, pattern: str) -> np.ndarray:
        words = np.fromiter(self._fitting(pattern), dtype=np.int64)
        if not len(words):
            return words
        spans = [self._forms[self._first[word] : self._first[word + 1]] for word in words.tolist()]
        return np.sort(np.concatenate(spans))

    def _fitting(self, pattern: str) -> Iterator[int]:
        """The numbers of the spellings that a pattern stands for."""
        begin, end = ends_of(pattern)
        if not has_wildcards(pattern):
            at = bisect_left(self._words, begin)
            yield from (at,) if at < len(self._words) and self._words[at] == begin else ()
        elif begin or not end:
            here = range(bisect_left(self._words, begin), bisect_left(self._words, begin + _LAST))
            if pattern == begin + "*":
                yield from here
            else:
                fits = wildcard_test(pattern)
                yield from (number for number in here if fits(self._words[number]))
        else:
            fits = wildcard_test(pattern)
            yield from (number for number in self._ending_in(end) if fits(self._words[number]))

    def _ending_in(self, end: str) -> Iterator[int]:
        if self._turned is None:
            self._turned = sorted((word[::-1], number) for number, word in enumerate(self._words))
        begin = end[::-1]
        at = bisect_left(self._turned, (begin, 0))
        while at < len(self._turned) and self._turned[at][0].startswith(begin):
            yield self._turned[at][1]
            at += 1
