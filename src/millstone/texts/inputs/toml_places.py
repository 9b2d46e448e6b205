"""Where the keys of a TOML file stand, for messages: the parser itself forgets it."""

import re
from collections.abc import Mapping
from dataclasses import dataclass, field

Key = tuple[str | int, ...]

_NAME = r"""(?:[A-Za-z0-9_-]+|"(?:[^"\\]|\\.)*"|'[^']*')"""
_DOTTED = re.compile(rf"{_NAME}(?:\s*\.\s*{_NAME})*")
_HEADER = re.compile(rf"\s*(\[\[?)\s*({_DOTTED.pattern})\s*\]\]?")
_ASSIGNED = re.compile(rf"\s*({_DOTTED.pattern})\s*=")
_QUOTED = re.compile(r"\"\"\"|'''|\"(?:[^\"\\]|\\.)*\"|'[^']*'|#.*")


@dataclass
class _State:
    """The state at the end of a line: open brackets, and an open string of several lines."""

    depth: int = 0
    quotes: str = ""
    table: Key = ()
    lists: dict[Key, int] = field(default_factory=dict)


def places_of(text: str) -> Mapping[Key, tuple[int, int]]:
    """Line and column, from 1, of each table and key of a valid TOML text.

    A key is named by its path, with the number of the element in a list of tables:
    ``("step", 0, "command")``.
    """
    found: dict[Key, tuple[int, int]] = {}
    state = _State()
    for number, line in enumerate(text.splitlines(), 1):
        rest = line
        if not state.depth and not state.quotes:
            if header := _HEADER.match(line):
                state.table = _table(header[1], _parts(header[2]), state)
                _note(found, state.table, (number, header.start(1) + 1))
                continue
            if assigned := _ASSIGNED.match(line):
                _note(found, (*state.table, *_parts(assigned[1])), (number, assigned.start(1) + 1))
                rest = line[assigned.end() :]
        _follow(rest, state)
    return found


def _note(found: dict[Key, tuple[int, int]], key: Key, place: tuple[int, int]) -> None:
    """The place of a key, and of those above it that have not been seen."""
    for length in range(1, len(key) + 1):
        found.setdefault(key[:length], place)


def _parts(dotted: str) -> Key:
    return tuple(part.strip("\"'") for part in re.findall(_NAME, dotted))


def _table(bracket: str, parts: Key, state: _State) -> Key:
    """The path of a table, with the number of the last element of each list of tables on the way."""
    path: Key = ()
    for place, part in enumerate(parts):
        path = (*path, part)
        if bracket == "[[" and place == len(parts) - 1:
            state.lists[path] = state.lists.get(path, -1) + 1
        if path in state.lists:
            path = (*path, state.lists[path])
    return path


def _follow(text: str, state: _State) -> None:
    """Follow brackets and long strings to the end of a line."""
    while text:
        if state.quotes:
            _, closed, text = text.partition(state.quotes)
            state.quotes = "" if closed else state.quotes
            continue
        quoted = _QUOTED.search(text)
        plain = text[: quoted.start()] if quoted else text
        state.depth += sum(plain.count(mark) for mark in "[{") - sum(plain.count(mark) for mark in "]}")
        text = text[quoted.end() :] if quoted else ""
        if quoted and quoted[0] in ('"""', "'''"):
            state.quotes = quoted[0]
