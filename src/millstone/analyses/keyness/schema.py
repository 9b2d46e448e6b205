"""The schema of keyness."""

from millstone.analyses.base.groups.held_equal import CONDITIONAL
from millstone.analyses.keyness.measures import MEASURES
from millstone.core.tables.columns import (
    DOCS_PERCENT,
    FREQ,
    IN_FILES_ONLY,
    LOG2,
    NOTE,
    OCCURRENCES,
    PER_MILLION,
    PERCENT,
    RANK,
    RATE,
    RATIO,
    TERM,
    WORDS,
    Column,
    integer,
    number,
    text,
)
from millstone.core.tables.schema import Schema

_EFFECT = ("log_ratio", "log_ratio_low", "log_ratio_high")
_EVIDENCE = ("ll", "g2", "chi2", "design_effect", "ll_documents", "p_adjusted")
_LAST = ("p", "fisher")


_HEAD = (
    text("target", "target", "the group that is held against the reference", drawn=True, identifies=True),
    text(
        "reference",
        "reference",
        "the group, or rest for all other groups together, on the other side",
        drawn=True,
        identifies=True,
    ),
    RANK.having(priority=6, drawn=True),
    TERM.having(drawn=True, identifies=True),
    WORDS.having(priority=3),
    text(
        "higher_in",
        "higher in",
        "the side where the term is relatively more frequent; empty when equal",
        priority=5,
        drawn=True,
    ),
)

_COUNTS = (
    integer(
        "freq_target",
        "freq target",
        "occurrences in the target",
        OCCURRENCES,
        priority=4,
        partner="freq_reference",
        drawn=True,
    ),
    integer(
        "freq_reference",
        "freq reference",
        "occurrences in the reference",
        OCCURRENCES,
        partner="freq_target",
        drawn=True,
    ),
)

_FURTHER = (
    number(
        "shared_low",
        "low 90",
        "lower limit of the 90 % interval of the log ratio",
        LOG2,
        partner="shared_high",
        optional=True,
    ),
    number(
        "shared_high",
        "high 90",
        "upper limit of the 90 % interval of the log ratio",
        LOG2,
        partner="shared_low",
        optional=True,
    ),
    number(
        "per_million_background",
        "per million there",
        "rate in the background list",
        PER_MILLION,
        optional=True,
    ),
    number(
        "resample_low",
        "resample low",
        "2.5 % of the log ratios of the samples lie below",
        LOG2,
        priority=6,
        partner="resample_high",
        optional=True,
    ),
    number(
        "resample_high",
        "resample high",
        "2.5 % of the log ratios of the samples lie above",
        LOG2,
        partner="resample_low",
        optional=True,
    ),
    integer(
        "rank_low",
        "rank low",
        "2.5 % of the ranks in the samples are smaller",
        priority=6,
        partner="rank_high",
        optional=True,
    ),
    integer(
        "rank_high",
        "rank high",
        "2.5 % of the ranks in the samples are larger",
        partner="rank_low",
        optional=True,
    ),
    NOTE.having(priority=5),
    integer(
        "rank_target",
        "rank target",
        "rank in the target's frequency list, empty when absent",
        priority=IN_FILES_ONLY,
    ),
    integer(
        "rank_reference",
        "rank reference",
        "rank in the reference's frequency list, empty when absent",
        priority=IN_FILES_ONLY,
    ),
    number(
        "per_million_target",
        "per million target",
        "rate in the target",
        PER_MILLION,
        1,
        priority=IN_FILES_ONLY,
    ),
    number(
        "per_million_reference",
        "per million reference",
        "rate in the reference",
        PER_MILLION,
        1,
        priority=IN_FILES_ONLY,
    ),
    number(
        "docs_percent_target",
        "docs % target",
        "share of the target's documents with it",
        PERCENT,
        1,
        priority=IN_FILES_ONLY,
    ),
    number(
        "docs_percent_reference",
        "docs % reference",
        "share of the reference's documents with it",
        PERCENT,
        1,
        priority=IN_FILES_ONLY,
    ),
)


def schema() -> Schema:
    """The terms of comparisons, with the measures of the registry."""
    return Schema(
        "keyness",
        (
            *_HEAD,
            *_of(_EFFECT),
            *_COUNTS,
            *_of(_EVIDENCE),
            *(one.having(optional=True) for one in MEASURES.columns(*_EFFECT, *_EVIDENCE, *_LAST)),
            *_of(_LAST),
            *CONDITIONAL,
            *_FURTHER,
            # of each group, where comparisons stand side by side
            *(one.having(optional=True, priority=IN_FILES_ONLY) for one in (FREQ, RATE, DOCS_PERCENT)),
        ),
        blocks=("target", "reference"),
        also_called={"group": "target"},
        joint=" compared with ",
        every=False,
        side_by_side="higher_in_",
        leaving_beside=(
            *("docs_percent", "per_million", "bic", "ell"),
            *("ll", "g2", "chi2", "design_effect", "ll_documents", "log_ratio_low", "log_ratio_high", "note"),
            *("p_adjusted", "higher_in", "rank", "freq"),
        ),
    )


def overlap() -> Schema:
    """How alike the frequency lists of two sides are."""
    return Schema(
        "overlap",
        (
            *(one.having(drawn=False, identifies=False) for one in _HEAD[:2]),
            WORDS,
            integer("terms", "terms", "how many of the commonest terms of both sides are compared", "terms"),
            *_with_halves(
                number("rho", "rho", "Spearman's correlation of the ranks of these terms on both sides", RATIO, 3)
            ),
            *_with_halves(
                number(
                    "chi2_by_df",
                    "chi2 by df",
                    "chi-squared of these terms on both sides by its degrees of freedom (Kilgarriff 2001)",
                    RATIO,
                    2,
                )
            ),
            *_with_halves(
                number(
                    "shared_percent",
                    "shared %",
                    "how many of the commonest terms of the one side are among those of the other",
                    PERCENT,
                    1,
                )
            ),
        ),
        row=("target", "reference"),
    )


def _with_halves(column: Column) -> tuple[Column, Column]:
    """A column, and the same of random halves of all texts."""
    meaning = f"mean of 20 random halves of the texts of both sides: {column.meaning}"
    return column, column.having(name=f"{column.name}_halves", title=f"{column.title} of halves", meaning=meaning)


def _of(names: tuple[str, ...]) -> tuple[Column, ...]:
    return tuple(MEASURES[name].column for name in names)
