"""Dispersion: how evenly terms or expressions are spread."""

from collections.abc import Collection
from typing import TYPE_CHECKING

from millstone.charts.settings import DispersionChartSettings
from millstone.core.layout import Layout
from millstone.core.settings.reading import DispersionSettings
from millstone.study.command import Command, places_of_terms

if TYPE_CHECKING:
    from collections.abc import Mapping
    from pathlib import Path

    from millstone.charts.draw import Figures
    from millstone.core.corpus.corpus import Corpus
    from millstone.core.reading.places import Spans
    from millstone.core.result import Result
    from millstone.study.command import Behind, Drawing
    from millstone.study.reading.origin import Origin
    from millstone.study.step import Step
    from millstone.study.texts.material import Material


def check(step: "Step", made: "Collection[Path]") -> None:
    """The expressions can be read."""
    from millstone.study.reading.nodes import check_nodes

    check_nodes(step, made)


def of_nodes(step: "Step") -> bool:
    """Whether expressions or categories are looked for, not all terms."""
    return bool(step.settings.find or step.settings.dictionary)


def analyse(step: "Step", material: "Material", notes: list[str], drawing: "Drawing") -> "Result":
    """The dispersion of each term, or of the places of each node."""
    from dataclasses import replace

    from millstone.core.reading.dispersion import dispersion_of_nodes, dispersion_of_terms
    from millstone.study.reading.nodes import nodes_among
    from millstone.study.texts.term_counts import counted_terms

    terms = counted_terms(step, material, notes)
    if not of_nodes(step):
        return terms.result(step, terms.table(lambda counts: dispersion_of_terms(counts, step.settings)), notes)
    nodes = nodes_among(step, material, terms.prepared, notes)
    result = terms.result(step, dispersion_of_nodes(material.corpus, nodes), notes)
    if step.chart.chart:
        result = _with_places(result, material.corpus, nodes)
    meaning = replace(result.columns["term"], meaning="the expression or category that was looked for")
    return replace(result, columns={**result.columns, "term": meaning}, left_out={})


def _with_places(result: "Result", corpus: "Corpus", nodes: "Mapping[str, Spans]") -> "Result":
    """The result with what a figure of places needs: where they are, and where the documents of each group begin."""
    from millstone.core.reading.dispersion import along_groups

    places, borders = along_groups(corpus, nodes)
    return result.with_table("places", places).with_table("borders", borders)


def figures(result: str) -> "Figures":
    """Places of nodes, or evenness of terms."""
    from millstone.charts.figures import dispersion

    return {"places": dispersion.draw_places, "evenness": dispersion.draw_evenness}


def settle(step: "Step") -> "Step":
    """The usual figure is of what is looked for."""
    from dataclasses import replace

    step.require_input()
    kind = step.chart.chart_kind or ("places" if of_nodes(step) else "evenness")
    return replace(step, chart=replace(step.chart, chart_kind=kind))


def places_of(origin: "Origin", corpus: "Corpus") -> "Behind":
    """Where the term or the node of a row stands, in its groups."""
    from millstone.study.reading.origin import places_of_node

    if not of_nodes(origin.step):
        return places_of_terms(origin, corpus)
    return places_of_node(origin, corpus, "term"), {}


def columns(step: "Step") -> Collection[str]:
    """The columns that its table may have."""
    return (
        *("group", "term", "n", "freq", "per_million", "docs", "docs_percent", "dp", "dp_expected", "evenness"),
        *("dp_norm", "juilland_d"),
    )


COMMAND = Command(
    "dispersion",
    "how evenly is a word spread over the texts?",
    DispersionSettings,
    DispersionChartSettings,
    "dp is near 0 for a term spread evenly over the documents of a group, near 1 for one that few of them hold\n"
    "(Gries 2008); dp_norm takes the sizes of the documents into account; juilland_d runs the other way, 1 for\n"
    "even. With --unit parts:20 the parts are equal stretches of each text.",
    (
        "dispersion guestbook.csv --text entry --group hut --find 'ahoy, kilometres' --find stove",
        "dispersion journals --stop en --min-freq 10 --sort dp:asc --top 10",
        "dispersion journals --unit parts:20 --find 'wind, storm*'",
    ),
    analyse,
    settle=settle,
    check=check,
    looks_at_order=of_nodes,
    layout=Layout(
        blocks=("group",),
        leaving=("juilland_d", "dp_norm", "dp_expected", "docs_percent", "docs", "per_million", "n", "evenness"),
        drawn=("group", "term", "freq", "docs", "dp"),
    ),
    columns=columns,
    places_of=places_of,
    figures=figures,
    may_find_nothing=True,
    of_plain_words=True,
)
