"""By how much groups differ in a value of documents, and how sure that is."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from millstone.analyses.base.groups.notes import TakeNote
from millstone.analyses.base.groups.pairs import ALPHA, Comparison, check_two_groups, comparisons
from millstone.analyses.contrast.rates import rates, with_fields_held
from millstone.analyses.contrast.settings import ContrastSettings
from millstone.core.base.arrays import unique, unique_inverse
from millstone.core.base.errors import DataError
from millstone.core.base.wording import listed, numbered
from millstone.core.evidence.document_tests import LEAST_FOR_WELCH
from millstone.core.evidence.samples import (
    Sample,
    bootstrap_interval,
    cliffs_delta,
    hedges_g,
    rank_test,
    relabelled_p,
    relabelling_of,
    welch_interval,
    welch_test,
)
from millstone.core.evidence.sampling import SamplingUnits
from millstone.core.evidence.several_samples import kruskal_wallis, welch_anova
from millstone.core.statistics.significance import adjusted
from millstone.core.tables.table import Table
from millstone.core.terms.counts import Counts

FEW = 8
"""With fewer documents in a group only large and steady differences can show, and no bootstrap is made."""


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
    unit : ndarray or None
        (documents,) the number of the sampling unit of each; one that is in several groups is compared within itself.
    places : Counts or None
        The places of categories in all documents, where values are of a dictionary, for the ratios of their rates.
    sampling : SamplingUnits or None
        The sampling units of the documents of `places`.
    averaged : Table or None
        (documents, values) of how many documents each value is the mean; None where each is of one.
    """

    values: Table
    group: np.ndarray
    groups: tuple[str, ...]
    names: np.ndarray
    weight: np.ndarray | None = None
    noun: str = "document"
    unit: np.ndarray | None = None
    places: Counts | None = None
    sampling: SamplingUnits | None = None
    averaged: Table | None = None

    def in_any(self, groups: tuple[str, ...]) -> np.ndarray:
        """(documents,) bool: whose group is one of these."""
        return np.isin(self.group, groups)

    def of(self, value: str, groups: tuple[str, ...]) -> Sample:
        """The documents of groups, taken together, that have a value."""
        x = np.asarray(self.values[value], dtype=float)
        which = np.flatnonzero(self.in_any(groups) & ~np.isnan(x))
        weight = np.ones(len(which)) if self.weight is None else self.weight[which].astype(float)
        if self.unit is None:
            return Sample(x[which], weight, self.names[which], which)
        unit, first, number = np.unique(self.unit[which], return_index=True, return_inverse=True)
        if len(unit) == len(which):
            return Sample(x[which], weight, self.names[which], self.unit[which])
        # a unit that is in several of the groups is one observation, and weighs as in all of them
        times = np.ones(len(which)) if self.averaged is None else np.asarray(self.averaged[value], float)[which]
        mean = np.bincount(number, times * x[which]) / np.bincount(number, times)
        if self.weight is None:
            return Sample(mean, np.ones(len(unit)), self.names[which][first], unit)
        there = np.flatnonzero(self.in_any(groups) & np.isin(self.unit, unit))
        together = np.bincount(np.searchsorted(unit, self.unit[there]), self.weight[there])
        return Sample(mean, together, self.names[which][first], unit)


def contrast(
    seen: Observations, settings: ContrastSettings | None = None, note: TakeNote = lambda text: None
) -> Table:
    """Compare the groups of documents in each value, two by two, or each with all others.

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
        hedges_g_low, hedges_g_high, cliffs_delta, t, df, p, p_adjusted, p_rank, p_rank_adjusted, higher_in, note``,
        and of a dictionary before the note ``log_ratio, log_ratio_low, log_ratio_high, design_effect, p_rate,
        p_rate_adjusted``, and with fields held equal ``log_ratio_conditional`` and its kin. The difference is mean_a
        - mean_b; p and interval are Welch's (1947) where each group has five documents or more that are not all
        equal, else p counts relabellings (Janssen 1997). If asked for, the interval is by drawing documents.

    Raises
    ------
    DataError
        For one group only, or one that does not exist; for a bootstrap of fewer than eight documents.

    References
    ----------
    Welch, B. L. (1947). The generalization of Student's problem. Hedges, L. V. (1981). Distribution theory for
    Glass's estimator of effect size. Cliff, N. (1993). Dominance statistics.
    """
    settings = settings or ContrastSettings()
    check_two_groups(seen.groups, "a contrast")
    if settings.interval == "bootstrap":
        _check_bootstrap(seen)
    rows = [
        _compared(value, compared, seen, settings)
        for value in seen.values.names
        for compared in comparisons(seen.groups, settings.against)
    ]
    table = Table.of_rows([tuple(row.values()) for row in rows], list(rows[0]))
    if seen.places is not None and settings.adjust_for:
        table = with_fields_held(
            table, comparisons(seen.groups, settings.against), seen.places, seen.sampling, settings, note
        )
    for name in ("p", "p_rank", "p_rate"):
        if name in table:
            p = adjusted(np.asarray(table[name], dtype=float), settings.adjust)
            table = table.with_columns({f"{name}_adjusted": p}, table.names.index(name) + 1)
    _note_few(seen, settings, note)
    return table


