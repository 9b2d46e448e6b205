"""Contexts of a place as text: where a word stands in one, and whether it meets the place without a blank."""

import re
import unicodedata

from millstone.core.tokenise.words import words


def beside(text: str, word: str, distance: int) -> tuple[int, int] | None:
    """Where a word is in the context on one side of a place.

    Parameters
    ----------
    text : str
        The context on the left where `distance` is below 0, else that on the right.
    word : str
        As it stands in the text.
    distance : int
        How many words it is away from the place.

    Returns
    -------
    tuple of int or None
        Its first character and the one after its last; None where it is not in this context.
    """
    best: tuple[int, tuple[int, int]] | None = None
    for found in re.finditer(rf"(?<!\w){re.escape(word)}(?!\w)", text) if distance else ():
        between = text[found.end() :] if distance < 0 else text[: found.start()]
        words_between = sum(len(words(piece)) for piece in between.split())
        off = abs(words_between - (abs(distance) - 1))
        best = min(best or (off, found.span()), (off, found.span()))
    return best[1] if best is not None else None


def joins_without_space(context: str, opening: bool) -> bool:
    """Whether a context meets the place without a blank: an opening sign before it, a closing one or a stop after."""
    if not opening:
        return _category(context[:1]) in ("Pe", "Pf", "Po") and context[:1] != "&"
    sign, before = context[-1:], context[-2:-1]
    # straight quotation marks open where nothing or a blank stands before them
    is_quote = sign in ('"', "'") and (before.isspace() or _category(before) in ("", "Ps", "Pi"))
    return is_quote or _category(sign) in ("Ps", "Pi")


def _category(sign: str) -> str:
    return unicodedata.category(sign) if sign else ""
