"""Words with wildcards: ``*`` stands for any run of characters, none too, ``?`` for one letter or digit."""

import re
from collections.abc import Callable

_STANDS_FOR = {"*": ".*", "?": r"[^\W_]"}


def has_wildcards(text: str) -> bool:
    """Whether a text has ``*`` or ``?``."""
    return "*" in text or "?" in text


def wildcard_test(pattern: str) -> Callable[[str], bool]:
    """Whether a word fits a pattern as a whole.

    Examples
    --------
    >>> [wildcard_test("h?t*")(word) for word in ("hut", "hats", "heat")]
    [True, True, False]
    """
    translated = re.compile("".join(_STANDS_FOR.get(sign) or re.escape(sign) for sign in pattern), re.DOTALL)
    return lambda word: translated.fullmatch(word) is not None
