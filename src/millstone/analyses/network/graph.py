"""A network as a graph: what follows from its links for each term, places for a map, files for other programs."""

import colorsys
import csv
import io
import re
from collections.abc import Sequence
from typing import TYPE_CHECKING

import networkx as nx
import numpy as np

from millstone.core.base.light_dataclass import frozen
from millstone.core.base.xml_text import xml_text
from millstone.core.tables.table import Table

if TYPE_CHECKING:
    import pandas as pd

_MOSTLY = 0.75
_STAMP = re.compile(rb' lastmodifieddate="[^"]*"')
_CREATOR = re.compile(rb"<creator>[^<]*</creator>")
_THIN, _WIDE = 0.5, 3.5
CREATOR = "millstone"
"""The program that a graph file names as its maker."""


@frozen
class Communities:
    """Groups of terms with more links among themselves than to others, and how far they can be relied on.

    Attributes
    ----------
    of : ndarray
        (N,) int64: the number of each term's community, 1 the largest; 0 for a term without a link.
    modularity : float
        How much larger the share of the associations within communities is than chance would have it, below 1.
    agreement : float
        The mean adjusted Rand index of those found from other starts with these, 1 for the same; NaN for one start.
    stability : ndarray
        (communities,) float: how far each is found again from other starts, 0 to 1; NaN for one start.
    """

    of: np.ndarray
    modularity: float
    agreement: float
    stability: np.ndarray


def communities(number: int, graph: nx.Graph, starts: int, seed: int) -> Communities:
    """The communities of N terms with the largest modularity that is found from so many starts.

    References
    ----------
    Blondel, V. D. et al. (2008). Fast unfolding of communities in large networks. Newman, M. E. J. & Girvan, M.
    (2004). Finding and evaluating community structure in networks. Hubert, L. & Arabie, P. (1985). Comparing
    partitions. Hennig, C. (2007). Cluster-wise assessment of cluster stability.
    """
    linked = graph.subgraph([node for node in graph if graph.degree(node)])
    if not len(linked):
        return Communities(np.zeros(number, dtype=np.int64), np.nan, np.nan, np.zeros(0))
    found = [
        nx.community.louvain_communities(linked, weight="association", seed=seed + start) for start in range(starts)
    ]
    labels = [_labels(number, one) for one in found]
    a, b, weight = (np.array(column) for column in zip(*linked.edges(data="association"), strict=True))
    modularity = [_modularity(one, a, b, weight) for one in labels]
    # equal but for rounding is equal: the first of them counts
    best = int(np.argmax(np.round(modularity, 9)))
    some = labels[best] > 0
    others = [one for at, one in enumerate(labels) if at != best]
    agreement = float(np.mean([adjusted_rand(labels[best][some], one[some]) for one in others])) if others else np.nan
    return Communities(labels[best], modularity[best], agreement, _found_again(labels[best], others))


def _modularity(labels: np.ndarray, a: np.ndarray, b: np.ndarray, weight: np.ndarray) -> float:
    """How much larger the share of the weight of links within communities is than chance would have it."""
    one, other, total = labels[a], labels[b], weight.sum()
    ends = np.bincount(np.concatenate((one, other)), np.concatenate((weight, weight)))
    return float(weight[one == other].sum() / total - ((ends / (2 * total)) ** 2).sum())


def _found_again(labels: np.ndarray, others: Sequence[np.ndarray]) -> np.ndarray:
    """(communities,) the mean over other partitions of the largest Jaccard index with a community of theirs."""
    sizes = np.bincount(labels)[1:]
    if not others:
        return np.full(len(sizes), np.nan)
    found = np.zeros(len(sizes))
    for other in others:
        both = np.zeros((len(sizes) + 1, int(other.max()) + 1))
        np.add.at(both, (labels, other), 1)
        both = both[1:, 1:]
        found += (both / (sizes[:, None] + np.bincount(other)[None, 1:] - both)).max(axis=1)
    return found / len(others)


