"""Outputs of a step: claimed before any work, and added when it is done."""

import os
from collections.abc import Collection
from dataclasses import Field, replace
from pathlib import Path
from typing import Any

from millstone.analyses.base.analysis import analysis_of
from millstone.analyses.base.reading import check_before_reading
from millstone.analyses.base.settings_line import command_line
from millstone.analyses.base.step import Step
from millstone.core.base.addresses import is_address
from millstone.core.base.errors import UsageError
from millstone.core.base.wording import escaped
from millstone.core.settings.declare import declared, option
from millstone.core.settings.kind import Kind
from millstone.core.settings.kinds import LISTS
from millstone.core.settings.output import HERE
from millstone.core.tables.matrix_result import MatrixResult
from millstone.core.tables.result import Result
from millstone.outputs.charts.settings import ENDINGS as FIGURES
from millstone.outputs.disk.ledger import results_in
from millstone.outputs.files.companion import WITH_COMPANION, companion_bytes, companion_notes, companion_path
from millstone.outputs.files.formats.matrix import ENDINGS as MATRIX_ENDINGS
from millstone.outputs.files.formats.matrix import SPARSE, matrix_files, names_beside
from millstone.outputs.files.formats.table import FORMATS, check_ending, content_of
from millstone.outputs.files.names import file_names
from millstone.outputs.files.rows import as_called, check_names, chosen_columns, columns_of_files
from millstone.outputs.files.writing import Outputs
from millstone.texts.inputs.documents.texts import is_read
from millstone.texts.inputs.files import ending_of, hashed
from millstone.texts.inputs.finding.finding import all_files, input_paths, seen_from
from millstone.texts.inputs.provenance import Provenance


def claim_outputs(step: Step[Any], outputs: Outputs) -> None:
    """Claim the files a step will write, before any work.

    Raises
    ------
    MillstoneError
        When one of them must not be written.
    """
    if step.output.output and is_folder(step.output.output):
        outputs.claim_folder(Path(step.output.output))
    elif step.output.output:
        path = Path(step.output.output)
        check_ending(path, MATRIX_ENDINGS if analysis_of(step).makes_matrix else FORMATS, "-o")
        outputs.claim(path)
        for beside in names_beside(path) if path.suffix.lower() == SPARSE else ():
            outputs.claim(beside)
        if path.suffix.lower() in WITH_COMPANION:
            outputs.claim(companion_path(path))
    for name in step.command.tables:
        if getattr(step.settings, name, HERE) not in ("", HERE):
            _claim_table(Path(getattr(step.settings, name)), option(name), outputs)
    for name, endings in step.command.files.items():
        path = getattr(step.settings, name)
        if path and path != HERE:
            check_ending(Path(path), tuple(endings), option(name))
            outputs.claim(Path(path))
    if step.chart.chart and is_folder(step.chart.chart):
        outputs.claim_folder(Path(step.chart.chart))
    elif step.chart.chart:
        path = Path(step.chart.chart)
        check_ending(path, FIGURES, "--chart")
        outputs.claim(path)


def _claim_table(path: Path, typed: str, outputs: Outputs) -> None:
    check_ending(path, FORMATS, typed)
    outputs.claim(path)
    if path.suffix.lower() in WITH_COMPANION:
        outputs.claim(companion_path(path))


def is_folder(output: str) -> bool:
    """Whether an output is a folder, into which each group is written as a separate file."""
    return output.endswith(("/", os.sep)) or Path(output).is_dir()


def add_tables(step: Step[Any], result: Result, provenance: Provenance, outputs: Outputs) -> None:
    """The table as the file that was named, or one file per group in the folder named; the further tables."""
    for name in step.command.tables:
        if name in result.tables and getattr(step.settings, name, HERE) not in ("", HERE):
            _add_as_it_is(step, result.tables[name], Path(getattr(step.settings, name)), provenance, outputs)
    for name, content in result.files.items():
        outputs.add(Path(getattr(step.settings, name)), content)
    if not step.output.output:
        return
    folder = Path(step.output.output)
    if isinstance(result, MatrixResult):
        _add_matrix(step, result, folder, provenance, outputs)
        return
    if not is_folder(step.output.output):
        _add_table(step, result, folder, provenance, outputs)
        return
    blocks = result.lists
    if not blocks:
        raise UsageError(f"-o {folder}: this table has no groups to split", "name a file instead, such as table.csv")
    parts = list(result.table.by(blocks))
    names = file_names([" against ".join(map(str, values)) for values, _ in parts])
    for name, (values, table) in zip(names, parts, strict=True):
        path = folder / f"{name}.csv"
        outputs.claim(path)
        outputs.claim(companion_path(path))
        part = replace(
            result,
            table=table,
            all_rows={key: number for key, number in result.all_rows.items() if key == values},
        )
        _add_table(step, part, path, provenance, outputs)


def _add_table(step: Step[Any], result: Result, path: Path, provenance: Provenance, outputs: Outputs) -> None:
    asked = step.output.columns
    chosen = columns_of_files(chosen_columns(result.table, asked), result.columns, asked)
    result = replace(result, table=chosen)
    _add_as_it_is(step, result, path, provenance, outputs)


