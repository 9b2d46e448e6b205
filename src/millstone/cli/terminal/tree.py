"""A word tree on the screen: branches indented by fork, with their places."""

from rich.cells import cell_len
from rich.console import Console
from rich.text import Text

from millstone.cli.terminal.lines import first_cells, isolated
from millstone.core.base.wording import numbered
from millstone.core.tables.result import Result
from millstone.core.tables.table import Table

OF_TREE = ("group", "node", "side", "level", "branch", "places", "percent")
_INDENT = 3


def show_tree(result: Result, console: Console) -> None:
    """Print the trees of a result, one of each group, node and side."""
    for (group, node, side), rows in result.table.by(["group", "node", "side"]):
        places = int(rows["places"][rows["level"] == 1].sum())
        heading = f"{node}, to the {side}: {numbered(places, 'place')}"
        console.print(Text(heading if group == "all" else f"{group}: {heading}", style="bold"))
        _show(rows, console)
        console.print()


def _show(rows: Table, console: Console) -> None:
    numbers = [f"{places:,}" for places in rows["places"]]
    width = max(map(len, numbers))
    for number, level, branch, percent in zip(numbers, rows["level"], rows["branch"], rows["percent"], strict=True):
        begin = f"{number.rjust(width)}  {percent:5.1f} %  {' ' * _INDENT * (int(level) - 1)}"
        line = Text(begin, style="dim")
        is_rest = str(branch).startswith("(")
        room = console.width - cell_len(begin)
        line.append(isolated(first_cells(str(branch), room)), style="dim" if is_rest else "not dim")
        console.print(line, no_wrap=True, overflow="crop")
