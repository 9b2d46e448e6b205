"""Tables of texts: one document per row, whatever the format."""

import re
from collections.abc import Iterable, Iterator
from itertools import chain, islice
from pathlib import Path

from millstone.core.base.errors import DataError
from millstone.core.base.light_dataclass import frozen
from millstone.core.base.read_errors import guarded
from millstone.core.base.wording import listed, nearest, nearest_names
from millstone.core.settings.inputs import InputOptions
from millstone.texts.inputs.files import ending_of
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.inputs.tables.delimited import delimited_rows, delimiter_of
from millstone.texts.inputs.tables.records import json_array_records, json_records, parquet_records
from millstone.texts.inputs.tables.workbook import workbook_rows

DELIMITED = (".csv", ".tsv", ".txt")
"""The endings of tables of plain text."""
_GRIDS = {".csv": delimited_rows, ".tsv": delimited_rows, ".xlsx": workbook_rows}
_RECORDS = {".jsonl": json_records, ".json": json_array_records, ".parquet": parquet_records}
TABLES = (*_GRIDS, *_RECORDS)

_HEADER_WORDS = 8
_ROWS_TRIED = 200
_HEADER_ROWS_TRIED = 20

_COMMA_NUMBER = re.compile(r"[-+]?\d+(,\d+)?", re.ASCII)
_THOUSANDS = re.compile(r"[-+]?\d{1,3},\d{3}", re.ASCII)

Row = tuple[int, dict[str, str]]


@frozen
class Table:
    """A table being read: the names of its columns, some first rows for looking at, and all rows.

    The rows can be gone through once. `header_row` is the number of the row with the names, 0 where there is none.
    `changed` says that cells are not as they stand in the file, or that the file is not a delimited one.
    """

    path: Path
    header: list[str]
    first_rows: list[Row]
    rows: Iterator[Row]
    header_row: int = 0
    changed: bool = True

    def named(self, rows: Iterable[tuple[int, list[str]]]) -> Iterator[Row]:
        """Rows of cells as those of the table; empty ones are left out."""
        return _named(self.path, self.header, _filled(rows), decimal_comma=False)


def open_table(path: Path, reading: InputOptions, provenance: Provenance) -> Table:
    """Open a table and find its header.

    Raises
    ------
    DataError
        For an empty table.
    """
    ending, header_row, changed = ending_of(path), 0, True
    kind = f"a table of the format {ending}"
    if ending in _RECORDS:
        records = guarded(path, kind, _RECORDS[ending](path, reading, provenance))
        first = list(islice(records, _ROWS_TRIED))
        header = list(dict.fromkeys(name for _, record in first for name in record))
        rows: Iterator[Row] = chain(first, records)
    else:
        grid = _filled(guarded(path, kind, _GRIDS.get(ending, delimited_rows)(path, reading, provenance)))
        header, body, header_row = _with_header(path, grid, reading, provenance)
        named = _named(path, header, body, reading.decimal_comma)
        first = list(islice(named, _ROWS_TRIED))
        rows = chain(first, named)
        changed = ending == ".xlsx" or reading.decimal_comma
        if ending in DELIMITED and not reading.decimal_comma and delimiter_of(path, reading) == ";":
            columns = _with_decimal_commas(header, first)
            if columns:
                provenance.note(f"took the comma in {listed(columns)} of {path.name} for a decimal comma")
                changed = True
                first = [_with_points(row, columns) for row in first]
                rows = chain(first, (_with_points(row, columns) for row in named))
    if not header:
        raise DataError(f"{path} is empty", "give a table with a header row and one row per text")
    return Table(path, header, first, rows, header_row, changed)


def _filled(rows: Iterable[tuple[int, list[str]]]) -> Iterator[tuple[int, list[str]]]:
    """The rows that are not empty."""
    return ((number, cells) for number, cells in rows if any(cells) and any(map(str.strip, cells)))


