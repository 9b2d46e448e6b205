"""Files as they lie on the disk: opened, hashed, unpacked within limits, watched while they are read."""

import gzip
import hashlib
import io
import os
import stat
import sys
import tempfile
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from functools import cache
from pathlib import Path
from typing import BinaryIO, cast

from millstone.core.base.addresses import is_address
from millstone.core.base.errors import DataError
from millstone.core.base.wording import nearest, numbered
from millstone.outputs.disk.ledger import sha256_of
from millstone.texts.inputs.finding.remote import Far, mark_of, path_of, reached
from millstone.texts.inputs.provenance import Provenance, SourceFile

GZ = ".gz"
STANDARD_INPUT = "-"
"""How the path of standard input is written."""
_CHUNK = 1 << 20
LONG = 4 << 20
# what unpacks to more than this, and to more than so many times its size, is not taken for a text
_LARGE = 64 << 20
_RATIO = 200


def at_home(path: str | Path) -> Path:
    """A path with ``~`` and ``~name`` in full; as it is where there is no such user."""
    return Path(os.path.expanduser(path))  # noqa: PTH111 (the other way fails for a user that is not there)


def ending_of(path: Path | str) -> str:
    """The ending that gives the format: ``.csv`` of ``book.csv`` and of ``book.csv.gz``."""
    name = str(path).lower().removesuffix(GZ)
    stem, _, ending = name.rpartition(os.sep)[2].rpartition(".")
    return f".{ending}" if stem and ending else ""


def stem_of(path: Path) -> str:
    """The name without the ending that gives the format."""
    return Path(path.stem).stem if path.suffix.lower() == GZ else path.stem


def is_long(path: Path) -> bool:
    """Whether a text should not be read in one piece; what is packed is taken for three times as long."""
    if str(path) == STANDARD_INPUT:
        return standard_input().size > LONG
    with _faults_of(path):
        return path.stat().st_size * (3 if path.suffix.lower() == GZ else 1) > LONG


def read_bytes(path: Path) -> bytes:
    """The bytes of a small file, such as a word list.

    Raises
    ------
    DataError
    """
    with _faults_of(path):
        return path.read_bytes()


@contextmanager
def watched(path: Path, provenance: Provenance) -> Iterator[None]:
    """Records in `provenance` the file read in this block.

    Raises
    ------
    DataError
        When it cannot be read, or was changed before the reading was done.
    """
    if str(path) == STANDARD_INPUT:
        provenance.files.append(standard_input())
        yield
        return
    with _faults_of(path):
        before = path.stat()
        path.open("rb").close()
    yield
    _check_unchanged(path, before)
    provenance.files.append(_as_read(path, before))


def status_of(path: str) -> SourceFile:
    """A file as it is now.

    Raises
    ------
    DataError
    """
    with _faults_of(path):
        # once per file of a large folder
        status = path_of(path).stat() if is_address(path) else os.stat(path)  # noqa: PTH116
    if not stat.S_ISREG(status.st_mode):
        raise not_regular(path)
    return _as_read(path, status)


def not_regular(path: Path | str) -> DataError:
    """The error of a pipe or a device that is named as a file: it may never end."""
    return DataError(
        f"{path} is not a regular file", "name a text or a table; what comes through a pipe is read as -"
    )


def _as_read(path: Path | str, status: os.stat_result) -> SourceFile:
    mark = mark_of(status) if is_address(str(path)) else status.st_ino
    return SourceFile(str(path), status.st_size, status.st_mtime_ns, mark)


def hashed(file: SourceFile) -> SourceFile:
    """A file that was read, with its SHA-256.

    Raises
    ------
    DataError
        When it was changed since.
    """
    if file.sha256:
        return file
    path = path_of(file.path)
    with _faults_of(path):
        found = sha256_of(path)
        status = path.stat()
    if _as_read(file.path, status) != file:
        raise _was_changed(path)
    return replace(file, sha256=found)


def read_source(path: Path, provenance: Provenance) -> bytes:
    """The content of a text, unpacked when it is a ``.gz``; noted in `provenance`.

    Raises
    ------
    DataError
        When it cannot be read, is changed meanwhile, or expands beyond all measure.
    """
    if str(path) == STANDARD_INPUT:
        provenance.files.append(standard_input())
        return open_source(path).read()
    with _faults_of(path):
        before = path.stat()
        data = path.read_bytes()
    _check_unchanged(path, before)
    provenance.files.append(_as_read(path, before))
    if path.suffix.lower() != GZ:
        return data
    with _faults_of(path), gzip.GzipFile(fileobj=io.BytesIO(data)) as packed:
        return _Limited(packed, path, len(data)).read()


def open_source(path: Path) -> io.BufferedReader:
    """A file open for reading piece by piece, unpacked when it is a ``.gz``.

    Raises
    ------
    DataError
    """
    if str(path) == STANDARD_INPUT:
        return io.BufferedReader(_Again(_spooled()[1]), _CHUNK)
    with _faults_of(path):
        if path.suffix.lower() == GZ:
            packed = gzip.GzipFile(fileobj=path.open("rb"))
            return io.BufferedReader(_Limited(packed, path, path.stat().st_size), _CHUNK)
        file = path.open("rb")
    return io.BufferedReader(Far(file, str(path)), _CHUNK) if is_address(str(path)) else file


