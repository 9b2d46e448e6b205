"""Large files cut between rows or documents, so that several can read one."""

import re
from collections.abc import Callable, Iterable, Iterator
from functools import partial
from pathlib import Path
from typing import Any, TypeVar

from millstone.core.base.arrays import compiled
from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.inputs import InputOptions
from millstone.texts.inputs.decoding import codec_of
from millstone.texts.inputs.files import GZ, ending_of, open_source
from millstone.texts.inputs.tables.delimited import dialect

R = TypeVar("R", bound=tuple[int, Any])

TO_THE_END = 1 << 62
NEW_DOCUMENT = re.compile(r"#\s*newdoc(?:\s+id\s*=\s*(.*))?")
"""The line of CoNLL-U with which a document begins."""
_AT_ONCE = 1 << 22
# so much without a border is not looked at again and again
_LONGEST = 1 << 26


@frozen
class Stretch:
    """Some rows of a file: they start at byte `start` and end before byte `end`.

    `before` and `last` are the numbers of the row before them and of the last one; a row of JSON Lines and of CoNLL-U
    is a line.
    """

    start: int = 0
    end: int = TO_THE_END
    before: int = 0
    last: int = TO_THE_END

    @property
    def is_first(self) -> bool:
        """Whether they are the first ones of the file."""
        return self.start == 0

    @property
    def size(self) -> int:
        """How many bytes they have, -1 for all to the end of the file."""
        return -1 if self.end == TO_THE_END else self.end - self.start

    def within(self, rows: Iterable[R]) -> Iterator[R]:
        """Those of some rows, each with its number first and in their order, that are meant."""
        for row in rows:
            if row[0] > self.last:
                return
            if row[0] > self.before:
                yield row


WHOLE = Stretch()


def stretches_of(path: Path, reading: InputOptions, size: int) -> Iterator[Stretch]:
    """The rows of a file in stretches of at least `size` bytes, as far as they are easily seen; then the rest.

    Files of other formats than CSV, TSV, JSON Lines and CoNLL-U, packed ones and those not in UTF-8 are one stretch.

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


def _borders(path: Path, reading: InputOptions, size: int) -> Iterator[tuple[int, int]]:
    """Where a stretch may end: how many bytes come before, and how many rows."""
    whole = _whole_ones(path, reading)
    if path.suffix.lower() == GZ or whole is None:
        return
    with open_source(path) as file:
        data = file.read(4)
        if codec_of(data, reading.encoding) != "utf-8-sig":
            return
        at, number, cut = 0, 0, 0
        while more := file.read(_AT_ONCE):
            data += more
            found = whole(data)
            if found is None or len(data) - found[0] > _LONGEST:
                return
            at, number, data = at + found[0], number + found[1], data[found[0] :]
            if at - cut >= size:
                cut = at
                yield at, number


def _whole_ones(path: Path, reading: InputOptions) -> Callable[[bytes], tuple[int, int] | None] | None:
    """A function that tells how many bytes have whole rows or documents, and how many rows; None of what is odd."""
    ending = ending_of(path)
    if ending in (".csv", ".tsv") and compiled is not None:
        delimiter, quote = map(ord, dialect(path, reading))
        return partial(_rows, delimiter, quote) if max(delimiter, quote) < 0x80 else None
    return {".jsonl": _lines, ".conllu": _documents, ".conll-u": _documents}.get(ending)


def _rows(delimiter: int, quote: int, data: bytes) -> tuple[int, int] | None:
    assert compiled is not None
    found = compiled.rows(data, delimiter, quote, False)
    return None if found is None else (found[0], len(found[2]) // 8)


def _documents(data: bytes) -> tuple[int, int] | None:
    """A document begins with a comment of its own."""
    border = len(data)
    while (border := data.rfind(b"\n#", 0, border)) >= 0:
        line, end, _ = data[border + 1 :].partition(b"\n")
        if end and NEW_DOCUMENT.fullmatch(line.decode("utf-8", "replace").rstrip("\r")):
            break
    try:
        # other characters end a line, too
        return border + 1, len(data[: border + 1].decode("utf-8").splitlines())
    except UnicodeDecodeError:
        return None


def _lines(data: bytes) -> tuple[int, int] | None:
    """A carriage return alone ends a line, too, and is odd."""
    size = data.rfind(b"\n") + 1
    if data.count(b"\r", 0, size) != data.count(b"\r\n", 0, size):
        return None
    return size, data.count(b"\n", 0, size)
