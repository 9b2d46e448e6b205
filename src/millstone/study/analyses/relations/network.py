"""Network: which terms occur together."""

from collections.abc import Collection, Mapping
from typing import TYPE_CHECKING

from millstone.charts.settings import NetworkChartSettings
from millstone.core.errors import DataError, UsageError
from millstone.core.layout import Layout
from millstone.core.settings.relations import GRAPHS, NetworkSettings
from millstone.study.checks import check_select
from millstone.study.command import Command

if TYPE_CHECKING:
    from pathlib import Path

    import numpy as np

    from millstone.charts.draw import Figures
    from millstone.core.corpus.corpus import Corpus
    from millstone.core.relations.network import Networks
    from millstone.core.result import Result
    from millstone.study.command import Behind, Drawing
    from millstone.study.reading.origin import Origin
    from millstone.study.step import Step
    from millstone.study.texts.material import Material


_LEAST_MODULARITY, _LEAST_AGREEMENT = 0.3, 0.6


def settle(step: "Step") -> "Step":
    """Terms are single words where they are to be near each other."""
    step.require_input()
    settings: NetworkSettings = step.settings
    if settings.span and step.preparation.ngram != (1, 1):
        raise UsageError("--ngram with --span: only single terms are near each other", "leave one of the two out")
    if step.preparation.ngram[0] != step.preparation.ngram[1]:
        raise UsageError("--ngram: a network is of n-grams of one length", "type --ngram 2")
    check_select(step)
    return step


def check(step: "Step", made: "Collection[Path]") -> None:
    """The dictionary can be read."""
    from millstone.study.texts.dictionary_input import check_dictionary

    if step.settings.dictionary:
        check_dictionary(step, made)


def looks_at_order(step: "Step") -> bool:
    """Whether terms are to be near each other, or an entry of the dictionary has several words."""
    from millstone.study.texts.dictionary_input import has_order

    return bool(step.settings.span) or has_order(step)


def analyse(step: "Step", material: "Material", notes: list[str], drawing: "Drawing") -> "Result":
    """The links, and what they say of each term."""
    from pathlib import Path

    from millstone.core.corpus.corpus import group_sizes, units_by_group
    from millstone.core.relations.columns import NETWORK, NODES
    from millstone.core.relations.graph import graph_file
    from millstone.core.relations.network import networks
    from millstone.core.result import Result
    from millstone.core.table import Table
    from millstone.study.reading.linked_terms import occurrences_of

    settings, corpus = step.settings, material.corpus
    occurrences, left_out = occurrences_of(step, material, notes)
    groups = units_by_group(corpus, settings.together or not step.reading.group)
    _require_units(step, groups)
    found = networks(occurrences, groups, settings)
    _note_extent(step, found, notes)
    sizes = group_sizes(corpus.documents, corpus.tokens, corpus.groups)
    result = Result("network", found.links, NETWORK, sizes, step.typed, left_out, layout=step.command.layout)
    if settings.graph:
        result = result.with_file("graph", graph_file(found.links, found.nodes, Path(settings.graph).suffix.lower()))
    # the figure says how many links it lacks
    cut = Table({"group": list(found.cut), "links": list(found.cut.values())})
    return result.with_table("cut", cut).with_table("nodes", found.nodes, NODES, _OF_NODES)


def _require_units(step: "Step", groups: "Mapping[str, np.ndarray]") -> None:
    """Raise DataError where everything is in the same unit."""
    lone = next((group for group, units in groups.items() if units.sum() < 2), "")
    if lone and not step.settings.span:
        whose = "there is" if len(groups) == 1 else f"the group {lone} has"
        raise DataError(
            f"{whose} one unit only, in which all terms occur together",
            "cut the texts with --unit sentence or --unit paragraph, or type --span 5",
        )


def _note_extent(step: "Step", found: "Networks", notes: list[str]) -> None:
    """Say how many terms are linked, how well they are divided, and what was cut off."""
    import math

    from millstone.core.wording import numbered

    for (group,), nodes in found.nodes.by(["group"]):
        links, alone = int(nodes["degree"].sum()) // 2, int((nodes["degree"] == 0).sum())
        where, terms = f"{group}: " if len(found.cut) > 1 else "", numbered(len(nodes), "term")
        if not links:
            notes.append(f"{where}{terms}, none of them linked")
            continue
        without = f", {alone:,} of them without a link" if alone else ""
        cut = found.cut[str(group)]
        weaker = f"; {numbered(cut, 'weaker link')} left out (--most-links)" if cut else ""
        divided = found.communities[str(group)]
        communities = numbered(int(nodes["community"].max()), "community", "communities")
        sure = f"modularity {divided.modularity:.2f}"
        if not math.isnan(divided.agreement):
            sure += f", agreement with {step.settings.starts - 1} other starts {divided.agreement:.2f}"
        notes.append(f"{where}{terms}{without}, {numbered(links, 'link')} in {communities} ({sure}){weaker}")
        if divided.modularity < _LEAST_MODULARITY or divided.agreement < _LEAST_AGREEMENT:
            notes.append(
                f"{where}the communities are not to be relied on: chance reaches a modularity below "
                f"{_LEAST_MODULARITY:g}, and with an agreement below {_LEAST_AGREEMENT:g} each start divides anew"
            )


def places_of(origin: "Origin", corpus: "Corpus") -> "Behind":
    """The lines in which the two terms of a row occur together."""
    from millstone.study.reading.linked_terms import lines_together

    return lines_together(origin, corpus)


def figures(result: str) -> "Figures":
    """A map of the terms, or the strongest links."""
    from millstone.charts.figures import bars, network

    return {"map": network.draw_map, "links": bars.draw_links}


def columns(step: "Step") -> Collection[str]:
    """The columns of its table."""
    from millstone.core.relations.network import LINKS

    return LINKS


_OF_NODES = Layout(blocks=("group",), empty="no terms")
COMMAND = Command(
    "network",
    "which terms occur together?",
    NetworkSettings,
    NetworkChartSettings,
    "Two terms are linked that occur in the same unit: a document, with --unit sentence a sentence, with --span N\n"
    "within N tokens of each other. dice is 1 where neither occurs without the other. Communities are groups of\n"
    "terms with more links among themselves than to others.",
    (
        "network guestbook.csv --text entry --stop en --length 4.. --unit sentence --top 10",
        "network guestbook.csv --text entry --group hut --stop en --terms 40 --chart map.png",
        "network journals --stop en --span 5 --association npmi --min-together 5 --nodes -",
        "network guestbook.csv --text entry --dictionary dictionary.toml --unit sentence --graph themes.graphml",
    ),
    analyse,
    settle=settle,
    check=check,
    looks_at_order=looks_at_order,
    layout=Layout(
        blocks=("group",),
        leaving=("docs_b", "docs_a"),
        marks=("term_a", "term_b", "together", "association"),
        drawn=("group", "term_a", "term_b", "together", "association"),
        empty="no links: no two terms occur together so often and so strongly as the settings ask",
    ),
    columns=columns,
    places_of=places_of,
    figures=figures,
    tables=("nodes",),
    files={"graph": GRAPHS},
    may_find_nothing=True,
    of_plain_words=True,
)
