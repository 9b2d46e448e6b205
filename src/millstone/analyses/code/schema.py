"""The schema of coding sheets."""

from collections.abc import Collection

from millstone.core.tables.columns import DOCUMENT, IN_FILES_ONLY, Column, text
from millstone.core.tables.schema import Schema

CHOICES = ("1", "0")
FIXED = ("coder", "unit_id", "document", "text", "before", "after")
"""The columns that every sheet has; the others are categories."""


def category_column(name: str) -> Column:
    """The column of a category, to be filled in."""
    said = f"1 where the unit is of the category {name}, 0 where it is not, empty where unsure"
    return text(name, name, said, choices=CHOICES)


def schema(categories: Collection[str] = ()) -> Schema:
    """A sheet for each coder, a row for each unit, a column for each category."""
    return Schema(
        "code",
        (
            text("coder", "coder", "who is to code the unit"),
            text("unit_id", "unit", "the name of the unit, by which it is found again: do not change it", look="key"),
            DOCUMENT.having(look="", priority=4),
            text("text", "text", "the unit, as it stands in the document", look="wrapped", narrowest=20),
            text("before", "before", "the words before it", priority=IN_FILES_ONLY, look="wrapped"),
            text("after", "after", "the words after it", priority=IN_FILES_ONLY, look="wrapped"),
            *map(category_column, categories),
        ),
        blocks=("coder",),
        key="unit_id",
        every=False,
    )
