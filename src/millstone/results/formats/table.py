"""A result table as the bytes of a file; the ending picks the format."""

import json
import re
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pandas as pd

from millstone.core.columns import shown
from millstone.core.errors import UsageError
from millstone.core.result import Result
from millstone.results.companion import companion_bytes
from millstone.results.formats.datatypes import typed
from millstone.results.formats.parquet import as_parquet
from millstone.results.formats.workbook import as_workbook
from millstone.results.writing import Content

_BREAKING = "\t\r\n\x0b\x0c\x85\u2028\u2029"
_TERM = "term"
_BLOCK = 1 << 16
_MARKUP = re.compile(r"([\\\\`*_{}\[\]<>|~])")
"""Signs that Markdown takes for more than themselves."""
_FORMULAS = ("=", "+", "-", "@")
_WHITE = re.compile(f"[{_BREAKING}]+")


def _csv_blocks(frame: pd.DataFrame, decimal_comma: bool) -> Iterator[str]:
    delimiter = ";" if decimal_comma else ","
    names = [_quoted([str(name)], delimiter)[0] for name in frame.columns]
    yield (delimiter.join(names) or '""') + "\n"
    for part in _blocks(frame):
        # numbers need no quotation marks, and a writer that looks for them takes five times as long
        columns = [_quoted(_cells(one, decimal_comma), delimiter) for _, one in part.items()]
        rows: Iterable[str] = map(delimiter.join, zip(*columns, strict=True))
        if len(columns) == 1:
            # an empty cell alone on its line would not be a row
            rows = (row or '""' for row in rows)
        yield "\n".join([*rows, ""])


def _blocks(frame: pd.DataFrame) -> Iterator[pd.DataFrame]:
    """A long table in parts, so that its text need not be held at once."""
    return (frame.iloc[at : at + _BLOCK] for at in range(0, len(frame), _BLOCK))


def _quoted(cells: list[str], delimiter: str) -> list[str]:
    """Cells in quotation marks where they must be (RFC 4180)."""
    together = "".join(cells)
    marks = [mark for mark in (delimiter, '"', "\n", "\r") if mark in together]
    if not marks:
        return cells
    return ['"' + cell.replace('"', '""') + '"' if any(mark in cell for mark in marks) else cell for cell in cells]


def as_tsv(frame: pd.DataFrame) -> Iterator[str]:
    """Tab-separated, part by part: no quotation marks; tabs and line breaks inside cells become spaces."""
    yield "\t".join(_WHITE.sub(" ", str(name)) for name in frame.columns) + "\n"
    yield from map(tsv_rows, _blocks(frame))


def tsv_rows(frame: pd.DataFrame) -> str:
    """The rows of a table, tab-separated, without the names of the columns."""
    starts = _starts_of_alike(frame)
    if 2 * len(starts) >= len(frame):
        columns = [_on_one_line(_cells(frame[name])) for name in frame.columns]
        return "\n".join([*map("\t".join, zip(*columns, strict=True)), ""])
    columns = [_on_one_line(_cells(frame[name].iloc[starts])) for name in frame.columns if name != _TERM]
    at = frame.columns.get_loc(_TERM)
    before, after = (list(map("\t".join, zip(*some, strict=True))) for some in (columns[:at], columns[at:]))
    terms = _on_one_line(_cells(frame[_TERM]))
    parts: list[str] = []
    for one, two, first, last in zip(starts, [*starts[1:], len(frame)], before, after, strict=True):
        parts += f"{first}\t", f"\t{last}\n{first}\t".join(terms[one:two]), f"\t{last}\n"
    return "".join(parts)


def _starts_of_alike(frame: pd.DataFrame) -> list[int]:
    """Where rows begin to differ in more than the term: of a long list, whose rare words have the same numbers."""
    if _TERM not in frame.columns[1:-1]:
        return list(range(len(frame)))
    differs = np.zeros(len(frame), dtype=bool)
    for name in frame.columns.drop(_TERM):
        differs |= np.diff(pd.factorize(frame[name])[0], prepend=-2) != 0
    return np.flatnonzero(differs).tolist()


def _cells(column: pd.Series, decimal_comma: bool = False) -> list[str]:
    """A column as it is written: numbers with full precision, what is missing empty."""
    if not _is_number(column):
        values = column.to_numpy(dtype=object)
        missing = column.isna().to_numpy()
        found = (np.where(missing, "", values) if missing.any() else values).tolist()
        return found if set(map(type, found)) == {str} else list(map(str, found))
    # many rows have the same number, and writing numbers is slow
    codes, different = pd.factorize(column)
    texts = [repr(value) for value in different.tolist()]
    if decimal_comma and pd.api.types.is_float_dtype(column):
        texts = [text.replace(".", ",") for text in texts]
    return np.array([*texts, ""], dtype=object)[codes].tolist()


def _is_number(column: pd.Series) -> bool:
    return bool(pd.api.types.is_numeric_dtype(column))


def _on_one_line(cells: list[str]) -> list[str]:
    joined = "".join(cells)
    return [_WHITE.sub(" ", cell) for cell in cells] if any(one in joined for one in _BREAKING) else cells


def _objects(frame: pd.DataFrame) -> list[str]:
    """Each row as a JSON object; what is missing is null."""
    columns = [frame[name].astype(object).where(frame[name].notna(), None).tolist() for name in frame.columns]
    rows = (dict(zip(frame.columns, row, strict=True)) for row in zip(*columns, strict=True))
    return [json.dumps(row, ensure_ascii=False, allow_nan=False, default=lambda one: one.plain) for row in rows]


def _json(result: Result) -> bytes:
    return ("[\n" + ",\n".join(_objects(result.frame)) + "\n]\n").encode()


def _json_lines(result: Result) -> bytes:
    return "".join(f"{row}\n" for row in _objects(result.frame)).encode()


def _markdown(result: Result) -> bytes:
    frame = result.frame
    # to be read, as on a screen: with its decimals
    columns = [
        [
            _MARKUP.sub(r"\\\1", cell)
            for cell in _on_one_line([shown(value, result.columns.get(name)) for value in frame[name]])
        ]
        for name in frame.columns
    ]
    header = [_MARKUP.sub(r"\\\1", str(name)) for name in frame.columns]
    rule = ["---:" if _is_number(frame[name]) else "---" for name in frame.columns]
    return "".join(f"| {' | '.join(row)} |\n" for row in (header, rule, *zip(*columns, strict=True))).encode()


def like_formulas(frame: pd.DataFrame) -> int:
    """How many cells of text begin as formulas do, so that a spreadsheet that opens them as CSV may run them."""
    texts = (cells for _, cells in frame.items() if not _is_number(cells))
    return sum(isinstance(cell, str) and cell.startswith(_FORMULAS) for cells in texts for cell in cells)


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
        texts = _csv_blocks(result.frame, decimal_comma) if ending == ".csv" else as_tsv(result.frame)
        return lambda file: file.writelines(text.encode() for text in texts)
    if ending in (".xlsx", ".json", ".jsonl", ".parquet"):
        result = replace(result, frame=typed(result.frame, result.columns, cells_too=ending == ".parquet"))
    if ending == ".xlsx":
        return as_workbook(result, notes)
    if ending == ".parquet":
        return as_parquet(result, companion_bytes(result, path, notes))
    return _PLAIN[ending](result)
