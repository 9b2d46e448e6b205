"""A result table as a page shows it: the columns that matter, the first rows of each list."""

import math
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace

from markupsafe import Markup, escape

from millstone.core.base.wording import numbered
from millstone.core.corpus.corpus import GroupSize
from millstone.core.corpus.group_names import REST
from millstone.core.tables.columns import Column, by_name, integer, text
from millstone.core.tables.matrix_result import MatrixResult
from millstone.core.tables.result import Result
from millstone.core.tables.table import Table, is_number, values_of
from millstone.outputs.files.rows import largest_first
from millstone.outputs.files.shown import shown_cells
from millstone.outputs.pages.page import page, visible

ROWS = 200
"""The rows of a list that a report shows; where there are many lists, fewer."""
_LEAST, _IN_ALL, _PRINTED = 20, 2000, 50
_SPACE = "\u2003"
_SIDES = {"left": "l", "found": "f", "right": "r"}


@dataclass(frozen=True)
class ColumnView:
    """A column: its title, what it means, and whether it holds text."""

    title: str
    meaning: str
    is_text: bool


@dataclass(frozen=True)
class BlockView:
    """The rows of one list: its name, none where there is only one; rows as markup; what explains the name."""

    name: str
    rows: Markup
    more: str = ""


@dataclass(frozen=True)
class TableView:
    """A table as a page shows it; `more` says what is not shown, and paper has less still where it is long."""

    caption: str
    columns: Sequence[ColumnView]
    meanings: Sequence[ColumnView]
    blocks: Sequence[BlockView]
    more: str = ""
    is_long: bool = False

    @property
    def label(self) -> str:
        """The name of the table's region."""
        return f"table: {self.caption}"


