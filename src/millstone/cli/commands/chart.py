"""The command chart: draw a table that was saved earlier."""

from collections.abc import Collection, Mapping
from functools import partial
from pathlib import Path
from typing import Any

from millstone.analyses import COMMANDS
from millstone.analyses.base.analysis import analysis_named, figures_of
from millstone.analyses.base.command import Command
from millstone.cli.options import one_input
from millstone.cli.terminal.console import say
from millstone.core.base.errors import DataError
from millstone.core.settings.declare import build
from millstone.core.settings.output import Output
from millstone.core.tables.result import Result
from millstone.core.tables.schema import Schema
from millstone.outputs.charts.draw import chart_bytes
from millstone.outputs.charts.settings import ENDINGS, AnyChartSettings
from millstone.outputs.files.companion import companion_path, read_companion
from millstone.outputs.files.formats.table import check_ending
from millstone.outputs.files.reader import READABLE, SchemaOf, read_result
from millstone.outputs.files.writing import Outputs
from millstone.study.record.replaced import in_figure


def _tables(made_by: str) -> dict[str, tuple[Command, SchemaOf]]:
    """The tables that commands save: name -> the command, and what its schema is made by.

    Of a name that two commands have, the table is that of the command that made it.
    """
    found: dict[str, tuple[Command, SchemaOf]] = {}
    for name, command in COMMANDS.items():
        analysis = analysis_named(name)
        found[name] = command, analysis.saved_schema
        for schema in analysis.further_schemas():
            if name == made_by or schema.name not in found:
                found[schema.name] = command, partial(_always, schema)
    return found


def _always(schema: Schema, names: Collection[str], settings: Mapping[str, object]) -> Schema:
    return schema


def _with_tables_beside(result: Result, table: Path, schemas: Mapping[str, SchemaOf]) -> Result:
    """The table with the further ones of the same run that lie in its folder, of which figures may draw more."""
    made = read_companion(table)
    command = COMMANDS.get(result.command)
    if not made or command is None:
        return result
    for path in sorted(table.parent.iterdir()):
        if path == table or path.suffix.lower() not in READABLE or not path.is_file():
            continue
        beside = read_companion(path)
        same = all(beside.get(name) == made.get(name) for name in ("settings", "input", "inputs"))
        if same and beside.get("command") in command.tables and beside["command"] not in result.tables:
            one = read_result(path, schemas)
            result = result.with_table(one.command, one.table, one.columns, one.schema)
    return result


def run(typed: Mapping[str, Any]) -> None:
    """Draw a saved table.

    Raises
    ------
    MillstoneError
    """
    table = one_input(typed, "chart takes one table", "type millstone chart TABLE.csv --chart FIGURE.png")
    if table.is_dir():
        raise DataError(f"{table} is a folder", "name a table in it")
    if not table.is_file():
        raise DataError(f"there is no table {table}", "check the spelling; make it with -o on an analysis")
    settings = build(AnyChartSettings, {"chart": str(table.with_suffix(".png")), **typed})
    figure = Path(settings.chart)
    check_ending(figure, ENDINGS, "--chart")
    output = build(Output, typed)
    outputs = Outputs(output.force, protected=[table, companion_path(table)])
    outputs.claim(figure)
    notes: list[str] = []
    tables = _tables(read_companion(table).get("made_by", ""))
    result = read_result(table, {name: schema for name, (_, schema) in tables.items()})
    command, _ = tables.get(result.command, (None, None))
    figures = figures_of(command, result.command) if command else {}
    if not figures:
        drawn = [name for name, (one, _) in tables.items() if one.charts and one.name == name]
        raise DataError(f"there is no chart of {result.command}", f"charts are drawn of {', '.join(drawn)}")
    result = _with_tables_beside(result, table, {name: schema for name, (_, schema) in tables.items()})
    companion = read_companion(table)
    made_by = companion.get("made_by", companion.get("command", ""))
    about = in_figure(made_by, companion.get("input", ())) if companion else ""
    outputs.add(figure, chart_bytes(result, settings, figures, notes, about))
    outputs.commit()
    if not output.quiet:
        for note in notes:
            say(f"note: {note}")
        say(f"wrote {figure}")
