"""Checks of a step that several commands share.

Light on purpose: the commands, of which the help is made, import this.
"""

from collections.abc import Collection
from pathlib import Path
from typing import TYPE_CHECKING

from millstone.core.errors import UsageError

if TYPE_CHECKING:
    from millstone.study.step import Step


def check_exists(name: str, what: str, made: Collection[Path]) -> None:
    """Raise DataError for a file that is not there, and that no earlier step makes."""
    from millstone.sources.files import existing

    if Path(name).resolve() not in made:
        existing(Path(name), what)


def check_select(step: "Step") -> None:
    """Raise UsageError for ``--select`` without a dictionary."""
    if step.settings.select and not step.settings.dictionary:
        raise UsageError("--select chooses categories, and there is no --dictionary", "leave it out")


def check_against(step: "Step", groups: tuple[str, ...]) -> None:
    """Raise DataError where ``--against`` names neither a group of the texts nor a list."""
    from millstone.core.compare.pairs import comparisons
    from millstone.study.texts.list_material import list_to_compare

    if list_to_compare(step) is None:
        comparisons(groups, step.settings.against)
