"""A hidden room in a folder, where files are finished before they get their names all together."""

import os
import re
import tempfile
import time
from collections.abc import Callable, Collection, Iterator, Sequence
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import BinaryIO

from millstone.outputs.disk.ledger import LEDGER, Ledger, read_ledger, results_in, sha256_of
from millstone.outputs.disk.locks import lock, locked, uninterrupted, unlock

Content = bytes | Callable[[BinaryIO], None]
"""The content of a file: bytes, or a function that writes a large one piece by piece."""

ROOM = ".millstone-room-"
"""How the name of a room begins."""
_ROOM = re.compile(rf"({re.escape(ROOM)}\w{{8}})(\.lock)?")
_DAY = 86_400
_BEFORE, _BEGUN, _ENDED = "before", "begun", "ended"


class StagingDir:
    """A hidden room in a folder, to finish files in; its lock shows that its run is alive.

    It is made under the lock of the folder, and while nothing may interrupt: one that nobody knows of would stay.

    Raises
    ------
    OSError
        When it cannot be made; names the folder.
    """

    def __init__(self, folder: Path) -> None:
        try:
            self.path = Path(tempfile.mkdtemp(prefix=ROOM, dir=folder))
        except OSError as error:
            error.filename = str(folder)
            raise
        self._lock = lock(lock_file_of(self.path))

    def close(self) -> None:
        """Take the room away, with what is still in it."""
        remove_files(self.path)
        unlock(self._lock)


@contextmanager
def room_in(folder: Path) -> Iterator[StagingDir]:
    """A room in a folder, taken away at the end with what is still in it.

    Rooms of runs that were killed are swept first.

    Raises
    ------
    OSError
        When it cannot be made; names the folder.
    """
    room = None
    try:
        with locked([folder]):
            sweep(folder)
            with uninterrupted():
                room = StagingDir(folder)
        yield room
    finally:
        if room is not None:
            with uninterrupted():
                room.close()


def sweep(folder: Path) -> None:
    """Take away the rooms of runs that were killed: no one holds their locks.

    Raises
    ------
    OSError
        When the folder cannot be read.
    """
    with os.scandir(folder) as entries:
        names = [_ROOM.fullmatch(one.name) for one in entries]
    for room in {folder / one[1] for one in names if one is not None}:
        with suppress(OSError):
            held = lock(lock_file_of(room), wait=False)
            if not room.is_symlink() and (held is not None or time.time() - room.stat().st_mtime > _DAY):
                remove_files(room)
            unlock(held)


def lock_file_of(room: Path) -> Path:
    """The file that is locked as long as the run of a room is alive; beside it, for a room may get another name."""
    return room.with_name(f"{room.name}.lock")


def remove_files(folder: Path, ours: Callable[[str], bool] = lambda name: True) -> None:
    """Take away the files of a folder that are `ours`, and the folder once it is empty; no link is followed."""
    with suppress(OSError):
        with os.scandir(folder) as entries:
            names = [one.name for one in entries if ours(one.name)]
        for name in names:
            with suppress(OSError):
                (folder / name).unlink()
        folder.rmdir()


@contextmanager
def _temporary_files_in(folder: Path) -> Iterator[None]:
    before, tempfile.tempdir = tempfile.tempdir, str(folder)
    try:
        yield
    finally:
        tempfile.tempdir = before


