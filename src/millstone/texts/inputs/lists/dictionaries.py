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
from millstone.texts.inputs.files import ending_of, existing, stem_of
from millstone.texts.inputs.lists.word_lists import read_entries, read_stop_list, stop_list_codes
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.inputs.tables.table import TABLES, open_table
from millstone.texts.inputs.toml_file import read_toml, toml_text
from millstone.texts.inputs.toml_places import places_of

_COLUMNS = ("category", "entry", "weight", "case", "pos")
_CATEGORY = ("category", "theme", "class", "tag", "label", "topic")
_ENTRY = ("entry", "term", "word", "form", "lemma", "expression", "pattern", "phrase", "item")
_LIST = ".txt"
KINDS = (
    "a dictionary is TOML, a table with a column of categories and one of entries, a .txt with one entry per line, "
    "or a class that ships, such as en:pronouns"
)
"""The kinds of dictionary that are read, for whoever brings another."""
_CODE = 2
_CASES = {"": False, "false": False, "no": False, "0": False, "true": True, "yes": True, "1": True}


def read_dictionaries(
    names: Sequence[str], select: Sequence[str] = (), category: str = "", entry: str = ""
) -> Dictionary:
    """The dictionaries of TOML files, of tables, of plain lists and of classes that ship, joined.

    Parameters
    ----------
    names : sequence of str
        Files, or classes such as ``en:pronouns``.
    select : sequence of str
        The categories, with what is below them, and scores that are to be shown; all when none is named.
    category, entry : str
        The columns of a table that hold these; guessed when they are empty.

    Raises
    ------
    DataError
        With file and line for a syntax error, and for a wrong category, entry or score.
    """
    if not names:
        raise DataError("no dictionary is named", "type --dictionary FILE.toml")
    dictionary = reduce(Dictionary.joined, (_dictionary(name, category, entry) for name in names))
    _check_case(dictionary)
    return dictionary.selected(select) if select else dictionary


def ships(name: str) -> bool:
    """Whether a name is that of a stop list that ships, or of a class of one, and of no file."""
    code = name.partition(":")[0]
    return len(code) == _CODE and code in stop_list_codes() and not Path(name).exists()


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


def _dictionary(name: str, category: str, entry: str) -> Dictionary:
    if ships(name):
        return _of_classes(name)
    path = existing(Path(name), "dictionary")
    if ending_of(path) in TABLES:
        return _of_table(path, category, entry)
    if ending_of(path) == _LIST:
        return _of_list(path)
    try:
        content = read_toml(path)
    except DataError as error:
        if ending_of(path) == ".toml":
            raise
        raise DataError(error.what, KINDS) from error
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


def _of_classes(name: str) -> Dictionary:
    """The classes of a stop list that ships as categories; a list without classes is one of its code."""
    words = read_stop_list(name)
    kinds: dict[str, tuple[Entry, ...]] = {}
    for word in words.entries:
        kind = words.classes.get(word, name.replace(":", "_") if ":" not in name else name.partition(":")[2])
        kinds[kind] = (*kinds.get(kind, ()), entry_from(word, kind, name))
    return Dictionary(kinds, {}, dict.fromkeys(kinds, name))


def _of_list(path: Path) -> Dictionary:
    """A plain list: a category with the name of the file."""
    name = category_name(stem_of(path), str(path))
    entries = tuple(
        entry_from(entry, name, f"{path}, line {line}") for entry, line in read_entries(path, "dictionary")
    )
    return Dictionary({name: entries}, {}, {name: str(path)})


def _columns_of(path: Path, header: Sequence[str], category: str, entry: str) -> dict[str, str]:
    """Field of an entry -> the column that holds it, in small letters; category and entry are among them."""
    names = {" ".join(name.lower().split()): name for name in header}
    found = {name: names[name] for name in _COLUMNS[2:] if name in names}
    for field, typed, known in (("category", category, _CATEGORY), ("entry", entry, _ENTRY)):
        if typed and typed not in header:
            raise DataError(
                f"{path} has no column {typed!r}{nearest(typed, header)} "
                f"(its columns: {nearest_names(typed, header)})",
                f"name one of them with --{field}-column",
            )
        likely = [names[name] for name in known if name in names]
        if typed or likely:
            found[field] = typed or likely[0]
    left = [name for name in header if name not in found.values()]
    for field in ("category", "entry"):
        # of two columns the other one is known
        if field not in found and len(left) == 1 and len(found.keys() & {"category", "entry"}) == 1:
            found[field] = left.pop()
        if field not in found:
            raise DataError(
                f"{path}: which column holds the {'categories' if field == 'category' else 'entries'}? "
                f"(its columns: {nearest_names(field, header)})",
                f"call it {field}, or type --{field}-column NAME; {KINDS}",
            )
    return found


def _of_table(path: Path, category: str, entry: str) -> Dictionary:
    table = open_table(path, InputOptions(), Provenance())
    columns = _columns_of(path, table.header, category, entry)
    known = [one for one in _COLUMNS if one not in columns]
    for name in [name for name in table.header if name not in columns.values()]:
        if near := nearest(name.lower(), known):
            raise DataError(f"{path} has a column {name!r}{near}", "fix its name, or remove the column")
    found: dict[str, tuple[Entry, ...]] = {}
    places: dict[str, str] = {}
    for number, cells in table.rows:
        here = f"{path}, row {number}"
        given = {name: cells.get(columns[name], "").strip() if name in columns else "" for name in _COLUMNS}
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
