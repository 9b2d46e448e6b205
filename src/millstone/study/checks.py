"""Checks of a step that several commands share.

Light on purpose: the commands, of which the help is made, import this.
"""

import os
from collections.abc import Collection
from typing import TYPE_CHECKING

from millstone.core.errors import UsageError
from millstone.core.settings.analyses import ComparisonSettings

if TYPE_CHECKING:
    from pathlib import Path

    from millstone.study.step import Step


def check_exists(name: str, what: str, made: "Collection[Path]") -> None:
    """Raise DataError for a file that is not there, and that no earlier step makes."""
    from pathlib import Path

    from millstone.sources.files import existing

    if Path(name).resolve() not in made:
        existing(Path(name), what)


def check_select(step: "Step") -> None:
    """Raise UsageError for ``--select`` without a dictionary."""
    if step.settings.select and not step.settings.dictionary:
        raise UsageError("--select chooses categories, and there is no --dictionary", "leave it out")


def list_to_compare(step: "Step") -> "Step | None":
    """The step that reads the frequency list that ``--against`` names; None where it names none.

    What needs running text, lemmas of a language and phrases, does not reach the list.
    """
    against = step.settings.against if isinstance(step.settings, ComparisonSettings) else ""
    if not os.path.isfile(against):  # noqa: PTH113 (the other way takes long to import)
        return None
    from dataclasses import replace
    from pathlib import Path

    from millstone.sources.files import ending_of, stem_of
    from millstone.sources.lists.frequency_lists import ENDINGS
    from millstone.sources.settings import Counted, Reading

    if ending_of(Path(against)) not in ENDINGS:
        return None
    inputs = replace(step.inputs, input=(f"{stem_of(Path(against))}={against}",))
    tables = tuple(name for name in step.preparation.lemmas if name not in step.languages_of_lemmas)
    preparation = replace(step.preparation, lemmas=tables, phrases=())
    counted = replace(Counted(), lists=True)
    return replace(step, inputs=inputs, reading=Reading(), preparation=preparation, counted=counted)


def check_against(step: "Step", groups: tuple[str, ...]) -> None:
    """Raise DataError where ``--against`` names neither a group of the texts nor a list."""
    from millstone.core.compare.pairs import comparisons

    if list_to_compare(step) is None:
        comparisons(groups, step.settings.against)
