"""Reading a study file, and saying line and column of whatever is wrong in it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from pathlib import Path
from typing import Any

from millstone.analyses import STEPS, command_for
from millstone.analyses.base.analysis import make_step
from millstone.analyses.base.command import Command
from millstone.analyses.base.step import Step
from millstone.core.base.addresses import address_in
from millstone.core.base.errors import DataError, UsageError
from millstone.core.base.wording import nearest
from millstone.core.settings.declare import declared, option, present_names
from millstone.core.settings.inputs import InputOptions, Inputs
from millstone.core.settings.preparation import Preparation, Sampling
from millstone.study.study import Author, Study
from millstone.texts.inputs.files import STANDARD_INPUT, at_home
from millstone.texts.inputs.toml_file import read_toml, toml_text
from millstone.texts.inputs.toml_places import Key, places_of

_HEAD = ("title", "output", "report", "authors", "licence", "date")
_ELSEWHERE = "cluster"
_STEP = ("command", "name")


def read_study(path: Path) -> Study:
    """Read and check a study file; relative paths are taken from its folder.

    Raises
    ------
    DataError
        For a file that is missing or no TOML, an unknown key (with the nearest known one), a wrong
        value, an unknown command; with line and column.
    """
    if not path.is_file():
        raise DataError(f"there is no study file {path}", "check the spelling; `millstone init PATH` writes one")
    return _File(path, read_toml(path), places_of(toml_text(path))).study()


@dataclass(frozen=True)
class _File:
    path: Path
    content: Mapping[str, Any]
    places: Mapping[Key, tuple[int, int]]

    def where(self, *key: str | int) -> str:
        """File, line and column of a key, or of what it stands in."""
        for length in range(len(key), 0, -1):
            if key[:length] in self.places:
                line, column = self.places[key[:length]]
                return f"{self.path}, line {line}, column {column}"
        return str(self.path)

    def study(self) -> Study:
        self.check_keys(self.content, ("study", "corpus", "prepare", "step"), ())
        head = self.table("study")
        self.check_keys(head, (*_HEAD, _ELSEWHERE), ("study",))
        self.check_head(head)
        folder = self.path.parent
        output = folder / head.get("output", ".")
        corpus = self.values(self.table("corpus"), (Inputs, InputOptions), ("corpus",))
        prepare = self.values(self.table("prepare"), (Preparation, Sampling), ("prepare",))
        shown = {**corpus, **prepare}
        shared = _placed(shown, (Inputs, InputOptions, Preparation), folder)
        given = self.content.get("step", [])
        if not isinstance(given, list) or not all(isinstance(one, Mapping) for one in given):
            raise DataError(f"{self.where('step')}: step is not a list of tables", "write [[step]] with two brackets")
        steps: list[Step[Any]] = []
        for number, one in enumerate(given):
            steps.append(self.step(number, one, shared, shown, output, steps))
        return Study(
            head.get("title", self.path.stem),
            output,
            shared,
            shown,
            tuple(steps),
            head.get("report", Study.report),
            self.authors(head.get("authors", [])),
            head.get("licence", ""),
            head.get("date", ""),
            self.notes(),
        )

    def notes(self) -> tuple[str, ...]:
        """Notes on ignored keys: a study that somebody else wrote has no say in which machines compute."""
        places: list[Key] = [("study",), *(("step", number) for number in range(len(self.content.get("step", []))))]
        return tuple(
            f"{self.where(*place, _ELSEWHERE)}: {_ELSEWHERE} is not read from a study, whoever wrote it would choose "
            f"which machine runs code for you; type --cluster ADDRESS, or set MILLSTONE_CLUSTER"
            for place in places
            if _ELSEWHERE in self.inside_of(place)
        )

    def inside_of(self, place: Key) -> Mapping[str, Any]:
        """The table at a place of the file."""
        found: Any = self.content
        for part in place:
            found = found[part] if isinstance(part, int) else found.get(part, {})
        return found if isinstance(found, Mapping) else {}

    def check_head(self, head: Mapping[str, Any]) -> None:
        """Raise DataError for what cannot be said of a study."""
        for key in _HEAD:
            if key != "authors" and not isinstance(head.get(key, ""), str):
                raise DataError(f"{self.where('study', key)}: {key} must be text", f'write {key} = "..."')
        name = head.get("report", Study.report)
        if Path(name).suffix.lower() != ".html" or Path(name).name != name:
            raise DataError(
                f"{self.where('study', 'report')}: report is not the name of a page: {name!r}",
                'write report = "name.html"; it goes into the folder of the results',
            )
        if (day := head.get("date", "")) and not _is_date(day):
            raise DataError(f"{self.where('study', 'date')}: {day!r} is not a date", 'write date = "2026-05-01"')

    def authors(self, given: Any) -> tuple[Author, ...]:
        """The authors of the study: names, or tables with name and orcid."""
        found = []
        for one in given if isinstance(given, list) else [given]:
            known = {"name": one} if isinstance(one, str) else one
            if not isinstance(known, Mapping) or set(known) - {"name", "orcid"} or "name" not in known:
                raise DataError(
                    f"{self.where('study', 'authors')}: an author is a name, or a table with name and orcid",
                    'write authors = ["A. Name", { name = "B. Name", orcid = "0000-0000-0000-0000" }]',
                )
            found.append(Author(str(known["name"]), str(known.get("orcid", ""))))
        return tuple(found)

    def table(self, name: str) -> Mapping[str, Any]:
        found = self.content.get(name, {})
        if not isinstance(found, Mapping):
            raise DataError(f"{self.where(name)}: {name} is not a table", f"write [{name}] and its keys below")
        return found

    def inside(self, key: Key) -> str:
        """The table that a key stands in, for messages."""
        if not key:
            return ""
        if len(key) == 1:
            return f", [{key[0]}]"
        return f", step {int(key[1]) + 1} ({self.content['step'][key[1]].get('command', 'without command')})"

    def check_keys(self, given: Mapping[str, Any], known: tuple[str, ...], key: Key) -> None:
        """Raise DataError for a key that is not known, with the nearest that is."""
        for name in given:
            if name not in known:
                raise DataError(
                    f"{self.where(*key, name)}{self.inside(key)}: unknown key {name!r}{nearest(name, known)}",
                    f"known keys here: {', '.join(known)}",
                )

    def values(self, given: Mapping[str, Any], parts: tuple[type, ...], key: Key) -> dict[str, Any]:
        """The settings in a table, read as their kinds say."""
        given = present_names(parts, given)
        kinds = {name: one.metadata["kind"] for part in parts for name, one in declared(part).items()}
        self.check_keys(given, tuple(kinds), key)
        found = {}
        for name, value in given.items():
            try:
                found[name] = kinds[name].accept(value)
            except ValueError as error:
                what = f"{self.where(*key, name)}{self.inside(key)}: {name} {error}"
                raise DataError(what, f"fix the value of {name}") from error
        return found

    def command(self, key: Key, given: Mapping[str, Any]) -> Command:
        """The command of a step, of the one that it carries out where it does so."""
        command = STEPS.get(given.get("command", ""))
        if command is None:
            wrong = given.get("command")
            what = (
                f"command is {wrong!r}{nearest(str(wrong), STEPS)}"
                if wrong is not None
                else "the step has no command"
            )
            raise DataError(f"{self.where(*key, 'command')}: {what}", f"write one of {', '.join(STEPS)}")
        if command.varies:
            if (of := given.get("of")) not in command.varies:
                what = f"of is {of!r}{nearest(str(of), command.varies)}" if of is not None else "of is missing"
                raise DataError(
                    f"{self.where(*key, 'of')}: {what}",
                    f"write the command to be varied: {', '.join(command.varies)}",
                )
            return command_for(command.name, str(of))
        return command

    def step(
        self,
        number: int,
        given: Mapping[str, Any],
        shared: Mapping[str, Any],
        shown: Mapping[str, Any],
        output: Path,
        earlier: Sequence[Step[Any]],
    ) -> Step[Any]:
        key: Key = ("step", number)
        command = self.command(key, given)
        own = {name: value for name, value in given.items() if name not in (*_STEP, _ELSEWHERE)}
        if shown_only := next((name for name in ("show", "explain") if command.looks_only and name in own), ""):
            raise DataError(
                f"{self.where(*key, shown_only)}: {shown_only} prints to a screen, and a study has none",
                f"remove it, and type millstone check --study {self.path.name} {option(shown_only)} ...",
            )
        values = self.values(own, command.parts(), key)
        if "from" in values or not command.reads_texts:
            # the table brings its own texts, and what was made of them; a sheet is no text
            brought = {name for part in (Inputs, InputOptions, Preparation) for name in declared(part)}
            shared, shown = ({n: v for n, v in some.items() if n not in brought} for some in (shared, shown))
        results = {
            # a folder is known by the slash at its end
            name: f"{output / values[name]}{'/' if values[name].endswith('/') else ''}"
            for part in command.parts()
            for name, one in declared(part).items()
            if name in values and one.metadata["kind"].is_output and one.metadata["kind"].is_path(values[name])
        }
        placed = {**_placed(values, command.parts(), self.path.parent), **results}
        try:
            made = make_step(command, {**shared, **placed}, {**shown, **values}, earlier)
        except UsageError as error:
            raise DataError(f"{self.where(*key)}: {error.what}", error.remedy) from error
        return replace(
            made, name=str(given.get("name", "")), where=self.where(*key), study=str(self.path), number=number + 1
        )


def _is_date(text: str) -> bool:
    try:
        return len(text) == len("2026-05-01") and bool(date.fromisoformat(text))
    except ValueError:
        return False


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
    if typed == STANDARD_INPUT or address_in(typed):
        return typed
    if (folder / typed).exists() or "=" not in typed:
        return str(folder / at_home(typed))
    name, _, path = typed.partition("=")
    return typed if path == STANDARD_INPUT else f"{name}={folder / at_home(path)}"
