"""The study: a title, an output folder and steps, each a command with all its settings."""

import difflib
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from millstone.charts.settings import ChartSettings, PanelChartSettings
from millstone.core.declare import Kind, build, changed, check_keys, declared, option, written
from millstone.core.errors import DataError, UsageError
from millstone.core.settings import Preparation
from millstone.results.settings import Output
from millstone.sources.reader import STANDARD_INPUT
from millstone.sources.settings import Inputs, Reading
from millstone.sources.toml_file import read_toml
from millstone.study.commands import COMMANDS, Command

_SWITCHES = {
    name for part in (Reading, Preparation) for name, one in declared(part).items() if one.metadata["kind"].switch
}
# said elsewhere, or without a part in what is computed
_NOT_SHOWN = {*declared(Inputs), *declared(PanelChartSettings), "output", "force", "quiet"}


@dataclass(frozen=True)
class Step:
    """One command with its settings; `typed` holds them as they were given, for showing."""

    command: Command
    inputs: Inputs
    reading: Reading
    preparation: Preparation
    settings: Any
    chart: Any
    output: Output
    typed: Mapping[str, str | list[str]] = field(default_factory=dict)


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
        _as_typed(command, shown or values),
    )
    if not step.inputs.input:
        raise UsageError(
            f"{command.name} needs an input", "name a folder, a file or NAME=PATH, or a --study that does"
        )
    if command.name == "categories" and not step.settings.dictionary:
        raise UsageError("categories needs a dictionary", "type --dictionary FILE.toml")
    return step


def _as_typed(command: Command, shown: Mapping[str, Any]) -> dict[str, str | list[str]]:
    found: dict[str, str | list[str]] = {}
    for part in command.parts():
        for name, value in changed(build(part, shown)).items():
            if name in _NOT_SHOWN:
                continue
            kind: Kind = declared(part)[name].metadata["kind"]
            if kind.study_only:
                found[name] = [rule.name for rule in value]
                continue
            found[name] = [written(kind, one) for one in value] if kind.repeatable else written(kind, value)
    return found


def settings_line(typed: Mapping[str, str | list[str]]) -> str:
    """The settings that are not defaults, as they would be typed."""
    each = ((name, value if isinstance(value, list) else [value]) for name, value in typed.items())
    return " ".join(_as_option(name, value) for name, values in each for value in values)


def _as_option(name: str, value: str) -> str:
    if value in ("yes", "no") and name in _SWITCHES:
        return option(name if value == "yes" else f"no_{name}")
    return f"{option(name)} {_quoted(value)}"


def _quoted(value: str) -> str:
    return f"'{value}'" if any(c in value for c in " *?$&|;<>()") else value


def read_study(path: Path) -> Study:
    """Read and check a study file; relative paths are taken from its folder.

    Raises
    ------
    DataError
        For a file that is missing or no TOML, an unknown key (with the nearest known one), a wrong
        value, an unknown command.
    """
    if not path.is_file():
        raise DataError(f"there is no study file {path}", "check the spelling; `millstone demo DIR` writes one")
    content = read_toml(path)
    check_keys(content, ("study", "corpus", "prepare", "step"), str(path))
    head = _table(content, "study", path)
    check_keys(head, ("title", "output"), f"{path}, [study]")
    folder = path.parent
    output = folder / str(head.get("output", "."))
    corpus = _read_values(_table(content, "corpus", path), (Inputs, Reading), f"{path}, [corpus]")
    prepare = _read_values(_table(content, "prepare", path), (Preparation,), f"{path}, [prepare]")
    shown = {**corpus, **prepare}
    shared = _placed(shown, (Inputs, Reading, Preparation), folder)
    steps = content.get("step", [])
    if not isinstance(steps, list):
        raise DataError(f"{path}: step is no list of tables", "write [[step]] with two brackets")
    made = [
        _read_step(step, f"{path}, step {number}", shared, shown, folder, output)
        for number, step in enumerate(steps, 1)
    ]
    return Study(str(head.get("title", path.stem)), output, shared, shown, tuple(made))


def _table(content: Mapping[str, Any], name: str, path: Path) -> Mapping[str, Any]:
    found = content.get(name, {})
    if not isinstance(found, Mapping):
        raise DataError(f"{path}: {name} is no table", f"write [{name}] and its keys below")
    return found


def _read_values(given: Mapping[str, Any], parts: tuple[type, ...], where: str) -> dict[str, Any]:
    kinds = {name: one.metadata["kind"] for part in parts for name, one in declared(part).items()}
    check_keys(given, kinds, where)
    found = {}
    for name, value in given.items():
        try:
            found[name] = kinds[name].accept(value)
        except ValueError as error:
            raise DataError(f"{where}: {name} {error}", f"mend the line that begins with {name} =") from error
    return found


def _placed(values: Mapping[str, Any], parts: tuple[type, ...], folder: Path) -> dict[str, Any]:
    found = dict(values)
    for part in parts:
        for name, one in declared(part).items():
            if name == "input" and name in found:
                found[name] = tuple(_placed_input(typed, folder) for typed in found[name])
            elif name in found:
                found[name] = one.metadata["kind"].placed(found[name], folder)
    return found


def _placed_input(typed: str, folder: Path) -> str:
    if typed == STANDARD_INPUT:
        return typed
    if (folder / typed).exists() or "=" not in typed:
        return str(folder / typed)
    name, _, path = typed.partition("=")
    return f"{name}={folder / path}"


def _read_step(
    given: Mapping[str, Any],
    where: str,
    shared: Mapping[str, Any],
    shown: Mapping[str, Any],
    folder: Path,
    output: Path,
) -> Step:
    name = given.get("command")
    if name not in COMMANDS:
        close = difflib.get_close_matches(str(name), COMMANDS, n=1)
        hint = f"; did you mean {close[0]!r}?" if close else ""
        raise DataError(f"{where}: command is {name!r}{hint}", f"write one of {', '.join(COMMANDS)}")
    command = COMMANDS[name]
    own = {key: value for key, value in given.items() if key != "command"}
    values = _read_values(own, command.parts(), f"{where} ({name})")
    results = {key: str(output / values[key]) for key in ("output", "chart") if key in values}
    placed = {**_placed(values, command.parts(), folder), **results}
    return make_step(command, {**shared, **placed}, {**shown, **values})
