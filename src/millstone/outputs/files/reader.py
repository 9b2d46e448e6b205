"""A result table saved earlier, read back with its companion."""

import json
from collections.abc import Callable, Collection, Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from millstone.core.base.errors import DataError, UsageError
from millstone.core.base.read_errors import border
from millstone.core.base.wording import listed
from millstone.core.corpus.corpus import GroupSize
from millstone.core.tables.columns import Column
from millstone.core.tables.result import Result
from millstone.core.tables.schema import Schema
from millstone.core.tables.table import Table
from millstone.outputs.files.companion import read_companion
from millstone.outputs.files.formats.parquet import read_parquet
from millstone.outputs.files.formats.workbook import sheets_of

if TYPE_CHECKING:
    import pandas as pd

READABLE = (".csv", ".tsv", ".json", ".jsonl", ".xlsx", ".parquet")
"""The endings of tables that can be read back."""


SchemaOf = Callable[[Collection[str], Mapping[str, object]], Schema]
"""From the columns of a saved table and the settings it was made with to its schema."""


def read_result(path: Path, schemas: Mapping[str, SchemaOf]) -> Result:
    """A table that millstone saved; `schemas` are those of the commands that make such tables.

    Without its companion the groups are those of the table, their sizes unknown (0).

    Raises
    ------
    DataError
        When the file is missing, cannot be read, or is not a result of millstone.
    """
    if not path.is_file():
        raise DataError(f"there is no table {path}", "check the spelling; make it with -o on an analysis")
    if path.suffix.lower() not in READABLE:
        raise UsageError(
            f"{path} is not a table that can be read back: millstone reads {', '.join(READABLE)}",
            "save the table once more with -o FILE.csv",
        )
    notes = read_companion(path)
    settings = notes.get("settings", {})
    saved = _Saved(path)
    every = {name: of(saved.names, settings) for name, of in schemas.items()}
    command = notes.get("command") or _kind(saved.names, path, every)
    schema = every.get(command, Schema(command))
    frame = saved.frame(schema)
    frame = frame.rename(columns={old: new for old, new in schema.also_called.items() if new not in frame})
    _check_columns(path, frame, schema, settings)
    groups = notes.get("groups") or _groups(frame, command)
    columns = {name: schema.by_name[name] for name in frame.columns if name in schema.by_name}
    frame = _with_numbers(frame, columns, schema.drawn, path)
    return Result(command, Table.of_frame(frame), columns, groups, settings, notes.get("left_out", {}), schema=schema)


def _with_numbers(
    frame: "pd.DataFrame", columns: Mapping[str, Column], drawn: Collection[str], path: Path
) -> "pd.DataFrame":
    """The table with its columns of numbers as numbers: what is read back may have been edited.

    Whole numbers that are `drawn` are never missing.

    Raises
    ------
    DataError
        For a cell that is not what its column holds; names row, column and cell.
    """
    import pandas as pd

    found = {}
    for name, column in columns.items():
        if name not in frame.columns or column.datatype == "string":
            continue
        cells = frame[name].astype(object).where(frame[name].notna(), "")
        is_empty = cells.map(lambda cell: not str(cell).strip())
        numbers = pd.to_numeric(cells.where(~is_empty), errors="coerce").astype(float)
        may_be_empty = is_empty & (column.datatype != "integer" or name not in drawn)
        wrong = (
            (numbers.isna() & ~may_be_empty) | np.isinf(numbers) | (numbers < column.least) | (numbers > column.most)
        )
        if wrong.any():
            row = int(np.argmax(wrong.to_numpy()))
            raise DataError(
                f"{path}, row {row + 1} of data: {name} cannot be {str(cells.iloc[row])[:40]!r}",
                "fix the cell, or make the table again",
            )
        found[name] = frame[name] if pd.api.types.is_numeric_dtype(frame[name]) else numbers
    return frame.assign(**found)


