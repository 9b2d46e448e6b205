"""The options of a command, made from the declarations of its settings."""

import argparse
import shutil
import textwrap
from collections.abc import Mapping, Sequence
from dataclasses import MISSING, Field
from typing import TYPE_CHECKING, Any, NoReturn

from millstone.core.base.addresses import CREDENTIALS
from millstone.core.base.errors import UsageError
from millstone.core.base.wording import nearest
from millstone.core.settings.declare import declared, option, written
from millstone.core.settings.inputs import CountedOptions, FrequencyListOptions, InputOptions, Inputs, TableOptions
from millstone.core.settings.kind import Kind
from millstone.core.settings.kinds import path_text
from millstone.core.settings.output import Output
from millstone.core.settings.preparation import Preparation, Work

if TYPE_CHECKING:
    from pathlib import Path

SHARED = {
    InputOptions: "input",
    TableOptions: "input",
    FrequencyListOptions: "lists and fields",
    CountedOptions: "fields",
    Preparation: "preparation",
    Output: "output",
    Work: "work",
}


# a terminal that says it is narrower is not believed
_NARROWEST = 20


class Once(argparse.Action):
    """Keeps the value of an option that is typed once; names with commas between them may come in several."""

    def __call__(self, parser: Any, namespace: Any, values: Any, option_string: str | None = None) -> None:
        before = getattr(namespace, self.dest, None)
        if before is not None and not isinstance(values, tuple):
            raise UsageError(f"{option_string} is typed twice, and takes one value", "leave one of the two out")
        setattr(namespace, self.dest, values if before is None else before + values)


class Parser(argparse.ArgumentParser):
    """An argument parser that raises UsageError."""

    def error(self, message: str) -> NoReturn:
        raise UsageError(*_explained(message, self))


def _explained(message: str, parser: argparse.ArgumentParser) -> tuple[str, str]:
    if "expected one argument" in message:
        name = message.removeprefix("argument ").split(":")[0].split("/")[-1]
        return (
            f"{name} is not followed by a value",
            f"type the value after it; one that begins with - is typed {name}=-value",
        )
    if message.startswith("unrecognized arguments:"):
        unknown = next(iter(message.partition(": ")[2].split()), "")
        if not unknown.startswith("-"):
            return f"{parser.prog} takes no {unknown!r}", f"{parser.prog} --help shows how to type it"
        known = [name for action in parser._actions for name in action.option_strings]
        # what follows the sign may be an address that must not be shown
        unknown = unknown.partition("=")[0]
        return (
            f"there is no option {unknown}{nearest(unknown, known)}",
            f"{parser.prog} --help-all lists the options",
        )
    if "ignored explicit argument" in message:
        return (
            f"{message.removeprefix('argument ').split(':')[0].split('/')[0]} takes no value",
            "leave out what follows the =",
        )
    what = message.removeprefix("argument ")
    name = what.partition(":")[0].split("/")[-1]
    alone = next((one for one in parser._actions if one.nargs == "?" and name in one.option_strings), None)
    if alone is not None:
        return what, f"type {name} alone after the inputs, or with its value: {name}={alone.metavar}"
    return what, f"{parser.prog} --help shows how to type it"


def new_parser(name: str, about: str, examples: Sequence[str], what: str = "INPUT...") -> Parser:
    """A parser with the worked examples below its options."""
    where = "" if name == "demo" else ", in the folder that millstone demo makes"
    epilog = "\n".join([f"examples{where}:", *(f"  millstone {example}" for example in examples)])
    parser = Parser(
        prog=f"millstone {name}",
        usage=" ".join(filter(None, ("millstone", name, what, "[options]"))),
        description="\n\n".join(textwrap.fill(paragraph, _width()) for paragraph in about.split("\n\n")),
        epilog=epilog,
        formatter_class=argparse.RawDescriptionHelpFormatter,
        allow_abbrev=False,
        add_help=False,
        argument_default=argparse.SUPPRESS,
    )
    return parser


def _width() -> int:
    return min(max(shutil.get_terminal_size().columns - 2, _NARROWEST), 100)


def add_one_input(parser: Parser, what: str, explained: str) -> None:
    """The input of a command that takes one; `one_input` gives it."""
    parser.add_argument_group("inputs").add_argument("input", nargs="*", metavar=what, type=_input, help=explained)


def one_input(typed: Mapping[str, Any], fault: str, remedy: str, default: str = "") -> "Path":
    """The only input that was typed, or the default.

    Raises
    ------
    UsageError
        For none or several.
    """
    found = typed.get("input", (default,) if default else ())
    if len(found) != 1:
        raise UsageError(fault, remedy)
    from pathlib import Path

    return Path(found[0])


def add_common(parser: argparse.ArgumentParser, full: bool) -> None:
    """The options every command has."""
    group = parser.add_argument_group("help")
    group.add_argument("-h", "--help", action="store_true", help="this help")
    group.add_argument("--help-all", action="store_true", help="every option, each with its explanation")
    hidden = None if full else argparse.SUPPRESS
    group.add_argument(
        "--debug", action=argparse.BooleanOptionalAction, help=hidden or "show where in the program an error arose"
    )


def rare_ones(settings: type) -> list[str]:
    """The options of a dataclass that only the whole help explains."""
    return [option(name) for name, one in _typed_ones(settings).items() if one.metadata["rare"]]


