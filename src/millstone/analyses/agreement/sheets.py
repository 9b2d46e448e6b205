"""Coding sheets that were filled in: read, checked, and put together coder by coder."""

from collections.abc import Iterable, Sequence
from dataclasses import replace
from pathlib import Path

import numpy as np

from millstone.core.base.errors import DataError
from millstone.core.base.light_dataclass import frozen
from millstone.core.base.wording import listed, nearest, nearest_names
from millstone.core.coding.sealed import Sealed
from millstone.core.settings.inputs import InputOptions
from millstone.outputs.files.companion import companion_path, read_companion
from millstone.outputs.files.sealing import unpacked
from millstone.texts.inputs.files import ending_of, stem_of, watched
from millstone.texts.inputs.finding.finding import input_files
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.inputs.tables.table import TABLES, Row, open_table
from millstone.texts.inputs.tables.workbook import sheets_with_rows

NO_CODE = -1
"""In place of a code that a coder did not give."""
_UNIT = "unit_id"
_CODES = {"1": 1, "1.0": 1, "0": 0, "0.0": 0, "": NO_CODE}
_NAMED = 3
_OLDER = "cp1252"


@frozen
class CodedSheets:
    """The codes of all sheets of one draw.

    Attributes
    ----------
    sealed : Sealed
        How the units were drawn.
    units : tuple of str
        The names of the units that anyone coded.
    documents, texts : tuple of str
        Of each its document, and its text.
    coders : tuple of str
    codes : ndarray
        (categories, units, coders) int8: 1, 0, or `NO_CODE`.
    drawn_in : str
        The sheet whose companion keeps how the units were drawn.
    """

    sealed: Sealed
    units: tuple[str, ...]
    documents: tuple[str, ...]
    texts: tuple[str, ...]
    coders: tuple[str, ...]
    codes: np.ndarray
    drawn_in: str

    @property
    def strata(self) -> np.ndarray:
        """(units,) int64 the number of the stratum of each."""
        return np.array([self.sealed.units[name].stratum for name in self.units], dtype=np.int64)


@frozen
class _Sheet:
    """One table: its name, where its companion would be, and its rows under their numbers."""

    path: Path
    name: str
    header: tuple[str, ...]
    rows: tuple[Row, ...]


@frozen
class _Row:
    """A row in which something is coded, and where it stands: its sheet and its number there."""

    sheet: _Sheet
    number: int
    coder: str
    unit: str
    document: str
    text: str
    codes: tuple[int, ...]


def read_sheets(
    inputs: Sequence[str], reading: InputOptions, provenance: Provenance, option: str = ""
) -> CodedSheets:
    """The codes of all sheets.

    Parameters
    ----------
    inputs : sequence of str
        Tables, workbooks, or folders of them; one at least with what its companion keeps of the draw.
    reading : InputOptions
        How tables are read.
    provenance : Provenance
        Receives the files, and what the user should know.
    option : str
        The option that named them, for messages.

    Raises
    ------
    DataError
        For a code that is neither 1 nor 0, a unit that was not drawn, one that a coder codes twice, sheets of
        several draws, or none that says how its units were drawn.
    """
    sheets = [
        sheet
        for path, _ in input_files(inputs, reading, TABLES, provenance)
        for sheet in _sheets_of(path, reading, provenance)
    ]
    drawn_in, sealed = _sealed(list(dict.fromkeys(sheet.path for sheet in sheets)), option)
    rows = [row for sheet in sheets for row in _coded_rows(sheet, sealed, provenance)]
    if not rows:
        raise DataError(
            f"nothing is coded in {listed(sheet.name for sheet in sheets)}",
            f"fill in 1 or 0 in the columns {listed(sealed.categories)}",
        )
    rows = _coders_apart(rows, provenance)
    _check_once_each(rows)
    return _together(rows, sealed, drawn_in)


def _sheets_of(path: Path, reading: InputOptions, provenance: Provenance) -> list[_Sheet]:
    """The coding sheets of a file: of a workbook each with the names of units."""
    named = [""]
    with watched(path, provenance):
        if ending_of(path) == ".xlsx" and not reading.sheet:
            named = [sheet for sheet, header in sheets_with_rows(path) if _UNIT in header] or [""]
        found = []
        for sheet in named:
            header, rows = _read(path, replace(reading, sheet=sheet) if sheet else reading, provenance)
            if _UNIT not in header:
                raise DataError(
                    f"{path} is no coding sheet: it has no column {_UNIT}",
                    "name what millstone code wrote, filled in",
                )
            name = f"{path}, sheet {sheet}" if len(named) > 1 else str(path)
            found.append(_Sheet(path, name, header, rows))
    return found


def _read(path: Path, reading: InputOptions, provenance: Provenance) -> tuple[tuple[str, ...], tuple[Row, ...]]:
    """The header and the rows of a table, in an older encoding where a spreadsheet saved it so."""
    try:
        table = open_table(path, reading, provenance)
        return tuple(table.header), tuple(table.rows)
    except DataError as error:
        if reading.encoding or not isinstance(error.__cause__, UnicodeDecodeError):
            raise
    provenance.note(f"{path} is not UTF-8, and was read as {_OLDER}: its text may have wrong letters, its codes not")
    return _read(path, replace(reading, encoding=_OLDER), provenance)


