"""What a command says besides its result: summaries, notes and errors, on standard error."""

import sys
import time
from typing import Any

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
    """A bar with the characters read so far, on a terminal, once the work has taken a second."""

    def __init__(self, shown: bool) -> None:
        self._shown = shown and sys.stderr.isatty()
        self._characters = 0
        self._since = time.monotonic()
        self._bar: Any = None

    def __call__(self, characters: int) -> None:
        self._characters += characters
        if self._bar is None and self._shown and time.monotonic() - self._since > 1:
            from rich.console import Console
            from rich.progress import BarColumn, Progress, TextColumn, TimeElapsedColumn

            text = TextColumn("reading, {task.completed:,.1f} million characters")
            columns = (BarColumn(pulse_style="blue"), text, TimeElapsedColumn())
            self._bar = Progress(*columns, console=Console(stderr=True), transient=True)
            self._bar.add_task("", total=None)
            self._bar.start()
        if self._bar is not None:
            self._bar.update(self._bar.task_ids[0], completed=self._characters / 1e6)

    def close(self) -> None:
        """Take the bar away."""
        if self._bar is not None:
            self._bar.stop()
            self._bar = None
