"""Fields made from another field by rules, as a study file writes them."""

import fnmatch
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from millstone.core.base.patterns import Pattern, fault_of_regex, pattern
from millstone.core.base.wording import beginning_of, nearest

GLOB, REGEX = "match", "pattern"
_KEYS = ("source", "rules", "otherwise")


@dataclass(frozen=True)
class FieldRule:
    """A field `name`: the value of the first of `rules` that fits the field `source`.

    `rules` are (kind, pattern, value), a ``match`` being a glob and a ``pattern`` a regular expression. What none
    fits becomes `otherwise`; where that is None, it stays as it is.
    """

    name: str
    source: str
    rules: tuple[tuple[str, str, str], ...]
    otherwise: str | None = None

    @cached_property
    def _tests(self) -> list[tuple[Pattern, str]]:
        return [
            (pattern(f"[corpus.fields.{self.name}]", fnmatch.translate(one) if kind == GLOB else one, True), value)
            for kind, one, value in self.rules
        ]

    def value_for(self, found: str) -> str:
        """Map a source value, upper and lower case alike; a regular expression is searched for."""
        value = next((value for test, value in self._tests if test.search(found.strip(), found)), self.otherwise)
        return found.strip() if value is None else value

    def as_written(self) -> dict[str, Any]:
        """As it stands in a study file."""
        rules = [{kind: one, "value": value} for kind, one, value in self.rules]
        otherwise = {} if self.otherwise is None else {"otherwise": self.otherwise}
        return {"source": self.source, "rules": rules, **otherwise}


def field_rules(given: Any) -> tuple[FieldRule, ...]:
    """Check the tables ``[corpus.fields.NAME]`` of a study file.

    Parameters
    ----------
    given : Any
        Name of a field -> its table.

    Returns
    -------
    tuple of FieldRule

    Raises
    ------
    ValueError
    """
    if not isinstance(given, Mapping):
        raise ValueError("must be tables such as [corpus.fields.party_kind]")
    return tuple(_rule(str(name), table) for name, table in given.items())


def field_rule_typed(typed: str) -> FieldRule:
    """Read a field with its rules as they are typed: ``kind from place: *cemetery* = cemetery, else other``.

    Parameters
    ----------
    typed : str
        A pattern between slashes is a regular expression; commas part the rules.

    Returns
    -------
    FieldRule

    Raises
    ------
    ValueError
    """
    head, colon, tail = typed.partition(":")
    name, word, source = (part.strip() for part in head.partition(" from "))
    parts = [part.strip() for part in tail.split(",") if part.strip()]
    if not (colon and name and word and source and parts):
        raise ValueError(
            f"must be written 'NEW from FIELD: *pattern* = value, else other', not {beginning_of(typed)!r}"
        )
    table: dict[str, Any] = {"source": source, "rules": []}
    for part in parts:
        if part.startswith("else ") and part is parts[-1]:
            table["otherwise"] = part.removeprefix("else ").strip()
            continue
        one, equals, value = (side.strip() for side in part.rpartition("="))
        if not (equals and one and value):
            raise ValueError(f"{name}: {part!r} is not a rule; write *pattern* = value, or else value at the end")
        is_regex = len(one) > 2 and one.startswith("/") and one.endswith("/")
        table["rules"].append({REGEX: one[1:-1], "value": value} if is_regex else {GLOB: one, "value": value})
    return _rule(name, table)


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
    otherwise = str(table["otherwise"]) if "otherwise" in table else None
    made = FieldRule(name, source, tuple(_read(name, one) for one in rules), otherwise)
    seen: dict[str, str] = {}
    for value in (*(value for _, _, value in made.rules), otherwise or ""):
        other = seen.setdefault(value.lower(), value)
        if other != value:
            raise ValueError(f"{name}: the values {other!r} and {value!r} differ in case only")
    return made


def _read(name: str, given: Any) -> tuple[str, str, str]:
    kinds = [kind for kind in (GLOB, REGEX) if isinstance(given, Mapping) and set(given) == {kind, "value"}]
    if not kinds:
        raise ValueError(
            f'{name}: each rule must be written {{ match = "*club*", value = "club" }}, or with pattern = "REGEX" '
            f"in place of match, not {given!r}"
        )
    one = str(given[kinds[0]])
    if kinds == [REGEX] and (fault := fault_of_regex(one)):
        raise ValueError(f"{name}: pattern {beginning_of(one)!r} {fault}")
    return kinds[0], one, str(given["value"])
