"""Values of documents, to be compared between groups: of a dictionary, measures, fields, or columns of a table."""

from collections.abc import Callable, Collection, Sequence
from pathlib import Path
from typing import Any

import numpy as np

from millstone.analyses.base.analysis import texts_of
from millstone.analyses.base.matches.dictionary_input import dictionary_of, note_idle_rules, note_no_hit
from millstone.analyses.base.step import Step
from millstone.analyses.categories.compute import table_of
from millstone.analyses.categories.schema import schema
from millstone.analyses.contrast.compute import Observations
from millstone.analyses.contrast.settings import ContrastSettings
from millstone.analyses.profile.compute import profile
from millstone.analyses.profile.measures import MEASURES
from millstone.analyses.profile.settings import ProfileSettings
from millstone.analyses.profile.word_classes import WORD_CLASSES, class_column, tokens_by_class
from millstone.core.base.errors import DataError, UsageError
from millstone.core.base.light_dataclass import frozen
from millstone.core.base.wording import listed, nearest, nearest_names, numbered
from millstone.core.corpus.corpus import Corpus, GroupSize, group_sizes, natural_key
from millstone.core.dictionary.matches import find_matches
from millstone.core.evidence.sampling import SamplingUnits, sampling_units
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.tables.columns import Column
from millstone.core.tables.table import Table, distinct_rows
from millstone.core.terms.counts import Counts
from millstone.outputs.files.companion import read_companion
from millstone.texts.inputs.files import existing, watched
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.inputs.tables.table import column_of, open_table
from millstone.texts.scanned_texts import ScannedTexts
from millstone.texts.term_counts import prepared_terms

_UNIT = "sampling unit"
# what grows or shrinks with the length of a text, and how much longer texts must be for it to matter
_BY_LENGTH, _LONGER = ("types", "hapaxes", "hapax_percent", "ttr", "yule_k"), 1.1
_MUCH_LONGER = 1.5
_TEXT_COLUMNS = ("document", "group", "part_of", "part", "tokens")


@frozen
class DocumentValues:
    """Values of documents.

    Attributes
    ----------
    table : Table
        A row per document: what is known of it, and the values.
    names : list of str
        The columns of the values.
    sizes : tuple of GroupSize
        The groups.
    sampling : SamplingUnits
        The sampling units of the documents.
    places : Counts or None
        The places of categories, where values are of a dictionary.
    """

    table: Table
    names: list[str]
    sizes: tuple[GroupSize, ...]
    sampling: SamplingUnits
    places: Counts | None = None


def values_of(step: Step[Any], material: ScannedTexts, notes: list[str]) -> DocumentValues:
    """The values of a step's documents.

    Raises
    ------
    DataError
        For a value that is not a number, or that is unknown.
    """
    settings = step.settings
    if not settings.table:
        corpus = material.corpus
        table, values, places = _of_texts(step, material, notes)
        sizes = group_sizes(corpus.documents, corpus.tokens, corpus.groups)
        sampling = sampling_units(corpus.documents, settings.sampling_unit, settings.independent_units)
        return DocumentValues(table, values, sizes, sampling, places)
    table, values = _of_table(step, material.provenance)
    saved = [size.name for size in read_companion(Path(settings.table)).get("groups", ())]
    sizes = _sizes_of_table(table, list(dict.fromkeys([*step.reading.order, *saved])))
    return DocumentValues(table, values, sizes, _sampling_of_table(step, table))


def _sampling_of_table(step: Step[Any], table: Table) -> SamplingUnits:
    """The sampling units of a table's rows, of which the parts of a text need not stand together."""
    settings = step.settings
    if settings.sampling_unit or "part_of" not in table or settings.independent_units:
        return sampling_units(table, settings.sampling_unit, settings.independent_units)
    by = [table["part_of"]] if step.reading.group == "part" else [table["part_of"], table["group"]]
    return SamplingUnits(distinct_rows(by)[0], "text")