class StagedWrite:
    """The room of one run in one folder.

    ``write`` finishes a file; then, under `locked`, ``prepare`` makes the ledgers, ``begin``, ``place`` and ``end``
    put everything where it belongs, and ``rollback`` undoes that.

    Parameters
    ----------
    folder : Path
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._sums: dict[str, str] = {}
        self._files: dict[str, Path] = {}
        self._placed: dict[str, bool] = {}
        self._aside = StagingDir(folder)
        self._room = self._aside.path

    def write(self, name: str, content: Content) -> None:
        """Finish a file that is to have this name; errors of the system name the path it is for."""
        path = self._room / f"{len(self._files)}.part"
        self._files[name] = path
        try:
            # what a library puts aside meanwhile goes with the room
            with path.open("xb") as file, _temporary_files_in(self._room):
                if callable(content):
                    content(file)
                else:
                    file.write(content)
                file.flush()
                os.fsync(file.fileno())
        except OSError as error:
            error.filename = str(self.folder / name)
            raise
        self._sums[name] = sha256_of(path)

    def prepare(self, kind: str) -> None:
        """Make the ledgers for the time in which files get their names, and for the time after; `kind` as there."""
        known = read_ledger(self.folder).settled(self.folder)
        self._ledger(_BEGUN, known.beginning(kind, self._sums))
        self._ledger(_ENDED, known.ended(kind, self._sums))
        for name in (LEDGER, *self._files):
            self._keep(name)

    def _ledger(self, name: str, ledger: Ledger) -> None:
        with (self._room / name).open("xb") as file:
            file.write(ledger.as_json())
            file.flush()
            os.fsync(file.fileno())

    def _keep(self, name: str) -> None:
        """Keep what has this name now, as long as it may be wanted back."""
        with suppress(OSError):
            # some file systems have no second names
            os.link(self.folder / name, self._kept(name))

    def _kept(self, name: str) -> Path:
        return self._room / (_BEFORE if name == LEDGER else f"{self._files[name].stem}.{_BEFORE}")

    def begin(self) -> None:
        """From now on the ledger says that each file may be as it was or as it will be."""
        self._put(self._room / _BEGUN, LEDGER)

    def place(self, new: Collection[str]) -> None:
        """Rename all files into place; never overwrite a file that appeared since it was claimed.

        Raises
        ------
        FileExistsError
            When a new name is taken.
        OSError
        """
        for name, path in self._files.items():
            if name not in new:
                self._put(path, name)
                continue
            try:
                os.link(path, self.folder / name)
                self._placed[name] = False
            except FileExistsError:
                raise
            except OSError:
                # a file system without second names
                if (self.folder / name).exists():
                    raise FileExistsError(None, "exists", str(self.folder / name)) from None
                self._put(path, name)

    def end(self) -> None:
        """From now on the ledger says what each file is."""
        self._put(self._room / _ENDED, LEDGER)
        results_in.cache_clear()

    def _put(self, path: Path, name: str) -> None:
        was_there = (self.folder / name).exists()
        path.replace(self.folder / name)
        self._placed[name] = self._placed.get(name, was_there)

    def rollback(self) -> None:
        """Undo what was placed, as far as the file system knows second names."""
        for name, was_there in reversed(self._placed.items()):
            kept = self._kept(name)
            with suppress(OSError):
                if kept.exists():
                    kept.replace(self.folder / name)
                elif not was_there:
                    (self.folder / name).unlink()

    def close(self) -> None:
        """Take the room away, with what is still in it."""
        self._aside.close()


def workroom_in(rooms: dict[Path, StagedWrite], folder: Path) -> StagedWrite:
    """The room of this run in a folder, made when it is first asked for.

    Raises
    ------
    OSError
        When it cannot be made; names the folder.
    """
    if folder not in rooms:
        with locked([folder]):
            sweep(folder)
            with uninterrupted():
                rooms[folder] = StagedWrite(folder)
    return rooms[folder]


@contextmanager
def workrooms() -> Iterator[dict[Path, StagedWrite]]:
    """Folder -> its room, to be filled by `workroom_in`; all are taken away at the end."""
    rooms: dict[Path, StagedWrite] = {}
    try:
        yield rooms
    finally:
        with uninterrupted():
            for room in rooms.values():
                room.close()


def place_all(rooms: Sequence[StagedWrite], kind: str, new: Collection[Path]) -> None:
    """Give the files of all rooms their names, or none; the folders are locked, and nothing interrupts.

    Raises
    ------
    FileExistsError
        When one of the `new` paths is taken.
    OSError
    DataError
        When a ledger cannot be read.
    """
    try:
        for room in rooms:
            room.prepare(kind)
        for room in rooms:
            room.begin()
        for room in rooms:
            room.place({path.name for path in new if path.parent == room.folder})
        for room in rooms:
            room.end()
    except BaseException:
        for room in rooms:
            room.rollback()
        raise
