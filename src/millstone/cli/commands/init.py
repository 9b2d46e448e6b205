"""The command init: write a first study file."""

from collections.abc import Mapping
from pathlib import Path
from typing import Any

from millstone.cli.options import one_input
from millstone.cli.terminal.console import say
from millstone.core.base.errors import DataError
from millstone.core.base.wording import escaped
from millstone.outputs.disk.trusted import remember
from millstone.study.init_template import draft
from millstone.study.study_file import read_study
from millstone.study.trust import named_outside
from millstone.texts.inputs.files import at_home


def run(typed: Mapping[str, Any]) -> None:
    """Write a study file.

    Raises
    ------
    MillstoneError
    """
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
    if named := named_outside(read_study(study), study):
        remember(study, named)
