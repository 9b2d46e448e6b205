"""A result table as the bytes of a file; the ending picks the format."""

import itertools
import json
import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from millstone.core.base.arrays import begins, unique_inverse
from millstone.core.base.errors import UsageError
from millstone.core.tables.result import Result
from millstone.core.tables.table import ColumnCells, Table, WholeNumbers, is_missing, is_number, values_of
from millstone.outputs.disk.staging import Content
from millstone.outputs.files.companion import companion_bytes
from millstone.outputs.files.formats.datatypes import typed
from millstone.outputs.files.formats.parquet import as_parquet
from millstone.outputs.files.formats.workbook import as_workbook
from millstone.outputs.files.shown import shown_cells

_BREAKING = "\t\r\n\x0b\x0c\x85\u2028\u2029"
_TERM = "term"
_OWN = (_TERM, "forms")
"""Columns that differ from row to row where the others are the same."""
_BLOCK = 1 << 16
_MARKUP = re.compile(r"([\\\\`*_{}\[\]<>|~])")
"""Signs that Markdown takes for more than themselves."""
_FORMULAS = ("=", "+", "-", "@")
_WHITE = re.compile(f"[{_BREAKING}]+")


def _csv_blocks(table: Table, decimal_comma: bool) -> Iterator[str]:
    delimiter = ";" if decimal_comma else ","
    names = [_quoted([name], delimiter)[0] for name in table.names]
    yield (delimiter.join(names) or '""') + "\n"
    for part in _blocks(table):
        # numbers need no quotation marks, and a writer that looks for them takes five times as long
        columns = [_quoted(_cells(one, decimal_comma), delimiter) for _, one in part.items()]
        rows: Iterable[str] = map(delimiter.join, zip(*columns, strict=True))
        if len(columns) == 1:
            # an empty cell alone on its line would not be a row
            rows = (row or '""' for row in rows)
        yield "\n".join([*rows, ""])


def _blocks(table: Table) -> Iterator[Table]:
    """A long table in parts, so that its text need not be held at once."""
    return (table.at(slice(at, at + _BLOCK)) for at in range(0, len(table), _BLOCK))


def _quoted(cells: list[str], delimiter: str) -> list[str]:
    """Cells in quotation marks where they must be (RFC 4180)."""
    together = "".join(cells)
    marks = [mark for mark in (delimiter, '"', "\n", "\r") if mark in together]
    if not marks:
        return cells
    return ['"' + cell.replace('"', '""') + '"' if any(mark in cell for mark in marks) else cell for cell in cells]


def as_tsv(table: Table) -> Iterator[str]:
    """Tab-separated, part by part: no quotation marks; tabs and line breaks inside cells become spaces."""
    yield tsv_header(table.names)
    yield from map(_tsv_rows, _blocks(table))


def tsv_header(names: Sequence[str]) -> str:
    """The names of columns, tab-separated."""
    return "\t".join(_WHITE.sub(" ", name) for name in names) + "\n"


def _tsv_rows(table: Table) -> str:
    """The rows of a table, tab-separated, without the names of the columns."""
    starts = _starts_of_alike(table)
    if 2 * len(starts) >= len(table):
        return tsv_rows([cells for _, cells in table.items()])
    own = [name for name in table.names if name in _OWN]
    # a zero, which no text has, stands where the rows of a run differ
    alike = [
        ["\0"] * len(starts) if name in own else _on_one_line(_cells(cells[starts])) for name, cells in table.items()
    ]
    texts = [_on_one_line(_cells(table[name])) for name in own]
    parts: list[str] = []
    for row, (one, two) in zip(zip(*alike, strict=True), itertools.pairwise([*starts, len(table)]), strict=True):
        before, *between, after = ("\t".join(row) + "\n").split("\0")
        cells = texts[0][one:two]
        for sign, more in zip(between, texts[1:], strict=True):
            cells = list(map(sign.join, zip(cells, more[one:two], strict=True)))
        parts += before, f"{after}{before}".join(cells), after
    return "".join(parts)


def tsv_rows(columns: Sequence[ColumnCells]) -> str:
    """Some columns as rows, tab-separated."""
    return "\n".join([*map("\t".join, zip(*(_on_one_line(_cells(one)) for one in columns), strict=True)), ""])


def _starts_of_alike(table: Table) -> np.ndarray:
    """Where rows begin to differ in more than the term and its forms: rare words have the same numbers."""
    if _TERM not in table.names:
        return np.arange(len(table))
    differs = np.zeros(len(table), dtype=bool)
    differs[:1] = True
    for name, cells in table.items():
        if name not in _OWN:
            differs |= _begins(cells)
    return np.flatnonzero(differs)


