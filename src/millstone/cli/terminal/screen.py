"""A result on the screen: aligned tables, the columns that matter first, the first rows of each block."""

from collections import Counter
from collections.abc import Sequence

from rich import box
from rich.console import Console
from rich.table import Table as Grid
from rich.text import Text

from millstone.analyses import STEPS
from millstone.cli.terminal.console import put
from millstone.cli.terminal.keyness_view import is_one_comparison, show_sides
from millstone.cli.terminal.lines import show_lines
from millstone.cli.terminal.sanitise import visible_result
from millstone.cli.terminal.tree import OF_TREE, show_tree
from millstone.cli.terminal.widths import Fitted, fitted, shows_more
from millstone.core.base.wording import numbered
from millstone.core.corpus.documents import as_objects
from millstone.core.corpus.group_names import REST
from millstone.core.tables.matrix_result import MatrixResult
from millstone.core.tables.result import Result
from millstone.core.tables.table import Table, is_missing, values_of
from millstone.outputs.files.rows import largest_first
from millstone.outputs.files.shown import shown_cells

ROWS = 20
MOST_BLOCKS = 12
# what frequency lists cannot say
_OF_SIDES = ("together", "per_thousand", "log_dice", "docs", "contexts")
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
    parts = list(result.table.by(blocks)) if blocks else [((), result.table)]
    shown = [(names, every, every.first(limit)) for names, every in parts[:MOST_BLOCKS]]
    rows, repeated = _without_repeated_note([some for _, _, some in shown])
    chosen = list(wanted) or _columns(result, rows[0])
    common = {} if wanted else _common(result, rows, chosen)
    asked = [name for name in asked_columns(result) if name in chosen]
    chosen = [name for name in chosen if name not in common or name in asked]
    long, short = (
        {name: [_title(name, result, some, named) for some in rows] for name in chosen} for named in (True, False)
    )
    columns = fitted(result, rows, long, console.width, asked)
    under_short = fitted(result, rows, short, console.width, asked)
    if shows_more(result, under_short, columns):
        columns, long = under_short, short
    for at, (names, every, _) in enumerate(shown):
        heading = _heading(blocks, names, result, long is short) if blocks else ""
        alike = [f"{result.columns[name].title} {cell}" for name, cell in common.items() if cell]
        said = ", ".join([one for one in (heading, *alike) if one])
        _show_block(said, columns, at, len(every) - len(rows[at]), result, console)
    if len(parts) > len(shown):
        console.print(
            f"  ... {numbered(len(parts) - len(shown), 'more block')} of {len(parts)}; {how_to_save(result)}"
        )
    if repeated:
        console.print(Text(f"  note: {repeated}"))
        console.print()
    if isinstance(result, MatrixResult):
        return []
    found = {*blocks, *common, *(one.name for stack in columns for one in stack)}
    return [name for name in (wanted or result.table.names) if name not in found]


_COLUMNS_OF = {"adjust_for": ("log_ratio", "log_ratio_conditional", "p_conditional_adjusted")}
"""Option -> the columns that whoever types it wants to see."""


def asked_columns(result: Result) -> list[str]:
    """The columns that the settings ask for, and by which the table is ordered: they stay on a narrow screen."""
    typed = [result.settings.get(option, "") for option in ("select", "measures", "sort", "rank_by")]
    named = [str(one) for value in typed for one in (value if isinstance(value, list | tuple) else [value])]
    keys = [name.strip().partition(":")[0] for one in named for name in one.split(",")]
    of_categories = [name for name in result.table.names if any(name.startswith(f"{key}/") for key in keys if key)]
    for option, columns in _COLUMNS_OF.items():
        keys += columns if result.settings.get(option) else ()
    return [*(name for name in keys if name in result.table), *of_categories, *result.schema.ordered_by]


