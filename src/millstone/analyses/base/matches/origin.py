"""From a row of a saved table back to the texts: the step that made it, and the places that its number counts."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from importlib import import_module
from importlib.util import find_spec
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from millstone.analyses import command_for
from millstone.analyses.base.analysis import analysis_named, make_step, texts_of
from millstone.analyses.base.matches.counted_tokens import counted_tokens, tokens_left
from millstone.analyses.base.matches.nodes import nodes_of, term_map_of
from millstone.analyses.base.step import Step
from millstone.core.base.addresses import address_in
from millstone.core.base.arrays import in_sorted
from millstone.core.base.errors import DataError, UsageError
from millstone.core.base.wording import listed, nearest, quoted_entry
from millstone.core.corpus.corpus import Corpus, group_codes
from millstone.core.corpus.group_names import REST
from millstone.core.matches.matches import Matches, documents_of
from millstone.core.matches.term_matches import term_places
from millstone.core.settings.declare import declared
from millstone.core.settings.inputs import InputOptions
from millstone.core.settings.output import Output
from millstone.core.settings.preparation import Preparation, Work
from millstone.core.tables.schema import Schema
from millstone.outputs.disk.ledger import sha256_of
from millstone.outputs.files.companion import read_companion
from millstone.outputs.files.reader import frame_of
from millstone.texts.inputs.finding.remote import path_of
from millstone.texts.term_counts import as_counted

if TYPE_CHECKING:
    import pandas as pd

    from millstone.analyses.base.command import Command

RowMatches = tuple[Matches, Mapping[str, np.ndarray]]
"""The matches behind a number, and columns for their lines."""
_GROUPS = ("group", "target", "reference", "against")


@dataclass(frozen=True)
class Origin:
    """A saved table of which rows are asked about.

    Attributes
    ----------
    step : Step
        The step that made it.
    table : str
        Which of its tables: the command's name, or that of a further table.
    rows : DataFrame
        The rows asked about.
    files : tuple
        The input files, each with its checksum.
    select : tuple of str
        Categories.
    """

    step: Step[Any]
    table: str
    rows: "pd.DataFrame"
    files: tuple[tuple[str, str], ...]
    select: tuple[str, ...] = ()

    @property
    def each(self) -> "Iterator[Origin]":
        """The table with one of the rows at a time."""
        return (replace(self, rows=self.rows.iloc[[number]]) for number in range(len(self.rows)))

    @property
    def groups(self) -> set[str]:
        """The groups that the rows name; ``rest`` among them for all others."""
        return {str(value) for name in _GROUPS if name in self.rows for value in self.rows[name]}

    def changed_files(self) -> list[str]:
        """The input files that have changed since, or are gone."""
        paths = [(path_of(path), before) for path, before in self.files]
        return [str(path) for path, before in paths if not path.is_file() or sha256_of(path) != before]


def traced_tables(command: str) -> Mapping[str, tuple[str, ...]]:
    """The tables of a command whose rows count matches in the texts, each with the columns that a row needs."""
    if find_spec(f"millstone.analyses.{command}.trace") is None:
        return {}
    found: Mapping[str, tuple[str, ...]] = import_module(f"millstone.analyses.{command}.trace").TRACED
    return found


def matches_behind(origin: Origin, corpus: Corpus) -> RowMatches:
    """The matches that the rows count, ascending, and further columns for their lines."""
    trace = import_module(f"millstone.analyses.{origin.step.command.name}.trace")
    found: RowMatches = trace.row_matches(origin, corpus)
    return found


def with_origin(step: Step[Any], commands: Mapping[str, "Command"]) -> Step[Any]:
    """The step with the inputs, reading and preparation of the table that ``--from`` names.

    Raises
    ------
    MillstoneError
    """
    return like(step, origin_of(step, commands).step)


def like(step: Step[Any], made: Step[Any]) -> Step[Any]:
    """The step with the inputs, reading and preparation of the one that made its table; it looks at all the text."""
    shared = {*declared(InputOptions), *declared(Preparation)}
    typed = {name: value for name, value in made.typed.items() if name in shared}
    return replace(
        step,
        inputs=made.inputs,
        reading=made.reading,
        preparation=replace(made.preparation, around=(), ngram=(1, 1)),
        typed={**typed, **step.typed},
    )


def origin_of(step: Step[Any], commands: Mapping[str, "Command"]) -> Origin:
    """Read from a table's companion where it comes from.

    Raises
    ------
    DataError
        For a table that has no companion, or no such row; for inputs that are no longer there.
    """
    settings = step.settings
    path = Path(settings.from_)
    notes = read_companion(path)
    if "input" not in notes:
        raise DataError(
            f"{path} does not say what it was made from: it has no companion, or one of an earlier version",
            f"make it again with -o {path.name}, and keep {path.name}-metadata.json beside it",
        )
    table = notes["command"]
    command = commands.get(notes.get("made_by", table))
    needed = traced_tables(command.name).get(table) if command else None
    if command is not None:
        command = command_for(command.name, str(notes["settings"].get("of", "")))
    if command is None or needed is None:
        known = [one for name in commands for one in traced_tables(name)]
        raise DataError(
            f"{path}: the rows of {table} have no lines behind them", f"give a table of {', '.join(known)}"
        )
    frame = _frame_of(path, command, table)
    if lacking := [one for one in needed if one not in frame.columns]:
        raise DataError(
            f"{path} lacks what names a row of {table}: the column {listed(lacking)}",
            "make the table again with that column",
        )
    folder = _folder_of(notes["input"], path)
    values: dict[str, Any] = {"input": tuple(_inside(folder, typed) for typed in notes["input"])}
    # who sends a table has no say in where it is computed or written
    for part in (part for part in command.parts() if part not in (Output, Work)):
        for name, one in declared(part).items():
            if name in notes["settings"]:
                values[name] = _read(one.metadata["kind"], notes["settings"][name], folder)
    rows = _rows(settings, frame, path)
    files = tuple((_inside(folder, file["path"]), file["sha256"]) for file in notes["inputs"])
    made = make_step(command, values)
    if made.counted.lists:
        raise DataError(
            f"{path} was made of frequency lists, and lists have no lines", "name the texts: INPUT --find EXPRESSION"
        )
    return Origin(made, table, rows, files, settings.select)


def _frame_of(path: Path, command: "Command", table: str) -> "pd.DataFrame":
    """The rows of a table, under the names that its columns have now."""
    analysis = analysis_named(command.name)
    schemas = {one.name: one for one in (analysis.schema(), *analysis.further_schemas())}
    schema = schemas.get(table, Schema(table))
    frame = frame_of(path, schema)
    return frame.rename(columns={old: new for old, new in schema.also_called.items() if new not in frame})


def _read(kind: Any, given: Any, folder: Path) -> Any:
    """A setting as the companion has it, where all values are as they would be typed."""
    if kind.switch:
        return given == "yes"
    if kind.study_only:
        given = {one["name"]: {name: value for name, value in one.items() if name != "name"} for one in given}
    return kind.placed(kind.accept(given), folder) if folder != Path() else kind.accept(given)


def _folder_of(typed: list[str], table: Path) -> Path:
    """The folder from which inputs are found: the present one, that of the table, or one above it."""
    for folder in (Path(), *table.resolve().parents):
        if all(address_in(one) or Path(_inside(folder, one).rpartition("=")[2]).exists() for one in typed):
            return folder
    raise DataError(
        f"{table}: its inputs are not here: {listed(typed)}", "go to the folder in which the table was made"
    )


def _inside(folder: Path, typed: str) -> str:
    if address_in(typed):
        return typed
    if folder == Path() or (folder / typed).exists() or "=" not in typed:
        return str(folder / typed) if folder != Path() else typed
    name, _, path = typed.partition("=")
    return f"{name}={folder / path}"


def _rows(settings: Any, frame: "pd.DataFrame", path: Path) -> "pd.DataFrame":
    if bool(settings.row) == bool(settings.term):
        raise UsageError("--from needs a row of the table", "type --row N, or --term TERM for all rows of a term")
    if settings.row:
        if settings.row > len(frame):
            raise DataError(f"--row {settings.row}: {path} has {len(frame):,} rows", "row 1 is the first of data")
        return frame.iloc[[settings.row - 1]]
    if "term_a" in frame:
        return _links(settings.term, frame, path)
    column = next((name for name in ("term", "collocate", "node") if name in frame), "")
    if not column:
        raise UsageError(f"--term: {path} has no terms", "name the row with --row N")
    found = frame[frame[column].astype(str) == settings.term]
    if found.empty:
        near = nearest(settings.term, frame[column].astype(str).unique())
        raise DataError(
            f"--term: {path} has no row of {settings.term!r}{near}",
            "type the term as the table has it, or name the row with --row N",
        )
    return found


def _links(typed: str, frame: "pd.DataFrame", path: Path) -> "pd.DataFrame":
    """The rows of the link of two terms, whichever of them is named first."""
    ends = list(zip(frame["term_a"].astype(str), frame["term_b"].astype(str), strict=True))
    wanted = {
        tuple(sorted((typed[:at].strip(), typed[at + 1 :].strip()))) for at, sign in enumerate(typed) if sign == ","
    }
    if not wanted:
        raise UsageError(f"--term: a row of {path} is a link of two terms", f"type both: --term {typed!r},...")
    found = frame[[tuple(sorted(pair)) in wanted for pair in ends]]
    if found.empty:
        known = [",".join(pair) for one, other in ends for pair in ((one, other), (other, one))]
        raise DataError(
            f"--term: {path} has no link of {typed!r}{nearest(typed, known)}",
            "type both terms as the table has them, or name the row with --row N",
        )
    return found


def in_groups(corpus: Corpus, places: Matches, names: set[str]) -> Matches:
    """The places in the groups that are named; ``rest`` stands for all groups."""
    if REST in names or not names:
        return places
    wanted = [number for number, group in enumerate(corpus.groups) if group in names]
    here = in_sorted(group_codes(corpus.documents, corpus.groups)[documents_of(corpus, places)], np.array(wanted))
    return places.at(np.flatnonzero(here))


def places_of_node(origin: Origin, corpus: Corpus, column: str, everywhere: bool = False) -> Matches:
    """The places of the node in a column of the row, in the groups of the row or everywhere."""
    tokens = tokens_left(origin.step, corpus)
    nodes = nodes_of(origin.step, tokens.corpus, [])
    if column not in origin.rows and len(nodes) != 1:
        raise DataError(
            f"--from: the table was made of {listed(nodes)}, and lacks the column {column}", "make the table again"
        )
    name = str(origin.rows[column].iloc[0]) if column in origin.rows else next(iter(nodes))
    if name not in nodes:
        raise DataError(
            f"--from: the table has {quoted_entry(name)} in its column {column}, and was made of {listed(nodes)}",
            "make the table again",
        )
    found = tokens.as_written(nodes[name])
    return found if everywhere else in_groups(corpus, found, origin.groups)


def with_other_word(corpus: Corpus, found: Matches, others: Matches) -> RowMatches:
    """Places for lines, each with the word near it that it was counted with, and how far away that is."""
    ids = corpus.sequence[0]
    words = [
        " ".join(corpus.forms[number] for number in ids[first:after].tolist())
        for first, after in zip(others.start.tolist(), others.end.tolist(), strict=True)
    ]
    distance = np.where(others.start < found.start, others.end - 1 - found.start, others.start - found.end + 1)
    return found, {"collocate": np.array(words, dtype=object), "distance": distance}


def matches_of_terms(origin: Origin, corpus: Corpus) -> RowMatches:
    """The places of the terms of some rows, in their groups.

    Raises
    ------
    DataError
        For rows that count no words.
    """
    step, preparation = origin.step, origin.step.preparation
    if step.counted.count_field:
        raise DataError("--from: the table counts values of a field, and no words", "give a table of words")
    tokens = counted_tokens(step, corpus)
    term_map = as_counted(texts_of(step), tokens.corpus, term_map_of(step, tokens.corpus))
    row = origin.rows.iloc[0]
    if "n" not in origin.rows and len(set(preparation.ngram)) > 1:
        raise DataError("--from: the table of n-grams of several sizes lacks the column n", "make the table again")
    n = int(row["n"]) if "n" in origin.rows else preparation.ngram[0]
    places = term_places(tokens, term_map, str(row["term"]), n, preparation.bridge)
    return in_groups(corpus, places, origin.groups), {}
