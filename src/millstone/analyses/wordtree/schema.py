"""The schema of a word tree."""

from millstone.core.tables.columns import DOCUMENTS, GROUP, NODE, PERCENT, integer, number, text
from millstone.core.tables.schema import Schema


def schema() -> Schema:
    """The branches of a word tree."""
    return Schema(
        "wordtree",
        (
            GROUP.having(drawn=True),
            NODE.having(drawn=True, identifies=True),
            text("side", "side", "left or right of the node", drawn=True, identifies=True),
            integer("level", "level", "fork, 1 the nearest to the node", drawn=True, identifies=True),
            text(
                "branch",
                "branch",
                "the words that its places share; (end) of the sentence, (N more) not shown",
                drawn=True,
                identifies=True,
            ),
            integer("places", "places", "places of the node that go on so", "places", drawn=True),
            number("percent", "%", "share of all places of the node", PERCENT, 1),
            integer("docs", "docs", "documents in which it stands", DOCUMENTS),
            text(
                "parent",
                "parent",
                "the words between the node and the branch, empty at the first fork",
                identifies=True,
            ),
        ),
        row=("group", "node", "side", "level", "branch"),
        tree="branch",
        empty="no branches: what was looked for does not occur in the texts",
    )
