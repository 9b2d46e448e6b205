"""Locks of folders, which a process that has died does not hold; and times in which nothing may interrupt."""

import signal
import threading
from collections.abc import Iterable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from filelock import BaseFileLock

LOCK = ".millstone-lock"
"""The file of a folder that is locked, as long as a run holds it."""
_AGAIN = 0.01


def lock(file: Path, wait: bool = True) -> "BaseFileLock | None":
    """Lock something against other runs of millstone.

    Parameters
    ----------
    file : Path
        Stands for what is locked; it is there as long as the lock is held.
    wait : bool
        Until whoever has locked it is done.

    Returns
    -------
    BaseFileLock or None
        None where the file system has no locks, or nothing may be written.

    Raises
    ------
    BlockingIOError
        Without `wait`, when another has locked it.
    """
    from filelock import FileLock, Timeout

    # whoever may write in the folder may lock it
    held = FileLock(file, mode=0o666, poll_interval=_AGAIN, thread_local=False, fallback_to_soft=False)
    try:
        held.acquire(blocking=wait)
    except Timeout:
        raise BlockingIOError from None
    except (OSError, NotImplementedError):
        return None
    return held


def unlock(held: "BaseFileLock | None") -> None:
    """Give back what `lock` gave."""
    if held is None:
        return
    # while it is still locked: who waits for it sees that its file is gone, and makes another
    with suppress(OSError):
        Path(held.lock_file).unlink()
    held.release()


@contextmanager
def locked(folders: Iterable[Path]) -> Iterator[None]:
    """Hold the locks of several folders; always taken in the same order, so that no two runs wait for each other."""
    held: list[BaseFileLock | None] = []
    try:
        for folder in sorted(folders):
            held.append(lock(folder / LOCK))
        yield
    finally:
        for one in held:
            unlock(one)


@contextmanager
def uninterrupted() -> Iterator[None]:
    """Let no interruption come between; one that came meanwhile comes at the end."""
    if threading.current_thread() is not threading.main_thread():
        # only the main thread is ever interrupted
        yield
        return
    came: list[int] = []
    before = {
        number: signal.signal(number, lambda one, frame: came.append(one))
        for number in (signal.SIGINT, signal.SIGTERM)
    }
    try:
        yield
    finally:
        for number, handler in before.items():
            with suppress(TypeError):
                # a handler that no Python code set cannot be set again
                signal.signal(number, handler)
        for first in came[:1]:
            signal.raise_signal(first)
