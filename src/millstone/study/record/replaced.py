"""Notes on results that replace another one of a different kind, or of other inputs."""

import re
from collections.abc import Iterator, Sequence
from contextlib import suppress
from datetime import date
from pathlib import Path
from typing import Any

from millstone.analyses.base.step import Step
from millstone.core.base.errors import DataError
from millstone.core.base.wording import listed
from millstone.outputs.files.companion import read_companion

_MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "June", "July", "Aug", "Sept", "Oct", "Nov", "Dec")
_MARK = "made by millstone: "
_MADE_BY = re.compile(rb"made by millstone: ([^\x00-\x1f]+?) \|")
_LARGEST = 50_000_000


def made_by(command: str, inputs: Sequence[str]) -> str:
    """The command and its inputs without their folders, as ``freq journals``."""
    return f"{command} {listed([Path(one).name or one for one in inputs])}".strip()


def in_figure(command: str, inputs: Sequence[str]) -> str:
    """The words by which a figure says how it was made."""
    return f"{_MARK}{made_by(command, inputs)} |"


def replaced(step: Step[Any]) -> list[str]:
    """A note for each file that is there, and was made by another command or from other inputs."""
    now = made_by(step.command.name, step.inputs.input)
    notes = []
    for path, was in _as_they_are(step):
        if was and was != now:
            when = date.fromtimestamp(path.stat().st_mtime)
            notes.append(f"replaced {path} (was: {was}, {when.day} {_MONTHS[when.month - 1]})")
    return notes


def _as_they_are(step: Step[Any]) -> Iterator[tuple[Path, str]]:
    """The files there that the step will write, and by what they were made."""
    table, chart = Path(step.output.output or "."), Path(step.chart.chart or ".")
    if table.is_file():
        with suppress(DataError):
            companion = read_companion(table)
            # a workbook does not say what was typed
            inputs = companion.get("input", step.inputs.input)
            yield table, made_by(companion.get("made_by", companion["command"]), inputs) if companion else ""
    if chart.is_file() and chart.stat().st_size <= _LARGEST:
        found = _MADE_BY.search(chart.read_bytes())
        yield chart, found[1].decode("utf-8", "replace") if found else ""
