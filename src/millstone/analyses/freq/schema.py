"""The schema of frequency lists."""

from millstone.analyses.dispersion.measures import MEASURES as DISPERSION
from millstone.analyses.freq.measures import MEASURES
from millstone.core.tables.columns import (
    DOCS,
    DOCS_PERCENT,
    FREQ,
    GROUP,
    IN_FILES_ONLY,
    RANK,
    RATE,
    TERM,
    WORDS,
    text,
)
from millstone.core.tables.schema import Schema


def schema() -> Schema:
    """Frequency lists."""
    return Schema(
        "freq",
        (
            GROUP.having(drawn=True, identifies=True),
            RANK.having(priority=2, drawn=True),
            TERM.having(drawn=True, identifies=True),
            WORDS.having(priority=2),
            FREQ.having(drawn=True, identifies=True),
            RATE.having(priority=8, drawn=True, identifies=True),
            DOCS.having(priority=6),
            DOCS_PERCENT.having(priority=7),
            DISPERSION["dp"].column.having(priority=5, drawn=False),
            DISPERSION["dp_expected"].column.having(priority=IN_FILES_ONLY),
            DISPERSION["evenness"].column.having(priority=4),
            *MEASURES.columns(),
            text(
                "forms",
                "forms",
                "the words that are counted as the term, each with its occurrences in the group",
                priority=2,
                narrowest=16,
                look="items",
            ),
        ),
        blocks=("group",),
        ordered_by=("freq",),
        every=False,
        side_by_side="freq_",
        leaving_beside=("docs", "rank", "per_million"),
    )
