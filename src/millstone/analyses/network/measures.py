"""The measures of the terms of a network."""

from dataclasses import dataclass
from functools import cached_property
from typing import Any

import networkx as nx
import numpy as np

from millstone.analyses.network.graph import Communities, communities, graph_of
from millstone.core.tables.columns import RATIO, integer, number
from millstone.core.tables.measures import Measure, Measures


@dataclass(frozen=True)
class TermLinks:
    """The links among N terms.

    Attributes
    ----------
    number : int
        N.
    a, b : ndarray
        (links,) the numbers of the two terms of each link.
    association : ndarray
        (links,) above 0.
    starts, seed : int
        Of the communities.
    """

    number: int
    a: np.ndarray
    b: np.ndarray
    association: np.ndarray
    starts: int
    seed: int

    @cached_property
    def graph(self) -> Any:
        """The graph of the links."""
        return graph_of(self.number, self.a, self.b, self.association)

    @cached_property
    def communities(self) -> Communities:
        """The communities of the terms."""
        return communities(self.number, self.graph, self.starts, self.seed)

    @property
    def ends(self) -> np.ndarray:
        """(2 links,) the terms at the ends of links."""
        return np.concatenate((self.a, self.b))


def _betweenness(one: TermLinks) -> np.ndarray:
    found = nx.betweenness_centrality(one.graph, weight="length")
    return np.array([found[node] for node in range(one.number)])


MEASURES: Measures[Measure[TermLinks]] = Measures(
    "the terms of a network; those without a link have 0 throughout",
    Measure(
        integer("degree", "degree", "links of the term", "links"),
        lambda one: np.bincount(one.ends, minlength=one.number),
        "number of its links",
    ),
    Measure(
        number("strength", "strength", "the associations of its links added up"),
        lambda one: np.bincount(one.ends, np.tile(one.association, 2), minlength=one.number),
        "sum of the associations of its links",
        "Barrat et al. 2004",
    ),
    Measure(
        number(
            "betweenness", "betweenness", "share of the shortest paths between others that lead over it", RATIO, 3
        ),
        _betweenness,
        "share of the shortest paths between two others, lengths 1 / association",
        "Freeman 1977; Brandes 2001",
        "0 to 1",
    ),
    Measure(
        integer("community", "community", "number of its community, 1 the largest; 0 for a term without a link"),
        lambda one: one.communities.of,
        "the partition of largest modularity that was found",
        "Blondel et al. 2008",
    ),
)
