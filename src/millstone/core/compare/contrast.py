"""By how much groups differ in a value of documents, and how sure that is."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from millstone.core.compare.notes import TakeNote
from millstone.core.compare.pairs import ALPHA, check_two_groups, group_pairs
from millstone.core.settings.analyses import ContrastSettings
from millstone.core.statistics.samples import (
    Sample,
    bootstrap_interval,
    cliffs_delta,
    hedges_g,
    kruskal_wallis,
    rank_test,
    welch_anova,
    welch_interval,
    welch_test,
)
from millstone.core.statistics.significance import adjusted
from millstone.core.table import Table
from millstone.core.wording import listed

FEW = 8
"""Fewer documents in a group make the test by ranks rough."""


@dataclass(frozen=True)
class Observations:
    """The values of documents, of which groups are to be compared.

    Attributes
    ----------
    values : Table
        (documents, values) float, NaN where a document has none.
    group : ndarray of str
        (documents,).
    groups : tuple of str
        In their order.
    names : ndarray of str
        (documents,) the names of the documents.
    weight : ndarray or None
        (documents,) how much each counts in means, such as its tokens; None for all alike.
    noun : str
        What an observation is called: ``document``, or ``text`` where the parts of texts were averaged.
    """

    values: Table
    group: np.ndarray
    groups: tuple[str, ...]
    names: np.ndarray
    weight: np.ndarray | None = None
    noun: str = "document"

    def of(self, value: str, group: str) -> Sample:
        """The documents of a group that have a value."""
        x = np.asarray(self.values[value], dtype=float)
        which = np.flatnonzero((self.group == group) & ~np.isnan(x))
        weight = np.ones(len(which)) if self.weight is None else self.weight[which].astype(float)
        return Sample(x[which], weight, self.names[which])


def contrast(
    seen: Observations, settings: ContrastSettings | None = None, note: TakeNote = lambda text: None
) -> Table:
    """Compare the groups of documents in each value, two by two.

    Parameters
    ----------
    seen : Observations
    settings : ContrastSettings, optional
    note : callable
        Receives what to look out for.

    Returns
    -------
    Table
        ``value, group_a, group_b, n_a, n_b, mean_a, mean_b, sd_a, sd_b, difference, ci_low, ci_high, hedges_g,
        hedges_g_low, hedges_g_high, cliffs_delta, t, df, p, p_adjusted, p_rank, p_rank_adjusted, higher_in, note``.
        The difference is mean_a - mean_b; its interval is Welch's (1947) or, if asked for, by drawing documents.

    Raises
    ------
    DataError
        For one group only, or one that does not exist.

    References
    ----------
    Welch, B. L. (1947). The generalization of Student's problem. Hedges, L. V. (1981). Distribution theory for
    Glass's estimator of effect size. Cliff, N. (1993). Dominance statistics.
    """
    settings = settings or ContrastSettings()
    check_two_groups(seen.groups, "a contrast")
    rows = [
        _compared(value, first, second, seen, settings)
        for value in seen.values.names
        for first, second in group_pairs(seen.groups, settings.against)
    ]
    table = Table.of_rows([tuple(row.values()) for row in rows], list(rows[0]))
    for name in ("p", "p_rank"):
        p = adjusted(np.asarray(table[name], dtype=float), settings.adjust)
        table = table.with_columns({f"{name}_adjusted": p}, table.names.index(name) + 1)
    _note_few(seen, note)
    return table


def _note_few(seen: Observations, note: TakeNote) -> None:
    number = {group: int((seen.group == group).sum()) for group in seen.groups}
    lone = [group for group in seen.groups if number[group] == 1]
    few = [group for group in seen.groups if 1 < number[group] < FEW]
    if lone:
        apart = "; --independent-units takes its parts as observations" if seen.noun == "text" else ""
        note(f"one {seen.noun} in {listed(lone)}: no standard deviation, interval or test{apart}")
    if few:
        note(f"fewer than {FEW} {seen.noun}s in {listed(few)}: p_rank is rough")


def _compared(
    value: str, first: str, second: str, seen: Observations, settings: ContrastSettings
) -> dict[str, object]:
    a, b = seen.of(value, first), seen.of(value, second)
    difference = a.mean - b.mean
    t, df, p = welch_test(a, b)
    low, high = welch_interval(a, b)
    if settings.interval == "bootstrap":
        low, high = bootstrap_interval(a, b, settings.draws, settings.seed)
    g, g_low, g_high = hedges_g(a, b)
    p_rank = rank_test(a.x, b.x)
    return {
        "value": value,
        "group_a": first,
        "group_b": second,
        "n_a": a.n,
        "n_b": b.n,
        "mean_a": a.mean,
        "mean_b": b.mean,
        "sd_a": np.sqrt(a.variance),
        "sd_b": np.sqrt(b.variance),
        "difference": difference,
        "ci_low": low,
        "ci_high": high,
        "hedges_g": g,
        "hedges_g_low": g_low,
        "hedges_g_high": g_high,
        "cliffs_delta": cliffs_delta(a.x, b.x),
        "t": t,
        "df": df,
        "p": p,
        "p_rank": p_rank,
        "higher_in": "" if not difference else first if difference > 0 else second if difference < 0 else "",
        "note": "; ".join(_notes(a, b, (first, second), p, seen)),
    }


def _notes(a: Sample, b: Sample, names: tuple[str, str], p: float, seen: Observations) -> Iterator[str]:
    for sample, name in zip((a, b), names, strict=True):
        if sample.n == 0:
            yield f"no {seen.noun} of {name} has the value"
        elif sample.n == 1 and (seen.group == name).sum() > 1:
            yield f"one {seen.noun} of {name} has the value: no standard deviation"
    if a.n > 1 and b.n > 1 and a.variance == 0 and b.variance == 0:
        yield f"all {seen.noun}s of each group are equal: no test"
    farthest = _farthest(a, b)
    if farthest is None or np.isnan(p):
        return
    side, number = farthest
    parts = (a.without(number), b) if side == 0 else (a, b.without(number))
    name = (a, b)[side].names[number]
    before, after = np.sign(a.mean - b.mean), np.sign(parts[0].mean - parts[1].mean)
    p_without = welch_test(*parts)[2]
    if before != after:
        yield f"without {name} the difference changes sign"
    elif not np.isnan(p_without) and (p < ALPHA) != (p_without < ALPHA):
        yield f"without {name} p is {p_without:.2g}"


def _farthest(a: Sample, b: Sample) -> tuple[int, int] | None:
    """The document farthest from the mean of its group, in its standard deviations: which side, and its place."""
    best, found = 0.0, None
    for side, sample in enumerate((a, b)):
        if sample.n > 2 and sample.variance > 0:
            distance = np.abs(sample.x - sample.mean) / np.sqrt(sample.variance)
            number = int(np.argmax(distance))
            if distance[number] > best:
                best, found = float(distance[number]), (side, number)
    return found


def omnibus(seen: Observations) -> Table:
    """Whether groups differ at all, for three groups or more.

    Returns
    -------
    Table
        ``value, welch_f, df1, df2, p, kruskal_h, p_kruskal``: Welch's analysis of variance over the groups with two
        documents or more, empty where one of them does not vary; and the test of Kruskal and Wallis.

    References
    ----------
    Welch, B. L. (1951). On the comparison of several mean values. Kruskal, W. H. & Wallis, W. A. (1952). Use of
    ranks in one-criterion variance analysis.
    """
    rows = []
    for value in seen.values.names:
        samples = [seen.of(value, group) for group in seen.groups]
        rows.append((value, *welch_anova(samples), *kruskal_wallis([sample.x for sample in samples if sample.n])))
    return Table.of_rows(rows, ["value", "welch_f", "df1", "df2", "p", "kruskal_h", "p_kruskal"])
