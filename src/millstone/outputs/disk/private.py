"""Files for the user's eyes alone: folders of mode 0700, files of mode 0600, on systems that have modes."""

import os
from pathlib import Path

_FOLDER, _FILE = 0o700, 0o600


def make_private(folder: Path) -> None:
    """Create a folder with mode 0700, or tighten an existing one.

    Raises
    ------
    OSError
    """
    folder.mkdir(mode=_FOLDER, parents=True, exist_ok=True)
    if is_own(folder) and folder.stat().st_mode & 0o077:
        folder.chmod(_FOLDER)


def is_own(path: Path) -> bool:
    """Whether the user owns a file or folder that is there; True where the system has no owners."""
    try:
        owner = path.stat().st_uid
    except OSError:
        return False
    return not hasattr(os, "geteuid") or owner == os.geteuid()


def write_private(path: Path, data: bytes | memoryview) -> None:
    """Write a new file that its owner alone may read.

    Raises
    ------
    OSError
        When it is there already, or cannot be written.
    """
    with os.fdopen(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, _FILE), "wb") as file:
        file.write(data)
