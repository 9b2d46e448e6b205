"""Samples of the values of documents: their means, and tests and effect sizes of two or more of them."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import optimize, special, stats

from millstone.core.arrays import counted
from millstone.core.statistics import two_samples

_NEAR_ENOUGH = 1e-10
# of draws and documents that are held at a time
_CELLS = 1 << 21


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


def welch_test(a: Sample, b: Sample) -> tuple[float, float, float]:
    """Welch's t, its degrees of freedom and two-sided p; NaN where a group has one document, or none varies."""
    found = two_samples.welch(a.mean - b.mean, a.squared_error, b.squared_error, a.n, b.n)
    t, df, p = map(float, found)
    return t, df, p


def welch_interval(a: Sample, b: Sample) -> tuple[float, float]:
    """The 95 % interval of the difference of means."""
    error = a.squared_error + b.squared_error
    if not error > 0:
        return np.nan, np.nan
    half = float(special.stdtrit(welch_test(a, b)[1], 0.975) * np.sqrt(error))
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
        at_once = max(_CELLS // sample.n, 1)
        sizes = [min(at_once, draws - start) for start in range(0, draws, at_once)]
        means.append(np.concatenate([_drawn_means(sample, size, chance) for size in sizes]))
    low, high = np.nanpercentile(means[0] - means[1], (2.5, 97.5))
    return float(low), float(high)


def _drawn_means(sample: Sample, draws: int, chance: np.random.Generator) -> np.ndarray:
    times = chance.multinomial(sample.n, np.full(sample.n, 1 / sample.n), size=draws)
    weight = times * sample.weight
    with np.errstate(invalid="ignore"):
        return np.asarray(weight @ sample.x / weight.sum(axis=1))


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
    _, ties = counted(both)
    u = stats.rankdata(both)[:n1].sum() - n1 * (n1 + 1) / 2
    return float(two_samples.mann_whitney(u, (ties**3 - ties).sum(), n1, n2))


def welch_anova(samples: Sequence[Sample]) -> tuple[float, float, float, float]:
    """F, its two degrees of freedom and p of Welch's analysis of variance; NaN where a group does not vary.

    References
    ----------
    Welch, B. L. (1951). On the comparison of several mean values.
    """
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


def kruskal_wallis(samples: Sequence[np.ndarray]) -> tuple[float, float]:
    """H, corrected for ties, and p by its chi-squared approximation; NaN where all values are equal.

    References
    ----------
    Kruskal, W. H. & Wallis, W. A. (1952). Use of ranks in one-criterion variance analysis.
    """
    if len(samples) < 2 or np.ptp(np.concatenate(samples)) == 0:
        return np.nan, np.nan
    found = stats.kruskal(*samples)
    return float(found.statistic), float(found.pvalue)
