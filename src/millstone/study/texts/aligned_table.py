"""The table that a step read with its results at the right, so that the rows align with the file that went in."""

from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pandas as pd

from millstone.core.columns import Column
from millstone.core.errors import UsageError
from millstone.core.result import Result
from millstone.core.settings.declare import option
from millstone.core.wording import listed
from millstone.sources.files import ending_of
from millstone.sources.reader import input_paths
from millstone.sources.tables.given_rows import given_rows
from millstone.sources.tables.table import TABLES
from millstone.study.step import Step

_OF_DOCUMENTS = ("document", "group")


def by_row(step: Step) -> Step:
    """The step with its documents known by the number of their row; UsageError where its input is not one table."""
    paths = input_paths(step.inputs.input)
    if len(paths) != 1 or ending_of(paths[0]) not in TABLES:
        raise UsageError("--keep-all keeps the rows of one table", f"give one input that ends in {', '.join(TABLES)}")
    rows = [name for name in ("top", "sort", "match", "columns") if getattr(step.output, name)]
    asked = [*map(option, rows), *(["--unit"] if step.reading.unit.kind != "whole" else [])]
    if asked:
        raise UsageError(f"--keep-all keeps rows and columns as they are, and {asked[0]} does not", "leave one out")
    return replace(step, reading=replace(step.reading, id=""))


def with_given_rows(step: Step, result: Result, notes: list[str]) -> Result:
    """The rows and columns of the table as they were given, and to the right of them what is new.

    A row without a result, since it has no text or was left out, has empty cells there. Where a result has the name
    of a column that was given, it gets ``_2`` at its end.
    """
    (path,) = input_paths(step.inputs.input)
    header, rows = given_rows(Path(path), step.reading)
    given = {name: pd.Series([cells[at] for _, cells in rows], dtype=object) for at, name in enumerate(header)}
    place = {str(number): at for at, (number, _) in enumerate(rows)}
    at = result.frame["document"].map(place).to_numpy()
    is_made = step.reading.group not in ("", "folder", "file", *header)
    new = [name for name in result.frame.columns if _is_new(name, header, result) or (name == "group" and is_made)]
    frame, columns, renamed = dict(given), dict[str, Column](), dict[str, str]()
    for name in new:
        own = name
        while own in frame:
            own = f"{name}_{2 if own == name else int(own.rpartition('_')[2]) + 1}"
        renamed |= {name: own} if own != name else {}
        frame[own] = _aligned(result.frame[name], at, len(rows))
        columns[own] = result.columns.get(name, Column(name, "given with the documents"))
    if renamed:
        noted = listed(f"{name!r} is {own!r} here" for name, own in renamed.items())
        notes.append(f"columns of {Path(path).name} keep their names: the result {noted}")
    return replace(result, frame=pd.DataFrame(frame), columns=columns)


def _is_new(name: str, header: list[str], result: Result) -> bool:
    """Whether a column is a result, or a field that was made; not what the table has already."""
    if name in _OF_DOCUMENTS:
        # the names of documents are the numbers of their rows here
        return False
    return name in result.columns or (name not in header and name.removesuffix("_given") not in header)


def _aligned(column: pd.Series, at: np.ndarray, rows: int) -> Any:
    """The values at their rows, whole numbers as such; the other rows are empty."""
    if pd.api.types.is_integer_dtype(column):
        values, missing = np.zeros(rows, dtype=np.int64), np.ones(rows, dtype=bool)
        values[at], missing[at] = column.to_numpy(dtype=np.int64, na_value=0), column.isna().to_numpy()
        return pd.arrays.IntegerArray(values, missing)
    if pd.api.types.is_float_dtype(column):
        floats = np.full(rows, np.nan)
        floats[at] = column.to_numpy(dtype=float)
        return floats
    texts = np.full(rows, "", dtype=object)
    texts[at] = column.to_numpy(dtype=object)
    return pd.Series(texts, dtype=object)
