"""The commands run and demo: carry out all steps of a study file."""

import os
from collections.abc import Sequence
from pathlib import Path

from millstone.cli.console import Progress, say
from millstone.cli.options import Parser, add_common, add_settings, new_parser, parse
from millstone.core.declare import build
from millstone.core.errors import UsageError
from millstone.results.settings import Output

RUN_QUESTION = "carry out every step of a study file, in order"
RUN_EXAMPLES = ("run study.toml", "run study.toml --quiet")
DEMO_QUESTION = "copy the sample corpus into a folder and run the whole example study on it"
_TEXTS = {
    "the texts": ["guestbook.csv", "journals"],
    "the dictionary, the study file, and what is planted in the texts": [
        "dictionary.toml",
        "study.toml",
        "truth.toml",
    ],
}
_TO_TRY = (
    "millstone keyness guestbook.csv --text entry --group hut --stop en --top 10",
    "millstone freq journals --stop en --length 4..",
    "millstone chart results/logodds.csv --panels term --chart results/terms.png",
)


def _parser(name: str, about: str, examples: Sequence[str], what: str, explained: str, full: bool) -> Parser:
    made = new_parser(name, about, examples, what)
    made.add_argument_group("inputs").add_argument("input", nargs="*", metavar=what, help=explained)
    add_settings(made, Output, True, only=("force", "quiet"))
    add_common(made, full)
    return made


def run_parser(full: bool) -> Parser:
    """The parser of run."""
    about = f"{RUN_QUESTION}\n\nPaths in the file are taken from its own folder, outputs from its output folder."
    return _parser("run", about, RUN_EXAMPLES, "STUDY", "the study file", full)


def demo_parser(full: bool) -> Parser:
    """The parser of demo."""
    about = (
        f"{DEMO_QUESTION}\n\nThe corpus: the guest books and wardens' journals of three huts on one ridge, all\n"
        "made up. FOLDER is made if need be (default: millstone-demo)."
    )
    return _parser("demo", about, ("demo", "demo huts"), "[FOLDER]", "the folder to write to", full)


def run(arguments: Sequence[str]) -> None:
    """Carry out a study file.

    Raises
    ------
    MillstoneError
    """
    typed = parse(run_parser(full=False), arguments)
    files = typed.get("input", ())
    if len(files) != 1:
        raise UsageError("run takes one study file", "type millstone run study.toml")
    _carry_out(Path(files[0]), build(Output, typed))


def demo(arguments: Sequence[str]) -> None:
    """Write the sample corpus and run its study.

    Raises
    ------
    MillstoneError
    """
    from millstone.study.sample import write_sample

    typed = parse(demo_parser(full=False), arguments)
    folders = typed.get("input", ("millstone-demo",))
    if len(folders) != 1:
        raise UsageError("demo takes one folder", "type millstone demo FOLDER")
    folder = Path(folders[0])
    output = build(Output, typed)
    number = write_sample(folder, output.force)
    if not output.quiet:
        say(f"wrote the sample corpus to {folder}: {number} files")
    written = _carry_out(folder / "study.toml", output)
    if not output.quiet:
        say(f"\nWhere to look, in {folder}:")
        for question, files in {**_TEXTS, **written}.items():
            say(f"  {question}\n      {', '.join(files)}")
        say(f"\nTo try next, after: cd {folder}")
        for command in _TO_TRY:
            say(f"  {command}")


def _carry_out(path: Path, output: Output) -> dict[str, list[str]]:
    """Carry out a study file and return, by question, the tables and figures that were written."""
    from millstone.cli.summary import summary
    from millstone.study.carry import carry_out_study, claim_study
    from millstone.study.model import read_study

    progress = Progress(shown=not output.quiet)
    study = read_study(path)
    outputs = claim_study(study, output.force)
    if not output.quiet:
        say(f"{study.title}: {len(study.steps)} steps")
    written: dict[str, list[str]] = {}
    for number, outcome in enumerate(carry_out_study(study, outputs, progress), 1):
        progress.close()
        question = outcome.step.command.question
        to_look_at = [os.path.relpath(file, path.parent) for file in outcome.written if file.suffix != ".json"]
        written.setdefault(question, []).extend(to_look_at)
        if not output.quiet:
            say(f"\n{number}. {outcome.step.command.name}: {question}")
            for line in summary(outcome):
                say(f"   {line}")
    return written
