"""The kind of value that a setting has: how it is written, read and checked."""

import os
import re
from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING, Any

from millstone.core.base.light_dataclass import frozen

if TYPE_CHECKING:
    from pathlib import Path

_COMMAS = re.compile(r"(?<!\d),|,(?!\d)")


@frozen
class Kind:
    """How the value of a setting is written.

    ``read`` turns typed text into the value or raises ValueError with a message. A comma between two digits does
    not part values that are words of texts (`of_words`): 1,000 is one of them. An option that may stand `alone` has
    that value then; what follows `rest_from` is not parted. ``known`` gives
    the values there are, which may be added to at run time; without a metavar they stand in its place. A `positional`
    one is typed after the name of the command, without an option. ``of_table`` makes the typed texts of a table in a
    study file.
    """

    metavar: str
    read: Callable[[str], Any]
    repeatable: bool = False
    switch: bool = False
    alone: str = ""
    rest_from: str = ""
    joined_by: str = ""
    split_at: str = ""
    of_words: bool = False
    is_path: Callable[[str], bool] = lambda value: False
    is_output: bool = False
    check: Callable[[Any], Any] | None = None
    shown: Callable[[Any], str] | None = None
    known: Callable[[], Sequence[str]] | None = None
    positional: bool = False
    of_table: "Callable[[Mapping[str, Any]], list[str]] | None" = None

    @property
    def placeholder(self) -> str:
        """The word for its value in helps, or the values there are."""
        return self.metavar or ("|".join(self.known()) if self.known is not None else "")

    @property
    def study_only(self) -> bool:
        """Whether it can be written in a study file only: it has its own structure, which `check` reads."""
        return self.check is not None

    def accept(self, value: Any) -> Any:
        """Check a value from a study file, where numbers and lists are typed."""
        if self.check is not None:
            return self.check(value)
        if self.switch:
            if not isinstance(value, bool):
                raise ValueError("must be true or false")
            return value
        if self.repeatable:
            if isinstance(value, Mapping) and self.of_table is not None:
                value = self.of_table(value)
            parts = value if isinstance(value, list) else [value]
            return tuple(one for part in parts for one in self.several(_as_text(part)))
        if isinstance(value, list) and self.joined_by:
            return self.read(self.joined_by.join(_as_text(part) for part in value))
        return self.read(_as_text(value))

    def several(self, typed: str) -> tuple[Any, ...]:
        """The values of one use of a repeatable option."""
        rest = typed.find(self.rest_from) if self.rest_from else -1
        if rest >= 0:
            before = [part for part in typed[:rest].split(self.split_at) if part]
            parts = [*before, typed[rest:]]
        elif self.split_at:
            parts = _COMMAS.split(typed) if self.of_words else typed.split(self.split_at)
        else:
            parts = [typed]
        return tuple(self.read(part) for part in parts)

    def placed(self, value: Any, folder: "Path") -> Any:
        """The value with its relative paths taken from `folder`."""
        if self.repeatable:
            return tuple(self._placed(part, folder) for part in value)
        return self._placed(value, folder)

    def _placed(self, value: Any, folder: "Path") -> Any:
        if not isinstance(value, str) or not self.is_path(value):
            return value
        return str(folder / os.path.expanduser(value))  # noqa: PTH111 (the other way fails for a user that is not there)


def _as_text(value: Any) -> str:
    if isinstance(value, bool) or not isinstance(value, str | int | float):
        raise ValueError(f"must be text or a number, not {value!r}")
    return str(value)
