"""CSV and TSV files as rows of cells."""

import csv
import io
import sys
from collections.abc import Iterable, Iterator
from pathlib import Path

import numpy as np

from millstone.core.base.errors import DataError
from millstone.core.settings.inputs import InputOptions
from millstone.texts.inputs.decoding import open_text, wrong_bytes_in, zero_in
from millstone.texts.inputs.files import ending_of
from millstone.texts.inputs.provenance import Provenance

_DELIMITERS = ",;\t|"
_TRIED = 1 << 16
_BLOCK = 1 << 22


def delimited_rows(path: Path, reading: InputOptions, provenance: Provenance) -> Iterator[tuple[int, list[str]]]:
    """The rows of a file, numbered as a spreadsheet numbers them; read piece by piece.

    Raises
    ------
    DataError
        For wrong bytes, an open quotation mark; names file, row and line.
    """
    csv.field_size_limit(sys.maxsize)
    number, line = 0, 1
    try:
        with open_text(path, reading.encoding, provenance) as stream:
            delimiter, quote = dialect(path, reading)
            lines = _without_zeros(stream, path, reading.encoding)
            reader = csv.reader(lines, delimiter=delimiter, quotechar=quote, strict=True)
            while (cells := next(reader, None)) is not None:
                number += 1
                yield number, cells
                line = reader.line_num + 1
    except csv.Error as error:
        raise DataError(
            f"{path}, row {number + 1} (line {line}): {error}",
            'a cell that holds a quotation mark is written "so: ""quoted"" ", and each mark is closed',
        ) from error
    except UnicodeDecodeError as error:
        raise wrong_bytes_in(path, reading.encoding) from error


def _without_zeros(lines: Iterable[str], path: Path, encoding: str) -> Iterator[str]:
    """The lines of a file, of which none may have a zero character."""
    for number, line in enumerate(lines, 1):
        if "\0" in line:
            raise zero_in(path, f"line {number:,}", encoding)
        yield line


class NotPlainError(ValueError):
    """Something in a file has to be looked at row by row."""


def plain_columns(path: Path, reading: InputOptions, width: int, first_row: int) -> Iterator[list[list[str]]]:
    """The columns of a file from a row on, many rows at a time, where nothing in it needs a second look.

    Parameters
    ----------
    path : Path
    reading : InputOptions
    width : int
        The number of columns.
    first_row : int
        Counted from 1.

    Yields
    ------
    list
        `width` columns of cells.

    Raises
    ------
    NotPlainError
        Where there is a quotation mark, a row without exactly so many cells, or a byte that cannot be read.
    """
    delimiter, quote = dialect(path, reading)
    try:
        with open_text(path, reading.encoding, Provenance()) as stream:
            for _ in range(first_row - 1):
                if quote in stream.readline():
                    raise NotPlainError
            while text := stream.read(_BLOCK):
                yield _columns((text + stream.readline()).replace("\r\n", "\n"), delimiter, quote, width)
    except UnicodeDecodeError as error:
        raise NotPlainError from error


def _columns(text: str, delimiter: str, quote: str, width: int) -> list[list[str]]:
    if quote in text or "\r" in text or "\0" in text:
        raise NotPlainError
    text = text.removesuffix("\n")
    codes = np.frombuffer(text.encode(), dtype=np.uint8)
    marks = codes[(codes == ord(delimiter)) | (codes == ord("\n"))]
    ends = np.flatnonzero(marks == ord("\n"))
    if len(marks) % width != width - 1 or not np.array_equal(ends, np.arange(width - 1, len(marks), width)):
        raise NotPlainError
    cells = text.replace("\n", delimiter).split(delimiter)
    return [cells[place::width] for place in range(width)]


def delimiter_of(path: Path, reading: InputOptions) -> str:
    """The delimiter between the fields of a file."""
    return dialect(path, reading)[0]


def dialect(path: Path, reading: InputOptions) -> tuple[str, str]:
    """The delimiter under which the first rows have most columns, and as many each; the quotation mark."""
    with open_text(path, reading.encoding, Provenance()) as stream:
        sample = stream.read(_TRIED)
    header = sample.partition("\n")[0].strip()
    quote = "'" if len(header) > 1 and header[0] == header[-1] == "'" else '"'
    if reading.delimiter:
        return reading.delimiter, quote
    if ending_of(path) == ".tsv":
        return "\t", quote
    if reading.decimal_comma:
        return ";", quote

    def evenness(delimiter: str) -> tuple[float, int, int]:
        if delimiter not in sample:
            return 0, 1, -_DELIMITERS.index(delimiter)
        try:
            rows = [
                len(cells)
                for cells in csv.reader(io.StringIO(sample, newline=""), delimiter=delimiter, quotechar=quote)
            ]
        except csv.Error:
            return 0, 0, 0
        # the sample may end in the middle of a row
        widths = [width for width in (rows[:-1] or rows) if width]
        common = max(set(widths), key=widths.count, default=1)
        # signs of the texts are not even, or the first row does not have them
        even = sum(width == common for width in widths) / max(len(widths), 1)
        return even if common > 1 and even >= 0.9 else 0, common, -_DELIMITERS.index(delimiter)

    return max(_DELIMITERS, key=evenness), quote
