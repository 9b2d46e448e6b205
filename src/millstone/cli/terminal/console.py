"""Messages on standard error: summaries, notes, errors and progress."""

import os
import sys
import textwrap
import time
from typing import Any

from millstone.cli.terminal.escapes import on_one_line, shortened, visible
from millstone.core.base.errors import MillstoneError

_NARROWEST = 40
_INDENT = 2


def say(*lines: str) -> None:
    """Lines on standard error, on a terminal broken between words; a break within one, as of a name, is a sign."""
    width = width_of_errors()
    for line in lines:
        print(broken(on_one_line(visible(line)), width), file=sys.stderr, flush=True)


def width_of_errors() -> int:
    """The width of the terminal that shows standard error; 0 where that is none."""
    try:
        return os.get_terminal_size(sys.stderr.fileno()).columns
    except (OSError, ValueError):
        return 0


def broken(line: str, width: int) -> str:
    """A line broken at spaces so that it fits into a width, further lines indented a little more; whole for 0.

    Examples
    --------
    >>> broken("note: " + "every word stays whole, " * 2, 44)
    'note: every word stays whole, every word\\n  stays whole,'
    """
    if not width or len(line) <= width:
        return line
    indent = len(line) - len(line.lstrip())
    return "\n".join(
        textwrap.wrap(
            line.strip(),
            max(width, _NARROWEST),
            initial_indent=" " * indent,
            subsequent_indent=" " * (indent + _INDENT),
            break_long_words=False,
            break_on_hyphens=False,
        )
    )


def put(text: str) -> None:
    """Text on standard output; on a terminal nothing in it does anything."""
    print(visible(text) if sys.stdout.isatty() else text)


def report(program: str, error: MillstoneError) -> None:
    """An error in two lines: what is wrong, then what to do."""
    say(f"{program}: error: {_one_line(error.what)}")
    say(f"  what to do: {_one_line(error.remedy)}")


def _one_line(text: str) -> str:
    return shortened(" ".join(text.split()))


class Progress:
    """A bar with what was read so far, how fast, and the time left, once the work has taken a second.

    `total` is how many bytes there are, 0 where that is not known.
    """

    def __init__(self, shown: bool, total: int = 0) -> None:
        self._shown = shown and sys.stderr.isatty()
        self._size = self._tokens = 0
        self._total = total
        self._since = time.monotonic()
        self._bar: Any = None
        self._draws = 0

    def __call__(self, size: int, tokens: int) -> None:
        self._size += size
        self._tokens += tokens
        took = time.monotonic() - self._since
        if self._bar is None and self._shown and took > 1:
            self._start()
        if self._bar is not None:
            rate = f"{self._tokens / took:,.0f} tokens a second" if self._tokens else ""
            self._bar.update(self._bar.task_ids[0], completed=self._size / 1e6, rate=rate)

    def draws(self, done: int, of: int) -> None:
        """Take account of random draws: so many are done, of how many; a separate bar shows them."""
        if self._draws != of:
            self.close()
            self._draws, self._since = of, time.monotonic()
        if self._bar is None and self._shown and time.monotonic() - self._since > 1:
            self._start_draws()
        if self._bar is not None:
            self._bar.update(self._bar.task_ids[0], completed=done)
        if done == of:
            self.close()
            self._draws = 0

    def _start(self) -> None:
        from rich.progress import BarColumn, TextColumn, TimeElapsedColumn, TimeRemainingColumn

        read = "reading, {task.completed:,.1f}" + (" of {task.total:,.1f} MB" if self._total else " MB")
        times = (TimeRemainingColumn(), TextColumn("left")) if self._total else (TimeElapsedColumn(),)
        bar = BarColumn(pulse_style="blue")
        self._open(self._total / 1e6, bar, TextColumn(read), TextColumn("{task.fields[rate]}"), *times)

    def _start_draws(self) -> None:
        from rich.progress import BarColumn, TextColumn, TimeRemainingColumn

        drawn = TextColumn("{task.completed:,.0f} of {task.total:,.0f} draws")
        self._open(self._draws, BarColumn(), drawn, TimeRemainingColumn(), TextColumn("left"))

    def _open(self, total: float, *columns: Any) -> None:
        from rich.console import Console
        from rich.progress import Progress

        self._bar = Progress(*columns, console=Console(stderr=True), transient=True)
        self._bar.add_task("", total=total or None, rate="")
        self._bar.start()

    def close(self) -> None:
        """Take the bar away."""
        if self._bar is not None:
            self._bar.stop()
            self._bar = None