def _labels(number: int, found: Sequence[set[int]]) -> np.ndarray:
    labels = np.zeros(number, dtype=np.int64)
    for rank, members in enumerate(sorted(found, key=lambda one: (-len(one), min(one))), 1):
        labels[sorted(members)] = rank
    return labels


def adjusted_rand(one: np.ndarray, other: np.ndarray) -> float:
    """How far two partitions agree: 1 where they are the same, about 0 by chance (Hubert & Arabie 1985).

    Examples
    --------
    >>> adjusted_rand(np.array([1, 1, 2, 2]), np.array([2, 2, 1, 1]))
    1.0
    """
    table = np.zeros((int(one.max()) + 1, int(other.max()) + 1))
    np.add.at(table, (one, other), 1)
    within, first, second = ((x * (x - 1) / 2).sum() for x in (table, table.sum(axis=1), table.sum(axis=0)))
    every = len(one) * (len(one) - 1) / 2
    chance, most = first * second / max(every, 1), (first + second) / 2
    return float((within - chance) / (most - chance)) if most > chance else 1.0


def graph_of(number: int, a: np.ndarray, b: np.ndarray, association: np.ndarray) -> nx.Graph:
    """The graph of N terms with links; each has its association and, 1 by it, its length."""
    graph = nx.Graph()
    # numbers, in their order: sets of names would come in another order each time
    graph.add_nodes_from(range(number))
    links = zip(a.tolist(), b.tolist(), association.tolist(), strict=True)
    graph.add_edges_from((one, other, {"association": x, "length": 1 / x}) for one, other, x in links)
    return graph


def map_places(number: int, a: np.ndarray, b: np.ndarray, association: np.ndarray) -> np.ndarray:
    """Places of N terms on a plane, so that the more strongly two belong together the nearer they stand.

    The length along a link is ``1 - ln(association)``, the strongest taken as 1; terms that no path joins are as far
    apart as most that one does. Then each axis is stretched where it is crowded, half way to even distances.

    Returns
    -------
    ndarray
        (N, 2), each axis from 0 to 1; the same each time.

    References
    ----------
    Kamada, T. & Kawai, S. (1989). An algorithm for drawing general undirected graphs.
    """
    if number == 1:
        return np.full((1, 2), 0.5)
    graph = nx.Graph()
    graph.add_nodes_from(range(number))
    length = 1 - np.log(association / association.max(initial=1e-12))
    graph.add_weighted_edges_from(zip(a.tolist(), b.tolist(), length.tolist(), strict=True))
    known = dict(nx.all_pairs_dijkstra_path_length(graph))
    every = [away for paths in known.values() for away in paths.values() if away]
    apart = float(np.quantile(every, _MOSTLY)) if every else 1.0
    distances = {one: {other: paths.get(other, apart) for other in range(number)} for one, paths in known.items()}
    found = nx.kamada_kawai_layout(graph, dist=distances, weight=None)
    places = np.array([found[node] for node in range(number)])
    # the longer way lies across, as pages do, and the first term never at the right of the middle
    places -= places.mean(axis=0)
    places = places @ np.linalg.svd(places, full_matrices=False)[2].T
    places *= np.where(places[0] > 0, -1.0, 1.0)
    low, high = places.min(axis=0), places.max(axis=0)
    even = places.argsort(axis=0, kind="stable").argsort(axis=0) / (number - 1)
    values: np.ndarray = ((places - low) / np.where(high > low, high - low, 1.0) + even) / 2
    return values


