"""Where the tokens of a text begin and end in the text as it stands."""

import re
from collections.abc import Sequence

import numpy as np

from millstone.core.corpus.corpus import Document, Token
from millstone.core.tokenise.token_rules import is_mark, spans_in
from millstone.core.tokenise.words import ASCII_TOKEN, normalise, parts_of

_PIECE = re.compile(r"\S+")


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
        found = _of_annotated(document.text, document.annotated)
    elif rule == "words" and document.text.isascii():
        found = [one.span() for one in ASCII_TOKEN.finditer(document.text)]
    else:
        spans = spans_in(rule)
        found = []
        for piece in _PIECE.finditer(document.text):
            first, normal = piece.start(), normalise(piece[0])
            parts = [(0, normal)] if rule == "spaces" else parts_of(normal)
            inside = [(at + start, at + end) for at, part in parts for start, end in spans(part)]
            found += [(first + start, first + end) for start, end in _in_piece(piece[0], normal, inside)]
    return np.array(found, dtype=np.int64).reshape(-1, 2)


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
