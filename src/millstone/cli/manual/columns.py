"""The columns of the tables among the words of a command that is being typed."""

from collections.abc import Iterator, Sequence
from pathlib import Path

from millstone.core.errors import MillstoneError


def columns_of(words: Sequence[str]) -> list[str]:
    """The names of the columns of all tables that are named; none where nothing can be read."""
    return list(dict.fromkeys(name for word in words for name in _columns(word)))


def _columns(word: str) -> Iterator[str]:
    from millstone.sources.files import at_home, ending_of
    from millstone.sources.provenance import Provenance
    from millstone.sources.settings import Reading
    from millstone.sources.tables.table import TABLES, open_table

    path = at_home(word if Path(word).exists() else word.partition("=")[2])
    if not path.is_file() or ending_of(path) not in TABLES:
        return
    try:
        yield from open_table(path, Reading(), Provenance()).header
    except (MillstoneError, OSError, ValueError):
        # whoever types has not yet asked for anything, and the command itself will say what is wrong
        return
