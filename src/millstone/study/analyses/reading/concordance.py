"""Concordance: every place of an expression, in its context."""

from collections.abc import Collection
from typing import TYPE_CHECKING

from millstone.core.errors import DataError, UsageError
from millstone.core.layout import Layout
from millstone.core.settings.reading import ConcordanceSettings
from millstone.study.command import Command

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence
    from pathlib import Path

    import numpy as np

    from millstone.core.corpus.corpus import Corpus
    from millstone.core.reading.places import Spans
    from millstone.core.result import Result
    from millstone.core.table import Table
    from millstone.study.command import Drawing
    from millstone.study.step import Step
    from millstone.study.texts.material import Material

_KEYS = ("left", "right", "found", "document", "random", "group")
_NODES_NOTED = 5


def settle(step: "Step") -> "Step":
    """Something is looked for, in single words."""
    from millstone.study.reading.nodes import require_nodes

    if (step.settings.row or step.settings.term) and not step.settings.from_:
        raise UsageError("--row and --term name a row of a table, and there is no --from", "add --from TABLE")
    if step.preparation.ngram != (1, 1):
        raise UsageError("--ngram: a concordance is of words in a row: --find 'mountain hut'", "leave --ngram out")
    if step.settings.per_document and step.settings.sample:
        raise UsageError("--sample draws lines, and --per-document counts all of them", "leave one of the two out")
    if not step.settings.from_:
        return require_nodes(step)
    if step.settings.find or step.settings.dictionary or step.inputs.input:
        raise UsageError(
            "--from takes inputs and what is looked for from the table", "leave INPUT, --find and --dictionary out"
        )
    return step


def bring(step: "Step", earlier: "Sequence[Step]") -> "Step":
    """The step with the inputs and settings of the table whose numbers it explains."""
    if not step.settings.from_:
        return step
    from pathlib import Path

    from millstone.study.analyses import STEPS
    from millstone.study.reading.origin import like, with_origin

    table = Path(step.settings.from_)
    made = [one for one in earlier if Path(one.output.output).resolve() == table.resolve()]
    if made:
        return like(step, made[-1])
    return with_origin(step, STEPS) if table.is_file() else step


def check(step: "Step", made: "Collection[Path]") -> None:
    """The expressions can be read."""
    from millstone.study.reading.nodes import check_nodes

    if not step.settings.from_:
        check_nodes(step, made)
        return
    if step.settings.row and step.settings.term:
        raise UsageError("--row and --term: one of them says which row", "leave one of the two out")
    from pathlib import Path

    table = Path(step.settings.from_)
    if not table.is_file() and table.resolve() not in made:
        raise DataError(f"there is no table {table}", "check the spelling; make it with -o on an analysis")


def analyse(step: "Step", material: "Material", notes: list[str], drawing: "Drawing") -> "Result":
    """The lines of all nodes, or how many each document has."""
    from dataclasses import replace

    from millstone.core.columns import CONCORDANCE, PART_COLUMNS
    from millstone.core.corpus.corpus import group_sizes
    from millstone.core.result import Result
    from millstone.study.reading.nodes import nodes_of

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
    columns = {name: CONCORDANCE[name] for name in table.names if name in CONCORDANCE}
    for node in nodes if step.settings.per_document and len(nodes) > 1 else ():
        for name in ("hits", "per_thousand"):
            column = CONCORDANCE[name]
            columns[f"{name}_{node}"] = replace(column, title=f"{column.title}, {node}")
    for field in corpus.documents.names[2:]:
        if field not in PART_COLUMNS:
            columns.pop(field, None)
    sizes = group_sizes(corpus.documents, corpus.tokens, corpus.groups)
    layout = step.command.layout
    if step.settings.per_document:
        hits = [name for name in table.names[len(corpus.documents.names) :] if name.startswith("hits")]
        layout = Layout(largest_first=() if step.output.sort else tuple(hits))
    result = Result("concordance", table, columns, sizes, step.typed, layout=layout)
    return result if paragraphs is None else result.with_table("paragraphs", paragraphs)


