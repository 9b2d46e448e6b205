"""Tables of documents, gathered one by one."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from millstone.core.base.errors import DataError
from millstone.core.base.wording import of_memory
from millstone.core.corpus.corpus import Document
from millstone.core.matrix.on_disk import NO_LIMIT
from millstone.core.tables.table import Table

_NOW_AND_THEN = 0xFFF


def table_of(columns: Mapping[str, Sequence[object]]) -> Table:
    """A table of texts, whose cells stay the objects that they are.

    Parameters
    ----------
    columns : mapping of str to sequence of object
        Name -> cells, all of one length.

    Returns
    -------
    Table
    """
    return Table({name: as_objects(cells) for name, cells in columns.items()})


def as_objects(cells: Sequence[object]) -> np.ndarray:
    """(cells,) objects as they are.

    Parameters
    ----------
    cells : sequence of object

    Returns
    -------
    ndarray
        (cells,) object.
    """
    found = np.empty(len(cells), dtype=object)
    found[:] = cells
    return found


@dataclass(slots=True)
class DocumentBlock:
    """Many rows of a table, each of which is a document, column by column.

    Attributes
    ----------
    names : list of str
        (rows,)
    texts : bytes
        UTF-8, a zero after each.
    ends : ndarray
        (rows,) int64: where these are.
    fields : mapping
        Name -> (rows,) texts.
    before : str
        Stands before the number of a row where it is said where a document comes from.
    numbers : ndarray
        (rows,) int64.
    groups : sequence of str
        (rows,); filled in when all fields are known.
    """

    names: list[str]
    texts: bytes
    ends: np.ndarray
    fields: Mapping[str, Sequence[str]]
    before: str
    numbers: np.ndarray
    groups: Sequence[str] = ()

    def documents(self) -> Iterator[Document]:
        """The documents one by one, without their groups."""
        texts = self.texts.decode("utf-8").split("\0")
        for place, number in enumerate(self.numbers.tolist()):
            fields = {name: cells[place] for name, cells in self.fields.items()}
            yield Document(self.names[place], "", texts[place], fields, f"{self.before}{number}")


# bytes of a document with its name and its counts, and of each of its fields where many have the same value
_DOCUMENT, _FIELD = 180, 16


class DocumentTableBuilder:
    """Builds the table of documents, column by column; a field that a document lacks is empty.

    Parameters
    ----------
    memory : int
        How many bytes it may take.

    Raises
    ------
    DataError
        When a document is added for which there is no room.
    """

    def __init__(self, memory: int = NO_LIMIT) -> None:
        self._memory = memory
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
        if not self.number & _NOW_AND_THEN:
            self._check_room()

    def add_block(self, block: DocumentBlock) -> None:
        """Add many documents."""
        size = len(block.names)
        for name in block.fields:
            if name not in self._fields:
                self._fields[name] = [""] * self.number
        for name, column in self._fields.items():
            column.extend(block.fields.get(name) or [""] * size)
        self._names += block.names
        self._groups += block.groups
        self._parts += [0] * size
        self._check_room()

    def _check_room(self) -> None:
        size = _DOCUMENT + _FIELD * len(self._fields)
        if self.number * size > self._memory:
            raise DataError(
                f"more than {self._memory // size:,} documents: they take about {size} bytes of memory each, and "
                f"{of_memory(self._memory)} are allowed",
                "allow more with --memory, or choose some with --where; in a table each row with a text is one",
            )

    def table(self) -> Table:
        """One row per document: ``document, group``, for parts ``part_of, part``, then the metadata."""
        fields = dict(self._fields)
        part_of = fields.pop("part_of", None)
        columns = {"document": self._names, "group": self._groups}
        if part_of is None:
            return table_of(columns | fields)
        whole = [text or name for text, name in zip(part_of, self._names, strict=True)]
        table = table_of({**columns, "part_of": whole, **fields})
        return table.with_columns({"part": np.maximum(np.array(self._parts, dtype=np.int64), 1)}, place=3)


def joined_documents(tables: Sequence[Table]) -> Table:
    """Tables of documents one below the other; a field that one of them lacks is empty there.

    Where some documents are parts of texts, one that is not is the first part of itself.

    Parameters
    ----------
    tables : sequence of Table
        In their order.

    Returns
    -------
    Table
    """
    names = dict.fromkeys(name for table in tables for name in table.names)
    if "part_of" in names:
        tables = [_as_parts(table) for table in tables]
        names = dict.fromkeys((*tables[0].names[:4], *names))
    columns = {}
    for name in names:
        found = [(table.get(name), len(table)) for table in tables]
        columns[name] = np.concatenate(
            [as_objects([""] * size) if cells is None else np.asarray(cells) for cells, size in found]
        )
    return Table(columns)


def _as_parts(table: Table) -> Table:
    if "part_of" in table:
        return table
    ones = np.ones(len(table), dtype=np.int64)
    return table.with_columns({"part_of": table["document"], "part": ones}, place=2)
