"""Facts collected while fields are assigned, and checked once all documents were read."""

from dataclasses import dataclass, field

from millstone.core.settings.conditions import Condition

_VALUES_KEPT = 50


@dataclass
class FieldAudit:
    """Facts about fields; those of several parts of the inputs add up.

    Attributes
    ----------
    fields : mapping
        The names of all fields, in the order in which they came.
    values : mapping
        Field of a condition -> some of its values.
    incomparable : mapping
        Condition -> values that are to be more or less than a number or a date, and are neither.
    joined : mapping
        Key of a row of the joined table -> the documents it was joined to.
    without : list of str
        Documents without such a row.
    patterned, padded, kept : int
        Documents whose path fits the pattern, whose group has blanks at its ends, that were kept.
    """

    fields: dict[str, None] = field(default_factory=dict)
    values: dict[str, dict[str, None]] = field(default_factory=dict)
    incomparable: dict[Condition, list[str]] = field(default_factory=dict)
    joined: dict[str, list[str]] = field(default_factory=dict)
    without: list[str] = field(default_factory=list)
    patterned: int = 0
    padded: int = 0
    kept: int = 0

    def value(self, name: str, value: str) -> None:
        """A value of a field of a condition; only some are kept."""
        values = self.values.setdefault(name, {})
        if value and len(values) < _VALUES_KEPT:
            values[value] = None

    def add(self, other: "FieldAudit") -> None:
        """Add what was met in a part that comes after."""
        self.fields |= other.fields
        for name, values in other.values.items():
            for value in values or [""]:
                self.value(name, value)
        for condition, found in other.incomparable.items():
            self.incomparable.setdefault(condition, []).extend(found)
        for key, documents in other.joined.items():
            self.joined.setdefault(key, []).extend(documents)
        self.without += other.without
        self.patterned += other.patterned
        self.padded += other.padded
        self.kept += other.kept
