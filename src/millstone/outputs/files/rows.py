"""Which rows and columns of a result are shown and saved, and in which order."""

from collections.abc import Collection, Iterable, Mapping
from dataclasses import replace

import numpy as np

from millstone.core.base.arrays import begins, dense_rank
from millstone.core.base.errors import DataError
from millstone.core.base.wildcards import wildcard_test
from millstone.core.base.wording import nearest, nearest_names
from millstone.core.settings.output import Output
from millstone.core.tables.columns import ON_SCREENS, Column
from millstone.core.tables.result import Result
from millstone.core.tables.table import ColumnCells, Table, WholeNumbers, distinct_rows, is_missing, is_number

_MOST_NAMED = 60
_OF_TERMS = ("term", "collocate", "term_a", "term_b")
"""Columns of terms; a link has two, of which one may fit."""


def arrange(result: Result, output: Output) -> Result:
    """Keep the rows whose term fits ``match``, sorted within each block by ``sort``.

    Raises
    ------
    DataError
        For a column that does not exist, or a table without terms.
    """
    table = _sorted(_matching(result.table, output.match), result.blocks, output.sort)
    return replace(result, table=table, all_rows=_rows_before(result, output))


def _rows_before(result: Result, output: Output) -> dict[tuple[str, ...], int]:
    """How many rows each block has, where ``match`` or ``top`` will choose some of them."""
    table, blocks = result.table, result.blocks
    if not (output.match or output.top):
        return {}
    if not blocks:
        return {(): len(table)}
    return {key: len(rows) for key, rows in table.only(blocks).by(blocks)}


def _matching(table: Table, patterns: tuple[str, ...]) -> Table:
    if not patterns:
        return table
    # a category may be called term, too
    columns = [table[name].tolist() for name in _OF_TERMS if name in table and not is_number(table[name])]
    if not columns:
        raise DataError("--match: the table has no terms", "leave the option out")
    # a pattern of one word is held against each word of an n-gram
    tests = [(wildcard_test(pattern.casefold()), " " in pattern) for pattern in patterns]
    terms = {term: term.casefold() for cells in columns for term in cells}
    fits = {
        term: any(fit(folded) if whole else any(map(fit, folded.split())) for fit, whole in tests)
        for term, folded in terms.items()
    }
    return table.at(np.array([any(map(fits.__getitem__, row)) for row in zip(*columns, strict=True)], dtype=bool))


def _sorted(table: Table, blocks: list[str], sort: str) -> Table:
    if not sort:
        return table
    _check_sort(table.names, sort)
    column, _, direction = sort.partition(":")
    place = _places(table[column])
    # what is missing comes last either way; text runs from a to z unless it is asked for otherwise
    cells = table[column]
    is_text = not isinstance(cells, WholeNumbers) and not is_number(cells)
    ascends = direction == "asc" or (not direction and is_text)
    key = np.where(is_missing(table[column]), len(table), place if ascends else -place)
    return table.at(np.lexsort((key, distinct_rows([table[name] for name in blocks])[0]) if blocks else (key,)))


def _places(cells: ColumnCells) -> np.ndarray:
    """(rows,) int64 the place of each cell among the different ones, from the smallest."""
    values = cells.values if isinstance(cells, WholeNumbers) else cells
    if is_number(values):
        return dense_rank(values)
    texts = list(map(str, values.tolist()))
    place = {text: number for number, text in enumerate(sorted(set(texts)))}
    return np.array([place[text] for text in texts], dtype=np.int64)


def as_called(output: Output, also_called: Mapping[str, str]) -> Output:
    """The settings of output with the names that columns have, where they are understood under others, too."""
    column, colon, direction = output.sort.partition(":")
    columns = tuple(also_called.get(name, name) for name in output.columns)
    return replace(output, columns=columns, sort=f"{also_called.get(column, column)}{colon}{direction}")


def check_names(names: Collection[str], output: Output) -> None:
    """Raise DataError where ``--sort`` or ``--columns`` name a column that is not among those a table may have."""
    _check_columns(names, output.columns)
    if output.sort:
        _check_sort(names, output.sort)


def _check_sort(names: Collection[str], sort: str) -> None:
    column, _, direction = sort.partition(":")
    if column not in names or direction not in ("", "asc", "desc"):
        raise _no_column(names, "--sort", sort, "; add :asc for the smallest first")


def _check_columns(names: Collection[str], wanted: Iterable[str]) -> None:
    for name in wanted:
        if name not in names:
            raise _no_column(names, "--columns", name)


def _no_column(names: Collection[str], option: str, name: str, further: str = "") -> DataError:
    columns = [str(one) for one in names]
    asked = name.partition(":")[0]
    known = ", ".join(columns) if len(columns) <= _MOST_NAMED else nearest_names(asked, columns)
    return DataError(
        f"{option}: the table has no column {name!r}{nearest(name, columns)}",
        f"its columns: {known}{further}",
    )


def largest_first(result: Result) -> Result:
    """Sort the rows by the columns in `Schema.largest_first`, largest first."""
    names = list(result.schema.largest_first)
    if not names:
        return result
    size = sum(np.nan_to_num(np.asarray(result.table[name], dtype=float)) for name in names)
    return replace(result, table=result.table.at(np.argsort(-size, kind="stable")))


def first_rows(result: Result, top: int) -> Result:
    """Keep the first `top` rows of each block, as it is read; 0 keeps all."""
    if not top:
        return result
    result = largest_first(result)
    table, blocks = result.table, result.blocks
    if not blocks:
        return replace(result, table=table.first(top))
    number, _ = distinct_rows([table[name] for name in blocks])
    order = np.argsort(number, kind="stable")
    ordered = number[order]
    behind = np.arange(len(order)) - np.flatnonzero(begins(ordered))[ordered]
    return replace(result, table=table.at(np.sort(order[behind < top])))


def chosen_columns(table: Table, names: tuple[str, ...]) -> Table:
    """The columns that were asked for, in that order; all when none were.

    Raises
    ------
    DataError
        For a column that does not exist.
    """
    _check_columns(table.names, names)
    return table.only(dict.fromkeys(names)) if names else table


def columns_of_files(table: Table, columns: Mapping[str, Column], asked: tuple[str, ...]) -> Table:
    """The table without the columns that are there for screens, unless they were asked for."""
    only_shown = {name for name, column in columns.items() if column.look == ON_SCREENS}
    return table.only([name for name in table.names if name in asked or name not in only_shown])
