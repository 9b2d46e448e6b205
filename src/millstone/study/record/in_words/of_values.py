"""Contrasts, categories and profiles in words."""

from collections.abc import Iterator, Mapping
from typing import Any

import numpy as np

from millstone.core.base.wording import listed, numbered
from millstone.core.tables.result import Result
from millstone.study.record.in_words.sentence import (
    ALPHA,
    MOST,
    MOST_LISTS,
    Item,
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


def contrast(result: Result) -> Iterator[Sentence]:
    """The pairs of groups: in how many values they differ, and the surest differences."""
    if "group_a" not in result.table:
        return
    for names, rows in lists_of(result):
        first, second = names
        here, there = group_in_words(result, first), group_in_words(result, second, apart=first)
        yield opening(f"{here} was compared with {there}.")
        tested = [row for row in rows if is_known(row["p_adjusted"])]
        passed = sorted((row for row in tested if row["p_adjusted"] < ALPHA), key=lambda row: -abs(row["hedges_g"]))
        yield sentence(
            f"They differ in {len(passed):,} of {numbered(len(tested), 'value')} (p adjusted below {ALPHA}, over "
            f"documents){'' if passed else '; that does not show that they are alike'}."
        )
        if passed:
            items = [_difference(row, names) for row in passed[:MOST]]
            yield sentence("The largest in standard deviations: ", *several(items), ".")
    yield from left_over(result)


def _difference(row: Row, names: tuple[str, ...]) -> Item:
    key = (*names, str(row["value"]))
    low, high = row["ci_low"], row["ci_high"]
    interval = (
        f", 95 % interval of the difference {plain(low)} to {plain(high)}" if is_known(low) and is_known(high) else ""
    )
    return [
        f"{row['value']} (means ",
        Number(f"{plain(row['mean_a'])} and {plain(row['mean_b'])}", key),
        f", g {plain(row['hedges_g'])}{interval})",
    ]


def categories(result: Result) -> Iterator[Sentence]:
    """The means of categories over the documents of each group."""
    table = result.table
    if "document" not in table or "matched_percent" not in table:
        return
    names = [name for name in table.names[table.names.index("matched_percent") + 1 :] if name in result.columns]
    means = {name: float(np.nanmean(table[name].astype(float))) for name in names}
    groups = list(dict.fromkeys(map(str, table["group"].tolist())))
    scale = {"count": "places", "per_thousand": "places per 1,000 tokens", "weighted": "mean weight"}
    unit = scale.get(str(result.settings.get("scale", "")), "places per 100 tokens")
    counted = f"{len(names):,} {'category' if len(names) == 1 else 'categories'}"
    yield sentence(f"{numbered(len(table), 'document')} in {numbered(len(groups), 'group')}, {counted}.")
    for name in sorted(names, key=lambda name: -means[name])[:MOST]:
        of_group = [
            f"{group} {plain(float(np.nanmean(table[name].astype(float)[table['group'] == group])))}"
            for group in groups[:MOST]
        ]
        more = f", and {len(groups) - MOST} more groups" if len(groups) > MOST else ""
        yield sentence(f"{name}: {listed(of_group)}{more} ({unit}, mean over documents).")
    yield sentence("Nothing is tested here; contrast says whether groups differ.")


def profile(result: Result) -> Iterator[Sentence]:
    """The size and the variety of each group."""
    table = result.table
    if "group" not in table or "tokens" not in table or "document" in table:
        return
    for row in list(table.rows())[:MOST_LISTS]:
        variety = [f"{name} {plain(row[name], 3)}" for name in ("mattr", "mtld", "hdd") if is_known(row.get(name))]
        said = f"; {listed(variety)}" if variety else ""
        tokens = Number(f"{row['tokens']:,}", (str(row["group"]),))
        yield sentence(f"{row['group']} has ", tokens, f" tokens and {row['types']:,} types{said}.")
    if len(table) > MOST_LISTS:
        yield sentence(f"{numbered(len(table) - MOST_LISTS, 'more group')} in the table.")


def trend(result: Result) -> Iterator[Sentence]:
    """The terms that rise and fall over periods; of values within texts, how many were followed."""
    if "change_percent" in result.table:
        yield from _trends(result)
        return
    yield sentence(f"{numbered(len(result.table), 'course')} from the beginning of the texts to their end.")


def _trends(result: Result) -> Iterator[Sentence]:
    """The terms that rise and fall over ordered periods, each way those of the lowest p."""
    for names, rows in lists_of(result):
        where = f"In {group_in_words(result, names[0])} " if names else ""
        tested = [row for row in rows if is_known(row["p_adjusted"])]
        passed = [row for row in tested if row["p_adjusted"] < ALPHA]
        verbs = "rises or falls" if len(passed) == 1 else "rise or fall"
        yield opening(
            f"{where}{numbered(len(passed), 'term')} of the {len(tested):,} listed {verbs} over the periods "
            f"(p adjusted below {ALPHA})."
        )
        for way, verb in (("rises", "Rising"), ("falls", "Falling")):
            some = sorted((row for row in passed if row["trend"] == way), key=lambda row: row["p"])[:MOST]
            if some:
                items = [_change(row, (*names, str(row["term"]))) for row in some]
                yield sentence(f"{verb}: ", *several(items), ".")
        loud = [row for row in passed if str(row.get("note", "")).startswith("without ")]
        if loud:
            yield sentence(
                f"{numbered(len(loud), 'term')} of them would not pass without the loudest period: "
                f"{listed([row['term'] for row in loud[:MOST]])}."
            )
    yield from left_over(result)


def plan(result: Result) -> Iterator[Sentence]:
    """The pairs of groups: the smallest ratios of words of some rates, and how many documents a doubling takes."""
    power = float(str(result.settings.get("power", 0.8)))
    for names, rows in lists_of(result):
        found = [row for row in rows if is_known(row["smallest_ratio"])]
        here, there = group_in_words(result, names[0]), group_in_words(result, names[1], apart=names[0])
        if not found:
            yield opening(f"{here} held against {there} would show no difference, however large.")
            continue
        yield opening(
            f"{here} held against {there} would show with a power of {power:g}: ",
            *several([_ratio(row, names) for row in found[:MOST]]),
            ".",
        )
        rarest = found[0]
        yield sentence(
            f"To find a doubling of a term of {rarest['per_million']:,} per million takes "
            f"{rarest['documents_for_2']:,} documents."
        )
    yield from left_over(result)


def _ratio(row: Row, names: tuple[str, ...]) -> Item:
    """A rate with the smallest ratio that is found."""
    key = (*names, str(row["per_million"]))
    return [
        f"a term of {row['per_million']:,} per million that is ",
        Number(plain(row["smallest_ratio"]), key),
        f" times as frequent in {names[0]}",
    ]


def _change(row: Row, key: tuple[str, ...]) -> Item:
    """A term with its change per unit and the interval."""
    low, high = (plain(row[f"change_{end}"]) for end in ("low", "high"))
    return [
        f"{row['term']} (",
        Number(plain(row["change_percent"]), key),
        f" % per unit, 95 % interval {low} to {high})",
    ]
