"""A function per command, made from the declarations of its settings."""

import inspect
import os
from collections.abc import Callable, Mapping
from functools import cache
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from millstone.analyses import COMMANDS, command_for
from millstone.analyses.base.analysis import make_step
from millstone.analyses.base.command import Command
from millstone.core.base.errors import MillstoneError, UsageError
from millstone.core.base.wording import nearest
from millstone.core.settings.declare import declared, present_names
from millstone.core.settings.output import HERE
from millstone.library.analysis import Analysis
from millstone.library.inputs import NAME, TEXT, Texts, TextStore
from millstone.library.signatures import docstring, parameters
from millstone.study.outputs import claimed
from millstone.study.runner import StepRunner


@cache
def function(name: str) -> Callable[..., Analysis]:
    """The function of a command.

    Parameters
    ----------
    name : str
        One of `COMMANDS`.
    """
    command = COMMANDS[name]

    def analysis(*inputs: Texts, **options: Any) -> Analysis:
        return _analysed(command, inputs, options)

    analysis.__name__ = analysis.__qualname__ = name
    analysis.__module__ = "millstone"
    analysis.__doc__ = docstring(command)
    given = inspect.Parameter("inputs", inspect.Parameter.VAR_POSITIONAL)
    keywords = [
        inspect.Parameter(one.name, inspect.Parameter.KEYWORD_ONLY, default=one.default)
        for one in parameters(command)
    ]
    further = [inspect.Parameter("options", inspect.Parameter.VAR_KEYWORD)] if command.varies else []
    vars(analysis)["__signature__"] = inspect.Signature([given, *keywords, *further])
    return analysis


def _analysed(command: Command, inputs: tuple[Texts, ...], options: Mapping[str, Any]) -> Analysis:
    if command.varies:
        if (of := options.get("of", "")) not in command.varies:
            raise UsageError(f"{command.name}: of is {of!r}", f"give one of {', '.join(command.varies)}")
        command = command_for(command.name, of)
    folder = TemporaryDirectory(prefix="millstone")
    shelf = TextStore(Path(folder.name))
    typed = tuple(path for one in inputs for path in shelf.typed(one))
    values = _values(command, options)
    if shelf.has_texts:
        values = {"text": TEXT, "id": NAME, **values}
    if shelf.holds_some:
        values["cache"] = False
    before = f"{folder.name}{os.sep}"
    workshop = StepRunner()
    try:
        step = make_step(command, {**values, **({"input": typed} if typed else {})})
        outcome = workshop.carry_out(step, claimed(step))
    except MillstoneError as error:
        # do not show temporary paths to the user
        raise type(error)(error.what.replace(before, ""), error.remedy.replace(before, "")) from error
    return Analysis(
        outcome.chosen.frame,
        outcome.result.columns,
        tuple(note.replace(before, "") for note in outcome.notes),
        outcome.result.settings,
        outcome.result.groups,
        {name: table.frame for name, table in outcome.result.tables.items()},
        step,
        outcome,
        workshop,
        folder,
    )


def _values(command: Command, options: Mapping[str, Any]) -> dict[str, Any]:
    """Settings by name, read and checked as a study file's are.

    Raises
    ------
    UsageError
        For one that does not exist, or a value that cannot be.
    """
    known = {name: one for part in command.parts() for name, one in declared(part).items()}
    found = {}
    for given, value in present_names(command.parts(), options).items():
        name = given.rstrip("_")
        if name not in known or name == "input":
            raise UsageError(
                f"{command.name} has no option {given!r}{nearest(name, known)}",
                f"help(millstone.{command.name}) lists them",
            )
        if value is None or (value is False and name in command.tables):
            continue
        if value is True and name in command.tables:
            value = HERE  # noqa: PLW2901 (what is to be shown rather than written)
        try:
            found[name] = known[name].metadata["kind"].accept(_plain(value))
        except ValueError as error:
            raise UsageError(f"{name} {error}", f"fix the value of {name}") from error
    return found


def _plain(value: Any) -> Any:
    """A value as a study file would hold it."""
    if isinstance(value, os.PathLike):
        return os.fspath(value)
    if isinstance(value, tuple | list | set | frozenset):
        return [_plain(one) for one in (sorted(value) if isinstance(value, set | frozenset) else value)]
    return value
