"""Where the tokens of a text begin and end in the text as it stands."""

import re
import unicodedata
from collections.abc import Iterable, Sequence

import numpy as np

from millstone.core.base.arrays import unique
from millstone.core.corpus.corpus import Document, Token
from millstone.core.tokenise.token_rules import is_mark, spans_in
from millstone.core.tokenise.words import class_of, normalise, parts_of

_WHITE_SPACE = (
    "\t\n\v\f\r\x1c\x1d\x1e\x1f\x85\xa0\u1680"
    + "".join(map(chr, range(0x2000, 0x200B)))
    + "\u2028\u2029\u202f\u205f\u3000"
)
_PIECE = re.compile(r"\S+")
# of a character: it can be part of a word, it is a digit, it joins two parts of a word, it is a stop or a comma,
# it is white space, its piece has to be looked at as a whole, it is a stop; found out when the character first comes
_WORD, _DIGIT, _JOINS, _POINT, _SPACE, _ODD, _STOP, _UNKNOWN = 1, 2, 4, 8, 16, 32, 64, 255
_KINDS = np.full(0x110000, _UNKNOWN, dtype=np.uint8)
_OF_CLASS = {"a": _WORD, "0": _WORD | _DIGIT, "h": _JOINS, "c": _POINT, "s": _POINT | _STOP, "m": _ODD, "j": _ODD}


def token_spans(document: Document, rule: str = "words") -> np.ndarray:
    """The first character of each word token and the one after its last, as the scan finds the tokens.

    Parameters
    ----------
    document : Document
        With its text in one.
    rule : str
        The token rule.

    Returns
    -------
    ndarray
        (tokens, 2) int64, offsets in ``document.text``, whatever signs, ligatures, soft hyphens or combining
        characters the text has.
    """
    if document.annotated is not None:
        return _as_spans(_of_annotated(document.text, document.annotated))
    if rule == "words" and unicodedata.is_normalized("NFC", document.text):
        return _of_words(document.text)
    return _as_spans(_of_pieces(document.text, rule, _PIECE.finditer(document.text)))


def _as_spans(found: Sequence[tuple[int, int]]) -> np.ndarray:
    return np.array(found, dtype=np.int64).reshape(-1, 2)


def _of_pieces(text: str, rule: str, pieces: Iterable[re.Match[str]]) -> list[tuple[int, int]]:
    """The tokens of pieces between white space, one piece after the other."""
    spans = spans_in(rule)
    found: list[tuple[int, int]] = []
    for piece in pieces:
        first, normal = piece.start(), normalise(piece[0])
        parts = [(0, normal)] if rule == "spaces" else parts_of(normal)
        inside = [(at + start, at + end) for at, part in parts for start, end in spans(part)]
        found += [(first + start, first + end) for start, end in _in_piece(piece[0], normal, inside)]
    return found


def _of_words(text: str) -> np.ndarray:
    """The tokens of a text in NFC under the rule ``words``, by array operations; odd pieces are looked at."""
    kinds = np.zeros(len(text) + 2, dtype=np.uint8)
    kinds[1:-1] = _kinds_in(text)
    odd = np.flatnonzero(kinds & _ODD)
    pieces = []
    if len(odd):
        bounds = np.flatnonzero(kinds & _SPACE)
        bounds = np.concatenate(([0], bounds, [len(kinds) - 1]))
        for number in unique(np.searchsorted(bounds, odd)).tolist():
            start, end = int(bounds[number - 1]), int(bounds[number])
            piece = _PIECE.search(text, start, end - 1)
            assert piece is not None
            pieces.append(piece)
            kinds[start + 1 : end] = 0
    here, both = kinds[1:-1], kinds[:-2] & kinds[2:]
    # both neighbours of a sign that joins are of words, both of a stop are digits
    inside = np.zeros(len(kinds), dtype=bool)
    inside[1:-1] = (here | (here >> 2) & both | (here >> 3) & (both >> 1)) & _WORD
    inside[_abbreviating(kinds)] = True
    edges = np.flatnonzero(inside[1:] != inside[:-1]).reshape(-1, 2)
    if not pieces:
        return edges
    found = np.concatenate((edges, _as_spans(_of_pieces(text, "words", pieces))))
    return found[np.argsort(found[:, 0])]


def _abbreviating(kinds: np.ndarray) -> np.ndarray:
    """The stops between two single letters."""
    stops = np.flatnonzero(kinds[:-1] & _STOP)
    for step in (-1, 1):
        is_letter = kinds[stops + step] & (_WORD | _DIGIT) == _WORD
        stops = stops[is_letter]
        # a letter stands within the text, which has a character of neither kind before it and after it
        stops = stops[kinds[stops + 2 * step] & _WORD == 0]
    return stops


def with_single_blanks(text: str) -> str:
    """A text with each stretch of white space as one blank, at its ends as well; its tokens stay the same."""
    for sign in _WHITE_SPACE:
        text = text.replace(sign, " ")
    while "  " in text:
        text = text.replace("  ", " ")
    return text


def _kinds_in(text: str) -> np.ndarray:
    """(characters,) uint8: what each can be in a token."""
    codes = np.frombuffer(text.encode("utf-32-le", "surrogatepass"), dtype=np.uint32)
    kinds = _KINDS[codes]
    if kinds.max(initial=0) == _UNKNOWN:
        new = unique(codes[kinds == _UNKNOWN])
        _KINDS[new] = [_kind_of(chr(code)) for code in new.tolist()]
        kinds = _KINDS[codes]
    return kinds


def _kind_of(character: str) -> int:
    if character.isspace():
        return _SPACE
    normal = normalise(character)
    return _OF_CLASS.get(class_of(normal), 0) if len(normal) == 1 else _ODD


def _of_annotated(text: str, tokens: Sequence[Token | None]) -> list[tuple[int, int]]:
    found = []
    at = 0
    for token in tokens:
        if token is None:
            continue
        at = text.index(token.form, at)
        form = normalise(token.form)
        if form.strip() and not is_mark(" ".join(form.split())):
            found.append((at, at + len(token.form)))
        at += len(token.form)
    return found


def _in_piece(piece: str, normal: str, spans: Sequence[tuple[int, int]]) -> Sequence[tuple[int, int]]:
    """The spans of the tokens of a normalised piece, in the piece as written."""
    if piece.isascii() or not spans:
        return spans
    if len(normal) == len(piece) and all(
        one == other or normalise(one) == other for one, other in zip(piece, normal, strict=True)
    ):
        return spans
    # the places where the piece can be cut without another spelling on either side
    cuts = [
        (len(normalise(piece[:at])), at)
        for at in range(len(piece) + 1)
        if normalise(piece[:at]) + normalise(piece[at:]) == normal
    ]
    return [
        (max(at for place, at in cuts if place <= start), min(at for place, at in cuts if place >= end))
        for start, end in spans
    ]
