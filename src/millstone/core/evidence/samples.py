"""Samples of the values of documents: their means, and tests and effect sizes of two or more of them."""

from dataclasses import dataclass

import numpy as np
from scipy import optimize, special, stats

from millstone.core.evidence import two_samples
from millstone.core.evidence.relabelling import AS_FAR, Relabelling, pairs_of

_NEAR_ENOUGH = 1e-10
# a variance of values below 1 that is what rounding leaves
_NOISE = 1e-14
# of draws and documents that are held at a time
_CELLS = 1 << 21


@dataclass(frozen=True)
class Sample:
    """The values of one group: `x`, their weights, names, and the numbers of the sampling units, (n,) each."""

    x: np.ndarray
    weight: np.ndarray
    names: np.ndarray
    unit: np.ndarray

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
        """The sample without one document."""
        x, weight, names, unit = (np.delete(one, number) for one in (self.x, self.weight, self.names, self.unit))
        return Sample(x, weight, names, unit)


def relabelling_of(a: Sample, b: Sample) -> Relabelling:
    """The ways to put the documents, or other units, of two groups into them anew.

    Parameters
    ----------
    a : Sample
        The values of the first group's units.
    b : Sample
        The values of the second group's.

    Returns
    -------
    Relabelling
    """
    return Relabelling(a.n, b.n, pairs_of(a.unit, b.unit))


def welch_test(a: Sample, b: Sample) -> tuple[float, float, float]:
    """Welch's t, its degrees of freedom and two-sided p; NaN where a group has one document, or none varies.

    Units that are in both groups are taken as the pairs that they are (Derrick et al. 2017).

    Parameters
    ----------
    a : Sample
        The values of the first group's units.
    b : Sample
        The values of the second group's.

    Returns
    -------
    tuple[float, float, float]
    """
    pairs = pairs_of(a.unit, b.unit)
    correlation = 0.0
    if len(pairs) > 1:
        here, there = a.x[pairs[:, 0]], b.x[pairs[:, 1] - a.n]
        if np.ptp(here) > 0 and np.ptp(there) > 0:
            correlation = float(np.corrcoef(here, there)[0, 1])
    found = two_samples.welch(a.mean - b.mean, a.squared_error, b.squared_error, a.n, b.n, correlation, len(pairs))
    t, df, p = map(float, found)
    return t, df, p


def welch_interval(a: Sample, b: Sample) -> tuple[float, float]:
    """The 95 % interval of the difference of means.

    Parameters
    ----------
    a : Sample
        The values of the first group's units.
    b : Sample
        The values of the second group's.

    Returns
    -------
    tuple[float, float]
        Its lower and its upper end.
    """
    t, df, _ = welch_test(a, b)
    difference = a.mean - b.mean
    if np.isnan(t):
        return np.nan, np.nan
    # where the means are equal t says nothing of its error
    error = difference / t if t else np.sqrt(a.squared_error + b.squared_error)
    half = float(special.stdtrit(df, 0.975) * error)
    return difference - half, difference + half


