"""Texts with what was counted in them, piece by piece."""

from collections.abc import Sequence
from dataclasses import dataclass
from string import ascii_uppercase

import numpy as np

from millstone.core.base.wording import numbered
from millstone.core.corpus.corpus import Document
from millstone.core.dictionary.matches import DictionaryMatches
from millstone.core.dictionary.traces import category_sets
from millstone.core.tokenise.words import normalise


@dataclass(frozen=True)
class MarkedText:
    """A text in pieces.

    Attributes
    ----------
    name, group : str
    pieces : sequence
        Text and the categories that count it, () for what is not counted; together they are the whole text.
    places : tuple of int
        How many places each category has in it.
    tokens : int
    """

    name: str
    group: str
    pieces: Sequence[tuple[str, tuple[str, ...]]]
    places: tuple[int, ...]
    tokens: int


@dataclass(frozen=True)
class MarkedTexts:
    """Texts, and the categories in the order of the places of each."""

    texts: Sequence[MarkedText]
    categories: Sequence[str]


def marked_texts(matches: DictionaryMatches, names: Sequence[str], documents: Sequence[Document]) -> list[MarkedText]:
    """The texts with their places.

    Parameters
    ----------
    matches : DictionaryMatches
        Of an ordered scan of these very documents.
    names : sequence of str
        The categories to show. Where a sub-category counts a word, its parents are not named with it.
    documents : sequence of Document
        With their texts.

    Returns
    -------
    list of MarkedText
        One for each text that is shown.
    """
    ids, starts, _ = matches.corpus.sequence
    sets, of_token = category_sets(matches, names)
    shown = [_deepest([name for name, is_in in zip(names, row, strict=True) if is_in]) for row in sets]
    follows = np.zeros(len(ids) + 1, dtype=bool)
    for name in names:
        places = matches.places(name)
        for offset in range(1, int(places.length.max(initial=1))):
            follows[places.start[places.length > offset] + offset] = True
    numbers = matches.numbers(names)
    forms, sizes = matches.corpus.forms, matches.corpus.tokens
    found = []
    for row, document in enumerate(documents):
        here = range(int(starts[row]), int(starts[row + 1]))
        tokens = [(forms[ids[at]], shown[of_token[at]], bool(follows[at])) for at in here]
        text = document.text if document.annotated is None else " ".join(token for token, _, _ in tokens)
        pieces = _pieces(text, tokens)
        found.append(MarkedText(document.name, document.group, pieces, tuple(numbers[row].tolist()), int(sizes[row])))
    return found


def _deepest(names: Sequence[str]) -> tuple[str, ...]:
    return tuple(name for name in names if not any(other.startswith(name + "/") for other in names))


def _pieces(text: str, tokens: Sequence[tuple[str, tuple[str, ...], bool]]) -> list[tuple[str, tuple[str, ...]]]:
    """The text cut where what counts it changes; the tokens of one place stay together."""
    normal = normalise(text)
    shown = text if _is_alike(text, normal) else normal
    pieces: list[tuple[str, tuple[str, ...]]] = []
    at, begun = 0, 0
    counted_by: tuple[str, ...] = ()
    for token, categories, follows in tokens:
        start = normal.find(token, at)
        if start < 0:
            continue
        if not (follows and categories == counted_by) and (categories or counted_by):
            pieces.append((shown[begun : at if counted_by else start], counted_by))
            if counted_by:
                pieces.append((shown[at:start], ()))
            begun, counted_by = start, categories
        at = start + len(token)
    pieces.append((shown[begun : at if counted_by else None], counted_by))
    if counted_by:
        pieces.append((shown[at:], ()))
    return _together(pieces)


def _together(pieces: Sequence[tuple[str, tuple[str, ...]]]) -> list[tuple[str, tuple[str, ...]]]:
    """Without empty pieces, and what is not counted in one."""
    found: list[tuple[str, tuple[str, ...]]] = []
    for text, categories in pieces:
        if not text:
            continue
        if found and not categories and not found[-1][1]:
            found[-1] = (found[-1][0] + text, ())
        else:
            found.append((text, categories))
    return found


def _is_alike(text: str, normal: str) -> bool:
    """Whether each character of the normalised text stands for the one at its place."""
    if text.isascii():
        return True
    return len(text) == len(normal) and all(
        one == other or normalise(one) == other for one, other in zip(text, normal, strict=True)
    )


def letters(names: Sequence[str]) -> dict[str, str]:
    """The mark of each category: A to Z, then AA, AB, ..."""
    size = len(ascii_uppercase)
    return {
        name: (ascii_uppercase[at // size - 1] if at >= size else "") + ascii_uppercase[at % size]
        for at, name in enumerate(names)
    }


def places_in(text: MarkedText) -> str:
    """How many places are counted in a text, in words.

    Parameters
    ----------
    text : MarkedText
        A marked text.

    Returns
    -------
    str
    """
    covered = sum(1 for _, categories in text.pieces if categories)
    return numbered(covered, "place")
