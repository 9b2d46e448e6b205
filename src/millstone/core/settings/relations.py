"""The settings of relations between words. Light on purpose, like those of the analyses."""

from millstone.core.frozen import frozen
from millstone.core.settings.analyses import DictionarySource
from millstone.core.settings.declare import setting
from millstone.core.settings.kinds import choice, number, result, switch, whole
from millstone.core.settings.preparation import MOST_SPAN
from millstone.core.settings.reading import FindSettings

USUAL_TERMS = 60
GRAPHS = (".graphml", ".gexf", ".dot")
"""The endings of graph files."""


@frozen
class NetworkSettings(DictionarySource):
    """What ``network`` can be asked."""

    terms: int = setting(
        whole("N", 1, most=20_000),
        0,
        f"link the N commonest terms (default: {USUAL_TERMS}; with --only, --min-docs or --dictionary all)",
    )
    min_docs: int = setting(whole("N"), 0, "link the terms that occur in N units or more")
    span: int = setting(
        whole("N", most=MOST_SPAN), 0, "terms occur together within N tokens of each other, not in the same unit"
    )
    association: str = setting(
        choice("dice", "jaccard", "cosine", "npmi"), "dice", "how strongly two terms belong together"
    )
    min_together: int = setting(whole("N", 1), 2, "link terms that occur together N times or more")
    min_association: float = setting(number("X"), 0.0, "link terms whose association is X or more")
    most_links: int = setting(whole("N"), 120, "keep the N strongest links of each network; 0: all")
    together: bool = setting(switch(), False, "one network of all groups")
    nodes: str = setting(result("FILE|-"), "", "write the terms with their place in the network; - shows them here")
    graph: str = setting(result("FILE"), "", f"write the network as a graph: {', '.join(GRAPHS)}")
    starts: int = setting(
        whole("N", 1, most=1000),
        20,
        "seek communities N times, and keep those that divide the links best",
    )
    seed: int = setting(whole("N"), 1, "the seed of communities; the same seed gives the same ones", rare=True)


@frozen
class AlikeSettings(FindSettings):
    """What ``alike`` can be asked."""

    min_freq: int = setting(whole("N", 1), 5, "leave out terms, and nodes, with fewer than N occurrences")
