"""Settings, and whole commands, as they would be typed, in one line."""

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from millstone.analyses.base.command import Command
from millstone.analyses.base.step import Step
from millstone.core.settings.as_typed import quoted, settings_words
from millstone.core.settings.declare import changed, declared, option, written
from millstone.core.settings.inputs import FrequencyListOptions, InputOptions, Inputs
from millstone.core.settings.kind import Kind
from millstone.core.settings.preparation import Preparation
from millstone.outputs.charts.settings import ChartSettings
from millstone.texts.inputs.finding.finding import seen_from

_BROUGHT = (Inputs, InputOptions, FrequencyListOptions, Preparation)


def settings_line(typed: Mapping[str, Any], command: Command) -> str:
    """The settings of a command that are not defaults, as they would be typed."""
    return " ".join(settings_words(typed, command.parts()))


def command_line(step: Step[Any]) -> str:
    """A step as one would type it in the folder of its study, or here where it is from none."""
    return " ".join(command_words(step))


def command_words(step: Step[Any]) -> list[str]:
    """A step as one would type it, word by word, an option together with its value."""
    folder = Path(step.study).parent if step.study else Path()
    if step.number and any(map(_is_rule, step.typed.values())):
        return [f"millstone run {quoted(Path(step.study).name)}", f"--step {step.number}"]
    words = [f"millstone {step.command.name}", *([step.command.of.name] if step.command.of else [])]
    # a table from which lines are taken brings its texts, and what was made of them
    brought = {name for part in _BROUGHT for name in declared(part)} - {*declared(type(step.settings))}
    brought = brought if "from" in step.typed else set()
    words += [] if brought else [quoted(one) for one in shown_inputs(step)]
    words += settings_words(
        {name: value for name, value in step.typed.items() if name not in {*brought, "of"}}, step.command.parts()
    )
    for part, names in ((step.settings, None), (step.output, ("output",)), (step.chart, None)):
        words += _written_ones(part, names, folder)
    return words


def shown_inputs(step: Step[Any]) -> list[str]:
    """The inputs as they are typed in the folder of the study, or here."""
    folder = Path(step.study).parent if step.study else Path()
    return [seen_from(folder, one) for one in step.inputs.input]


def _is_rule(value: Any) -> bool:
    """Whether a setting is a rule for a field, which only a study file can hold."""
    return isinstance(value, list) and any(isinstance(one, Mapping) for one in value)


def _written_ones(part: Any, names: Sequence[str] | None, folder: Path) -> list[str]:
    """The files to be written that a part of the settings names, and how a figure is to look."""
    found = []
    for name, value in changed(part).items():
        kind: Kind = declared(type(part))[name].metadata["kind"]
        if names and name not in names:
            continue
        if kind.is_output:
            letter = declared(type(part))[name].metadata["letter"] or option(name)
            found.append(f"{letter} {quoted(seen_from(folder, value))}")
        elif isinstance(part, ChartSettings) and name != "seed":
            found.append(f"{option(name)} {quoted(written(kind, value))}")
    return found
