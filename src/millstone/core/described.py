"""What is known of documents, gathered one by one into a table."""

import numpy as np
import pandas as pd

from millstone.core.corpus import Document


class Described:
    """What is known of the documents, column by column; a field that a document lacks is empty."""

    def __init__(self) -> None:
        self.columns: dict[str, list[str]] = {"document": [], "group": []}
        self._parts: list[int] = []

    @property
    def number(self) -> int:
        """How many documents were added."""
        return len(self._parts)

    def add(self, document: Document) -> None:
        """Add a document."""
        number = self.number
        part_of = {"part_of": document.part_of or document.name} if document.part else {}
        cells = {"document": document.name, "group": document.group, **part_of, **document.metadata}
        for name in cells:
            if name not in self.columns:
                self.columns[name] = [""] * number
        for name, column in self.columns.items():
            column.append(cells.get(name, ""))
        self._parts.append(document.part)

    def table(self) -> pd.DataFrame:
        """One row a document: ``document, group``, for parts ``part_of, part``, then the metadata."""
        names = [name for name in self.columns if name not in ("document", "group", "part_of")]
        if "part_of" not in self.columns:
            return pd.DataFrame({name: self.columns[name] for name in ("document", "group", *names)}, dtype=object)
        table = pd.DataFrame(
            {name: self.columns[name] for name in ("document", "group", "part_of", *names)}, dtype=object
        )
        table.insert(3, "part", np.maximum(np.array(self._parts, dtype=np.int64), 1))
        table["part_of"] = table["part_of"].where(table["part_of"] != "", table["document"])
        return table
