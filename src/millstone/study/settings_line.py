"""Settings as they would be typed, in one line."""

import shlex
from collections.abc import Mapping
from itertools import pairwise
from typing import Any

from millstone.core.settings.declare import declared, option
from millstone.core.settings.kinds import Kind
from millstone.study.analyses import STEPS

_KINDS: dict[str, Kind] = {
    name: one.metadata["kind"]
    for command in STEPS.values()
    for part in command.parts()
    for name, one in declared(part).items()
}


_SWITCHES = {name for name, kind in _KINDS.items() if kind.switch}


_WITH_COMMAS = {name for name, kind in _KINDS.items() if kind.split_at}


def settings_line(typed: Mapping[str, Any]) -> str:
    """The settings that are not defaults, as they would be typed."""
    shown = []
    for name, value in typed.items():
        values = value if isinstance(value, list) else [value]
        if name in _WITH_COMMAS and not any(a[-1:].isdigit() and b[:1].isdigit() for a, b in pairwise(values)):
            values = [",".join(values)]
        shown += [_as_option(name, one) for one in values]
    return " ".join(shown)


def _as_option(name: str, value: Any) -> str:
    if isinstance(value, Mapping):
        return f"[corpus.{name}.{value['name']}]"
    if value in ("yes", "no") and name in _SWITCHES:
        return option(name if value == "yes" else f"no_{name}")
    return f"{option(name)} {_quoted(value)}"


def _quoted(value: str) -> str:
    if shlex.quote(value) == value:
        return value
    return f'"{value}"' if "'" in value else f"'{value}'"
