"""A result table as the bytes of a file; the ending picks the format."""

import json
import re
from collections.abc import Callable
from pathlib import Path

import pandas as pd

from millstone.core.errors import UsageError

_WHITE = re.compile(r"[\t\r\n\x0b\x0c\x85\u2028\u2029]+")


def _csv(frame: pd.DataFrame, decimal_comma: bool = False) -> str:
    if not decimal_comma:
        return frame.to_csv(index=False, lineterminator="\n")
    return frame.to_csv(index=False, lineterminator="\n", sep=";", decimal=",")


def as_tsv(frame: pd.DataFrame) -> str:
    """Tab-separated, no quotation marks; tabs and line breaks inside cells become spaces."""
    header = "\t".join(_WHITE.sub(" ", str(name)) for name in frame.columns)
    columns = [_cells(frame[name]) for name in frame.columns]
    return "\n".join([header, *map("\t".join, zip(*columns, strict=True)), ""])


def _cells(column: pd.Series) -> list[str]:
    values = column.astype(object).where(column.notna(), "").tolist()
    return [_WHITE.sub(" ", value) if isinstance(value, str) else repr(value) for value in values]


def _json(frame: pd.DataFrame) -> str:
    columns = [frame[name].astype(object).where(frame[name].notna(), None).tolist() for name in frame.columns]
    rows = [dict(zip(frame.columns, row, strict=True)) for row in zip(*columns, strict=True)]
    return json.dumps(rows, ensure_ascii=False, allow_nan=False, indent=1) + "\n"


FORMATS: dict[str, Callable[[pd.DataFrame], str]] = {".csv": _csv, ".tsv": as_tsv, ".json": _json}


def check_ending(path: Path, endings: tuple[str, ...], option: str) -> None:
    """Raise UsageError for a file whose ending does not say how it is to be written."""
    if path.suffix.lower() not in endings:
        raise UsageError(
            f"{option}: the ending of {path.name!r} is none that millstone writes",
            f"end the name in {', '.join(endings)}",
        )


def as_bytes(frame: pd.DataFrame, path: Path, decimal_comma: bool = False) -> bytes:
    """The table in the format of the path's ending, in UTF-8; `decimal_comma` is for CSV alone."""
    if decimal_comma and path.suffix.lower() == ".csv":
        return _csv(frame, decimal_comma).encode("utf-8")
    return FORMATS[path.suffix.lower()](frame).encode("utf-8")