def relabelled_p(a: Sample, b: Sample, draws: int, seed: int) -> float:
    """p of the difference of means by its standard error under relabellings, all of them where `draws` allow it.

    Where a group has one document there is no standard error, and the plain difference is taken; NaN where a group
    has none.

    Parameters
    ----------
    a : Sample
        The values of the first group's units.
    b : Sample
        The values of the second group's.
    draws : int
        How many relabellings, or samples, are drawn.
    seed : int
        Of the random numbers.

    Returns
    -------
    float
        0 to 1.

    References
    ----------
    Janssen, A. (1997). Studentized permutation tests for non-i.i.d. hypotheses and the generalized Behrens-Fisher
    problem.
    """
    if not a.n or not b.n:
        return np.nan
    ways = relabelling_of(a, b)
    x, weight = np.concatenate((a.x, b.x)), np.concatenate((a.weight, b.weight))
    size = float(np.abs(x).max()) or 1.0
    least = _distance(ways.seen, x / size, weight, ways)[0] * AS_FAR
    hits = sum(
        int((_distance(labels, x / size, weight, ways) >= least).sum())
        for labels in ways.some(draws, seed, max(1, _CELLS // len(x)))
    )
    return float(ways.p(np.array(hits), draws))


def _distance(labels: np.ndarray, x: np.ndarray, weight: np.ndarray, ways: Relabelling) -> np.ndarray:
    """(labellings,) how far the means are apart, in standard errors of their difference where there are such."""
    one, other = (_mean_and_error((side * weight[:, np.newaxis]).T, x, weight) for side in (labels, 1 - labels))
    difference: np.ndarray = np.abs(one[0] - other[0])
    difference[difference < _NOISE] = 0
    if min(ways.n1, ways.n2) < 2:
        return difference
    error = one[1] + other[1]
    apart = np.where(difference > 0, np.inf, 0.0)
    found: np.ndarray = np.divide(difference, np.sqrt(error), out=apart, where=error > 0)
    return found


def _mean_and_error(times: np.ndarray, x: np.ndarray, weight: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(samples,) the mean of each sample and its squared standard error; `times` (samples, n) are its weights."""
    total, squared = times.sum(axis=1), times @ weight
    with np.errstate(invalid="ignore", divide="ignore"):
        mean = times @ x / total
        variance = (times @ x**2 - total * mean**2) / (total - squared / total)
        error = np.where(variance > _NOISE, variance, 0) * squared / total**2
    return mean, error


def bootstrap_interval(a: Sample, b: Sample, draws: int, seed: int) -> tuple[float, float]:
    """The 95 % bootstrap-t interval of the difference of means: units are drawn with replacement within each group.

    A unit that is in both groups is drawn with its values in both. NaN where there is no standard error.

    Parameters
    ----------
    a : Sample
        The values of the first group's units.
    b : Sample
        The values of the second group's.
    draws : int
        How many relabellings, or samples, are drawn.
    seed : int
        Of the random numbers.

    Returns
    -------
    tuple[float, float]
        Its lower and its upper end.

    References
    ----------
    Efron, B. & Tibshirani, R. J. (1993). An introduction to the bootstrap, chapter 12.
    """
    seen = a.mean - b.mean
    error = float(np.sqrt(_error_with_pairs(a.weight[np.newaxis], b.weight[np.newaxis], a, b)[1][0]))
    if a.n < 2 or b.n < 2 or not error > 0:
        return np.nan, np.nan
    chance, found = np.random.default_rng(seed), []
    at_once = max(_CELLS // (a.n + b.n), 1)
    for start in range(0, draws, at_once):
        times = _drawn_times(a, b, min(at_once, draws - start), chance)
        difference, squared = _error_with_pairs(times[0] * a.weight, times[1] * b.weight, a, b)
        with np.errstate(invalid="ignore", divide="ignore"):
            found.append(np.where(squared > 0, (difference - seen) / np.sqrt(squared), np.nan))
    low, high = np.nanpercentile(np.concatenate(found), (97.5, 2.5))
    return float(seen - low * error), float(seen - high * error)


def _drawn_times(a: Sample, b: Sample, draws: int, chance: np.random.Generator) -> tuple[np.ndarray, np.ndarray]:
    """(draws, n) how often each observation of both samples is drawn."""
    pairs = pairs_of(a.unit, b.unit)
    found = [np.zeros((draws, sample.n)) for sample in (a, b)]
    together = chance.multinomial(len(pairs), np.full(len(pairs), 1 / len(pairs)), size=draws) if len(pairs) else None
    for side, rows in enumerate((pairs[:, 0], pairs[:, 1] - a.n)):
        alone = np.setdiff1d(np.arange(found[side].shape[1]), rows)
        if len(alone):
            found[side][:, alone] = chance.multinomial(len(alone), np.full(len(alone), 1 / len(alone)), size=draws)
        if together is not None:
            found[side][:, rows] = together
    return found[0], found[1]


def _error_with_pairs(
    times_a: np.ndarray, times_b: np.ndarray, a: Sample, b: Sample
) -> tuple[np.ndarray, np.ndarray]:
    """(samples,) the difference of the means, and its squared standard error, less what pairs have in common."""
    (mean_a, error_a), (mean_b, error_b) = (
        _mean_and_error(times, sample.x, sample.weight) for times, sample in ((times_a, a), (times_b, b))
    )
    pairs = pairs_of(a.unit, b.unit)
    shared = np.zeros(len(times_a))
    if len(pairs) > 1:
        here, there = pairs[:, 0], pairs[:, 1] - a.n
        away = (a.x[here] - mean_a[:, np.newaxis]) * (b.x[there] - mean_b[:, np.newaxis])
        weights = times_a[:, here] * b.weight[there]
        shared = (
            2
            * len(pairs)
            / (len(pairs) - 1)
            * (weights * away).sum(axis=1)
            / (times_a.sum(axis=1) * times_b.sum(axis=1))
        )
    return mean_a - mean_b, error_a + error_b - shared


def hedges_g(a: Sample, b: Sample) -> tuple[float, float, float]:
    """Hedges' g and its 95 % interval from the noncentral t; NaN where it has no standard deviation.

    ``g = J (mean_a - mean_b) / s`` with the pooled standard deviation s and ``J = 1 - 3 / (4 (n_a + n_b - 2) - 1)``.

    Parameters
    ----------
    a : Sample
        The values of the first group's units.
    b : Sample
        The values of the second group's.

    Returns
    -------
    tuple[float, float, float]
        The value, and the ends of its interval.
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
    # they are those of the difference in the population, which needs no correction
    return float(correction * d), float(limits[0]), float(limits[1])


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

    Parameters
    ----------
    a : ndarray
        The values of the first group's units.
    b : ndarray
        The values of the second group's.

    Returns
    -------
    float

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


def rank_test(a: Sample, b: Sample) -> float:
    """Two-sided p of Mann-Whitney's U, exact for up to 20 units; 1 where all are equal, NaN where a group has none.

    Parameters
    ----------
    a : Sample
        The values of the first group's units.
    b : Sample
        The values of the second group's.

    Returns
    -------
    float

    References
    ----------
    Mann, H. B. & Whitney, D. R. (1947). On a test of whether one of two random variables is stochastically larger.
    """
    if not a.n or not b.n:
        return np.nan
    ranks = stats.rankdata(np.concatenate((a.x, b.x)))[:, np.newaxis]
    return float(two_samples.rank_sums(ranks, a.n, pairs_of(a.unit, b.unit))[0])