def _sealed(paths: Sequence[Path], option: str) -> tuple[Path, Sealed]:
    """The draw as a companion keeps it, and the sheet of this companion."""
    known: dict[str, Path] = {}
    for path in paths:
        if text := str(read_companion(path).get("sealed", "")):
            known.setdefault(text, path)
    if not known:
        also = (
            "keep it beside the sheet"
            if option
            else "keep it beside the sheet, or name the sheet that it is of as well"
        )
        raise DataError(
            f"{paths[0]}: nothing says how its units were drawn, since {companion_path(paths[0]).name} is not there",
            f"{also}; a sheet of one's own has no weights, draw one with millstone code",
        )
    if len(known) > 1:
        one, other = list(known.values())[:2]
        raise DataError(f"{one} and {other} have units of two draws", "give the sheets of one draw at a time")
    ((text, path),) = known.items()
    try:
        return path, unpacked(text)
    except ValueError as error:
        raise DataError(
            f"{path}: what its companion keeps of the draw cannot be read, {error}",
            "take the companion as code wrote it",
        ) from error


def _coded_rows(sheet: _Sheet, sealed: Sealed, provenance: Provenance) -> list[_Row]:
    """The rows of a sheet in which something is coded."""
    there = [name for name in sealed.categories if name in sheet.header]
    if not there:
        raise DataError(
            f"{sheet.name} has no column of a category",
            f"they are called {listed(sealed.categories)}; its columns are "
            f"{nearest_names(sealed.categories[0], sheet.header)}",
        )
    if lacking := [name for name in sealed.categories if name not in there]:
        provenance.note(f"{sheet.name} has no column {listed(lacking)}: not coded there")
    found, wrong = [], []
    for number, cells in sheet.rows:
        unit = cells.get(_UNIT, "").strip()
        given = [cells.get(name, "").strip() for name in sealed.categories]
        if unit not in sealed.units:
            raise DataError(
                f"{sheet.name}, row {number}: "
                + (f"there is no unit {unit!r} in this draw" if unit else f"{_UNIT} is empty"),
                f"{_UNIT} has to stay as code wrote it",
            )
        wrong += [
            f"row {number}: {name} is {code!r}"
            for name, code in zip(sealed.categories, given, strict=True)
            if code not in _CODES
        ]
        codes = tuple(_CODES.get(code, NO_CODE) for code in given)
        if any(code != NO_CODE for code in codes):
            coder = cells.get("coder", "").strip() or stem_of(sheet.path)
            found.append(_Row(sheet, number, coder, unit, cells.get("document", ""), cells.get("text", ""), codes))
    if wrong:
        more = f", and {len(wrong) - _NAMED:,} more" if len(wrong) > _NAMED else ""
        raise DataError(
            f"{sheet.name}, {'; '.join(wrong[:_NAMED])}{more}", "a code is 1, 0, or nothing where one is unsure"
        )
    return found


def _coders_apart(rows: Sequence[_Row], provenance: Provenance) -> list[_Row]:
    """The rows, where one sheet was filled in twice under one name of a coder with the names of the files."""
    places: dict[tuple[str, str], set[str]] = {}
    for row in rows:
        places.setdefault((row.coder, row.unit), set()).add(row.sheet.name)
    twice = {coder for (coder, _), files in places.items() if len(files) > 1}
    if not twice:
        return list(rows)
    provenance.note(f"{listed(sorted(twice))} coded units in several files: taken for as many coders, by their names")
    coders: dict[str, set[str]] = {}
    for row in rows:
        coders.setdefault(row.sheet.name, set()).add(row.coder)

    def name(row: _Row) -> str:
        of_file = stem_of(row.sheet.path)
        return f"{of_file} {row.coder}" if len(coders[row.sheet.name]) > 1 else of_file

    return [replace(row, coder=name(row)) if row.coder in twice else row for row in rows]


def _check_once_each(rows: Iterable[_Row]) -> None:
    known: dict[tuple[str, str], _Row] = {}
    for row in rows:
        before = known.setdefault((row.coder, row.unit), row)
        if before is not row:
            raise DataError(
                f"{row.sheet.name}, row {row.number}: {row.coder} coded the unit {row.unit} before, in row "
                f"{before.number}",
                "leave one of the two rows; a second coder has another name in the column coder",
            )


def _together(rows: Sequence[_Row], sealed: Sealed, drawn_in: Path) -> CodedSheets:
    units = {row.unit: row for row in rows}
    numbers = {name: number for number, name in enumerate(units)}
    coders = {name: number for number, name in enumerate(sorted({row.coder for row in rows}))}
    codes = np.full((len(sealed.categories), len(units), len(coders)), NO_CODE, dtype=np.int8)
    for row in rows:
        codes[:, numbers[row.unit], coders[row.coder]] = row.codes
    return CodedSheets(
        sealed,
        tuple(units),
        tuple(row.document for row in units.values()),
        tuple(row.text for row in units.values()),
        tuple(coders),
        codes,
        str(drawn_in),
    )


def check_arbiter(arbiter: str, sheets: CodedSheets) -> None:
    """Raise DataError where no coder of the sheets has the name that is given for the arbiter, if one is."""
    if arbiter and arbiter not in sheets.coders:
        raise DataError(
            f"--arbiter: there is no coder {arbiter!r}{nearest(arbiter, sheets.coders)}",
            f"the coders are {listed(sheets.coders)}",
        )
