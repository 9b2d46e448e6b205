"""The texts of a table: one document per row, many rows at a time where that is possible."""

from collections.abc import Iterable, Iterator
from pathlib import Path

from millstone.core.base.arrays import compiled
from millstone.core.base.errors import DataError
from millstone.core.base.wording import listed
from millstone.core.corpus.corpus import Document
from millstone.core.corpus.documents import DocumentBlock
from millstone.core.settings.inputs import InputOptions
from millstone.texts.inputs.decoding import zero_in
from millstone.texts.inputs.files import ending_of, watched
from millstone.texts.inputs.finding.stretches import WHOLE, Stretch
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.inputs.tables.cell_blocks import CellBlock, cell_blocks
from millstone.texts.inputs.tables.delimited import NotPlainError
from millstone.texts.inputs.tables.records import json_records
from millstone.texts.inputs.tables.table import DELIMITED, Row, Table, column_of, has_column, open_table

_TEXT_WORDS = 4


def read_table(path: Path, reading: InputOptions, provenance: Provenance) -> Iterator[Document]:
    """One document per row; its group is found later, from its fields.

    Parameters
    ----------
    path : Path
    reading : InputOptions
    provenance : Provenance
        Notes the file, its empty cells, and columns that were guessed.

    Raises
    ------
    DataError
        For a column that does not exist, a row longer than the header; names file, row and line.
    """
    with watched(path, provenance):
        rows = _TextRows(path, reading, provenance)
        yield from rows.documents(rows.table.rows)


def read_table_in_blocks(
    path: Path, reading: InputOptions, provenance: Provenance, stretch: Stretch = WHOLE
) -> Iterator[Document | DocumentBlock]:
    """Documents of a table, many rows at a time where nothing in them needs a closer look; all rows, or a stretch.

    Of several stretches the first one notes the file.
    """
    of_file = provenance if stretch.is_first else Provenance()
    with watched(path, of_file):
        rows = _TextRows(path, reading, of_file)
        for text in of_file.notes:
            provenance.note(text)
        rows.provenance = provenance
        table = rows.table
        if ending_of(path) == ".jsonl" and not stretch.is_first:
            yield from rows.documents(json_records(path, reading, Provenance(), stretch))
            return
        if table.changed or compiled is None:
            yield from rows.documents(stretch.within(table.rows))
            return
        yield from rows.documents(stretch.within(table.first_rows))
        done = max([stretch.before, table.header_row, *(number for number, _ in table.first_rows)])
        try:
            for cells in cell_blocks(path, reading, stretch):
                block = cells.after(done)
                if len(block.widths):
                    yield from rows.block(block)
                done = max(done, block.last)
        except NotPlainError:
            again = open_table(path, reading, Provenance())
            yield from rows.documents(row for row in stretch.within(again.rows) if row[0] > done)


class _TextRows:
    """The rows of a table as documents: which columns are their texts, their names and, if any, their groups."""

    def __init__(self, path: Path, reading: InputOptions, provenance: Provenance) -> None:
        self.table = table = open_table(path, reading, provenance)
        self.provenance = provenance
        self._encoding = reading.encoding
        self._text = _text_column(table, reading, provenance)
        self._name = column_of(table, reading.id, "id") if reading.id else ""
        # the column that names documents may make the groups, too
        kept = reading.group if has_column(table, reading.group) else ""
        self._kept = column_of(table, kept, "group") if kept and kept not in table.header else kept
        self._before = f"{path}, row "

    def documents(self, rows: Iterable[Row]) -> Iterator[Document]:
        """A document for each row that has a text."""
        name, kept = self._name, self._kept
        for number, cells in rows:
            own_name = cells.get(name, "").strip() or str(number)
            content = cells.pop(self._text, "")
            if not content or content.isspace():
                self.provenance.empty_cells += 1
                continue
            if "\0" in content:
                raise zero_in(self.table.path, f"row {number:,}", self._encoding)
            if name != kept:
                cells.pop(name, "")
            elif name:
                cells[name] = own_name
            yield Document(own_name, "", content, cells, f"{self._before}{number}")

    def block(self, block: CellBlock) -> Iterator[Document | DocumentBlock]:
        """Documents of many rows, in one block where all of them are as wide as the header."""
        header = self.table.header
        if not (block.widths == len(header)).all():
            yield from self.documents(self.table.named(block.rows()))
            return
        place = header.index(self._text)
        blank = block.blank(place)
        if blank.any():
            self.provenance.empty_cells += block.at(blank).filled_rows()
            block = block.at(~blank)
        if not len(block.numbers):
            return
        names = list(map(str, block.numbers.tolist()))
        fields = {name: block.cells(number) for number, name in enumerate(header) if number != place}
        if self._name:
            own = block.cells(header.index(self._name))
            names = [cell.strip() or name for cell, name in zip(own, names, strict=True)]
        if self._name != self._kept:
            fields.pop(self._name, None)
        elif self._name:
            fields[self._name] = names
        yield DocumentBlock(names, *block.column(place), fields, self._before, block.numbers)


def _text_column(table: Table, reading: InputOptions, provenance: Provenance) -> str:
    if reading.text:
        return column_of(table, reading.text, "text")
    likely = text_columns(table)
    if len(likely) != 1:
        found = "more than one column looks" if likely else "no column looks"
        raise DataError(
            f"{table.path}: which column is the text? {found} like it (its columns: {listed(table.header)})",
            "name it with --text COLUMN"
            + (
                "; or say with --delimiter what stands between the columns"
                if ending_of(table.path) in DELIMITED and not likely
                else ""
            ),
        )
    provenance.note(f"took the column {likely[0]!r} of {table.path.name} as the text (--text names another)")
    return likely[0]


def text_columns(table: Table) -> list[str]:
    """The columns whose cells hold running text."""

    def words_per_cell(name: str) -> float:
        cells = [cells[name] for _, cells in table.first_rows if cells.get(name, "").strip()]
        return sum(len(cell.split()) for cell in cells) / max(len(cells), 1)

    return [name for name in table.header if words_per_cell(name) > _TEXT_WORDS]
