"""The companion of a saved table: what its columns mean and how it came about (W3C, CSV on the Web)."""

import json
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from typing import Any

from millstone.core.base.errors import DataError
from millstone.core.base.version import VERSION
from millstone.core.corpus.corpus import GroupSize
from millstone.core.corpus.documents import as_objects
from millstone.core.settings.kinds import MOST
from millstone.core.tables.columns import Column
from millstone.core.tables.result import COMPANION, Result
from millstone.core.tables.table import ColumnCells
from millstone.outputs.files.formats.datatypes import kind_of
from millstone.outputs.files.formats.parquet import companion_in
from millstone.outputs.files.formats.workbook import about_workbook

WITH_COMPANION = (".csv", ".tsv", ".json", ".jsonl")
"""The formats that say nothing of themselves, so that the companion is a file beside the table."""


def companion_path(table: Path) -> Path:
    """Where the companion of a table lies."""
    return table.with_name(table.name + COMPANION)


def companion_notes(
    result: Result, made_by: str, typed: Sequence[str], inputs: list[dict[str, Any]]
) -> dict[str, Any]:
    """How a table came about: command, settings, inputs as typed and as read, group sizes, what was left out."""
    saved = len(result.table)
    every = sum(result.all_rows.values())
    chosen = {"rows": {"saved": saved, "of": every}} if every > saved else {}
    return {
        "millstone": VERSION,
        "command": result.command,
        **({"made_by": made_by} if made_by != result.command else {}),
        "settings": result.settings,
        "input": list(typed),
        "inputs": inputs,
        "groups": [_sized(size) for size in result.groups],
        "left_out": result.left_out,
        **chosen,
        **({"sealed": result.sealed} if result.sealed else {}),
    }


def companion_bytes(
    result: Result, table: Path, notes: Mapping[str, Any], decimal_comma: bool = False, names: Sequence[str] = ()
) -> bytes:
    """The companion of a table as JSON, with the `notes` of how it came about; `names` are those of a matrix."""
    every: list[tuple[str, ColumnCells]] = [(name, as_objects([])) for name in names] or list(result.table.items())
    content: dict[str, Any] = {
        "@context": ["http://www.w3.org/ns/csvw", {"@language": "en"}],
        "url": table.name,
        "tableSchema": {
            "columns": [_described(name, column, result.columns, decimal_comma) for name, column in every]
        },
        "notes": [notes],
    }
    if table.suffix.lower() == ".tsv":
        content["dialect"] = {"delimiter": "\t", "quoteChar": None}
    elif decimal_comma:
        content["dialect"] = {"delimiter": ";"}
    return (json.dumps(content, ensure_ascii=False, indent=1) + "\n").encode("utf-8", "backslashreplace")


def _sized(size: GroupSize) -> dict[str, Any]:
    return {name: value for name, value in vars(size).items() if name not in ("places", "texts") or value}


def _described(name: str, cells: ColumnCells, columns: Mapping[str, Column], decimal_comma: bool) -> dict[str, Any]:
    column = columns.get(name) or Column(name, name, "given with the documents", datatype=kind_of(cells))
    found: dict[str, Any] = {
        "name": name,
        "titles": column.title,
        "dc:description": column.meaning,
        "datatype": column.datatype,
    }
    if decimal_comma and column.datatype == "number":
        found["datatype"] = {"base": "number", "format": {"decimalChar": ","}}
    return {**found, "schema:unitText": column.unit} if column.unit else found


def read_companion(table: Path) -> dict[str, Any]:
    """The notes of a table's companion, which lies beside it or, of a workbook or Parquet, in it; empty for none.

    Raises
    ------
    DataError
        When the companion cannot be understood.
    """
    path = companion_path(table)
    try:
        if path.is_file():
            notes = dict(json.loads(path.read_text("utf-8"))["notes"][0])
        elif table.suffix.lower() == ".xlsx":
            path, notes = table, about_workbook(table)
        elif table.suffix.lower() == ".parquet":
            path, notes = table, dict(json.loads(companion_in(table) or '{"notes": [{}]}')["notes"][0])
        else:
            return {}
        notes["groups"] = tuple(GroupSize(**size) for size in notes.get("groups", ()))
        wrong = next(_wrong(notes), "")
    except (ValueError, KeyError, IndexError, TypeError, AttributeError, RecursionError, OSError) as error:
        raise DataError(
            f"{path} cannot be understood as the companion of the table", "remove it, or make the table again"
        ) from error
    if wrong:
        raise DataError(
            f"{path} cannot be understood as the companion of the table: {wrong}",
            "remove it, or make the table again",
        )
    return notes if "command" in notes else {}


def _wrong(notes: Mapping[str, Any]) -> Iterator[str]:
    """Yield what is malformed in a companion, which may have been edited by hand."""
    kinds = {
        "command": str,
        "made_by": str,
        "millstone": str,
        "sealed": str,
        "settings": dict,
        "input": list,
        "inputs": list,
        "left_out": dict,
    }
    yield from (name for name, kind in kinds.items() if name in notes and not isinstance(notes[name], kind))
    if not all(isinstance(one, str) for one in notes.get("input", ())):
        yield "input"
    for file in notes.get("inputs", ()):
        if not isinstance(file, dict) or not all(isinstance(file.get(name), str) for name in ("path", "sha256")):
            yield "inputs"
    numbers = [number for size in notes["groups"] for number in (size.documents, size.tokens, size.texts)]
    numbers += [number for size in notes["groups"] for number in size.places.values()]
    if not all(isinstance(number, int) and 0 <= number <= MOST for number in [*numbers, *_left_out(notes)]):
        yield "a size that is not a whole number"
    names = [size.name for size in notes["groups"]]
    if not all(isinstance(name, str) and name for name in names) or len(set(names)) < len(names):
        yield "the names of the groups"


def _left_out(notes: Mapping[str, Any]) -> list[Any]:
    return list(notes.get("left_out", {}).values())
