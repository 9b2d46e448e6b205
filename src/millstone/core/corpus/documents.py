"""What is known of documents, gathered one by one into a table."""

from collections.abc import Mapping, Sequence

import numpy as np
import pandas as pd

from millstone.core.corpus.corpus import Document


def table_of(columns: Mapping[str, Sequence[object]]) -> pd.DataFrame:
    """A table of texts, whose cells stay the objects that they are; also of many thousand columns."""
    cells = np.empty((len(columns), len(next(iter(columns.values()), ()))), dtype=object)
    for number, column in enumerate(columns.values()):
        cells[number] = column
    return pd.DataFrame(cells.T, columns=pd.Index(list(columns), dtype=object), dtype=object)


class Described:
    """What is known of the documents, column by column; a field that a document lacks is empty."""

    def __init__(self) -> None:
        self._names: list[str] = []
        self._groups: list[str] = []
        self._parts: list[int] = []
        self._fields: dict[str, list[str]] = {}

    @property
    def groups(self) -> set[str]:
        """The names of all groups."""
        return set(self._groups)

    @property
    def number(self) -> int:
        """How many documents were added."""
        return len(self._parts)

    def add(self, document: Document) -> None:
        """Add a document."""
        fields = document.metadata
        if document.part:
            fields = {"part_of": document.part_of or document.name, **fields}
        for name in fields:
            if name not in self._fields:
                self._fields[name] = [""] * self.number
        for name, column in self._fields.items():
            column.append(fields.get(name, ""))
        self._names.append(document.name)
        self._groups.append(document.group)
        self._parts.append(document.part)

    def table(self) -> pd.DataFrame:
        """One row per document: ``document, group``, for parts ``part_of, part``, then the metadata."""
        fields = dict(self._fields)
        part_of = fields.pop("part_of", None)
        columns = {"document": self._names, "group": self._groups}
        if part_of is None:
            return table_of(columns | fields)
        table = table_of({**columns, "part_of": part_of, **fields})
        table.insert(3, "part", np.maximum(np.array(self._parts, dtype=np.int64), 1))
        table["part_of"] = table["part_of"].where(table["part_of"] != "", table["document"])
        return table
