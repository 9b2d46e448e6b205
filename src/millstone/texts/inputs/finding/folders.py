"""Folders: the files below one, each real folder once, whatever links lead there."""

import os
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from millstone.core.base.errors import DataError
from millstone.core.corpus.corpus import natural_key

_Identity = tuple[int, int]


def files_below(folder: Path, recursive: bool, passed_over: Callable[[str, str], None]) -> list[str]:
    """All files below a folder in natural order; linked folders are entered, but each real folder once.

    They are strings, since there may be a hundred thousand; each begins with the folder as it is given.

    Raises
    ------
    DataError
        When a folder cannot be read.
    """
    found: list[str] = []
    # a folder is read where it lies, and only then by links to it
    waiting, links = [(str(folder), frozenset[_Identity](), 0)], list[tuple[str, frozenset[_Identity], int]]()
    seen: set[_Identity] = set()
    while waiting or links:
        if not waiting:
            links.sort(key=lambda link: natural_key(link[0].replace(os.sep, "/")))
            waiting.append(links.pop(0))
        here, above, depth = waiting.pop()
        status = _folder_status(here)
        identity = (status.st_dev, status.st_ino)
        if identity in seen:
            passed_over(
                here, f"a link {'back to a folder above it' if identity in above else 'to a folder read before'}"
            )
            continue
        seen.add(identity)
        for one in _entries(here):
            if one.is_dir() and (recursive or depth == 0):
                (links if one.is_symlink() else waiting).append((one.path, above | {identity}, depth + 1))
            elif not one.is_dir() and (one.is_file() or _leads_nowhere(one)):
                found.append(one.path)
            elif not one.is_dir():
                passed_over(one.path, "not a regular file")
    return sorted(found, key=lambda path: natural_key(path.replace(os.sep, "/")))


def _leads_nowhere(one: os.DirEntry[str]) -> bool:
    """Whether it is a link to what is not there, which whoever reads it says."""
    return one.is_symlink() and not Path(one.path).exists()


def _folder_status(folder: str) -> os.stat_result:
    with _faults_of_folder(folder):
        return Path(folder).stat()


def _entries(folder: str) -> list[os.DirEntry[str]]:
    with _faults_of_folder(folder), os.scandir(folder) as entries:
        # the order of a file system is nobody's
        return sorted(entries, key=lambda one: one.name)


@contextmanager
def _faults_of_folder(folder: str) -> Iterator[None]:
    try:
        yield
    except OSError as error:
        raise DataError(
            f"the folder {folder} cannot be read: {(error.strerror or str(error)).lower()}",
            "check that you may read it",
        ) from error


def identity_of(path: Path) -> tuple[int, int] | str:
    """The identity of a file, the same for all its names and links."""
    try:
        status = path.stat()
    except OSError:
        return str(path)
    return (status.st_dev, status.st_ino) if status.st_ino else str(path.resolve())
