"""The dictionary: categories of entries, each a row of word patterns, and scores made of categories."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import zip_longest
from typing import Any

import numpy as np

from millstone.core.base.errors import DataError
from millstone.core.base.wildcards import escaped, has_wildcards, unescaped
from millstone.core.base.wording import nearest, nearest_names
from millstone.core.dictionary.scores import Score, score_from
from millstone.core.tokenise.token_rules import is_mark, patterns_under
from millstone.core.tokenise.words import entry_words, fold_case, normalise

ENTRY_KEYS = ("entry", "case", "weight", "pos")
ANY_TAG = "*"


@dataclass(frozen=True)
class Entry:
    """One entry of a category.

    Attributes
    ----------
    patterns : tuple of str
        One for each word in a row; ``*`` any run of characters, ``?`` one letter or digit.
    is_exception : bool
        Takes its places away from the category.
    case : bool
        Matches as written; otherwise case-blind.
    weight : float
    tags : tuple of str
        The part of speech of each word, in small letters, "" for any; empty where none is asked for.
    is_punctuation : bool
        Its patterns are marks of punctuation, one each.
    text : str
        As it was written.
    where : str
        File and line, for messages.
    """

    patterns: tuple[str, ...]
    is_exception: bool = False
    case: bool = False
    weight: float = 1.0
    tags: tuple[str, ...] = ()
    is_punctuation: bool = False
    text: str = field(default="", compare=False)
    where: str = field(default="", compare=False)

    @property
    def has_wildcards(self) -> bool:
        """Whether any word of the entry has ``*`` or ``?``."""
        return any(map(has_wildcards, self.patterns))

    @property
    def words(self) -> list[tuple[str, bool, str]]:
        """Pattern, case and tag of each of its words."""
        return [(pattern, self.case, tag) for pattern, tag in zip_longest(self.patterns, self.tags, fillvalue="")]


@dataclass(frozen=True)
class Dictionary:
    """Entries by category, in the order of the file; ``a/b`` is a sub-category of ``a``.

    `places` says where each category stands, for messages; `shown` are the categories and scores that were
    selected, with their sub-categories, empty for all.
    """

    categories: Mapping[str, tuple[Entry, ...]] = field(default_factory=dict)
    scores: Mapping[str, Score] = field(default_factory=dict)
    places: Mapping[str, str] = field(default_factory=dict)
    shown: tuple[str, ...] = ()

    def under(self, rule: str) -> "Dictionary":
        """The dictionary for texts of another token rule than ``words``."""
        return replace(
            self, categories={name: tuple(_under(rule, one) for one in own) for name, own in self.categories.items()}
        )

    def punctuation(self, within: str = "") -> list[Entry]:
        """The entries that are marks of punctuation; those of a category, and below it, where one is named."""
        return [
            entry
            for name, entries in self.categories.items()
            for entry in entries
            if entry.is_punctuation and (not within or f"{name}/".startswith(f"{within}/"))
        ]

    def joined(self, other: "Dictionary") -> "Dictionary":
        """Both together; a category in both is one category.

        Raises
        ------
        DataError
            For a score in both, with different formulas.
        """
        for name in self.scores.keys() & other.scores.keys():
            if self.scores[name].formula != other.scores[name].formula:
                raise DataError(
                    f"{other.scores[name].where}: the score {name!r} is defined differently in "
                    f"{self.scores[name].where}",
                    "give one of the two another name",
                )
        names = dict.fromkeys((*self.categories, *other.categories))
        together = {name: self.categories.get(name, ()) + other.categories.get(name, ()) for name in names}
        return Dictionary(together, {**self.scores, **other.scores}, {**other.places, **self.places})

    def names(self) -> list[str]:
        """All categories, a parent before its sub-categories, also one without its own entries."""
        found: dict[str, None] = {}
        for name in self.categories:
            parts = name.split("/")
            found.update(dict.fromkeys("/".join(parts[: depth + 1]) for depth in range(len(parts))))
        return list(found)

    def where(self, name: str) -> str:
        """File and line of a category or a score; of a category without its own entries, of one below it."""
        if name in self.scores:
            return self.scores[name].where
        found = (place for one, place in self.places.items() if one == name or one.startswith(f"{name}/"))
        return next(found, "")

    def children(self, name: str) -> list[str]:
        """The sub-categories one level below."""
        level = name.count("/") + 1
        return [one for one in self.names() if one.startswith(name + "/") and one.count("/") == level]

    def selected(self, names: Sequence[str]) -> "Dictionary":
        """The dictionary of which only some categories, with what is below them, and some scores are shown.

        Raises
        ------
        DataError
            For a name that is neither.
        """
        known = [*self.names(), *self.scores]
        for name in names:
            if name not in known:
                raise DataError(
                    f"--select: there is no category {name!r}{nearest(name, known)}",
                    f"they are {nearest_names(name, known)}",
                )
        shown = [one for one in known if any(one == name or one.startswith(name + "/") for name in names)]
        return replace(self, shown=tuple(shown))

    @property
    def shown_categories(self) -> list[str]:
        """The categories that are to be shown."""
        return [name for name in self.names() if not self.shown or name in self.shown]

    @property
    def traced_categories(self) -> list[str]:
        """The categories whose words are listed; where only scores are shown, those that they are made of."""
        return self.shown_categories or self.needed_categories

    @property
    def needed_categories(self) -> list[str]:
        """The categories that are shown, or that a shown score is made of."""
        of_scores = (name for score in self.shown_scores for name in score.categories)
        return list(dict.fromkeys([*self.shown_categories, *of_scores]))

    @property
    def shown_scores(self) -> list[Score]:
        """The scores that are to be shown."""
        return [score for name, score in self.scores.items() if not self.shown or name in self.shown]


def dictionary_from(
    content: Mapping[str, Any], where: str, lines: Mapping[tuple[str, ...], Sequence[int]] | None = None
) -> Dictionary:
    """Check what a dictionary file holds and make a Dictionary of it.

    Parameters
    ----------
    content : mapping
        As read from TOML: ``title``, ``[categories]`` and ``[scores]``.
    where : str
        The file's name, for messages.
    lines : mapping, optional
        Where it stands in the file: ``("categories", name)`` -> the line of the category, then one for each entry;
        ``("scores", name)`` -> its line.

    Returns
    -------
    Dictionary
        Its categories in the order of the file.

    Raises
    ------
    DataError
        Names file, line, category and entry.
    """
    lines = lines or {}

    def place(*key: str, number: int = 0) -> str:
        found = lines.get(key, ())
        return f"{where}, line {found[min(number, len(found) - 1)]}" if found else where

    known = ("title", "categories", "scores")
    for key in content:
        if key not in known:
            raise DataError(
                f"{place(key)}: unknown key {key!r}{nearest(key, known)}",
                "a dictionary has a title, [categories] and, if wanted, [scores]",
            )
    categories = content.get("categories")
    if not isinstance(categories, Mapping) or not categories:
        raise DataError(f"{where}: there are no categories", "add a table [categories] with lists of entries")
    found: dict[str, tuple[Entry, ...]] = {}
    places: dict[str, str] = {}
    for given, entries in categories.items():
        here = place("categories", given)
        name = category_name(given, here)
        listed = _listed(name, entries, here)
        found[name] = found.get(name, ()) + tuple(
            entry_from(one, name, place("categories", given, number=number + 1)) for number, one in enumerate(listed)
        )
        places.setdefault(name, here)
    scores = content.get("scores", {})
    if not isinstance(scores, Mapping):
        raise DataError(
            f"{place('scores')}: scores is not a table", 'write [scores], and below it strain = "{fear} / 2"'
        )
    dictionary = Dictionary(found, {}, places)
    names = dictionary.names()
    made = {name: score_from(name, formula, names, place("scores", name)) for name, formula in scores.items()}
    return replace(dictionary, scores=made)


def category_name(name: str, place: str) -> str:
    """A name with its levels tidied.

    Parameters
    ----------
    name : str
        Levels are separated by slashes.
    place : str
        Where in the file it stands, for an error.

    Returns
    -------
    str

    Raises
    ------
    DataError
    """
    parts = [" ".join(part.split()) for part in name.split("/")]
    if not all(parts):
        raise DataError(
            f"{place}: category {name!r}: a name is missing before or after the /", "write it as parent/child"
        )
    return "/".join(parts)


def _listed(name: str, entries: Any, place: str) -> list[Any]:
    if isinstance(entries, Mapping):
        raise DataError(
            f"{place}: category {name!r} is a table, not a list", f'write "{name}/{next(iter(entries), "b")}" = [...]'
        )
    if not isinstance(entries, list):
        raise DataError(f"{place}: category {name!r} is not a list", f'write {name} = ["word", "another"]')
    if not entries:
        raise DataError(f"{place}: category {name!r} has no entries", "add entries or remove the category")
    return entries


def entry_from(given: Any, category: str, place: str) -> Entry:
    """Check an entry: a text, or a mapping with ``entry``, ``case``, ``weight`` and ``pos``.

    Parameters
    ----------
    given : Any
        As the file has it.
    category : str
        The category that it is in.
    place : str
        Where in the file it stands, for an error.

    Returns
    -------
    Entry

    Raises
    ------
    DataError
    """
    fields = {"entry": given} if isinstance(given, str) else given
    if not isinstance(fields, Mapping) or not isinstance(fields.get("entry"), str):
        raise DataError(
            f"{place}: category {category!r}: {given!r} is not an entry",
            'write "word" or { entry = "word", weight = 2 }',
        )
    text = fields["entry"].strip()
    place = f"{place}: category {category!r}, entry {text!r}"
    for key in fields:
        if key not in ENTRY_KEYS:
            raise DataError(
                f"{place} has an unknown key {key!r}{nearest(key, ENTRY_KEYS)}",
                f"known keys: {', '.join(ENTRY_KEYS)}",
            )
    case, weight, tags = fields.get("case", False), fields.get("weight", 1), fields.get("pos", "")
    if not isinstance(case, bool):
        raise DataError(f"{place}: case is {case!r}", "write case = true or false")
    if isinstance(weight, bool) or not isinstance(weight, int | float) or not np.isfinite(weight):
        raise DataError(f"{place}: weight is {weight!r}", "write a number")
    if not isinstance(tags, str):
        raise DataError(f"{place}: pos is {tags!r}", 'write pos = "NOUN", for several words one tag each, * for any')
    is_exception = text.startswith("!") and bool(text.strip("!"))
    marks = _marks_of(text.removeprefix("!") if is_exception else text)
    patterns = marks or tuple(word for piece in text.removeprefix("!").split() for word in entry_words(piece))
    if not marks:
        _check_patterns(patterns, text, place)
    if not case:
        patterns = tuple(fold_case(pattern) for pattern in patterns)
    where = place.split(": ")[0]
    return Entry(patterns, is_exception, case, float(weight), _tags(tags, patterns, place), bool(marks), text, where)


def _marks_of(text: str) -> tuple[str, ...]:
    """The marks of punctuation of an entry that has nothing else, as patterns; () where it is only wildcards."""
    marks = "".join(normalise(text).split())
    if not is_mark(marks) or not marks.strip("*?"):
        return ()
    return tuple(map(escaped, unescaped(marks)))


def _under(rule: str, entry: Entry) -> Entry:
    """An entry for texts of a token rule."""
    if entry.is_punctuation and rule == "spaces":
        text = entry.text.removeprefix("!") if entry.is_exception else entry.text
        return replace(entry, patterns=tuple(map(escaped, normalise(unescaped(text)).split())))
    # annotated texts bring their own tokens
    if rule != "characters" or entry.tags or entry.is_punctuation:
        return entry
    return replace(entry, patterns=patterns_under(rule, entry.patterns))


def _check_patterns(patterns: tuple[str, ...], text: str, place: str) -> None:
    if not patterns:
        raise DataError(f"{place} has no word in it", "write a word, or remove it")
    if text.removeprefix("!").lstrip().startswith("!"):
        raise DataError(f"{place} begins with two exclamation marks", "one of them makes an exception")
    if len(patterns) == 1 and not patterns[0].strip("*"):
        raise DataError(f"{place}: the entry * alone would count every word", "add letters to it")


def _tags(given: str, patterns: Sequence[str], place: str) -> tuple[str, ...]:
    tags = tuple("" if tag == ANY_TAG else tag.casefold() for tag in given.split())
    if tags and len(tags) != len(patterns):
        raise DataError(
            f"{place}: pos has {len(tags)} tags for {len(patterns)} words", "write a tag for each word, * for any"
        )
    return tags
