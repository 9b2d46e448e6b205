"""The schema of a concordance."""

from millstone.core.tables.columns import DOCUMENT, GROUP, NODE, PARTS, PER_MILLION, TOKENS, integer, number, text
from millstone.core.tables.schema import Schema


def schema() -> Schema:
    """Lines, or places per document."""
    return Schema(
        "concordance",
        (
            NODE,
            integer("line", "line", "number of the place in the order in which the texts are read, 1 first"),
            DOCUMENT,
            GROUP,
            *PARTS,
            integer("token_number", "token", "number of the first word found within the document, 1 first", "tokens"),
            text("left", "left", "the text before it"),
            text("found", "found", "what was found, as it stands in the text"),
            text("right", "right", "the text after it"),
            text("period", "period", "the period of a trend that the document belongs to"),
            text("near", "near", "the node that it is near, where the contexts of two are compared"),
            text("collocate", "collocate", "the words near it, or in the same unit, that were counted with it"),
            integer("distance", "distance", "words from the place to the collocate, below 0 to the left", "tokens"),
            TOKENS,
            integer("places", "places", "places in the document", "places"),
            number("per_million", "per million", "places per million tokens of the document", PER_MILLION, 1),
        ),
        also_called={"hits": "places", "per_thousand": "per_million"},
        empty="no lines: what was looked for does not occur in the texts",
        centre="found",
    )
