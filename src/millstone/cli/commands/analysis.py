"""The commands that analyse texts: from what was typed to a result on the screen or in a pipe."""

import sys
from collections.abc import Mapping
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from millstone.analyses import command_for
from millstone.analyses.base.analysis import make_step, texts_of
from millstone.analyses.base.command import Command
from millstone.analyses.base.step import Step
from millstone.cli.terminal.console import Progress, say
from millstone.core.base.errors import UsageError
from millstone.core.base.wording import listed
from millstone.core.settings.output import HERE, Output
from millstone.core.tables.matrix_result import MatrixResult
from millstone.outputs.files.formats.matrix import tsv_parts
from millstone.outputs.files.formats.table import as_tsv
from millstone.outputs.files.rows import columns_of_files
from millstone.study.outputs import claimed
from millstone.study.record.summary import summary
from millstone.study.runner import StepRunner
from millstone.texts.scans import Scans, bytes_to_read

if TYPE_CHECKING:
    from millstone.core.dictionary.marked_text import MarkedTexts
    from millstone.core.tables.result import Result
    from millstone.core.tables.table import Table
    from millstone.study.runner import Outcome


def run(name: str, typed: Mapping[str, Any]) -> None:
    """Carry out an analysis as it was typed.

    Raises
    ------
    MillstoneError
    """
    step = step_from(command_for(name, typed.get("of", "")), typed)
    outputs = claimed(step)
    shown = not step.output.quiet and sys.stderr.isatty()
    progress = Progress(shown, bytes_to_read(texts_of(step)) if shown else 0)
    try:
        outcome = StepRunner(Scans(progress), say, progress.draws).carry_out(step, outputs)
    finally:
        progress.close()
    present(outcome)


def step_from(command: Command, typed: Mapping[str, Any]) -> Step[Any]:
    """A step from what was typed, with the study file that it names.

    Raises
    ------
    MillstoneError
    """
    if typed.get("table") and typed.get("input"):
        raise UsageError("--table and an input: values are taken from one of them", "leave one of the two out")
    if typed.get("trust") and "study" not in typed:
        raise UsageError("--trust is about a study file, and there is no --study", "leave --trust out")
    shared: dict[str, Any] = {}
    shown: dict[str, Any] = {}
    if "study" in typed:
        # few commands take their settings from a study file, and its parser takes 20 ms to import
        from millstone.cli.study_settings import shared_settings

        shared, shown = shared_settings(Path(typed["study"]), typed)
    step = make_step(command, {**shared, **typed}, {**shown, **typed})
    return replace(step, study=typed.get("study", ""))


def present(outcome: "Outcome") -> None:
    """Print a result and its summary."""
    step = outcome.step
    if outcome.marked:
        print_marked(outcome.marked)
    elif shown := _shown_table(outcome):
        print_table(shown, shown.table, step.output)
    else:
        print_table(outcome.result, outcome.chosen.table, step.output)
    if step.output.say:
        # few results are put into words
        from millstone.study.record.in_words import in_words

        say("", *map(str, in_words(outcome.result)), "")
    if not step.output.quiet:
        for line in summary(outcome):
            say(line)


def _shown_table(outcome: "Outcome") -> "Result | None":
    """The further table that was asked for in place of the first one."""
    step, tables = outcome.step, outcome.result.tables
    return next((tables[name] for name in step.command.tables if getattr(step.settings, name, "") == HERE), None)


def print_table(result: "Result", chosen: "Table", output: Output) -> None:
    """A table on a terminal, TSV into a pipe, there nothing when it was saved to a file."""
    if sys.stdout.isatty():
        # few results are shown on a terminal, and tables for one cost 40 ms to import
        from millstone.cli.terminal.screen import show_result

        hidden = show_result(result, output.top, output.columns, output.legend)
        if hidden and not output.output and not output.quiet:
            say(f"more columns in a saved file: {listed(hidden)}")
    elif not output.output and isinstance(result, MatrixResult):
        tsv_parts(result.matrix)(sys.stdout.write)
        sys.stdout.flush()
    elif not output.output:
        sys.stdout.writelines(as_tsv(columns_of_files(chosen, result.columns, output.columns)))
        sys.stdout.flush()


def print_marked(marked: "MarkedTexts") -> None:
    """The texts with what was counted in them: on a terminal in colours, into a pipe as plain lines."""
    # few texts are marked, and colours cost 40 ms to import
    from millstone.cli.terminal.marked_texts import as_plain, show_marked

    if sys.stdout.isatty():
        show_marked(marked)
    else:
        for line in as_plain(marked):
            print(line)