def check_parts(table: Table, option: str) -> None:
    """Raise DataError where the texts are not cut into parts."""
    if "part_of" not in table:
        raise DataError(
            f"{option}: the texts are not cut into parts", "type --unit parts:12 or --unit words:500 as well"
        )


def columns_kept(table: Table, values: Sequence[str]) -> list[str]:
    """The columns that are kept beside the result: what is known of the texts, and the values."""
    return [*(name for name in _TEXT_COLUMNS if name in table and name not in values), *values]


def columns_of_values(step: Step[Any], table: Table, values: Sequence[str]) -> dict[str, Column]:
    """The columns of the values, as far as they are known: of a dictionary and measures, not of other fields."""
    known = {name: MEASURES[name].column for name in values if name in MEASURES}
    known |= {name: class_column(name) for name in values if name in WORD_CLASSES}
    if step.settings.dictionary:
        dictionary = dictionary_of(step)
        scores = {score.name: score.formula for score in dictionary.shown_scores}
        return known | schema(dictionary.shown_categories, step.settings.scale, scores).by_name
    companion = read_companion(Path(step.settings.table)) if step.settings.table else {}
    if companion.get("command") == "categories":
        # scores may be below 0, and a saved table does not say which columns are scores
        categories = [name for name in values if not (table[name] < 0).any()]
        known |= schema(categories, str(companion.get("settings", {}).get("scale", "percent"))).by_name
    return known


def _of_texts(step: Step[Any], material: ScannedTexts, notes: list[str]) -> tuple[Table, list[str], Counts | None]:
    """The values of documents, their names, and the places of categories."""
    settings, corpus = step.settings, material.corpus
    places = None
    described = corpus.documents
    columns: dict[str, np.ndarray] = {}
    if settings.dictionary:
        dictionary = dictionary_of(step)
        matches = find_matches(corpus, dictionary)
        note_no_hit(dictionary, matches, notes)
        table = table_of(matches, dictionary, settings.scale)
        places = _places(corpus, table_of(matches, dictionary, "count"), dictionary.shown_categories)
        named = [*dictionary.shown_categories, *(score.name for score in dictionary.shown_scores)]
        if "matched_percent" in settings.values:
            named.append("matched_percent")
        columns |= {name: np.asarray(table[name], dtype=float) for name in named}
        if not settings.values:
            note_idle_rules(step, notes)
    measured = [name for name in settings.values if name in MEASURES or name in WORD_CLASSES]
    if measured and corpus.has_marks:
        raise UsageError(
            f"--values {measured[0]}: measured of words, and the dictionary has entries of punctuation",
            "measure it in a run of its own, without the dictionary",
        )
    _require_tags(corpus, measured)
    if measured:
        prepared = prepared_terms(texts_of(step), material, notes)
        table = profile(prepared.corpus, prepared.term_map, ProfileSettings(per_document=True), only=measured)
        # a word class of which no text has a word
        zeros = np.where(corpus.tokens > 0, 0.0, np.nan)
        columns |= {name: np.asarray(table[name], dtype=float) if name in table else zeros for name in measured}
    for name in settings.values:
        if name not in columns:
            columns[name] = _numbers_of_field(described, name)
    base = {name: described[name] for name in _TEXT_COLUMNS if name in described}
    return Table({**base, "tokens": corpus.tokens, **columns}), list(columns), places


def _places(corpus: Corpus, counted: Table, categories: Sequence[str]) -> Counts:
    """The places of each category in each document, counted as terms are."""
    cells = [np.nan_to_num(np.asarray(counted[name], dtype=float)) for name in categories]
    dense = np.column_stack(cells) if cells else np.zeros((len(corpus.tokens), 0))
    matrix = SparseMatrix.of_dense(dense.astype(np.int32))
    return Counts(matrix, np.array(categories, dtype=object), corpus.tokens, corpus.documents, corpus.groups, {})


