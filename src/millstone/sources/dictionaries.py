"""Dictionaries of categories, from TOML files."""

from collections.abc import Sequence
from functools import reduce
from pathlib import Path

from millstone.core.dictionary import Dictionary, dictionary_from
from millstone.core.errors import DataError
from millstone.sources.files import existing
from millstone.sources.toml_file import read_toml


def read_dictionaries(names: Sequence[str]) -> Dictionary:
    """The dictionaries of TOML files, joined.

    Raises
    ------
    DataError
        With file and line for a syntax error, with file, category and entry for a wrong entry.
    """
    if not names:
        raise DataError("no dictionary is named", "type --dictionary FILE.toml")
    return reduce(Dictionary.joined, (_dictionary(Path(name)) for name in names))


def _dictionary(path: Path) -> Dictionary:
    return dictionary_from(read_toml(existing(path, "dictionary")), str(path))
