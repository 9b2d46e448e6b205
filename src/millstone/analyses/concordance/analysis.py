"""Concordance: every place of an expression, in its context."""

from collections.abc import Collection, Mapping, Sequence
from pathlib import Path
from typing import Any

import numpy as np

from millstone.analyses import STEPS
from millstone.analyses.base.analysis import Analysis, DrawProgress
from millstone.analyses.base.matches.nodes import check_nodes, nodes_of, require_nodes
from millstone.analyses.base.matches.origin import like, matches_behind, origin_of, with_origin
from millstone.analyses.base.step import Step
from millstone.analyses.concordance.contexts import cut_lines
from millstone.analyses.concordance.lines import PARAGRAPH, drawn, in_order, lines_of
from millstone.analyses.concordance.schema import schema
from millstone.analyses.concordance.settings import ConcordanceSettings
from millstone.analyses.dispersion.compute import places_per_document
from millstone.core.base.arrays import begins
from millstone.core.base.errors import DataError, UsageError
from millstone.core.base.wording import listed, nearest, nearest_names, numbered
from millstone.core.corpus.corpus import Corpus, group_codes, group_sizes
from millstone.core.matches.matches import Matches, documents_of
from millstone.core.tables.columns import PART_COLUMNS, renamed
from millstone.core.tables.result import Result
from millstone.core.tables.schema import Schema
from millstone.core.tables.table import Table
from millstone.texts.scanned_texts import ScannedTexts

_KEYS = ("left", "right", "found", "document", "random", "group")
_NODES_NOTED = 5


class ConcordanceAnalysis(Analysis[ConcordanceSettings]):
    """Concordance: every place of an expression, in its context."""

    reads_running_text = True
    ignores_punctuation = True

    def schema(self) -> Schema:
        """How its table is laid out."""
        return schema()

    def columns(self, step: Step[ConcordanceSettings]) -> Collection[str]:
        """None: they depend on the texts."""
        return ()

    def validate_settings(self, step: Step[ConcordanceSettings]) -> Step[ConcordanceSettings]:
        """Something is looked for, in single words."""
        if (step.settings.row or step.settings.term) and not step.settings.from_:
            raise UsageError("--row and --term name a row of a table, and there is no --from", "add --from TABLE")
        if step.preparation.ngram != (1, 1):
            raise UsageError(
                "--ngram: a concordance is of words in a row: --find 'mountain hut'", "leave --ngram out"
            )
        if step.settings.per_document and step.settings.sample:
            raise UsageError(
                "--sample draws lines, and --per-document counts all of them", "leave one of the two out"
            )
        if not step.settings.from_:
            return require_nodes(step)
        if step.settings.find or step.settings.dictionary or step.inputs.input:
            raise UsageError(
                "--from takes inputs and what is looked for from the table",
                "leave INPUT, --find and --dictionary out",
            )
        return step

    def inherit_from_table(
        self, step: Step[ConcordanceSettings], earlier: Sequence[Step[Any]]
    ) -> Step[ConcordanceSettings]:
        """The step with the inputs and settings of the table whose numbers it explains."""
        if not step.settings.from_:
            return step

        table = Path(step.settings.from_)
        made = [one for one in earlier if Path(one.output.output).resolve() == table.resolve()]
        if made:
            return like(step, made[-1])
        return with_origin(step, STEPS) if table.is_file() else step

    def check(self, step: Step[ConcordanceSettings], made: Collection[Path]) -> None:
        """The expressions can be read."""
        if not step.settings.from_:
            check_nodes(step, made)
            return
        if step.settings.row and step.settings.term:
            raise UsageError("--row and --term: one of them says which row", "leave one of the two out")

        table = Path(step.settings.from_)
        if not table.is_file() and table.resolve() not in made:
            raise DataError(f"there is no table {table}", "check the spelling; make it with -o on an analysis")

    def analyse(
        self, step: Step[ConcordanceSettings], material: ScannedTexts, notes: list[str], drawing: DrawProgress
    ) -> Result:
        """The lines of all nodes, or how many each document has."""

        corpus = material.corpus
        # phrases are found as words in a row
        beside: Mapping[str, np.ndarray] = {}
        if step.settings.from_:
            nodes, beside = _behind(step, corpus, notes)
        else:
            nodes = nodes_of(step, corpus, notes)
        notes += _sizes(corpus, nodes)
        if step.settings.per_document:
            table, paragraphs = _per_document(corpus, nodes), None
        else:
            table, paragraphs = _lines(step, corpus, nodes, beside, notes)
        layout = self.schema()
        columns = {name: layout.by_name[name] for name in table.names if name in layout.by_name}
        for node in nodes if step.settings.per_document and len(nodes) > 1 else ():
            for name in ("places", "per_million"):
                column = layout.by_name[name]
                columns[f"{name}_{node}"] = column.having(name=f"{name}_{node}", title=f"{column.title}, {node}")
        for field in corpus.documents.names[2:]:
            if field not in PART_COLUMNS:
                columns.pop(field, None)
        sizes = group_sizes(corpus.documents, corpus.tokens, corpus.groups)
        if step.settings.per_document:
            counted = [name for name in table.names[len(corpus.documents.names) :] if name.startswith("places")]
            layout = Schema("concordance", largest_first=() if step.output.sort else tuple(counted))
        result = Result("concordance", table, columns, sizes, step.typed, schema=layout)
        return result if paragraphs is None else result.with_table("paragraphs", paragraphs)

    def needs_token_order(self, step: Step[ConcordanceSettings]) -> bool:
        """Whether the order of the words must be known."""
        return True

    def sorts_itself(self, step: Step[ConcordanceSettings]) -> bool:
        """Whether rows are ordered here, by what ``--sort`` says."""
        return not step.settings.per_document


