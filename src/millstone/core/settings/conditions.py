"""Conditions on the fields of documents: ``year >= 2018``, ``hut ~ ^Os``."""

import operator as operators
import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from millstone.core.base.patterns import fault_of_regex, pattern
from millstone.core.base.wording import beginning_of

_CONDITION = re.compile(r"\s*(.+?)\s*(!=|<=|>=|==|=|<|>|~)\s*(.*?)\s*", re.DOTALL)
_DATE = re.compile(r"(\d{4})(?:-(0?[1-9]|1[0-2])(?:-(0?[1-9]|[12]\d|3[01])(?:[T ](.*))?)?)?", re.ASCII)
_NUMBER = re.compile(r"[-+]?(?:\d+(?:\.\d*)?|\.\d+)", re.ASCII)
_LEADING_ZERO = re.compile(r"[-+]?0\d", re.ASCII)
_EQUAL: Mapping[str, Callable[[object, object], bool]] = {"=": operators.eq, "!=": operators.ne}
_ORDERED: Mapping[str, Callable[..., bool]] = {
    "<": operators.lt,
    "<=": operators.le,
    ">": operators.gt,
    ">=": operators.ge,
}


@dataclass(frozen=True)
class Condition:
    """A field, an operator and a value."""

    field: str
    operator: str
    value: str

    def __str__(self) -> str:
        return f"{self.field} {self.operator} {self.value}"

    @property
    def kind(self) -> str:
        """The type of the value: ``number``, ``date`` or ``text``."""
        if _NUMBER.fullmatch(self.value):
            return "number"
        return "date" if _DATE.fullmatch(self.value) else "text"

    def holds(self, fields: Mapping[str, str]) -> bool | None:
        """Whether a document with these fields is kept; a missing value holds only for ``FIELD = ''``.

        None where a value is to be more or less than a number or a date, and is neither.
        """
        found = fields.get(self.field, "").strip()
        if not found:
            return self.operator == "=" and not self.value
        if self.operator == "~":
            return pattern(f"--where {self.field} ~", self.value).search(found, found) is not None
        if self.operator in _EQUAL:
            return _EQUAL[self.operator](*_to_be_equal(found, self.value))
        sides = _to_be_ordered(found, self.value)
        if sides is None:
            return None if self.kind != "text" else _ORDERED[self.operator](found, self.value)
        return _ORDERED[self.operator](*sides)


def _to_be_equal(found: str, value: str) -> tuple[object, object]:
    """Both as they are compared for equality: 7 is 7.0, but 007 is neither."""
    padded = _LEADING_ZERO.match(found) or _LEADING_ZERO.match(value)
    if _NUMBER.fullmatch(found) and _NUMBER.fullmatch(value) and not padded:
        return float(found), float(value)
    return _as_dates(found, value) or (found, value)


def _to_be_ordered(found: str, value: str) -> tuple[object, object] | None:
    """Both as numbers or as dates; None where they are not of one kind."""
    if _NUMBER.fullmatch(found) and _NUMBER.fullmatch(value):
        return float(found), float(value)
    return _as_dates(found, value)


def _as_dates(found: str, value: str) -> tuple[object, object] | None:
    """Two ISO dates, as far as the less precise one goes: 2016-5-1 is in 2016."""
    one, other = _DATE.fullmatch(found), _DATE.fullmatch(value)
    if not one or not other or "-" not in found + value:
        return None
    length = min(sum(part is not None for part in each.groups()) for each in (one, other))
    first, second = (_parts(each)[:length] for each in (one, other))
    return first, second


def _parts(date: re.Match[str]) -> tuple[object, ...]:
    year, month, day, time = date.groups()
    return int(year), int(month or 0), int(day or 0), time or ""


def condition_from(typed: str) -> Condition:
    """A condition as typed, split at the first operator; quotation marks round the value are taken off.

    ``==`` is taken for ``=``.

    Parameters
    ----------
    typed : str
        Such as ``year>=2017``.

    Returns
    -------
    Condition

    Raises
    ------
    ValueError
        When there is no operator, or what follows ``~`` is not a valid regular expression.
    """
    found = _CONDITION.fullmatch(typed)
    if not found:
        raise ValueError(f"must be FIELD, one of = != < <= > >= ~, and a value, not {typed!r}")
    field, operator, value = found.groups()
    if len(value) > 1 and value[0] == value[-1] and value[0] in "'\"":
        value = value[1:-1]
    if operator == "~" and (fault := fault_of_regex(value)):
        raise ValueError(f"{beginning_of(value)!r} {fault}")
    return Condition(field, "=" if operator == "==" else operator, value)
