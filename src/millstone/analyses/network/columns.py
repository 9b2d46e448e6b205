"""What the columns of networks and of words used alike mean."""

from millstone.core.tables.columns import COLLOCATES, COLUMNS, Column, number, whole

_UNITS = "units"

NETWORK = {
    "group": COLUMNS["group"],
    "term_a": Column("term a", "the first of the two terms"),
    "term_b": Column("term b", "the second of the two terms"),
    "docs_a": whole("units a", "units (documents, sentences, ...) with term a; with --span its occurrences", _UNITS),
    "docs_b": whole("units b", "units with term b; with --span its occurrences", _UNITS),
    "together": whole("together", "units with both; with --span occurrences of the one near the other", _UNITS),
    "association": number("association", "how strongly the two belong together, 1 at most", "", 3),
}
NODES = {
    "group": COLUMNS["group"],
    "term": COLUMNS["term"],
    "freq": COLUMNS["freq"],
    "docs": whole("units", "units (documents, sentences, ...) with the term; with --span its occurrences", _UNITS),
    "degree": whole("degree", "links of the term", "links"),
    "strength": number("strength", "the associations of its links added up", "", 2),
    "betweenness": number("betweenness", "share of the shortest paths between others that lead over it", "ratio", 3),
    "community": whole("community", "number of its community, 1 the largest; 0 for a term without a link"),
}
ALIKE = {
    "group": COLUMNS["group"],
    "node": COLLOCATES["node"],
    "rank": COLUMNS["rank"],
    "term": COLUMNS["term"],
    "freq": COLUMNS["freq"],
    "similarity": number("similarity", "cosine of the weighted contexts, 1 where they are alike", "", 3),
    "shared_contexts": whole("shared", "contexts that go with both more often than by chance", "contexts"),
    "contexts": Column(
        "contexts", "the shared contexts that weigh most, of the first 1,000 rows; _ is where the word stands"
    ),
}
