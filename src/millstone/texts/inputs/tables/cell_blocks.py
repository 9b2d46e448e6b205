"""CSV and TSV files in blocks of many rows, whose cells stay bytes until they are asked for."""

import codecs
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from millstone.core.base.arrays import compiled
from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.inputs import InputOptions
from millstone.texts.inputs.decoding import codec_of
from millstone.texts.inputs.files import open_source
from millstone.texts.inputs.finding.stretches import WHOLE, Stretch
from millstone.texts.inputs.tables.delimited import NotPlainError, dialect

_AT_ONCE = 1 << 21
_SURELY_FILLED = np.zeros(256, dtype=bool)
_SURELY_FILLED[0x21:0x7F] = True


@frozen
class CellBlock:
    """Some rows of a file: of all their cells, row by row, where in the `data` they start, and how long they are.

    Attributes
    ----------
    data : bytes
        UTF-8. A cell in quotation marks starts after the mark; such marks within it are still double.
    quote : int
        The byte of the quotation mark.
    numbers : ndarray
        (rows,) int64, counted from 1 in the file.
    widths : ndarray
        (rows,) int64: how many cells each has.
    starts, lengths : ndarray
        (cells,) int64.
    last : int
        The number of the last row that was read, be it among these or not.
    """

    data: bytes
    quote: int
    numbers: np.ndarray
    widths: np.ndarray
    starts: np.ndarray
    lengths: np.ndarray
    last: int

    def at(self, wanted: np.ndarray) -> "CellBlock":
        """The rows for which `wanted`, (rows,) bool, is true."""
        if wanted.all():
            return self
        of_cells = np.repeat(wanted, self.widths)
        starts, lengths = self.starts[of_cells], self.lengths[of_cells]
        return CellBlock(self.data, self.quote, self.numbers[wanted], self.widths[wanted], starts, lengths, self.last)

    def after(self, number: int) -> "CellBlock":
        """The rows after one."""
        return self.at(self.numbers > number)

    def column(self, place: int) -> tuple[bytes, np.ndarray]:
        """The cells of a column, a zero after each, and where these are; all rows have as many cells."""
        return self._joined(slice(place, None, int(self.widths[0])))

    def cells(self, place: int) -> list[str]:
        """The cells of a column as texts; equal ones are one."""
        known: dict[str, str] = {}
        cells = self.column(place)[0].decode("utf-8").split("\0")[:-1]
        return list(map(known.setdefault, cells, cells))

    def filled_rows(self) -> int:
        """How many rows have something in any cell but white space; all rows have as many cells."""
        shape = (len(self.widths), int(self.widths[0]))
        block = np.frombuffer(self.data, dtype=np.uint8)
        first = block[np.minimum(self.starts, len(block) - 1)]
        surely = (_SURELY_FILLED[first] & (self.lengths > 0)).reshape(shape).any(axis=1)
        doubtful = (self.lengths > 0).reshape(shape).any(axis=1) & ~surely
        return int(surely.sum()) + sum(any(map(str.strip, cells)) for _, cells in self.at(doubtful).rows())

    def rows(self) -> Iterator[tuple[int, list[str]]]:
        """The rows one by one."""
        cells = self._joined(slice(None))[0].decode("utf-8").split("\0")
        start = 0
        for number, width in zip(self.numbers.tolist(), self.widths.tolist(), strict=True):
            yield number, cells[start : start + width]
            start += width

    def blank(self, place: int) -> np.ndarray:
        """(rows,) bool: whose cell in a column is empty or white; all rows have as many cells."""
        width = int(self.widths[0])
        starts, lengths = self.starts[place::width], self.lengths[place::width]
        found = lengths == 0
        block = np.frombuffer(self.data, dtype=np.uint8)
        doubtful = np.flatnonzero(~found & ~_SURELY_FILLED[block[np.minimum(starts, len(block) - 1)]])
        for row in doubtful.tolist():
            cell = self.data[starts[row] : starts[row] + lengths[row]]
            found[row] = cell.decode("utf-8").isspace()
        values: np.ndarray = found
        return values

    def _joined(self, which: slice) -> tuple[bytes, np.ndarray]:
        assert compiled is not None
        starts, lengths = (np.ascontiguousarray(one[which]) for one in (self.starts, self.lengths))
        ends = np.empty(len(starts), dtype=np.int64)
        return compiled.joined(self.data, self.quote, starts, lengths, ends), ends


def cell_blocks(path: Path, reading: InputOptions, stretch: Stretch = WHOLE) -> Iterator[CellBlock]:
    """The rows of a file, or of a stretch of it, that are not empty lines, in blocks; needs the compiled part.

    Raises
    ------
    NotPlainError
        Where it is not UTF-8, or has something in it that has to be looked at row by row.
    """
    assert compiled is not None
    delimiter, quote = map(ord, dialect(path, reading))
    with open_source(path) as file:
        start = file.read(4)
        if codec_of(start, reading.encoding) != "utf-8-sig" or max(delimiter, quote) >= 0x80:
            raise NotPlainError
        data, left = start.removeprefix(codecs.BOM_UTF8), stretch.end - len(start)
        if not stretch.is_first:
            file.seek(stretch.start)
            data, left = b"", stretch.end - stretch.start
        number, wanted, is_last = stretch.before, _AT_ONCE, False
        while not is_last:
            more = file.read(min(wanted, left))
            left -= len(more)
            is_last = not more
            data += more
            # of a record nothing is known before its end
            found = compiled.rows(data, delimiter, quote, is_last)
            if found is None or compiled.whole(data[: found[0]]) != found[0] or b"\0" in data:
                raise NotPlainError
            size, cells, rows = found
            wanted = _AT_ONCE if size else 2 * wanted
            widths = np.frombuffer(rows, dtype=np.int64)
            starts, lengths = np.frombuffer(cells, dtype=np.int64).reshape(-1, 2).T
            last = number + len(widths)
            block = CellBlock(data[:size], quote, np.arange(number + 1, last + 1), widths, starts, lengths, last)
            yield block.at(widths > 0)
            number, data = last, data[size:]
