"""The command demo: the sample corpus, and its study carried out."""

from collections.abc import Mapping
from typing import Any

from millstone.cli.commands.run import carry_out
from millstone.cli.options import one_input
from millstone.cli.terminal.console import say
from millstone.core.settings.declare import build
from millstone.core.settings.output import Output
from millstone.core.settings.program import RunSettings
from millstone.study.sample import write_sample

_TEXTS = {
    "the texts": ["guestbook.csv", "journals"],
    "the dictionary, the study file, and what is planted in the texts": [
        "dictionary.toml",
        "study.toml",
        "truth.toml",
    ],
    "sentences with the codes of three invented coders": ["coding.csv"],
}
_TO_TRY = (
    "millstone keyness guestbook.csv --text entry --group hut --stop en --top 10",
    "millstone freq journals --stop en --length 4..",
    "millstone chart results/logodds.csv --panels term --chart results/terms.png",
)


def run(typed: Mapping[str, Any]) -> None:
    """Write the sample corpus and run its study.

    Raises
    ------
    MillstoneError
    """
    folder = one_input(typed, "demo takes one folder", "type millstone demo FOLDER", "millstone-demo")
    output = build(Output, typed)
    number = write_sample(folder, output.force)
    if not output.quiet:
        say(f"wrote the sample corpus to {folder}: {number} files")
    written = carry_out(folder / "study.toml", output, RunSettings(trust=True))
    if not output.quiet:
        say("", f"Where to look, in {folder}:")
        for question, files in {**written, **_TEXTS}.items():
            say(f"  {question}", f"      {', '.join(files)}")
        say("", f"To try next, after: cd {folder}")
        for command in _TO_TRY:
            say(f"  {command}")
