"""A result table as a workbook (XLSX): one sheet per group or comparison, and one that explains the columns."""

import errno
import io
import os
import re
import zipfile
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any, BinaryIO

from millstone.core.base.errors import DataError
from millstone.core.base.xml_text import text_of_workbook, workbook_text
from millstone.core.tables.result import GivenCell, Result
from millstone.core.tables.table import Table, distinct_rows, values_of
from millstone.outputs.files.names import distinct_names

if TYPE_CHECKING:
    import pandas as pd

ABOUT = "about"
"""The last sheet: columns, settings, sizes and inputs."""
ABOUT_COLUMNS = ("what", "name", "is", "documents", "tokens", "bytes", "texts")

_MOST_ROWS = 1_048_575
_MOST_SHEETS = 200
_LONGEST_NAME = 31
_MOST_OF_CELL = 30_000
_WIDE, _NARROW = 60, 12
_NOT_IN_NAMES = re.compile("[\\[\\]:*?/\\\\'\x00-\x1f\ufffe\uffff]")
_WRITTEN_AT = re.compile(rb"(<dcterms:(created|modified)[^>]*>)[^<]*")
_SEVERAL = "setting, of several"
_NO_TIME = "2000-01-01T00:00:00Z"


def as_workbook(result: Result, notes: Mapping[str, Any]) -> Callable[[BinaryIO], None]:
    """Writes the table as XLSX, with the `notes` of how it came about; the same table gives the same bytes.

    Raises
    ------
    DataError
        When a sheet would have more rows than a workbook can hold.
    """
    parts = list(_sheets(result))
    names = distinct_names([*(name for name, _ in parts), ABOUT], _NOT_IN_NAMES, _LONGEST_NAME)
    for name, (_, table) in zip(names, parts, strict=False):
        if len(table) > _MOST_ROWS:
            raise DataError(
                f"the sheet {name!r} would have {len(table):,} rows, and a workbook holds {_MOST_ROWS:,}",
                "save as .csv or .parquet, or choose fewer rows with --min-freq or --top",
            )

    def fill(book: Any) -> None:
        for name, (_, table) in zip(names, parts, strict=False):
            columns = [values_of(cells) for _, cells in table.items()]
            sheet = book.create_sheet(name)
            _offer_choices(sheet, result, table)
            _fill(sheet, table.names, zip(*columns, strict=True))
        _fill(book.create_sheet(names[-1]), ABOUT_COLUMNS, _about(result, notes))

    return partial(write_workbook, fill)


def write_workbook(fill: Callable[[Any], None], file: BinaryIO) -> None:
    """Write a workbook, its sheets made by `fill`, without the times of its making.

    Raises
    ------
    OSError
    """
    from lxml.etree import SerialisationError
    from openpyxl import Workbook

    book = Workbook(write_only=True)
    content = io.BytesIO()
    try:
        fill(book)
        book.save(content)
    except SerialisationError as error:
        # sheets lie on the disk until they are packed, and the library says no more than that they cannot be written
        raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC)) from error
    file.write(_without_times(content.getvalue()))


def _sheets(result: Result) -> Iterator[tuple[str, Table]]:
    blocks, table = result.lists, result.table
    if not blocks or not len(table) or len(distinct_rows([table[name] for name in blocks])[1]) > _MOST_SHEETS:
        yield result.command, table
        return
    for values, rows in table.by(blocks):
        yield " - ".join(map(str, values)), rows


def _fill(sheet: Any, header: Sequence[str], rows: Iterator[Sequence[Any]]) -> None:
    sheet.freeze_panes = "A2"
    sheet.append(cells_of(sheet, header))
    for row in rows:
        sheet.append(cells_of(sheet, row))


def _offer_choices(sheet: Any, result: Result, table: Table) -> None:
    """Let the cells of columns that are filled in by hand take their choices only."""
    from openpyxl.utils import get_column_letter
    from openpyxl.worksheet.datavalidation import DataValidation

    if not any(column.choices for column in result.columns.values()):
        return
    for number, name in enumerate(table.names, 1):
        column = result.columns.get(name)
        if column is not None and column.look == "wrapped":
            # what is to be read has room
            sheet.column_dimensions[get_column_letter(number)].width = _WIDE
        if column is None or not column.choices:
            continue
        offered = DataValidation(type="list", formula1=f'"{",".join(column.choices)}"', allow_blank=True)
        offered.error, offered.errorTitle = f"type one of {', '.join(column.choices)}, or nothing", name
        offered.showErrorMessage = True
        letter = get_column_letter(number)
        sheet.column_dimensions[letter].width = _NARROW
        offered.add(f"{letter}2:{letter}{len(table) + 1}")
        sheet.data_validations.append(offered)


def cells_of(sheet: Any, values: Iterable[Any]) -> list[Any]:
    """The cells of a row."""
    return [_cell(sheet, value) for value in values]


def _cell(sheet: Any, value: Any) -> Any:
    """A cell in which text stays text, also where it begins as a formula does, and numbers keep all digits."""
    if isinstance(value, GivenCell):
        return _as_given(sheet, value)
    if isinstance(value, float) and float(f"{value:.16g}") != value:
        return _number(sheet, value)
    if not isinstance(value, str):
        return value
    clean = workbook_text(value)
    if not clean.startswith(("=", "+", "-", "@")):
        return clean
    from openpyxl.cell import WriteOnlyCell

    cell = WriteOnlyCell(sheet, value=clean)
    cell.data_type = "s"
    # spreadsheet programs then keep it as text when it is edited
    cell.quotePrefix = True
    return cell


