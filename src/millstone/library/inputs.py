"""Texts that are in memory, as files that every analysis can read."""

import json
import os
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from typing import Any, TypeAlias

import pandas as pd

from millstone.core.base.errors import UsageError

NAME, TEXT = "name", "text"
"""The columns of texts that are given as a list; their names are numbers, 1 for the first."""

Texts: TypeAlias = "str | os.PathLike[str] | pd.DataFrame | Sequence[str] | Mapping[str, Texts]"
"""A path, a table, texts, or these by the names of their groups."""


class TextStore:
    """Writes in-memory texts to temporary JSONL tables and returns the matching input arguments.

    Parameters
    ----------
    folder : Path
        Where the tables go.
    """

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._tables = 0
        self.has_texts = False

    @property
    def holds_some(self) -> bool:
        """Whether any texts were given in memory."""
        return self._tables > 0

    def typed(self, given: Texts, group: str = "") -> Iterator[str]:
        """Yield the inputs as one would type them.

        Raises
        ------
        UsageError
            For what is neither a path nor a table nor a list of texts.
        """
        before = f"{group}=" if group else ""
        if isinstance(given, str | os.PathLike):
            yield f"{before}{os.fspath(given)}"
        elif isinstance(given, pd.DataFrame):
            yield f"{before}{self._put(_records(given), 'table')}"
        elif isinstance(given, Mapping):
            for name, one in given.items():
                yield from self.typed(one, str(name))
        elif isinstance(given, Sequence) and all(isinstance(one, str) for one in given):
            self.has_texts = True
            name = f"{group} " if group else ""
            records = ({NAME: f"{name}{number}", TEXT: one} for number, one in enumerate(given, 1))
            yield f"{before}{self._put(records, 'texts')}"
        else:
            raise UsageError(
                f"an input is a {type(given).__name__}",
                "give a path, a DataFrame, a list of texts, or these by group",
            )

    def _put(self, records: Iterator[dict[str, Any]], name: str) -> Path:
        self._tables += 1
        path = self._folder / f"{name}{self._tables if self._tables > 1 else ''}.jsonl"
        # half a character becomes an escape that JSON reads back
        with path.open("w", encoding="utf-8", errors="backslashreplace") as file:
            # what JSON has no word for, such as a date, is written as text
            file.writelines(json.dumps(record, ensure_ascii=False, default=str) + "\n" for record in records)
        return path


def _records(frame: pd.DataFrame) -> Iterator[dict[str, Any]]:
    named = frame.astype(object).where(frame.notna(), None)
    names = [str(name) for name in frame.columns]
    if twice := next((name for name in names if names.count(name) > 1), ""):
        raise UsageError(f"the table has two columns {twice!r}", "give each column a different name")
    for number, row in enumerate(named.itertuples(index=False, name=None), 1):
        yield {name: _plain(value, name, number) for name, value in zip(names, row, strict=True)}


def _plain(value: Any, name: str, row: int) -> Any:
    if isinstance(value, bytes | bytearray):
        raise UsageError(f"row {row}: {name} holds bytes, not text", "decode it first, as with .str.decode('utf-8')")
    # numbers of an array library are not numbers to JSON
    return value.item() if hasattr(value, "item") else value
