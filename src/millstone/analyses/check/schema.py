"""The schema of what is in texts."""

from millstone.core.tables.columns import DOCUMENTS, GROUP, TOKENS, integer, number, text
from millstone.core.tables.schema import Schema


def schema() -> Schema:
    """The sizes of the groups of texts."""
    return Schema(
        "check",
        (
            GROUP,
            integer("documents", "documents", "documents of the group", DOCUMENTS),
            TOKENS,
            integer("shortest", "shortest", "tokens of the shortest document that has any", "tokens", priority=4),
            number(
                "median",
                "median",
                "median of the documents' tokens, those without any left aside",
                "tokens",
                1,
                priority=3,
            ),
            integer("longest", "longest", "tokens of the longest document", "tokens", priority=2),
            text(
                "longest_document",
                "longest document",
                "name of the longest document",
                priority=5,
                narrowest=12,
                look="free",
            ),
            integer("empty", "empty", "documents without tokens", DOCUMENTS, priority=4),
            integer(
                "repeated", "repeated", "documents whose text occurred before in the group", DOCUMENTS, priority=4
            ),
        ),
        every=False,
    )
