"""Stop lists and dictionaries: millstone's own, and the user's files."""

import tomllib
from collections.abc import Sequence
from functools import reduce
from importlib import resources
from pathlib import Path
from typing import Any

from millstone.core.declare import looks_like_path, nearest
from millstone.core.dictionary import Dictionary, dictionary_from
from millstone.core.errors import DataError
from millstone.core.terms import StopList
from millstone.sources.decoding import decode, read_bytes

STOP_LISTS = ("en",)


def read_stop_list(name: str) -> StopList:
    """A stop list by its code, or a UTF-8 file with an entry a line and ``#`` comments.

    Raises
    ------
    DataError
        For a list that does not exist, or a file without entries.
    """
    if not looks_like_path(name):
        if name not in STOP_LISTS:
            raise DataError(
                f"--stop: there is no stop list {name!r}{nearest(name, STOP_LISTS)}",
                f"millstone has {', '.join(STOP_LISTS)}; for a file of yours type ./{name}",
            )
        classes = tomllib.loads(resources.files("millstone.data").joinpath(f"stop_{name}.toml").read_text("utf-8"))
        return StopList(name, [word for group in classes.values() for word in group])
    path = _existing(Path(name), "stop list")
    lines = decode(read_bytes(path), path).splitlines()
    entries = [line.partition("#")[0].strip() for line in lines]
    entries = [entry for entry in entries if entry]
    if not entries:
        raise DataError(f"{path} has no entries", "write a word a line; what follows a # is a comment")
    return StopList(path.name, entries)


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
    return dictionary_from(read_toml(_existing(path, "dictionary")), str(path))


def read_toml(path: Path) -> dict[str, Any]:
    """The content of a TOML file.

    Raises
    ------
    DataError
        Names file, line and column of a syntax error.
    """
    try:
        return tomllib.loads(decode(read_bytes(path), path).replace("\r\n", "\n"))
    except tomllib.TOMLDecodeError as error:
        reason, _, place = str(error).partition(" (at ")
        where = f", {place.rstrip(')')}" if place else ""
        raise DataError(
            f"{path}{where}: {reason[0].lower()}{reason[1:]}",
            'mend the TOML there: text stands in "quotes", lists in [brackets] with commas, no key twice',
        ) from error


def _existing(path: Path, what: str) -> Path:
    if path.is_file():
        return path
    around = [one.name for one in path.parent.iterdir()] if path.parent.is_dir() else []
    raise DataError(f"there is no {what} {path}{nearest(path.name, around)}", "check the spelling and the folder")
