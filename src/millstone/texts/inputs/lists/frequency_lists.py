"""Frequency lists as inputs, whoever made them."""

import math
import sys
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from millstone.core.base.errors import DataError
from millstone.core.base.light_dataclass import frozen
from millstone.core.base.wording import listed, numbered
from millstone.core.corpus.documents import as_objects
from millstone.core.settings.inputs import FrequencyListOptions, InputOptions
from millstone.core.tables.table import distinct_rows
from millstone.core.terms.frequency_lists import FrequencyList, added_up
from millstone.core.tokenise.words import normalise
from millstone.texts.inputs.files import ending_of, stem_of, watched
from millstone.texts.inputs.finding.finding import input_files
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.inputs.tables.delimited import NotPlainError, plain_columns
from millstone.texts.inputs.tables.table import DELIMITED, TABLES, Table, column_of, open_table
from millstone.texts.inputs.tables.workbook import sheets_with_rows

_TERM = ("term", "word", "type", "token", "lemma", "form", "ngram", "item")
_FREQ = ("freq", "frequency", "count", "occurrences", "f", "n")
_MOST = 10**15
_AT_ONCE = 256
# the sheet on which millstone says how the others came about
_ABOUT = "about"
ENDINGS = (*TABLES, ".txt")
"""Of files that may hold a list."""


@dataclass
class ListFile:
    """One file of lists: group -> its list.

    `own_names` are those that the groups of the file have in itself, where others were typed. `n` is the size of the
    n-grams, where the file has lists of several sizes, else 0.
    """

    path: Path
    lists: dict[str, FrequencyList]
    own_names: dict[str, list[str]]
    n: int = 0


def read_lists(
    inputs: Sequence[str], reading: InputOptions, counted: FrequencyListOptions, provenance: Provenance
) -> list[ListFile]:
    """The lists of all inputs, file by file, those of n-grams of several sizes size by size.

    Raises
    ------
    DataError
        For a missing column, or a frequency that is not a whole number; names file and row.
    """
    found = []
    for path, name in input_files(inputs, reading, ENDINGS, provenance):
        with watched(path, provenance):
            sheets = _sheets(path, reading, counted, provenance) if ending_of(path) == ".xlsx" else [""]
            for sheet in sheets:
                # the name of a sheet says what its list is of, where there are several
                of_rows = sheet if len(sheets) > 1 else stem_of(path)
                chosen = replace(reading, sheet=sheet) if sheet else reading
                found += _read(path, name, of_rows, chosen, counted, provenance)
    return found


def _sheets(path: Path, reading: InputOptions, counted: FrequencyListOptions, provenance: Provenance) -> list[str]:
    """The sheets of a workbook that are lists; one that is named is taken as it is."""
    if reading.sheet:
        return [reading.sheet]
    filled = sheets_with_rows(path)
    wanted = [{counted.term} if counted.term else set(_TERM), {counted.freq} if counted.freq else set(_FREQ)]
    found = [
        sheet
        for sheet, header in filled
        if all(names & {cell for name in header for cell in (name, name.lower())} for names in wanted)
    ]
    if len(found) < 2:
        return found or [""]
    passed_over = [sheet for sheet, header in filled if sheet not in found and sheet != _ABOUT]
    others = f"; no lists: {listed(passed_over)}" if passed_over else ""
    provenance.note(f"read {len(found)} sheets of {path.name}: {listed(found)}{others} (--sheet names one)")
    return found


