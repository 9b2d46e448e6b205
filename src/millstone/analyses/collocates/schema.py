"""The schema of collocates."""

from typing import Any

from millstone.analyses.collocates.measures import MEASURES
from millstone.analyses.keyness.measures import MEASURES as COMPARED
from millstone.core.tables.columns import (
    DOCUMENTS,
    FREQ,
    GROUP,
    IN_FILES_ONLY,
    LOG2,
    NODE,
    NOTE,
    OCCURRENCES,
    RANK,
    Column,
    integer,
    number,
    text,
)
from millstone.core.tables.schema import Schema

PER_THOUSAND = "per 1,000 tokens near"

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
            *_of("log_dice", "ll", "mi", "t_score"),
            integer("cooccurrence_docs", "docs", "documents in which they occur together", DOCUMENTS, priority=4),
            *MEASURES.columns("log_dice", "ll", "mi", "t_score"),
            NOTE.having(priority=3),
        ),
        blocks=("group", "node"),
        row=("collocate", "side"),
        joint=": ",
        every=False,
    )


def contexts() -> Schema:
    """The contexts of two nodes, or of one node in two groups, side by side."""
    return Schema(
        "contexts",
        (
            GROUP,
            NODE,
            text("target", "target", "the node, or the group, that is held against the reference", drawn=True),
            text("reference", "reference", "the node, or the group, on the other side", drawn=True),
            RANK.having(priority=6, drawn=True),
            text("collocate", "collocate", "the term near it, after preparation", drawn=True, identifies=True),
            text(
                "higher_in",
                "higher in",
                "the side near which it is relatively more frequent; empty when equal",
                priority=4,
                drawn=True,
            ),
            COMPARED["log_ratio"].column,
            *(COMPARED[f"log_ratio_{end}"].column.having(priority=2) for end in ("low", "high")),
            *_sides("together", "near", "occurrences near the node", OCCURRENCES, priority=3, identifies=True),
            *_sides("per_thousand", "per 1,000", "occurrences per 1,000 tokens near it", PER_THOUSAND, 1, priority=6),
            COMPARED["p_adjusted"].column.having(priority=2),
            *_sides("log_dice", "log dice", "how strongly it belongs to the node", LOG2, 2, priority=9),
            *_sides("docs", "docs", "documents in which it is near the node", DOCUMENTS, priority=8),
            COMPARED["ll"].column.having(priority=10),
            COMPARED["design_effect"].column.having(priority=7),
            COMPARED["ll_documents"].column,
            COMPARED["p"].column.having(priority=IN_FILES_ONLY, optional=False),
            NOTE.having(priority=5),
        ),
        blocks=("group", "node", "target", "reference"),
        joint=" compared with ",
        row=("collocate",),
        ordered_by=("ll_documents",),
        every=False,
    )


def _sides(name: str, title: str, meaning: str, unit: str, digits: int = 0, **further: Any) -> tuple[Column, ...]:
    """A number of each side of a comparison, which leave a screen together."""
    kind = "number" if digits else "integer"
    return tuple(
        Column(
            f"{name}_{side}",
            f"{title} {side}",
            f"{meaning}: {side}",
            unit,
            kind,
            digits,
            partner=f"{name}_{other}",
            drawn=name in ("together", "per_thousand"),
            **further,
        )
        for side, other in (("target", "reference"), ("reference", "target"))
    )


def _of(*names: str) -> tuple[Column, ...]:
    return tuple(MEASURES[name].column for name in names)
