"""The schema of profiles."""

from millstone.analyses.profile.measures import MEASURES
from millstone.analyses.profile.word_classes import WORD_CLASSES, class_column
from millstone.core.tables.columns import DOCUMENT, DOCUMENTS, GROUP, PARTS, integer
from millstone.core.tables.schema import Schema


def schema() -> Schema:
    """Profiles of groups or documents."""
    return Schema(
        "profile",
        (
            DOCUMENT,
            GROUP.having(drawn=True, identifies=True),
            *PARTS,
            integer("documents", "documents", "documents of the group", DOCUMENTS),
            *MEASURES.columns(),
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
