"""A result table as a workbook (XLSX): a sheet a group or comparison, and one that explains the columns."""

import io
import re
import zipfile
from collections.abc import Iterable, Iterator, Sequence
from typing import Any

import pandas as pd

from millstone.core.errors import DataError
from millstone.core.result import Result
from millstone.results.names import distinct_names
from millstone.results.rows import blocks_of

ABOUT = "about"
"""The last sheet: columns, settings and sizes."""

_MOST_ROWS = 1_048_575
_MOST_SHEETS = 200
_LONGEST_NAME = 31
_NOT_IN_NAMES = re.compile(r"[\[\]:*?/\\'\x00-\x1f]")
_NOT_IN_CELLS = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff]")
_WRITTEN_AT = re.compile(rb"(<dcterms:(created|modified)[^>]*>)[^<]*")
_NO_TIME = "2000-01-01T00:00:00Z"


def as_workbook(result: Result) -> bytes:
    """The table as XLSX; the same table gives the same bytes.

    Raises
    ------
    DataError
        When a sheet would have more rows than a workbook can hold.
    """
    from openpyxl import Workbook

    book = Workbook(write_only=True)
    parts = list(_sheets(result))
    names = distinct_names([*(name for name, _ in parts), ABOUT], _NOT_IN_NAMES, _LONGEST_NAME)
    for name, (_, frame) in zip(names, parts, strict=False):
        if len(frame) > _MOST_ROWS:
            raise DataError(
                f"the sheet {name!r} would have {len(frame):,} rows, and a workbook holds {_MOST_ROWS:,}",
                "save as .csv or .parquet, or choose fewer rows with --min-freq or --top",
            )
        _fill(book.create_sheet(name), frame.columns, zip(*(_values(frame[one]) for one in frame), strict=True))
    _fill(book.create_sheet(names[-1]), ("what", "name", "is"), _about(result))
    file = io.BytesIO()
    book.save(file)
    return without_times(file.getvalue())


def _sheets(result: Result) -> Iterator[tuple[str, pd.DataFrame]]:
    blocks = blocks_of(result.frame, result.command)
    if not blocks or result.frame.empty or result.frame.groupby(blocks).ngroups > _MOST_SHEETS:
        yield result.command, result.frame
        return
    for values, frame in result.frame.groupby(blocks, sort=False):
        yield " - ".join(map(str, values)), frame


def _values(column: pd.Series) -> list[Any]:
    return column.astype(object).where(column.notna(), None).tolist()


def _fill(sheet: Any, header: Sequence[str], rows: Iterator[Sequence[Any]]) -> None:
    sheet.freeze_panes = "A2"
    sheet.append(cells_of(sheet, header))
    for row in rows:
        sheet.append(cells_of(sheet, row))


def cells_of(sheet: Any, values: Iterable[Any]) -> list[Any]:
    """The cells of a row."""
    return [_cell(sheet, value) for value in values]


def _cell(sheet: Any, value: Any) -> Any:
    """A cell in which text stays text, also where it begins as a formula does, and numbers keep all digits."""
    if isinstance(value, float) and float(f"{value:.16g}") != value:
        return _number(sheet, value)
    if not isinstance(value, str):
        return value
    clean = _NOT_IN_CELLS.sub("\ufffd", value)
    if not clean.startswith(("=", "+", "-", "@")):
        return clean
    from openpyxl.cell import WriteOnlyCell

    cell = WriteOnlyCell(sheet, value=clean)
    cell.data_type = "s"
    # spreadsheet programs then keep it as text when it is edited
    cell.quotePrefix = True
    return cell


def _number(sheet: Any, value: float) -> Any:
    from openpyxl.cell import WriteOnlyCell

    # numbers are written with sixteen digits, text that is said to be a number as it stands
    cell = WriteOnlyCell(sheet, value=repr(value))
    cell.data_type = "n"
    return cell


def _about(result: Result) -> Iterator[Sequence[Any]]:
    for name in result.frame.columns:
        if name in result.columns:
            column = result.columns[name]
            yield "column", name, f"{column.meaning}{f' ({column.unit})' if column.unit else ''}"
    for name, value in result.settings.items():
        yield "setting", name, ", ".join(map(str, value)) if isinstance(value, list) else str(value)
    for size in result.groups:
        yield "group", size.name, f"{size.documents} documents, {size.tokens} tokens"


def without_times(data: bytes) -> bytes:
    """A workbook without the times of its making."""
    packed = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as new:
        for one in old.infolist():
            content = _WRITTEN_AT.sub(rb"\g<1>" + _NO_TIME.encode(), old.read(one))
            new.writestr(zipfile.ZipInfo(one.filename), content, zipfile.ZIP_DEFLATED)
    return packed.getvalue()
