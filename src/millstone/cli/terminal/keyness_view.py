"""Keyness of two groups on the screen: the strongest terms of each side in two columns."""

import math
from collections.abc import Mapping, Sequence

from rich import box
from rich.console import Console
from rich.measure import Measurement
from rich.table import Table as Grid
from rich.text import Text

from millstone.core.base.wording import numbered
from millstone.core.tables.columns import Column
from millstone.core.tables.result import Result
from millstone.core.tables.table import Table, distinct_rows, values_of
from millstone.outputs.files.shown import fixed, shown_cells

_TITLES = ("rank", "term", "log ratio", "low", "high", "freq", "docs %", "p adjusted", "note")


def is_one_comparison(result: Result) -> bool:
    """Whether a result has two sides and nothing else."""
    table = result.table
    needed = {"target", "reference", "term", "higher_in", "log_ratio", "note"}
    if not needed <= set(table.names) or "n" in table or "shared_low" in table:
        return False
    return len(distinct_rows([table["target"], table["reference"]])[1]) == 1


def show_sides(result: Result, limit: int, console: Console) -> bool:
    """Print the strongest `limit` terms of each side, and what the marks mean; False where they are too wide."""
    table = result.table
    target, reference = table["target"][0], table["reference"][0]
    sides = [table.at(table["higher_in"] == side) for side in (target, reference)]
    shown = [side.first(limit) for side in sides]
    notes = _note_numbers([note for side in shown for note in values_of(side["note"])])
    grid = Grid.grid(padding=(0, 4, 0, 0))
    grid.add_row(*(Text(f"more frequent in {side}", style="bold") for side in (target, reference)))
    further = [name for name in table.names if name in result.columns and result.columns[name].optional]
    grid.add_row(*(_table(side, notes, further, result.columns) for side in shown))
    if Measurement.get(console, console.options.update(max_width=10**4), grid).maximum > console.width:
        return False
    console.print(grid)
    hidden = sum(map(len, sides)) - sum(map(len, shown))
    saving = f"-o FILE.csv{' without --top' if 'top' in result.settings else ''}"
    if hidden:
        console.print(f"  ... {numbered(hidden, 'more row')}; --top N shows N per side, {saving} saves all")
    equal = len(table) - sum(map(len, sides))
    if equal:
        console.print(f"  {numbered(equal, 'term')} of equal rates on both sides not shown")
    console.print(Text(f"  freq: occurrences in {target} : in {reference}; docs %: of the side's documents"))
    for note, number in notes.items():
        console.print(Text(f"  note {number}: {note}"))
    console.print()
    return True


def _note_numbers(notes: Sequence[str | None]) -> dict[str, int]:
    return {note: number for number, note in enumerate(dict.fromkeys(note for note in notes if note), 1)}


def _table(rows: Table, notes: dict[str, int], further: Sequence[str], columns: Mapping[str, Column]) -> Grid:
    table = Grid(box=box.SIMPLE_HEAD, show_edge=False, pad_edge=False, padding=(0, 1, 0, 0), header_style="dim")
    titles = [*_TITLES[:-1], *(columns[name].title for name in further), _TITLES[-1]]
    for title in titles:
        table.add_column(title, justify="left" if title == "term" else "right", no_wrap=True)
    limits = [shown_cells(rows, name, columns[name]) for name in ("log_ratio_low", "log_ratio_high")]
    for row, low, high in zip(rows.rows(), *limits, strict=True):
        docs = row["docs_percent_target" if row["higher_in"] == row["target"] else "docs_percent_reference"]
        p = row["p_adjusted"]
        table.add_row(
            f"{row['rank']:,}",
            Text(str(row["term"])),
            _fixed(row["log_ratio"]),
            low,
            high,
            f"{row['freq_target']:,} : {row['freq_reference']:,}",
            _fixed(docs, 1),
            "" if math.isnan(p) else "<0.0001" if p < 0.0001 else f"{p:.4f}",
            *(_fixed(row[name], columns[name].digits) for name in further),
            str(notes.get(row["note"], "")),
        )
    return table


def _fixed(value: float | None, decimals: int = 2) -> str:
    return "" if value is None or math.isnan(value) else fixed(value, decimals)
