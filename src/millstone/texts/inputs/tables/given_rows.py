"""The rows of a table as they were given: every one of them, every column, numbers as numbers, dates as dates."""

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from millstone.core.settings.inputs import InputOptions
from millstone.core.tables.result import GivenCell
from millstone.texts.inputs.files import ending_of, open_source
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.inputs.tables.delimited import delimited_rows
from millstone.texts.inputs.tables.table import open_table
from millstone.texts.inputs.tables.workbook import native_rows


def given_rows(path: Path, reading: InputOptions) -> tuple[list[str], list[tuple[int, list[Any]]]]:
    """The names of the columns, and all rows below them, each under its number, blank ones too.

    Raises
    ------
    DataError
        As `open_table`.
    """
    table = open_table(path, reading, Provenance())
    width = len(table.header)
    if ending_of(path) in (".json", ".jsonl", ".parquet"):
        # what is missing in an object is an empty cell
        rows = [(number, [cells.get(name) for name in table.header]) for number, cells in _records(path)]
        return table.header, rows
    native = ending_of(path) == ".xlsx"
    grid = native_rows(path, reading) if native else delimited_rows(path, reading, Provenance())
    empty: Any = GivenCell(None) if native else ""
    rows = [
        (number, [*cells[:width], *[empty] * (width - len(cells))])
        for number, cells in grid
        if number > table.header_row
    ]
    while rows and not any(map(str, rows[-1][1])):
        # what a spreadsheet adds below the last row
        rows.pop()
    return table.header, rows


def _records(path: Path) -> Iterator[tuple[int, dict[str, Any]]]:
    if ending_of(path) == ".parquet":
        from pyarrow import parquet

        yield from enumerate(parquet.read_table(path).to_pylist(), 1)
        return

    with open_source(path) as file:
        text = file.read().decode("utf-8-sig")
    if ending_of(path) == ".json":
        found = json.loads(text)
        yield from enumerate(found if isinstance(found, list) else [found], 1)
        return
    yield from ((number, json.loads(line)) for number, line in enumerate(text.split("\n"), 1) if line.strip())
