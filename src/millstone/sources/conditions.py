"""Conditions on the fields of documents: ``year >= 2018``, ``hut ~ ^Os``."""

import re
from collections.abc import Mapping
from dataclasses import dataclass

_CONDITION = re.compile(r"\s*(.+?)\s*(!=|<=|>=|=|<|>|~)\s*(.*?)\s*", re.DOTALL)
_DATE = re.compile(r"\d{4}(-\d\d(-\d\d([T ].*)?)?)?")


@dataclass(frozen=True)
class Condition:
    """A field, an operator and a value."""

    field: str
    operator: str
    value: str

    def holds(self, fields: Mapping[str, str]) -> bool:
        """Whether a document with these fields is kept; a missing value holds only for ``FIELD = ''``."""
        found = fields.get(self.field, "").strip()
        if not found:
            return self.operator == "=" and not self.value
        if self.operator == "~":
            return re.search(self.value, found) is not None
        left, right = _comparable(found, self.value)
        return {
            "=": left == right,
            "!=": left != right,
            "<": left < right,
            "<=": left <= right,
            ">": left > right,
            ">=": left >= right,
        }[self.operator]


def _comparable(found: str, value: str) -> tuple[object, object]:
    """Both as numbers, as dates of the same precision, or as text."""
    if _DATE.fullmatch(found) and _DATE.fullmatch(value) and "-" in found + value:
        length = min(len(found), len(value))
        return found[:length], value[:length]
    try:
        return float(found), float(value)
    except ValueError:
        return found, value


def condition_from(typed: str) -> Condition:
    """A condition as typed, split at the first operator; quotation marks round the value are taken off.

    Raises
    ------
    ValueError
        When there is no operator, or what follows ``~`` is no regular expression.
    """
    found = _CONDITION.fullmatch(typed)
    if not found:
        raise ValueError(f"must be FIELD, one of = != < <= > >= ~, and a value, not {typed!r}")
    field, operator, value = found.groups()
    if len(value) > 1 and value[0] == value[-1] and value[0] in "'\"":
        value = value[1:-1]
    if operator == "~":
        try:
            re.compile(value)
        except re.error as error:
            raise ValueError(f"{value!r} is no regular expression: {error}") from None
    return Condition(field, operator, value)
