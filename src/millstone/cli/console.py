"""What a command says besides its result: summaries, notes and errors, on standard error."""

import sys
import time

from millstone.core.errors import MillstoneError


def say(text: str) -> None:
    """One line on standard error."""
    print(text, file=sys.stderr, flush=True)


def report(program: str, error: MillstoneError) -> None:
    """An error in two lines: what is wrong, then what to do."""
    say(f"{program}: error: {_one_line(error.what)}")
    say(f"  what to do: {_one_line(error.remedy)}")


def _one_line(text: str) -> str:
    return " ".join(text.split())


class Progress:
    """A line with the characters read so far, on a terminal, once the work has taken a second."""

    def __init__(self, shown: bool) -> None:
        self._shown = shown and sys.stderr.isatty()
        self._characters = 0
        self._last = time.monotonic() + 0.75
        self._is_up = False

    def __call__(self, characters: int) -> None:
        self._characters += characters
        now = time.monotonic()
        if self._shown and now - self._last > 0.25:
            self._last, self._is_up = now, True
            print(
                f"\rreading: {self._characters / 1e6:,.1f} million characters",
                end="",
                file=sys.stderr,
                flush=True,
            )

    def close(self) -> None:
        """Take the line away."""
        if self._is_up:
            print("\r\x1b[K", end="", file=sys.stderr, flush=True)
            self._is_up = False
