"""Columns that were given with the documents, as numbers where all their cells are numbers."""

import datetime
import re
from collections.abc import Mapping

import numpy as np

from millstone.core.corpus.documents import as_objects
from millstone.core.tables.columns import Column
from millstone.core.tables.result import GivenCell
from millstone.core.tables.table import ColumnCells, Table, WholeNumbers, is_number

# a leading zero, as of a code, would be lost; so would digits beyond the fifteenth
_WHOLE = re.compile(r"-?(?:0|[1-9]\d{0,14})", re.ASCII)
_NUMBER = re.compile(r"-?(?:0|[1-9]\d{0,14})(?:\.\d{1,15})?", re.ASCII)


def kind_of(column: ColumnCells) -> str:
    """``integer``, ``number`` or ``string``: what the cells of a column of objects are."""
    if is_number(column) and column.dtype.kind != "b":
        return "number" if column.dtype.kind == "f" else "integer"
    cells = [str(cell) for cell in column if cell is not None and str(cell)]
    if not cells or any(isinstance(cell, bool) for cell in column):
        return "string"
    if all(map(_WHOLE.fullmatch, cells)):
        return "integer"
    return "number" if all(map(_NUMBER.fullmatch, cells)) else "string"


def typed(table: Table, columns: Mapping[str, Column], cells_too: bool = False) -> Table:
    """A table with numbers in the columns that were given, where they are all numbers; empty cells are missing.

    Parameters
    ----------
    table : Table
    columns : mapping
        The columns that are results, which stay as they are.
    cells_too : bool
        Also cells of a workbook, which otherwise keep their formats.
    """
    found = {}
    for name, column in table.items():
        is_given = name not in columns and isinstance(column, np.ndarray) and column.dtype == object
        of_workbook = is_given and any(isinstance(cell, GivenCell) for cell in column)
        if is_given and (cells_too or not of_workbook):
            found[name] = _numbers(column)
    return table.with_columns(found)


def _numbers(column: ColumnCells) -> ColumnCells:
    kind = kind_of(column)
    if kind == "string":
        given = [cell.value if isinstance(cell, GivenCell) else cell for cell in column]
        if any(given) and all(value is None or isinstance(value, datetime.datetime) for value in given):
            return as_objects(given)
        return as_objects([cell.plain if isinstance(cell, GivenCell) else cell for cell in column])
    texts = ["" if cell is None else str(cell) for cell in column]
    if kind == "number":
        return np.array([float(text) if text else np.nan for text in texts])
    missing = np.array([not text for text in texts], dtype=bool)
    values = np.array([int(text or 0) for text in texts], dtype=np.int64)
    return WholeNumbers(values, missing) if missing.any() else values
