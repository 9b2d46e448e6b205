"""The report of a study: what came of each step, gathered while the study is carried out."""

import os
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any
from urllib.parse import quote

from markupsafe import Markup, escape

from millstone.analyses.base.settings_line import command_words, settings_line
from millstone.analyses.base.step import Step
from millstone.core.base.version import VERSION
from millstone.core.base.wording import listed, numbered
from millstone.core.corpus.corpus import GroupSize
from millstone.core.settings.declare import build, declared
from millstone.core.settings.inputs import InputOptions, Inputs
from millstone.core.settings.preparation import Preparation
from millstone.core.tables.columns import by_name, integer, text
from millstone.core.tables.result import COMPANION, Result
from millstone.core.tables.table import Table, distinct_rows
from millstone.outputs.charts.settings import OF_PAGE
from millstone.outputs.pages.figure import embedded
from millstone.outputs.pages.page import visible
from millstone.outputs.pages.study_page import FindingView, Link, SettingView, StepView, StudyView, study_page
from millstone.outputs.pages.table import TableView, sizes_view, view_of
from millstone.study.record.files import StudyFiles
from millstone.study.record.in_words import in_words
from millstone.study.record.in_words.sentence import Key, Sentence
from millstone.study.record.methods import TESTS_OF, methods
from millstone.study.record.summary import read_lines
from millstone.study.record.versions import citation, versions
from millstone.study.runner import Outcome
from millstone.study.study import Study

_ACROSS = 90


class Report:
    """Gathers the outcomes of a study's steps, and makes its page of them.

    Parameters
    ----------
    study : Study
    files : StudyFiles
        What its steps read; it takes in their outcomes before the report does.
    """

    def __init__(self, study: Study, files: StudyFiles) -> None:
        self._study, self._files, self._file = study, files, files.path
        self._links = _lines_of_terms(study)
        self._steps: list[StepView] = []
        self._findings: list[FindingView] = []
        self._groups: dict[str, tuple[GroupSize, ...]] = {}
        self._draws = False
        self._tested: dict[str, dict[str, list[int]]] = {}

    def add(self, outcome: Outcome) -> None:
        """Take in what came of the next step."""
        step, number = outcome.step, len(self._steps) + 1
        if outcome.result.groups and outcome.material.lists is None:
            self._groups.setdefault(" ".join(step.inputs.input), outcome.result.groups)
        if step.command.name in TESTS_OF:
            ways = self._tested.setdefault(step.command.name, {})
            ways.setdefault(TESTS_OF[step.command.name](outcome.result), []).append(number)
        figure = None
        if outcome.figure:
            drawn = outcome.figure
            figure = embedded(drawn.contents[OF_PAGE], number, drawn.title, drawn.caption, drawn.above)
            self._draws = True
        name = f" ({step.name})" if step.name else ""
        said, ids = in_words(outcome.result), {}
        if said:
            rows = [part.row for one in said for part in one.parts if not isinstance(part, str)]
            ids = {row: f"row-{number}-{at}" for at, row in enumerate(dict.fromkeys(rows), 1)}
        table = self._table(outcome, number, ids)
        if said:
            shown = str(table.blocks) if table else ""
            heading = f"{step.command.name}{name}"
            self._findings.append(FindingView(number, f"step-{number}", heading, _linked(said, ids, shown)))
        self._steps.append(
            StepView(
                f"step-{number}",
                f"{step.command.name}{name}: {step.command.question}",
                step.command.about.replace("\n", " "),
                _over_lines(command_words(step)),
                read_lines(outcome),
                outcome.notes,
                _settings(step),
                figure,
                table,
                [Link(path.name, self._href(path)) for path in outcome.written if not path.name.endswith(COMPANION)],
            )
        )

    def page(self) -> bytes:
        """The page in UTF-8."""
        study = self._study
        inputs, groups = next(iter(self._groups.items()), ("", ()))
        view = StudyView(
            [author.name for author in study.authors],
            self._files.date(),
            VERSION,
            self._steps,
            self._findings,
            " ".join([self._methods(inputs, groups), *self._tests()]),
            sizes_view(groups),
            self._inputs(),
            versions({name for step in study.steps for name in step.typed}, self._draws),
            citation(),
            f"millstone run {self._file.name}",
        )
        return study_page(study.title, view)

    def _table(self, outcome: Outcome, number: int, ids: Mapping[Key, str]) -> TableView | None:
        result = outcome.chosen
        if not result.table.names:
            return None
        output = outcome.step.output.output
        whole = Path(output).name if output and not output.endswith("/") else output and f"the folder {output}"
        lists = result.blocks and len(distinct_rows([result.table[name] for name in result.blocks])[1])
        of = f" in {numbered(lists, 'list')}" if lists and lists > 1 else ""
        caption = f"{outcome.step.command.name}: {numbered(len(result.table), 'row')}{of}"
        links = self._links.get(Path(output).resolve(), {}) if output else {}
        return view_of(result, caption, links=links, whole=whole, named=ids)

    def _methods(self, inputs: str, groups: tuple[GroupSize, ...]) -> str:
        shared = self._study.shared
        step = next((one for one in self._study.steps if " ".join(one.inputs.input) == inputs), None)
        if not shared and step is not None:
            return methods(step.inputs.input, step.reading, step.preparation, groups, self._file.parent)
        typed = build(Inputs, shared).input or (step.inputs.input if step else ())
        parts = build(InputOptions, shared), build(Preparation, shared)
        said = methods(typed, *parts, groups, self._file.parent)
        differs = any(one.preparation != parts[1] or one.reading != parts[0] for one in self._study.steps)
        return f"{said} Where a step was prepared otherwise, its settings say so." if differs else said

    def _tests(self) -> list[str]:
        """How commands tested; where one did not always in the same way, with the numbers of the steps."""
        found = []
        for ways in self._tested.values():
            for said, steps in ways.items():
                named = f"Step{'s' * (len(steps) > 1)} {listed(map(str, steps))}: {said[0].lower()}{said[1:]}"
                found.append(named if len(ways) > 1 else said)
        return found

    def _inputs(self) -> TableView:
        """The files that were read, texts first, with their sizes and checksums."""
        kinds = {"text": self._files.texts(), "list or table": self._files.lists()}
        rows = [(name, kind, one.size, one.sha256) for kind, every in kinds.items() for name, one in every.items()]
        table = Table.of_rows(rows, ["file", "kind", "bytes", "sha256"])
        columns = (
            text("file", "file", "its path, seen from the study file"),
            text("kind", "kind", "what it was read as"),
            integer("bytes", "bytes", "its size"),
            text("sha256", "SHA-256", "its checksum: a file with another one is another file"),
        )
        return view_of(Result("inputs", table, by_name(columns), ()), f"The files that were read: {len(table):,}")

    def _href(self, path: Path) -> str:
        return quote(os.path.relpath(path, self._study.page.parent).replace(os.sep, "/"))