def _behind(
    step: Step[ConcordanceSettings], corpus: Corpus, notes: list[str]
) -> tuple[Mapping[str, Matches], Mapping[str, np.ndarray]]:
    """The places that a row of a table counts, under the name of its term."""
    origin = origin_of(step, STEPS)
    if changed := origin.changed_files():
        notes.append(f"changed since the table was made: {listed(changed)}")
    row = origin.rows.iloc[0]
    if origin.table == "communities":
        name = f"community {row.get('community', '')}".strip()
    elif "term_a" in row:
        name = f"{row['term_a']} and {row['term_b']}"
    else:
        name = next(
            str(row[one]) for one in ("term", "collocate", "node", "branch", "document", "group") if one in row
        )
    places, beside = matches_behind(origin, corpus)
    return {name: places}, beside


def _lines(
    step: Step[ConcordanceSettings],
    corpus: Corpus,
    nodes: Mapping[str, Matches],
    beside: Mapping[str, np.ndarray],
    notes: list[str],
) -> tuple[Table, Table | None]:
    """The lines, and for a page the paragraph of each."""

    fields = [name for name in corpus.documents.names if name not in ("document", "group")]
    keys = _sort_keys(step, fields)
    every = lines_of(corpus, nodes)
    lines = in_order(corpus, drawn(every, step.settings.sample, step.settings.seed), keys, step.settings.seed)
    if len(lines) < len(every):
        notes.append(f"{len(lines):,} of {len(every):,} lines drawn at random, seed {step.settings.seed}")
    # lines that --top leaves out need not be cut out of their texts
    shown = np.arange(len(lines))[: (not step.output.match and step.output.top) or None]
    texts = np.full((len(lines), 3), "", dtype=object)
    is_page = step.output.output.lower().endswith(".html")
    cut = cut_lines(step, corpus, lines.at(shown), (step.settings.context, *((PARAGRAPH,) if is_page else ())))
    texts[shown] = cut[0]
    documents = corpus.documents.at(lines.document)
    starts = corpus.sequence[1]
    columns: dict[str, object] = {"node": np.array(list(nodes), dtype=object)[lines.node]} if len(nodes) > 1 else {}
    columns |= {"line": lines.number, "document": documents["document"], "group": documents["group"]}
    names = renamed(fields, [name for name in schema().names if name not in PART_COLUMNS])
    columns |= {names.get(name, name): documents[name] for name in fields}
    columns["token_number"] = lines.places.start - starts[lines.document] + 1
    columns |= dict(zip(("left", "found", "right"), texts.T, strict=True))
    columns |= {name: values[lines.number - 1] for name, values in beside.items()}
    if not is_page:
        return Table(columns), None
    whole = cut[1]
    paragraphs = Table({"line": lines.number[shown], "left": whole[:, 0], "right": whole[:, 2]})
    return Table(columns), paragraphs


def _sort_keys(step: Step[ConcordanceSettings], fields: Collection[str]) -> list[str]:
    """The keys by which lines are sorted, one after the other."""
    keys = [key.strip() for key in step.output.sort.split(",") if key.strip()]
    for key in keys:
        if key not in _KEYS and key not in fields:
            known = (*_KEYS, *fields)
            raise DataError(
                f"--sort: lines cannot be sorted by {key!r}{nearest(key, known)}",
                f"sort by {nearest_names(key, known)}; several with commas",
            )
    return keys


def _per_document(corpus: Corpus, nodes: Mapping[str, Matches]) -> Table:

    documents = corpus.documents
    described = documents.renamed(renamed(documents.names[2:], ("tokens", "places", "per_million")))
    columns = {"tokens": corpus.tokens}
    for name, places in nodes.items():
        ending = f"_{name}" if len(nodes) > 1 else ""
        number = places_per_document(corpus, places)
        columns[f"places{ending}"] = number
        columns[f"per_million{ending}"] = 1e6 * number / np.where(corpus.tokens > 0, corpus.tokens, np.nan)
    return described.with_columns(columns)


def _sizes(corpus: Corpus, nodes: Mapping[str, Matches]) -> list[str]:
    """Of each node the places, the documents that have one, and the rate, in all and in each group."""

    codes = group_codes(corpus.documents, corpus.groups)
    tokens = np.bincount(codes, weights=corpus.tokens, minlength=len(corpus.groups))
    found = []
    for name, places in list(nodes.items())[:_NODES_NOTED]:
        if not len(places):
            continue
        document = documents_of(corpus, places)
        number = np.bincount(codes[document], minlength=len(corpus.groups))
        having = np.bincount(codes[document[begins(document)]], minlength=len(corpus.groups))
        rate = 1e6 * number / np.maximum(tokens, 1)
        groups = [
            f"{group} {number[place]:,} in {having[place]:,} ({rate[place]:,.1f})"
            for place, group in enumerate(corpus.groups)
        ]
        of_all = f"{1e6 * len(places) / max(tokens.sum(), 1):,.1f} per million tokens"
        total = f"{name}: {numbered(len(places), 'place')} in {numbered(int(having.sum()), 'document')}, {of_all}"
        found.append(f"{total}: {listed(groups, between='; ')}" if len(groups) > 1 else total)
    if len(nodes) > _NODES_NOTED:
        found.append(f"{len(nodes) - _NODES_NOTED} more nodes")
    return found


ANALYSIS = ConcordanceAnalysis()
