"""What a study is made of: steps, each a command with all its settings."""

from collections.abc import Mapping, Sequence
from dataclasses import field
from pathlib import Path
from typing import Any

from millstone.charts.settings import AnyChartSettings, ChartSettings
from millstone.core.errors import UsageError
from millstone.core.frozen import frozen
from millstone.core.settings.declare import build, changed, declared, written
from millstone.core.settings.kinds import Kind, looks_like_path
from millstone.core.settings.preparation import Preparation, Work
from millstone.core.terms.word_lists import GIVEN
from millstone.results.settings import Output
from millstone.sources.settings import Counted, Inputs, Reading
from millstone.study.command import Command

# said elsewhere, or without a part in what is computed
_OF_FIGURES = {name for name in declared(AnyChartSettings) if name != "seed"}
_NOT_SHOWN = {*declared(Inputs), *_OF_FIGURES, *declared(Work), "force", "legend", "quiet"}


@frozen
class Step:
    """One command with its settings, and the `study` file that they are from, if any.

    `typed` holds them as they were given, for showing; in a study file a step has a `number`, 1 for the first, and
    may have a `name`, and `where` says where it stands.
    """

    command: Command
    inputs: Inputs
    reading: Reading
    preparation: Preparation
    settings: Any
    chart: Any
    output: Output
    work: Work
    counted: Counted = field(default_factory=Counted)
    typed: Mapping[str, Any] = field(default_factory=dict)
    name: str = ""
    where: str = ""
    study: str = ""
    number: int = 0

    @property
    def knows_names(self) -> bool:
        """Whether lemmas of a language are asked for, which spare names, recognised by where they stand."""
        return bool(self.languages_of_lemmas)

    @property
    def languages_of_lemmas(self) -> tuple[str, ...]:
        """The languages whose lemmas are asked for."""
        return tuple(name for name in self.preparation.lemmas if name != GIVEN and not looks_like_path(name))

    def require_input(self) -> None:
        """Raise UsageError where no text is named."""
        if not self.inputs.input:
            raise UsageError(
                f"{self.command.name} needs an input", "name a folder, a file or NAME=PATH, or a --study that does"
            )


@frozen
class Author:
    """Someone who made a study, with an ORCID identifier or without."""

    name: str
    orcid: str = ""


@frozen
class Study:
    """A study file: what it is called, where results go, its shared settings and its steps.

    `report` is the name of its page; `date` is given where it is not to be that of the newest text; `notes` say which
    of its keys are left out of account.
    """

    title: str
    output: Path
    shared: Mapping[str, Any]
    shown: Mapping[str, Any]
    steps: tuple[Step, ...]
    report: str = "report.html"
    authors: tuple[Author, ...] = ()
    licence: str = ""
    date: str = ""
    notes: tuple[str, ...] = ()

    @property
    def page(self) -> Path:
        """Where its report goes."""
        return self.output / self.report


def make_step(
    command: Command, values: Mapping[str, Any], shown: Mapping[str, Any] | None = None, earlier: Sequence[Step] = ()
) -> Step:
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
    step = Step(
        command,
        build(Inputs, values),
        build(Reading, values),
        build(Preparation, values),
        build(command.settings, values),
        build(command.charts or ChartSettings, values),
        build(Output, values),
        build(Work, values),
        build(Counted, values if command.of_terms else {}),
        _as_typed(command, shown or values),
    )
    return command.bring(command.settle(step), earlier)


def _as_typed(command: Command, shown: Mapping[str, Any]) -> dict[str, Any]:
    found: dict[str, Any] = {}
    for part in command.parts():
        for name, value in changed(build(part, shown)).items():
            kind: Kind = declared(part)[name].metadata["kind"]
            if name in _NOT_SHOWN or kind.is_output:
                continue
            if kind.study_only:
                found[name] = [{"name": rule.name, **rule.as_written()} for rule in value]
                continue
            found[name] = [written(kind, one) for one in value] if kind.repeatable else written(kind, value)
    return found
