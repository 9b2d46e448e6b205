"""The schema of the documents x terms table: what is known of its rows."""

from millstone.core.tables.columns import DOCUMENT, GROUP, PARTS, TERM
from millstone.core.tables.schema import Schema


def schema() -> Schema:
    """The columns that describe the rows of a matrix."""
    return Schema(
        "matrix",
        (
            DOCUMENT,
            GROUP,
            TERM,
            *PARTS,
        ),
    )
