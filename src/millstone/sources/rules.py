"""Fields made from another field by rules, as a study file writes them."""

import fnmatch
import re
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from millstone.core.declare import nearest

_KEYS = ("source", "rules", "otherwise")


@dataclass(frozen=True)
class FieldRule:
    """A field `name`: the value of the first of `rules`, (glob, value), that fits the field `source`."""

    name: str
    source: str
    rules: tuple[tuple[str, str], ...]
    otherwise: str = ""

    @cached_property
    def _tests(self) -> list[tuple[re.Pattern[str], str]]:
        return [(re.compile(fnmatch.translate(glob), re.IGNORECASE), value) for glob, value in self.rules]

    def value_for(self, found: str) -> str:
        """What a source value becomes, upper and lower case alike."""
        return next((value for test, value in self._tests if test.match(found.strip())), self.otherwise)

    def as_written(self) -> dict[str, Any]:
        """As it stands in a study file."""
        rules = [{"match": glob, "value": value} for glob, value in self.rules]
        return {"source": self.source, "rules": rules, "otherwise": self.otherwise}


def field_rules(given: Any) -> tuple[FieldRule, ...]:
    """Check the tables ``[corpus.fields.NAME]`` of a study file.

    Raises
    ------
    ValueError
    """
    if not isinstance(given, Mapping):
        raise ValueError("must be tables such as [corpus.fields.party_kind]")
    return tuple(_rule(str(name), table) for name, table in given.items())


def _rule(name: str, table: Any) -> FieldRule:
    if not isinstance(table, Mapping):
        raise ValueError(f"{name}: must be a table with source, rules and otherwise")
    for key in table:
        if key not in _KEYS:
            raise ValueError(f"{name}: unknown key {key!r}{nearest(key, _KEYS)}")
    source, rules = table.get("source"), table.get("rules")
    if not isinstance(source, str) or not source:
        raise ValueError(f"{name}: source must name the field it is made from")
    if not isinstance(rules, list) or not rules:
        raise ValueError(f'{name}: rules must be a list such as [{{ match = "*club*", value = "club" }}]')
    made = FieldRule(name, source, tuple(_pair(name, one) for one in rules), str(table.get("otherwise", "")))
    seen: dict[str, str] = {}
    for value in (*(value for _, value in made.rules), made.otherwise):
        other = seen.setdefault(value.lower(), value)
        if other != value:
            raise ValueError(f"{name}: the values {other!r} and {value!r} differ in case only")
    return made


def _pair(name: str, given: Any) -> tuple[str, str]:
    if not isinstance(given, Mapping) or set(given) != {"match", "value"}:
        raise ValueError(f'{name}: each rule must be written {{ match = "*club*", value = "club" }}, not {given!r}')
    return str(given["match"]), str(given["value"])
