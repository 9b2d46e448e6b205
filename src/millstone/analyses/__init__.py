"""The analyses: a folder per command, in which ``command`` declares what it asks, checks and does.

Light on purpose: the help is made from the declarations; each is imported when it is asked for, and imports what it
computes with when it is used.
"""

from collections.abc import Iterator, Mapping
from importlib import import_module
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from millstone.analyses.base.command import Command

_NAMES = (
    *(
        "check",
        "freq",
        "dispersion",
        "profile",
        "matrix",
        "keyness",
        "logodds",
        "categories",
        "code",
        "agreement",
        "contrast",
        "trend",
        "plan",
        "vary",
    ),
    *("concordance", "collocates", "wordtree", "network", "alike"),
)
"""The commands, each the name of its folder, in the order in which the help lists them."""
_LOOK_ON = ("check",)


class Commands(Mapping[str, "Command"]):
    """Commands by name, each imported when it is asked for; the settings of all of them take long to make."""

    def __init__(self, names: tuple[str, ...]) -> None:
        self._names = names

    def __getitem__(self, name: str) -> "Command":
        if name not in self._names:
            raise KeyError(name)
        command: Command = import_module(f"{__name__}.{name}.command").COMMAND
        return command

    def __contains__(self, name: object) -> bool:
        return name in self._names

    def __iter__(self) -> Iterator[str]:
        return iter(self._names)

    def __len__(self) -> int:
        return len(self._names)


STEPS = Commands(_NAMES)
"""Every command that may be a step of a study."""
COMMANDS = Commands(tuple(name for name in _NAMES if name not in _LOOK_ON))
"""Those that make a table of results."""


def command_for(name: str, of: str = "") -> "Command":
    """A command; where it is carried out on another one, with the settings of that one as well.

    Raises
    ------
    KeyError
        For a name that no command has.
    """
    command = STEPS[name]
    if of not in command.varies:
        return command
    found: Command = import_module(f"{__name__}.{name}.command").command_of(STEPS[of])
    return found
