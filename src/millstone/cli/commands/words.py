"""The command words: the lists that ship, printed or written as a beginning of one's own."""

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from millstone.cli.terminal.console import put, say
from millstone.core.base.errors import UsageError
from millstone.core.base.wording import numbered
from millstone.core.settings.declare import build
from millstone.core.settings.output import Output
from millstone.core.settings.program import WordsSettings
from millstone.outputs.files.writing import Outputs
from millstone.texts.inputs.lists.shipped import forms_of, stop_words, what_ships

_LEMMAS, _STOP = "lemmas", "stop"
_HOW = "type millstone words stop CODE, CODE:CLASS, lemmas CODE --for WORD, or words alone for what there is"


def run(typed: Mapping[str, Any]) -> None:
    """Print a list, or write it.

    Raises
    ------
    MillstoneError
    """
    settings = build(WordsSettings, typed)
    asked = list(typed.get("input", ()))
    if not asked:
        if settings.for_ or settings.output:
            raise UsageError("words: no list is named", _HOW)
        put("\n".join(f"{kind}: {names}" for kind, names in what_ships()))
        return
    rows = _rows(asked, settings)
    if not settings.output:
        put("\n".join("\t".join(filter(None, row)) for row in rows))
        return
    path, output = Path(settings.output), build(Output, {"force": typed.get("force", False)})
    if path.suffix.lower() != ".txt":
        raise UsageError(f"-o {path}: a list is a text file", f"name it {path.with_suffix('.txt').name}")
    outputs = Outputs(output.force)
    outputs.claim(path)
    outputs.add(path, "".join(f"{word}  # {kind}\n" if kind else f"{word}\n" for word, kind in rows).encode())
    outputs.commit()
    if not typed.get("quiet"):
        say(f"wrote {path}: {numbered(len(rows), 'word')}; --stop {path} takes it")


def _rows(asked: Sequence[str], settings: WordsSettings) -> list[tuple[str, str]]:
    kind, *names = asked
    if kind == _LEMMAS:
        if len(names) != 1:
            raise UsageError("words lemmas: which language?", "type its code, as in words lemmas en --for go")
        if not settings.for_:
            raise UsageError("words lemmas: of which word?", f"type words lemmas {names[0]} --for WORD")
        return [row for word in settings.for_ for row in forms_of(names[0], word)]
    if settings.for_:
        raise UsageError("--for is of lemmas", "type words lemmas CODE --for WORD")
    if kind == _STOP:
        asked = names
    if len(asked) != 1:
        raise UsageError(f"words takes one list, not {len(asked)}", _HOW)
    return stop_words(asked[0])
