"""Words with wildcards: ``*`` stands for any run of characters, none too, ``?`` for one letter or digit.

A backslash before one of the two takes it as it stands.
"""

import re
from collections.abc import Callable, Sequence

_OTHERS = "[](){}|+^$"
_ONE = r"[^\W_]"
_ESCAPED = re.compile(r"\\([*?])")
_WILD = re.compile(r"(?<!\\)[*?]")
_STAR = re.compile(r"(?<!\\)\*")
_PARTS = re.compile(r"\\[*?]|.", re.DOTALL)


def has_wildcards(text: str) -> bool:
    """Whether a text has ``*`` or ``?`` that stand for others."""
    plain = _ESCAPED.sub("", text) if "\\" in text else text
    return "*" in plain or "?" in plain


def unescaped(text: str) -> str:
    """A text without wildcards, its signs as they stand.

    Examples
    --------
    >>> unescaped("what\\\\?")
    'what?'
    """
    return _ESCAPED.sub(r"\1", text)


def escaped(text: str) -> str:
    """A pattern that stands for a text as it is.

    Examples
    --------
    >>> escaped("what?")
    'what\\\\?'
    """
    return re.sub(r"[*?]", r"\\\g<0>", text)


def ends_of(pattern: str) -> tuple[str, str]:
    """The text before the first wildcard of a pattern, and the text after its last.

    Examples
    --------
    >>> ends_of("h?t*s"), ends_of("\\\\?")
    (('h', 's'), ('?', '?'))
    """
    parts = _WILD.split(pattern)
    return unescaped(parts[0]), unescaped(parts[-1])


def wildcard_test(pattern: str) -> Callable[[str], bool]:
    """Whether a word fits a pattern as a whole.

    Examples
    --------
    >>> [wildcard_test("h?t*")(word) for word in ("hut", "hats", "heat")]
    [True, True, False]
    >>> [wildcard_test("h*\\\\?")(word) for word in ("how?", "hows")]
    [True, False]
    """
    first, *between = map(_translated, _STAR.split(pattern))
    last = f".*{between.pop()}" if between else ""
    # what stands between two stars is taken where it comes first, and never looked for again
    middle = "".join(f"(?>.*?{part})" for part in between if part)
    translated = re.compile(first + middle + last, re.DOTALL)
    return lambda word: translated.fullmatch(word) is not None


def literal_signs(patterns: Sequence[str]) -> str:
    """A remark on signs that other languages of patterns have, and that are taken as they stand here; "" for none."""
    signs = [sign for sign in _OTHERS if any(sign in pattern for pattern in patterns)]
    if not signs:
        return ""
    return f" ({' '.join(signs)} {'is' if len(signs) == 1 else 'are'} taken as written: a pattern has * and ? only)"


def _translated(part: str) -> str:
    signs = _PARTS.findall(part)
    return "".join(_ONE if sign == "?" else re.escape(sign[-1] if len(sign) == 2 else sign) for sign in signs)