def _add_as_it_is(step: Step[Any], result: Result, path: Path, provenance: Provenance, outputs: Outputs) -> None:
    comma = step.reading.decimal_comma
    notes = _notes(step, result, path, provenance)
    if path.suffix.lower() == ".html":
        outputs.add(path, _page_of(step, result, notes))
    else:
        outputs.add(path, content_of(result, path, notes, comma))
    if path.suffix.lower() in WITH_COMPANION:
        outputs.add(companion_path(path), companion_bytes(result, path, notes, comma))


def _page_of(step: Step[Any], result: Result, notes: dict[str, Any]) -> bytes:
    """A table, or the lines of a concordance, as a page."""
    # templates take 40 ms to import, and few tables are saved as pages
    from millstone.outputs.pages.lines import as_lines_page
    from millstone.outputs.pages.table import table_page

    if result.schema.centre:
        return as_lines_page(result, notes)
    return table_page(result, result.command, f"{command_line(step)}; millstone {notes['millstone']}")


def _add_matrix(step: Step[Any], result: MatrixResult, path: Path, provenance: Provenance, outputs: Outputs) -> None:
    if is_folder(step.output.output):
        raise UsageError(f"-o {path}: a matrix is one table", "name a file instead, such as table.mtx")
    comma = step.reading.decimal_comma
    columns = replace(result, all_rows={})
    notes = _notes(step, columns, path, provenance)
    companion = companion_bytes(columns, path, notes, comma, result.matrix.columns)
    for place, content in matrix_files(result.matrix, path, companion, comma).items():
        outputs.add(place, content)
    if path.suffix.lower() in WITH_COMPANION:
        outputs.add(companion_path(path), companion)


def _notes(step: Step[Any], result: Result, path: Path, provenance: Provenance) -> dict[str, Any]:
    """How a table came about; paths as typed, those of a study as its folder sees them if the table is below it."""
    folder = Path(step.study).resolve().parent
    below = bool(step.number) and path.resolve().is_relative_to(folder)

    def seen(typed: str) -> str:
        return seen_from(folder, typed) if below else typed

    files = [
        {"path": escaped(seen(file.path)), "size": file.size, "sha256": file.sha256}
        for file in map(hashed, provenance.files)
    ]
    return companion_notes(result, step.command.name, [escaped(seen(one)) for one in step.inputs.input], files)


def claimed(step: Step[Any]) -> Outputs:
    """The outputs of one step, claimed before any work.

    Raises
    ------
    MillstoneError
    """
    outputs = Outputs(step.output.force, protected=files_read(step), is_input=lambda path: is_input(step, path))
    claim_outputs(step, outputs)
    check_step(step)
    return outputs


def check_step(step: Step[Any], made: Collection[Path] = ()) -> None:
    """Check what can be checked before any text is read: columns, word lists, and what the command itself knows.

    Files in `made`, which earlier steps are going to write, need not be there yet.

    Raises
    ------
    MillstoneError
    """
    if names := analysis_of(step).columns(step):
        output = as_called(step.output, analysis_of(step).schema().also_called)
        check_names(names, replace(output, sort="" if analysis_of(step).sorts_itself(step) else output.sort))
    check_before_reading(step, made)


def files_written(step: Step[Any]) -> list[Path]:
    """The files that the settings of a step name for writing."""
    parts = (step.output, step.settings, step.chart)
    named = [(part, name) for part in parts for name, one in declared(type(part)).items() if _is_output(one)]
    return [Path(getattr(part, name)) for part, name in named if getattr(part, name)]


def _is_output(field: Field[Any]) -> bool:
    kind: Kind = field.metadata["kind"]
    return kind.is_output


def files_read(step: Step[Any]) -> list[Path]:
    """The files that the settings of a step name for reading; of its inputs those that are not folders."""
    within = analysis_of(step).steps_within(step)
    found = [path for path in _input_paths_here(step) if not path.is_dir()]
    found += [path for one in within for path in files_read(one)]
    found += [Path(step.study)] if step.study else []
    for part in (step.reading, step.preparation, step.settings):
        for one in declared(type(part)).values():
            kind: Kind = one.metadata["kind"]
            values = getattr(part, one.name)
            several = values if kind.repeatable else (values,)
            if not kind.is_output:
                found += [
                    Path(value) for value in several if isinstance(value, str) and value and kind.is_path(value)
                ]
    return found


def _input_paths_here(step: Step[Any]) -> list[Path]:
    """The files and folders that a step reads on this machine: nothing is written elsewhere."""
    return [path for path in input_paths(step.inputs.input) if not is_address(str(path))]


def is_input(step: Step[Any], output: Path) -> bool:
    """Whether an output that is there is a text or a table in an input folder, and none of millstone's results."""
    place, lists = output.resolve(), step.counted.lists
    if place.name in results_in(place.parent) and not lists:
        return False
    for folder in (path.resolve() for path in _input_paths_here(step) if path.is_dir()):
        ending = ending_of(place)
        if place.is_relative_to(folder) and (ending in LISTS if lists else is_read(place, ending)):
            return True
        if place.stat().st_nlink > 1 and any(map(place.samefile, all_files([str(folder)], step.reading.recursive))):
            return True
    return False


def save(step: Step[Any], result: Result, provenance: Provenance, outputs: Outputs) -> list[Path]:
    """Write the table of a step, its outputs claimed before."""
    add_tables(step, result, provenance, outputs)
    return list(outputs.commit())
