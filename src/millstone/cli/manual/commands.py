"""The content of manual pages, read off the parser of each command."""

import argparse
import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from functools import partial

from millstone.analyses import COMMANDS
from millstone.cli.options import Parser
from millstone.cli.parsers import ORDER, parser_named, questions

_VALUES = re.compile(r"[a-z0-9_]+(\|[a-z0-9_]+)+")
_OF_FILES = re.compile(r"FILE|FOLDER|TABLE|LIST|DICTIONARY|STUDY|INPUT|PATH")
COLUMNS = ("text", "id", "group", "order", "count_field", "term", "freq", "docs")
"""Options whose values are columns of the tables that are typed before them."""


@dataclass(frozen=True)
class Option:
    """One option: how it is typed, what stands for its value, what it does."""

    forms: tuple[str, ...]
    metavar: str
    meaning: str
    name: str

    @property
    def values(self) -> tuple[str, ...]:
        """The words that it takes, where these are few."""
        return tuple(self.metavar.split("|")) if _VALUES.fullmatch(self.metavar) else ()

    @property
    def takes_file(self) -> bool:
        """Whether its value is, or may be, a file."""
        return bool(_OF_FILES.search(self.metavar))

    @property
    def takes_column(self) -> bool:
        """Whether its value is a column of a table."""
        return self.name in COLUMNS and self.metavar in ("COLUMN", "FIELD", "A,B,C")


@dataclass(frozen=True)
class CommandPage:
    """One command: what it answers, how to read it, its options in groups, examples."""

    name: str
    question: str
    about: str
    takes: str
    groups: tuple[tuple[str, tuple[Option, ...]], ...]
    examples: tuple[str, ...]
    varies: tuple[str, ...] = ()
    further: tuple[Option, ...] = ()

    @property
    def options(self) -> list[Option]:
        """All its options, those of the commands that it carries out last."""
        return [*(option for _, options in self.groups for option in options), *self.further]


def page_of(name: str, question: str, parser: Parser) -> CommandPage:
    """The manual page of a command whose parser explains every option."""
    about = (parser.description or "").partition("\n\n")[2]
    lines = (parser.epilog or "").splitlines()[1:]
    takes = (parser.usage or "").removeprefix(f"millstone {name}").removesuffix("[options]").strip()
    groups = []
    for group in parser._action_groups:
        options = tuple(
            Option(tuple(action.option_strings), _metavar(action), _meaning(action), action.dest)
            for action in group._group_actions
            if action.help != argparse.SUPPRESS
        )
        if options:
            groups.append((group.title or "", options))
    paragraphs = "\n\n".join(" ".join(part.split()) for part in about.split("\n\n"))
    return CommandPage(name, question, paragraphs, takes, tuple(groups), tuple(line.strip() for line in lines))


def _metavar(action: argparse.Action) -> str:
    return "" if action.nargs == 0 else str(action.metavar or action.dest.upper())


def _meaning(action: argparse.Action) -> str:
    return str(action.help or "").replace("%%", "%")


def pages(parsers: Mapping[str, tuple[str, Callable[[], Parser]]]) -> list[CommandPage]:
    """The pages of all commands, from their questions and parsers."""
    return [page_of(name, question, parser()) for name, (question, parser) in parsers.items()]


def manual() -> list[CommandPage]:
    """The manual page of each command."""
    asked = questions()
    found = pages({name: (asked[name], partial(parser_named, name, True)) for name in ORDER})
    return [_with_commands_within(page) for page in found]


def _with_commands_within(page: CommandPage) -> CommandPage:
    """A page with the options of the commands that its command carries out."""
    known = COMMANDS[page.name].varies if page.name in COMMANDS else ()
    own = {option.forms for option in page.options}
    further: dict[tuple[str, ...], Option] = {}
    for name in known:
        for option in page_of(page.name, page.question, parser_named(page.name, True, of=name)).options:
            if option.forms not in own:
                further.setdefault(option.forms, option)
    return replace(page, varies=known, further=tuple(further.values()))
