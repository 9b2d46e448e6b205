"""Words with wildcards: ``*`` stands for any run of characters, none too, ``?`` for one letter or digit."""

import re
from collections.abc import Callable

_ONE = r"[^\W_]"


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
    first, *between = (
        "".join(_ONE if sign == "?" else re.escape(sign) for sign in part) for part in pattern.split("*")
    )
    last = f".*{between.pop()}" if between else ""
    # what stands between two stars is taken where it comes first, and never looked for again
    middle = "".join(f"(?>.*?{part})" for part in between if part)
    translated = re.compile(first + middle + last, re.DOTALL)
    return lambda word: translated.fullmatch(word) is not None
