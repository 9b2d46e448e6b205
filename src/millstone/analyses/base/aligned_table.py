"""The table that a step read with its results at the right, so that the rows align with the file that went in."""

from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from millstone.analyses.base.step import Step
from millstone.core.base.errors import UsageError
from millstone.core.base.wording import listed
from millstone.core.corpus.documents import as_objects
from millstone.core.settings.declare import option
from millstone.core.tables.columns import Column
from millstone.core.tables.result import Result
from millstone.core.tables.table import ColumnCells, Table, spread_out
from millstone.texts.inputs.files import ending_of
from millstone.texts.inputs.finding.finding import input_paths
from millstone.texts.inputs.tables.given_rows import given_rows
from millstone.texts.inputs.tables.table import TABLES

_OF_DOCUMENTS = ("document", "group")


def by_row(step: Step[Any]) -> Step[Any]:
    """The step with its documents known by the number of their row; UsageError where its input is not one table."""
    paths = input_paths(step.inputs.input)
    if len(paths) != 1 or ending_of(paths[0]) not in TABLES:
        raise UsageError("--keep-all keeps the rows of one table", f"give one input that ends in {', '.join(TABLES)}")
    rows = [name for name in ("top", "sort", "match", "columns") if getattr(step.output, name)]
    asked = [*map(option, rows), *(["--unit"] if step.reading.unit.kind != "whole" else [])]
    if asked:
        raise UsageError(f"--keep-all keeps rows and columns as they are, and {asked[0]} does not", "leave one out")
    return replace(step, reading=replace(step.reading, id=""))


def with_given_rows(step: Step[Any], result: Result, notes: list[str]) -> Result:
    """The rows and columns of the table as they were given, and to the right of them what is new.

    A row without a result, since it has no text or was left out, has empty cells there. Where a result has the name
    of a column that was given, it gets ``_2`` at its end.
    """
    (path,) = input_paths(step.inputs.input)
    header, rows = given_rows(Path(path), step.reading)
    given = {name: as_objects([cells[at] for _, cells in rows]) for at, name in enumerate(header)}
    place = {str(number): at for at, (number, _) in enumerate(rows)}
    at = np.array([place[name] for name in result.table["document"].tolist()], dtype=np.int64)
    is_made = step.reading.group not in ("", "folder", "file", *header)
    new = [name for name in result.table.names if _is_new(name, header, result) or (name == "group" and is_made)]
    table, columns, renamed = dict[str, Any](given), dict[str, Column](), dict[str, str]()
    for name in new:
        own = name
        while own in table:
            own = f"{name}_{2 if own == name else int(own.rpartition('_')[2]) + 1}"
        renamed |= {name: own} if own != name else {}
        table[own] = _aligned(result.table[name], at, len(rows))
        columns[own] = result.columns.get(name, Column(own, name, "given with the documents"))
    if renamed:
        noted = listed(f"{name!r} is {own!r} here" for name, own in renamed.items())
        notes.append(f"columns of {Path(path).name} keep their names: the result {noted}")
    return replace(result, table=Table(table), columns=columns)


def _is_new(name: str, header: list[str], result: Result) -> bool:
    """Whether a column is a result, or a field that was made; not what the table has already."""
    if name in _OF_DOCUMENTS:
        # the names of documents are the numbers of their rows here
        return False
    return name in result.columns or (name not in header and name.removesuffix("_given") not in header)


def _aligned(column: ColumnCells, at: np.ndarray, rows: int) -> ColumnCells:
    """The values at their rows, whole numbers as such; the other rows are empty."""
    return spread_out(column, at, rows, "")
