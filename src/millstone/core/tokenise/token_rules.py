"""The token rules: how a piece of text between white space is cut, and what is a mark of punctuation."""

import re
import unicodedata
from collections.abc import Callable, Sequence
from functools import cache

import numpy as np

from millstone.core.base.patterns import pattern
from millstone.core.tokenise.words import (
    SENTENCE_END,
    ends_sentence,
    normalise,
    with_ends,
    word_spans,
    words_and_ends,
)

PATTERN = "pattern:"

Cutter = Callable[[str], list[str | None]]

_SKIN_TONES = range(0x1F3FB, 0x1F400)


def cutter(rule: str = "words", marks: bool = False) -> Cutter:
    """How a piece is cut into tokens, with SENTENCE_END wherever a sentence ends.

    Parameters
    ----------
    rule : str
        ``words``; ``spaces``: a piece is a token; ``characters``: each character with its marks and
        modifiers is a token; ``pattern:REGEX``: each match within a piece is a token.
    marks : bool
        Marks of punctuation are tokens too, each of its own.

    Returns
    -------
    callable
        Takes a piece without white space.
    """
    if rule == "words" and not marks:
        return words_and_ends
    if rule == "spaces":
        return lambda piece: _whole(normalise(piece), marks)
    spans = spans_in(rule)
    return lambda piece: with_ends(normalise(piece), lambda part: _cut(part, spans(part), marks))


def spans_in(rule: str) -> Callable[[str], list[tuple[int, int]]]:
    """Where the tokens of a normalised piece begin and end under a rule, marks of punctuation left out."""
    if rule == "spaces":
        return lambda piece: [(0, len(piece))] if piece and not is_mark(piece) else []
    if rule == "words":
        return lambda piece: list(word_spans(piece))
    if rule == "characters":
        # a library that knows grapheme clusters, imported only where it is needed
        import regex

        cluster = regex.compile(r"\X")
        return lambda piece: [found.span() for found in cluster.finditer(piece) if not is_mark(found[0])]
    own = pattern("--tokens", rule.removeprefix(PATTERN))
    return lambda piece: own.spans(piece, piece)


def patterns_under(rule: str, patterns: Sequence[str]) -> tuple[str, ...]:
    """Patterns of words in a row as patterns of tokens: where each character is a token, so is each of theirs."""
    if rule != "characters":
        return tuple(patterns)
    spans = spans_in(rule)
    # here a wildcard is not a mark of punctuation
    return tuple(
        token
        for pattern in patterns
        for part in re.split(r"([*?])", pattern)
        for token in ([part] if part in ("*", "?") else [part[start:end] for start, end in spans(part)])
    )


def _whole(piece: str, marks: bool) -> list[str | None]:
    if not piece:
        return []
    found: list[str | None] = [piece] if marks or not is_mark(piece) else []
    return [*found, SENTENCE_END] if piece[-1] in "。！？" or ends_sentence(piece) else found


def _cut(piece: str, spans: list[tuple[int, int]], marks: bool) -> list[str]:
    if not marks:
        return [piece[start:end] for start, end in spans]
    found: list[str] = []
    before = 0
    for start, end in [*spans, (len(piece), len(piece))]:
        found += [character for character in piece[before:start] if is_mark(character)]
        found += [piece[start:end]] if end > start else []
        before = end
    return found


@cache
def is_mark(token: str) -> bool:
    """Whether a token is punctuation: characters of the Unicode categories P, Sc, Sk and Sm only.

    Examples
    --------
    >>> is_mark("..."), is_mark("$"), is_mark("a."), is_mark("☺")
    (True, True, False, False)
    """
    return bool(token) and all(_is_mark_character(character) for character in token)


def are_words(forms: Sequence[str] | np.ndarray) -> np.ndarray:
    """(forms,) int64: 1 for a word, 0 for a mark of punctuation.

    Parameters
    ----------
    forms : sequence of str or ndarray
        The distinct tokens.

    Returns
    -------
    ndarray
    """
    return np.array([not is_mark(form) for form in forms], dtype=np.int64)


def _is_mark_character(character: str) -> bool:
    category = unicodedata.category(character)
    return category[0] == "P" or (category in ("Sc", "Sk", "Sm") and ord(character) not in _SKIN_TONES)
