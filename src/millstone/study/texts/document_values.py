"""Values of documents, to be compared between groups: of a dictionary, measures, fields, or columns of a table."""

from collections.abc import Callable, Collection, Sequence
from pathlib import Path

import numpy as np

from millstone.core.columns import COLUMNS, Column, category_columns
from millstone.core.compare.contrast import Observations
from millstone.core.corpus.corpus import Corpus, GroupSize, group_sizes, natural_key
from millstone.core.describe.profile import MEASURES, profile
from millstone.core.describe.word_classes import WORD_CLASSES, class_column, tokens_by_class
from millstone.core.dictionary.categories import table_of
from millstone.core.dictionary.matches import find_matches
from millstone.core.errors import DataError
from millstone.core.settings.analyses import ProfileSettings
from millstone.core.table import Table
from millstone.core.wording import nearest, nearest_names, numbered
from millstone.results.companion import read_companion
from millstone.sources.files import existing, watched
from millstone.sources.provenance import Provenance
from millstone.sources.tables.table import column_of, open_table
from millstone.study.step import Step
from millstone.study.texts.dictionary_input import dictionary_of, note_idle_rules, note_no_hit
from millstone.study.texts.material import Material
from millstone.study.texts.term_counts import prepared_terms

_TEXT_COLUMNS = ("document", "group", "part_of", "part", "tokens")


def values_of(step: Step, material: Material, notes: list[str]) -> tuple[Table, list[str], tuple[GroupSize, ...]]:
    """The values of a step's documents, one row per document; the names of their columns; the groups.

    Raises
    ------
    DataError
        For a value that is not a number, or that is unknown.
    """
    settings = step.settings
    if not settings.table:
        corpus = material.corpus
        return *_of_texts(step, material, notes), group_sizes(corpus.documents, corpus.tokens, corpus.groups)
    table, values = _of_table(step, material.provenance)
    saved = [size.name for size in read_companion(Path(settings.table)).get("groups", ())]
    return table, values, _sizes_of_table(table, list(dict.fromkeys([*step.reading.order, *saved])))


def check_parts(table: Table, option: str) -> None:
    """Raise DataError where the texts are not cut into parts."""
    if "part_of" not in table:
        raise DataError(
            f"{option}: the texts are not cut into parts", "type --unit parts:12 or --unit words:500 as well"
        )


def columns_kept(table: Table, values: Sequence[str]) -> list[str]:
    """The columns that are kept beside the result: what is known of the texts, and the values."""
    return [*(name for name in _TEXT_COLUMNS if name in table and name not in values), *values]


def columns_of_values(step: Step, table: Table, values: Sequence[str]) -> dict[str, Column]:
    """What the values mean, as far as it is known: those of a dictionary and measures, not other fields."""
    known = {name: COLUMNS[name] for name in values if name in MEASURES and name in COLUMNS}
    known |= {name: class_column(name) for name in values if name in WORD_CLASSES}
    if step.settings.dictionary:
        dictionary = dictionary_of(step)
        scores = {score.name: score.formula for score in dictionary.shown_scores}
        return known | category_columns(dictionary.shown_categories, step.settings.scale, scores)
    companion = read_companion(Path(step.settings.table)) if step.settings.table else {}
    if companion.get("command") == "categories":
        # scores may be below 0, and a saved table does not say which columns are scores
        categories = [name for name in values if not (table[name] < 0).any()]
        known |= category_columns(categories, str(companion.get("settings", {}).get("scale", "percent")))
    return known


def _of_texts(step: Step, material: Material, notes: list[str]) -> tuple[Table, list[str]]:
    """The values of documents, and their names."""
    settings, corpus = step.settings, material.corpus
    described = corpus.documents
    columns: dict[str, np.ndarray] = {}
    if settings.dictionary:
        dictionary = dictionary_of(step)
        matches = find_matches(corpus, dictionary)
        note_no_hit(dictionary, matches, notes)
        table = table_of(matches, dictionary, settings.scale)
        named = [*dictionary.shown_categories, *(score.name for score in dictionary.shown_scores)]
        if "matched_percent" in settings.values:
            named.append("matched_percent")
        columns |= {name: np.asarray(table[name], dtype=float) for name in named}
        if not settings.values:
            note_idle_rules(step, notes)
    measured = [name for name in settings.values if name in MEASURES or name in WORD_CLASSES]
    _require_tags(corpus, measured)
    if measured:
        prepared = prepared_terms(step, material, notes)
        table = profile(prepared.corpus, prepared.term_map, ProfileSettings(per_document=True), only=measured)
        # a word class of which no text has a word
        zeros = np.where(corpus.tokens > 0, 0.0, np.nan)
        columns |= {name: np.asarray(table[name], dtype=float) if name in table else zeros for name in measured}
    for name in settings.values:
        if name not in columns:
            columns[name] = _numbers_of_field(described, name)
    base = {name: described[name] for name in _TEXT_COLUMNS if name in described}
    return Table({**base, "tokens": corpus.tokens, **columns}), list(columns)


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


def _of_table(step: Step, provenance: Provenance) -> tuple[Table, list[str]]:
    """The values of a table, one document per row, and their names."""
    settings, reading = step.settings, step.reading
    if not settings.values:
        raise DataError(
            f"--table {settings.table}: which columns are the values?", "name them with --values COLUMN,COLUMN"
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
    known = [name for name in ("part_of", "part") if name in table.header]
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
    table: Table,
    values: Sequence[str],
    groups: tuple[str, ...],
    by_length: bool,
    independent_units: bool,
    notes: list[str],
) -> Observations:
    """Documents as observations; parts of one text are averaged first, unless they are to stand for themselves."""
    if by_length and "tokens" not in table:
        raise DataError("--by-length: the table has no column tokens", "leave the option out")
    noun = "part" if "part_of" in table else "document"
    if "part_of" in table and not independent_units:
        parts, noun = len(table), "text"
        table = _averaged(table, values)
        if len(table) < parts:
            notes.append(
                f"{numbered(parts, 'part')} of {numbered(len(table), 'text')}: averaged by text, so that n counts "
                "texts (--independent-units: parts)"
            )
    weight = np.asarray(table["tokens"], dtype=float) if by_length else None
    return Observations(table.only(values), table["group"], groups, table["document"], weight, noun)


def _averaged(table: Table, values: Sequence[str]) -> Table:
    """The means over the parts of each text, and the sums of their tokens."""
    own = table.to_frame().groupby(["group", "part_of"], sort=False)
    found = own[list(values)].mean()
    if "tokens" in table and "tokens" not in values:
        found = found.assign(tokens=own["tokens"].sum())
    return Table.of_frame(found.reset_index().rename(columns={"part_of": "document"}))