def _as_given(sheet: Any, given: GivenCell) -> Any:
    """A cell of the workbook that was read, in its own format."""
    if given.value is None or isinstance(given.value, str):
        return _cell(sheet, given.value)
    from openpyxl.cell import WriteOnlyCell

    cell = WriteOnlyCell(sheet, value=given.value)
    cell.number_format = given.number_format
    return cell


def _number(sheet: Any, value: float) -> Any:
    from openpyxl.cell import WriteOnlyCell

    # numbers are written with sixteen digits, text that is said to be a number as it stands
    cell = WriteOnlyCell(sheet, value=repr(value))
    cell.data_type = "n"
    return cell


def _about(result: Result, notes: Mapping[str, Any]) -> Iterator[Sequence[Any]]:
    """Rows of `ABOUT_COLUMNS`; a setting of several values has a row for each."""
    yield "command", notes["command"], f"millstone {notes['millstone']}"
    if "rows" in notes:
        yield "rows", notes["rows"]["saved"], f"of {notes['rows']['of']}"
    for name in result.table.names:
        if name in result.columns:
            column = result.columns[name]
            yield "column", name, f"{column.meaning}{f' ({column.unit})' if column.unit else ''}"
    for name, value in notes["settings"].items():
        for one in value if isinstance(value, list) else [value]:
            yield _SEVERAL if isinstance(value, list) else "setting", name, one if isinstance(one, str) else str(one)
    for size in notes["groups"]:
        yield "group", size["name"], None, size["documents"], size["tokens"], None, size.get("texts")
        for n, places in size.get("places", {}).items():
            yield "n-gram places", size["name"], f"{n} words", None, places
    for rule, tokens in notes["left_out"].items():
        yield "left out", rule, None, None, tokens
    sealed = str(notes.get("sealed", ""))
    for at in range(0, len(sealed), _MOST_OF_CELL):
        # a sign before it, so that no spreadsheet takes it for a formula or a number
        yield "sealed", f"s{sealed[at : at + _MOST_OF_CELL]}", None
    for one in notes["inputs"]:
        yield "input", one["path"], f"SHA-256 {one['sha256']}", None, None, one["size"]


def about_workbook(path: Path) -> dict[str, Any]:
    """The notes on the last sheet of a workbook that `as_workbook` made; empty where it is another workbook."""
    import openpyxl

    try:
        book = openpyxl.load_workbook(path, read_only=True, data_only=True)
    except Exception:
        # whoever reads its rows says what is wrong with it
        return {}
    width = len(ABOUT_COLUMNS)
    try:
        rows = book.worksheets[-1].iter_rows(values_only=True)
        if tuple(next(rows, ())) != ABOUT_COLUMNS:
            return {}
        return _notes_of([[*row, *[None] * width][:width] for row in rows])
    finally:
        book.close()


def sheets_of(path: Path) -> "list[pd.DataFrame]":
    """The tables of a workbook that `as_workbook` made, a sheet each."""
    import pandas as pd

    sheets = pd.read_excel(path, sheet_name=None, keep_default_na=False, na_values=[""])
    tables = [frame for frame in sheets.values() if tuple(frame.columns) != ABOUT_COLUMNS]
    return [frame.rename(columns=_unescaped).map(_unescaped) for frame in tables]


def _unescaped(value: Any) -> Any:
    return text_of_workbook(value) if isinstance(value, str) else value


def _notes_of(rows: Sequence[Sequence[Any]]) -> dict[str, Any]:
    notes: dict[str, Any] = {"settings": {}, "groups": [], "left_out": {}, "inputs": []}
    for what, name, said, documents, tokens, size, texts in (map(_unescaped, row) for row in rows):
        if what == "command":
            notes |= {"command": name, "millstone": str(said).removeprefix("millstone ")}
        elif what == "setting":
            notes["settings"][name] = said or ""
        elif what == _SEVERAL:
            notes["settings"].setdefault(name, []).append(said or "")
        elif what == "group":
            sizes = {"documents": int(documents), "tokens": int(tokens), "texts": int(texts or 0)}
            notes["groups"].append({"name": str(name), **sizes})
        elif what == "n-gram places":
            notes["groups"][-1].setdefault("places", {})[str(said).split()[0]] = int(tokens)
        elif what == "sealed":
            notes["sealed"] = notes.get("sealed", "") + str(name)[1:]
        elif what == "left out":
            notes["left_out"][name] = int(tokens)
        elif what == "input":
            notes["inputs"].append({"path": name, "size": size, "sha256": str(said).removeprefix("SHA-256 ")})
    return notes


def _without_times(data: bytes) -> bytes:
    """A workbook without the times of its making."""
    packed = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as new:
        for one in old.infolist():
            content = _WRITTEN_AT.sub(rb"\g<1>" + _NO_TIME.encode(), old.read(one))
            new.writestr(zipfile.ZipInfo(one.filename), content, zipfile.ZIP_DEFLATED)
    return packed.getvalue()
