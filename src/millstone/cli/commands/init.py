"""The command init: write a first study file."""

from collections.abc import Sequence
from pathlib import Path

from millstone.cli.options import Parser, add_common, add_one_input, new_parser, one_input, parse
from millstone.cli.terminal.console import say
from millstone.core.base.errors import DataError
from millstone.core.base.wording import escaped

QUESTION = "write a commented study file for a folder or a table"
EXAMPLES = ("init guestbook.csv -o my_study.toml", "init journals -o journals.toml")


def parser(full: bool) -> Parser:
    """The parser of init."""
    about = (
        f"{QUESTION}\n\nLooks at the texts, guesses the columns of text, id and groups and the language of the\n"
        "stop list, and writes a study that runs as it stands. An existing file is never overwritten."
    )
    made = new_parser("init", about, EXAMPLES, "PATH")
    add_one_input(made, "PATH", "the folder or the table")
    group = made.add_argument_group("output")
    group.add_argument("-o", "--output", metavar="FILE", help="the study file to write (default: study.toml)")
    group.add_argument("--quiet", action="store_true", help="say nothing when it is written")
    add_common(made, full)
    return made


def run(arguments: Sequence[str]) -> None:
    """Write a study file.

    Raises
    ------
    MillstoneError
    """
    typed = parse(parser(full=False), arguments)
    from millstone.study.init_template import draft
    from millstone.texts.inputs.files import at_home

    source = one_input(typed, "init takes one folder or table", "type millstone init PATH")
    study = Path(typed.get("output", "study.toml"))
    if study.exists():
        raise DataError(f"{study} already exists, and init overwrites nothing", "name another file with -o FILE.toml")
    if escaped(str(source)) != str(source):
        raise DataError(f"{source}: its name is not in UTF-8, as a study file is", "rename it first")
    content = draft(at_home(source), study)
    try:
        with study.open("x", encoding="utf-8", newline="\n") as file:
            file.write(content)
    except OSError as error:
        reason = (error.strerror or str(error)).lower()
        raise DataError(f"{study} cannot be written: {reason}", "name a file in a folder you may write to") from error
    _trust(study)
    if not typed.get("quiet"):
        say(f"wrote {study}")
        say(f"look at it, then: millstone run {study}")


def _trust(study: Path) -> None:
    """Remember that the user wants the study that was just written to read what it names."""
    from millstone.outputs.disk.trusted import remember
    from millstone.study.study_file import read_study
    from millstone.study.trust import named_outside

    if named := named_outside(read_study(study), study):
        remember(study, named)
