"""What a command that analyses texts is: its question, its settings, its checks, and what it does with the texts.

Light on purpose: the help is made from this.
"""

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import field
from typing import TYPE_CHECKING

from millstone.core.frozen import frozen
from millstone.core.layout import Layout
from millstone.core.settings.declare import declared
from millstone.core.settings.preparation import Preparation, Work
from millstone.results.settings import Output
from millstone.sources.settings import Counted, Inputs, Reading

if TYPE_CHECKING:
    from pathlib import Path

    import numpy as np

    from millstone.charts.draw import Figures
    from millstone.core.corpus.corpus import Corpus
    from millstone.core.dictionary.marked_text import MarkedTexts
    from millstone.core.reading.places import Spans
    from millstone.core.result import Result
    from millstone.results.writing import Outputs
    from millstone.study.reading.origin import Origin
    from millstone.study.step import Step
    from millstone.study.texts.material import Material

Drawing = Callable[[int, int], None]
"""Called with how many random draws are done, of how many."""
Analyse = Callable[["Step", "Material", list[str], Drawing], "Result"]
"""From a step and its texts to a result; what the user should know goes to the notes."""


Behind = tuple["Spans", Mapping[str, "np.ndarray"]]
"""Places behind a number, and columns for their lines."""


def places_of_terms(origin: "Origin", corpus: "Corpus") -> Behind:
    """The places of a command whose rows count terms: where the term of a row stands, in its groups."""
    # what only --from needs
    from millstone.study.reading import origin as origins

    return origins.places_of_terms(origin, corpus)


def _settled(step: "Step") -> "Step":
    step.require_input()
    return step


@frozen
class Command:
    """One analysis.

    Attributes
    ----------
    question : str
        What it answers, a line for the help.
    settings : type
        Its own settings.
    charts : type or None
        The settings of its figure.
    about : str
        How to read the result.
    examples : tuple
        Arguments that run as they stand in the folder of the demo.
    analyse : callable or None
        What it does with the texts of a step; None for one that only looks at texts.
    settle : callable
        Checks the settings of a step against each other, before any file is opened; gives the step as it is meant.
    bring : callable
        Gives the step with what a table brings that its settings name, which an earlier step may be going to make.
    check : callable
        Checks what can be checked without a text: names of measures, dictionaries, lists. Files that earlier steps
        of a study are going to make need not be there yet.
    check_groups : callable
        Checks a step against the groups of its texts, before anything is counted.
    looks_at_order : callable
        Whether a step needs the order of the words, not only their counts.
    sorts : callable
        Whether it orders its rows itself, by what ``--sort`` says.
    keeps_rows : callable
        Whether the results are wanted beside all rows and columns of the table that went in.
    least : callable
        How often a term must occur in all texts together to change anything in the result of a step.
    row_limits : callable
        How often a term must occur in a group, and in how many documents, to have a row; None where rows are others.
    layout : Layout
        How its table is laid out.
    places_of : callable or None
        The places in the texts that a row of its table counts, ascending, and further columns for their lines; None
        where a row has no places.
    columns : callable
        The columns that the table of a step may have; none where they depend on the texts.
    figures : callable
        The kinds of figure that a result of this name has, its usual one first.
    mark : callable
        Adds texts with marks in them to the outputs, or returns them where they are to be shown.
    tables : tuple of str
        Settings that name files for further tables.
    files : mapping
        Other settings that name files to be written -> the endings these may have.
    may_find_nothing : bool
        An empty table is a finding; its figure is not drawn, and a note says so.
    reads_on : bool
        It looks at texts as they stand, all of their words.
    chooses_rows : bool
        Its table is long enough to be sorted and shortened.
    makes_matrix : bool
        Its result is a `MatrixResult`, which has its own formats.
    of_terms : bool
        It works on counts of terms, whether they come from texts or from frequency lists.
    of_plain_words : bool
        It never sees marks of punctuation.
    of_repeats : bool
        It asks which texts occur more than once.
    """

    name: str
    question: str
    settings: type
    charts: type | None
    about: str
    examples: tuple[str, ...]
    analyse: Analyse | None
    settle: Callable[["Step"], "Step"] = _settled
    bring: Callable[["Step", Sequence["Step"]], "Step"] = lambda step, earlier: step
    check: Callable[["Step", "Collection[Path]"], None] = lambda step, made: None
    check_groups: Callable[["Step", tuple[str, ...]], None] = lambda step, groups: None
    looks_at_order: Callable[["Step"], bool] = lambda step: False
    sorts: Callable[["Step"], bool] = lambda step: False
    keeps_rows: Callable[["Step"], bool] = lambda step: False
    least: Callable[["Step"], int] = lambda step: 1
    row_limits: Callable[["Step"], tuple[int, int] | None] = lambda step: None
    layout: Layout = field(default_factory=Layout)
    places_of: "Callable[[Origin, Corpus], Behind] | None" = None
    columns: Callable[["Step"], Collection[str]] = lambda step: ()
    figures: Callable[[str], "Figures"] = lambda result: {}
    mark: Callable[["Step", "Outputs", Drawing], "MarkedTexts | None"] = lambda step, outputs, progress: None
    tables: tuple[str, ...] = ()
    files: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    may_find_nothing: bool = False
    reads_on: bool = False
    chooses_rows: bool = True
    makes_matrix: bool = False
    of_terms: bool = False
    of_plain_words: bool = False
    of_repeats: bool = False

    def parts(self) -> tuple[type, ...]:
        """All dataclasses that hold settings of this command, its own first."""
        shared = (Inputs, Reading, *((Counted,) if self.of_terms else ()), Preparation, Output, Work)
        return (self.settings, *((self.charts,) if self.charts else ()), *shared)

    def names(self) -> tuple[str, ...]:
        """The names of all its settings."""
        return tuple(name for part in self.parts() for name in declared(part))
