"""By how much groups differ in a value of documents, and how sure that is."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np
import pandas as pd
from scipy import optimize, special, stats

from millstone.core.comparisons import ALPHA, PAIRS
from millstone.core.declare import nearest
from millstone.core.errors import DataError
from millstone.core.settings import ContrastSettings
from millstone.core.significance import adjusted

FEW = 8
"""Fewer documents in a group make the test by ranks rough."""

_NEAR_ENOUGH = 1e-10

Tell = Callable[[str], None]


@dataclass(frozen=True)
class Observations:
    """The values of documents, of which groups are to be compared.

    Attributes
    ----------
    values : DataFrame
        (documents, values) float, NaN where a document has none.
    group : ndarray of str
        (documents,).
    groups : tuple of str
        In their order.
    names : ndarray of str
        (documents,) the names of the documents.
    weight : ndarray or None
        (documents,) how much each counts in means, such as its tokens; None for all alike.
    """

    values: pd.DataFrame
    group: np.ndarray
    groups: tuple[str, ...]
    names: np.ndarray
    weight: np.ndarray | None = None

    def of(self, value: str, group: str) -> "Sample":
        """The documents of a group that have a value."""
        x = self.values[value].to_numpy(dtype=float)
        which = np.flatnonzero((self.group == group) & ~np.isnan(x))
        weight = np.ones(len(which)) if self.weight is None else self.weight[which].astype(float)
        return Sample(x[which], weight, self.names[which])


@dataclass(frozen=True)
class Sample:
    """The values of one group: `x`, their weights and the names of the documents, (n,) each."""

    x: np.ndarray
    weight: np.ndarray
    names: np.ndarray

    @property
    def n(self) -> int:
        """Documents."""
        return len(self.x)

    @property
    def mean(self) -> float:
        """Mean, weighted; NaN for none."""
        total = float(self.weight.sum())
        return float(self.weight @ self.x / total) if total > 0 else np.nan

    @property
    def variance(self) -> float:
        """Variance over n - 1; with weights, of reliability type: equal weights give the same. NaN for one document.

        Values that are all equal have exactly 0.
        """
        if self.n < 2 or not self.weight.sum() > 0:
            return np.nan
        if self.x.min() == self.x.max():
            return 0.0
        total = float(self.weight.sum())
        freedom = total - float(self.weight @ self.weight) / total
        return float(self.weight @ (self.x - self.mean) ** 2 / freedom) if freedom > 0 else np.nan

    @property
    def squared_error(self) -> float:
        """The squared standard error of the mean."""
        total = float(self.weight.sum())
        return self.variance * float(self.weight @ self.weight) / total**2 if total > 0 else np.nan

    def without(self, number: int) -> "Sample":
        """The same without one document."""
        return Sample(np.delete(self.x, number), np.delete(self.weight, number), np.delete(self.names, number))


def contrast(
    seen: Observations, settings: ContrastSettings | None = None, tell: Tell = lambda text: None
) -> pd.DataFrame:
    """Compare the groups of documents in each value, two by two.

    Parameters
    ----------
    seen : Observations
    settings : ContrastSettings, optional
    tell : callable
        Told what to mind.

    Returns
    -------
    DataFrame
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
    rows = [
        _compared(value, first, second, seen, settings)
        for value in seen.values.columns
        for first, second in pairs(seen.groups, settings.against)
    ]
    table = pd.DataFrame(rows)
    for name in ("p", "p_rank"):
        at = list(table.columns).index(name) + 1
        table.insert(at, f"{name}_adjusted", adjusted(table[name].to_numpy(dtype=float), settings.adjust))
    few = [group for group in seen.groups if 1 < (seen.group == group).sum() < FEW]
    if few:
        tell(f"fewer than {FEW} documents in {', '.join(few)}: p_rank is rough")
    return table


