"""Columns that were given with the documents, as numbers where all their cells are numbers."""

import datetime
import re
from collections.abc import Mapping

import pandas as pd

from millstone.core.columns import Column
from millstone.core.result import GivenCell

# a leading zero, as of a code, would be lost; so would digits beyond the fifteenth
_WHOLE = re.compile(r"-?(?:0|[1-9]\d{0,14})", re.ASCII)
_NUMBER = re.compile(r"-?(?:0|[1-9]\d{0,14})(?:\.\d{1,15})?", re.ASCII)


def kind_of(column: pd.Series) -> str:
    """``integer``, ``number`` or ``string``: what the cells of a column of objects are."""
    if pd.api.types.is_integer_dtype(column):
        return "integer"
    if pd.api.types.is_numeric_dtype(column) and not pd.api.types.is_bool_dtype(column):
        return "number"
    cells = [str(cell) for cell in column if cell is not None and str(cell)]
    if not cells or any(isinstance(cell, bool) for cell in column):
        return "string"
    if all(map(_WHOLE.fullmatch, cells)):
        return "integer"
    return "number" if all(map(_NUMBER.fullmatch, cells)) else "string"


def typed(frame: pd.DataFrame, columns: Mapping[str, Column], cells_too: bool = False) -> pd.DataFrame:
    """A table with numbers in the columns that were given, where they are all numbers; empty cells are missing.

    Parameters
    ----------
    frame : DataFrame
    columns : mapping
        The columns that are results, which stay as they are.
    cells_too : bool
        Also cells of a workbook, which otherwise keep their formats.
    """
    found = {}
    for name, column in frame.items():
        is_given = name not in columns and column.dtype == object
        of_workbook = is_given and any(isinstance(cell, GivenCell) for cell in column)
        if is_given and (cells_too or not of_workbook):
            found[name] = _numbers(column)
    return frame.assign(**found) if found else frame


def _numbers(column: pd.Series) -> pd.Series:
    kind = kind_of(column)
    if kind == "string":
        values = [cell.value if isinstance(cell, GivenCell) else cell for cell in column]
        if any(values) and all(value is None or isinstance(value, datetime.datetime) for value in values):
            return pd.Series(pd.to_datetime(values), index=column.index)
        return column.map(lambda cell: cell.plain if isinstance(cell, GivenCell) else cell)
    numbers = pd.to_numeric(column.map(lambda cell: None if cell is None or not str(cell) else str(cell)))
    return numbers.astype("Int64") if kind == "integer" and numbers.isna().any() else numbers
