"""Texts that lie elsewhere, named by an address such as ``s3://bucket/folder``, reached by the library for it."""

import hashlib
import io
import os
import re
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, cast

from millstone.core.base.addresses import CREDENTIALS, PROTOCOLS, holds_secret, is_address, protocol_of
from millstone.core.base.errors import DataError, MillstoneError, UsageError
from millstone.core.base.wording import nearest
from millstone.core.corpus.corpus import natural_key


def check_address(name: str) -> None:
    """Raise UsageError for an address that must not be printed, or whose kind is not read."""
    kind = protocol_of(name)
    if holds_secret(name):
        raise UsageError(
            f"{kind if kind in PROTOCOLS else ''}://...: an address must not hold a user, a password or a key",
            f"leave it out: {CREDENTIALS}",
        )
    if kind.lower() not in PROTOCOLS:
        raise UsageError(
            f"addresses of the kind {kind}:// are not read{nearest(kind, PROTOCOLS)}",
            f"the kinds are {', '.join(PROTOCOLS)}; copy the texts to a folder or a store of one of these",
        )


def path_of(name: str) -> Path:
    """The path, or what behaves like one, that a name of a file stands for.

    Raises
    ------
    UsageError
        For an address with a password in it, of an unsupported kind, or for which a package is missing.
    """
    if not is_address(name):
        return Path(name)
    check_address(name)
    try:
        from upath import UPath
    except ImportError as error:
        raise UsageError(
            f"{name}: reading from an address needs packages that are not installed",
            "install them with: pip install 'millstone-corpus[remote]'",
        ) from error
    with reached(name):
        found = UPath(name)
        # what a package is missing for is seen when the file system is asked for
        found.fs  # noqa: B018
    return Path(found.path) if found.protocol in ("file", "local") else cast("Path", found)


@contextmanager
def reached(name: str) -> Iterator[None]:
    """Turns what a library raises while it goes to an address into a message, in which nothing secret can be.

    Raises
    ------
    DataError
    """
    try:
        yield
    except (MillstoneError, MemoryError):
        raise
    except ImportError as error:
        raise UsageError(
            f"{name}: a package for such addresses is not installed: {error.msg}", "install it with pip"
        ) from error
    except FileNotFoundError as error:
        raise DataError(f"there is no file or folder {name}", "check the spelling") from error
    except PermissionError as error:
        raise DataError(
            f"{name} cannot be read: access is denied", f"check the credentials: {CREDENTIALS}"
        ) from error
    except Exception as error:
        said = error.strerror if isinstance(error, OSError) and error.strerror else type(error).__name__
        raise DataError(
            f"{name} cannot be read: {said.lower() if isinstance(error, OSError) else said}",
            f"check the address, the connection, and the password or key: {CREDENTIALS}",
        ) from error


def is_there(path: Path) -> bool:
    """Whether there is a file or folder elsewhere; what a library says when it cannot see is not taken for a no."""
    try:
        path.stat()
    except FileNotFoundError:
        return False
    return True


def named_by(pattern: str) -> list[Path]:
    """The files and folders elsewhere that a pattern with ``* ? **`` names, in natural order."""
    above = re.split(r"[*?\[]", pattern)[0].rpartition("/")[0]
    folder = path_of(above)
    with reached(pattern):
        return sorted(folder.glob(pattern[len(above) + 1 :]), key=lambda one: natural_key(str(one)))


def remote_files_below(folder: Path, recursive: bool) -> list[str]:
    """All files below a folder elsewhere in natural order; each begins with the folder as it is given.

    Raises
    ------
    DataError
    """
    above, system = str(folder).rstrip("/"), _system(folder)
    with reached(above):
        inside = system._strip_protocol(above).rstrip("/")
        found = system.find(inside, maxdepth=None if recursive else 2)
    return sorted((f"{above}/{one[len(inside) :].lstrip('/')}" for one in found), key=natural_key)


class Far(io.RawIOBase):
    """A file elsewhere, whose faults are said as those of `reached`."""

    def __init__(self, inner: Any, name: str) -> None:
        self._inner, self._name = inner, name

    def readable(self) -> bool:
        return True

    def seekable(self) -> bool:
        return True

    def seek(self, offset: int, whence: int = 0) -> int:
        with reached(self._name):
            return int(self._inner.seek(offset, whence))

    def tell(self) -> int:
        return int(self._inner.tell())

    def readinto(self, buffer: memoryview) -> int:  # type: ignore[override]
        with reached(self._name):
            data = self._inner.read(len(buffer))
        buffer[: len(data)] = data
        return len(data)

    def close(self) -> None:
        self._inner.close()
        super().close()


def mark_of(status: os.stat_result) -> int:
    """A number that is another one when a file elsewhere is another one, as far as its system says so."""
    known: Any = status
    described = sorted((str(name), repr(value)) for name, value in known.as_info().items())
    return int.from_bytes(hashlib.sha256(repr(described).encode()).digest()[:7])


def _system(path: Path) -> Any:
    """The file system that a path elsewhere is in."""
    return cast("Any", path).fs
