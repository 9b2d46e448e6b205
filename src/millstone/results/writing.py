"""Safe writing: whole or not at all, and never over a file that is not millstone's own."""

import hashlib
import json
import os
import tempfile
from collections.abc import Callable, Collection, Mapping
from pathlib import Path
from typing import BinaryIO

from millstone.core.errors import DataError, UsageError
from millstone.core.result import LEDGER

Content = bytes | Callable[[BinaryIO], None]


class Outputs:
    """The files one run writes.

    ``claim`` each path before any work, which raises when it must not be written; ``add`` the
    content; ``commit`` writes all of them. Each folder keeps a ledger of what millstone wrote
    there with its SHA-256, by which files of others and edited results are known. Folders
    `to_be_made` need not be there when a path in them is claimed.
    """

    def __init__(
        self, force: bool = False, protected: Collection[Path] = (), to_be_made: Collection[Path] = ()
    ) -> None:
        self._force = force
        self._to_be_made = {path.resolve() for path in to_be_made}
        self._protected = {path.resolve() for path in protected}
        self._claimed: set[Path] = set()
        self._content: dict[Path, Content] = {}

    def claim(self, path: Path) -> None:
        """Check that a path can be written.

        Raises
        ------
        UsageError
            When two outputs, or an input and an output, are the same file.
        DataError
            When the folder does not exist, the path is a folder, or the file there is not
            millstone's own or was edited since, and not `force`.
        """
        place = path.resolve()
        if place in self._claimed:
            raise UsageError(f"two outputs are the same file: {path}", "give each output its own name")
        if place in self._protected:
            raise UsageError(f"the output {path} is one of the inputs", "give the output another name")
        if place.parent in self._to_be_made and not place.parent.exists():
            self._claimed.add(place)
            return
        if not place.parent.is_dir():
            raise DataError(f"there is no folder {path.parent} to write {path.name} to", "make it first")
        if place.is_dir():
            raise DataError(f"{path} is a folder", "name a file in it")
        if not os.access(place.parent, os.W_OK):
            raise DataError(f"the folder {path.parent} is read-only", "write to another folder")
        if place.exists() and not self._force:
            self._check_own(path)
        self._claimed.add(place)

    def _check_own(self, path: Path) -> None:
        written = _ledger(path.parent).get(path.name)
        remedy = "move it, or name another output; --force overwrites it"
        if written is None:
            raise DataError(f"{path} is there already and was not written by millstone", remedy)
        if written != _sha256_of(path):
            raise DataError(f"{path} was edited since millstone wrote it", remedy)

    def add(self, path: Path, content: Content) -> None:
        """Add the content of a claimed path: bytes, or what writes a large file piece by piece."""
        self._content[path] = content

    def commit(self) -> list[Path]:
        """Write everything added, and the ledgers.

        Raises
        ------
        DataError
            When something cannot be written; then no output has changed.
        """
        waiting: dict[Path, Path] = {}
        try:
            for path, content in self._content.items():
                waiting[path] = _write_aside(path, content)
            for path, ledger in _ledgers(waiting).items():
                waiting[path] = _write_aside(path, ledger)
            for path, aside in waiting.items():
                aside.replace(path)
        except OSError as error:
            name = error.filename or "the output"
            raise DataError(
                f"{name} cannot be written: {(error.strerror or str(error)).lower()}",
                "nothing was changed; make room or write to another folder",
            ) from error
        finally:
            for aside in waiting.values():
                aside.unlink(missing_ok=True)
        written = list(self._content)
        self._content = {}
        return written


def _ledgers(waiting: Mapping[Path, Path]) -> dict[Path, bytes]:
    """The ledger of each folder, with what waits beside the paths that it will be written to."""
    found = {}
    for folder in {path.parent for path in waiting}:
        here = {path.name: _sha256_of(aside) for path, aside in waiting.items() if path.parent == folder}
        content = {"written by millstone": dict(sorted({**_ledger(folder), **here}.items()))}
        found[folder / LEDGER] = (json.dumps(content, ensure_ascii=False, indent=1) + "\n").encode("utf-8")
    return found


def make_folder(folder: Path) -> None:
    """Make a folder for outputs, and those above it, where they are missing.

    Raises
    ------
    DataError
        When it cannot be made.
    """
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise DataError(
            f"the folder {folder} cannot be made: {(error.strerror or str(error)).lower()}",
            "name a folder in a place you may write to",
        ) from error


def _write_aside(path: Path, content: Content) -> Path:
    descriptor, name = tempfile.mkstemp(prefix=f".{path.name}.", suffix=".part", dir=path.parent)
    try:
        with os.fdopen(descriptor, "wb") as aside:
            if callable(content):
                content(aside)
            else:
                aside.write(content)
            aside.flush()
            os.fsync(aside.fileno())
        mask = os.umask(0)
        os.umask(mask)
        Path(name).chmod(0o666 & ~mask)
    except OSError as error:
        Path(name).unlink(missing_ok=True)
        error.filename = str(path)
        raise
    return Path(name)


def _ledger(folder: Path) -> dict[str, str]:
    try:
        return dict(json.loads((folder / LEDGER).read_text("utf-8"))["written by millstone"])
    except (OSError, ValueError, KeyError, TypeError):
        return {}


def _sha256_of(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()
