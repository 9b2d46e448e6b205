"""A look at the beginning of text files: lines that recur, and what parts a single text."""

from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

from millstone.analyses.base.guards.delimiter import Delimiters, unit_option
from millstone.analyses.base.guards.running import LinesOfText, RunningLines
from millstone.analyses.base.step import Step
from millstone.core.base.wording import numbered
from millstone.texts.inputs.provenance import SourceFile
from millstone.texts.scanned_texts import ScannedTexts

_FILES = 30
_MOST = 120_000
_SHARE = 0.05


def seen_at_the_beginning(step: Step[Any], material: ScannedTexts) -> list[str]:
    """Notes on lines that recur, and on a single text that something cuts into pieces.

    Parameters
    ----------
    step : Step
    material : ScannedTexts
        Texts; of up to 30 files of plain text the beginnings are looked at, 120,000 bytes in all.
    """
    files = [file for file in material.provenance.files if file.path.endswith(".txt") and Path(file.path).is_file()]
    if not files or step.reading.unit.kind != "whole":
        return []
    if len(material.corpus.documents) == 1:
        return _delimiter(next(_beginnings(files)))
    return [] if step.preparation.drop_running else _running(_beginnings(files))


def _beginnings(files: Sequence[SourceFile]) -> Iterator[str]:
    """The beginnings of some files, evenly chosen."""
    chosen = [files[number * len(files) // _FILES] for number in range(_FILES)] if len(files) > _FILES else files
    for file in chosen:
        with Path(file.path).open("rb") as opened:
            yield opened.read(max(_MOST // len(chosen), 1)).decode("utf-8", "replace")


def _delimiter(text: str) -> list[str]:
    delimiters = Delimiters()
    delimiters.add(text)
    sign, times = delimiters.likeliest()
    if not sign:
        return []
    return [
        f"one text, in which {sign.strip()!r} stands {numbered(times, 'time')} or more: {unit_option(sign)} makes "
        "documents of its pieces"
    ]


def _running(texts: Iterator[str]) -> list[str]:
    running, tokens = RunningLines(), 0
    for text in texts:
        lines = LinesOfText()
        lines.add(text)
        tokens += len(text.split())
        if lines.several:
            running.add(lines.pages)
    found = running.found()
    share = sum(one.tokens for one in found) / max(tokens, 1)
    if share < _SHARE:
        return []
    return [
        f"lines that recur, such as {found[0].line[:60]!r}, are {100 * share:.0f} % of the words looked at: "
        "--drop-running N leaves them out (check says which N)"
    ]
