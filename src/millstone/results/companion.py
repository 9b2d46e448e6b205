"""The companion of a saved table: what its columns mean and how it came about (W3C, CSV on the Web)."""

import json
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import millstone
from millstone.core.columns import Column
from millstone.core.corpus import GroupSize
from millstone.core.errors import DataError
from millstone.core.result import Result

WITH_COMPANION = (".csv", ".tsv")


def companion_path(table: Path) -> Path:
    """Where the companion of a table lies."""
    return table.with_name(table.name + "-metadata.json")


def companion_bytes(result: Result, table: Path, inputs: list[dict[str, Any]], decimal_comma: bool = False) -> bytes:
    """The companion of a table as JSON."""
    content: dict[str, Any] = {
        "@context": ["http://www.w3.org/ns/csvw", {"@language": "en"}],
        "url": table.name,
        "tableSchema": {
            "columns": [_described(name, result.columns, decimal_comma) for name in result.frame.columns]
        },
        "notes": [
            {
                "millstone": millstone.__version__,
                "command": result.command,
                "settings": result.settings,
                "inputs": inputs,
                "groups": [_sized(size) for size in result.groups],
                "left_out": result.left_out,
            }
        ],
    }
    if table.suffix.lower() == ".tsv":
        content["dialect"] = {"delimiter": "\t", "quoteChar": None}
    elif decimal_comma:
        content["dialect"] = {"delimiter": ";"}
    return (json.dumps(content, ensure_ascii=False, indent=1) + "\n").encode("utf-8")


def _sized(size: GroupSize) -> dict[str, Any]:
    return {name: value for name, value in vars(size).items() if name != "places" or value}


def _described(name: str, columns: Mapping[str, Column], decimal_comma: bool) -> dict[str, Any]:
    column = columns.get(name, Column(name, "given with the documents"))
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
    """The notes of a table's companion, empty when it has none.

    Raises
    ------
    DataError
        When the companion cannot be understood.
    """
    path = companion_path(table)
    if not path.is_file():
        return {}
    try:
        content = json.loads(path.read_text("utf-8"))
        notes = dict(content["notes"][0])
        notes["groups"] = tuple(GroupSize(**size) for size in notes["groups"])
    except (ValueError, KeyError, IndexError, TypeError) as error:
        raise DataError(
            f"{path} cannot be understood", "remove it, or make the table again, which writes it anew"
        ) from error
    return notes