def _read(
    path: Path, name: str, own_name: str, reading: InputOptions, counted: FrequencyListOptions, provenance: Provenance
) -> list[ListFile]:
    table = open_table(path, reading, provenance)
    term = column_of(table, counted.term, "term") if counted.term else _guessed(table, _TERM, "term", provenance)
    freq = column_of(table, counted.freq, "freq") if counted.freq else _guessed(table, _FREQ, "freq", provenance)
    docs = column_of(table, counted.docs, "docs") if counted.docs else "docs" if "docs" in table.header else ""
    group = column_of(table, reading.group, "group") if reading.group else "group" if "group" in table.header else ""
    # of other lists n may be the frequency
    size = "n" if "n" in table.header and freq != "n" else ""
    names = _Names(term, freq, docs, group, size)
    rows = _at_once(path, table, reading, names) or one_by_one(path, table, names, provenance)
    _check_docs(path, rows, names)
    if rows.sizes is None:
        return [_lists(path, rows, (name, own_name), bool(docs), provenance)]
    sizes = np.unique(rows.sizes).tolist()
    parts = (rows.at(np.flatnonzero(rows.sizes == n)) for n in sizes)
    found = [_lists(path, part, (name, own_name), bool(docs), provenance) for part in parts]
    return [replace(one, n=n) for one, n in zip(found, sizes, strict=True)] if len(found) > 1 else found


def _lists(path: Path, rows: "_Rows", called: tuple[str, str], docs: bool, provenance: Provenance) -> ListFile:
    """The lists of some rows of a file; `called` is the name that was typed, and that of the file."""
    lists: dict[str, FrequencyList] = {}
    own_names: dict[str, list[str]] = {}
    of_groups = list(_by_group(rows.groups, len(rows.terms), *called))
    for of_group, own, which in of_groups:
        known = docs and not np.isnan(rows.docs[which]).all()
        one = added_up(rows.terms[which], rows.freq[which], rows.docs[which] if known else None)
        lists[of_group], own_names[of_group] = one, own
        again = len(rows.terms[which]) - len(one.terms)
        if again:
            where = f" of {of_group}" if len(of_groups) > 1 else ""
            provenance.note(
                f"{path.name}: {numbered(again, 'row')}{where} with a term that occurred before, added up"
            )
    if not lists:
        raise DataError(f"{path} has no terms", "give a table with a column of terms and one of frequencies")
    return ListFile(path, lists, own_names)


def _check_docs(path: Path, rows: "_Rows", names: "_Names") -> None:
    wrong = np.flatnonzero(rows.docs > rows.freq)
    if len(wrong):
        term, freq, docs = (values[wrong[0]] for values in (rows.terms, rows.freq, rows.docs))
        raise DataError(
            f"{path}: {term!r} occurs in more documents ({docs:,.0f}) than it has occurrences ({freq:,})",
            f"check the columns {names.freq!r} and {names.docs!r}; --freq and --docs name others",
        )


@frozen
class _Names:
    """The columns of a list; `docs`, `group` and `size` are empty where there is none."""

    term: str
    freq: str
    docs: str
    group: str
    size: str = ""


@frozen
class _Rows:
    """The rows of a list that have a term, (rows,) each; `docs` is NaN where not known.

    `groups` and `sizes`, the words of each n-gram, may be None.
    """

    terms: np.ndarray
    freq: np.ndarray
    docs: np.ndarray
    groups: Sequence[str] | None
    sizes: np.ndarray | None = None

    def at(self, which: np.ndarray) -> "_Rows":
        """Some of the rows, of one size."""
        groups = None if self.groups is None else [self.groups[row] for row in which.tolist()]
        return _Rows(self.terms[which], self.freq[which], self.docs[which], groups)


def _at_once(path: Path, table: Table, reading: InputOptions, names: _Names) -> _Rows | None:
    """The rows of a plain list, column by column; None where something in it has to be looked at row by row."""
    if ending_of(path) not in DELIMITED or reading.decimal_comma or not table.first_rows:
        return None
    parts: list[_Rows] = []
    try:
        for columns in plain_columns(path, reading, len(table.header), table.first_rows[0][0]):
            part = _part(dict(zip(table.header, columns, strict=True)), names)
            if part is None:
                return None
            parts.append(part)
    except NotPlainError:
        return None
    terms, freq, docs = (np.concatenate([getattr(one, name) for one in parts]) for name in ("terms", "freq", "docs"))
    groups = [group for one in parts for group in one.groups or ()] if names.group else None
    sizes = np.concatenate([one.sizes for one in parts if one.sizes is not None]) if names.size else None
    return _Rows(terms, freq, docs, groups, sizes)


