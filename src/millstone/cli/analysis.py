"""The commands that analyse: freq, keyness, logodds, categories."""

import sys
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from millstone.analyses import COMMANDS
from millstone.analyses.base.analysis import texts_of
from millstone.analyses.base.command import Command
from millstone.analyses.base.step import Step
from millstone.cli.options import (
    Parser,
    add_common,
    add_inputs,
    add_settings,
    add_study,
    new_parser,
    parse,
    rare_ones,
)
from millstone.cli.terminal.console import Progress, put, say
from millstone.core.base.errors import UsageError
from millstone.core.base.wording import listed
from millstone.core.settings.declare import build
from millstone.core.settings.inputs import Counted, Inputs, Reading
from millstone.core.settings.output import Output
from millstone.core.settings.preparation import Preparation, Work

if TYPE_CHECKING:
    from pathlib import Path

    from millstone.core.dictionary.marked_text import MarkedTexts
    from millstone.core.tables.result import Result
    from millstone.core.tables.table import Table
    from millstone.study.runner import Outcome
    from millstone.study.study import Study


def parser_of(command: Command, full: bool) -> Parser:
    """The parser of an analysis: its own options first, then the shared ones."""
    parser = new_parser(command.name, f"{command.question}\n\n{command.about}", command.examples)
    add_inputs(parser)
    also = [name for part in (command.settings, command.charts) if part for name in rare_ones(part)]
    add_settings(parser, command.settings, full, f"{command.name} options", also=also)
    if command.charts:
        add_settings(parser, command.charts, full, "chart", also=())
    for settings in (Reading, *((Counted,) if command.accepts_frequency_lists else ()), Preparation):
        add_settings(parser, settings, full)
    add_settings(parser, Output, full, only=() if command.chooses_rows else ("output", "force", "legend", "quiet"))
    add_settings(parser, Work, full)
    add_study(parser, full)
    add_common(parser, full)
    return parser


def run(name: str, arguments: Sequence[str]) -> None:
    """Carry out an analysis as it was typed.

    Raises
    ------
    MillstoneError
    """
    # what is typed wrong is said before what computes is imported
    step = step_from(COMMANDS[name], arguments)
    from millstone.study.outputs import claimed
    from millstone.study.runner import Workshop
    from millstone.texts.scans import Scans, bytes_to_read

    outputs = claimed(step)
    shown = not step.output.quiet and sys.stderr.isatty()
    progress = Progress(shown, bytes_to_read(texts_of(step)) if shown else 0)
    try:
        outcome = Workshop(Scans(progress), say, progress.draws).carry_out(step, outputs)
    finally:
        progress.close()
    present(outcome)


def step_from(command: Command, arguments: Sequence[str]) -> Step[Any]:
    """A step from what was typed, with the study file that it names.

    Raises
    ------
    MillstoneError
    """
    typed = parse(parser_of(command, full=False), arguments)
    from millstone.analyses.base.analysis import make_step

    if typed.get("table") and typed.get("input"):
        raise UsageError("--table and an input: values are taken from one of them", "leave one of the two out")
    if typed.get("trust") and "study" not in typed:
        raise UsageError("--trust is about a study file, and there is no --study", "leave --trust out")
    shared: dict[str, Any] = {}
    shown: dict[str, Any] = {}
    if "study" in typed:
        from pathlib import Path

        from millstone.study.study_file import read_study

        study = read_study(Path(typed["study"]))
        for note in study.notes:
            say(f"note: {note}")
        _check_trust(study, Path(typed["study"]), typed)
        shared, shown = dict(study.shared), dict(study.shown)
    step = make_step(command, {**shared, **typed}, {**shown, **typed})
    return replace(step, study=typed.get("study", ""))


def _check_trust(study: "Study", path: "Path", typed: Mapping[str, Any]) -> None:
    """Raise DataError for what comes from a study file, not from what is typed, and leads out of its folder."""
    from millstone.study.trust import check_trust, outside

    own = {name: value for name, value in study.shared.items() if name not in typed}
    named = outside([build(part, own) for part in (Inputs, Reading, Counted, Preparation)], path)
    check_trust(path, named, typed.get("trust", False))


def present(outcome: "Outcome") -> None:
    """Print a result and its summary."""
    from millstone.study.record.summary import summary

    step = outcome.step
    if outcome.marked:
        print_marked(outcome.marked)
    elif shown := _shown_table(outcome):
        print_table(shown, shown.table, step.output)
    else:
        print_table(outcome.result, outcome.chosen.table, step.output)
    if not step.output.quiet:
        for line in summary(outcome):
            say(line)


def _shown_table(outcome: "Outcome") -> "Result | None":
    """The further table that was asked for in place of the first one."""
    from millstone.core.settings.output import HERE

    step, tables = outcome.step, outcome.result.tables
    return next((tables[name] for name in step.command.tables if getattr(step.settings, name, "") == HERE), None)


def print_table(result: "Result", chosen: "Table", output: Output) -> None:
    """A table on a terminal, TSV into a pipe, there nothing when it was saved to a file."""
    from millstone.core.tables.matrix_result import MatrixResult

    if sys.stdout.isatty():
        from rich.console import Console

        from millstone.cli.terminal.sanitise import visible_result
        from millstone.cli.terminal.screen import legend, show

        result = visible_result(result)
        hidden = show(result, output.top, Console(highlight=False), output.columns)
        if output.legend:
            put("\n".join(legend(result)))
        if hidden and not output.output and not output.quiet:
            say(f"more columns in a saved file: {listed(hidden)}")
    elif not output.output and isinstance(result, MatrixResult):
        from millstone.outputs.files.formats.matrix import tsv_parts

        tsv_parts(result.matrix)(sys.stdout.write)
        sys.stdout.flush()
    elif not output.output:
        from millstone.outputs.files.formats.table import as_tsv

        sys.stdout.writelines(as_tsv(chosen))
        sys.stdout.flush()


def print_marked(marked: "MarkedTexts") -> None:
    """The texts with what was counted in them: on a terminal in colours, into a pipe as plain lines."""
    from millstone.outputs.pages.marked import as_plain

    if sys.stdout.isatty():
        from rich.console import Console

        from millstone.cli.terminal.marked_texts import show_marked
        from millstone.cli.terminal.sanitise import visible_marked

        show_marked(visible_marked(marked), Console(highlight=False))
    else:
        for line in as_plain(marked):
            print(line)