def pairs(groups: Sequence[str], against: str) -> list[tuple[str, str]]:
    """Which groups are compared: every pair, the earlier one first, or each other one with `against`.

    Raises
    ------
    DataError
    """
    if len(groups) < 2:
        only = f"{groups[0]!r}" if groups else "none"
        raise DataError(
            f"a contrast needs two groups, and there is one: {only}",
            "name what makes the groups (--group COLUMN), or give a second input (NAME=PATH)",
        )
    if against == PAIRS:
        return list(combinations(groups, 2))
    if against not in groups:
        raise DataError(
            f"--against: there is no group {against!r}{nearest(against, groups)}",
            f"name one of {', '.join(groups)}, or type pairs",
        )
    return [(group, against) for group in groups if group != against]


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
        "note": "; ".join(_notes(a, b, first, second, p)),
    }


def _notes(a: Sample, b: Sample, first: str, second: str, p: float) -> Iterator[str]:
    for sample, name in ((a, first), (b, second)):
        if sample.n == 0:
            yield f"no document of {name} has the value"
        elif sample.n == 1:
            yield f"one document in {name}: no standard deviation"
    if a.n > 1 and b.n > 1 and a.variance == 0 and b.variance == 0:
        yield "all documents of each group are equal: no test"
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


def welch_test(a: Sample, b: Sample) -> tuple[float, float, float]:
    """Welch's t, its degrees of freedom and two-sided p; NaN where a group has one document, or none varies."""
    error = a.squared_error + b.squared_error
    if not error > 0:
        return np.nan, np.nan, np.nan
    t = (a.mean - b.mean) / np.sqrt(error)
    df = _freedom(a, b)
    return float(t), df, float(2 * special.stdtr(df, -abs(t)))


def _freedom(a: Sample, b: Sample) -> float:
    error = a.squared_error + b.squared_error
    return float(error**2 / (a.squared_error**2 / (a.n - 1) + b.squared_error**2 / (b.n - 1)))


def welch_interval(a: Sample, b: Sample) -> tuple[float, float]:
    """The 95 % interval of the difference of means."""
    error = a.squared_error + b.squared_error
    if not error > 0:
        return np.nan, np.nan
    half = float(special.stdtrit(_freedom(a, b), 0.975) * np.sqrt(error))
    return a.mean - b.mean - half, a.mean - b.mean + half


def bootstrap_interval(a: Sample, b: Sample, draws: int, seed: int) -> tuple[float, float]:
    """2.5 and 97.5 % of the differences of means when documents are drawn with replacement within each group.

    References
    ----------
    Efron, B. & Tibshirani, R. J. (1993). An introduction to the bootstrap.
    """
    if a.n < 2 or b.n < 2:
        return np.nan, np.nan
    chance = np.random.default_rng(seed)
    means = []
    for sample in (a, b):
        times = chance.multinomial(sample.n, np.full(sample.n, 1 / sample.n), size=draws)
        weight = times * sample.weight
        with np.errstate(invalid="ignore"):
            means.append(weight @ sample.x / weight.sum(axis=1))
    low, high = np.nanpercentile(means[0] - means[1], (2.5, 97.5))
    return float(low), float(high)


def hedges_g(a: Sample, b: Sample) -> tuple[float, float, float]:
    """Hedges' g and its 95 % interval from the noncentral t; NaN where it has no standard deviation.

    ``g = J (mean_a - mean_b) / s`` with the pooled standard deviation s and ``J = 1 - 3 / (4 (n_a + n_b - 2) - 1)``.
    """
    freedom = a.n + b.n - 2
    if a.n < 2 or b.n < 2:
        return np.nan, np.nan, np.nan
    pooled = ((a.n - 1) * a.variance + (b.n - 1) * b.variance) / freedom
    if not pooled > 0:
        return np.nan, np.nan, np.nan
    d = (a.mean - b.mean) / np.sqrt(pooled)
    scale = np.sqrt(1 / a.n + 1 / b.n)
    correction = 1 - 3 / (4 * freedom - 1)
    limits = [_noncentrality(d / scale, freedom, share) * scale for share in (0.975, 0.025)]
    return float(correction * d), float(correction * limits[0]), float(correction * limits[1])


