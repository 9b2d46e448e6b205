"""The analyses, a module each: what a command is called, asks, checks, and does with the texts.

Light on purpose: the help is made from these; each imports what it computes with when it is used.
"""

from importlib import import_module
from pkgutil import iter_modules

from millstone.study.command import Command


def _found() -> list[Command]:
    """The command of every module in this folder, in the order in which the help lists them."""
    modules = [import_module(f"{__name__}.{found.name}") for found in iter_modules(__path__)]
    return sorted((module.COMMAND for module in modules), key=lambda command: command.order)


STEPS: dict[str, Command] = {command.name: command for command in _found()}
"""Every command that may be a step of a study."""
COMMANDS: dict[str, Command] = {name: command for name, command in STEPS.items() if command.analyse}
"""Those that make a table of results."""
