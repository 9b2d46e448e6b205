"""What a study is made of: steps, each a command with all its settings."""

import shlex
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from itertools import pairwise
from pathlib import Path
from typing import Any

from millstone.charts.settings import AnyChartSettings, ChartSettings
from millstone.core.errors import UsageError
from millstone.core.settings.declare import build, changed, declared, option, written
from millstone.core.settings.kinds import Kind, looks_like_path
from millstone.core.settings.preparation import Preparation, Work
from millstone.core.terms.word_lists import GIVEN
from millstone.results.settings import Output
from millstone.sources.settings import Counted, Inputs, Reading
from millstone.study.analyses.commands import CHECK, COMMANDS, Command

_KINDS: dict[str, Kind] = {
    name: one.metadata["kind"]
    for command in (*COMMANDS.values(), CHECK)
    for part in command.parts()
    for name, one in declared(part).items()
}
_OUTPUTS = {name for name, kind in _KINDS.items() if kind.is_output}
_SWITCHES = {name for name, kind in _KINDS.items() if kind.switch}
_WITH_COMMAS = {name for name, kind in _KINDS.items() if kind.split_at}
# said elsewhere, or without a part in what is computed
_NOT_SHOWN = {*declared(Inputs), *declared(AnyChartSettings), *declared(Work), *_OUTPUTS, "force", "legend", "quiet"}


@dataclass(frozen=True)
class Step:
    """One command with its settings, and the `study` file that they are from, if any.

    `typed` holds them as they were given, for showing; in a study file a step may have a `name`, and
    `where` says where it stands.
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

    @property
    def knows_names(self) -> bool:
        """Whether lemmas of a language are asked for, which spare names, told by where they stand."""
        return bool(self.languages_of_lemmas)

    @property
    def languages_of_lemmas(self) -> tuple[str, ...]:
        """The languages whose lemmas are asked for."""
        return tuple(name for name in self.preparation.lemmas if name != GIVEN and not looks_like_path(name))

    @property
    def shows_growth(self) -> bool:
        """Whether the growth of the vocabulary is to be drawn."""
        return bool(self.chart.chart) and getattr(self.chart, "chart_kind", "") == "growth"

    @property
    def shows_all_compared(self) -> bool:
        """Whether every compared term is to be drawn, though only some of them are to be listed."""
        if self.command.name != "keyness" or getattr(self.chart, "chart_kind", "") not in ("evidence", "frequencies"):
            return False
        return bool(self.chart.chart) and self.settings != self.settings.in_full


@dataclass(frozen=True)
class Study:
    """A study file: what it is called, where results go, its shared settings and its steps."""

    title: str
    output: Path
    shared: Mapping[str, Any]
    shown: Mapping[str, Any]
    steps: tuple[Step, ...]


def make_step(command: Command, values: Mapping[str, Any], shown: Mapping[str, Any] | None = None) -> Step:
    """A step from settings by name.

    Parameters
    ----------
    command : Command
    values : mapping
        Setting name -> value; names that are not the command's are ignored.
    shown : mapping, optional
        The same as the user gave them, where paths have been completed since.

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
    if getattr(step.settings, "validate", ()):
        counting = ("by_group", "words", "in_order", "marked")
        if asked := next((name for name in counting if getattr(step.settings, name)), ""):
            raise UsageError(
                f"--validate counts nothing, and {option(asked)} is made of what is counted",
                f"leave {option(asked)} out, or type --dictionary in place of --validate",
            )
        return step
    if getattr(step.settings, "keep_all", False):
        from millstone.study.texts.aligned_table import check_one_table

        check_one_table(step)
        # a row is known by its number
        step = replace(step, reading=replace(step.reading, id=""))
    if command.name == "contrast":
        _check_contrast(step)
        if step.settings.table:
            # what the other steps of a study read is no part of it
            return replace(step, inputs=Inputs(()))
    if not step.inputs.input:
        raise UsageError(
            f"{command.name} needs an input", "name a folder, a file or NAME=PATH, or a --study that does"
        )
    if command.name == "categories" and not step.settings.dictionary:
        raise UsageError("categories needs a dictionary", "type --dictionary FILE.toml")
    return step


def _check_contrast(step: Step) -> None:
    settings = step.settings
    if not settings.table and not settings.dictionary and not settings.values:
        raise UsageError(
            "contrast needs values",
            "type --dictionary FILE.toml, --values MEASURES, or --table FILE --values COLUMNS",
        )
    if settings.table and settings.dictionary:
        raise UsageError("--table and --dictionary: values are taken from one of them", "leave one of the two out")
    if settings.select and not settings.dictionary:
        raise UsageError("--select chooses categories, and there is no --dictionary", "leave it out")


def _as_typed(command: Command, shown: Mapping[str, Any]) -> dict[str, Any]:
    found: dict[str, Any] = {}
    for part in command.parts():
        for name, value in changed(build(part, shown)).items():
            if name in _NOT_SHOWN:
                continue
            kind: Kind = declared(part)[name].metadata["kind"]
            if kind.study_only:
                found[name] = [{"name": rule.name, **rule.as_written()} for rule in value]
                continue
            found[name] = [written(kind, one) for one in value] if kind.repeatable else written(kind, value)
    return found


def settings_line(typed: Mapping[str, Any]) -> str:
    """The settings that are not defaults, as they would be typed."""
    shown = []
    for name, value in typed.items():
        values = value if isinstance(value, list) else [value]
        if name in _WITH_COMMAS and not any(a[-1:].isdigit() and b[:1].isdigit() for a, b in pairwise(values)):
            values = [",".join(values)]
        shown += [_as_option(name, one) for one in values]
    return " ".join(shown)


def _as_option(name: str, value: Any) -> str:
    if isinstance(value, Mapping):
        return f"[corpus.{name}.{value['name']}]"
    if value in ("yes", "no") and name in _SWITCHES:
        return option(name if value == "yes" else f"no_{name}")
    return f"{option(name)} {_quoted(value)}"


def _quoted(value: str) -> str:
    if shlex.quote(value) == value:
        return value
    return f'"{value}"' if "'" in value else f"'{value}'"
