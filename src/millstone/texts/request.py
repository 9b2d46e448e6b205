"""The texts that a step needs."""

from collections.abc import Mapping
from dataclasses import field
from typing import Any

from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.inputs import FrequencyListOptions, InputOptions, Inputs
from millstone.core.settings.kinds import looks_like_path
from millstone.core.settings.preparation import GIVEN, Preparation, Work


@frozen
class TextRequest:
    """The texts that a step needs, and what must be known of them.

    Attributes
    ----------
    inputs : Inputs
    reading : InputOptions
    preparation : Preparation
    work : Work
    counted : FrequencyListOptions
        Where the inputs are frequency lists, or where something else than words is counted.
    typed : mapping
        The settings as they were given.
    in_order : str
        The setting for which the order of the words must be known, as typed, or the command; "" for none.
    ignores_punctuation : bool
        Marks of punctuation are never looked at.
    tracks_duplicates : bool
        It matters which texts occur more than once.
    least_freq : int
        How often a term must occur in all texts together to change anything.
    row_limits : tuple of int or None
        How often a term must occur in a group, and in how many documents, to have a row; None where rows are others.
    """

    inputs: Inputs
    reading: InputOptions
    preparation: Preparation
    work: Work
    counted: FrequencyListOptions = field(default_factory=FrequencyListOptions)
    typed: Mapping[str, Any] = field(default_factory=dict)
    in_order: str = ""
    ignores_punctuation: bool = False
    tracks_duplicates: bool = False
    least_freq: int = 1
    row_limits: tuple[int, int] | None = None

    @property
    def knows_names(self) -> bool:
        """Whether lemmas of a language are asked for, which spare names, recognised by where they stand."""
        return bool(self.languages_of_lemmas)

    @property
    def languages_of_lemmas(self) -> tuple[str, ...]:
        """The languages whose lemmas are asked for."""
        return tuple(name for name in self.preparation.lemmas if name != GIVEN and not looks_like_path(name))
