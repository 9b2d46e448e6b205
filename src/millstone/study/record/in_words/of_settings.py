"""Results under many settings in words."""

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from millstone.core.base.wording import listed, numbered
from millstone.core.tables.result import Result
from millstone.study.record.in_words.sentence import (
    MOST,
    Item,
    Key,
    Number,
    Sentence,
    is_known,
    left_over,
    lists_of,
    opening,
    plain,
    sentence,
    several,
)

Row = Mapping[str, Any]


def vary(result: Result) -> Iterator[Sentence]:
    """How many rows of each list pass under all settings, which, and on what the others depend."""
    named = _options(result)
    for names, rows in lists_of(result):
        most = max(row["settings"] for row in rows)
        every = [row for row in rows if row["passes"] == 1 and row["settings"] == most]
        some = [row for row in rows if row["passes"] * row["settings"] > 0 and row not in every]
        yield opening(
            f"{result.block_name(names)}, under {numbered(int(most), 'combination')} of settings ({named}): "
            f"{numbered(len(every), 'row')} {_verb(result, len(every))} under all of them, {len(some):,} under some."
            if names
            else f"Under {numbered(int(most), 'combination')} of settings ({named}) {numbered(len(every), 'row')} "
            f"{_verb(result, len(every))} under all, {len(some):,} under some."
        )
        if every:
            yield sentence("Under all: ", *several([_effect(row, names) for row in every[:MOST]]), ".")
        yield from _depending(some)
        turned = [row for row in some if row.get("sign_changes") and row["sign_changes"] > 0]
        if turned:
            items: list[Item] = [[Number(str(row["term"]), (*names, str(row["term"])))] for row in turned[:MOST]]
            yield sentence("The difference changes its direction with the settings: ", *several(items, ", "), ".")
    yield from left_over(result)


def _over(result: Result) -> list[str]:
    """The options that vary with their values, as they are typed."""
    given = result.settings.get("over", ())
    return list(map(str, given)) if isinstance(given, list | tuple) else [str(given)]


def _options(result: Result) -> str:
    return listed(one.partition(":")[0] for one in _over(result))


def _verb(result: Result, number: int) -> str:
    if result.settings.get("of") in ("freq", "logodds") or "sign_changes" not in result.table:
        return f"{'is' if number == 1 else 'are'} among the first of the list"
    return "passes" if number == 1 else "pass"


def _effect(row: Row, names: Sequence[str]) -> Item:
    key: Key = (*names, str(row["term"]))
    low, high = plain(row["lowest"]), plain(row["highest"])
    ends = "" if low == high else f", {low} to {high}"
    return [f"{row['term']} (median ", Number(plain(row["median"]), key), f"{ends})"]


def _depending(rows: Sequence[Row]) -> Iterator[Sentence]:
    """On which options it depends whether rows pass."""
    on = [str(row["depends_on"]) for row in rows if row["depends_on"]]
    if on:
        counted = sorted({name: on.count(name) for name in on}.items(), key=lambda one: -one[1])
        yield sentence(
            "Whether the others do depends most on ",
            listed([f"{name} ({number:,} of {len(on):,})" for name, number in counted], MOST),
            ".",
        )


def moved(result: Result) -> Iterator[Sentence]:
    """How many rows came, left and moved between two combinations of settings, and which most."""
    named = listed(
        f"{option.strip()} {second.strip()} in place of {first.strip()}"
        for option, _, values in (one.partition(":") for one in _over(result))
        for first, second in [values.split("|")[:2]]
    )
    for names, rows in lists_of(result):
        counts = {
            change: sum(row["change"] == change for row in rows) for change in ("enters", "leaves", "up", "down")
        }
        where = f"{result.block_name(names)}: with" if names else "With"
        yield opening(
            f"{where} {named} {counts['enters']:,} rows enter, {counts['leaves']:,} leave, {counts['up']:,} go up "
            f"and {counts['down']:,} down."
        )
        items: list[Item] = [_move(row, names) for row in rows[:MOST]]
        yield sentence("Most: ", *several(items), ".")
    yield from left_over(result)


def _move(row: Row, names: Sequence[str]) -> Item:
    ranks = [f"{int(row[name]):,}" if is_known(row.get(name)) else "none" for name in ("rank_1", "rank_2")]
    key: Key = (*names, str(row["term"]))
    return [f"{row['term']} {row['change']} (rank ", Number(" to ".join(ranks), key), f"; {row['why']})"]