def view_of(
    result: Result,
    caption: str,
    most: int = ROWS,
    links: Mapping[str, str] | None = None,
    whole: str = "",
    named: Mapping[tuple[str, ...], str] | None = None,
) -> TableView:
    """The first rows of each list of a result.

    Parameters
    ----------
    result : Result
    caption : str
    most : int
        Rows of each list; 0 for all, with all columns, their names and their full values, as a file has them.
    links : mapping, optional
        Term -> where on the page its lines are.
    whole : str
        The file that has all rows, if any.
    named : mapping, optional
        The names of its list and what a row is of -> the id that the row gets, so that it can be linked to.
    """
    result = largest_first(result)
    table, blocks = result.table, result.blocks
    names = _names(result, every=not most)
    parts = list(table.by(blocks)) if blocks and most else [((), table)]
    limit = max(min(most, _IN_ALL // max(len(parts), 1)), _LEAST) if most else len(table)
    views = [
        BlockView(
            result.block_name(keys),
            _rows(
                result, rows.first(limit), names, links or {}, not most, _ids(result, keys, rows.first(limit), named)
            ),
            " (all other groups)" if REST in keys else "",
        )
        for keys, rows in parts
    ]
    hidden = sum(max(len(rows) - limit, 0) for _, rows in parts)
    columns = [_column(result, name) for name in names]
    columns = columns if most else [replace(column, title=name) for column, name in zip(columns, names, strict=True)]
    more = _more(hidden, len(parts) > 1, limit, whole)
    if isinstance(result, MatrixResult):
        more = f"The first rows, and the columns with most counts{f'; {whole} has them all' if whole else ''}."
    is_long = any(len(rows) > _PRINTED for _, rows in parts)
    return TableView(caption, columns, _meanings(result, names), views, more, is_long)


def _more(hidden: int, several: bool, limit: int, whole: str) -> str:
    if not hidden:
        return ""
    where = f"; {whole} has them all" if whole else ""
    each = " of each list" if several else ""
    return f"The first {limit:,} rows{each}; {numbered(hidden, 'more row')} not shown{where}."


def _names(result: Result, every: bool) -> list[str]:
    """The columns that are shown: those of a screen, or all."""
    table, schema = result.table, result.schema
    if schema.centre and not every:
        return [name for name in ("line", "node", "document", "group", *_SIDES) if name in table]
    if every or (schema.blocks and not result.blocks) or not schema.shown:
        return [name for name in table.names if every or name not in result.blocks]
    return [name for name in schema.shown if name in table and name not in result.blocks]


def _column(result: Result, name: str) -> ColumnView:
    column = result.columns.get(name)
    is_text = not is_number(result.table[name])
    return ColumnView(column.title if column else name, _meaning(column), is_text)


def _meaning(column: Column | None) -> str:
    if column is None:
        return "given with the documents"
    return f"{column.meaning}{f' ({column.unit})' if column.unit and column.unit not in column.meaning else ''}"


def _meanings(result: Result, names: Collection[str]) -> list[ColumnView]:
    return [
        ColumnView(column.title, _meaning(column), True) for key, column in result.columns.items() if key in names
    ]


def _ids(
    result: Result, keys: Sequence[object], rows: Table, named: Mapping[tuple[str, ...], str] | None
) -> list[str] | None:
    """The id of each row, empty for those that have none."""
    if not named:
        return None
    lists = tuple(map(str, keys))
    return [named.get((*lists, *names), "") for names in result.row_names(rows)]


def _rows(
    result: Result,
    rows: Table,
    names: Sequence[str],
    links: Mapping[str, str],
    exact: bool,
    ids: Sequence[str] | None = None,
) -> Markup:
    """The rows as markup, the ends of cells left to the reader of the page, as HTML allows."""
    cells = [_cells(result, rows, name, links, exact) for name in names]
    every = ["".join(row) for row in zip(*cells, strict=True)]
    starts = [f"<tr id={one}>" if one else "<tr>" for one in ids] if ids else ["<tr>"] * len(every)
    return Markup("\n".join(f"{start}{row}" for start, row in zip(starts, every, strict=True)))


def _cells(result: Result, rows: Table, name: str, links: Mapping[str, str], exact: bool) -> list[str]:
    column, values = result.columns.get(name), rows[name]
    if not is_number(values):
        texts = [_escaped(value) for value in values]
        if name == "term" and links:
            texts = [
                f'<a href="#{links[str(value)]}">{text}</a>' if str(value) in links else text
                for value, text in zip(values, texts, strict=True)
            ]
        if name == result.schema.tree:
            texts = [_SPACE * int(level) + text for level, text in zip(rows["level"], texts, strict=True)]
        kind = _SIDES.get(name, "t") if result.schema.centre else "t"
        return [f"<td class={kind}>{_isolated(text, kind)}" for text in texts]
    if exact:
        return [f"<td>{'' if value is None else value}" for value in values_of(values)]
    return [_number(*both) for both in zip(values_of(values), shown_cells(rows, name, column), strict=True)]


def _escaped(value: object) -> str:
    return "" if value is None or (isinstance(value, float) and math.isnan(value)) else str(escape(visible(value)))


def _isolated(text: str, kind: str) -> str:
    # the left context is cut at its outer end, which takes a cell that runs from right to left
    return f"<bdi>{text}</bdi>" if kind == "l" else text


def _number(value: object, text: str) -> str:
    """A number as it is read, with its full value beside it where that says more."""
    if not isinstance(value, float) or not text:
        return f"<td>{escape(text)}"
    exact = f"{value:.7g}"
    # ">= 4.2" stays on one line
    shown = escape(text.replace(" ", "\u00a0"))
    return f"<td>{shown}" if text.replace(",", "") == exact else f"<td data-v={exact}>{shown}"


def sizes_view(groups: Sequence[GroupSize]) -> TableView:
    """The sizes of groups as a table."""
    table = Table.of_rows([(size.name, size.documents, size.tokens) for size in groups], ["group", "d", "t"])
    columns = (
        text("group", "group", "what the texts are grouped by"),
        integer("d", "documents", "documents of the group"),
        integer("t", "tokens", "word tokens, before any rule left words out"),
    )
    return view_of(Result("groups", table, by_name(columns), ()), "The sizes of the groups")


def table_page(result: Result, title: str, about: str) -> bytes:
    """A saved table as a separate page, with all of its rows and columns."""
    view = view_of(result, numbered(len(result.table), "row"), most=0)
    return page("saved_table.html", title, "tables.js", view=view, about=about)
