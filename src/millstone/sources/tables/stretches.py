"""Large tables cut between rows, so that several can read one."""

from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Any, TypeVar

from millstone.core.arrays import compiled
from millstone.core.frozen import frozen
from millstone.sources.decoding import codec_of
from millstone.sources.files import GZ, ending_of, open_source
from millstone.sources.settings import Reading
from millstone.sources.tables.delimited import dialect

R = TypeVar("R", bound=tuple[int, Any])

TO_THE_END = 1 << 62
_AT_ONCE = 1 << 22


@frozen
class Stretch:
    """Some rows of a file: they start at byte `start` and end before byte `end`.

    `before` and `last` are the numbers of the row before them and of the last one; of JSON Lines a row is a line.
    """

    start: int = 0
    end: int = TO_THE_END
    before: int = 0
    last: int = TO_THE_END

    @property
    def is_first(self) -> bool:
        """Whether they are the first ones of the file."""
        return self.start == 0

    def within(self, rows: Iterable[R]) -> Iterator[R]:
        """Those of some rows, each with its number first and in their order, that are meant."""
        for row in rows:
            if row[0] > self.last:
                return
            if row[0] > self.before:
                yield row


WHOLE = Stretch()


def stretches_of(path: Path, reading: Reading, size: int) -> Iterator[Stretch]:
    """The rows of a table in stretches of at least `size` bytes, as far as they are easily seen; then the rest.

    Tables of other formats than CSV, TSV and JSON Lines, packed ones and those not in UTF-8 are one stretch.

    Raises
    ------
    DataError
        For a file that cannot be read.
    """
    start, before = 0, 0
    for end, last in _borders(path, reading, size):
        yield Stretch(start, end, before, last)
        start, before = end, last
    yield Stretch(start, TO_THE_END, before, TO_THE_END)


def _borders(path: Path, reading: Reading, size: int) -> Iterator[tuple[int, int]]:
    """Where a stretch may end: how many bytes come before, and how many rows."""
    ending = ending_of(path)
    is_lines = ending == ".jsonl"
    if path.suffix.lower() == GZ or not (is_lines or ending in (".csv", ".tsv")) or compiled is None:
        return
    delimiter, quote = (0, 0) if is_lines else map(ord, dialect(path, reading))
    with open_source(path) as file:
        data = file.read(4)
        if codec_of(data, reading.encoding) != "utf-8-sig" or max(delimiter, quote) >= 0x80:
            return
        at, number, cut = 0, 0, 0
        while more := file.read(_AT_ONCE):
            data += more
            found = _lines(data) if is_lines else _rows(data, delimiter, quote)
            if found is None:
                return
            at, number, data = at + found[0], number + found[1], data[found[0] :]
            if at - cut >= size:
                cut = at
                yield at, number


def _rows(data: bytes, delimiter: int, quote: int) -> tuple[int, int] | None:
    """How many bytes have whole rows, and how many rows these are; None where something is odd."""
    assert compiled is not None
    found = compiled.rows(data, delimiter, quote, False)
    return None if found is None else (found[0], len(found[2]) // 8)


def _lines(data: bytes) -> tuple[int, int] | None:
    """The same of lines; a carriage return alone ends one, too, and is odd."""
    size = data.rfind(b"\n") + 1
    if data.count(b"\r", 0, size) != data.count(b"\r\n", 0, size):
        return None
    return size, data.count(b"\n", 0, size)
