"""The schema of collocates."""

from millstone.analyses.collocates.measures import MEASURES
from millstone.core.tables.columns import (
    DOCUMENTS,
    FREQ,
    GROUP,
    NODE,
    NOTE,
    OCCURRENCES,
    Column,
    integer,
    number,
    text,
)
from millstone.core.tables.schema import Schema

_COLUMNS = (
    GROUP.having(drawn=True),
    NODE.having(drawn=True, identifies=True),
    text(
        "collocate",
        "collocate",
        "the term that occurs near it, after preparation",
        drawn=True,
        identifies=True,
    ),
    text("side", "side", "left or right of the node, or both", priority=7, drawn=True),
    integer(
        "together",
        "together",
        "occurrences of the collocate near any place of the node",
        OCCURRENCES,
        drawn=True,
        identifies=True,
    ),
    number(
        "expected",
        "expected",
        "occurrences near the node if it made no difference: freq W / N",
        OCCURRENCES,
        1,
        priority=3,
    ),
    FREQ.having(priority=2, drawn=True),
)


def schema() -> Schema:
    """The collocates of each node, with the measures of the registry."""
    return Schema(
        "collocates",
        (
            *_COLUMNS,
            *_of("log_dice", "mi", "t_score", "ll"),
            integer("cooccurrence_docs", "docs", "documents in which they occur together", DOCUMENTS, priority=4),
            *MEASURES.columns("log_dice", "mi", "t_score", "ll"),
            NOTE.having(priority=3),
        ),
        blocks=("group", "node"),
        row=("collocate", "side"),
        joint=": ",
        every=False,
    )


def _of(*names: str) -> tuple[Column, ...]:
    return tuple(MEASURES[name].column for name in names)
