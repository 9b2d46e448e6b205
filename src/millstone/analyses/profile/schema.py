"""The schema of profiles."""

from millstone.analyses.profile.intervals import MEASURES_WITH_INTERVAL
from millstone.analyses.profile.measures import MEASURES
from millstone.analyses.profile.word_classes import WORD_CLASSES, class_column
from millstone.core.tables.columns import DOCUMENT, DOCUMENTS, GROUP, PARTS, RATIO, Column, integer, number
from millstone.core.tables.schema import Schema


def _limits(column: Column) -> tuple[Column, ...]:
    """The limits of the interval of a measure that has one."""
    if column.name not in MEASURES_WITH_INTERVAL:
        return ()
    return tuple(
        column.having(
            name=f"{column.name}_{end}",
            title=end,
            meaning=f"{limit} limit of the 95 % interval of {column.name} over sampling units; empty under 8 of them",
            priority=3,
            partner=f"{column.name}_{other}",
            identifies=False,
        )
        for end, limit, other in (("low", "lower", "high"), ("high", "upper", "low"))
    )


def schema() -> Schema:
    """Profiles of groups or documents."""
    return Schema(
        "profile",
        (
            DOCUMENT,
            GROUP.having(drawn=True, identifies=True),
            *PARTS,
            integer("documents", "documents", "documents of the group", DOCUMENTS),
            *(column for one in MEASURES.columns() for column in (one, *_limits(one))),
            integer("equal_tokens", "at tokens", "tokens of the samples of equal length", "tokens", optional=True),
            number(
                "equal_types",
                "equal types",
                "types that so many tokens have on average, drawn at random (Hurlbert 1971)",
                "types",
                1,
                optional=True,
            ),
            number("equal_ttr", "equal ttr", "the same by these tokens, 0 to 1", RATIO, 3, optional=True),
            *(class_column(name) for name in WORD_CLASSES),
            integer(
                "repeated_documents",
                "repeated",
                "documents whose text occurred before in the group",
                DOCUMENTS,
                priority=7,
            ),
        ),
    )
