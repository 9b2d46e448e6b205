"""The schemas of a network: its links and its terms."""

from millstone.analyses.network.measures import MEASURES
from millstone.core.tables.columns import FREQ, GROUP, PERCENT, RATIO, TERM, integer, number, text
from millstone.core.tables.schema import Schema

_UNITS = "units"


def schema() -> Schema:
    """The links of networks."""
    return Schema(
        "network",
        (
            GROUP.having(drawn=True),
            text("term_a", "term a", "the first of the two terms", drawn=True, identifies=True),
            text("term_b", "term b", "the second of the two terms", drawn=True, identifies=True),
            integer(
                "docs_a",
                "units a",
                "units (documents, sentences, ...) with term a; with --span its occurrences",
                _UNITS,
                priority=2,
            ),
            integer("docs_b", "units b", "units with term b; with --span its occurrences", _UNITS, priority=2),
            integer(
                "together",
                "together",
                "units with both; with --span occurrences of the one near the other",
                _UNITS,
                drawn=True,
                identifies=True,
            ),
            number(
                "association",
                "association",
                "how strongly the two belong together, 1 at most",
                digits=3,
                drawn=True,
                identifies=True,
            ),
        ),
        row=("term_a", "term_b"),
        blocks=("group",),
        ordered_by=("association",),
        empty="no links: no two terms occur together so often and so strongly as the settings ask",
    )


def nodes() -> Schema:
    """The terms of networks, with the measures of the registry."""
    return Schema(
        "nodes",
        (
            GROUP,
            TERM,
            FREQ,
            integer(
                "docs",
                "units",
                "units (documents, sentences, ...) with the term; with --span its occurrences",
                _UNITS,
            ),
            integer("freq_rank", "freq rank", "rank by freq among the terms of the network"),
            integer("degree_rank", "degree rank", "rank by degree among the terms of the network"),
            *MEASURES.columns(),
        ),
        blocks=("group",),
        empty="no terms",
    )


def communities() -> Schema:
    """The communities of networks."""
    return Schema(
        "communities",
        (
            GROUP,
            integer("community", "community", "its number in the table of nodes, 1 the largest"),
            integer("size", "size", "its terms", "terms"),
            integer("links", "links", "links between two of its terms", "links"),
            number(
                "within_percent", "within %", "share of its terms' links that lead to another of them", PERCENT, 1
            ),
            number(
                "stability",
                "stability",
                "how far it is found again from other starts, 1 for each time (Hennig 2007)",
                RATIO,
                2,
                priority=2,
            ),
            text("terms", "terms", "its terms, the most central in it first", narrowest=24, look="items", priority=1),
        ),
        blocks=("group",),
        key="community",
        empty="no communities: no two terms are linked",
    )