def _require_tags(corpus: Corpus, measured: Collection[str]) -> None:
    """Raise DataError for the share of a word class in texts without tags."""
    asked = next((name for name in measured if name in WORD_CLASSES), "")
    if asked and not tokens_by_class(corpus):
        raise DataError(
            f"--values {asked} needs texts with universal tags, and these have none",
            "--tag en guesses them (de, nl too)",
        )


def _numbers_of_field(documents: Table, name: str) -> np.ndarray:
    if name not in documents:
        known = [*MEASURES, *documents.names, "matched_percent"]
        raise DataError(
            f"--values: there is no measure and no field {name!r}{nearest(name, known)}",
            f"measures are {', '.join(MEASURES)}; fields are {nearest_names(name, documents.names)}",
        )
    cells = [str(cell).strip() for cell in documents[name]]
    return _numbers(cells, lambda row: f"--values {name}: document {documents['document'][row]}")


def _numbers(cells: Sequence[str], place: Callable[[int], str]) -> np.ndarray:
    """Cells as numbers, NaN for an empty one."""
    found = np.full(len(cells), np.nan)
    for row, cell in enumerate(cells):
        if not cell:
            continue
        try:
            found[row] = float(cell)
        except ValueError:
            found[row] = np.inf
        if not np.isfinite(found[row]):
            raise DataError(f"{place(row)} has {cell!r}, which is not a number", "name numeric fields with --values")
    return found


def _of_table(step: Step[Any], provenance: Provenance) -> tuple[Table, list[str]]:
    """The values of a table, one document per row, and their names."""
    settings, reading = step.settings, step.reading
    if not settings.values:
        raise DataError(
            f"--table {settings.table}: the columns of values are not named", "name them with --values COLUMN,COLUMN"
        )
    path = existing(Path(settings.table), "table")
    with watched(path, provenance):
        table = open_table(path, reading, provenance)
        # in a table that was saved the groups stand under group, whatever they were made of
        saved = reading.group not in table.header and {"document", "group"} <= set(table.header)
        group = "group" if saved else column_of(table, reading.group or "group", "group")
        names = [column_of(table, name, "values") for name in settings.values]
        rows = list(table.rows)
    if not rows:
        raise DataError(f"{path} has no rows", "give a table with one row per document")
    known: list[str] = [name for name in ("part_of", "part") if name in table.header]
    if settings.sampling_unit:
        known.append(column_of(table, settings.sampling_unit, "sampling-unit"))
    identity = next((name for name in (reading.id, "document") if name in table.header), "")
    columns: dict[str, object] = {
        "document": [cells.get(identity, "") or f"row {number}" for number, cells in rows],
        "group": [cells.get(group, "").strip() for _, cells in rows],
        **{name: [cells.get(name, "") for _, cells in rows] for name in known},
    }
    for name in ("tokens", *names):
        if name in table.header:
            cells = [cells.get(name, "").strip() for _, cells in rows]
            columns[name] = _numbers(cells, lambda row, name=name: f"{path}, row {rows[row][0]}: {name}")  # type: ignore[misc]
    if "part" in columns:
        columns["part"] = np.array([_part(str(cells.get("part", ""))) for _, cells in rows])
    found = Table(columns)
    without = int((found["group"] == "").sum())
    if without:
        provenance.note(f"{numbered(without, 'row')} of {path.name} without a group left out")
        found = found.at(found["group"] != "")
    return found, names


def _part(cell: str) -> float:
    """The number of a part; NaN if the cell is not a number."""
    try:
        return float(cell)
    except ValueError:
        return np.nan


def _sizes_of_table(table: Table, order: Sequence[str]) -> tuple[GroupSize, ...]:
    groups = sorted(set(table["group"].tolist()), key=natural_key)
    groups = [*(name for name in order if name in groups), *(name for name in groups if name not in order)]
    tokens = np.nan_to_num(table["tokens"]) if "tokens" in table else np.zeros(len(table))
    return group_sizes(table, tokens, groups)