def _with_header(
    path: Path, grid: Iterator[tuple[int, list[str]]], reading: InputOptions, provenance: Provenance
) -> tuple[list[str], Iterator[tuple[int, list[str]]], int]:
    """The column names, the rows below them, and the number of the row of the names.

    Titles above the header, which fill few columns, are passed over; without a header the columns are
    called by their letters.
    """
    start = list(islice(grid, _HEADER_ROWS_TRIED))
    if not start:
        return [], grid, 0
    filled = [sum(bool(cell.strip()) for cell in cells) for _, cells in start]
    place = next(place for place, number in enumerate(filled) if number >= 0.6 * max(filled))
    if place and filled[place - 1] > 1 and _is_data(start[place][1], [row for _, row in start[place + 1 :]]):
        # a header that leaves columns nameless, rather than a title
        place -= 1
    number, cells = start[place]
    asked_for = {reading.text, reading.id, reading.group} - {""}
    if not asked_for & set(cells) and _is_data(cells, [row for _, row in start[place + 1 :]]):
        width = max(len(cells) for _, cells in start)
        provenance.note(
            f"{path.name} has no header row: its columns are called {_letter(0)}"
            + (f" to {_letter(width - 1)}" if width > 1 else "")
        )
        return [_letter(column) for column in range(width)], chain(start[place:], grid), 0
    if place:
        provenance.note(f"took row {number} of {path.name} as the header, and left out what is above it")
    names = _distinct(cells)
    again = {name: given for name, given in zip(names, map(_folded, cells), strict=False) if given and name != given}
    if again:
        noted = listed(f"{given!r} is called {name!r}" for name, given in again.items())
        provenance.note(f"{path.name} has several columns of one name: the first keeps it, a later {noted}")
    return names, chain(start[place + 1 :], grid), number


def _is_data(cells: list[str], below: list[list[str]]) -> bool:
    """Whether a first row holds values rather than names: a number, or running text.

    A word above nothing but numbers shows that it is a header all the same.
    """
    for column, cell in enumerate(cells):
        under = [row[column] for row in below if column < len(row) and row[column].strip()]
        if cell.strip() and under and not _is_number(cell) and all(map(_is_number, under)):
            return False
    return any(_is_number(cell) or len(cell.split()) > _HEADER_WORDS for cell in cells)


def _is_number(cell: str) -> bool:
    try:
        float(cell.strip().replace(",", "."))
    except ValueError:
        return False
    return True


def _letter(column: int) -> str:
    name = ""
    while column >= 0:
        name = chr(ord("A") + column % 26) + name
        column = column // 26 - 1
    return name


def _distinct(header: list[str]) -> list[str]:
    """Names for all columns; one without a name, as beside a merged cell, is called by its number."""
    found: dict[str, None] = {}
    filled = [number for number, cell in enumerate(header, 1) if cell.strip()]
    for number, cell in enumerate(header[: max(filled, default=0)], 1):
        name = _folded(cell) or f"column_{number}"
        found[name if name not in found else f"{name}_{number}"] = None
    return list(found)


def _folded(cell: str) -> str:
    return " ".join(cell.split())


def _named(
    path: Path, header: list[str], body: Iterator[tuple[int, list[str]]], decimal_comma: bool
) -> Iterator[Row]:
    for number, cells in body:
        if len(cells) > len(header) and any(cell.strip() for cell in cells[len(header) :]):
            raise DataError(
                f"{path}, row {number}: {len(cells)} cells, but the header has {len(header)}",
                "put quotation marks round a cell that holds the delimiter, name the column in the header, or say "
                "with --delimiter what stands between the columns",
            )
        plain = [_with_point(cell) for cell in cells] if decimal_comma else cells
        yield number, dict(zip(header, plain, strict=False))


def _with_decimal_commas(header: list[str], rows: list[Row]) -> list[str]:
    """The columns of numbers some of which have a comma that does not set thousands apart."""
    found = []
    for name in header:
        cells = [cell for _, cells in rows if (cell := cells.get(name, "").strip())]
        are_numbers = all(_COMMA_NUMBER.fullmatch(cell) for cell in cells)
        if are_numbers and any("," in cell and not _THOUSANDS.fullmatch(cell) for cell in cells):
            found.append(name)
    return found


def _with_points(row: Row, columns: list[str]) -> Row:
    number, cells = row
    return number, cells | {name: _with_point(cells[name]) for name in columns if name in cells}


def _with_point(cell: str) -> str:
    changed = cell.strip().replace(",", ".", 1)
    return changed if "," in cell and len(cell) < 30 and _is_number(changed) else cell


def has_column(table: Table, name: str) -> bool:
    """Whether a table has a column of this name or letter."""
    return name in table.header or name in _letters(table)


def column_of(table: Table, name: str, option: str) -> str:
    """The column that a name, or a letter as in a spreadsheet, stands for.

    Raises
    ------
    DataError
    """
    if name in table.header:
        return name
    letters = _letters(table)
    if name in letters:
        return letters[name]
    raise DataError(
        f"{table.path} has no column {name!r}{nearest(name, table.header)} "
        f"(its columns: {nearest_names(name, table.header)})",
        f"name one of them with --{option}",
    )


def _letters(table: Table) -> dict[str, str]:
    return {_letter(number): name for number, name in enumerate(table.header)}