def _note_few(seen: Observations, settings: ContrastSettings, note: TakeNote) -> None:
    number = {group: int((seen.group == group).sum()) for group in seen.groups}
    lone = [group for group in seen.groups if number[group] == 1]
    few = [group for group in seen.groups if 1 < number[group] < FEW]
    if lone:
        apart = "; --independent-units takes its parts as observations" if seen.noun == "text" else ""
        without = "no standard deviation or interval, and p is of the plain difference"
        note(f"one {seen.noun} in {listed(lone)}: {without}{apart}")
    if few:
        note(f"fewer than {FEW} {seen.noun}s in {listed(few)}: only large and steady differences can show")
    pairs = 0 if seen.unit is None else len(unique(seen.unit[_repeated(seen.unit)]))
    if pairs:
        are = "is in several groups, and is" if pairs == 1 else "are in several groups, and are"
        itself = "itself" if pairs == 1 else "themselves"
        independent = "; --omnibus takes what they have in each as independent" if settings.omnibus else ""
        note(f"{numbered(pairs, 'sampling unit')} {are} compared within {itself}{independent}")


def _compared(value: str, compared: Comparison, seen: Observations, settings: ContrastSettings) -> dict[str, object]:
    first, second = compared.target, compared.reference
    a, b = seen.of(value, (first,)), seen.of(value, compared.against)
    difference = a.mean - b.mean
    t, df, _ = welch_test(a, b)
    p = _p(a, b, settings)
    low, high = (np.nan, np.nan) if _is_few(a, b) else welch_interval(a, b)
    if settings.interval == "bootstrap":
        enough = min(a.n, b.n) >= FEW
        low, high = bootstrap_interval(a, b, settings.draws, settings.seed) if enough else (np.nan, np.nan)
    g, g_low, g_high = hedges_g(a, b)
    p_rank = rank_test(a, b)
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
        **(rates(value, compared, seen.places, seen.sampling) if seen.places is not None else {}),
        "note": "; ".join(_notes(a, b, compared, p, seen, settings)),
    }


def _is_few(a: Sample, b: Sample) -> bool:
    """Whether a group has too few documents for Welch's test, or only equal ones."""
    return any(sample.n < LEAST_FOR_WELCH or not sample.variance > 0 for sample in (a, b))


def _p(a: Sample, b: Sample, settings: ContrastSettings) -> float:
    """p of the difference of means: Welch's, or by relabellings where there is too little for it."""
    return relabelled_p(a, b, settings.draws, settings.seed) if _is_few(a, b) else welch_test(a, b)[2]


def _check_bootstrap(seen: Observations) -> None:
    small = [group for group in seen.groups if (seen.group == group).sum() < FEW]
    if small:
        number = int((seen.group == small[0]).sum())
        raise DataError(
            f"--interval bootstrap needs {FEW} {seen.noun}s in each group, and {small[0]} has {number}",
            "leave the option out; with few documents p counts all ways to put them into the groups",
        )


def _repeated(unit: np.ndarray) -> np.ndarray:
    """(documents,) bool: whose unit is that of another one, too."""
    _, number = unique_inverse(unit)
    return np.asarray(np.bincount(number)[number] > 1)


def _notes(
    a: Sample, b: Sample, compared: Comparison, p: float, seen: Observations, settings: ContrastSettings
) -> Iterator[str]:
    sides = ((a, compared.target, (compared.target,)), (b, compared.reference, compared.against))
    for sample, name, groups in sides:
        if sample.n == 0:
            yield f"no {seen.noun} of {name} has the value"
        elif sample.n == 1 and seen.in_any(groups).sum() > 1:
            yield f"one {seen.noun} of {name} has the value: no standard deviation"
    if settings.interval == "bootstrap" and min(a.n, b.n) < FEW:
        yield f"fewer than {FEW} {seen.noun}s of a group have the value: no interval by drawing"
    if a.n and b.n and _is_few(a, b):
        ways = relabelling_of(a, b)
        counted = f"all {ways.ways:,}" if ways.ways <= settings.draws else f"{settings.draws:,} random"
        what = "few" if min(a.n, b.n) < LEAST_FOR_WELCH else "equal"
        yield f"{what} {seen.noun}s: p of {counted} relabellings, no interval"
    farthest = _farthest(a, b)
    if farthest is None or np.isnan(p):
        return
    side, number = farthest
    parts = (a.without(number), b) if side == 0 else (a, b.without(number))
    name = (a, b)[side].names[number]
    before, after = np.sign(a.mean - b.mean), np.sign(parts[0].mean - parts[1].mean)
    p_without = _p(*parts, settings)
    if before * after < 0:
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
        samples = [seen.of(value, (group,)) for group in seen.groups]
        rows.append((value, *welch_anova(samples), *kruskal_wallis([sample.x for sample in samples if sample.n])))
    return Table.of_rows(rows, ["value", "welch_f", "df1", "df2", "p", "kruskal_h", "p_kruskal"])
