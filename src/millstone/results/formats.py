"""A result table as the bytes of a file; the ending picks the format."""

import csv
import io
import json
import re
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pandas as pd

from millstone.core.errors import UsageError

_WHITE = re.compile(r"[\t\r\n\x0b\x0c\x85\u2028\u2029]+")


def _csv(frame: pd.DataFrame, decimal_comma: bool = False) -> str:
    file = io.StringIO()
    writer = csv.writer(file, delimiter=";" if decimal_comma else ",", lineterminator="\n")
    writer.writerow(frame.columns)
    writer.writerows(zip(*(_cells(frame[name], decimal_comma) for name in frame.columns), strict=True))
    return file.getvalue()


def as_tsv(frame: pd.DataFrame) -> str:
    """Tab-separated, no quotation marks; tabs and line breaks inside cells become spaces."""
    header = "\t".join(_WHITE.sub(" ", str(name)) for name in frame.columns)
    columns = [_on_one_line(_cells(frame[name])) for name in frame.columns]
    return "\n".join([header, *map("\t".join, zip(*columns, strict=True)), ""])


def _cells(column: pd.Series, decimal_comma: bool = False) -> list[str]:
    """A column as it is written: numbers with full precision, what is missing empty."""
    if not pd.api.types.is_numeric_dtype(column):
        values = column.to_numpy(dtype=object)
        missing = column.isna().to_numpy()
        return [str(value) for value in (np.where(missing, "", values) if missing.any() else values).tolist()]
    # many rows have the same number, and writing numbers is slow
    codes, different = pd.factorize(column)
    texts = [repr(value) for value in different.tolist()]
    if decimal_comma and pd.api.types.is_float_dtype(column):
        texts = [text.replace(".", ",") for text in texts]
    return np.array([*texts, ""], dtype=object)[codes].tolist()


def _on_one_line(cells: list[str]) -> list[str]:
    return [_WHITE.sub(" ", cell) for cell in cells] if _WHITE.search("\0".join(cells)) else cells


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
