"""The base of all analyses: the stages of the work, each with a default that suits counting words."""

from collections.abc import Callable, Collection, Mapping, Sequence
from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING, Any, Generic, TypeVar

from millstone.analyses.base.command import Command
from millstone.analyses.base.step import Step, as_typed
from millstone.core.settings.declare import build
from millstone.core.settings.inputs import FrequencyListOptions, InputOptions, Inputs
from millstone.core.settings.output import Output
from millstone.core.settings.preparation import Preparation, Work
from millstone.core.tables.schema import Schema
from millstone.outputs.charts.settings import ChartSettings
from millstone.texts.request import TextRequest

if TYPE_CHECKING:
    from millstone.core.dictionary.marked_text import MarkedTexts
    from millstone.core.tables.result import Result
    from millstone.outputs.charts.draw import Figures
    from millstone.outputs.files.writing import Outputs
    from millstone.texts.scanned_texts import ScannedTexts
    from millstone.texts.scans import Scans

S = TypeVar("S")
DrawProgress = Callable[[int, int], None]
"""Called with how many random draws are done, of how many."""


class Analysis(Generic[S]):
    """One analysis; `S` are its own settings.

    Attributes
    ----------
    reads_running_text : bool
        It works on the running text and ignores word filters.
    ignores_punctuation : bool
        It never sees marks of punctuation.
    tracks_duplicates : bool
        It asks which texts occur more than once.
    may_find_nothing : bool
        An empty table is a finding; its figure is not drawn, and a note says so.
    makes_matrix : bool
        Its result is a `MatrixResult`, which has its own formats.
    runs_several : bool
        It gets its texts itself, as for other steps that it carries out, and has `analyse_several` for `analyse`.
    """

    reads_running_text = False
    ignores_punctuation = False
    tracks_duplicates = False
    may_find_nothing = False
    makes_matrix = False
    runs_several = False

    def sees_punctuation(self, step: Step[S]) -> bool:
        """Whether marks of punctuation, where they are kept, are counted for a step."""
        return not self.ignores_punctuation

    def schema(self) -> Schema:
        """How its table is laid out."""
        raise NotImplementedError

    def further_schemas(self) -> tuple[Schema, ...]:
        """The schemas of further tables, as far as they do not depend on the texts."""
        return ()

    def saved_schema(self, names: Collection[str], settings: Mapping[str, object]) -> Schema:
        """The schema of a saved table with columns of these names, made with these settings."""
        return self.schema()

    def validate_settings(self, step: Step[S]) -> Step[S]:
        """Check the settings against each other, before any file is opened, and return the step as it is meant."""
        step.require_input()
        return step

    def inherit_from_table(self, step: Step[S], earlier: Sequence[Step[Any]]) -> Step[S]:
        """Return the step with the inputs and preparation of the table named by ``--from``.

        One of the `earlier` steps of a study may still have to write the table.
        """
        return step

    def check(self, step: Step[S], made: Collection[Path]) -> None:
        """Check what can be checked without a text: names of measures, dictionaries, lists.

        Files in `made`, which earlier steps of a study are going to write, need not be there yet.
        """

    def check_groups(self, step: Step[S], groups: tuple[str, ...]) -> None:
        """Check a step against the groups of its texts, before anything is counted."""

    def needs_token_order(self, step: Step[S]) -> bool:
        """Whether a step needs the order of the tokens, not only their counts."""
        return False

    def sorts_itself(self, step: Step[S]) -> bool:
        """Whether the analysis orders its rows itself, by what ``--sort`` says."""
        return False

    def appends_to_input_table(self, step: Step[S]) -> bool:
        """Whether results are appended to the input table (``--keep-all``)."""
        return False

    def least_freq(self, step: Step[S]) -> int:
        """How often a term must occur in all texts together to change anything in the result."""
        return 1

    def row_limits(self, step: Step[S]) -> tuple[int, int] | None:
        """How often a term must occur in a group, and in how many documents, to have a row; None for other rows."""
        return None

    def columns(self, step: Step[S]) -> Collection[str]:
        """The columns that the table of a step may have; none where they depend on the texts."""
        return self.schema().names

    def analyse(self, step: Step[S], material: "ScannedTexts", notes: list[str], drawing: DrawProgress) -> "Result":
        """The result of a step; what the user should know goes to `notes`."""
        raise NotImplementedError

    def analyse_several(
        self, step: Step[S], texts: "Scans", notes: list[str], drawing: DrawProgress
    ) -> "tuple[ScannedTexts, Result]":
        """The texts of the first of several steps, and the result of all; `notes` as in `analyse`."""
        raise NotImplementedError

    def steps_within(self, step: Step[S]) -> "Sequence[Step[Any]]":
        """The steps that it carries out in place of one, if it carries out others."""
        return ()

    def mark(self, step: Step[S], outputs: "Outputs", progress: DrawProgress) -> "MarkedTexts | None":
        """Add texts with marks in them to the outputs, or return them where they are to be shown."""
        return None


def analysis_of(step: Step[S]) -> Analysis[S]:
    """The analysis of a step."""
    found: Analysis[S] = analysis_named(step.command.name)
    return found


def analysis_named(name: str) -> Analysis[Any]:
    """The analysis of a command."""
    found: Analysis[Any] = import_module(f"millstone.analyses.{name}.analysis").ANALYSIS
    return found


def figures_of(command: Command, table: str) -> "Figures":
    """The kinds of figure of a table that a command makes, its usual one first."""
    if command.charts is None:
        return {}
    figures: Mapping[str, Figures] = import_module(f"millstone.analyses.{command.name}.figures").FIGURES
    return figures.get(table, {})


def texts_of(step: Step[Any]) -> TextRequest:
    """The texts that a step needs."""
    analysis = analysis_of(step)
    if within := analysis.steps_within(step):
        return texts_of(within[0])
    return TextRequest(
        step.inputs if step.command.reads_texts else Inputs(),
        step.reading,
        step.preparation,
        step.work,
        step.counted,
        step.typed,
        f"--chart-kind {step.chart.chart_kind}" if analysis.needs_token_order(step) else "",
        not analysis.sees_punctuation(step),
        analysis.tracks_duplicates,
        analysis.least_freq(step),
        analysis.row_limits(step),
    )


def make_step(
    command: Command,
    values: Mapping[str, Any],
    shown: Mapping[str, Any] | None = None,
    earlier: Sequence[Step[Any]] = (),
) -> Step[Any]:
    """A step from settings by name.

    Parameters
    ----------
    command : Command
    values : mapping
        Setting name -> value; names that are not the command's are ignored.
    shown : mapping, optional
        The same as the user gave them, where paths have been completed since.
    earlier : sequence of Step
        The steps of the study that come before.

    Raises
    ------
    UsageError
        When there is no input, or a dictionary is needed and missing.
    """
    step: Step[Any] = Step(
        command,
        build(Inputs, values),
        build(InputOptions, values),
        build(Preparation, values),
        build(command.settings, values),
        build(command.charts or ChartSettings, values),
        build(Output, values),
        build(Work, values),
        build(FrequencyListOptions, values if command.counted() else {}),
        as_typed(command, shown or values),
    )
    analysis = analysis_of(step)
    return analysis.inherit_from_table(analysis.validate_settings(step), earlier)
