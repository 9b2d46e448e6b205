"""Validation of a dictionary: entries that do nothing, that stand twice, or that catch too much."""

import difflib
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from millstone.analyses.categories.compute import FIXED_COLUMNS
from millstone.core.base.wording import NAMED
from millstone.core.corpus.corpus import Corpus
from millstone.core.dictionary.dictionary import Dictionary, Entry
from millstone.core.dictionary.matches import DictionaryMatches, find_matches, vocabulary_of
from millstone.core.tables.table import Table
from millstone.core.tokenise.words import fold_case

_NEAREST_AMONG = 20_000
_WILD = re.compile(r"[*?]")

SHORT = 2
"""So many letters, or fewer, beside a star catch words of all kinds."""
HUNDREDS = 200
MISSED = 25
"""How many of the commonest uncounted words are listed."""


@dataclass(frozen=True)
class _Row:
    category: str
    number: int
    entry: Entry


def checked(dictionary: Dictionary, corpus: Corpus | None = None, passed_over: Sequence[str] = ()) -> Table:
    """Find odd entries of a dictionary.

    Parameters
    ----------
    dictionary : Dictionary
    corpus : Corpus, optional
        Then every entry is listed, with the places that it wins there, and the commonest words that no category
        counts.
    passed_over : sequence of str
        Words in small letters that are not listed as uncounted.

    Returns
    -------
    Table
        ``where, category, entry, hits, finding``, what is odd first; without a corpus only that, and no hits.
    """
    rows = [
        _Row(name, number, entry)
        for name, entries in dictionary.categories.items()
        for number, entry in enumerate(entries)
    ]
    found: dict[tuple[str, int], list[str]] = {(row.category, row.number): [] for row in rows}
    for text_of in (_doubles, _swallowed, _short):
        for row, text in text_of(rows):
            found[row.category, row.number].append(text)
    matches = hits = None
    if corpus is not None:
        matches = find_matches(corpus, dictionary)
        hits = _hits(matches, dictionary)
        for row, text in _in_corpus(rows, hits, corpus):
            found[row.category, row.number].append(text)
    lines: list[tuple[str, str, str, int, str]] = [
        (dictionary.places.get(name, ""), name, "", 0, "has the name of a column of the result: rename it")
        for name in dictionary.names()
        if name in FIXED_COLUMNS
    ]
    for row in rows:
        noted = found[row.category, row.number]
        number = hits[row.category][row.number] if hits is not None else 0
        if noted or hits is not None:
            lines.append((row.entry.where, row.category, row.entry.text, number, "; ".join(noted)))
    # what is odd comes first, the inventory last
    inventory = [line for line in lines if not line[-1]]
    lines = [line for line in lines if line[-1]]
    if matches is not None:
        lines += [("", "", word, number, "counted by no category") for word, number in _missed(matches, passed_over)]
    table = Table.of_rows([*lines, *inventory], ["where", "category", "entry", "hits", "finding"])
    return table if hits is not None else table.without("hits")


def _doubles(rows: Sequence[_Row]) -> list[tuple[_Row, str]]:
    """Entries that stand more than once, in one category or in several."""
    found = []
    first: dict[tuple[object, ...], list[_Row]] = {}
    for row in rows:
        entry = row.entry
        before = first.setdefault((entry.patterns, entry.case, entry.tags), [])
        # the first of each category is enough
        for other in {other.category: other for other in reversed(before)}.values():
            here = other.category == row.category
            if here and other.entry.is_exception != entry.is_exception:
                found.append((row, f"an entry and an exception at once ({other.entry.where}): the exception wins"))
            elif here:
                found.append((row, f"stands twice in {row.category}, first in {other.entry.where}"))
            elif not _are_related(row.category, other.category) and not entry.is_exception | other.entry.is_exception:
                found.append((row, f"is in {other.category}, too ({other.entry.where}): it counts for both"))
        before.append(row)
    return found


def _are_related(one: str, other: str) -> bool:
    return one.startswith(other + "/") or other.startswith(one + "/")


