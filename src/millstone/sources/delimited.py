"""CSV and TSV files as rows of cells."""

import csv
import io
import sys
from collections.abc import Iterator
from pathlib import Path

from millstone.core.errors import DataError
from millstone.sources.decoding import open_text, wrong_bytes_in
from millstone.sources.files import ending_of
from millstone.sources.provenance import Provenance
from millstone.sources.settings import Reading

_DELIMITERS = ",;\t|"
_TRIED = 1 << 16


def delimited_rows(path: Path, reading: Reading, provenance: Provenance) -> Iterator[tuple[int, list[str]]]:
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
            delimiter, quote = _dialect(path, reading)
            reader = csv.reader(stream, delimiter=delimiter, quotechar=quote, strict=True)
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


def _dialect(path: Path, reading: Reading) -> tuple[str, str]:
    """The delimiter under which the first rows have most columns, and as many each; the quotation mark."""
    with open_text(path, reading.encoding, Provenance()) as stream:
        sample = stream.read(_TRIED)
    header = sample.partition("\n")[0].strip()
    quote = "'" if len(header) > 1 and header[0] == header[-1] == "'" else '"'
    if ending_of(path) == ".tsv":
        return "\t", quote
    if reading.decimal_comma:
        return ";", quote

    def evenness(delimiter: str) -> tuple[int, int, int]:
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
        even = sum(width == common for width in widths) >= 0.9 * len(widths)
        return int(common > 1 and even), common, -_DELIMITERS.index(delimiter)

    return max(_DELIMITERS, key=evenness), quote
