"""The tests of two samples that stand behind every comparison by documents, from what sums give of them."""

from typing import TYPE_CHECKING

import numpy as np

from millstone.core.statistics.significance import normal_tails

if TYPE_CHECKING:
    from numpy.typing import ArrayLike

_NO_VARIANCE = 1e-12
EXACT_UNITS = 20
"""Up to so many units together a test by ranks counts all relabellings."""


def welch(
    difference: "ArrayLike",
    error_a: "ArrayLike",
    error_b: "ArrayLike",
    n_a: int,
    n_b: int,
    correlation: "ArrayLike | None" = None,
    pairs: int = 0,
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Welch's t test of each difference of two means; where some observations are pairs, that of Derrick and others.

    Parameters
    ----------
    difference : array_like
        (tests,) mean of a - mean of b.
    error_a, error_b : array_like
        (tests,) the squared standard error of each mean; NaN for a sample of one.
    n_a, n_b : int
        Observations.
    correlation : array_like, optional
        (tests,) of the pairs.
    pairs : int
        How many observations of each sample are of the same unit as one of the other.

    Returns
    -------
    t, df, p : ndarray
        (tests,) each, p two-sided; NaN where a sample has one observation, or neither varies.

    References
    ----------
    Welch, B. L. (1947). The generalization of Student's problem when several different population
    variances are involved. Derrick, B., Russ, B., Toher, D. & White, P. (2017). Test statistics for the comparison
    of means for two samples that include both paired and independent observations.
    """
    from scipy import special

    a, b = np.asarray(error_a, dtype=float), np.asarray(error_b, dtype=float)
    if min(n_a, n_b) < 2:
        nothing = np.full(a.shape, np.nan)
        return nothing, nothing, nothing
    error = np.where(a + b > 0, a + b, np.nan)
    with np.errstate(invalid="ignore", divide="ignore"):
        df = error**2 / (a**2 / (n_a - 1) + b**2 / (n_b - 1))
        if pairs > 1 and correlation is not None:
            error = error - 2 * np.asarray(correlation) * np.sqrt(a * b / (n_a * n_b)) * pairs
            error = np.where(error > _NO_VARIANCE * (a + b), error, np.nan)
            df = pairs - 1 + (df - pairs + 1) * (n_a + n_b - 2 * pairs) / (n_a + n_b)
        t = np.asarray(difference) / np.sqrt(error)
    return t, df, 2 * special.stdtr(df, -np.abs(t))


def mann_whitney(u: "ArrayLike", ties: "ArrayLike", n_a: int, n_b: int) -> np.ndarray:
    """Two-sided p of each Mann-Whitney U, by the normal approximation with tie and continuity correction.

    Parameters
    ----------
    u : array_like
        (tests,) the rank sum of a, less its smallest possible value.
    ties : array_like
        (tests,) the sum of t^3 - t over the sizes t of the ties.
    n_a, n_b : int
        Observations.

    Returns
    -------
    ndarray
        (tests,); 1 where all observations are equal.

    References
    ----------
    Mann, H. B. & Whitney, D. R. (1947). On a test of whether one of two random variables is stochastically
    larger than the other.
    """
    n = n_a + n_b
    variance = n_a * n_b / 12 * ((n + 1) - np.asarray(ties) / (n * max(n - 1, 1)))
    return _normal_p(np.abs(np.asarray(u) - n_a * n_b / 2), variance)


def _normal_p(away: np.ndarray, variance: np.ndarray) -> np.ndarray:
    """Two-sided p of rank sums so far away from their mean, with continuity correction; 1 where they cannot vary."""
    varies = np.asarray(variance) > _NO_VARIANCE
    z = np.divide(away - 0.5, np.sqrt(np.maximum(variance, 0)), out=np.zeros(np.shape(away)), where=varies)
    return np.where(varies, np.minimum(normal_tails(z), 1), 1.0)


def rank_sums(ranks: np.ndarray, n_a: int, pairs: np.ndarray) -> np.ndarray:
    """Two-sided p of rank sums under relabellings of the units, of which those in both samples can only swap them.

    Parameters
    ----------
    ranks : ndarray
        (observations, tests) mid-ranks, those of the first sample first.
    n_a : int
        Observations of the first sample.
    pairs : ndarray
        (pairs, 2) the rows of each unit that is in both samples, that of the first one first.

    Returns
    -------
    ndarray
        (tests,) for up to 20 units the share of all relabellings whose rank sum is at least as far from its mean,
        ties included; else by the normal approximation with continuity correction.
    """
    is_alone = np.ones(len(ranks), dtype=bool)
    is_alone[pairs] = False
    alone, in_a = ranks[is_alone], int(is_alone[:n_a].sum())
    number, swapped = len(alone), np.diff(ranks[pairs], axis=1)[:, 0]
    centre = alone.mean(axis=0) if number else np.zeros(ranks.shape[1])
    away = np.abs(alone[:in_a].sum(axis=0) - in_a * centre - swapped.sum(axis=0) / 2)
    if len(ranks) - len(pairs) > EXACT_UNITS:
        variance = ((alone - centre) ** 2).sum(axis=0) * in_a * (number - in_a) / max(number * (number - 1), 1)
        return _normal_p(away, variance + (swapped**2).sum(axis=0) / 4)
    # doubled, mid-ranks are whole numbers; many tests have the same ranks in another order
    found, known = np.empty(ranks.shape[1]), {}
    for test, far in enumerate(away.tolist()):
        key = (
            tuple(np.sort(2 * alone[:, test]).astype(int)),
            tuple(np.sort(np.abs(2 * swapped[:, test])).astype(int)),
        )
        if key not in known:
            known[key] = _distances(*key, in_a)
        distance, ways = known[key]
        found[test] = ways[distance >= far - 1e-9].sum() / ways.sum()
    return found


def _distances(alone: tuple[int, ...], swapped: tuple[int, ...], in_a: int) -> tuple[np.ndarray, np.ndarray]:
    """How far rank sums are from their mean, and in how many ways each comes about.

    `alone` are doubled ranks, of which `in_a` are drawn, and `swapped` the doubled differences of pairs.
    """
    size = sum(alone) + sum(swapped) + 1
    ways = np.zeros((in_a + 1, size))
    ways[0, 0] = 1
    for rank in alone:
        ways[1:, rank:] += ways[:-1, : size - rank].copy()
    sums = ways[in_a]
    for difference in swapped:
        moved = np.zeros(size)
        moved[difference:] = sums[: size - difference]
        sums = sums + moved
    mean = (in_a * sum(alone) / len(alone) if alone else 0) + sum(swapped) / 2
    return np.abs(np.arange(size) - mean) / 2, sums
