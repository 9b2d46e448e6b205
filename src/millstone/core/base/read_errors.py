"""Turns whatever a reading library raises into a DataError that names the file."""

import mmap
import struct
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TypeVar

from millstone.core.base.errors import DataError, MillstoneError

T = TypeVar("T")

_ROOM = 300 << 20

_OWN = str(Path(__file__).parents[2])
# what damaged data makes of well-kept readers, theirs and those of the language
_OF_DATA = (
    *(OSError, EOFError, UnicodeError, RecursionError, OverflowError, zlib.error, struct.error, zipfile.BadZipFile),
    *(NotImplementedError,),
)


@contextmanager
def border(path: Path | str, kind: str) -> Iterator[None]:
    """Turns what a library raises on a file into an error that names the file.

    A fault of the program itself passes, so that it can be seen.

    Parameters
    ----------
    path : Path
    kind : str
        What the file was read as: ``a Parquet file``.

    Yields
    ------
    None

    Raises
    ------
    DataError
    """
    try:
        yield
    except Exception as error:
        if isinstance(error, MillstoneError | MemoryError) or not _is_of_data(error):
            raise
        raise _unreadable(path, kind, error) from error


def guarded(path: Path | str, kind: str, rows: Iterator[T]) -> Iterator[T]:
    """For iterators: catches only exceptions raised by next().

    Parameters
    ----------
    path : Path or str
        The file that an error names.
    kind : str
        The kind of file, for the error.
    rows : iterator of T
        The iterator of a library.

    Yields
    ------
    T

    Raises
    ------
    DataError
    """
    while True:
        try:
            piece = next(rows)
        except StopIteration:
            return
        except Exception as error:
            if isinstance(error, MillstoneError | MemoryError) or not _is_of_data(error):
                raise
            raise _unreadable(path, kind, error) from error
        yield piece


def _unreadable(path: Path | str, kind: str, error: Exception) -> DataError:
    reason = " ".join(str(error).split())[:120] or type(error).__name__
    return DataError(
        f"{path} cannot be read as {kind}: {reason}",
        "it is damaged, or not what its name says; open it in the program that made it and save it again",
    )


def _is_of_data(error: Exception) -> bool:
    """Whether an exception was raised by a library, or can only be caused by data."""
    if isinstance(error, _OF_DATA) or type(error).__module__.partition(".")[0] not in ("builtins", "millstone"):
        return True
    place = error.__traceback__
    while place is not None and place.tb_next is not None:
        place = place.tb_next
    return place is not None and not place.tb_frame.f_code.co_filename.startswith(_OWN)


def check_room() -> None:
    """Raise MemoryError where a limit leaves less room than libraries of figures take: some would end the program.

    Raises
    ------
    MemoryError
        When less memory is left than a run needs.
    """
    try:
        # the pages are reserved, not touched
        mmap.mmap(-1, _ROOM).close()
    except OSError as error:
        raise MemoryError from error
