"""Keyness, log odds and frequency lists in words."""

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

import numpy as np

from millstone.analyses.base.groups.held_equal import fields_held
from millstone.core.base.wording import listed, numbered
from millstone.core.statistics.significance import adjusted, chi2_upper_tail
from millstone.core.tables.result import Result, size_in_words
from millstone.study.record.in_words.sentence import (
    ALPHA,
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
    times,
)

Row = Mapping[str, Any]


def keyness(result: Result) -> Iterator[Sentence]:
    """The comparisons: how many terms pass, the largest differences each way, what tokens alone would have told."""
    if "target" not in result.table or "p_adjusted" not in result.table:
        return
    for names, rows in lists_of(result):
        target, reference = names[:2]
        here, there = group_in_words(result, target), group_in_words(result, reference, apart=target)
        yield opening(f"{here} was compared with {there}{_sizes(names[2:])}.")
        yield from _differences(result, names, rows, "in", (target, reference))
    yield from left_over(result)


def contexts(result: Result) -> Iterator[Sentence]:
    """The contexts of two nodes, or of one in two groups: how many terms pass, the largest differences each way."""
    for names, rows in lists_of(result):
        within, target, reference = names
        if "node" in result.table:
            here, there = group_in_words(result, target), group_in_words(result, reference, apart=target)
            yield opening(f"What is near {within} in {here} was compared with what is near it in {there}.")
        else:
            where = f" in {group_in_words(result, within)}"
            yield opening(f"What is near {target} was compared with what is near {reference}{where}.")
        called = [
            {
                **row,
                "term": row["collocate"],
                "freq_target": row["together_target"],
                "freq_reference": row["together_reference"],
            }
            for row in rows
        ]
        place = "in" if "node" in result.table else "near"
        yield from _differences(result, names, called, place, (target, reference))
    yield from left_over(result)


def _sizes(sizes: Sequence[str]) -> str:
    """The size of the n-grams of a list, where there are several."""
    return "".join(f", {size_in_words(int(size))}" for size in sizes)


def _differences(
    result: Result, names: Sequence[str], rows: Sequence[Row], place: str, sides: tuple[str, str]
) -> Iterator[Sentence]:
    """How many terms of a comparison pass, and the largest differences each way; `place` is in, or near."""
    target, reference = sides
    tested = [row for row in rows if is_known(row["p_adjusted"])]
    if not tested:
        yield sentence("No p is given, so that nothing is said of other texts.")
        return
    over_units = any(is_known(row["ll_documents"]) for row in tested)
    passed = [row for row in tested if row["p_adjusted"] < ALPHA]
    verb = "passes" if len(passed) == 1 else "pass"
    over = "documents" if over_units else "tokens, which says nothing of other texts"
    further = _not_over_documents(tested, over_units, str(result.settings.get("adjust", "bh")))
    yield sentence(
        f"{numbered(len(passed), 'term')} of the {len(tested):,} listed {verb} (p adjusted below {ALPHA}, over "
        f"{over}){further}."
    )
    for side, sign in ((target, 1), (reference, -1)):
        largest = _largest([row for row in passed if sign * row["log_ratio"] > 0], sign)
        if largest:
            items: list[Item] = [_difference(row, names, (target, reference)[sign > 0], place) for row in largest]
            name = "the rest" if side == "rest" else side
            yield sentence(
                f"More frequent {place} {name}, by the least difference that the interval allows: ",
                *several(items),
                ".",
            )
    yield from _held_equal(result, names, tested)
    yield from _unseen(tested)


def _held_equal(result: Result, names: Sequence[str], tested: Sequence[Row]) -> Iterator[Sentence]:
    """How many terms pass with fields of the texts held equal, and those whose difference turns round."""
    fields = fields_held(result.settings)
    if not fields or not all("p_conditional_adjusted" in row for row in tested):
        return
    passed = [row for row in tested if row["p_adjusted"] < ALPHA]
    held = [
        row for row in passed if is_known(row["p_conditional_adjusted"]) and row["p_conditional_adjusted"] < ALPHA
    ]
    turned = [row for row in passed if row["log_ratio"] * row["log_ratio_conditional"] < 0]
    named = listed(fields, between=" and ")
    yield sentence(f"With {named} held equal {len(held):,} of these {len(passed):,} pass.")
    if turned:
        items: list[Item] = [[Number(str(row["term"]), (*names, str(row["term"])))] for row in turned[:MOST]]
        yield sentence("The difference turns round with it: ", *several(items, ", "), ".")