def _behind(
    step: "Step", corpus: "Corpus", notes: list[str]
) -> "tuple[Mapping[str, Spans], Mapping[str, np.ndarray]]":
    """The places that a row of a table counts, under the name of its term."""
    from millstone.core.wording import listed
    from millstone.study.analyses import STEPS
    from millstone.study.reading.origin import origin_of

    origin = origin_of(step, STEPS)
    if changed := origin.changed_files():
        notes.append(f"changed since the table was made: {listed(changed)}")
    assert origin.step.command.places_of is not None
    row = origin.rows.iloc[0]
    if "term_a" in row:
        name = f"{row['term_a']} and {row['term_b']}"
    else:
        name = next(str(row[one]) for one in ("term", "node", "branch", "document", "group") if one in row)
    places, beside = origin.step.command.places_of(origin, corpus)
    return {name: places}, beside


def _lines(
    step: "Step",
    corpus: "Corpus",
    nodes: "Mapping[str, Spans]",
    beside: "Mapping[str, np.ndarray]",
    notes: list[str],
) -> "tuple[Table, Table | None]":
    """The lines, and for a page the paragraph of each."""
    import numpy as np

    from millstone.core.columns import CONCORDANCE, PART_COLUMNS, renamed
    from millstone.core.reading.lines import PARAGRAPH, drawn, in_order, lines_of
    from millstone.core.table import Table
    from millstone.study.reading.contexts import cut_lines

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
    names = renamed(fields, [name for name in CONCORDANCE if name not in PART_COLUMNS])
    columns |= {names.get(name, name): documents[name] for name in fields}
    columns["token_number"] = lines.places.start - starts[lines.document] + 1
    columns |= dict(zip(("left", "found", "right"), texts.T, strict=True))
    columns |= {name: values[lines.number - 1] for name, values in beside.items()}
    if not is_page:
        return Table(columns), None
    whole = cut[1]
    paragraphs = Table({"line": lines.number[shown], "left": whole[:, 0], "right": whole[:, 2]})
    return Table(columns), paragraphs


def _sort_keys(step: "Step", fields: Collection[str]) -> list[str]:
    """What lines are sorted by, one key after the other."""
    from millstone.core.wording import nearest, nearest_names

    keys = [key.strip() for key in step.output.sort.split(",") if key.strip()]
    for key in keys:
        if key not in _KEYS and key not in fields:
            known = (*_KEYS, *fields)
            raise DataError(
                f"--sort: lines cannot be sorted by {key!r}{nearest(key, known)}",
                f"sort by {nearest_names(key, known)}; several with commas",
            )
    return keys


def _per_document(corpus: "Corpus", nodes: "Mapping[str, Spans]") -> "Table":
    import numpy as np

    from millstone.core.columns import renamed
    from millstone.core.reading.dispersion import hits

    documents = corpus.documents
    described = documents.renamed(renamed(documents.names[2:], ("tokens", "hits", "per_thousand")))
    columns = {"tokens": corpus.tokens}
    for name, places in nodes.items():
        ending = f"_{name}" if len(nodes) > 1 else ""
        number = hits(corpus, places)
        columns[f"hits{ending}"] = number
        columns[f"per_thousand{ending}"] = 1000 * number / np.where(corpus.tokens > 0, corpus.tokens, np.nan)
    return described.with_columns(columns)


def _sizes(corpus: "Corpus", nodes: "Mapping[str, Spans]") -> list[str]:
    """Of each node the places, the documents that have one, and the rate, in all and in each group."""
    import numpy as np

    from millstone.core.arrays import begins
    from millstone.core.corpus.corpus import group_codes
    from millstone.core.reading.places import documents_of
    from millstone.core.wording import listed, numbered

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


COMMAND = Command(
    "concordance",
    "every place of an expression, in its context",
    ConcordanceSettings,
    None,
    "Each line is a place, with the text around it as it stands. line is its number in the order in which texts are\n"
    "read, and stays with it when lines are sorted or drawn. --sort left|right|found|document|random|FIELD: left\n"
    "and right go word by word from the place outwards.",
    (
        "concordance guestbook.csv --text entry --id entry_id --group hut --find stove --sort right",
        "concordance journals --find 'path*, trail*' --near 'closed, washed' --context sentence",
        "concordance guestbook.csv --text entry --id entry_id --find ahoy --per-document -o ahoy.csv",
    ),
    analyse,
    settle=settle,
    bring=bring,
    check=check,
    looks_at_order=lambda step: True,
    reads_on=True,
    layout=Layout(centre="found", empty="no lines: what was looked for does not occur in the texts"),
    sorts=lambda step: not step.settings.per_document,
    of_plain_words=True,
)
