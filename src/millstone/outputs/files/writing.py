"""Safe writing: whole or not at all, and never over a file that is not millstone's own."""

import os
from collections.abc import Callable, Collection, Iterable, Mapping
from contextlib import suppress
from pathlib import Path

from millstone.core.base.errors import DataError, UsageError
from millstone.outputs.disk.ledger import LEDGER, RESULTS, read_ledger, sha256_of
from millstone.outputs.disk.locks import LOCK, locked, uninterrupted
from millstone.outputs.disk.staging import ROOM, Content, StagedWrite, place_all, workroom_in, workrooms


class Outputs:
    """The files one run writes.

    ``claim`` each path before any work, which raises when it must not be written; ``add`` the
    content; ``commit`` writes all of them. Each folder keeps a ledger of what millstone wrote
    there with its SHA-256, by which files of others and edited results are known. Folders
    `to_be_made` need not be there when a path in them is claimed; they are made with the first file.
    `kind` says under what the ledger lists the files.
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

    def claim_folder(self, folder: Path) -> None:
        """Check that files can be written to a folder, which is made with them where it is missing.

        Raises
        ------
        DataError
        """
        _check_may_be_made(folder)
        self._to_be_made.add(folder.resolve())

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
        if path.name.casefold() in (LEDGER, LOCK) or path.name.casefold().startswith(ROOM):
            raise UsageError(
                f"{path} is a name that millstone keeps for its own records", "give the output another name"
            )
        if path.is_symlink() and not path.exists():
            raise DataError(f"{path} is a link to {place}, which is not there", "remove it, or name another file")
        if place in self._claimed:
            raise UsageError(f"two outputs are the same file: {path}", "give each output its own name")
        if any(_is_same(path, one) for one in self._protected) or (path.exists() and self._is_input(path)):
            raise UsageError(f"the output {path} is one of the inputs", "give the output another name")
        if place.parent in self._to_be_made and not place.parent.exists():
            _check_may_be_made(path.parent)
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
        written = read_ledger(path.parent).sums_of(path.name)
        remedy = "move it, or name another output; --force overwrites it"
        if not written:
            raise DataError(f"{path} already exists and was not written by millstone", remedy)
        if sha256_of(path) not in written:
            raise DataError(f"{path} was edited since millstone wrote it", remedy)

    def _is_own(self, path: Path) -> bool:
        """Whether the file that is there is as millstone wrote it."""
        sums = read_ledger(path.parent).settled(path.parent).sums_of(path.name)
        return len(sums) == 1 and sha256_of(path) == sums[0]

    def add(self, path: Path, content: Content) -> None:
        """Add the content of a claimed path: bytes, or what writes a large file piece by piece."""
        self._content[path] = content

    def commit(self) -> list[Path]:
        """Write everything added, and the ledgers.

        Raises
        ------
        DataError
            When something cannot be written, or a ledger is damaged; then no output has changed.
        """
        if not self._content:
            return []
        made = self._made_folders()
        try:
            with workrooms() as rooms:
                for path, content in self._content.items():
                    workroom_in(rooms, path.parent.resolve()).write(path.name, content)
                with locked(rooms), uninterrupted():
                    self._place(rooms)
        except BaseException as error:
            for folder in reversed(made):
                with suppress(OSError):
                    folder.rmdir()
            if isinstance(error, OSError):
                raise _cannot_be_written(error) from error
            raise
        written = list(self._content)
        self._content = {}
        return written

    def _made_folders(self) -> list[Path]:
        """The folders that had to be made, the outer ones first."""
        missing: dict[Path, None] = {}
        for folder in {path.parent for path in self._content}:
            missing |= dict.fromkeys(one for one in (folder, *folder.parents) if not one.exists())
            make_folder(folder)
        return sorted(missing, key=lambda one: len(one.parts))

    def _place(self, rooms: Mapping[Path, StagedWrite]) -> None:
        new = []
        for path in self._content:
            before, now = self._claimed.get(path.resolve()), _state_of(path.resolve())
            # another run of millstone may have been quicker: this one then writes as if it had been started after it
            if before != now and (now is None or not self._is_own(path)):
                raise _was_changed(path)
            if now is None:
                new.append(path.parent.resolve() / path.name)
        try:
            place_all(list(rooms.values()), self._kind, new)
        except FileExistsError as error:
            raise _was_changed(Path(str(error.filename2 or error.filename))) from error


def _cannot_be_written(error: OSError) -> DataError:
    return DataError(
        f"{error.filename or 'the output'} cannot be written: {(error.strerror or str(error)).lower()}",
        "nothing was changed; free some disk space or write to another folder",
    )


_State = tuple[int, int, int] | None


def _state_of(path: Path) -> _State:
    """Marks by which a changed file is recognised; None where there is no file."""
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


def _check_may_be_made(folder: Path) -> None:
    """Raise DataError where a folder is not there and cannot be made, or cannot be written to."""
    place = next(one for one in (folder.resolve(), *folder.resolve().parents) if one.exists())
    if not place.is_dir():
        raise DataError(f"the folder {folder} cannot be created: {place} is a file", "name another folder")
    if not os.access(place, os.W_OK):
        raise DataError(f"the folder {place} is read-only", "write to another folder")


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
