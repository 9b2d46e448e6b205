"""Settings as they would be typed."""

import shlex
from collections.abc import Mapping, Sequence
from itertools import pairwise
from typing import Any

from millstone.core.settings.declare import declared, option
from millstone.core.settings.kind import Kind


def settings_words(typed: Mapping[str, Any], parts: Sequence[type]) -> list[str]:
    """Option and value of each setting, together.

    Parameters
    ----------
    typed : mapping
        Setting name -> its value, or a list of values, as text.
    parts : sequence of type
        The dataclasses in which the settings are declared; a setting that none of them has is written plainly.

    Returns
    -------
    list of str
        Such as ``["--min-freq 5", "--stop en"]``.
    """
    kinds = {name: one.metadata["kind"] for part in parts for name, one in declared(part).items()}
    shown: list[str] = []
    for name, value in typed.items():
        values, kind = value if isinstance(value, list) else [value], kinds.get(name)
        if kind is not None and kind.positional:
            shown += map(str, values)
            continue
        has_commas = kind is not None and kind.split_at
        if has_commas and not any(a[-1:].isdigit() and b[:1].isdigit() for a, b in pairwise(values)):
            values = [",".join(values)]
        shown += [_as_option(name, one, kind) for one in values]
    return shown


def _as_option(name: str, value: Any, kind: Kind | None) -> str:
    if isinstance(value, Mapping):
        return f"[corpus.{name}.{value['name']}]"
    if value in ("yes", "no") and kind is not None and kind.switch:
        return option(name if value == "yes" else f"no_{name}")
    return f"{option(name)} {quoted(value)}"


def quoted(value: str) -> str:
    """A value in quotation marks, where a shell would need them."""
    if shlex.quote(value) == value:
        return value
    return f'"{value}"' if "'" in value else f"'{value}'"
