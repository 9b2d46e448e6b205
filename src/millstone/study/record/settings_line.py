"""Settings, and whole commands, as they would be typed, in one line."""

import shlex
from collections.abc import Mapping, Sequence
from itertools import pairwise
from pathlib import Path
from typing import Any

from millstone.charts.settings import ChartSettings
from millstone.core.settings.declare import changed, declared, option, written
from millstone.core.settings.kinds import Kind
from millstone.core.settings.preparation import Preparation
from millstone.sources.inputs.finding import seen_from
from millstone.sources.settings import Counted, Inputs, Reading
from millstone.study.command import Command
from millstone.study.step import Step

_BROUGHT = (Inputs, Reading, Counted, Preparation)


def settings_line(typed: Mapping[str, Any], command: Command) -> str:
    """The settings of a command that are not defaults, as they would be typed."""
    return " ".join(_settings_words(typed, command))


def _settings_words(typed: Mapping[str, Any], command: Command) -> list[str]:
    """Option and value of each setting, together."""
    kinds = {name: one.metadata["kind"] for part in command.parts() for name, one in declared(part).items()}
    shown = []
    for name, value in typed.items():
        values, kind = value if isinstance(value, list) else [value], kinds.get(name)
        has_commas = kind is not None and kind.split_at
        if has_commas and not any(a[-1:].isdigit() and b[:1].isdigit() for a, b in pairwise(values)):
            values = [",".join(values)]
        shown += [_as_option(name, one, kind) for one in values]
    return shown


def _as_option(name: str, value: Any, kind: Kind | None) -> str:
    if isinstance(value, Mapping):
        return f"[corpus.{name}.{value['name']}]"
    if value in ("yes", "no") and kind is not None and kind.switch:
        return option(name if value == "yes" else f"no_{name}")
    return f"{option(name)} {_quoted(value)}"


def _quoted(value: str) -> str:
    if shlex.quote(value) == value:
        return value
    return f'"{value}"' if "'" in value else f"'{value}'"


def command_line(step: Step) -> str:
    """A step as one would type it in the folder of its study, or here where it is from none."""
    return " ".join(command_words(step))


def command_words(step: Step) -> list[str]:
    """The same, word by word, an option together with its value."""
    folder = Path(step.study).parent if step.study else Path()
    if step.number and any(map(_is_rule, step.typed.values())):
        return [f"millstone run {_quoted(Path(step.study).name)}", f"--step {step.number}"]
    words = [f"millstone {step.command.name}"]
    # a table from which lines are taken brings its texts, and what was made of them
    brought = {name for part in _BROUGHT for name in declared(part)} - {*declared(type(step.settings))}
    brought = brought if "from" in step.typed else set()
    words += [] if brought else [_quoted(one) for one in shown_inputs(step)]
    words += _settings_words({name: value for name, value in step.typed.items() if name not in brought}, step.command)
    for part, names in ((step.settings, None), (step.output, ("output",)), (step.chart, None)):
        words += _written_ones(part, names, folder)
    return words


def shown_inputs(step: Step) -> list[str]:
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
            found.append(f"{letter} {_quoted(seen_from(folder, value))}")
        elif isinstance(part, ChartSettings) and name != "seed":
            found.append(f"{option(name)} {_quoted(written(kind, value))}")
    return found