def _unseen(tested: Sequence[Row]) -> Iterator[Sentence]:
    """Of how many terms that do not pass even a doubling would not have been seen."""
    asked = [row for row in tested if row["p_adjusted"] >= ALPHA and "smallest_ratio" in row]
    unseen = [row for row in asked if not is_known(row["smallest_ratio"]) or row["smallest_ratio"] > 2]
    if asked:
        yield sentence(
            f"Even a doubling could not have been expected to show in {len(unseen):,} of the {len(asked):,} terms "
            "that do not pass."
        )


def _not_over_documents(tested: Sequence[Row], over_units: bool, method: str) -> str:
    """How many further terms the log-likelihood of tokens would tell, by the column ``ll`` of the table."""
    if not over_units or not all("ll" in row and is_known(row["ll"]) for row in tested):
        return ""
    p = adjusted(chi2_upper_tail(np.array([row["ll"] for row in tested], dtype=float)), method)
    more = int(((p < ALPHA) & (np.array([row["p_adjusted"] for row in tested]) >= ALPHA)).sum())
    if not more:
        return ""
    they = "it does" if more == 1 else "they do"
    return f"; {more:,} more would pass over tokens, but {they} not hold over documents"


def _largest(rows: Sequence[Row], sign: int) -> list[Row]:
    """The rows whose least difference is the largest; where intervals are missing, the ratio itself."""
    limit = "log_ratio_low" if sign > 0 else "log_ratio_high"

    def least(row: Row) -> float:
        return sign * float(row[limit] if is_known(row.get(limit)) else row["log_ratio"])

    return sorted(rows, key=least, reverse=True)[:MOST]


def _difference(row: Row, names: Sequence[str], other: str, place: str) -> Item:
    """A term with how many times as frequent it is on the side where it is more frequent, and the interval."""
    key: Key = (*names, str(row["term"]))
    sign = 1 if row["log_ratio"] > 0 else -1
    limits = [sign * row[name] for name in ("log_ratio_low", "log_ratio_high") if is_known(row.get(name))]
    there, elsewhere = (row["freq_target"], row["freq_reference"])[::sign]
    if not elsewhere:
        least = f", at least {times(min(limits))} times as frequent" if limits else ""
        where = "the rest" if other == "rest" else other
        return [f"{row['term']} (", Number(f"{there:,}", key), f" there, none {place} {where}{least})"]
    interval = f", 95 % interval {times(min(limits))} to {times(max(limits))}" if len(limits) > 1 else ""
    return [f"{row['term']} (", Number(times(sign * row["log_ratio"]), key), f" times as frequent{interval})"]


def logodds(result: Result) -> Iterator[Sentence]:
    """The terms of each group with the highest z."""
    for names, rows in lists_of(result):
        target, against = names[:2]
        here, there = group_in_words(result, target), group_in_words(result, against, apart=target)
        yield opening(f"{here} against {there}{_sizes(names[2:])}.")
        highest = sorted((row for row in rows if is_known(row["z"]) and row["z"] > 0), key=lambda row: -row["z"])[
            :MOST
        ]
        if not highest:
            yield sentence("No term has a z above 0.")
            continue
        items: list[Item] = [
            [
                f"{row['term']} (z ",
                Number(plain(row["z"]), (*names, str(row["term"]))),
                f", {row['freq']:,} against {row['freq_against']:,})",
            ]
            for row in highest
        ]
        yield sentence("The highest z: ", *several(items), "; z orders terms and is not a test.")
    yield from left_over(result)


def freq(result: Result) -> Iterator[Sentence]:
    """The commonest terms of each group."""
    if "freq" not in result.table or "rank" not in result.table:
        return
    for names, rows in lists_of(result):
        group = names[0] if names else listed([size.name for size in result.groups])
        highest = sorted(rows, key=lambda row: row["rank"])[:MOST]
        items: list[Item] = [
            [
                f"{row['term']} (",
                Number(f"{row['per_million']:,.0f}", (*names, str(row["term"]))),
                " per million tokens)",
            ]
            for row in highest
        ]
        yield opening(
            f"In {group_in_words(result, group)} the commonest of the {numbered(len(rows), 'term')} listed"
            f"{_sizes(names[1:])}: ",
            *several(items),
            ".",
        )
    yield from left_over(result)
