"""Spreadsheets (XLSX) as rows of cells, numbers and dates in words as the sheet has them."""

import datetime
import math
import re
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from millstone.core.base.errors import DataError
from millstone.core.base.read_errors import border
from millstone.core.base.wording import listed, nearest, nearest_names
from millstone.core.base.xml_text import text_of_workbook
from millstone.core.settings.inputs import InputOptions
from millstone.core.tables.result import GivenCell
from millstone.texts.inputs.files import check_expansion, open_archive
from millstone.texts.inputs.provenance import Provenance

_MOST_ROWS = 1_048_576
_DECORATION = re.compile(r'"[^"]*"|\\.|_.|\*.|\[[^\]]*\]')


def workbook_rows(path: Path, reading: InputOptions, provenance: Provenance) -> Iterator[tuple[int, list[str]]]:
    """The rows of one sheet, under their own numbers; cells stream.

    Raises
    ------
    DataError
        When it is not a workbook, or has no such sheet.
    """
    with _opened(path) as book:
        sheet = _sheet(book, path, reading, provenance)
        # some programs write a wrong size of the sheet
        sheet.reset_dimensions()
        for number, row in _rows_of(sheet, path):
            yield number, [_shown(cell) for cell in row]


def _rows_of(sheet: Any, path: Path) -> Iterator[tuple[int, Sequence[Any]]]:
    """The rows of a sheet that may say of itself that they are far apart, or very wide."""
    packed, cells = path.stat().st_size, 0
    for number, row in enumerate(sheet.iter_rows(), 1):
        if number > _MOST_ROWS:
            raise DataError(
                f"{path}: the sheet {sheet.title!r} has a row after row {_MOST_ROWS:,}, the last one possible",
                "open it in the program that made it and save it again as .xlsx",
            )
        cells += len(row)
        check_expansion(path, packed, cells)
        yield number, row


def native_rows(path: Path, reading: InputOptions) -> Iterator[tuple[int, list[GivenCell]]]:
    """The rows of one sheet, with the values and the formats of their cells.

    Raises
    ------
    DataError
        When it is not a workbook, or has no such sheet.
    """
    with _opened(path) as book:
        sheet = _sheet(book, path, reading, Provenance())
        sheet.reset_dimensions()
        for number, row in _rows_of(sheet, path):
            yield number, [GivenCell(cell.value, getattr(cell, "number_format", "General")) for cell in row]


def sheets_with_rows(path: Path) -> list[tuple[str, tuple[str, ...]]]:
    """The sheets of a workbook that are not empty, each with the cells of its first row that are filled.

    Raises
    ------
    DataError
    """
    with _opened(path) as book:
        found = []
        for sheet in book.worksheets:
            sheet.reset_dimensions()
            filled = (tuple(_shown(cell) for cell in row if cell.value is not None) for row in sheet.iter_rows())
            first = next((cells for cells in filled if cells), None)
            if first:
                found.append((sheet.title, first))
        return found


@contextmanager
def _opened(path: Path) -> Iterator[Any]:
    import openpyxl

    open_archive(path, "XLSX").close()
    with border(path, "a workbook"):
        book = openpyxl.load_workbook(path, read_only=True, data_only=True)
    try:
        # what is done with its cells is ours, reading them is not
        with border(path, "a workbook"):
            yield book
    finally:
        book.close()


def _sheet(book: Any, path: Path, reading: InputOptions, provenance: Provenance) -> Any:
    sheets = {sheet.title: sheet for sheet in book.worksheets}
    if reading.sheet:
        if reading.sheet not in sheets:
            raise DataError(
                f"{path} has no sheet {reading.sheet!r}{nearest(reading.sheet, sheets)}",
                f"its sheets are {nearest_names(reading.sheet, sheets)}",
            )
        return sheets[reading.sheet]
    for name, sheet in sheets.items():
        sheet.reset_dimensions()
        if any(cell.value is not None for row in sheet.iter_rows() for cell in row):
            if len(sheets) > 1:
                others = listed(other for other in sheets if other != name)
                provenance.note(f"took the sheet {name!r} of {path.name} (--sheet names another: {others})")
            return sheet
    raise DataError(f"{path} is empty", "give a table with a header row and one row per text")


def _shown(cell: Any) -> str:
    value = cell.value
    if value is None:
        return ""
    if isinstance(value, str):
        return text_of_workbook(value)
    if isinstance(value, bool):
        return str(value).upper()
    if isinstance(value, datetime.datetime | datetime.date | datetime.time | datetime.timedelta):
        return _date(value, cell.number_format)
    return _number(value, cell.number_format)


def _date(value: Any, number_format: str) -> str:
    """In the ISO form, as far as the sheet shows it: a year alone, a month, a day, a time of day."""
    if not isinstance(value, datetime.datetime):
        return str(value)
    shown = _DECORATION.sub("", number_format).lower()
    if "y" in shown and "d" not in shown:
        return value.strftime("%Y-%m" if "m" in shown.replace("am/pm", "") else "%Y")
    midnight = value.time() == datetime.time()
    return value.date().isoformat() if midnight else value.isoformat(" ", "seconds")


def _number(value: float, number_format: str) -> str:
    """With the decimals, the percent sign and the leading zeros of the format; nothing between thousands."""
    shown = _DECORATION.sub("", number_format).split(";")[0]
    if "%" in shown:
        return f"{100 * value:.{_decimals(shown)}f}%"
    digits = re.sub(r"[^0#?.]", "", shown)
    if "e" in shown.lower() or "/" in shown or not digits:
        return _general(value)
    width = digits.split(".")[0].count("0")
    text = f"{abs(value):.{_decimals(shown)}f}"
    whole, dot, rest = text.partition(".")
    sign = "-" if value < 0 and float(text) else ""
    return sign + whole.zfill(width) + dot + rest


def _general(value: float) -> str:
    """A number without a format: all its digits, but for the noise that a formula leaves behind the twelfth."""
    short = f"{value:.12g}"
    is_noise = abs(float(short) - value) <= 4 * math.ulp(value)
    return short if is_noise or (float(value).is_integer() and abs(value) < 10**12) else f"{value:.17g}"


def _decimals(shown: str) -> int:
    return len(re.sub(r"[^0#?]", "", shown.partition(".")[2]))
