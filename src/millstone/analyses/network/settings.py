"""The settings of network."""

from collections.abc import Sequence
from importlib import import_module

from millstone.analyses.base.settings import DictionarySource
from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.declare import setting
from millstone.core.settings.kinds import about_measures, choice, integer, number, output_path, switch
from millstone.core.settings.preparation import MOST_SPAN

USUAL_TERMS = 60
GRAPHS = (".graphml", ".gexf", ".dot", ".csv")
"""The endings of graph files."""


def _measures() -> Sequence[str]:
    return tuple(import_module("millstone.analyses.network.measures").MEASURES)


@frozen
class NetworkSettings(DictionarySource):
    """Settings of ``network``."""

    terms: int = setting(
        integer("N", 1, most=20_000),
        0,
        f"link the N commonest terms (default: {USUAL_TERMS}; with --only, --min-docs or --dictionary all)",
    )
    min_docs: int = setting(integer("N"), 0, "link the terms that occur in N units or more")
    span: int = setting(
        integer("N", most=MOST_SPAN), 0, "terms occur together within N tokens of each other, not in the same unit"
    )
    association: str = setting(
        choice("dice", "jaccard", "cosine", "npmi"), "dice", "how strongly two terms belong together"
    )
    min_together: int = setting(integer("N", 1), 2, "link terms that occur together N times or more")
    min_association: float = setting(number("X"), 0.0, "link terms whose association is X or more")
    most_links: int = setting(integer("N"), 120, "keep the N strongest links of each network; 0: all")
    together: bool = setting(switch(), False, "one network of all groups")
    nodes: str = setting(
        about_measures(_measures, output_path("FILE|-")),
        "",
        "write the terms with their place in the network; - shows them here",
    )
    communities: str = setting(
        output_path("FILE|-"), "", "write the communities, and how far they hold; - shows them here"
    )
    graph: str = setting(
        output_path("FILE"), "", f"write the network as a graph ({', '.join(GRAPHS[:-1])}), or its links as .csv"
    )
    starts: int = setting(
        integer("N", 1, most=1000),
        20,
        "seek communities N times, and keep those that divide the links best",
        rare=True,
    )
    seed: int = setting(integer("N"), 1, "the seed of communities; the same seed gives the same ones", rare=True)
