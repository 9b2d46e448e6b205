"""TOML files."""

import tomllib
from pathlib import Path
from typing import Any

from millstone.core.errors import DataError
from millstone.sources.decoding import decode
from millstone.sources.files import read_bytes


def toml_text(path: Path) -> str:
    """The text of a TOML file, its line ends alike.

    Raises
    ------
    DataError
    """
    return decode(read_bytes(path), path).replace("\r\n", "\n")


def read_toml(path: Path) -> dict[str, Any]:
    """The content of a TOML file.

    Raises
    ------
    DataError
        Names file, line and column of a syntax error.
    """
    try:
        return tomllib.loads(toml_text(path))
    except tomllib.TOMLDecodeError as error:
        reason, _, place = str(error).partition(" (at ")
        where = f", {place.rstrip(')')}" if place else ""
        raise DataError(
            f"{path}{where}: {reason[0].lower()}{reason[1:]}",
            'fix the TOML there: text stands in "quotes", lists in [brackets] with commas, no key twice',
        ) from error
