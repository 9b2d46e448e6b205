"""Which columns of a table fit on a screen, and how wide each is: no number is cut, the words stay."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from rich.cells import cell_len

from millstone.core.tables.columns import Column
from millstone.core.tables.result import Result
from millstone.core.tables.table import Table, is_number
from millstone.outputs.files.shown import shown_cells

GAP = 2
"""Cells between two columns."""
_OTHER_TEXT = 12


@dataclass(frozen=True)
class Fitted:
    """A column as it is shown: its name, its heading, its cells, how wide it is, and whether cells may be wrapped."""

    name: str
    title: str
    cells: Sequence[str]
    width: int
    is_number: bool
    wrapped: bool


def fitted(result: Result, rows: Table, titles: Mapping[str, str], width: int) -> list[Fitted]:
    """The columns that fit, in their order.

    Parameters
    ----------
    result : Result
    rows : Table
        The rows that are shown.
    titles : mapping
        Name of each column that is wanted -> its heading.
    width : int
        Of the screen, in cells.
    """
    every = [_Measured(name, title, rows, result.columns.get(name), width) for name, title in titles.items()]
    key = _key(result, list(titles))
    for narrow in (False, True):
        if _total(every, narrow) <= width:
            return _spread(every, narrow, width)
    for leaving in _order(result, [one.name for one in every], key):
        every = [one for one in every if one.name not in leaving]
        if _total(every, narrow=True) <= width:
            break
    return _spread(every, True, width)


def _key(result: Result, names: Sequence[str]) -> str:
    """The column that names a row: that of the schema, else the first that looks like one and heads no block."""
    known, blocks = result.columns, result.schema.blocks
    likely = [name for name in names if name in known and known[name].look == "key"]
    wanted = [result.schema.key, *(name for name in likely if name not in blocks), *likely, *names]
    return next((name for name in wanted if name in names), "")


class _Measured:
    """A column with the widths that it may have."""

    def __init__(self, name: str, title: str, rows: Table, column: Column | None, screen: int) -> None:
        self.name, self.title = name, title
        self.look = column.look if column else ""
        self.cells = shown_cells(rows, name, column)
        self.is_number = column.datatype != "string" if column else is_number(rows[name])
        longest = max(map(cell_len, self.cells), default=0)
        self.wanted = longest
        if not self.is_number:
            self.wanted = min(longest, screen // 2 if self.look == "key" else max(screen // 4, _OTHER_TEXT))
            if column is not None and column.narrowest:
                self.wanted = longest
        self.least = min(self.wanted, (column.narrowest if column else 0) or self.wanted)

    def size(self, narrow: bool) -> int:
        """How many cells the column needs; a narrow one has its heading on several lines."""
        words = self.title.split() if narrow else [self.title]
        return max(self.least, *map(cell_len, words), 1)


def _total(columns: Sequence[_Measured], narrow: bool) -> int:
    return sum(one.size(narrow) + GAP for one in columns) - 1


def _spread(columns: Sequence[_Measured], narrow: bool, width: int) -> list[Fitted]:
    """The columns with their widths; what is left over goes to those of free length."""
    left = width - _total(columns, narrow)
    found = []
    for one in columns:
        size = one.size(narrow)
        more = min(max(one.wanted - size, 0), max(left, 0))
        left -= more
        cells = [_whole_items(cell, size + more) for cell in one.cells] if one.look == "items" else one.cells
        found.append(Fitted(one.name, one.title, cells, size + more, one.is_number, one.look == "wrapped"))
    return found


def _whole_items(cell: str, width: int) -> str:
    """As many of the items of a cell as fit, so that no number in them is cut."""
    if cell_len(cell) <= width:
        return cell
    kept = ""
    for item in cell.split("; "):
        if cell_len(f"{kept}{item}; …") > width:
            break
        kept += f"{item}; "
    return f"{kept}…"


def _order(result: Result, names: Sequence[str], key: str) -> Iterator[set[str]]:
    """The sets of columns that leave, one after the other, until only the key is left."""
    groups = _groups_beside(result, names)
    if groups:
        for kind in result.schema.leaving_beside:
            yield {f"{kind}_{group}" for group in groups}
        for group in reversed(groups[1:]):
            yield {name for name in names if name.endswith(f"_{group}")}
    for name in _by_priority(result, names):
        if name != key:
            partner = result.columns[name].partner if name in result.columns else ""
            yield {name, partner} if partner else {name}


def _by_priority(result: Result, names: Sequence[str]) -> list[str]:
    """The columns in the order in which they leave: the largest priority first, of equal ones the last."""
    place = {name: at for at, name in enumerate(result.schema.names)}

    def key(name: str) -> tuple[int, int]:
        priority = result.columns[name].priority if name in result.columns else 1
        return -max(priority, 1), -(place.get(name, 0) if priority > 1 else names.index(name))

    return sorted(names, key=key)


def _groups_beside(result: Result, names: Sequence[str]) -> list[str]:
    """The groups, or comparisons, of a table in which they stand side by side."""
    start = result.schema.side_by_side
    if not start or "term" not in names or "group" in names or "target" in names:
        return []
    return [name.removeprefix(start) for name in names if name.startswith(start)]
