"""A result on the screen: aligned tables, the columns that matter first, the first rows of each block."""

from collections.abc import Sequence

from rich import box
from rich.console import Console
from rich.table import Table as Grid
from rich.text import Text

from millstone.cli.terminal.console import put
from millstone.cli.terminal.keyness_view import is_one_comparison, show_sides
from millstone.cli.terminal.lines import show_lines
from millstone.cli.terminal.sanitise import visible_result
from millstone.cli.terminal.tree import OF_TREE, show_tree
from millstone.cli.terminal.widths import Fitted, fitted
from millstone.core.base.wording import numbered
from millstone.core.corpus.group_names import REST
from millstone.core.tables.matrix_result import MatrixResult
from millstone.core.tables.result import Result
from millstone.core.tables.table import Table, is_missing
from millstone.outputs.files.rows import largest_first

ROWS = 20
# what frequency lists cannot say
_OF_UNITS = ("design_effect", "ll_documents", "z_documents")
_OF_LINES = ("node", "line", "document", "group", "left", "found", "right")


def show_result(result: Result, top: int, wanted: Sequence[str], explained: bool) -> list[str]:
    """Print a result, and what its columns mean if it is to be `explained`; return the columns that did not fit."""
    result = visible_result(result)
    hidden = show(result, top, Console(highlight=False), wanted)
    if explained:
        put("\n".join(legend(result)))
    return hidden


def show(result: Result, top: int, console: Console, wanted: Sequence[str] = ()) -> list[str]:
    """Print a result, block by block, and return the columns that did not fit; only those `wanted`, if any."""
    blocks = result.blocks
    limit = top or ROWS
    if not len(result.table):
        if result.schema.empty:
            console.print(result.schema.empty)
        return []
    if not wanted and result.schema.centre:
        show_lines(result, limit, console)
        return [name for name in result.table.names if name not in _OF_LINES]
    if not wanted and result.schema.tree:
        show_tree(result, console)
        return [name for name in result.table.names if name not in OF_TREE]
    if not wanted and is_one_comparison(result) and show_sides(result, limit, console):
        return []
    result = largest_first(result)
    parts = result.table.by(blocks) if blocks else [((), result.table)]
    found = set(blocks)
    for names, every in parts:
        rows = every.first(limit)
        asked = list(wanted) or _columns(result, rows)
        titles = {name: _title(name, result, rows) for name in asked}
        columns = fitted(result, rows, titles, console.width)
        found.update(one.name for one in columns)
        heading = _heading(blocks, names, result) if blocks else ""
        _show_block(heading, columns, len(every) - len(rows), result, console)
    if isinstance(result, MatrixResult):
        return []
    return [name for name in (wanted or result.table.names) if name not in found]


def how_to_save(result: Result) -> str:
    """How all rows of a table come into a file."""
    # --top cuts the first table only
    cut = "top" in result.settings and result.saved_with == "-o"
    return f"{result.saved_with} FILE.csv{' without --top' if cut else ''} saves all"


def legend(result: Result) -> list[str]:
    """The meaning of each column of a result, one line per column."""
    lines = ["columns:"]
    for name, column in result.columns.items():
        unit = f" ({column.unit})" if column.unit and column.unit not in column.meaning else ""
        lines.append(f"  {name}: {column.meaning}{unit}")
    return lines


def _heading(blocks: list[str], names: Sequence[str], result: Result) -> str:
    sizes = {size.name: size for size in result.groups}

    def sized(name: str) -> str:
        if name in sizes:
            return f"{name} ({sizes[name].number}, {numbered(sizes[name].tokens, 'token')})"
        return f"{name} (all other groups)" if name == REST else name

    return result.schema.joint.join(sized(name) for name in names[: len(blocks)])


def _show_block(heading: str, columns: Sequence[Fitted], more: int, result: Result, console: Console) -> None:
    table = Grid(
        box=box.SIMPLE_HEAD,
        show_edge=False,
        pad_edge=False,
        padding=(0, 1, 0, 0),
        header_style="dim",
    )
    for one in columns:
        table.add_column(
            Text(one.title),
            justify="right" if one.is_number else "left",
            overflow="fold" if one.wrapped else "ellipsis",
            width=one.width,
        )
    for cells in zip(*(one.cells for one in columns), strict=True):
        table.add_row(*(_text(cell, one) for cell, one in zip(cells, columns, strict=True)))
    if heading:
        console.print(Text(heading, style="bold"))
    console.print(table)
    if more > 0:
        console.print(f"  ... {numbered(more, 'more row')}; --top N shows N rows, {how_to_save(result)}")
    console.print()


def _text(cell: str, column: Fitted) -> Text:
    if column.wrapped:
        return Text(cell)
    # a heading may stand on several lines, a cell may not
    return Text(cell, no_wrap=True, overflow="ellipsis")


def _columns(result: Result, rows: Table) -> list[str]:
    """The columns that a screen should show, where there is room."""
    if isinstance(result, MatrixResult):
        terms = set(result.matrix.names)
        return [name for name in rows.names if name in result.columns or name in terms]
    blocks, schema = result.blocks, result.schema
    if schema.blocks and not blocks:
        # groups stand side by side
        return rows.names
    if schema.shown:
        unknown = {name for name in _OF_UNITS if name in rows and is_missing(result.table[name]).all()}
        return [name for name in schema.shown if name in rows and name not in unknown]
    # what stands in the heading of a block is not repeated in its rows
    return [name for name in result.table.names if name in result.columns and name not in blocks]


def _title(name: str, result: Result, rows: Table) -> str:
    column = result.columns.get(name)
    if name in ("freq_target", "freq_reference"):
        return f"in {rows[name.removeprefix('freq_')][0]}"
    if name in ("mean_a", "mean_b"):
        return f"mean {rows['group' + name[-2:]][0]}"
    if name == "freq_against":
        return f"in {rows['against'][0]}"
    if name == "freq" and "against" in rows:
        return f"in {rows['group'][0]}"
    return column.title if column else name
