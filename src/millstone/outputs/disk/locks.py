"""Locks of folders, which a process that has died does not hold; and times in which nothing may interrupt."""

import os
import signal
import sys
import threading
from collections.abc import Iterable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

if sys.platform != "win32":
    import fcntl


def lock(folder: Path, wait: bool = True) -> int | None:
    """Lock a folder against other runs of millstone, until the descriptor is closed.

    Parameters
    ----------
    folder : Path
    wait : bool
        Until whoever has locked it is done.

    Returns
    -------
    int or None
        The descriptor; None where the system or the file system has no locks of folders.

    Raises
    ------
    BlockingIOError
        Without `wait`, when another has locked it.
    """
    if sys.platform == "win32":
        return None
    descriptor = None
    try:
        descriptor = os.open(folder, os.O_RDONLY)
        fcntl.flock(descriptor, fcntl.LOCK_EX | (0 if wait else fcntl.LOCK_NB))
    except BlockingIOError:
        unlock(descriptor)
        raise
    except OSError:
        unlock(descriptor)
        return None
    except BaseException:
        unlock(descriptor)
        raise
    return descriptor


def unlock(descriptor: int | None) -> None:
    """Give back what `lock` gave."""
    if descriptor is not None:
        os.close(descriptor)


@contextmanager
def locked(folders: Iterable[Path]) -> Iterator[None]:
    """Hold the locks of several folders; always taken in the same order, so that no two runs wait for each other."""
    held: list[int | None] = []
    try:
        for folder in sorted(folders):
            held.append(lock(folder))
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
