"""The schema of what is in texts."""

from millstone.core.tables.columns import (
    DOCUMENT,
    DOCUMENTS,
    GROUP,
    IN_FILES_ONLY,
    PARTS,
    PERCENT,
    TOKENS,
    integer,
    number,
    text,
)
from millstone.core.tables.schema import Schema


def schema() -> Schema:
    """The sizes of the groups of texts."""
    return Schema(
        "check",
        (
            GROUP,
            integer("documents", "documents", "documents of the group", DOCUMENTS),
            TOKENS,
            text(
                "language",
                "language",
                "code of the language whose function words make up a fifth or more of the tokens; empty for none",
                priority=IN_FILES_ONLY,
            ),
            number(
                "function_words_percent",
                "function words %",
                "share of the tokens that are function words of that language",
                PERCENT,
                1,
                priority=IN_FILES_ONLY,
            ),
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


def duplicates() -> Schema:
    """Documents that are nearly the text of another, cluster by cluster."""
    return Schema(
        "duplicates",
        (
            integer("cluster", "cluster", "number of the documents that hang together", look="key"),
            DOCUMENT,
            GROUP,
            TOKENS,
            number(
                "in_common",
                "in common",
                "Jaccard similarity of the runs of five words with the most alike document that stays (Broder 1997)",
                "share",
                3,
            ),
            text("kept", "kept", "yes for a document that stays under --drop-near-duplicates"),
        ),
        empty="no near-duplicates",
    )


def units() -> Schema:
    """The units that texts are cut into, with their texts."""
    return Schema(
        "show_units",
        (
            DOCUMENT,
            GROUP,
            *PARTS,
            TOKENS,
            text("text", "text", "the unit as it stands, white space folded", look="wrapped", narrowest=30),
        ),
        key="document",
        empty="no units with words",
    )