def standard_input() -> SourceFile:
    """Standard input as a file named ``-``: its bytes and their SHA-256.

    Raises
    ------
    DataError
        When it is closed.
    """
    return _spooled()[0]


@cache
def _spooled() -> tuple[SourceFile, BinaryIO]:
    """Standard input, which can be read once and may be asked for several times; kept on disk where it is long."""
    if sys.stdin is None:
        raise DataError("standard input is closed", "name a file, or send the text through a pipe")
    # open until the program ends
    kept = tempfile.SpooledTemporaryFile(LONG)  # noqa: SIM115
    digest, size = hashlib.sha256(), 0
    while chunk := sys.stdin.buffer.read(_CHUNK):
        kept.write(chunk)
        digest.update(chunk)
        size += len(chunk)
    return SourceFile(STANDARD_INPUT, size, sha256=digest.hexdigest()), cast("BinaryIO", kept)


class _Again(io.RawIOBase):
    """A file from its beginning, whoever reads it meanwhile."""

    def __init__(self, file: BinaryIO) -> None:
        self._file, self._at = file, 0

    def readable(self) -> bool:
        return True

    def readinto(self, buffer: memoryview) -> int:  # type: ignore[override]
        self._file.seek(self._at)
        data = self._file.read(len(buffer))
        self._at += len(data)
        buffer[: len(data)] = data
        return len(data)


class _Limited(io.RawIOBase):
    """Reads what is unpacked, and stops when it is out of all proportion."""

    def __init__(self, inner: gzip.GzipFile, path: Path, packed: int) -> None:
        self._inner, self._path, self._packed, self._seen = inner, path, packed, 0

    def readable(self) -> bool:
        return True

    def readinto(self, buffer: memoryview) -> int:  # type: ignore[override]
        with _faults_of(self._path):
            data = self._inner.read(len(buffer))
        self._seen += len(data)
        check_expansion(self._path, self._packed, self._seen)
        buffer[: len(data)] = data
        return len(data)


def for_library(path: Path) -> Path | io.BufferedReader:
    """A source that a library can open: the path of a file here, one elsewhere as an open file."""
    return open_source(path) if is_address(str(path)) else path


def open_archive(path: Path, kind: str) -> zipfile.ZipFile:
    """A zipped document, its expansion checked.

    Raises
    ------
    DataError
        When it is not such an archive, or expands beyond all measure.
    """
    with _faults_of(path):
        try:
            archive = zipfile.ZipFile(for_library(path))
        except zipfile.BadZipFile as error:
            raise DataError(
                f"{path} is not a valid {kind} file: it is damaged, encrypted, or not what its name says",
                f"open it in the program that made it and save it again as {kind}",
            ) from error
    check_expansion(path, path.stat().st_size, sum(one.file_size for one in archive.infolist()))
    return archive


def check_expansion(path: Path, packed: int, unpacked: int) -> None:
    """Raise DataError where so many bytes unpack to more than any text does."""
    if unpacked > max(_LARGE, _RATIO * packed):
        raise DataError(
            f"{path} unpacks to more than {_RATIO} times its {numbered(packed, 'byte')}; refusing to read it as text",
            "if you trust it, unpack it yourself, or save it as .csv or .txt, and read that",
        )


def _check_unchanged(path: Path, before: os.stat_result) -> None:
    with _faults_of(path):
        after = path.stat()
    if (after.st_size, after.st_mtime_ns) != (before.st_size, before.st_mtime_ns):
        raise _was_changed(path)


def _was_changed(path: Path) -> DataError:
    return DataError(f"{path} was changed while it was being read", "run the command again when nothing writes to it")


@contextmanager
def _faults_of(path: Path | str) -> Iterator[None]:
    """Turns faults of reading into messages that say how to fix them."""
    try:
        yield
    except gzip.BadGzipFile as error:
        raise DataError(
            f"{path} is not a gzip file: {error}", "compress it again, or remove .gz from its name"
        ) from error
    except EOFError as error:
        raise DataError(f"{path} is cut off in the middle", "compress it again") from error
    except Exception as error:
        if is_address(str(path)):
            with reached(str(path)):
                raise
        if not isinstance(error, OSError):
            raise
        raise DataError(
            f"{path} cannot be read: {(error.strerror or str(error)).lower()}",
            "check that the file is still there and that you may read it",
        ) from error


def existing(path: Path, what: str) -> Path:
    """The path, when there is such a file.

    Raises
    ------
    DataError
        Names the file of the nearest name.
    """
    if path.is_file():
        return path
    around = [one.name for one in path.parent.iterdir()] if path.parent.is_dir() else []
    raise DataError(f"there is no {what} {path}{nearest(path.name, around)}", "check the spelling and the folder")
