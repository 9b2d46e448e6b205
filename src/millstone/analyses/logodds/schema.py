"""The schema of weighted log odds."""

from millstone.core.tables.columns import (
    DESIGN_EFFECT,
    FREQ,
    LOG_RATIO,
    NOTE,
    OCCURRENCES,
    RANK,
    TERM,
    WORDS,
    integer,
    number,
    text,
)
from millstone.core.tables.schema import Schema

_COLUMNS = (
    text("target", "target", "the group whose terms these are", drawn=True, identifies=True),
    text(
        "against",
        "against",
        "the group, or rest for all other groups together, on the other side",
        drawn=True,
        identifies=True,
    ),
    RANK.having(priority=4),
    TERM.having(drawn=True, identifies=True),
    WORDS.having(priority=4),
    number(
        "log_odds",
        "log odds",
        "weighted log odds ratio, above 0 for the group",
        "natural logarithm",
        drawn=True,
        identifies=True,
    ),
    number(
        "std_error",
        "std error",
        "standard error of the log odds ratio",
        "natural logarithm",
        priority=7,
        drawn=True,
        identifies=True,
    ),
    number(
        "z",
        "z",
        "log odds by standard error; it orders terms and is not a test",
        "standard errors",
        priority=3,
        drawn=True,
        identifies=True,
    ),
    DESIGN_EFFECT.having(priority=6),
    number(
        "z_documents",
        "z documents",
        "z by the square root of the design effect: less sure where few documents have it",
        priority=2,
    ),
    LOG_RATIO.having(priority=5),
    FREQ.having(priority=5, drawn=True),
    integer("freq_against", "freq there", "occurrences on the other side", OCCURRENCES, priority=5, drawn=True),
    NOTE.having(priority=4),
)


def schema() -> Schema:
    """The terms of each group with their log odds."""
    return Schema(
        "logodds",
        _COLUMNS,
        blocks=("target", "against"),
        joint=" against ",
        every=False,
        ordered_by=("z",),
        also_called={"group": "target"},
    )
