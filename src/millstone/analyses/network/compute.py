"""Networks: which terms occur together more strongly than others, in all texts or in each group."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from millstone.analyses.network.graph import Communities
from millstone.analyses.network.measures import MEASURES, TermLinks
from millstone.analyses.network.occurrences import Occurrences, in_units, near
from millstone.analyses.network.settings import USUAL_TERMS, NetworkSettings
from millstone.core.corpus.documents import as_objects
from millstone.core.matrix.totals import column_sums
from millstone.core.statistics.co_occurrence import ASSOCIATIONS
from millstone.core.statistics.ranks import competition_ranks
from millstone.core.tables.table import Table

_OF_NODES = ("group", "term", "freq", "docs", "freq_rank", "degree_rank")
LINKS = ("group", "term_a", "term_b", "docs_a", "docs_b", "together", "association")


@dataclass(frozen=True)
class Networks:
    """The tables of the links, the terms and the communities of some networks.

    Of each network `cut` says how many links were cut off, and `divided` how its terms were divided.
    """

    links: Table
    nodes: Table
    communities: Table
    cut: Mapping[str, int]
    divided: Mapping[str, Communities]


def chosen_terms(docs: np.ndarray, settings: NetworkSettings, all_listed: bool) -> np.ndarray:
    """Numbers of the terms to be linked, ascending: about as many as were asked for, since ties are not divided.

    Parameters
    ----------
    docs : ndarray
        (terms,) units with each term; terms are in code-point order.
    settings : NetworkSettings
    all_listed : bool
        The terms are those of a list or of a dictionary, and all are meant.
    """
    most = settings.terms or (len(docs) if all_listed or settings.min_docs else USUAL_TERMS)
    fit = np.flatnonzero(docs >= max(settings.min_docs, 1))
    if len(fit) <= most:
        return fit
    # terms that are as common as the one at the border are all kept or all left out, whichever comes nearer
    border = np.sort(docs[fit])[-most]
    with_them, without = (docs[fit] >= border).sum(), (docs[fit] > border).sum()
    least = border if not without or with_them - most < most - without else border + 1
    found: np.ndarray = fit[docs[fit] >= least]
    return found


def networks(
    occurrences: Occurrences,
    groups: Mapping[str, np.ndarray],
    settings: NetworkSettings | None = None,
    strongest_by: str = "association",
) -> Networks:
    """A network for each group: its links, and what they say of each term.

    Parameters
    ----------
    occurrences : Occurrences
        Of K terms in U units.
    groups : mapping
        Name -> (U,) bool, its units.
    settings : NetworkSettings, optional
    strongest_by : str
        The strongest links are those with the largest ``association``, or ``together``.

    Returns
    -------
    Networks
        ``links``: ``group, term_a, term_b, docs_a, docs_b, together, association``, the strongest first; ``nodes``:
        ``group, term, freq, docs, freq_rank, degree_rank``, then the measures, K rows per group; ``communities``:
        ``group, community, size, links, within_percent, stability, terms``. With ``--span`` docs are occurrences.
    """
    settings = settings or NetworkSettings()
    links, nodes, communities, cut, divided = [], [], [], {}, {}
    for group, units in groups.items():
        here = occurrences.within(units)
        together = near(here, settings.span) if settings.span else in_units(here)
        each = together.each.astype(float)
        of_pair = each[together.a], each[together.b], together.both.astype(float)
        association = ASSOCIATIONS[settings.association](*of_pair, float(together.of))
        fits = (together.both >= settings.min_together) & (association > 0)
        fits &= association >= settings.min_association
        fits &= ~occurrences.are_nested(together.a, together.b)
        which = np.flatnonzero(fits)
        # values that are equal but for rounding are equal
        strength = [-together.both[which], -np.round(association[which], 9)]
        strongest = np.lexsort((which, *(strength[::-1] if strongest_by == "together" else strength)))
        kept = which[strongest][: settings.most_links or None]
        cut[group] = len(which) - len(kept)
        a, b, terms = together.a[kept], together.b[kept], occurrences.terms
        columns = (terms[a], terms[b], together.each[a], together.each[b], together.both[kept], association[kept])
        links.append(Table({"group": as_objects([group] * len(a))} | dict(zip(LINKS[1:], columns, strict=True))))
        freq = column_sums(here.counts)
        linked = TermLinks(len(terms), a, b, association[kept], settings.starts, settings.seed)
        of_links, divided[group] = {name: one.of(linked) for name, one in MEASURES.items()}, linked.communities
        ranks = {
            "freq_rank": competition_ranks(freq, freq),
            "degree_rank": competition_ranks(of_links["degree"], of_links["degree"]),
        }
        own = {"group": group, "term": terms, "freq": freq, "docs": together.each, **ranks}
        nodes.append(Table({**own, **of_links}).at(np.argsort(-together.each, kind="stable")))
        communities.append(_communities(group, terms, linked))
    names = [*_OF_NODES, *MEASURES]
    return Networks(
        Table.joined(links).only(LINKS), Table.joined(nodes).only(names), Table.joined(communities), cut, divided
    )


def _communities(group: str, terms: np.ndarray, linked: TermLinks) -> Table:
    """The communities of a network, each with its terms by the strength of their links within it."""
    found = linked.communities
    number, of = len(found.stability), found.of
    inside = of[linked.a] == of[linked.b]
    within = np.bincount(of[linked.a][inside], minlength=number + 1)[1:]
    ends = np.bincount(of[linked.ends], minlength=number + 1)[1:]
    strength = np.bincount(
        np.concatenate((linked.a[inside], linked.b[inside])),
        np.tile(linked.association[inside], 2),
        minlength=len(terms),
    )
    order = np.lexsort((np.arange(len(terms)), -strength, of))
    members = [terms[order[of[order] == one]].tolist() for one in range(1, number + 1)]
    return Table(
        {
            "group": as_objects([group] * number),
            "community": np.arange(1, number + 1),
            "size": np.bincount(of, minlength=number + 1)[1:],
            "links": within,
            "within_percent": 200 * within / np.maximum(ends, 1),
            "stability": found.stability,
            "terms": as_objects(["; ".join(map(str, own)) for own in members]),
        }
    )
