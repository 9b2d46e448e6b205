"""The analyses, one module per command, in rooms as those of the core: what each asks, checks, and does with texts.

Light on purpose: the help is made from these; each is imported when it is asked for, and imports what it computes
with when it is used.
"""

from collections.abc import Iterator, Mapping
from importlib import import_module
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from millstone.study.command import Command

_ROOMS = {
    "check": "describe",
    "freq": "describe",
    "dispersion": "reading",
    "profile": "describe",
    "matrix": "describe",
    "keyness": "compare",
    "logodds": "compare",
    "categories": "compare",
    "contrast": "compare",
    "concordance": "reading",
    "collocates": "reading",
    "wordtree": "reading",
    "network": "relations",
    "alike": "relations",
}
"""Name of a command -> the room of its module, in the order in which the help lists them."""
_LOOK_ON = ("check",)


class Commands(Mapping[str, "Command"]):
    """Commands by name, each imported when it is asked for; the settings of all of them take long to make."""

    def __init__(self, names: tuple[str, ...]) -> None:
        self._names = names

    def __getitem__(self, name: str) -> "Command":
        if name not in self._names:
            raise KeyError(name)
        command: Command = import_module(f"{__name__}.{_ROOMS[name]}.{name}").COMMAND
        return command

    def __contains__(self, name: object) -> bool:
        return name in self._names

    def __iter__(self) -> Iterator[str]:
        return iter(self._names)

    def __len__(self) -> int:
        return len(self._names)


STEPS = Commands(tuple(_ROOMS))
"""Every command that may be a step of a study."""
COMMANDS = Commands(tuple(name for name in _ROOMS if name not in _LOOK_ON))
"""Those that make a table of results."""
