"""Runs: the stretches of a text in UTF-8 between bytes that no word can span."""

import numpy as np

from millstone.core.base.arrays import compiled, in_sorted

# of a byte: it can be part of a word; it can stand beside a stop or a comma within a number;
# it joins two parts of a word; it is a stop or a comma; with it may begin a mark or white space
_WORD, _FIGURE, _JOINS, _POINT, _LEADS = 1, 2, 4, 8, 16


def _kind(byte: int) -> int:
    if byte >= 0x80:
        return _WORD | _FIGURE | (_LEADS if byte in (0xC2, 0xE1, 0xE2, 0xE3) else 0)
    character = chr(byte)
    if character.isalnum():
        return _WORD | (_FIGURE if character.isdigit() else 0)
    return {"'": _JOINS, "-": _JOINS, ".": _POINT, ",": _POINT}.get(character, 0)


_KINDS = bytes(map(_kind, range(256)))
# which of the characters U+0080 to U+00BF, and U+2000 to U+203F, may stand in a word
_LATIN_IN_WORDS = in_sorted(np.arange(256), np.array([0xAA, 0xAD, 0xB5, 0xBA]))
_IN_WORDS = in_sorted(np.arange(256), np.array([0x8C, 0x8D, 0x90, 0x91, 0x99]))
RUN_TABLES = (_KINDS, _LATIN_IN_WORDS, _IN_WORDS)
"""Of all bytes: what they are, and which may stand in a word after 0xC2, and after 0xE2 0x80."""
_WIDE_SPACES = np.array([0xE19A80, 0xE2819F, 0xE38080])


def find_runs(data: bytes) -> tuple[np.ndarray, np.ndarray]:
    """Where the runs of a text start, and how long they are.

    Parameters
    ----------
    data : bytes
        UTF-8 that begins and ends with a byte outside words.

    Returns
    -------
    starts, lengths : ndarray
        (runs,) int64.

    Notes
    -----
    A run of ASCII is a token under the rule ``words``. In others an apostrophe, a hyphen, a stop or a comma
    may stand beside a character beyond ASCII, or next but one to it; the rule itself decides on these.
    """
    if compiled is not None:
        starts, lengths = (np.empty(len(data) // 2 + 2, dtype=np.int64) for _ in range(2))
        found = slice(compiled.runs(data, *RUN_TABLES, starts, lengths))
        return starts[found], lengths[found]
    kinds = np.frombuffer(bytearray(data).translate(_KINDS), dtype=np.uint8)
    block = np.frombuffer(data, dtype=np.uint8)
    _take_out_marks(block, kinds)
    stops = _abbreviating(block, kinds)
    here, both = kinds[1:-1], kinds[:-2] & kinds[2:]
    inside = np.zeros(len(kinds), dtype=np.uint8)
    inside[1:-1] = (here | (here >> 2) & both | (here >> 3) & (both >> 1)) & _WORD
    inside[stops] = 1
    edges = np.flatnonzero(inside[1:] != inside[:-1])
    edges += 1
    starts = edges[::2]
    return starts, edges[1::2] - starts


def _abbreviating(block: np.ndarray, kinds: np.ndarray) -> np.ndarray:
    """Where a stop may stand between two single letters, for certain if the four bytes beside it are ASCII."""
    stops = np.flatnonzero(block[:-2] == ord("."))
    for step in (-1, 1):
        beside, next_but_one = stops + step, stops + 2 * step
        of_letter = (kinds[beside] & _WORD > 0) & ((kinds[beside] & _FIGURE == 0) | (block[beside] >= 0x80))
        beyond = (block[beside] | block[next_but_one]) >= 0x80
        stops = stops[of_letter & ((kinds[next_but_one] & _WORD == 0) | beyond)]
    return stops


def _take_out_marks(block: np.ndarray, kinds: np.ndarray) -> None:
    """White space, quotation marks, dashes and other common marks beyond ASCII are outside words."""
    leads = np.flatnonzero(kinds >= _LEADS)
    kinds[leads] ^= _LEADS
    first, second, third = (block[leads + offset].astype(np.int64) for offset in range(3))
    is_latin = (first == 0xC2) & ~_LATIN_IN_WORDS[second]
    is_wide = ((first == 0xE2) & (second == 0x80) & (third < 0xC0) & ~_IN_WORDS[third]) | in_sorted(
        first << 16 | second << 8 | third, _WIDE_SPACES
    )
    for some, size in ((leads[is_latin], 2), (leads[is_wide], 3)):
        for offset in range(size):
            kinds[some + offset] = 0