def frame_of(path: Path, schema: Schema) -> "pd.DataFrame":
    """The rows of a saved table that has a schema.

    Raises
    ------
    DataError
    """
    return _Saved(path).frame(schema)


class _Saved:
    """A saved table; only a file of delimited text must be read under its schema, to keep words words."""

    def __init__(self, path: Path) -> None:
        if not path.stat().st_size:
            raise DataError(f"{path} is empty", "make the table again")
        self._path, self._read = path, None
        with border(path, "a table"):
            if path.suffix.lower() in _READERS:
                self._read = _READERS[path.suffix.lower()](path)
                self.names = list(map(str, self._read.columns))
            else:
                self.names = list(map(str, _delimited(path, Schema(""), rows=0).columns))

    def frame(self, schema: Schema) -> "pd.DataFrame":
        """All rows; columns of text hold text."""
        with border(self._path, "a table"):
            frame = _delimited(self._path, schema) if self._read is None else self._read
        for name in frame.columns:
            if name in schema.by_name and schema.by_name[name].datatype == "string":
                frame[name] = frame[name].astype(object).where(frame[name].notna(), "").map(str)
        return frame


def _delimited(path: Path, schema: Schema, rows: int | None = None) -> "pd.DataFrame":
    import pandas as pd

    quoting = 3 if path.suffix.lower() == ".tsv" else 0
    with path.open(encoding="utf-8-sig") as file:
        header = file.readline()
    # as a spreadsheet with a decimal comma saves it
    has_comma = not quoting and header.count(";") > header.count(",")
    return pd.read_csv(
        path,
        sep="\t" if quoting else ";" if has_comma else ",",
        decimal="," if has_comma else ".",
        quoting=quoting,
        dtype={one.name: str for one in schema.columns if one.datatype == "string"},
        keep_default_na=False,
        na_values={one.name: [""] for one in schema.columns if one.datatype != "string"},
        encoding="utf-8-sig",
        nrows=rows,
    )


def _json_lines(path: Path) -> "pd.DataFrame":
    import pandas as pd

    return pd.DataFrame([json.loads(line) for line in path.read_text("utf-8").split("\n") if line.strip()])


def _json(path: Path) -> "pd.DataFrame":
    import pandas as pd

    return pd.DataFrame(json.loads(path.read_text("utf-8")))


def _workbook(path: Path) -> "pd.DataFrame":
    import pandas as pd

    return pd.concat(sheets_of(path), ignore_index=True)


_READERS = {
    ".json": _json,
    ".jsonl": _json_lines,
    ".xlsx": _workbook,
    ".parquet": read_parquet,
}


def _check_columns(path: Path, frame: "pd.DataFrame", schema: Schema, settings: Mapping[str, object]) -> None:
    lacking = [name for name in schema.drawn if name not in frame.columns]
    if lacking and settings.get("wide"):
        raise DataError(f"{path}: a table with groups side by side cannot be drawn", "save it without --wide")
    if lacking:
        raise DataError(
            f"{path} lacks columns that a figure of {schema.name} is made of: {listed(lacking)}",
            "save the table with all its columns, without --columns",
        )


def _kind(names: Sequence[str], path: Path, schemas: Mapping[str, Schema]) -> str:
    for command, schema in schemas.items():
        if schema.identifying and set(schema.identifying) <= set(names):
            return command
    known = [name for name, one in schemas.items() if one.identifying]
    raise DataError(
        f"{path} is not a result of millstone: its columns are {listed(names)}",
        f"give a table that {', '.join(known)} or another command saved",
    )


def _groups(frame: "pd.DataFrame", command: str) -> tuple[GroupSize, ...]:
    if command == "keyness":
        names = frame["target"].tolist() + frame["reference"].tolist()
    else:
        # tables of coded units have no groups
        names = frame["group"].tolist() if "group" in frame else []
    return tuple(GroupSize(name, 0, 0) for name in dict.fromkeys(names) if name != "rest")