def observations(
    given: DocumentValues,
    groups: tuple[str, ...],
    settings: ContrastSettings,
    notes: list[str],
) -> Observations:
    """Sampling units as observations: the documents of a unit in a group are averaged first."""
    table, values, sampling = given.table, given.names, given.sampling
    if settings.by_length and "tokens" not in table:
        raise DataError("--by-length: the table has no column tokens", "leave the option out")
    documents, unit, given_table = len(table), sampling.of, table
    noun = sampling.noun if not sampling.field else "unit"
    averaged, first, times = _averaged(table.with_columns({_UNIT: unit}), values)
    if len(averaged) < documents:
        nouns = "part" if "part_of" in table else "document"
        one = f"{noun}s" if not sampling.field else sampling.counted(len(averaged)).partition(" ")[2]
        apart = " (--independent-units: parts)" if noun == "text" else ""
        notes.append(f"{numbered(documents, nouns)} averaged within groups: n counts {len(averaged):,} {one}{apart}")
        table, unit = averaged, unit[first]
        if sampling.names is not None:
            table = table.with_columns({"document": sampling.names[first]})
    if sampling.without:
        notes.append(
            f"{numbered(sampling.without, 'document')} without a value of {sampling.field}: each is a sampling unit "
            "of its own"
        )
    weight = np.asarray(table["tokens"], dtype=float) if settings.by_length else None
    _note_lengths(given_table, table, values, groups, given.places is not None, notes)
    return Observations(
        table.only(values),
        table["group"],
        groups,
        table["document"],
        weight,
        noun,
        unit,
        given.places,
        sampling,
        times,
    )


def _averaged(table: Table, values: Sequence[str]) -> tuple[Table, np.ndarray, Table | None]:
    """The means over the documents of each unit in each group, with the sums of their tokens.

    Also a row of each, and how many documents each mean is of (None where each is of one).
    """
    number, first = distinct_rows([table["group"], table[_UNIT]])
    if len(first) == len(table):
        return table, first, None
    own = table.to_frame().groupby(number, sort=True)
    columns = {name: table[name][first] for name in ("group", "part_of" if "part_of" in table else "document")}
    found = {**columns, **{name: own[name].mean().to_numpy() for name in values}}
    if "tokens" in table and "tokens" not in values:
        found["tokens"] = own["tokens"].sum().to_numpy()
    times = Table({name: own[name].count().to_numpy() for name in values})
    return Table(found).renamed({"part_of": "document"}), first, times


def _note_lengths(
    table: Table, averaged: Table, values: Sequence[str], groups: tuple[str, ...], are_places: bool, notes: list[str]
) -> None:
    """Say for which values and tests the length of texts makes a difference by itself."""
    touched = [name for name in values if name in _BY_LENGTH]
    verb = "depends" if len(touched) == 1 else "depend"
    for lengths, least, what in (
        (
            table,
            _LONGER if touched else np.inf,
            f"{listed(touched)} {verb} on length, --values mattr,mtld,hdd do not",
        ),
        (averaged, _MUCH_LONGER if are_places else np.inf, "p_rank of a rare category then measures length"),
    ):
        if "tokens" not in lengths:
            continue
        # of a group all texts may be left out as too short
        tokens_of = {group: lengths["tokens"][lengths["group"] == group] for group in groups}
        means = {group: float(np.mean(tokens)) for group, tokens in tokens_of.items() if len(tokens)}
        if not means:
            continue
        longest, shortest = max(means, key=means.__getitem__), min(means, key=means.__getitem__)
        if means[shortest] and means[longest] > least * means[shortest]:
            times = means[longest] / means[shortest]
            notes.append(f"observations of {longest} are {times:.1f} times as long as those of {shortest}: {what}")
