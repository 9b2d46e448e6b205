"""Long arrays that may lie on disk: written at their end, read through a map, gone when they are no longer used."""

import os
import sys
import tempfile
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from mmap import ACCESS_READ, mmap
from pathlib import Path
from typing import BinaryIO, cast

import numpy as np
import numpy.typing as npt

from millstone.core.base.errors import MillstoneError

NO_LIMIT = sys.maxsize
SHARE = 4
"""Counts of documents as read, put together, under terms, and of a group may each take such a part of memory."""

_ROOMY = "/var/tmp"


def scratch_folder() -> Path:
    """Where arrays lie that memory is too small for: TMPDIR, else where the system keeps large files for a while."""
    named = os.environ.get("TMPDIR", "")
    # what many systems call /tmp is memory itself
    return Path(named or (_ROOMY if os.access(_ROOMY, os.W_OK) else tempfile.gettempdir()))


class Growing:
    """An array that is put together part by part; from `most` bytes on it lies on disk.

    Where it is known that there will be `size` values, nothing is kept twice.

    Raises
    ------
    MillstoneError
        From its methods, when the disk is full, or cannot be written to.
    """

    def __init__(self, dtype: npt.DTypeLike, most: int = NO_LIMIT, size: int = 0) -> None:
        self._dtype = np.dtype(dtype)
        self._most = most
        self._parts: list[np.ndarray] = []
        self._whole = np.empty(size if size * self._dtype.itemsize <= most else 0, dtype=self._dtype)
        self._size = 0
        self._file: BinaryIO | None = None

    def add(self, values: np.ndarray) -> None:
        """Add values at the end; they must not change afterwards."""
        start, self._size = self._size, self._size + len(values)
        if len(self._whole):
            self._whole[start : self._size] = values
            return
        values = np.ascontiguousarray(values, dtype=self._dtype)
        if self._file is None:
            self._parts.append(values)
            if self._size * self._dtype.itemsize <= self._most:
                return
        with _faults():
            if self._file is None:
                # it has no name, and goes when the last map of it does
                self._file = cast("BinaryIO", tempfile.TemporaryFile(dir=scratch_folder()))  # noqa: SIM115
            else:
                self._parts = [values]
            for part in self._parts:
                self._file.write(part.data)
        self._parts = []

    def array(self) -> np.ndarray:
        """All values, (values,); to be asked for once, at the end."""
        if self._file is None:
            parts, self._parts = self._parts, []
            if not parts:
                return self._whole[: self._size]
            return parts[0] if len(parts) == 1 else np.concatenate(parts)
        with _faults(), self._file as file:
            file.flush()
            return np.frombuffer(mmap(file.fileno(), 0, access=ACCESS_READ), dtype=self._dtype)


@contextmanager
def _faults() -> Iterator[None]:
    try:
        yield
    except OSError as error:
        raise MillstoneError(
            f"counts that --memory has no room for cannot be written to {scratch_folder()}: "
            f"{(error.strerror or str(error)).lower()}",
            "free some space there, name another folder in the variable TMPDIR, or allow more with --memory",
        ) from error


def mapped(path: Path) -> mmap:
    """The bytes of a file that is not empty, which are read when they are asked for.

    Parameters
    ----------
    path : Path
        A file that stays as it is.

    Returns
    -------
    mmap

    Raises
    ------
    OSError
    """
    with path.open("rb") as file:
        return mmap(file.fileno(), 0, access=ACCESS_READ)


def growing_like(*arrays: np.ndarray, dtype: npt.DTypeLike) -> Growing:
    """An array to be made of others: on disk where one of these is.

    Parameters
    ----------
    *arrays : ndarray
        Those that it is made like.
    dtype : dtype
        Of the new array.

    Returns
    -------
    Growing
    """
    return Growing(dtype, 0 if any(lies_on_disk(one) for one in arrays) else NO_LIMIT)


def lies_on_disk(array: np.ndarray) -> bool:
    """Whether the values of an array are in a file.

    Parameters
    ----------
    array : ndarray
        Of any shape.

    Returns
    -------
    bool
    """
    return _map_of(array) is not None


def forget(*arrays: np.ndarray) -> None:
    """Give back the memory of what was read of arrays that lie on disk; it is read again when it is asked for."""
    for one in arrays:
        found = _map_of(one)
        if found is not None and hasattr(found, "madvise"):
            from mmap import MADV_DONTNEED

            found.madvise(MADV_DONTNEED)


def _map_of(array: np.ndarray) -> mmap | None:
    base: object = array
    while isinstance(base, np.ndarray | memoryview):
        base = base.base if isinstance(base, np.ndarray) else base.obj
    return base if isinstance(base, mmap) else None


def put_on_disk(arrays: Sequence[np.ndarray], dtype: npt.DTypeLike) -> list[np.ndarray]:
    """Put arrays on disk, all in one file.

    Parameters
    ----------
    arrays : sequence of ndarray
        One-dimensional.
    dtype : dtype
        Of all of them.

    Returns
    -------
    list of ndarray
    """
    if not arrays:
        return []
    found = Growing(dtype, 0)
    for one in arrays:
        found.add(one)
    return np.split(found.array(), np.cumsum([len(one) for one in arrays])[:-1])


def joined(arrays: Sequence[np.ndarray], dtype: npt.DTypeLike) -> np.ndarray:
    """Arrays one after the other: on disk where one of them is.

    Parameters
    ----------
    arrays : sequence of ndarray
        One-dimensional.
    dtype : dtype
        Of the result.

    Returns
    -------
    ndarray
    """
    found = growing_like(*arrays, dtype=dtype)
    for one in arrays:
        found.add(one)
        forget(one)
    return found.array()
