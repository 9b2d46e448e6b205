"""The parameters of the library's functions: names, types, defaults and meanings, from the declarations."""

import keyword
import re
from collections.abc import Iterator
from dataclasses import MISSING, Field, dataclass
from typing import Any

from millstone.analyses import COMMANDS
from millstone.analyses.base.command import Command
from millstone.core.settings.declare import declared, written
from millstone.core.settings.inputs import Inputs
from millstone.core.settings.kind import Kind

# what only a screen shows
_OF_SCREENS = ("legend", "say", "quiet")
_HEAD = '''"""The analyses of millstone as functions."""

# made by tools/reference.py from the declarations of the settings

import os
from collections.abc import Sequence
from typing import Literal

from millstone.library.analysis import Analysis
from millstone.library.inputs import Texts

__version__: str
_Words = str | Sequence[str]
_Path = str | os.PathLike[str]
'''


@dataclass(frozen=True)
class Parameter:
    """A keyword argument: its name, the type that an editor shows, its default, and what it does."""

    name: str
    kind: str
    default: Any
    meaning: str


def parameters(command: Command) -> Iterator[Parameter]:
    """The keyword arguments of a command's function, its own first."""
    for part in command.parts():
        if part is Inputs:
            continue
        for name, one in declared(part).items():
            kind: Kind = one.metadata["kind"]
            if name in _OF_SCREENS or kind.study_only:
                continue
            given = f"{name}_" if keyword.iskeyword(name) else name
            yield Parameter(given, _type_of(kind, one, name in command.tables), _default_of(kind, one), _said(one))


def _said(one: Field[Any]) -> str:
    return str(one.metadata["help"])


def _default_of(kind: Kind, one: Field[Any]) -> Any:
    if one.default is MISSING:
        return None
    if one.default is None or isinstance(one.default, bool | int | float | str) or one.default == ():
        return one.default
    shown = written(kind, one.default)
    return None if shown == ".." else shown


def _type_of(kind: Kind, one: Field[Any], may_be_shown: bool) -> str:
    is_path = kind.is_output or (kind.is_path("a/b.csv") and not kind.repeatable)
    is_range = isinstance(one.default, tuple) and one.default and isinstance(one.default[0], int)
    words = kind.placeholder.split("|") if re.fullmatch("[a-z_]+([|][a-z0-9_]+)+", kind.placeholder) else []
    words += [""] if one.default == "" else []
    known = {
        "float | None": one.default is None,
        "bool": kind.switch,
        f"Literal[{', '.join(map(repr, words))}]": any(words) and not kind.repeatable,
        "_Path | bool": is_path and may_be_shown,
        "_Path": is_path,
        "str | int | Sequence[int] | None": is_range,
        "float": isinstance(one.default, float),
        "int": isinstance(one.default, int),
        "_Words": kind.repeatable or kind.joined_by,
    }
    return next((name for name, fits in known.items() if fits), "str")


def _summary(command: Command) -> str:
    end = "" if command.question.endswith("?") else "."
    return f"{command.question[0].upper()}{command.question[1:]}{end}"


def docstring(command: Command) -> str:
    """The text that help() shows for a function."""
    lines = [_summary(command), "", command.about, "", "Parameters", "----------"]
    texts = "Paths, DataFrames, lists of texts, or these by the names of their groups."
    lines += ["*inputs", f"    {texts if command.reads_texts else 'Paths of what another command has saved.'}"]
    for one in parameters(command):
        lines += [f"{one.name} : {one.kind.replace('_Words', 'str or list of str').replace('_Path', 'path')}"]
        lines += [f"    {one.meaning}"]
    if command.varies:
        lines += ["**options", "    Options of the command that is carried out."]
    return "\n".join([*lines, "", "Returns", "-------", "Analysis", "", "Raises", "------", "MillstoneError"])


def stub() -> str:
    """The functions as an editor reads them."""
    found = [_HEAD]
    for name, command in COMMANDS.items():
        given = ["    *inputs: Texts,"]
        given += [f"    {one.name}: {one.kind} = {one.default!r}," for one in parameters(command)]
        given += ["    **options: object,"] if command.varies else []
        body = f'    """{_summary(command)}"""'
        found.append("\n".join([f"def {name}(", *given, ") -> Analysis:", body]))
    return "\n".join([found[0], "\n\n".join(found[1:])]).replace("'", '"') + "\n"
