"""Results and texts as a terminal may show them."""

from collections.abc import Iterable
from dataclasses import replace

import numpy as np

from millstone.cli.terminal.escapes import CONTROLS, visible
from millstone.core.corpus.corpus import GroupSize
from millstone.core.corpus.documents import as_objects
from millstone.core.dictionary.marked_text import MarkedTexts
from millstone.core.tables.result import Result
from millstone.core.tables.table import ColumnCells, Table, is_number


def visible_result(result: Result) -> Result:
    """A result as a terminal may show it: no cell, no name of a group or a column does anything there."""
    names = {name: visible(name) for name in result.table.names}
    table = result.table.with_columns({name: _visible_cells(cells) for name, cells in _texts(result.table)})
    columns = {
        names.get(name, visible(name)): replace(one, title=visible(one.title)) for name, one in result.columns.items()
    }
    groups = tuple(_named(size) for size in result.groups)
    return replace(result, table=table.renamed(names), columns=columns, groups=groups)


def _named(size: GroupSize) -> GroupSize:
    return replace(size, name=visible(size.name))


def _texts(table: Table) -> Iterable[tuple[str, ColumnCells]]:
    """The columns of text that hold something to be shown as a sign."""
    for name, cells in table.items():
        if not is_number(cells) and CONTROLS.search("".join(map(str, cells))):
            yield name, cells


def _visible_cells(cells: ColumnCells) -> np.ndarray:
    return as_objects([visible(cell) if isinstance(cell, str) else cell for cell in cells.tolist()])


def visible_marked(marked: MarkedTexts) -> MarkedTexts:
    """Marked texts of which nothing does anything on a terminal."""
    texts = [
        replace(
            one,
            name=visible(one.name),
            group=visible(one.group),
            pieces=[(visible(piece), tuple(map(visible, categories))) for piece, categories in one.pieces],
        )
        for one in marked.texts
    ]
    return replace(marked, texts=texts, categories=tuple(map(visible, marked.categories)))