def _noncentrality(t: float, freedom: int, share: float) -> float:
    """The noncentrality of a t distribution of which `share` lies below `t`."""

    def lies_below(noncentrality: float) -> float:
        return float(stats.nct.cdf(t, freedom, noncentrality)) - share

    near = float(special.nctdtrinc(freedom, share, t))
    if np.isfinite(near) and abs(lies_below(near)) < _NEAR_ENOUGH:
        return near
    reach = 1e-3 * (1 + abs(near))
    if not np.isfinite(near) or not lies_below(near - reach) > 0 > lies_below(near + reach):
        return np.nan
    return float(optimize.brentq(lies_below, near - reach, near + reach, xtol=1e-12))


def cliffs_delta(a: np.ndarray, b: np.ndarray) -> float:
    """``P(a > b) - P(a < b)`` over all pairs of documents, -1 to 1; NaN where a group has none.

    Examples
    --------
    >>> cliffs_delta(np.array([1, 2, 3]), np.array([2, 2]))
    0.0
    """
    if not len(a) or not len(b):
        return np.nan
    ordered = np.sort(b)
    below, up_to = np.searchsorted(ordered, a, side="left"), np.searchsorted(ordered, a, side="right")
    return float((below.sum() - (len(b) - up_to).sum()) / (len(a) * len(b)))


def rank_test(a: np.ndarray, b: np.ndarray) -> float:
    """Two-sided p of Mann-Whitney's U, normal approximation with tie and continuity correction; NaN if all are equal.

    References
    ----------
    Mann, H. B. & Whitney, D. R. (1947). On a test of whether one of two random variables is stochastically larger.
    """
    n1, n2 = len(a), len(b)
    if not n1 or not n2:
        return np.nan
    both = np.concatenate((a, b))
    ranks = stats.rankdata(both)
    _, ties = np.unique(both, return_counts=True)
    n = n1 + n2
    u = ranks[:n1].sum() - n1 * (n1 + 1) / 2
    variance = n1 * n2 / 12 * ((n + 1) - (ties**3 - ties).sum() / (n * (n - 1))) if n > 1 else 0
    if variance <= 0:
        return np.nan
    z = max(abs(u - n1 * n2 / 2) - 0.5, 0) / np.sqrt(variance)
    return float(min(1, special.erfc(z / np.sqrt(2))))


def omnibus(seen: Observations) -> pd.DataFrame:
    """Whether groups differ at all, for three groups or more.

    Returns
    -------
    DataFrame
        ``value, welch_f, df1, df2, p, kruskal_h, p_kruskal``: Welch's analysis of variance over the groups with two
        documents or more, empty where one of them does not vary; and the test of Kruskal and Wallis.

    References
    ----------
    Welch, B. L. (1951). On the comparison of several mean values. Kruskal, W. H. & Wallis, W. A. (1952). Use of
    ranks in one-criterion variance analysis.
    """
    rows = []
    for value in seen.values.columns:
        samples = [seen.of(value, group) for group in seen.groups]
        rows.append((value, *_welch_anova(samples), *_kruskal([sample.x for sample in samples if sample.n])))
    return pd.DataFrame(rows, columns=["value", "welch_f", "df1", "df2", "p", "kruskal_h", "p_kruskal"])


def _welch_anova(samples: Sequence[Sample]) -> tuple[float, float, float, float]:
    usable = [sample for sample in samples if sample.n > 1 and sample.variance > 0]
    k = len(usable)
    if k < 2 or k < sum(sample.n > 1 for sample in samples):
        return np.nan, np.nan, np.nan, np.nan
    weight = np.array([1 / sample.squared_error for sample in usable])
    mean = np.array([sample.mean for sample in usable])
    freedom = np.array([sample.n - 1 for sample in usable])
    total = weight.sum()
    grand = weight @ mean / total
    spread = float(((1 - weight / total) ** 2 / freedom).sum())
    f = (weight @ (mean - grand) ** 2 / (k - 1)) / (1 + 2 * (k - 2) / (k**2 - 1) * spread)
    df2 = (k**2 - 1) / (3 * spread)
    return float(f), float(k - 1), float(df2), float(special.fdtrc(k - 1, df2, f))


def _kruskal(samples: Sequence[np.ndarray]) -> tuple[float, float]:
    if len(samples) < 2 or np.ptp(np.concatenate(samples)) == 0:
        return np.nan, np.nan
    found = stats.kruskal(*samples)
    return float(found.statistic), float(found.pvalue)
