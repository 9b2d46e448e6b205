"""A command that analyses texts: its question, its settings, its help.

Light on purpose: the help is made from this; what computes is in the module ``analysis`` of its folder.
"""

from collections.abc import Mapping
from dataclasses import field

from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.declare import declared
from millstone.core.settings.inputs import (
    CountedOptions,
    FrequencyListOptions,
    InputOptions,
    Inputs,
    TableOptions,
)
from millstone.core.settings.output import Output
from millstone.core.settings.preparation import Preparation, Work


@frozen
class Command:
    """One analysis, as its help describes it.

    Attributes
    ----------
    name : str
        As typed; its folder is called so too.
    question : str
        The question it answers, a line for the help.
    settings : type
        Its own settings.
    charts : type or None
        The settings of its figure.
    about : str
        How to read the result.
    examples : tuple
        Arguments that run as they stand in the folder of the demo.
    heading : str
        The part of the work under which the overview of all commands lists it.
    tables : tuple of str
        Settings that name files for further tables.
    files : mapping
        Other settings that name files to be written -> the endings these may have.
    chooses_rows : bool
        Its table is long enough to be sorted and shortened.
    accepts_frequency_lists : bool
        It works on counts of terms, whether they come from texts or from frequency lists.
    counts_fields : bool
        It may count values of a field, or tags, in place of words; all that accept frequency lists may.
    looks_only : bool
        It looks at texts and makes no results, so that the library has no function for it.
    reads_texts : bool
        Its inputs are texts; otherwise tables that another command has made.
    varies : tuple of str
        The commands that it may carry out, of which one is typed after its name.
    of : Command or None
        The one of these that was typed.
    """

    name: str
    question: str
    settings: type
    charts: type | None
    about: str
    examples: tuple[str, ...]
    heading: str
    tables: tuple[str, ...] = ()
    files: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    chooses_rows: bool = True
    accepts_frequency_lists: bool = False
    counts_fields: bool = False
    looks_only: bool = False
    reads_texts: bool = True
    varies: tuple[str, ...] = ()
    of: "Command | None" = None

    def parts(self) -> tuple[type, ...]:
        """All dataclasses that hold settings of this command, its own first."""
        shared = (*self.reading_parts(), Output, *((Work,) if self.reads_texts else ()))
        return (self.settings, *((self.charts,) if self.charts else ()), *shared)

    def reading_parts(self) -> tuple[type, ...]:
        """Those of them that say what is read, and how it is prepared."""
        return (Inputs, InputOptions, *self.counted(), Preparation) if self.reads_texts else (Inputs, TableOptions)

    def counted(self) -> tuple[type, ...]:
        """The settings of what is counted, if words are not all that can be."""
        if self.accepts_frequency_lists:
            return (FrequencyListOptions,)
        return (CountedOptions,) if self.counts_fields else ()

    def names(self) -> tuple[str, ...]:
        """The names of all its settings."""
        return tuple(name for part in self.parts() for name in declared(part))
