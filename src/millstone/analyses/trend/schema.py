"""The schema of trends."""

from millstone.core.tables.columns import (
    DESIGN_EFFECT,
    DOCS,
    DOCUMENTS,
    FREQ,
    GROUP,
    NOTE,
    ON_SCREENS,
    PER_MILLION,
    PERCENT,
    PROBABILITY,
    RANK,
    RATIO,
    TERM,
    WORDS,
    Column,
    integer,
    number,
    text,
)
from millstone.core.tables.schema import Schema

COURSE = "course"
"""The column of the rates of all periods in block characters, for screens."""


def schema() -> Schema:
    """Terms or categories that rise or fall."""
    return Schema(
        "trend",
        (
            GROUP.having(drawn=True),
            RANK.having(priority=8, drawn=True),
            TERM.having(meaning="the term, after preparation, or the category", drawn=True, identifies=True),
            WORDS.having(priority=3),
            *_change(),
            text(
                COURSE,
                "course",
                "the rate of each period in turn, the highest as a full block",
                priority=3,
                look=ON_SCREENS,
            ),
            number("p_adjusted", "p adjusted", "p, adjusted for the number of terms", PROBABILITY, 4, priority=2),
            FREQ.having(priority=4, drawn=True),
            DOCS.having(priority=9),
            integer("periods", "periods", "periods that have the term", "periods", priority=10),
            number("first_per_million", "first", "the fitted rate in the first period", PER_MILLION, 1, priority=5),
            number("last_per_million", "last", "the fitted rate in the last period", PER_MILLION, 1, priority=5),
            number("tau", "tau", "Kendall's rank correlation of rates and periods, -1 to 1", RATIO, 2, priority=6),
            DESIGN_EFFECT.having(
                priority=7, meaning="how many times more the counts of periods vary around the fit than chance would"
            ),
            number("p", "p", "p of no change, over periods", PROBABILITY, 4, priority=7),
            text("loudest", "loudest", "the period with most occurrences beyond its share of the tokens", priority=6),
            NOTE.having(priority=3),
        ),
        blocks=("group",),
        key="term",
        ordered_by=("p",),
        every=False,
        empty="no trends: no term is frequent enough",
    )


def _change() -> tuple[Column, ...]:
    """The direction, and by how much the fitted rate changes, with its interval."""
    return (
        text("trend", "trend", "rises or falls", priority=9, drawn=True, identifies=True),
        number(
            "change_percent",
            "change %",
            "by how much the fitted rate changes per unit of the field (a year, of dates)",
            PERCENT,
            1,
            drawn=True,
            identifies=True,
        ),
        number(
            "change_low",
            "low",
            "lower limit of the 95 % interval of change_percent",
            PERCENT,
            1,
            priority=2,
            partner="change_high",
            drawn=True,
        ),
        number(
            "change_high",
            "high",
            "upper limit of the 95 % interval of change_percent",
            PERCENT,
            1,
            priority=2,
            partner="change_low",
            drawn=True,
        ),
    )


def courses() -> Schema:
    """The rates of terms in each period."""
    return Schema(
        "courses",
        (
            GROUP,
            TERM,
            text("period", "period", "the period"),
            number("x", "x", "where it lies: the mean of the field over its tokens"),
            integer("freq", "freq", "occurrences in it", "occurrences"),
            integer("docs", "docs", "its documents", DOCUMENTS),
            integer("tokens", "tokens", "its tokens", "tokens"),
            number("per_million", "per million", "rate in it", PER_MILLION, 1),
            *(
                number(
                    f"{what}_{end}",
                    f"{what} {end}",
                    f"{end} limit of the 95 % interval of the {which} rate",
                    PER_MILLION,
                    1,
                )
                for what, which in (("rate", "observed"), ("fitted", "fitted"))
                for end in ("low", "high")
            ),
            number("fitted", "fitted", "the fitted rate", PER_MILLION, 1),
        ),
        blocks=("group",),
    )
