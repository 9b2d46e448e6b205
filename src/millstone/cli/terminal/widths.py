"""Which columns of a table fit on a screen, and how wide each is: no number is cut, and what was asked for stays."""

import math
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
_OF_NOTE = 3
"""A note has at most so great a part of the width."""


@dataclass(frozen=True)
class Fitted:
    """A column as it is shown: its headings and cells, a block after the other, and its width."""

    name: str
    titles: Sequence[str]
    cells: Sequence[Sequence[str]]
    width: int
    is_number: bool
    wrapped: bool


def fitted(
    result: Result,
    blocks: Sequence[Table],
    titles: Mapping[str, Sequence[str]],
    width: int,
    asked: Sequence[str] = (),
) -> list[list[Fitted]]:
    """The columns that fit, in their order, the same in all blocks.

    Parameters
    ----------
    result : Result
    blocks : sequence of Table
        The rows that are shown.
    titles : mapping
        Name of each column that is wanted -> its heading in each block.
    width : int
        Of the screen, in cells.
    asked : sequence of str
        Columns that stay: where they do not fit, a row takes several lines.

    Returns
    -------
    list of list of Fitted
        The columns that stand below each other, from left to right.
    """
    every = [_Measured(name, title, blocks, result.columns.get(name), width) for name, title in titles.items()]
    key = result.key_among(list(titles))
    for narrow in (False, True):
        if _total(every, narrow) <= width:
            return _spread([[one] for one in every], narrow, width)
    staying = {key, *asked}
    left: list[set[str]] = []
    kept = every
    for leaving in _order(result, [one.name for one in every], staying):
        left.append(leaving)
        kept = [one for one in kept if one.name not in leaving]
        if _total(kept, narrow=True) <= width:
            return _spread([[one] for one in _filled(every, kept, left, width)], True, width)
    every = kept
    if not asked:
        return _spread([[one] for one in every], True, width)
    return _spread(_stacked(every, key, width), True, width)


def shows_more(result: Result, one: Sequence[Sequence[Fitted]], other: Sequence[Sequence[Fitted]]) -> bool:
    """Whether the most important column that only one of two screens has is on the first of them."""
    here, there = ({column.name for stack in stacks for column in stack} for stacks in (one, other))
    alone = _by_priority(result, [name for name in result.table.names if name in here ^ there])
    return bool(alone) and alone[-1] in here


def _filled(
    every: Sequence["_Measured"], kept: list["_Measured"], left: Sequence[set[str]], width: int
) -> list["_Measured"]:
    """The columns that are kept, and those that left for which there is room after all, the last to leave first."""
    for names in reversed(left):
        fuller = [one for one in every if one in kept or one.name in names]
        if _total(fuller, narrow=True) <= width:
            kept = fuller
    return kept


def _stacked(every: list["_Measured"], key: str, width: int) -> list[list["_Measured"]]:
    """The columns in as few lines as they fit in, the key alone in its place."""
    first = [one for one in every if one.name == key]
    others = [one for one in every if one.name != key]
    stacks: list[list[_Measured]] = []
    for lines in range(2, len(others) + 1):
        beside = math.ceil(len(others) / lines)
        stacks = [first, *(others[at::beside] for at in range(beside))]
        if sum(max(one.size(True) for one in stack) + GAP for stack in stacks) - 1 <= width:
            break
    return stacks or [first]


class _Measured:
    """A column with the widths that it may have."""

    def __init__(
        self, name: str, titles: Sequence[str], blocks: Sequence[Table], column: Column | None, screen: int
    ) -> None:
        self.name, self.titles = name, titles
        self.look = column.look if column else ""
        self.cells = [shown_cells(rows, name, column) for rows in blocks]
        if name == "note":
            self.cells = [[most_important(cell, screen // _OF_NOTE) for cell in cells] for cells in self.cells]
        self.is_number = column.datatype != "string" if column else is_number(blocks[0][name])
        longest = max((cell_len(cell) for cells in self.cells for cell in cells), default=0)
        self.wanted = longest
        if not self.is_number:
            self.wanted = min(longest, screen // 2 if self.look == "key" else max(screen // 4, _OTHER_TEXT))
            if column is not None and column.narrowest:
                self.wanted = longest
        self.least = min(self.wanted, (column.narrowest if column else 0) or self.wanted)

    def cut(self, width: int) -> list[list[str]]:
        """Its cells, those that are lists of items cut between two of them."""
        if self.look != "items":
            return self.cells
        return [[_whole_items(cell, width) for cell in cells] for cells in self.cells]

    def size(self, narrow: bool) -> int:
        """How many cells the column needs; a narrow one has its heading on several lines."""
        words = [word for title in self.titles for word in (title.split() if narrow else [title])]
        return max(self.least, *map(cell_len, words), 1)


def _total(columns: Sequence[_Measured], narrow: bool) -> int:
    return sum(one.size(narrow) + GAP for one in columns) - 1


def _spread(stacks: Sequence[Sequence[_Measured]], narrow: bool, width: int) -> list[list[Fitted]]:
    """The columns with their widths; what is left over goes to those of free length."""
    sizes = [max(one.size(narrow) for one in stack) for stack in stacks]
    left = width - sum(size + GAP for size in sizes) + 1
    found = []
    for stack, least in zip(stacks, sizes, strict=True):
        more = min(max(max(one.wanted for one in stack) - least, 0), max(left, 0))
        left -= more
        size = least + more
        found.append(
            [Fitted(one.name, one.titles, one.cut(size), size, one.is_number, one.look == "wrapped") for one in stack]
        )
    return found


def most_important(note: str, width: int) -> str:
    """The beginning of a note, as many of its parts as fit, and ``...`` for the others.

    Examples
    --------
    >>> most_important("few counts; in one document only; a name", 22)
    'few counts ...'
    """
    if cell_len(note) <= width:
        return note
    kept = ""
    for part in note.split("; "):
        longer = f"{kept}; {part}" if kept else part
        if cell_len(longer) > width - 4:
            break
        kept = longer
    if not kept:
        for word in note.split():
            if cell_len(f"{kept} {word}") > width - 4:
                break
            kept = f"{kept} {word}".strip()
    return f"{kept} ..." if kept else note


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


def _order(result: Result, names: Sequence[str], staying: set[str]) -> Iterator[set[str]]:
    """The sets of columns that leave, one after the other, until only those are left that stay."""
    groups = _groups_beside(result, names)
    if groups:
        for kind in result.schema.leaving_beside:
            yield {f"{kind}_{group}" for group in groups} - staying
        for group in reversed(groups[1:]):
            yield {name for name in names if name.endswith(f"_{group}")} - staying
    for name in _by_priority(result, names):
        if name not in staying:
            partner = result.columns[name].partner if name in result.columns else ""
            yield {name, partner} - staying - {""}


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
