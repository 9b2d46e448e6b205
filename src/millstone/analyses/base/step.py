"""Steps: each a command with all its settings."""

from collections.abc import Mapping
from dataclasses import field
from typing import Any, Generic, TypeVar

from millstone.analyses.base.command import Command
from millstone.core.base.errors import UsageError
from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.declare import build, changed, declared, written
from millstone.core.settings.inputs import FrequencyListOptions, InputOptions, Inputs
from millstone.core.settings.kind import Kind
from millstone.core.settings.output import Output
from millstone.core.settings.preparation import Preparation, Work
from millstone.outputs.charts.settings import AnyChartSettings, ChartSettings

# reported elsewhere, or without effect on the numbers
_OF_FIGURES = {name for name in declared(AnyChartSettings) if name != "seed"}
_NOT_SHOWN = {*declared(Inputs), *_OF_FIGURES, *declared(Work), "force", "legend", "say", "quiet"}


S = TypeVar("S")


@frozen
class Step(Generic[S]):
    """One command with its settings, and the `study` file that they are from, if any.

    `typed` holds them as they were given, for showing; in a study file a step has a `number`, 1 for the first, and
    may have a `name`, and `where` says where it stands.
    """

    command: Command
    inputs: Inputs
    reading: InputOptions
    preparation: Preparation
    settings: S
    chart: ChartSettings
    output: Output
    work: Work
    counted: FrequencyListOptions = field(default_factory=FrequencyListOptions)
    typed: Mapping[str, Any] = field(default_factory=dict)
    name: str = ""
    where: str = ""
    study: str = ""
    number: int = 0

    def require_input(self) -> None:
        """Raise UsageError where no text is named."""
        if not self.inputs.input:
            raise UsageError(
                f"{self.command.name} needs an input", "name a folder, a file or NAME=PATH, or a --study that does"
            )


def as_typed(command: Command, shown: Mapping[str, Any]) -> dict[str, Any]:
    """The settings of a command that are not defaults and are shown, as text."""
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
