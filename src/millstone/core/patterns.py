"""Regular expressions of the user, which may try for ever: each has a time limit for a text."""

import re
from collections.abc import Callable
from functools import cache
from typing import Any

from millstone.core.errors import DataError

SECONDS = 10.0
"""How long an expression may take for a text, and one second more for each million characters."""


class Pattern:
    """A regular expression that gives up.

    Parameters
    ----------
    option : str
        Where it was typed, for the message: ``--cut``.
    typed : str
        A valid regular expression.
    ignore_case : bool
    """

    def __init__(self, option: str, typed: str, ignore_case: bool = False) -> None:
        # the language's own expressions have no time limit, and few users type any
        import regex

        self._option, self._typed = option, typed
        try:
            self._compiled = regex.compile(typed, regex.IGNORECASE if ignore_case else 0)
        except regex.error as error:
            raise DataError(f"{option}: {typed!r} is not a valid regular expression: {error}", "fix it") from error

    def search(self, text: str, where: str = "") -> Any:
        """The first place that fits, or None.

        Raises
        ------
        DataError
            When it takes longer than its limit; `where` says on what.
        """
        return self._within(text, where, lambda limit: self._compiled.search(text, timeout=limit))

    def spans(self, text: str, where: str = "") -> list[tuple[int, int]]:
        """Where all places that fit begin and end, empty ones left out.

        Raises
        ------
        DataError
        """
        return self._within(
            text,
            where,
            lambda limit: [found.span() for found in self._compiled.finditer(text, timeout=limit) if found[0]],
        )

    def replaced(self, change: Callable[[re.Match[str]], str], text: str, where: str = "") -> str:
        """The text with each place that fits changed.

        Raises
        ------
        DataError
        """
        return str(self._within(text, where, lambda limit: self._compiled.sub(change, text, timeout=limit)))

    def _within(self, text: str, where: str, work: Callable[[float], Any]) -> Any:
        limit = SECONDS + len(text) / 1e6
        try:
            return work(limit)
        except TimeoutError:
            raise DataError(
                f"{self._option}: {self._typed!r} takes more than {limit:.0f} seconds"
                f"{f' on {where[:80]}' if where else ''}",
                "simplify it: a repetition within a repetition, such as (a|a)+, tries every way to divide a text",
            ) from None


@cache
def pattern(option: str, typed: str, ignore_case: bool = False) -> Pattern:
    """The same, compiled once."""
    return Pattern(option, typed, ignore_case)
