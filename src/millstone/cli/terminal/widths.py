"""Which columns of a table fit on a screen, and how wide each is: no number is cut, the words stay."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

from rich.cells import cell_len

from millstone.core.tables.columns import Column
from millstone.core.tables.result import Result
from millstone.core.tables.table import Table, is_number
from millstone.outputs.files.shown import shown_cells

GAP = 2
"""Cells between two columns."""
_KEYS = ("term", "value", "document", "group", "where")
# columns of free length, and how narrow they may become
_ELASTIC = {
    "note": 12,
    "forms": 16,
    "contexts": 16,
    "finding": 20,
    "where": 14,
    "longest_document": 12,
    "departing": 12,
}
_WRAPPED = ("note", "finding", "departing")
_OF_ITEMS = ("forms", "contexts")
_OTHER_TEXT = 12
# limits of one interval, and numbers that say little alone
_TOGETHER = (
    ("log_ratio_low", "log_ratio_high"),
    ("shared_low", "shared_high"),
    ("resample_low", "resample_high"),
    ("rank_low", "rank_high"),
    ("ci_low", "ci_high"),
    ("hedges_g_low", "hedges_g_high"),
    ("slope_low", "slope_high"),
    ("freq_target", "freq_reference"),
    ("mean_a", "mean_b"),
)


@dataclass(frozen=True)
class Fitted:
    """A column as it is shown: its name, its heading, its cells, how wide it is, and whether cells may be wrapped."""

    name: str
    title: str
    cells: Sequence[str]
    width: int
    is_number: bool
    wrapped: bool


def fitted(
    result: Result, rows: Table, names: Sequence[str], width: int, title_of: Callable[[str], str]
) -> list[Fitted]:
    """The columns that fit, in their order.

    Parameters
    ----------
    result : Result
    rows : Table
        The rows that are shown.
    names : sequence of str
        The columns that are wanted.
    width : int
        Of the screen, in cells.
    title_of : callable
        Name -> heading.
    """
    every = [_Measured(name, title_of(name), rows, result.columns.get(name), width) for name in names]
    key = next((one.name for wanted in _KEYS for one in every if one.name == wanted), names[0] if names else "")
    for narrow in (False, True):
        if _total(every, narrow) <= width:
            return _spread(every, narrow, width)
    for leaving in _order(result, [one.name for one in every], key):
        every = [one for one in every if one.name not in leaving]
        if _total(every, narrow=True) <= width:
            break
    return _spread(every, True, width)


class _Measured:
    """A column with the widths that it may have."""

    def __init__(self, name: str, title: str, rows: Table, column: Column | None, screen: int) -> None:
        self.name, self.title = name, title
        self.cells = shown_cells(rows, name, column)
        self.is_number = column.datatype != "string" if column else is_number(rows[name])
        longest = max(map(cell_len, self.cells), default=0)
        self.wanted = longest
        if not self.is_number:
            self.wanted = min(longest, screen // 2 if name in _KEYS else max(screen // 4, _OTHER_TEXT))
            if name in _ELASTIC:
                self.wanted = longest
        self.least = min(self.wanted, _ELASTIC.get(name, self.wanted))

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
        cells = [_whole_items(cell, size + more) for cell in one.cells] if one.name in _OF_ITEMS else one.cells
        found.append(Fitted(one.name, one.title, cells, size + more, one.is_number, one.name in _WRAPPED))
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
        for kind in result.layout.leaving_beside:
            yield {f"{kind}_{group}" for group in groups}
        for group in reversed(groups[1:]):
            yield {name for name in names if name.endswith(f"_{group}")}
    for name in (*result.layout.leaving, *reversed(names)):
        if name in names and name != key:
            yield next((set(pair) for pair in _TOGETHER if name in pair), {name})


def _groups_beside(result: Result, names: Sequence[str]) -> list[str]:
    """The groups, or comparisons, of a table in which they stand side by side."""
    start = result.layout.beside
    if not start or "term" not in names or "group" in names or "target" in names:
        return []
    return [name.removeprefix(start) for name in names if name.startswith(start)]
