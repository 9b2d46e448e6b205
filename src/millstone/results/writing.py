"""Safe writing: whole or not at all, and never over a file that is not millstone's own."""

import hashlib
import json
import os
import tempfile
from collections.abc import Callable, Collection, Iterable, Mapping
from pathlib import Path
from typing import BinaryIO

from millstone.core.errors import DataError, UsageError
from millstone.core.result import LEDGER, RESULTS, SAMPLES

Content = bytes | Callable[[BinaryIO], None]


class Outputs:
    """The files one run writes.

    ``claim`` each path before any work, which raises when it must not be written; ``add`` the
    content; ``commit`` writes all of them. Each folder keeps a ledger of what millstone wrote
    there with its SHA-256, by which files of others and edited results are known. Folders
    `to_be_made` need not be there when a path in them is claimed. `kind` says under what the ledger lists the files.
    The `protected` files, and those that `is_input` says are read, are never written to, by whatever name or link.
    """

    def __init__(
        self,
        force: bool = False,
        protected: Collection[Path] = (),
        to_be_made: Collection[Path] = (),
        kind: str = RESULTS,
        is_input: Callable[[Path], bool] = lambda path: False,
    ) -> None:
        self._force = force
        self._kind = kind
        self._to_be_made = {path.resolve() for path in to_be_made}
        self._protected = list(protected)
        self._is_input = is_input
        self._claimed: dict[Path, _State] = {}
        self._content: dict[Path, Content] = {}

    def protect(self, paths: Iterable[Path]) -> None:
        """Let no path that is claimed from now on be one of these files."""
        self._protected += paths

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
        if any(_is_same(path, one) for one in self._protected) or (path.exists() and self._is_input(path)):
            raise UsageError(f"the output {path} is one of the inputs", "give the output another name")
        if place.parent in self._to_be_made and not place.parent.exists():
            self._claimed[place] = None
            return
        if not place.parent.is_dir():
            raise DataError(f"there is no folder {path.parent} to write {path.name} to", "create it first")
        if place.is_dir():
            raise DataError(f"{path} is a folder", "name a file in it")
        if not os.access(place.parent, os.W_OK):
            raise DataError(f"the folder {path.parent} is read-only", "write to another folder")
        if place.exists() and not self._force:
            self._check_own(path)
        self._claimed[place] = _state_of(place)

    def _check_own(self, path: Path) -> None:
        written = next((files[path.name] for files in _ledger(path.parent).values() if path.name in files), None)
        remedy = "move it, or name another output; --force overwrites it"
        if written is None:
            raise DataError(f"{path} already exists and was not written by millstone", remedy)
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
            for path, ledger in _ledgers(waiting, self._kind).items():
                waiting[path] = _write_aside(path, ledger)
            for path in self._content:
                if _state_of(path.resolve()) != self._claimed.get(path.resolve()):
                    raise _was_changed(path)
            for path, aside in waiting.items():
                _put(aside, path, is_new=path in self._content and self._claimed.get(path.resolve()) is None)
        except OSError as error:
            name = error.filename or "the output"
            raise DataError(
                f"{name} cannot be written: {(error.strerror or str(error)).lower()}",
                "nothing was changed; free some disk space or write to another folder",
            ) from error
        finally:
            for aside in waiting.values():
                aside.unlink(missing_ok=True)
        written = list(self._content)
        self._content = {}
        return written


_State = tuple[int, int, int] | None


def _state_of(path: Path) -> _State:
    """What shows whether a file is still the same; None where there is none."""
    try:
        status = path.stat()
    except OSError:
        return None
    return status.st_ino, status.st_size, status.st_mtime_ns


def _is_same(path: Path, other: Path) -> bool:
    """Whether two paths lead to one file, by links of either kind too."""
    if path.resolve() == other.resolve():
        return True
    try:
        return path.samefile(other)
    except OSError:
        return False


def _was_changed(path: Path) -> DataError:
    return DataError(
        f"{path} was written by another program meanwhile", "nothing was changed; run the command again, or rename it"
    )


def _put(aside: Path, path: Path, is_new: bool) -> None:
    """Give a finished file its name; where there was none before, never in place of what has come since."""
    if not is_new:
        aside.replace(path)
        return
    try:
        os.link(aside, path)
    except FileExistsError as error:
        raise _was_changed(path) from error
    except OSError:
        # a file system without links
        if path.exists():
            raise _was_changed(path) from None
        aside.replace(path)
        return
    aside.unlink()


def _ledgers(waiting: Mapping[Path, Path], kind: str) -> dict[Path, bytes]:
    """The ledger of each folder, with what waits beside the paths that it will be written to."""
    found = {}
    for folder in {path.parent for path in waiting}:
        here = {path.name: _sha256_of(aside) for path, aside in waiting.items() if path.parent == folder}
        before = _ledger(folder)
        content = {
            name: dict(sorted({**before.get(name, {}), **here}.items() if name == kind else before[name].items()))
            for name in (RESULTS, SAMPLES)
            if name == kind or before.get(name)
        }
        found[folder / LEDGER] = _as_json(content)
    return found


def _as_json(content: object) -> bytes:
    # a name that is not UTF-8 becomes an escape that JSON reads back
    return (json.dumps(content, ensure_ascii=False, indent=1) + "\n").encode("utf-8", "backslashreplace")


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
            f"the folder {folder} cannot be created: {(error.strerror or str(error)).lower()}",
            "name a folder where you may write",
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


def _ledger(folder: Path) -> dict[str, dict[str, str]]:
    try:
        content = json.loads((folder / LEDGER).read_text("utf-8"))
        return {name: dict(content[name]) for name in (RESULTS, SAMPLES) if name in content}
    except (OSError, ValueError, TypeError):
        return {}


def _sha256_of(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()