def _begins(cells: ColumnCells) -> np.ndarray:
    """(rows,) bool: which cells are written otherwise than the one before; the first one is."""
    if isinstance(cells, WholeNumbers):
        found: np.ndarray = begins(cells.values) | begins(cells.missing)
        return found
    # what is missing is written the same
    return begins(cells) & ~(np.isnan(cells) & ~begins(np.isnan(cells))) if cells.dtype.kind == "f" else begins(cells)


def _cells(column: ColumnCells, decimal_comma: bool = False) -> list[str]:
    """A column as it is written: numbers with full precision, what is missing empty."""
    if not is_number(column):
        found: list[Any] = column.tolist()
        return (
            found
            if set(map(type, found)) == {str}
            else ["" if one is None else str(one) for one in values_of(column)]
        )
    missing = is_missing(column)
    values = column.values if isinstance(column, WholeNumbers) else column
    # many rows have the same number, and writing numbers is slow
    different, number = unique_inverse(values)
    texts = np.array([repr(value) for value in different.tolist()] or [""], dtype=object)
    if decimal_comma and values.dtype.kind == "f":
        texts[:] = [text.replace(".", ",") for text in texts]
    cells = texts[number] if len(number) else texts[:0]
    result_: list[str] = (np.where(missing, "", cells) if missing.any() else cells).tolist()
    return result_


def _on_one_line(cells: list[str]) -> list[str]:
    joined = "".join(cells)
    return [_WHITE.sub(" ", cell) for cell in cells] if any(one in joined for one in _BREAKING) else cells


def _objects(table: Table) -> list[str]:
    """Each row as a JSON object; what is missing is null."""
    columns = [values_of(cells) for _, cells in table.items()]
    rows = (dict(zip(table.names, row, strict=True)) for row in zip(*columns, strict=True))
    return [json.dumps(row, ensure_ascii=False, allow_nan=False, default=lambda one: one.plain) for row in rows]


def _json(result: Result) -> bytes:
    return ("[\n" + ",\n".join(_objects(result.table)) + "\n]\n").encode()


def _json_lines(result: Result) -> bytes:
    return "".join(f"{row}\n" for row in _objects(result.table)).encode()


def _markdown(result: Result) -> bytes:
    table = result.table
    # to be read, as on a screen: with its decimals
    columns = [
        [_MARKUP.sub(r"\\\1", cell) for cell in _on_one_line(shown_cells(table, name, result.columns.get(name)))]
        for name in table.names
    ]
    header = [_MARKUP.sub(r"\\\1", str(name)) for name in table.names]
    rule = ["---:" if is_number(table[name]) else "---" for name in table.names]
    return "".join(f"| {' | '.join(row)} |\n" for row in (header, rule, *zip(*columns, strict=True))).encode()


def like_formulas(table: Table) -> int:
    """How many cells of text begin as formulas do, so that a spreadsheet that opens them as CSV may run them."""
    number = 0
    for cells in (cells for _, cells in table.items() if not is_number(cells)):
        # of many columns all cells are a few texts
        formulas = {cell for cell in set(cells) if isinstance(cell, str) and cell.startswith(_FORMULAS)}
        number += sum(cell in formulas for cell in cells) if formulas else 0
    return number


_PLAIN: dict[str, Callable[[Result], bytes]] = {
    ".json": _json,
    ".jsonl": _json_lines,
    ".md": _markdown,
}
FORMATS = (".csv", ".tsv", ".xlsx", ".json", ".jsonl", ".md", ".html", ".parquet")
"""The endings of tables that are written."""


def check_ending(path: Path, endings: tuple[str, ...], option: str) -> None:
    """Raise UsageError for a file whose ending does not say how it is to be written."""
    if path.suffix.lower() not in endings:
        raise UsageError(
            f"{option}: no output format has the ending of {path.name!r}",
            f"end the name in {', '.join(endings)}",
        )


def content_of(result: Result, path: Path, notes: Mapping[str, Any], decimal_comma: bool = False) -> Content:
    """The table in the format of the path's ending, in UTF-8; a delimited one is made while it is written.

    Parameters
    ----------
    result : Result
    path : Path
    notes : mapping
        How the table came about (`companion_notes`); formats that can hold it do.
    decimal_comma : bool
        For CSV alone.

    Raises
    ------
    DataError
        When it is too large for a workbook, or a library for the format is not installed.
    """
    ending = path.suffix.lower()
    if ending in (".csv", ".tsv"):
        texts = _csv_blocks(result.table, decimal_comma) if ending == ".csv" else as_tsv(result.table)
        return lambda file: file.writelines(text.encode() for text in texts)
    if ending in (".xlsx", ".json", ".jsonl", ".parquet"):
        result = replace(result, table=typed(result.table, result.columns, cells_too=ending == ".parquet"))
    if ending == ".xlsx":
        return as_workbook(result, notes)
    if ending == ".parquet":
        return as_parquet(result, companion_bytes(result, path, notes))
    return _PLAIN[ending](result)