def _swallowed(rows: Sequence[_Row]) -> list[tuple[_Row, str]]:
    """Entries of one word that an entry ``stem*`` of the same category counts in any case."""
    found = []
    single = [row for row in rows if len(row.entry.patterns) == 1 and not row.entry.case]
    stems: dict[tuple[object, ...], list[tuple[str, _Row]]] = {}
    for row in single:
        stem = row.entry.patterns[0].removesuffix("*")
        if stem != row.entry.patterns[0] and not _WILD.search(stem):
            stems.setdefault(_kind(row), []).append((stem, row))
    for row in single:
        pattern = row.entry.patterns[0]
        begin = _WILD.split(pattern, maxsplit=1)[0]
        for stem, other in stems.get(_kind(row), []):
            if begin.startswith(stem) and pattern != other.entry.patterns[0]:
                found.append((row, f"{other.entry.text} ({other.entry.where}) counts it already"))
                break
    return found


def _kind(row: _Row) -> tuple[object, ...]:
    """The key that two entries share if one can stand for the other."""
    return row.category, row.entry.is_exception, row.entry.tags, row.entry.weight


def _short(rows: Sequence[_Row]) -> list[tuple[_Row, str]]:
    found = []
    for row in rows:
        for pattern in row.entry.patterns if len(row.entry.patterns) == 1 else ():
            letters = len(pattern.replace("*", "").replace("?", ""))
            if "*" in pattern and letters <= SHORT:
                found.append(
                    (row, f"a star with {letters or 'no'} letter{'s' * (letters != 1)} catches words of all kinds")
                )
    return found


def _hits(matches: DictionaryMatches, dictionary: Dictionary) -> Mapping[str, Sequence[int]]:
    """How many places each entry wins in its own category; an exception, how many it takes."""
    return {name: matches.entry_hits(name, len(entries)).tolist() for name, entries in dictionary.categories.items()}


def _in_corpus(rows: Sequence[_Row], hits: Mapping[str, Sequence[int]], corpus: Corpus) -> list[tuple[_Row, str]]:
    vocabulary = vocabulary_of(corpus)
    found = []
    for row in rows:
        forms = [vocabulary.matches(*word) for word in row.entry.words]
        if not hits[row.category][row.number]:
            lacking = [pattern for pattern, met in zip(row.entry.patterns, forms, strict=True) if not len(met)]
            why = f"no word fits {lacking[0]}" if lacking else "other entries take its places, or it never occurs so"
            found.append((row, f"no hit: {why}"))
        if row.entry.has_wildcards and len(forms) == 1 and len(forms[0]) >= HUNDREDS:
            some = ", ".join(corpus.forms[form] for form in forms[0][:3].tolist())
            found.append((row, f"catches {len(forms[0]):,} different words ({some}, ...)"))
    return found


def nearest_words(dictionary: Dictionary, corpus: Corpus) -> list[tuple[str, str]]:
    """Entries without a hit, and the word of the corpus that each is most like, where there is one."""
    words = {fold_case(form) for form in corpus.forms[:_NEAREST_AMONG]}
    found = []
    for entries in dictionary.categories.values():
        for entry in entries:
            wanted = entry.patterns[0].replace("*", "").replace("?", "").lower()
            close = difflib.get_close_matches(wanted, words, n=1, cutoff=0.75)
            if close and abs(len(close[0]) - len(wanted)) < 2 and not entry.is_exception:
                found.append((entry.text or " ".join(entry.patterns), close[0]))
            if len(found) == NAMED:
                return found
    return found


def _missed(matches: DictionaryMatches, passed_over: Sequence[str]) -> list[tuple[str, int]]:
    """The commonest words that no category counts."""
    left = matches.uncounted()
    known = set(passed_over)
    freq: dict[str, int] = {}
    for form in np.flatnonzero(left).tolist():
        word = fold_case(matches.corpus.forms[form])
        if word not in known and not word.isdecimal():
            freq[word] = freq.get(word, 0) + int(left[form])
    return sorted(freq.items(), key=lambda pair: (-pair[1], pair[0]))[:MISSED]
