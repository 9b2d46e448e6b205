"""The analyses, one module per command, in rooms as those of the core: what each asks, checks, and does with texts.

Light on purpose: the help is made from these; each imports what it computes with when it is used.
"""

from importlib import import_module
from pkgutil import walk_packages

from millstone.study.command import Command


def _found() -> list[Command]:
    """The command of every module below this folder, in the order in which the help lists them."""
    found = [one.name for one in walk_packages(__path__, f"{__name__}.") if not one.ispkg]
    return sorted((import_module(name).COMMAND for name in found), key=lambda command: command.order)


STEPS: dict[str, Command] = {command.name: command for command in _found()}
"""Every command that may be a step of a study."""
COMMANDS: dict[str, Command] = {name: command for name, command in STEPS.items() if command.analyse}
"""Those that make a table of results."""
