"""Which rows and columns of a result are shown and saved, and in which order."""

from collections.abc import Collection, Iterable
from dataclasses import replace

import pandas as pd

from millstone.core.errors import DataError
from millstone.core.result import Result
from millstone.core.wildcards import wildcard_test
from millstone.core.wording import nearest, nearest_names
from millstone.results.settings import Output

_OF_TERMS = ("term", "collocate", "term_a", "term_b")
"""Columns of terms; a link has two, of which one may fit."""


def arrange(result: Result, output: Output) -> Result:
    """The same with the rows whose term fits ``match``, sorted within each block by ``sort``.

    Raises
    ------
    DataError
        For a column that does not exist, or a table without terms.
    """
    frame = _sorted(_matching(result.frame, output.match), result.blocks, output.sort)
    return replace(result, frame=frame, all_rows=_rows_before(result, output))


def _rows_before(result: Result, output: Output) -> dict[tuple[str, ...], int]:
    """How many rows each block has, where ``match`` or ``top`` will choose some of them."""
    frame, blocks = result.frame, result.blocks
    if not (output.match or output.top):
        return {}
    if not blocks:
        return {(): len(frame)}
    numbers = frame.groupby(list(blocks), sort=False, dropna=False).size()
    return {key if isinstance(key, tuple) else (key,): int(number) for key, number in numbers.items()}


def _matching(frame: pd.DataFrame, patterns: tuple[str, ...]) -> pd.DataFrame:
    if not patterns:
        return frame
    # a category may be called term, too
    columns = [name for name in _OF_TERMS if name in frame.columns and not pd.api.types.is_numeric_dtype(frame[name])]
    if not columns:
        raise DataError("--match: the table has no terms", "leave the option out")
    # a pattern of one word is held against each word of an n-gram
    tests = [(wildcard_test(pattern.casefold()), " " in pattern) for pattern in patterns]
    terms = {term: term.casefold() for name in columns for term in frame[name].unique()}
    fits = {
        term: any(fit(folded) if whole else any(map(fit, folded.split())) for fit, whole in tests)
        for term, folded in terms.items()
    }
    wanted = pd.concat([frame[name].map(fits).astype(bool) for name in columns], axis=1).any(axis=1)
    return frame[wanted].reset_index(drop=True)


def _sorted(frame: pd.DataFrame, blocks: list[str], sort: str) -> pd.DataFrame:
    if not sort:
        return frame
    _check_sort(frame.columns, sort)
    column, _, direction = sort.partition(":")
    block = frame.groupby(blocks, sort=False).ngroup() if blocks else 0
    ordered = frame.assign(_block=block).sort_values(
        ["_block", column], ascending=[True, direction == "asc"], kind="stable", na_position="last"
    )
    return ordered.drop(columns="_block").reset_index(drop=True)


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
    return DataError(
        f"{option}: the table has no column {name!r}{nearest(name, columns)}",
        f"its columns: {nearest_names(asked, columns)}{further}",
    )


def largest_first(result: Result) -> Result:
    """The same in the order in which it is read, where that is not its own (`Layout.largest_first`)."""
    names = list(result.layout.largest_first)
    if not names:
        return result
    order = (-result.frame[names].sum(axis=1)).argsort(kind="stable")
    return replace(result, frame=result.frame.iloc[order].reset_index(drop=True))


def first_rows(result: Result, top: int) -> Result:
    """The same with the first `top` rows of each block, as it is read; 0 means all."""
    if not top:
        return result
    result = largest_first(result)
    frame, blocks = result.frame, result.blocks
    first = frame.groupby(blocks, sort=False).head(top) if blocks else frame.head(top)
    return replace(result, frame=first.reset_index(drop=True))


def chosen_columns(frame: pd.DataFrame, names: tuple[str, ...]) -> pd.DataFrame:
    """The columns that were asked for, in that order; all when none were.

    Raises
    ------
    DataError
        For a column that does not exist.
    """
    _check_columns(frame.columns, names)
    return frame[list(dict.fromkeys(names))] if names else frame
