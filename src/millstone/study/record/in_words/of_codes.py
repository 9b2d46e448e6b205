"""Codes of categories in words: how right these are, and how groups differ when that is allowed for."""

from collections.abc import Iterator, Mapping
from typing import Any

from millstone.core.base.wording import listed, numbered
from millstone.core.tables.result import Result
from millstone.study.record.in_words.sentence import (
    MOST,
    Item,
    Key,
    Number,
    Sentence,
    group_in_words,
    is_known,
    left_over,
    lists_of,
    opening,
    plain,
    sentence,
    several,
)

Row = Mapping[str, Any]
_AGREED = 0.8


def agreement(result: Result) -> Iterator[Sentence]:
    """How right the first few categories are, what they find, and how far coders agree on them."""
    for row in list(result.table.rows())[:MOST]:
        key = (str(row["category"]),)
        yield opening(
            f"Category {row['category']}, by {numbered(int(row['units']), 'coded unit')}: ",
            *_measured(row, "precision", key, "of its hits are right"),
            "; ",
            *_measured(row, "recall", key, "of what coders count it finds"),
            ".",
        )
        if is_known(row["alpha"]):
            below = f", below {_AGREED:g}: coders read the category differently" if row["alpha"] < _AGREED else ""
            yield sentence(
                f"Over the {numbered(int(row['shared']), 'unit')} that two or more coded, alpha is ",
                Number(plain(row["alpha"]), key),
                f"{_ends(row, 'alpha')}{below}.",
            )
    more = len(result.table) - MOST
    if more > 0:
        yield sentence(
            f"{numbered(more, 'more category', 'more categories')} {'is' if more == 1 else 'are'} in the table."
        )


def _measured(row: Row, name: str, key: Key, what: str) -> Item:
    if not is_known(row[name]):
        return [f"{name} is not known"]
    return [Number(plain(row[name]), key), f"{_ends(row, name)} {what} ({name})"]


def _ends(row: Row, name: str) -> str:
    return f" [{plain(row[f'{name}_low'])}, {plain(row[f'{name}_high'])}]"


def corrected(result: Result) -> Iterator[Sentence]:
    """By how many percentage points shares of units differ, as counted and corrected."""
    for names, rows in lists_of(result):
        here, there = group_in_words(result, names[0]), group_in_words(result, names[1], apart=names[0])
        known = [row for row in rows if is_known(row["corrected_difference"])]
        items: list[Item] = [_differing(row, (*names, str(row["category"]))) for row in known[:MOST]]
        yield opening(
            f"{here} held against {there}, percentage points of units with a category, as counted and corrected for "
            "what coders found wrong or missed: ",
            *several(items),
            ".",
        )
        sure = [row for row in known if row["corrected_low"] > 0 or row["corrected_high"] < 0]
        if known:
            where = f"outside that of {listed([row['category'] for row in sure])}" if sure else "within all of them"
            yield sentence(f"Of the corrected intervals, 0 lies {where}.")
    yield from left_over(result)


def _differing(row: Row, key: Key) -> Item:
    raw = f"{plain(row['difference'])} [{plain(row['ci_low'])}, {plain(row['ci_high'])}]"
    ends = f" [{plain(row['corrected_low'])}, {plain(row['corrected_high'])}]"
    return [f"{row['category']} {raw} and ", Number(plain(row["corrected_difference"]), key), ends]