def _over_lines(words: Sequence[str]) -> str:
    """A command over several lines, as a shell reads it."""
    lines = [""]
    for word in words:
        if lines[-1] and len(lines[-1]) + len(word) > _ACROSS:
            lines.append(f"    {word}")
        else:
            lines[-1] = f"{lines[-1]} {word}".lstrip() if len(lines) == 1 else f"{lines[-1]} {word}"
    return " \\\n".join(lines)


def _settings(step: Step[Any]) -> list[SettingView]:
    """The settings that are not defaults, as they are typed, with their meaning."""
    said = {name: one.metadata["help"] for part in step.command.parts() for name, one in declared(part).items()}
    return [
        SettingView(
            settings_line({name: value}, step.command),
            said[name].partition(": ")[0] if name == "fields" else said[name],
        )
        for name, value in step.typed.items()
    ]


def _lines_of_terms(study: Study) -> Mapping[Path, Mapping[str, str]]:
    """For the table of a step, the terms whose lines another step shows, and where."""
    found: dict[Path, dict[str, str]] = {}
    for number, step in enumerate(study.steps, 1):
        if step.command.name != "concordance" or step.settings.per_document:
            continue
        table, term = step.settings.from_, step.settings.term
        if table and term:
            found.setdefault(Path(table).resolve(), {})[term] = f"step-{number}"
            continue
        for other in study.steps:
            if other.output.output and other.inputs == step.inputs and other.reading == step.reading:
                links = found.setdefault(Path(other.output.output).resolve(), {})
                links |= {one.casefold(): f"step-{number}" for one in step.settings.find if one.isalnum()}
    return found


def _linked(said: Sequence[Sentence], ids: Mapping[Key, str], shown: str) -> Markup:
    """Sentences whose numbers lead to their rows, where the page shows these."""
    parts: list[str] = []
    for one in said:
        if one.opens and parts:
            parts.append(Markup("<br>"))
        for part in one.parts:
            text = escape(visible(part if isinstance(part, str) else part.text))
            name = "" if isinstance(part, str) else ids[part.row]
            parts.append(Markup(f'<a href="#{name}">{text}</a>') if name and f"id={name}>" in shown else text)
        parts.append(Markup(" "))
    return Markup("").join(parts)
