"""Escapes: control characters and overrides of direction in texts are shown as signs, never sent to a terminal."""

import re

# line breaks and tabs are not among them; nor are the marks that isolate text of another direction, as we use them
CONTROLS = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\u200e\u200f\u202a-\u202e\ud800-\udfff]")
"""Characters that are never sent to a terminal."""
_LONGEST = 80
_WORD = re.compile(rf"\S{{{_LONGEST + 1},}}|'[^']{{{_LONGEST + 1},}}'|\"[^\"]{{{_LONGEST + 1},}}\"")


def visible(text: str) -> str:
    """A text whose control characters do nothing: pictures of them, or their numbers, in their place.

    Examples
    --------
    >>> visible(chr(27) + "[31mred" + chr(0x202E))
    '␛[31mred<202E>'
    """
    return CONTROLS.sub(_as_sign, text) if CONTROLS.search(text) else text


def on_one_line(text: str) -> str:
    """A text whose line breaks are shown as signs."""
    return text.replace("\n", "\u240a").replace("\r", "\u240d")


def _as_sign(found: re.Match[str]) -> str:
    code = ord(found[0])
    if code < 0x20:
        return chr(0x2400 + code)
    return "\u2421" if code == 0x7F else f"<{code:04X}>"


def shortened(text: str) -> str:
    """A message in which nothing that was typed or read is longer than eighty characters, cut in the middle."""
    half = _LONGEST // 2 - 1
    return _WORD.sub(lambda found: f"{found[0][:half]}…{found[0][-half:]}", text)
