"""Frequency lists as inputs, whoever made them."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from millstone.core.errors import DataError
from millstone.core.tokens import normalise
from millstone.core.wording import numbered
from millstone.sources.files import stem_of, watched
from millstone.sources.provenance import Provenance
from millstone.sources.reader import input_files
from millstone.sources.settings import Counted, Reading
from millstone.sources.table import TABLES, Table, column_of, open_table

_TERM = ("term", "word", "type", "token", "lemma", "form", "ngram", "item")
_FREQ = ("freq", "frequency", "count", "occurrences", "f", "n")
ENDINGS = (*TABLES, ".txt")
"""Of files that may hold a list."""


@dataclass
class ListFile:
    """One file of lists: group -> rows of term, occurrences, and documents where known.

    `own_names` are those that the groups of the file have in itself, where others were typed.
    """

    path: Path
    rows: dict[str, list[tuple[str, int, int | None]]]
    own_names: dict[str, list[str]]


def read_lists(inputs: Sequence[str], reading: Reading, counted: Counted, provenance: Provenance) -> list[ListFile]:
    """The lists of all inputs, file by file.

    Raises
    ------
    DataError
        For a missing column, or a frequency that is no whole number; names file and row.
    """
    found = []
    for path, name in input_files(inputs, reading, ENDINGS, provenance):
        with watched(path, provenance):
            found.append(_read(path, name, reading, counted, provenance))
    return found


def _read(path: Path, name: str, reading: Reading, counted: Counted, provenance: Provenance) -> ListFile:
    table = open_table(path, reading, provenance)
    if "n" in table.header and "term" in table.header and not counted.freq:
        raise DataError(f"{path}: a list of n-grams of several sizes", "make a list of one size with --ngram N")
    term = column_of(table, counted.term, "term") if counted.term else _guessed(table, _TERM, "term", provenance)
    freq = column_of(table, counted.freq, "freq") if counted.freq else _guessed(table, _FREQ, "freq", provenance)
    docs = column_of(table, counted.docs, "docs") if counted.docs else "docs" if "docs" in table.header else ""
    group = column_of(table, reading.group, "group") if reading.group else "group" if "group" in table.header else ""
    found: dict[str, list[tuple[str, int, int | None]]] = {}
    own_names: dict[str, dict[str, None]] = {}
    file_name = stem_of(path)
    for number, cells in table.rows:
        cell = cells.get(term, "")
        word = cell if cell.isascii() and cell.isalnum() else " ".join(normalise(cell).split())
        if not word:
            provenance.empty_cells += 1
            continue
        own_name = (cells.get(group, "").strip() if group else "") or file_name
        of_group = name or own_name
        own_names.setdefault(of_group, {})[own_name] = None
        times = _whole(cells.get(freq, ""), path, number, freq)
        seen = _whole(cells[docs], path, number, docs) if docs and cells.get(docs, "").strip() else None
        found.setdefault(of_group, []).append((word, times, seen))
    if not found:
        raise DataError(f"{path} has no terms", "give a table with a column of terms and one of frequencies")
    for of_group, rows in found.items():
        again = len(rows) - len({word for word, _, _ in rows})
        if again:
            where = f" of {of_group}" if len(found) > 1 else ""
            provenance.note(
                f"{path.name}: {numbered(again, 'row')}{where} with a term that occurred before, added up"
            )
    return ListFile(path, found, {of_group: list(names) for of_group, names in own_names.items()})


def _guessed(table: Table, names: tuple[str, ...], what: str, provenance: Provenance) -> str:
    lower = {name.lower(): name for name in reversed(table.header)}
    known = next((lower[name] for name in names if name in lower), "")
    if known:
        return known
    columns = {name: [cells.get(name, "") for _, cells in table.first_rows] for name in table.header}
    numeric = {name: all(_is_whole(cell) for cell in cells) for name, cells in columns.items()}
    likely = [name for name in table.header if numeric[name] == (what == "freq")]
    if len(likely) != 1:
        raise DataError(
            f"{table.path}: which column is the {what}? (its columns: {', '.join(table.header)})",
            f"name it with --{what} COLUMN",
        )
    provenance.note(f"took the column {likely[0]!r} of {table.path.name} as the {what} (--{what} names another)")
    return likely[0]


def _is_whole(cell: str) -> bool:
    try:
        return float(cell).is_integer()
    except ValueError:
        return False


def _whole(cell: str, path: Path, number: int, column: str) -> int:
    if cell.isascii() and cell.isdecimal():
        return int(cell)
    if not _is_whole(cell) or float(cell) < 0:
        raise DataError(
            f"{path}, row {number}: {column} is {cell!r}, which is no whole number",
            "frequencies are counts of occurrences; name their column with --freq COLUMN",
        )
    return int(float(cell))
