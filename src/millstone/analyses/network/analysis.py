"""Network: which terms occur together."""

import math
from collections.abc import Collection, Iterator, Mapping
from dataclasses import replace
from pathlib import Path

import numpy as np

from millstone.analyses.base.analysis import Analysis, DrawProgress
from millstone.analyses.base.checks import check_select
from millstone.analyses.base.matches.dictionary_input import check_dictionary, has_order
from millstone.analyses.base.step import Step
from millstone.analyses.network.compute import Networks, networks
from millstone.analyses.network.graph import graph_file
from millstone.analyses.network.linked_terms import occurrences_of
from millstone.analyses.network.schema import communities as communities_schema
from millstone.analyses.network.schema import nodes as nodes_schema
from millstone.analyses.network.schema import schema
from millstone.analyses.network.settings import NetworkSettings
from millstone.core.base.errors import DataError, UsageError
from millstone.core.base.wording import numbered
from millstone.core.corpus.corpus import group_sizes, units_by_group
from millstone.core.settings.output import HERE
from millstone.core.tables.result import Result
from millstone.core.tables.schema import Schema
from millstone.core.tables.table import Table
from millstone.outputs.files.rows import arrange, check_names
from millstone.texts.scanned_texts import ScannedTexts

_LEAST_MODULARITY, _LEAST_AGREEMENT = 0.3, 0.6
_NETWORKS_NOTED, _COMMUNITIES_NOTED, _TERMS_NOTED = 2, 6, 5


class NetworkAnalysis(Analysis[NetworkSettings]):
    """Network: which terms occur together."""

    ignores_punctuation = True
    may_find_nothing = True

    def schema(self) -> Schema:
        """How its table is laid out."""
        return schema()

    def further_schemas(self) -> tuple[Schema, ...]:
        """The schemas of its further tables."""
        return (nodes_schema(), communities_schema())

    def validate_settings(self, step: Step[NetworkSettings]) -> Step[NetworkSettings]:
        """Terms are single words where they are to be near each other."""
        step.require_input()
        settings: NetworkSettings = step.settings
        if settings.span and step.preparation.ngram != (1, 1):
            raise UsageError("--ngram with --span: only single terms are near each other", "leave one of the two out")
        if step.preparation.ngram[0] != step.preparation.ngram[1]:
            raise UsageError("--ngram: a network is of n-grams of one length", "type --ngram 2")
        check_select(step)
        return step

    def check(self, step: Step[NetworkSettings], made: Collection[Path]) -> None:
        """The dictionary can be read, and links or terms can be sorted as asked."""
        if step.settings.dictionary:
            check_dictionary(step, made)
        names = dict.fromkeys((*self.schema().names, *nodes_schema().names))
        check_names(names, replace(step.output, columns=()))

    def columns(self, step: Step[NetworkSettings]) -> Collection[str]:
        """The columns of its links."""
        return self.schema().names

    def sorts_itself(self, step: Step[NetworkSettings]) -> bool:
        """Whether ``--sort`` names a column that only the terms have."""
        return _sorted_by(step) not in ("", *self.schema().names)

    def needs_token_order(self, step: Step[NetworkSettings]) -> bool:
        """Whether terms are to be near each other, or an entry of the dictionary has several words."""
        return bool(step.settings.span) or has_order(step)

    def analyse(
        self, step: Step[NetworkSettings], material: ScannedTexts, notes: list[str], drawing: DrawProgress
    ) -> Result:
        """The links, and what they say of each term."""

        settings, corpus = step.settings, material.corpus
        occurrences, left_out = occurrences_of(step, material, notes)
        groups = units_by_group(corpus, settings.together or not step.reading.group)
        _require_units(step, groups)
        found = networks(occurrences, groups, settings, _strongest_by(step))
        nodes = found.nodes
        if self.sorts_itself(step):
            of_nodes = Result("nodes", nodes, {}, (), schema=nodes_schema())
            nodes = arrange(of_nodes, replace(step.output, match=(), top=0)).table
        _note_extent(step, found, notes)
        sizes = group_sizes(corpus.documents, corpus.tokens, corpus.groups)
        result = Result(
            "network",
            found.links,
            self.schema().of_table(found.links.names),
            sizes,
            step.typed,
            left_out,
            schema=self.schema(),
        )
        if settings.graph:
            result = result.with_file(
                "graph", graph_file(found.links, found.nodes, Path(settings.graph).suffix.lower())
            )
        # the figure says how many links it lacks
        cut = Table({"group": list(found.cut), "links": list(found.cut.values())})
        result = result.with_table("cut", cut)
        for name, table, one in (
            ("nodes", nodes, nodes_schema()),
            ("communities", found.communities, communities_schema()),
        ):
            result = result.with_table(name, table, one.of_table(table.names), one)
        return result


