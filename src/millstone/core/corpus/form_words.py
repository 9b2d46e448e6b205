"""Words of forms: each distinct word once, and for each form of a corpus the number of its word."""

from collections.abc import Callable, Iterator, Sequence
from itertools import chain, compress, islice
from operator import lt, ne
from typing import TypeVar, overload

import numpy as np

from millstone.core.base.arrays import unique_pairs

T = TypeVar("T", bound="str | tuple[str, ...]")

AT_ONCE = 1 << 16
"""So many forms are folded together."""


class FormWords(Sequence[str]):
    """The word of each of F forms, as a sequence; what is asked of a word is asked once, whatever its forms.

    Attributes
    ----------
    words : list of str
        (W,) the different words in code-point order; each is that of a form.
    number : ndarray
        (F,) int32: the number of each form's word.
    """

    __slots__ = ("number", "words")

    def __init__(self, words: list[str], number: np.ndarray) -> None:
        self.words, self.number = words, number

    @classmethod
    def of(cls, values: Sequence[str]) -> "FormWords":
        """Build it from a word for each form."""
        return values if isinstance(values, cls) else cls(*sorted_unique(values))

    @classmethod
    def numbered(cls, words: Sequence[str], number: np.ndarray) -> "FormWords":
        """Build it from words in any order, also equal or unused ones, and the number of each form's word."""
        used = np.zeros(len(words), dtype=bool)
        used[number] = True
        found, number_of = sorted_unique(list(compress(words, used.tolist())))
        return cls(found, number_of[(np.cumsum(used) - 1)[number]])

    def __len__(self) -> int:
        return len(self.number)

    @overload
    def __getitem__(self, which: int) -> str: ...
    @overload
    def __getitem__(self, which: slice) -> list[str]: ...
    def __getitem__(self, which: int | slice) -> str | list[str]:
        if isinstance(which, slice):
            return [self.words[number] for number in self.number[which].tolist()]
        found: str | list[str] = self.words[self.number[which]]
        return found

    def __iter__(self) -> Iterator[str]:
        return map(self.words.__getitem__, self.number.tolist())

    def renamed(self, names: Sequence[str]) -> "FormWords":
        """The forms under other words: `names` is (W,), one for each word."""
        words, number = sorted_unique(names)
        return FormWords(words, number[self.number])

    def override(self, words: Sequence[str], number: np.ndarray) -> "FormWords":
        """Replace the word of each form whose `number`, (F,), is not -1 by that one of `words`, in any order."""
        place = np.where(number >= 0, number + len(self.words), self.number)
        return FormWords.numbered([*self.words, *words], place)

    def map_words(self, asked: Callable[[Sequence[str]], np.ndarray]) -> np.ndarray:
        """(F,) what is said of each form's word; `asked` answers for many words at once."""
        found: np.ndarray = asked(self.words)[self.number]
        return found


def joined(some: FormWords, others: FormWords, name: Callable[[str, str], str]) -> FormWords:
    """Combine two words of each form into one; each pair of words is asked for once.

    Parameters
    ----------
    some : FormWords
        The first word of each form.
    others : FormWords
        The second word.
    name : Callable[[str, str], str]
        What two words give; empty leaves the form out.

    Returns
    -------
    FormWords
    """
    if some is others:
        return some.renamed([name(word, word) for word in some.words])
    first, second, number = unique_pairs(some.number, others.number)
    both = zip(first.tolist(), second.tolist(), strict=True)
    words, number_of = sorted_unique([name(some.words[one], others.words[other]) for one, other in both])
    return FormWords(words, number_of[number])


def sorted_unique(words: Sequence[T]) -> tuple[list[T], np.ndarray]:
    """Sorted unique words, or tuples of words, in code-point order, and the index of each input among them (int32).

    Meant for words that are nearly in order, which are sorted far faster than a dict is made.

    Parameters
    ----------
    words : sequence of T
        In any order, some of them several times.

    Returns
    -------
    tuple[list of T, ndarray]
    """
    if all(map(lt, words, islice(words, 1, None))):
        return list(words), np.arange(len(words), dtype=np.int32)
    order = sorted(range(len(words)), key=words.__getitem__)
    ordered = [words[number] for number in order]
    is_first = np.fromiter(map(ne, ordered, chain([None], ordered)), dtype=bool, count=len(ordered))
    number_of = np.empty(len(words), dtype=np.int32)
    number_of[order] = np.cumsum(is_first) - 1
    return list(compress(ordered, is_first.tolist())), number_of


def folded(forms: Sequence[str], fold: Callable[[str], str]) -> list[str]:
    """Many forms folded at once."""
    found: list[str] = []
    for at in range(0, len(forms), AT_ONCE):
        some = forms[at : at + AT_ONCE]
        # words hold no line feed, and neither case nor normalisation looks past one
        together = "\n".join(some)
        folded = fold(together)
        # what does not change need not be kept twice
        if folded == together:
            found += some
        else:
            found += [form if form == word else word for form, word in zip(some, folded.split("\n"), strict=True)]
    return found
