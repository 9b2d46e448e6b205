"""Dictionaries of categories, from TOML files and from tables."""

from collections.abc import Mapping, Sequence
from functools import reduce
from pathlib import Path
from typing import Any

from millstone.core.base.errors import DataError
from millstone.core.base.wording import nearest, nearest_names
from millstone.core.dictionary.dictionary import (
    ANY_TAG,
    Dictionary,
    Entry,
    category_name,
    dictionary_from,
    entry_from,
)
from millstone.core.settings.inputs import InputOptions
from millstone.texts.inputs.files import ending_of, existing
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.inputs.tables.table import TABLES, open_table
from millstone.texts.inputs.toml_file import read_toml, toml_text
from millstone.texts.inputs.toml_places import places_of

_COLUMNS = ("category", "entry", "weight", "case", "pos")
_CASES = {"": False, "false": False, "no": False, "0": False, "true": True, "yes": True, "1": True}


def read_dictionaries(names: Sequence[str], select: Sequence[str] = ()) -> Dictionary:
    """The dictionaries of TOML files and of tables, joined.

    Parameters
    ----------
    names : sequence of str
        Files.
    select : sequence of str
        The categories, with what is below them, and scores that are to be shown; all when none is named.

    Raises
    ------
    DataError
        With file and line for a syntax error, and for a wrong category, entry or score.
    """
    if not names:
        raise DataError("no dictionary is named", "type --dictionary FILE.toml")
    dictionary = reduce(Dictionary.joined, (_dictionary(existing(Path(name), "dictionary")) for name in names))
    _check_case(dictionary)
    return dictionary.selected(select) if select else dictionary


def _check_case(dictionary: Dictionary) -> None:
    """Raise DataError for two names that differ in case only."""
    seen: dict[str, str] = {}
    for name in (*dictionary.names(), *dictionary.scores):
        other = seen.setdefault(name.lower(), name)
        if other != name:
            here, there = (dictionary.where(one) for one in (name, other))
            raise DataError(
                f"{here}: the name {name!r} differs in case only from {other!r} ({there})",
                "write the name in one way, or use two names",
            )


def _dictionary(path: Path) -> Dictionary:
    if ending_of(path) in TABLES:
        return _of_table(path)
    content = read_toml(path)
    return dictionary_from(content, str(path), _lines(toml_text(path), content))


def _lines(text: str, content: Mapping[str, Any]) -> Mapping[tuple[str, ...], Sequence[int]]:
    """The line of each key, and for a category those of its entries after it."""
    rows = text.split("\n")
    found: dict[tuple[str, ...], list[int]] = {}
    for key, (line, _) in places_of(text).items():
        names = tuple(map(str, key))
        found[names] = [line]
        entries: Any = content
        for name in key:
            entries = entries[name] if isinstance(entries, Mapping) and name in entries else None
        row, column = line - 1, 0
        for entry in entries if isinstance(entries, list) else ():
            row, column = _next(rows, row, column, entry.get("entry") if isinstance(entry, Mapping) else entry)
            found[names].append(row + 1)
    return found


def _next(rows: Sequence[str], row: int, column: int, entry: object) -> tuple[int, int]:
    """Where an entry stands at or after a place; that place itself where it cannot be seen, as with escapes."""
    quoted = [f'"{entry}"', f"'{entry}'"] if isinstance(entry, str) else [str(entry)]
    for number in range(row, len(rows)):
        seen = [at for one in quoted if (at := rows[number].find(one, column if number == row else 0)) >= 0]
        if seen:
            return number, min(seen) + len(quoted[0])
    return row, column


def _of_table(path: Path) -> Dictionary:
    table = open_table(path, InputOptions(), Provenance())
    names = {" ".join(name.lower().split()): name for name in table.header}
    for needed in _COLUMNS[:2]:
        if needed not in names:
            raise DataError(
                f"{path} has no column {needed!r}{nearest(needed, names)} "
                f"(its columns: {nearest_names(needed, table.header)})",
                f"a dictionary has the columns {', '.join(_COLUMNS)}; the last three may be missing",
            )
    for name in names.keys() - set(_COLUMNS):
        if near := nearest(name, [one for one in _COLUMNS if one not in names]):
            raise DataError(f"{path} has a column {names[name]!r}{near}", "fix its name, or remove the column")
    found: dict[str, tuple[Entry, ...]] = {}
    places: dict[str, str] = {}
    for number, cells in table.rows:
        here = f"{path}, row {number}"
        given = {name: cells.get(names[name], "").strip() if name in names else "" for name in _COLUMNS}
        if not given["category"] or not given["entry"]:
            lacking = "category" if not given["category"] else "entry"
            raise DataError(f"{here}: the {lacking} is empty", "fill it in, or remove the row")
        name = category_name(given["category"], here)
        found[name] = (*found.get(name, ()), entry_from(_fields(given, here), name, here))
        places.setdefault(name, here)
    if not found:
        raise DataError(f"{path} has no entries", "add one row per entry")
    return Dictionary(found, {}, places)


def _fields(given: Mapping[str, str], place: str) -> dict[str, Any]:
    """The cells of a row as an entry in TOML has them."""
    case = _CASES.get(given["case"].lower())
    if case is None:
        raise DataError(f"{place}: case is {given['case']!r}", "write true or false, or leave it empty")
    fields: dict[str, Any] = {"entry": given["entry"], "case": case, "pos": given["pos"] or ""}
    if given["weight"]:
        try:
            fields["weight"] = float(given["weight"].replace(",", "."))
        except ValueError as error:
            raise DataError(f"{place}: weight is {given['weight']!r}", "write a number, or leave it empty") from error
    if given["pos"] == ANY_TAG:
        fields["pos"] = ""
    return fields
