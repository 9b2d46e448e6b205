"""TOML files."""

import re
import tomllib
from pathlib import Path
from typing import Any

from millstone.core.base.errors import DataError
from millstone.texts.inputs.decoding import decode
from millstone.texts.inputs.files import read_bytes

_MOST, _PARTS = 16 << 20, 100
# a key of so many parts, wherever a line begins with one
_DEEP = re.compile(rf"^[ \t]*\[*(?:[^.\n=#\"']{{0,80}}\.){{{_PARTS}}}", re.MULTILINE)


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
    text = toml_text(path)
    if len(text) > _MOST or _DEEP.search(text):
        raise DataError(
            f"{path} is not a study or dictionary: longer than {_MOST >> 20} MB, or with a key of {_PARTS} parts",
            "name a TOML file that is a study or a dictionary",
        )
    try:
        return tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        reason, _, place = str(error).partition(" (at ")
        where = f", {place.rstrip(')')}" if place else ""
        raise DataError(
            f"{path}{where}: {reason[0].lower()}{reason[1:]}",
            'fix the TOML there: text stands in "quotes", lists in [brackets] with commas, no key twice',
        ) from error
    except (ValueError, OverflowError, RecursionError) as error:
        # a date that no calendar has, a number of thousands of digits, brackets within brackets without end
        reason = "brackets within brackets without end" if isinstance(error, RecursionError) else str(error)
        raise DataError(f"{path}: {reason[:100]}", "fix the number, the date or the brackets") from error