def _part(cells: Mapping[str, list[str]], names: _Names) -> _Rows | None:
    terms = _terms_of(cells[names.term])
    freq = _numbers(cells[names.freq])
    docs = _numbers(cells[names.docs]) if names.docs else np.full(len(terms), np.nan)
    sizes = _numbers(cells[names.size]) if names.size else None
    if freq is None or docs is None or not all(terms) or (names.size and sizes is None):
        return None
    groups = list(map(sys.intern, cells[names.group])) if names.group else None
    return _Rows(np.array(terms, dtype=object), freq, docs.astype(float), groups, sizes)


def _numbers(cells: Sequence[str]) -> np.ndarray | None:
    """Whole numbers, int64; None where a cell is not one, or is not written in digits alone."""
    digits = "".join(cells)
    if not (digits.isascii() and digits.isdecimal() and all(cells)):
        return None
    found = np.fromstring("\n".join(cells), dtype=np.int64, sep="\n")
    return found if found.max() <= _MOST else None


def one_by_one(path: Path, table: Table, names: _Names, provenance: Provenance) -> _Rows:
    """The rows of a table cell by cell: the way for whatever the fast one does not read."""
    terms, freq, docs, groups, sizes = [], [], [], [], []
    for number, cells in table.rows:
        term = _term_of(cells.get(names.term, ""))
        if not term:
            provenance.empty_cells += 1
            continue
        terms.append(term)
        groups.append(cells.get(names.group, ""))
        freq.append(_whole(cells.get(names.freq, ""), path, number, names.freq))
        seen = cells.get(names.docs, "").strip() if names.docs else ""
        docs.append(_whole(cells[names.docs], path, number, names.docs) if seen else math.nan)
        sizes.append(_whole(cells.get(names.size, ""), path, number, names.size) if names.size else 0)
    return _Rows(
        np.array(terms, dtype=object),
        np.array(freq, dtype=np.int64),
        np.array(docs),
        groups if names.group else None,
        np.array(sizes, dtype=np.int64) if names.size else None,
    )


def _term_of(cell: str) -> str:
    return cell if cell.isascii() and cell.isalnum() else " ".join(normalise(cell).split())


def _terms_of(cells: list[str]) -> list[str]:
    found: list[str] = []
    for at in range(0, len(cells), _AT_ONCE):
        some = cells[at : at + _AT_ONCE]
        together = "".join(some)
        is_plain = together.isascii() and together.isprintable() and " " not in together
        found += some if is_plain else map(_term_of, some)
    return found


def _by_group(
    groups: Sequence[str] | None, rows: int, typed: str, file_name: str
) -> Iterator[tuple[str, list[str], np.ndarray | slice]]:
    """The groups of a file: the name that counts, the names they have in the file, and which rows are theirs."""
    if not rows:
        return
    if groups is None:
        yield typed or file_name, [file_name], slice(None)
        return
    number, first = distinct_rows([as_objects(groups)])
    names = [groups[row].strip() or file_name for row in first.tolist()]
    if typed:
        yield typed, list(dict.fromkeys(names)), slice(None)
        return
    for name in dict.fromkeys(names):
        same = np.array([one == name for one in names])
        yield name, [name], np.flatnonzero(same[number])


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
            f"{table.path}: which column is the {what}? (its columns: {listed(table.header)})",
            f"name it with --{what} COLUMN",
        )
    provenance.note(f"took the column {likely[0]!r} of {table.path.name} as the {what} (--{what} names another)")
    return likely[0]


def _is_whole(cell: str) -> bool:
    try:
        return float(cell).is_integer()
    except ValueError:
        return False


def _whole(cell: str, path: Path, row: int, column: str) -> int:
    if not (cell.isascii() and cell.isdecimal()) and (not _is_whole(cell) or float(cell) < 0):
        raise DataError(
            f"{path}, row {row}: {column} is {cell!r}, which is not a whole number",
            "frequencies are counts of occurrences; name their column with --freq COLUMN",
        )
    number = int(cell) if cell.isdecimal() else int(float(cell))
    if number > _MOST:
        raise DataError(
            f"{path}, row {row}: {column} is {cell!r}, more than any corpus has", "check what the column holds"
        )
    return number
