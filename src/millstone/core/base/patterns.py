"""Regular expressions of the user, which may try for ever: each has a budget of time for a run."""

import re
import time
from collections.abc import Callable
from functools import cache
from typing import Any

from millstone.core.base.errors import DataError
from millstone.core.base.wording import beginning_of

SECONDS = 10.0
"""How long an expression may take in a run, and one second more for each million characters that it was given."""


def fault_of_regex(typed: str) -> str:
    """Why a text is not a valid regular expression, as the end of a sentence; empty where it is one."""
    try:
        re.compile(typed)
    except re.error as error:
        return f"is not a valid regular expression: {error}"
    except (RecursionError, OverflowError):
        return "is too deeply nested, or too long, for a regular expression"
    return ""


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
        self._spent, self._seen = 0.0, 0
        try:
            self._compiled = regex.compile(typed, regex.IGNORECASE if ignore_case else 0)
        except (regex.error, RecursionError) as error:
            raise DataError(
                f"{option}: {beginning_of(typed)!r} is not a valid regular expression: {error}", "simplify it"
            ) from error

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
        values: list[tuple[int, int]] = self._within(
            text,
            where,
            lambda limit: [found.span() for found in self._compiled.finditer(text, timeout=limit) if found[0]],
        )
        return values

    def replaced(self, change: Callable[[re.Match[str]], str], text: str, where: str = "") -> str:
        """The text with each place that fits changed.

        Raises
        ------
        DataError
        """
        return str(self._within(text, where, lambda limit: self._compiled.sub(change, text, timeout=limit)))

    def _within(self, text: str, where: str, work: Callable[[float], Any]) -> Any:
        self._seen += len(text)
        limit = SECONDS + self._seen / 1e6
        start = time.perf_counter()
        try:
            # many short texts may take as long as a single one
            return work(max(limit - self._spent, 1e-3))
        except TimeoutError:
            raise DataError(
                f"{self._option}: {beginning_of(self._typed)!r} takes more than {limit:.0f} seconds"
                f"{f', the last of them on {where[:80]}' if where else ''}",
                "simplify it: a repetition within a repetition, such as (a|a)+, tries every way to divide a text",
            ) from None
        finally:
            self._spent += time.perf_counter() - start


@cache
def pattern(option: str, typed: str, ignore_case: bool = False) -> Pattern:
    """Compile a regular expression, each once.

    Parameters
    ----------
    option : str
        The option that an error names.
    typed : str
        A regular expression as typed.
    ignore_case : bool, optional
        Letters fit in either case.

    Returns
    -------
    Pattern
    """
    return Pattern(option, typed, ignore_case)
