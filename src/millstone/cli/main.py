"""The program: find the command, carry it out, turn errors into two lines and an exit status."""

import signal
import sys
from collections.abc import Sequence
from importlib import import_module

from millstone.analyses import COMMANDS
from millstone.cli.internal_errors import explained
from millstone.cli.options import parse
from millstone.cli.parsers import FIRST, ORDER, by_heading, parser_named, questions
from millstone.cli.signals import (
    Terminated,
    at_the_end,
    discard_output,
    end_by,
    hush,
    listen,
    open_streams,
    stop_listening,
    was_interrupted,
    write_utf8_into_pipes,
)
from millstone.cli.status import Status
from millstone.cli.terminal.console import report, say
from millstone.core.base.errors import MillstoneError, UsageError
from millstone.core.base.wording import nearest

SHELLS = ("bash", "zsh", "fish")
"""The shells that have a completion script, which is made beforehand: to ask all parsers takes long."""
_HELP = ("-h", "--help", "--help-all")
# what people call a thing elsewhere, and the commands that do it, the nearest first
_MEANT = {
    **dict.fromkeys(
        ("kwic", "concordancer", "concordance", "context", "contexts", "lines"), ("concordance", "check")
    ),
    **dict.fromkeys(("wordlist", "wordlists", "frequency", "frequencies", "count"), ("freq",)),
    **dict.fromkeys(("stopwords", "stop", "lists", "list", "lemmas"), ("words",)),
    **dict.fromkeys(("keywords", "keyword", "distinctive"), ("keyness",)),
    **dict.fromkeys(("dictionary", "category", "codes", "lexicon"), ("categories",)),
    **dict.fromkeys(("compare", "test", "difference", "differences"), ("contrast",)),
    **dict.fromkeys(("plot", "figure", "graph", "draw"), ("chart",)),
    **dict.fromkeys(("dtm", "document-term"), ("matrix",)),
    **dict.fromkeys(("statistics", "stats", "summary", "richness"), ("profile",)),
    **dict.fromkeys(("example", "sample", "tutorial"), ("demo",)),
    **dict.fromkeys(("clean", "inspect", "validate"), ("check",)),
}
_RESERVED = 8 << 20


def main(arguments: Sequence[str] | None = None) -> int:
    """Run millstone and return its exit status."""
    arguments = list(sys.argv[1:] if arguments is None else arguments)
    open_streams()
    reserve = bytearray(_RESERVED)
    hush(debug="--debug" in arguments)
    name = arguments[0] if arguments and arguments[0] in ORDER else ""
    label = f"millstone {name}".strip()
    try:
        listen()
        write_utf8_into_pipes()
        program(arguments)
        sys.stdout.flush()
        return Status.DONE
    except MillstoneError as error:
        if "--debug" in arguments:
            raise
        report(label, error)
        return Status.COMMAND_LINE_AT_FAULT if isinstance(error, UsageError) else Status.DATA_AT_FAULT
    except BrokenPipeError:
        # the reader of a pipe has seen enough
        discard_output()
        return Status.DONE
    except KeyboardInterrupt:
        return _interrupted(label)
    except Terminated:
        at_the_end()
        say(f"{label}: ended from outside, nothing further was written")
        discard_output()
        end_by(signal.SIGTERM)
        raise
    except Exception as error:
        if "--debug" in arguments:
            raise
        if was_interrupted():
            return _interrupted(label)
        # release the reserve so that an out-of-memory message can be printed
        reserve.clear()
        discard_output()
        report(label, explained(error))
        return Status.DATA_AT_FAULT
    finally:
        stop_listening()


def _interrupted(label: str) -> int:
    at_the_end()
    say(f"{label}: interrupted, nothing further was written")
    discard_output()
    return Status.INTERRUPTED


def program(arguments: Sequence[str]) -> None:
    """Carry out what was typed.

    Raises
    ------
    MillstoneError
    """
    if not arguments or arguments[0] in _HELP:
        print(overview())
        return
    name, rest = arguments[0], arguments[1:]
    if name in _OF_PROGRAM:
        import_module(_OF_PROGRAM[name]).show(rest)
    elif name == "--completion":
        _completion(rest)
    elif name not in ORDER:
        meant = next((one for one in _MEANT.get(name.lower().strip("-"), ()) if one in ORDER), "")
        near = f"; did you mean {meant!r}?" if meant else nearest(name, ORDER)
        raise UsageError(f"there is no command {name!r}{near}", f"the commands are {', '.join(ORDER)}")
    else:
        _command(name, *_carried_out(name, rest))


def _command(name: str, of: str, rest: Sequence[str]) -> None:
    """Carry out a command, on another one where that is typed after its name; or print its help."""
    if any(one in _HELP for one in rest):
        parser_named(name, full="--help-all" in rest, of=of).print_help()
        return
    typed = parse(parser_named(name, full=False, of=of), rest)
    if name in COMMANDS:
        import_module("millstone.cli.commands.analysis").run(name, {**typed, "of": of} if of else typed)
    else:
        import_module(f"millstone.cli.commands.{name}").run(typed)


def _carried_out(name: str, rest: Sequence[str]) -> tuple[str, Sequence[str]]:
    """The command that another one carries out, where it is one of those, and what is typed after it."""
    known = COMMANDS[name].varies if name in COMMANDS else ()
    first = next(iter(rest), "")
    if not known or first in _HELP:
        return "", rest
    if first not in known:
        what = f"and {first!r} is not one{nearest(first, known)}" if first else "and there is none"
        raise UsageError(
            f"{name} is followed by the command that it carries out, {what}",
            f"type {name} and one of {', '.join(known)}",
        )
    return first, rest[1:]


def _completion(arguments: Sequence[str]) -> None:
    if len(arguments) != 1 or arguments[0] not in SHELLS:
        raise UsageError("--completion is not followed by a shell", f"type one of {', '.join(SHELLS)} after it")
    from pkgutil import get_data

    print((get_data("millstone.data", f"completion/{arguments[0]}") or b"").decode("utf-8"), end="")


_OF_PROGRAM = {
    "--cite": "millstone.study.record.versions",
    "--version": "millstone.cli.environment",
    "--columns-of": "millstone.cli.manual.columns",
}
"""Option of the program itself -> the module whose `show` prints it."""


def overview() -> str:
    """The overview that ``millstone`` alone prints: the commands by the part of the work that they are for."""
    asked = questions()
    lines = []
    for heading, names in by_heading().items():
        lines.append(heading)
        lines += [f" {'*' if name in FIRST else ' '} {name:<12}{asked[name]}" for name in names]
    return "\n".join(
        [
            "millstone: frequency lists, keyness, weighted log odds and dictionary categories",
            "for several sub-corpora, with charts.",
            "",
            "  millstone COMMAND INPUT... [options]       (* the five commands to begin with)",
            "",
            *lines,
            "",
            "First steps:",
            "  millstone demo huts                        an example study in the folder huts",
            "  millstone check MY_FOLDER                  what is in it, and what looks wrong",
            "  millstone freq MY_FOLDER                   a list for each of its subfolders",
            "  millstone keyness a=ONE_FOLDER b=ANOTHER   which words set two folders apart",
            "  millstone concordance MY_FOLDER --find X   every place of a word in context",
            "  millstone COMMAND --help                   how to use a command, with examples",
            "",
            "  --version   the version (with --debug: of everything, for a bug report)",
            "  --cite      how to cite millstone",
            "  --completion bash|zsh|fish   completion of commands, options and values",
        ]
    )