def add_settings(
    parser: argparse.ArgumentParser,
    settings: type,
    full: bool,
    title: str = "",
    only: Sequence[str] = (),
    also: Sequence[str] | None = None,
    brief: bool = False,
) -> None:
    """Options from a dataclass, all or `only` some, rare ones last; shared ones are one line unless `full`.

    `also` are the options that the group names and does not explain, instead of its own rare ones; a `brief` group
    names all of its own.
    """
    title = title or SHARED.get(settings, "options")
    brief = brief or (settings in SHARED and not full)
    wanted = {name: one for name, one in _typed_ones(settings).items() if not only or name in only}
    names = [one.metadata["letter"] or option(_shown_name(name, one)) for name, one in wanted.items()]
    listed = _listed([*names, *(["--study"] if settings is InputOptions else [])])
    rare = [] if brief or full else [option(name) for name, one in wanted.items() if one.metadata["rare"]]
    if not brief:
        named = [] if full else rare if also is None else also
        said = _listed(["also,", "explained", "by", "--help-all:", *named]) if named else None
        group: Any = parser.add_argument_group(title, said)
    else:
        # few will ask how the work is done
        group = parser if settings is Work else parser.add_argument_group(title, listed)
    for name, one in sorted(wanted.items(), key=lambda named: named[1].metadata["rare"]):
        _add_option(group, name, one, full, hidden=brief or option(name) in rare)


def _listed(words: Sequence[str]) -> str:
    # a group's description is indented by two
    return textwrap.fill(" ".join(words), _width() - 2, break_on_hyphens=False)


def _typed_ones(settings: type) -> dict[str, Field[Any]]:
    kinds = {name: one.metadata["kind"] for name, one in declared(settings).items()}
    return {
        name: one
        for name, one in declared(settings).items()
        if not (kinds[name].study_only or kinds[name].positional)
    }


def _shown_name(name: str, one: Field[Any]) -> str:
    return f"no_{name}" if one.metadata["kind"].switch and one.default else name


def _add_option(group: Any, name: str, one: Field[Any], full: bool, hidden: bool) -> None:
    kind: Kind = one.metadata["kind"]
    said = one.metadata["off"] or one.metadata["help"] + _default(kind, one)
    if full and kind.metavar and kind.known is not None:
        said += f" (measures: {', '.join(kind.known())})"
    explained = argparse.SUPPRESS if hidden else said.replace("%", "%%")
    names = [letter for letter in (one.metadata["letter"],) if letter] + [option(name)]
    if kind.switch:
        # the form that changes something is shown, its opposite is understood
        forms = {True: names, False: [option(f"no_{name}")]}
        for value, typed in forms.items():
            shown = argparse.SUPPRESS if value == one.default else explained
            group.add_argument(*typed, dest=name, action="store_const", const=value, help=shown)
        return
    action: Any = "extend" if kind.repeatable else Once
    more: dict[str, Any] = {"nargs": "?", "const": kind.read(kind.alone)} if kind.alone else {}
    group.add_argument(
        *names, dest=name, type=_type(kind), metavar=kind.placeholder, action=action, help=explained, **more
    )
    if former := one.metadata["formerly"]:
        group.add_argument(option(former), dest=name, type=_type(kind), action=action, help=argparse.SUPPRESS, **more)


def _default(kind: Kind, one: Field[Any]) -> str:
    if kind.switch or one.default in (MISSING, "", (), 0, None, (0, None), (1, 1)):
        return ""
    return f" (default: {written(kind, one.default)})"


def _type(kind: Kind) -> Any:
    def read(typed: str) -> Any:
        try:
            return kind.several(typed) if kind.repeatable else kind.read(typed)
        except ValueError as error:
            raise argparse.ArgumentTypeError(str(error)) from error

    return read


def add_inputs(parser: argparse.ArgumentParser, metavar: str = "INPUT", explained: str = "") -> None:
    """The inputs, typed without an option; texts where nothing else is `explained`."""
    explained = explained or declared(Inputs)["input"].metadata["help"]
    parser.add_argument_group("inputs").add_argument("input", nargs="*", metavar=metavar, type=_input, help=explained)


def _input(typed: str) -> str:
    """An input as typed; an address that holds what opens a door goes into no message."""
    try:
        return path_text(typed) if typed.strip() else typed
    except ValueError as error:
        raise UsageError(f"an address {error}", f"leave it out: {CREDENTIALS}") from None


def add_study(parser: argparse.ArgumentParser, full: bool) -> None:
    """``--study``, which may hold inputs and shared settings."""
    group: Any = parser.add_argument_group("study") if full else parser
    group.add_argument(
        "--study",
        metavar="FILE",
        action=Once,
        type=_input,
        help="take inputs, input settings and preparation from a study file" if full else argparse.SUPPRESS,
    )
    group.add_argument(
        "--trust",
        action="store_true",
        help="let that study name what lies outside its own folder; typed once, it is remembered"
        if full
        else argparse.SUPPRESS,
    )


def parse(parser: Parser, arguments: Sequence[str]) -> dict[str, Any]:
    """Parse the arguments into values by name; options left out are absent.

    Raises
    ------
    UsageError
    """
    options = {form for action in parser._actions for form in action.option_strings}
    for one in arguments:
        name = one.removesuffix("--").removesuffix("=")
        # the library takes two hyphens out wherever they stand
        if one not in options and name in options:
            raise UsageError(f"{name} cannot be '--'", "type another value")
    typed = vars(parser.parse_intermixed_args(list(arguments)))
    return {
        name: tuple(value) if isinstance(value, list) else value
        for name, value in typed.items()
        if not (name == "input" and not value)
    }