def graph_file(links: Table, nodes: Table, ending: str) -> bytes:
    """The tables of a network as a file that other programs read; several groups stand side by side in it.

    Parameters
    ----------
    links : Table
        ``group, term_a, term_b`` and attributes.
    nodes : Table
        ``group, term`` and attributes.
    ending : str
        ``.graphml``, ``.gexf``, ``.dot``, or ``.csv`` for a plain list of the links.
    """
    several = len(set(nodes["group"].tolist())) > 1
    graph = nx.Graph(creator=CREATOR)
    names: dict[tuple[str, str], str] = {}
    taken: set[str] = set()
    for row in nodes.rows():
        name = xml_text(f"{row['group']}: {row['term']}" if several else str(row["term"]))
        while name in taken:
            # of two terms one may differ in what XML cannot hold alone
            name += "\ufffd"
        taken.add(name)
        names[str(row["group"]), str(row["term"])] = name
        attributes = {key: _plain(row[key]) for key in row if key != "term"}
        graph.add_node(name, label=xml_text(str(row["term"])), **attributes)
    for row in links.rows():
        ends = [names[str(row["group"]), str(row[end])] for end in ("term_a", "term_b")]
        attributes = {key: _plain(row[key]) for key in row if key not in ("term_a", "term_b")}
        graph.add_edge(*ends, weight=float(row["association"]), **attributes)
    if ending == ".dot":
        return _dot(graph).encode()
    if ending == ".csv":
        return _edge_list(graph).encode()
    file = io.BytesIO()
    if ending == ".graphml":
        nx.write_graphml(graph, file)
        return file.getvalue()
    nx.write_gexf(graph, file)
    # the same network gives the same bytes on another day
    return _CREATOR.sub(b"<creator>" + CREATOR.encode() + b"</creator>", _STAMP.sub(b"", file.getvalue()))


def _plain(value: object) -> object:
    return value.item() if isinstance(value, np.generic) else xml_text(value) if isinstance(value, str) else value


def _dot(graph: nx.Graph) -> str:
    """The graph as programs that lay graphs out read it: communities in colour, stronger links wider."""
    strongest = max((weight for _, _, weight in graph.edges(data="weight")), default=1.0)
    lines = ["graph network {", f"  comment={_quoted(CREATOR)};", "  node [style=filled, fontcolor=black];"]
    for node, attributes in graph.nodes(data=True):
        look = {"fillcolor": _colour(int(attributes["community"]))}
        lines.append(f"  {_quoted(node)} [{_listed({**attributes, **look})}];")
    for a, b, attributes in graph.edges(data=True):
        width = {"penwidth": round(_THIN + _WIDE * attributes["weight"] / strongest, 3)}
        lines.append(f"  {_quoted(a)} -- {_quoted(b)} [{_listed({**attributes, **width})}];")
    return "\n".join([*lines, "}", ""])


def _colour(community: int) -> str:
    """A light colour for the terms of a community; white for a term without a link."""
    if not community:
        return "#ffffff"
    # steps of the golden ratio around the circle: neighbouring numbers are far apart
    red, green, blue = colorsys.hls_to_rgb((community * 0.618034) % 1, 0.78, 0.6)
    return f"#{round(255 * red):02x}{round(255 * green):02x}{round(255 * blue):02x}"


def _edge_list(graph: nx.Graph) -> str:
    """The links as a table of source, target and weight."""
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\n")
    writer.writerow(("source", "target", "weight"))
    strongest_first = sorted(graph.edges(data="weight"), key=lambda link: -link[2])
    writer.writerows((a, b, repr(float(weight))) for a, b, weight in strongest_first)
    return text.getvalue()


def _listed(attributes: dict[str, object]) -> str:
    # such programs take group for an instruction
    own = {"subcorpus" if name == "group" else name: value for name, value in attributes.items()}
    return ", ".join(f"{name}={_quoted(value)}" for name, value in own.items())


def _quoted(value: object) -> str:
    return '"' + str(value).replace("\\", "\\\\").replace('"', '\\"') + '"'


def community_names(nodes: "pd.DataFrame", most: int = 3) -> Sequence[str]:
    """For each community of a table of nodes its commonest terms."""
    linked = nodes[nodes["community"] > 0].sort_values(["docs", "term"], ascending=[False, True], kind="stable")
    return [", ".join(rows["term"].head(most)) for _, rows in linked.groupby("community")]
