"""The schema of dispersion."""

from millstone.analyses.dispersion.measures import MEASURES
from millstone.core.tables.columns import DOCS, DOCS_PERCENT, FREQ, GROUP, RATE, TERM, WORDS
from millstone.core.tables.schema import Schema


def schema() -> Schema:
    """The dispersion of terms or nodes."""
    return Schema(
        "dispersion",
        (
            GROUP.having(drawn=True),
            TERM.having(drawn=True),
            WORDS.having(priority=3),
            FREQ.having(drawn=True),
            RATE.having(priority=3),
            DOCS.having(priority=3, drawn=True),
            DOCS_PERCENT.having(priority=3),
            *MEASURES.columns(),
        ),
        blocks=("group",),
        ordered_by=("freq",),
    )
