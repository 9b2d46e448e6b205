"""Dispersion: how evenly terms or expressions are spread."""

from collections.abc import Collection
from pathlib import Path
from typing import TYPE_CHECKING

from millstone.core.layout import Layout
from millstone.core.settings.reading import DispersionSettings
from millstone.study.command import Command

if TYPE_CHECKING:
    from millstone.core.result import Result
    from millstone.study.command import Drawing
    from millstone.study.step import Step
    from millstone.study.texts.material import Material


def check(step: "Step", made: Collection[Path]) -> None:
    """The expressions can be read."""
    from millstone.study.texts.nodes import check_nodes

    check_nodes(step, made)


def of_nodes(step: "Step") -> bool:
    """Whether expressions or categories are looked for, not all terms."""
    return bool(step.settings.find or step.settings.dictionary)


def analyse(step: "Step", material: "Material", notes: list[str], drawing: "Drawing") -> "Result":
    """The dispersion of each term, or of the places of each node."""
    from dataclasses import replace

    from millstone.core.reading.dispersion import dispersion_of_nodes, dispersion_of_terms
    from millstone.study.texts.nodes import nodes_of
    from millstone.study.texts.term_counts import counted_terms

    terms = counted_terms(step, material, notes)
    if not of_nodes(step):
        return terms.result(step, terms.table(lambda counts: dispersion_of_terms(counts, step.settings)), notes)
    prepared = terms.prepared
    nodes = nodes_of(step, prepared.corpus, prepared.term_map, notes)
    result = terms.result(step, dispersion_of_nodes(prepared.corpus, nodes), notes)
    meaning = replace(result.columns["term"], meaning="the expression or category that was looked for")
    return replace(result, columns={**result.columns, "term": meaning}, left_out={})


def columns(step: "Step") -> Collection[str]:
    """The columns that its table may have."""
    return ("group", "term", "n", "freq", "per_million", "docs", "docs_percent", "dp", "dp_norm", "juilland_d")


COMMAND = Command(
    "dispersion",
    25,
    "how evenly is a word spread over the texts?",
    DispersionSettings,
    None,
    "dp is near 0 for a term spread evenly over the documents of a group, near 1 for one that few of them hold\n"
    "(Gries 2008); dp_norm takes the sizes of the documents into account; juilland_d runs the other way, 1 for\n"
    "even. With --unit parts:20 the parts are equal stretches of each text.",
    (
        "dispersion guestbook.csv --text entry --group hut --find 'ahoy, kilometres' --find stove",
        "dispersion journals --stop en --min-freq 10 --sort dp:asc --top 10",
        "dispersion journals --unit parts:20 --find 'wind, storm*'",
    ),
    analyse,
    check=check,
    looks_at_order=of_nodes,
    layout=Layout(
        blocks=("group",),
        leaving=("juilland_d", "dp_norm", "docs_percent", "docs", "per_million", "n"),
    ),
    columns=columns,
    of_plain_words=True,
)
