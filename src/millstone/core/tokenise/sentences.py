"""Where sentences end, found in the bytes of a text many at once."""

import numpy as np

from millstone.core.base.arrays import begins, in_sorted
from millstone.core.tokenise.words import ABBREVIATIONS, ends_with_sentence, normalise

_MAY_LEAD = 2
_WIDE = (0x85, 0xA0, 0x1680, *range(0x2000, 0x200B), 0x2028, 0x2029, 0x202F, 0x205F, 0x3000)
_WIDE_LINE_ENDS = (0x85, 0x2028, 0x2029)


def _table(characters: str, value: int = 1) -> bytearray:
    table = bytearray(256)
    for character in characters:
        table[ord(character)] = value
    return table


_NARROW = "\t\n\x0b\x0c\r\x1c\x1d\x1e\x1f "
WHITE_SPACE = tuple(character.encode() for character in (*_NARROW, *map(chr, _WIDE)))
"""All white space in UTF-8."""

_WHITE = _table(_NARROW)
for _code in _WIDE:
    _WHITE[chr(_code).encode()[0]] = _MAY_LEAD
# the last byte of an ellipsis is among them
_ENDING = _table(".!?\xa6")
_CLOSING = np.frombuffer(_table("'\")]}"), dtype=np.uint8) > 0
_CLOSING[0x80:] = True
_ALNUM = np.array([chr(byte).isalnum() and byte < 0x80 for byte in range(256)])
_IN_ABBREVIATION = np.zeros((256, 256), dtype=bool)
for _one in ABBREVIATIONS:
    _IN_ABBREVIATION[ord(_one[-2]), ord(_one[-3])] = True


def _keys(codes: tuple[int, ...]) -> np.ndarray:
    return np.sort([int.from_bytes(chr(code).encode(), "big") for code in codes])


_WIDE_KEYS, _LINE_END_KEYS = _keys(_WIDE), _keys(_WIDE_LINE_ENDS)


class SentenceEnds:
    """Finds where sentences end; a piece that needs a closer look is looked at once."""

    def __init__(self) -> None:
        self._judged: dict[bytes, bool] = {}

    def find(self, data: bytes, starts: np.ndarray) -> np.ndarray:
        """Before which runs a sentence ends.

        Parameters
        ----------
        data : bytes
            UTF-8 that begins with white space and ends with white space or zeros.
        starts : ndarray
            (runs,) where they start.

        Returns
        -------
        ndarray
            Run numbers, ascending and different; the number of runs for an end after the last of them.

        Notes
        -----
        Ends within a run, as after an ideographic full stop, are left to the token rule.
        """
        block = np.frombuffer(data, dtype=np.uint8)
        is_white, further_line_ends = _white_space(data, block)
        # as truth values they are found several times as fast
        white = np.flatnonzero(is_white.view(np.bool_))
        after_pieces = self._after_pieces(data, block, is_white, white)
        places = np.concatenate((after_pieces, _blank_lines(block, white, further_line_ends)))
        before = np.searchsorted(starts, np.sort(places))
        found: np.ndarray = before[begins(before)]
        return found

    def _after_pieces(self, data: bytes, block: np.ndarray, is_white: np.ndarray, white: np.ndarray) -> np.ndarray:
        """Where a piece between white space ends, and with it a sentence."""
        marks = np.flatnonzero(np.frombuffer(data.translate(_ENDING), dtype=np.bool_))
        mark, before, two_before, after = block[marks], block[marks - 1], block[marks - 2], block[marks + 1]
        is_last = is_white[marks + 1] == 1
        is_mark = (mark < 0x80) | ((before == 0x80) & (two_before == 0xE2))
        short = (before >= 0x80) | ~_ALNUM[two_before] | _IN_ABBREVIATION[before, two_before]
        in_doubt = is_mark & np.where(is_last, (mark == ord(".")) & short, _CLOSING[after])
        doubtful = marks[in_doubt]
        place = np.searchsorted(white, doubtful)
        starts, ends = white[place - 1] + 1, white[place]
        judged = [self._ends(data[one:two]) for one, two in zip(starts.tolist(), ends.tolist(), strict=True)]
        return np.concatenate((marks[is_mark & is_last & ~in_doubt], ends[np.array(judged, dtype=bool)]))

    def _ends(self, piece: bytes) -> bool:
        found = self._judged.get(piece)
        if found is None:
            found = ends_with_sentence(normalise(piece.decode("utf-8", "surrogatepass")))
            self._judged[piece] = found
        return found


def _white_space(data: bytes, block: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(bytes,) uint8, 1 for the bytes of white space of any script; and where line ends beyond ASCII start."""
    is_white = np.frombuffer(bytearray(data).translate(_WHITE), dtype=np.uint8)
    leads = np.flatnonzero(is_white == _MAY_LEAD)
    is_white[leads] = 0
    first, second, third = (block[leads + offset].astype(np.int64) for offset in range(3))
    keys = np.where(first < 0xE0, first << 8 | second, first << 16 | second << 8 | third)
    is_wide = in_sorted(keys, _WIDE_KEYS)
    leads, keys = leads[is_wide], keys[is_wide]
    for offset in range(3):
        is_white[leads[keys >= 1 << 8 * offset] + offset] = 1
    return is_white, leads[in_sorted(keys, _LINE_END_KEYS)]


def _blank_lines(block: np.ndarray, white: np.ndarray, further_line_ends: np.ndarray) -> np.ndarray:
    """The line ends that nothing but white space separates from the next one."""
    of_white = block[white]
    ends = white[(of_white == ord("\n")) | (of_white == ord("\r"))]
    # a carriage return and a line feed are one line end
    ends = ends[(block[ends] != ord("\n")) | (block[ends - 1] != ord("\r"))]
    if len(further_line_ends):
        ends = np.sort(np.concatenate((ends, further_line_ends)))
    found: np.ndarray = ends[:-1][np.diff(np.searchsorted(white, ends)) == np.diff(ends)]
    return found
