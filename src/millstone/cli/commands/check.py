"""The command check on the screen."""

import sys
from collections.abc import Mapping
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from millstone.analyses import STEPS
from millstone.analyses.base.step import Step
from millstone.analyses.check.compute import check, explain, first_documents
from millstone.analyses.check.findings import to_apply
from millstone.cli.commands.analysis import print_table, step_from
from millstone.cli.terminal.console import Progress, broken, put, say, width_of_errors
from millstone.core.base.errors import DataError
from millstone.core.base.wording import listed, numbered
from millstone.core.settings.output import HERE
from millstone.study.outputs import claimed, save
from millstone.study.record.summary import cleaned_lines, settings_lines

if TYPE_CHECKING:
    from millstone.analyses.check.compute import Checked
    from millstone.texts.inputs.provenance import Provenance

_SHOWN, _LEAST = 5, 1
# besides its rows a table has its heading, a rule, a blank line, and lines of the rows and columns not shown
_SCREEN, _ABOVE_ROWS, _LEAST_ROWS = 24, 6, 3
_LEAST_TABLE = _ABOVE_ROWS + _LEAST_ROWS
_PIECES = 5


def run(typed: Mapping[str, Any]) -> None:
    """Check texts as typed.

    Raises
    ------
    MillstoneError
        Under ``--strict`` also when something looks wrong.
    """
    step = step_from(STEPS["check"], typed)

    outputs = claimed(step)
    progress = Progress(shown=not step.output.quiet)
    try:
        if step.settings.explain:
            lines = explain(step, progress)
            progress.close()
            put("\n".join(lines))
            return
        if step.settings.show:
            _show(step)
            return
        checked = check(step, progress)
    finally:
        progress.close()
    _present(step, checked)
    for path in save(step, checked.result, checked.provenance, outputs):
        say(f"wrote {path}")
    if checked.findings and step.work.strict:
        number = len(checked.findings)
        raise DataError(
            f"{number} {'thing looks' if number == 1 else 'things look'} wrong", "fix them as the lines above say"
        )


def _show(step: Step[Any]) -> None:

    for document in first_documents(step):
        fields = "; ".join(f"{name}: {value}" for name, value in document.metadata.items() if value)
        put(f"== {document.name}, group {document.group}{'; ' if fields else ''}{fields}\n")
        put(f"{document.whole().text.strip()}\n")


def _present(step: Step[Any], checked: "Checked") -> None:
    here = [name for name in step.command.tables if getattr(step.settings, name) == HERE]
    for listing in (checked.result.tables[name] for name in here if name in checked.result.tables):
        print_table(listing, listing.table, step.output)
        return
    every = step.settings.all or not sys.stderr.isatty() or not sys.stdout.isatty()
    shown = len(checked.findings) if step.settings.all else _SHOWN
    lines = _lines(step, checked, shown)
    while not every and shown > _LEAST and _height(lines) + _LEAST_TABLE > _SCREEN:
        shown -= 1
        lines = _lines(step, checked, shown)
    rows = 0 if every else max(_SCREEN - _height(lines) - _ABOVE_ROWS, _LEAST_ROWS)
    print_table(checked.result, checked.result.table, replace(step.output, top=rows))
    if not step.output.quiet:
        say(*lines)


def _height(lines: list[str]) -> int:
    """How many lines they take on the terminal."""
    width = width_of_errors()
    return sum(broken(line, width).count("\n") + 1 for line in lines)


def _lines(step: Step[Any], checked: "Checked", shown: int) -> list[str]:
    """The lines below the table, with so many of the findings."""
    lines = [*_of_reading(checked.provenance), *_left_out(step, checked), f"language: {checked.language}"]
    lines += [f"note: {note}" for note in checked.provenance.notes]
    lines.append("")
    for finding in checked.findings[:shown]:
        lines += [f"looks wrong: {finding.what}", f"  to fix it: {finding.remedy}"]
    folded = checked.findings[shown:]
    if folded:
        rest = numbered(len(folded), "more thing")
        lines.append(f"{rest} {'looks' if len(folded) == 1 else 'look'} wrong: --all lists everything")
    if not checked.findings:
        lines.append("nothing looks wrong")
    if applied := to_apply(checked.findings):
        lines.append(f"to apply all of it: {applied}")
    return lines


def _of_reading(provenance: "Provenance") -> list[str]:
    encodings = ", ".join(f"{number:,} in {name}" for name, number in provenance.encodings.items())
    lines = [f"read {numbered(len(provenance.files), 'file')}{': ' if encodings else ''}{encodings}"]
    if provenance.empty_cells:
        lines.append(f"left out {numbered(provenance.empty_cells, 'row')} without text")
    if provenance.filtered:
        lines.append(f"left out {numbered(provenance.filtered, 'document')} that --where excludes")
    for why in dict.fromkeys(why for _, why in provenance.skipped):
        names = [name for name, reason in provenance.skipped if reason == why]
        lines.append(f"skipped {numbered(len(names), 'file')} ({why}): {listed(names)}")
    return lines


def _left_out(step: Step[Any], checked: "Checked") -> list[str]:

    cleaned = checked.cleaned
    lines = []
    if checked.too_short:
        least = numbered(step.preparation.min_tokens, "token")
        lines.append(f"left out {numbered(checked.too_short, 'document')} under {least}")
    if cleaned.repeats:
        lines.append(
            f"left out {numbered(len(cleaned.repeats), 'document')} with a text that occurred before: "
            f"{listed(cleaned.repeats)}"
        )
    if cleaned.near_duplicates:
        lines.append(
            f"left out {numbered(len(cleaned.near_duplicates), 'document')} with nearly the text of another: "
            f"{listed(cleaned.near_duplicates)}"
        )
    lines += cleaned_lines(cleaned)
    for pieces in (cleaned.running, *cleaned.pieces.values()):
        most = pieces.most_common(_PIECES)
        lines += [
            f"  {f'{number:,} times' if number > 1 else 'once'}: {' '.join(line.split())[:80]}"
            for line, number in most
        ]
    return [*lines, *settings_lines(step)]
