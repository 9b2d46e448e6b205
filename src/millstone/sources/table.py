"""Tables of texts: CSV and TSV, one document a row."""

import csv
import io
import sys
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from millstone.core.corpus import Document
from millstone.core.declare import nearest
from millstone.core.errors import DataError
from millstone.sources.decoding import decode, read_bytes
from millstone.sources.provenance import Provenance
from millstone.sources.settings import Reading

_DELIMITERS = ",;\t|"
_TEXT_WORDS = 4
_ROWS_TRIED = 200
_RESERVED = ("document", "group")


@dataclass(frozen=True)
class _Roles:
    """Which columns of a table are the text, the id and the group; -1 for none."""

    text: int
    id: int
    group: int


def read_table(
    path: Path, default_group: str, reading: Reading, provenance: Provenance, named: bool = False
) -> Iterator[Document]:
    """One document a row of a CSV or TSV file.

    Parameters
    ----------
    path : Path
    default_group : str
        The group of all rows unless ``reading.group`` names a column.
    reading : Reading
    provenance : Provenance
        Told of the file, its empty cells and renamed columns.
    named : bool
        The group was given by hand (NAME=PATH) and wins over ``reading.group``.

    Raises
    ------
    DataError
        For a column that does not exist, a row longer than the header, an open quotation mark, an
        empty group; names file, row and line.
    """
    data = read_bytes(path)
    provenance.add(path, data)
    text = decode(data, path, reading.encoding)
    rows = _rows(text, path)
    first = next(rows, None)
    if first is None:
        raise DataError(f"{path} is empty", "give a table with a header row and a row for each text")
    header = _distinct(first[1])
    body = list(rows)
    roles = _roles(header, body, path, reading, provenance, named)
    metadata = _metadata_names(header, roles, provenance)
    for number, found in body:
        cells = found + [""] * (len(header) - len(found))
        if not cells[roles.text].strip():
            provenance.empty_cells += 1
            continue
        group = cells[roles.group].strip() if roles.group >= 0 else default_group
        if not group:
            raise DataError(
                f"{path}, row {number}: the group column {header[roles.group]!r} is empty",
                "fill it in, or take the row out",
            )
        yield Document(
            name=(cells[roles.id].strip() if roles.id >= 0 else "") or str(number),
            group=group,
            text=cells[roles.text],
            metadata={name: cells[column] for column, name in metadata.items()},
            source=str(path),
        )


def header_of(path: Path, reading: Reading) -> list[str]:
    """The names of a table's columns, empty for an empty file.

    Raises
    ------
    DataError
        When the file cannot be read or decoded.
    """
    first = next(_rows(decode(read_bytes(path), path, reading.encoding), path), None)
    return _distinct(first[1]) if first else []


def _rows(text: str, path: Path) -> Iterator[tuple[int, list[str]]]:
    """Rows as a spreadsheet numbers them, empty ones left out."""
    csv.field_size_limit(sys.maxsize)
    delimiter = "\t" if path.suffix.lower() == ".tsv" else _delimiter(text)
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, strict=True)
    width = number = 0
    line = 1
    while True:
        try:
            cells = next(reader, None)
        except csv.Error as error:
            raise DataError(
                f"{path}, row {number + 1} (line {line}): {error}",
                'a cell that holds a quotation mark is written "so: ""quoted"" ", and each mark is closed',
            ) from error
        if cells is None:
            return
        number += 1
        width = width or len(cells)
        if len(cells) > width:
            raise DataError(
                f"{path}, row {number} (line {line}): {len(cells)} cells, but the header has {width}",
                f"put quotation marks round a cell that holds the delimiter {delimiter!r}",
            )
        if any(cell.strip() for cell in cells):
            yield number, cells
        line = reader.line_num + 1


def _delimiter(text: str) -> str:
    header = text.split("\n", 1)[0]
    return max(_DELIMITERS, key=lambda mark: (header.count(mark), -_DELIMITERS.index(mark)))


def _distinct(header: list[str]) -> list[str]:
    found: list[str] = []
    for number, cell in enumerate(header, 1):
        name = cell.strip() or f"column_{number}"
        found.append(name if name not in found else f"{name}_{number}")
    return found


def _roles(
    header: list[str],
    body: list[tuple[int, list[str]]],
    path: Path,
    reading: Reading,
    provenance: Provenance,
    named: bool,
) -> _Roles:
    if reading.text:
        text = _column(header, reading.text, "text", path)
    else:
        text = _guess_text(header, [cells for _, cells in body[:_ROWS_TRIED]], path)
        provenance.note(f"took the column {header[text]!r} of {path.name} as the text (--text names another)")
    by_column = reading.group and reading.group not in ("folder", "file") and not named
    return _Roles(
        text=text,
        id=_column(header, reading.id, "id", path) if reading.id else -1,
        group=_column(header, reading.group, "group", path) if by_column else -1,
    )


def _column(header: list[str], name: str, role: str, path: Path) -> int:
    if name in header:
        return header.index(name)
    raise DataError(
        f"{path} has no column {name!r}{nearest(name, header)} (its columns: {', '.join(header)})",
        f"name one of them with --{role}",
    )


def _guess_text(header: list[str], body: list[list[str]], path: Path) -> int:
    def words_per_cell(column: int) -> float:
        cells = [row[column] for row in body if column < len(row) and row[column].strip()]
        return sum(len(cell.split()) for cell in cells) / max(len(cells), 1)

    likely = [column for column in range(len(header)) if words_per_cell(column) > _TEXT_WORDS]
    if len(likely) == 1:
        return likely[0]
    found = "more than one column looks" if likely else "no column looks"
    raise DataError(
        f"{path}: which column is the text? {found} like it (its columns: {', '.join(header)})",
        "name it with --text COLUMN",
    )


def _metadata_names(header: list[str], roles: _Roles, provenance: Provenance) -> dict[int, str]:
    used = (roles.text, roles.id, roles.group)
    names = {column: name for column, name in enumerate(header) if column not in used}
    for column, name in names.items():
        if name in _RESERVED:
            names[column] = f"{name}_given"
            provenance.note(f"the column {name!r} comes out as {names[column]!r}")
    return names
