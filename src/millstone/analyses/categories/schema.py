"""The schemas of categories: per document, per group, per word, in order, and what is odd about a dictionary."""

import math
from collections.abc import Iterable, Mapping

from millstone.core.tables.columns import (
    DOCUMENT,
    DOCUMENTS,
    FREQ,
    GROUP,
    PARTS,
    PERCENT,
    TOKENS,
    Column,
    integer,
    number,
    text,
)
from millstone.core.tables.schema import Schema

_SCALES = {
    "percent": ("places per 100 tokens", PERCENT, 2),
    "per_thousand": ("places per 1,000 tokens", "per thousand tokens", 1),
    "count": ("places", "places", 0),
    "weighted": ("mean weight of the places", "weight", 2),
}
_POSSIBLE = {"percent": (0.0, 100.0), "per_thousand": (0.0, 1000.0), "count": (0.0, math.inf)}


def scale_unit(scale: str) -> str:
    """The unit of a category's value on a scale, in words."""
    return _SCALES[scale][0]


def schema(names: Iterable[str] = (), scale: str = "percent", scores: Mapping[str, str] | None = None) -> Schema:
    """Categories per document: the fixed columns, one per category, one per score; metadata of documents aside.

    `scores` holds name -> formula.
    """
    meaning, unit, digits = _SCALES[scale]
    datatype = "integer" if scale == "count" else "number"
    limits = _POSSIBLE.get(scale, (-math.inf, math.inf))
    own = (Column(name, name, f"category {name}: {meaning}", unit, datatype, digits, *limits) for name in names)
    made = (number(name, name, f"score {name}: {formula}; {meaning}") for name, formula in (scores or {}).items())
    return Schema(
        "categories",
        (
            DOCUMENT.having(drawn=True, identifies=True),
            GROUP.having(drawn=True, identifies=True),
            *PARTS,
            TOKENS.having(drawn=True, identifies=True),
            MATCHED,
            *own,
            *made,
        ),
    )


MATCHED = number(
    "matched_percent",
    "matched %",
    "share of the document's tokens that any category covers",
    PERCENT,
    1,
    drawn=True,
    identifies=True,
    least=0.0,
    most=100.0,
)


def by_group(scale: str) -> Schema:
    """Values by group."""
    meaning, unit, digits = _SCALES[scale]
    digits = max(digits, 2)
    return Schema(
        "by_group",
        (
            GROUP,
            text("value", "value", f"a category or a score: {meaning}", look="key"),
            integer("documents", "documents", "documents of the group that have the value", DOCUMENTS),
            number("mean", "mean", "mean over the documents, each of the same weight", unit, digits),
            number("sd", "sd", "standard deviation over the documents (n - 1)", unit, digits),
            number("ci_low", "low", "lower limit of the 95 % interval of the mean", unit, digits, partner="ci_high"),
            number("ci_high", "high", "upper limit of the 95 % interval of the mean", unit, digits, partner="ci_low"),
            number("pooled", "pooled", "the value of the group as if it were one text", unit, digits),
        ),
        key="value",
    )


def words(names: Iterable[str]) -> Schema:
    """Words with how each was counted."""
    own = (integer(name, name, f"1 where it was counted for the category {name}, else 0") for name in names)
    term = text("term", "term", "the word in small letters, or a place of several words", look="key")
    return Schema("words", (GROUP, term, FREQ, *own), key="term")


def in_order() -> Schema:
    """All words in their order."""
    return Schema(
        "in_order",
        (
            DOCUMENT,
            integer("position", "position", "number of the token within its document, 1 first", "tokens"),
            text("token", "token", "the word as it stands in the text, after normalisation"),
            text("categories", "categories", "the categories that count it, joined with ;"),
        ),
    )


def validation() -> Schema:
    """The schema of findings in a dictionary."""
    return Schema(
        "validation",
        (
            text("where", "where", "file and line of the entry", narrowest=14, look="key"),
            text("category", "category", "its category; empty for a word that none counts", priority=2),
            text("entry", "entry", "the entry as it is written, or an uncounted word"),
            integer(
                "hits",
                "hits",
                "places that the entry wins in its category; an exception, those it takes",
                "places",
                priority=2,
            ),
            text("finding", "finding", "what is odd about it", narrowest=20, look="wrapped"),
        ),
        # a note says so where nothing is odd
        empty="",
    )
