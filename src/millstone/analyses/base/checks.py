"""Checks of a step that several commands share.

Light on purpose: the commands, of which the help is made, import this.
"""

from collections.abc import Collection
from typing import TYPE_CHECKING, Any

from millstone.analyses.base.step import Step
from millstone.core.base.errors import UsageError
from millstone.texts.inputs.files import existing

if TYPE_CHECKING:
    from pathlib import Path


def check_exists(name: str, what: str, made: "Collection[Path]") -> None:
    """Raise DataError for a file that is not there, and that no earlier step makes."""
    from pathlib import Path

    if Path(name).resolve() not in made:
        existing(Path(name), what)


def check_select(step: Step[Any]) -> None:
    """Raise UsageError for ``--select`` without a dictionary."""
    if step.settings.select and not step.settings.dictionary:
        raise UsageError("--select chooses categories, and there is no --dictionary", "leave it out")


def check_adjust_for(step: Step[Any]) -> None:
    """Raise UsageError where ``--adjust-for`` names what makes the groups."""
    named = step.reading.group
    if any(field.removesuffix(":number") in ("group", named) for field in step.settings.adjust_for if field):
        raise UsageError(
            f"--adjust-for {named or 'group'}: this makes the groups, and nothing is left to compare if it is held "
            "equal",
            "name another field, one that goes with the groups and is not what makes them",
        )