def _sorted_by(step: Step[NetworkSettings]) -> str:
    return step.output.sort.partition(":")[0]


def _strongest_by(step: Step[NetworkSettings]) -> str:
    """The measure by which links are the strongest: that by which they are sorted."""
    return "together" if _sorted_by(step) == "together" else "association"


def _require_units(step: Step[NetworkSettings], groups: Mapping[str, np.ndarray]) -> None:
    """Raise DataError where everything is in the same unit."""
    lone = next((group for group, units in groups.items() if units.sum() < 2), "")
    if lone and not step.settings.span:
        whose = "there is" if len(groups) == 1 else f"the group {lone} has"
        raise DataError(
            f"{whose} one unit only, in which all terms occur together",
            "cut the texts with --unit sentence or --unit paragraph, or type --span 5",
        )


def _note_extent(step: Step[NetworkSettings], found: Networks, notes: list[str]) -> None:
    """Say how many terms are linked, how well they are divided, and what was cut off."""

    for (group,), nodes in found.nodes.by(["group"]):
        links, alone = int(nodes["degree"].sum()) // 2, int((nodes["degree"] == 0).sum())
        where, terms = f"{group}: " if len(found.cut) > 1 else "", numbered(len(nodes), "term")
        if not links:
            notes.append(f"{where}{terms}, none of them linked")
            continue
        without = f", {alone:,} of them without a link" if alone else ""
        cut = found.cut[str(group)]
        by = " by together" if _strongest_by(step) == "together" else ""
        weaker = f"; {numbered(cut, 'weaker link')}{by} left out (--most-links)" if cut else ""
        divided = found.divided[str(group)]
        communities = numbered(int(nodes["community"].max()), "community", "communities")
        sure = f"modularity {divided.modularity:.2f}"
        if not math.isnan(divided.agreement):
            sure += f", agreement with {step.settings.starts - 1} other starts {divided.agreement:.2f}"
        notes.append(f"{where}{terms}{without}, {numbered(links, 'link')} in {communities} ({sure}){weaker}")
        if len(found.cut) <= _NETWORKS_NOTED and step.settings.communities != HERE:
            own = found.communities.at(found.communities["group"] == group)
            notes += [where + one for one in _told(own)]
        if divided.modularity < _LEAST_MODULARITY or divided.agreement < _LEAST_AGREEMENT:
            notes.append(
                f"{where}the communities are not to be relied on: chance reaches a modularity below "
                f"{_LEAST_MODULARITY:g}, and with an agreement below {_LEAST_AGREEMENT:g} each start divides anew"
            )


def _told(communities: Table) -> Iterator[str]:
    """A line for each of the first communities: its size, how far it holds, its most central terms."""
    for row in list(communities.rows())[:_COMMUNITIES_NOTED]:
        terms = row["terms"].split("; ")
        more = f" and {len(terms) - _TERMS_NOTED} more" if len(terms) > _TERMS_NOTED else ""
        stability = "" if math.isnan(row["stability"]) else f", stability {row['stability']:.2f}"
        held = f"{row['within_percent']:.0f} % of their links within{stability}"
        yield f"community {row['community']} ({numbered(len(terms), 'term')}, {held}): " + (
            f"{', '.join(terms[:_TERMS_NOTED])}{more}"
        )
    if len(communities) > _COMMUNITIES_NOTED:
        more = numbered(len(communities) - _COMMUNITIES_NOTED, "more community", "more communities")
        yield f"{more}: --communities -"


ANALYSIS = NetworkAnalysis()
