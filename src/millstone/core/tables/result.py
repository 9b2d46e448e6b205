"""Results: a table, and what one must know to read it."""

import datetime
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import TYPE_CHECKING, Any

from millstone.core.base.light_dataclass import frozen
from millstone.core.corpus.corpus import GroupSize
from millstone.core.settings.declare import option
from millstone.core.tables.columns import Column
from millstone.core.tables.schema import Schema
from millstone.core.tables.table import Table

if TYPE_CHECKING:
    import pandas as pd

COMPANION = "-metadata.json"
"""The end of the name of a table's companion; never a text or a table."""


_PLAIN = Schema("")


@dataclass(frozen=True)
class GivenCell:
    """A cell of a workbook as it was given: its value, and the format in which the sheet shows it."""

    value: Any
    number_format: str = "General"

    @property
    def plain(self) -> object:
        """The value as formats without dates have it: a number, or text."""
        if self.value is None or isinstance(self.value, bool | int | float | str):
            return self.value
        return str(self)

    def __str__(self) -> str:
        if self.value is None:
            return ""
        if isinstance(self.value, datetime.datetime):
            at_midnight = self.value.time() == datetime.time()
            return self.value.date().isoformat() if at_midnight else self.value.isoformat(" ", "seconds")
        return repr(self.value) if isinstance(self.value, float) else str(self.value)


SIZES = "n"
"""The column of the size of n-grams, where there are several sizes."""


def size_in_words(n: int) -> str:
    """The size of n-grams in words."""
    return "single terms" if n == 1 else f"{n}-grams"


@frozen
class Result:
    """The table of one analysis.

    Attributes
    ----------
    command : str
        The command that makes such tables.
    table : Table
        One row per observation, in the order to be read.
    columns : mapping
        Column name -> Column; what is not in it is metadata of the documents.
    groups : tuple of GroupSize
        All groups of the corpus, in their order.
    settings : mapping
        The settings in force that are not defaults, as they would be typed.
    left_out : mapping
        Rule -> tokens it left out.
    tables : mapping
        Name -> a further table. One that has the name of a setting is written to the file that the setting
        names; others are for figures, which draw more than the table has.
    files : mapping
        Setting -> the content of the file that it names.
    all_rows : mapping
        Where ``--match`` or ``--top`` chose some rows: list or comparison -> how many rows there were before.
    schema : Schema
        How the table is laid out.
    saved_with : str
        The option that saves it.
    is_planned : bool
        Whether its groups are still to be gathered, and no text was read.
    sealed : str
        What its companion keeps for later and those who fill the table in are not to read in passing.
    """

    command: str
    table: Table
    columns: Mapping[str, Column]
    groups: tuple[GroupSize, ...]
    settings: Mapping[str, object] = field(default_factory=dict)
    left_out: Mapping[str, int] = field(default_factory=dict)
    tables: Mapping[str, "Result"] = field(default_factory=dict)
    files: Mapping[str, bytes] = field(default_factory=dict)
    all_rows: Mapping[tuple[str, ...], int] = field(default_factory=dict)
    schema: Schema = _PLAIN
    saved_with: str = "-o"
    is_planned: bool = False
    sealed: str = ""

    @cached_property
    def frame(self) -> "pd.DataFrame":
        """The table as a DataFrame, for figures and notebooks."""
        return self.table.to_frame()

    def key_among(self, names: Sequence[str]) -> str:
        """Which of some columns names a row: that of the schema, else the first that looks like one, no block's."""
        blocks = self.schema.blocks
        likely = [name for name in names if name in self.columns and self.columns[name].look == "key"]
        wanted = [self.schema.key, *(name for name in likely if name not in blocks), *likely, *names]
        return next((name for name in wanted if name in names), "")

    def row_names(self, table: Table) -> list[tuple[str, ...]]:
        """Of each row of a part of the table, what it is of within its list."""
        names = self.schema.row or (self.key_among(table.names),)
        if not all(name in table for name in names):
            return [()] * len(table)
        return list(zip(*(map(str, table[name].tolist()) for name in names), strict=True))

    @property
    def lists(self) -> list[str]:
        """The columns that say to which list or comparison a row belongs; none where groups stand side by side."""
        return [name for name in self.schema.blocks if name in self.table]

    @property
    def blocks(self) -> list[str]:
        """The columns of the blocks of the table: of n-grams of several sizes each list has one for each size."""
        sizes = [SIZES] if SIZES in self.schema.by_name and SIZES in self.table else []
        return [*self.lists, *sizes] if self.lists else []

    def block_name(self, keys: Sequence[object]) -> str:
        """A block in words, by what its columns hold; two that are compared stand last."""
        names = list(map(str, keys[: len(self.lists)]))
        sizes = [size_in_words(int(str(size))) for size in keys[len(self.lists) :]]
        return ", ".join([": ".join([*names[:-2], self.schema.joint.join(names[-2:])]), *sizes])

    def with_table(
        self,
        name: str,
        table: Table,
        columns: Mapping[str, Column] | None = None,
        schema: Schema = _PLAIN,
    ) -> "Result":
        """Add a further table, whose columns mean what `columns` says."""
        made = replace(self, command=name, table=table, columns=columns or {}, tables={}, files={}, schema=schema)
        made = replace(made, saved_with=option(name))
        return replace(self, tables={**self.tables, name: made})

    def with_file(self, name: str, content: bytes) -> "Result":
        """Add the content of the file that a setting names."""
        return replace(self, files={**self.files, name: content})
