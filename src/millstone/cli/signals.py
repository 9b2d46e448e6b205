"""Signals that interrupt a run, and streams that may be closed."""

import contextlib
import io
import os
import signal
import sys
import warnings
from types import FrameType
from typing import Any, NoReturn


class Terminated(SystemExit):
    """The system, or its user, asked the program to end."""


def until_it_runs() -> None:
    """Until main() runs, let Ctrl-C end the process silently."""
    if signal.getsignal(signal.SIGINT) is signal.default_int_handler:
        signal.signal(signal.SIGINT, signal.SIG_DFL)


_came: list[int] = []
_before: dict[int, Any] = {}


def was_interrupted() -> bool:
    """Whether the user interrupted the program, even if a library made another error of it."""
    return bool(_came)


def hush(debug: bool) -> None:
    """Keep what is not for the user off the screen, unless a developer wants to see it."""
    if debug or sys.warnoptions:
        sys.unraisablehook = _without_interruptions
        return
    # what a library thinks of its future, or of a file, is not for the user
    warnings.simplefilter("ignore")
    # nor are errors during interpreter shutdown
    sys.unraisablehook = lambda what: None


def _without_interruptions(what: "sys.UnraisableHookArgs") -> None:
    """Show an error where none can be raised, as in a destructor; an interruption that comes there has no effect."""
    if not issubclass(what.exc_type, KeyboardInterrupt | Terminated):
        sys.__unraisablehook__(what)


def listen() -> None:
    """Let interruptions unwind what is under way; signals that are ignored stay so."""
    _came.clear()
    with contextlib.suppress(ValueError):
        # only the main thread may say so
        if signal.getsignal(signal.SIGINT) in (signal.SIG_DFL, signal.default_int_handler):
            _before[signal.SIGINT] = signal.signal(signal.SIGINT, _interrupted)
        if signal.getsignal(signal.SIGTERM) is signal.SIG_DFL:
            _before[signal.SIGTERM] = signal.signal(signal.SIGTERM, _terminated)


def stop_listening() -> None:
    """When the program has said all: signals do what they did before."""
    while _before:
        number, handler = _before.popitem()
        signal.signal(number, handler)


def _interrupted(number: int, frame: FrameType | None) -> NoReturn:
    _came.append(number)
    raise KeyboardInterrupt


def _terminated(number: int, frame: FrameType | None) -> NoReturn:
    raise Terminated(128 + number)


def at_the_end() -> None:
    """From now on a further Ctrl-C ends the program silently."""
    with contextlib.suppress(ValueError):
        # only the main thread may say so
        signal.signal(signal.SIGINT, signal.SIG_DFL)


def end_by(number: int) -> None:
    """End as a program does that knows nothing of this signal, so that whoever sent it sees that it worked."""
    signal.signal(number, signal.SIG_DFL)
    signal.raise_signal(number)


def open_streams() -> None:
    """Let no file that is opened later take the number of a stream that is closed.

    What is written to a closed standard output fails; what is said on a closed standard error goes nowhere.
    """
    for number, access in ((0, os.O_RDONLY), (1, os.O_RDONLY), (2, os.O_WRONLY)):
        try:
            os.fstat(number)
        except OSError:
            # the lowest free number is this one
            os.open(os.devnull, access)
    sys.stdout = sys.stdout or _stream(1)
    sys.stderr = sys.stderr or _stream(2)


def _stream(number: int) -> Any:
    return io.TextIOWrapper(io.FileIO(number, "w", closefd=False), encoding="utf-8", errors="backslashreplace")


def write_utf8_into_pipes() -> None:
    """A table in a pipe is UTF-8 wherever it is made."""
    if isinstance(sys.stdout, io.TextIOWrapper) and not sys.stdout.isatty():
        sys.stdout.reconfigure(encoding="utf-8", newline="\n")


def discard_output() -> None:
    """Let what is still to be flushed to standard output go nowhere, so that the end is quiet."""
    os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
