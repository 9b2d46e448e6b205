"""The dictionary: categories of entries, each a row of word patterns."""

import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from millstone.core.declare import nearest
from millstone.core.errors import DataError
from millstone.core.lists import fold_case
from millstone.core.tokens import entry_words

ENTRY_KEYS = ("entry", "case", "weight")


@dataclass(frozen=True)
class Entry:
    """One entry of a category.

    Attributes
    ----------
    patterns : tuple of str
        One for each word in a row; ``*`` any run of characters, ``?`` one letter.
    is_exception : bool
        Takes its places away from the category.
    case : bool
        Matches as written; otherwise case-blind.
    weight : float
    """

    patterns: tuple[str, ...]
    is_exception: bool = False
    case: bool = False
    weight: float = 1.0

    @property
    def has_wildcards(self) -> bool:
        """Whether any word of the entry has ``*`` or ``?``."""
        return any("*" in pattern or "?" in pattern for pattern in self.patterns)


@dataclass(frozen=True)
class Dictionary:
    """Entries by category, in the order of the file; ``a/b`` is a sub-category of ``a``."""

    categories: Mapping[str, tuple[Entry, ...]] = field(default_factory=dict)

    def joined(self, other: "Dictionary") -> "Dictionary":
        """Both together; a category in both is one category."""
        names = dict.fromkeys((*self.categories, *other.categories))
        return Dictionary({n: self.categories.get(n, ()) + other.categories.get(n, ()) for n in names})

    def names(self) -> list[str]:
        """All categories, a parent before its sub-categories, also one that has no entry of its own."""
        found: dict[str, None] = {}
        for name in self.categories:
            parts = name.split("/")
            found.update(dict.fromkeys("/".join(parts[: depth + 1]) for depth in range(len(parts))))
        return list(found)

    def children(self, name: str) -> list[str]:
        """The sub-categories one level below."""
        level = name.count("/") + 1
        return [one for one in self.names() if one.startswith(name + "/") and one.count("/") == level]


def dictionary_from(content: Mapping[str, Any], where: str) -> Dictionary:
    """Check what a dictionary file holds and make a Dictionary of it.

    Parameters
    ----------
    content : mapping
        As read from TOML: ``title`` and ``[categories]``.
    where : str
        The file's name, for messages.

    Raises
    ------
    DataError
        Names file, category and entry.
    """
    known = ("title", "categories")
    for key in content:
        if key not in known:
            raise DataError(
                f"{where}: unknown key {key!r}{nearest(key, known)}",
                "a dictionary has a title and [categories]",
            )
    categories = content.get("categories")
    if not isinstance(categories, Mapping) or not categories:
        raise DataError(f"{where}: there are no categories", "add a table [categories] with lists of entries")
    return Dictionary({str(name): _entries(str(name), found, where) for name, found in categories.items()})


def _entries(category: str, found: Any, where: str) -> tuple[Entry, ...]:
    place = f"{where}: category {category!r}"
    if not all(part.strip() for part in category.split("/")):
        raise DataError(f"{place}: a name is missing before or after the /", "write it as parent/child")
    if not isinstance(found, list):
        raise DataError(f"{place} is not a list", f'write {category} = ["word", "another"]')
    if not found:
        raise DataError(f"{place} has no entries", "add entries or take the category out")
    return tuple(_entry(one, place) for one in found)


def _entry(given: Any, place: str) -> Entry:
    fields = {"entry": given} if isinstance(given, str) else given
    if not isinstance(fields, Mapping) or not isinstance(fields.get("entry"), str):
        raise DataError(f"{place}: {given!r} is no entry", 'write "word" or { entry = "word", weight = 2 }')
    for key in fields:
        if key not in ENTRY_KEYS:
            raise DataError(
                f"{place}: entry {fields['entry']!r} has an unknown key {key!r}{nearest(key, ENTRY_KEYS)}",
                f"known keys: {', '.join(ENTRY_KEYS)}",
            )
    case, weight = fields.get("case", False), fields.get("weight", 1)
    if not isinstance(case, bool):
        raise DataError(f"{place}: entry {fields['entry']!r}: case is {case!r}", "write case = true or false")
    if isinstance(weight, bool) or not isinstance(weight, int | float) or not np.isfinite(weight):
        raise DataError(f"{place}: entry {fields['entry']!r}: weight is {weight!r}", "write a number")
    text = fields["entry"].strip()
    patterns = tuple(word for piece in text.removeprefix("!").split() for word in entry_words(piece))
    if not patterns:
        raise DataError(f"{place}: entry {text!r} has no word in it", "write a word, or take it out")
    if patterns == ("*",):
        raise DataError(f"{place}: the entry * alone would count every word", "put letters to it")
    if not case:
        patterns = tuple(fold_case(pattern) for pattern in patterns)
    return Entry(patterns, text.startswith("!"), case, float(weight))


class Vocabulary:
    """Finds the forms of a corpus that a pattern stands for; each pattern is looked for once."""

    def __init__(self, forms: Sequence[str]) -> None:
        self._size = len(forms)
        self._spellings = {False: [fold_case(form) for form in forms], True: list(forms)}
        self._numbers: dict[bool, dict[str, list[int]]] = {}
        self._found: dict[tuple[str, bool], np.ndarray] = {}

    def matches(self, pattern: str, case: bool) -> np.ndarray:
        """Numbers of the forms that match, int64, ascending."""
        key = (pattern, case)
        if key not in self._found:
            self._found[key] = np.array(sorted(self._find(pattern, case)), dtype=np.int64)
        return self._found[key]

    def mask(self, pattern: str, case: bool) -> np.ndarray:
        """(forms,) bool, true for the forms that match."""
        mask = np.zeros(self._size, dtype=bool)
        mask[self.matches(pattern, case)] = True
        return mask

    def _find(self, pattern: str, case: bool) -> Iterable[int]:
        if "*" not in pattern and "?" not in pattern:
            return self._index(case).get(pattern, [])
        fits = _pattern_test(pattern)
        return (number for number, form in enumerate(self._spellings[case]) if fits(form))

    def _index(self, case: bool) -> dict[str, list[int]]:
        if case not in self._numbers:
            index: dict[str, list[int]] = {}
            for number, form in enumerate(self._spellings[case]):
                index.setdefault(form, []).append(number)
            self._numbers[case] = index
        return self._numbers[case]


def _pattern_test(pattern: str) -> Callable[[str], object]:
    stem = pattern.removesuffix("*")
    if "*" not in stem and "?" not in stem:
        return lambda form: form.startswith(stem)
    translated = "".join({"*": ".*", "?": r"[^\W\d_]"}.get(part, re.escape(part)) for part in pattern)
    return re.compile(translated, re.DOTALL).fullmatch
