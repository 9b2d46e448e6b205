"""The schema of words used alike."""

from millstone.core.tables.columns import FREQ, GROUP, NODE, RANK, TERM, integer, number, text
from millstone.core.tables.schema import Schema

_COLUMNS = (
    GROUP.having(drawn=True),
    NODE.having(drawn=True, identifies=True),
    RANK.having(priority=4),
    TERM.having(drawn=True, identifies=True),
    number(
        "similarity",
        "similarity",
        "cosine of the weighted contexts, 1 where they are alike",
        digits=3,
        drawn=True,
        identifies=True,
    ),
    FREQ.having(priority=3),
    integer(
        "shared_contexts",
        "shared",
        "contexts that go with both more often than by chance",
        "contexts",
        priority=3,
        drawn=True,
        identifies=True,
    ),
    text(
        "contexts",
        "contexts",
        "the shared contexts that weigh most, of the first 1,000 rows; _ is where the word stands",
        priority=2,
        narrowest=16,
        look="items",
    ),
)


def schema() -> Schema:
    """The words that are used like each node."""
    return Schema(
        "alike",
        _COLUMNS,
        blocks=("group", "node"),
        joint=": ",
        every=False,
        ordered_by=("similarity",),
        empty="no words used alike",
    )
