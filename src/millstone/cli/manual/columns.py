"""The columns of the tables among the words of a command that is being typed."""

import signal
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

from millstone.core.base.errors import MillstoneError
from millstone.core.settings.inputs import InputOptions
from millstone.texts.inputs.files import at_home, ending_of
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.inputs.tables.table import TABLES, open_table

_PATIENCE = 2.0


def columns_of(words: Sequence[str]) -> list[str]:
    """The names of the columns of all tables that are named: those that can be typed.

    None where nothing can be read; who presses a key does not wait for more than a moment.
    """
    found: dict[str, None] = {}
    try:
        with _limited(_PATIENCE):
            for word in words:
                found.update(dict.fromkeys(filter(str.isprintable, _columns(word))))
    except TimeoutError:
        pass
    return list(found)


def _columns(word: str) -> Iterator[str]:

    path = at_home(word if Path(word).exists() else word.partition("=")[2])
    if not path.is_file() or ending_of(path) not in TABLES:
        return
    try:
        yield from open_table(path, InputOptions(), Provenance()).header
    except (MillstoneError, OSError, ValueError) as error:
        if isinstance(error, TimeoutError):
            raise
        # whoever types has not yet asked for anything, and the command itself will say what is wrong
        return


@contextmanager
def _limited(seconds: float) -> Iterator[None]:
    """Raises TimeoutError in what takes more of the processor, on systems that have such a clock."""
    if not hasattr(signal, "setitimer"):
        yield
        return

    def stop(*_: object) -> None:
        raise TimeoutError

    before = signal.signal(signal.SIGVTALRM, stop)
    signal.setitimer(signal.ITIMER_VIRTUAL, seconds)
    try:
        yield
    finally:
        signal.setitimer(signal.ITIMER_VIRTUAL, 0)
        signal.signal(signal.SIGVTALRM, before)


def show(words: Sequence[str]) -> None:
    """Print the columns of the tables among some words, line by line."""
    print("\n".join(columns_of(words)))
