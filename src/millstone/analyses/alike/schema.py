"""The schema of words used alike."""

from millstone.core.tables.columns import FREQ, GROUP, NODE, PROBABILITY, RANK, TERM, integer, number, text
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


_OF_DIFFERENCE = (
    text("target", "target", "the first group"),
    text("reference", "reference", "the group that it is compared with"),
    NODE.having(drawn=True, identifies=True, look="key", meaning="the word or expression"),
    *(
        integer(
            f"freq_{side}", f"freq {side}", f"occurrences in the {side}", "occurrences", priority=3, partner=other
        )
        for side, other in (("target", "freq_reference"), ("reference", "freq_target"))
    ),
    number(
        "difference",
        "difference",
        "1 less the cosine of its contexts in both groups, over words both have: 0 alike, 1 nothing in common",
        digits=3,
        least=0,
        drawn=True,
        identifies=True,
    ),
    number("chance", "by chance", "the mean difference with sampling units in the groups at random", digits=3),
    number("chance_high", "95 %", "95 % of the differences by chance lie below", digits=3, priority=4),
    number("p", "p", "how often it is as large by chance", PROBABILITY, 4, priority=2),
    number("p_adjusted", "p adjusted", "p, adjusted for all rows of the table", PROBABILITY, 4),
    text(
        "contexts_target",
        "contexts target",
        "the contexts that are most distinctly the target's, by log-likelihood; _ is where the word stands",
        priority=2,
        narrowest=24,
        look="items",
    ),
    text(
        "contexts_reference",
        "contexts reference",
        "the contexts that are most distinctly the reference's",
        priority=2,
        narrowest=24,
        look="items",
        partner="contexts_target",
    ),
)


def difference() -> Schema:
    """How differently words are used in two groups."""
    return Schema(
        "difference",
        _OF_DIFFERENCE,
        blocks=("target", "reference"),
        joint=" compared with ",
        every=False,
        ordered_by=("p",),
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