def _without_repeated_note(rows: list[Table]) -> tuple[list[Table], str]:
    """The rows without the note that most of them have, and the note with how many have it."""
    notes = Counter(note for some in rows if "note" in some for note in values_of(some["note"]))
    note, times = max(notes.items(), key=lambda one: (bool(one[0]), one[1]), default=("", 0))
    number = sum(map(len, rows))
    if not note or number <= 2 or 2 * times <= number:
        return rows, ""
    which = "all rows shown" if times == number else f"{times:,} of {number:,} rows shown"
    others = [[one if one != note else "" for one in values_of(some["note"])] for some in rows]
    return [
        some.with_columns({"note": as_objects(cells)}) for some, cells in zip(rows, others, strict=True)
    ], f"{note} ({which})"


def _common(result: Result, rows: Sequence[Table], chosen: Sequence[str]) -> dict[str, str]:
    """The columns of text that have one value in all rows shown, or none: name -> the value."""
    found = {}
    for name in chosen:
        column = result.columns.get(name)
        if column is None or column.datatype != "string" or name == result.schema.key:
            continue
        cells = {cell for some in rows for cell in shown_cells(some, name, column)}
        if cells == {""} or (len(cells) == 1 and sum(map(len, rows)) > 1):
            found[name] = cells.pop()
    return found


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


def _heading(blocks: list[str], names: Sequence[str], result: Result, says_sides: bool) -> str:
    """The names of a block with their sizes, and with what columns call them where these do not name them."""
    sizes = {size.name: size for size in result.groups}

    def sized(name: str) -> str:
        if name in sizes:
            return f"{name} ({sizes[name].number}, {numbered(sizes[name].tokens, 'token')})"
        return f"{name} (all other groups)" if name == REST else name

    lists = len(result.lists)
    said = [sized(name) for name in names[:lists]]
    if says_sides and lists > 1:
        said = [f"{result.columns[block].title} {one}" for block, one in zip(blocks, said, strict=False)]
    return result.block_name([*said, *names[lists:]])


def _show_block(
    heading: str, stacks: Sequence[Sequence[Fitted]], block: int, more: int, result: Result, console: Console
) -> None:
    table = Grid(
        box=box.SIMPLE_HEAD,
        show_edge=False,
        pad_edge=False,
        padding=(0, 1, 0, 0),
        header_style="dim",
    )
    for stack in stacks:
        one = stack[0]
        table.add_column(
            Text("\n".join(one.titles[block] for one in stack)),
            justify="right" if all(one.is_number for one in stack) else "left",
            overflow="fold" if one.wrapped else "ellipsis",
            width=one.width,
        )
    for row in range(len(stacks[0][0].cells[block])):
        table.add_row(*(_text([one.cells[block][row] for one in stack], stack[0]) for stack in stacks))
    if heading:
        console.print(Text(heading, style="bold"))
    console.print(table)
    if more > 0:
        known = STEPS[result.command].chooses_rows if result.command in STEPS else True
        how = "--top N shows N rows, " if known else ""
        console.print(f"  ... {numbered(more, 'more row')}; {how}{how_to_save(result)}")
    console.print()


def _text(cells: Sequence[str], column: Fitted) -> Text:
    if column.wrapped:
        return Text("\n".join(cells))
    # a heading may stand on several lines, a cell may not
    return Text("\n".join(cells), no_wrap=True, overflow="ellipsis")


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
        return [name for name in schema.shown if name in rows and name not in unknown and name not in blocks]
    # what stands in the heading of a block is not repeated in its rows
    return [name for name in result.table.names if name in result.columns and name not in blocks]


def _title(name: str, result: Result, rows: Table, named: bool) -> str:
    """The heading of a column; of a side by the name of its group, if it is to be `named`."""
    column = result.columns.get(name)
    sides = {"freq_target": "target", "freq_reference": "reference", "mean_a": "group_a", "mean_b": "group_b"}
    sides |= {"freq_against": "against"} | ({"freq": "target"} if "against" in rows else {})
    own, _, side = name.rpartition("_")
    if named and column is not None and own in _OF_SIDES and side in rows:
        return f"{column.title.removesuffix(side)}{rows[side][0]}"
    if named and name in sides and sides[name] in rows:
        return f"{'mean' if name.startswith('mean') else 'in'} {rows[sides[name]][0]}"
    return column.title if column else name
