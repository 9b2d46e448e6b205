"""How far coders agree: per cent, kappa and alpha, with intervals over the units that were coded."""

from collections.abc import Callable

import numpy as np

from millstone.core.base.light_dataclass import frozen

DRAWS = 2000
"""Bootstrap samples of units."""
_AT_ONCE = 2_000_000


@frozen
class Estimate:
    """A number with the ends of its 95 % interval; NaN where it is not defined."""

    value: float
    low: float
    high: float


def percent_agreement(counts: np.ndarray, weight: np.ndarray | None = None) -> np.ndarray:
    """The share of pairs of codes of the same unit that are the same, in percent.

    Parameters
    ----------
    counts : ndarray
        (units, values) how many coders gave a unit each value.
    weight : ndarray, optional
        (samples, units) how often each unit counts; once each by default.

    Returns
    -------
    ndarray
        (samples,) NaN where no unit has two codes.
    """
    times = _times(counts, weight)
    pairs = counts.sum(axis=1)
    same = (counts * (counts - 1.0)).sum(axis=1)
    every = pairs * (pairs - 1.0)
    with np.errstate(invalid="ignore", divide="ignore"):
        found: np.ndarray = 100 * (times @ same) / (times @ every)
    return found


def krippendorff_alpha(counts: np.ndarray, weight: np.ndarray | None = None) -> np.ndarray:
    """Krippendorff's alpha of nominal codes, of any number of coders, with gaps.

    Parameters
    ----------
    counts : ndarray
        (units, values) how many coders gave a unit each value; units with fewer than two codes say nothing.
    weight : ndarray, optional
        (samples, units) how often each unit counts; once each by default.

    Returns
    -------
    ndarray
        (samples,) 1 where all agree, 0 where they agree as chance would have it; NaN where all codes are the same
        value, and where no unit has two.

    References
    ----------
    Krippendorff, K. (2011). Computing Krippendorff's alpha-reliability.
    """
    times = _times(counts, weight)
    coders = counts.sum(axis=1)
    paired = coders > 1
    own = np.where(paired[:, None], counts, 0).astype(float)
    other = np.maximum(coders - 1.0, 1.0)
    # of each unit, the pairs of different values, each unit weighing as many codes as it has
    different = (own * (coders[:, None] - own)).sum(axis=1) / other
    values = times @ own
    number = values.sum(axis=1)
    chance = number**2 - (values**2).sum(axis=1)
    with np.errstate(invalid="ignore", divide="ignore"):
        found = 1 - (number - 1) * (times @ different) / chance
    return np.where(chance > 0, found, np.nan)


def cohen_kappa(one: np.ndarray, other: np.ndarray, weight: np.ndarray | None = None) -> np.ndarray:
    """Cohen's kappa of two coders who gave each unit 0 or 1.

    Parameters
    ----------
    one, other : ndarray
        (units,) of 0 and 1.
    weight : ndarray, optional
        (samples, units) how often each unit counts; once each by default.

    Returns
    -------
    ndarray
        (samples,) NaN where chance alone would make them agree.

    References
    ----------
    Cohen, J. (1960). A coefficient of agreement for nominal scales.
    """
    times = _times(one[:, None], weight)
    with np.errstate(invalid="ignore", divide="ignore"):
        number = times.sum(axis=1)
        seen = times @ (one == other) / number
        first, second = times @ one.astype(float) / number, times @ other.astype(float) / number
        chance = first * second + (1 - first) * (1 - second)
        found = (seen - chance) / (1 - chance)
    return np.where(chance < 1, found, np.nan)


def with_interval(statistic: Callable[[np.ndarray | None], np.ndarray], units: int, seed: int) -> Estimate:
    """A statistic with its bootstrap interval over units.

    Parameters
    ----------
    statistic : callable
        Gives (samples,) values for (samples, units) weights, and (1,) for None.
    units : int
        How many units there are.
    seed : int

    Returns
    -------
    Estimate
        The 2.5 and 97.5 percentiles of 2,000 samples of units, of those in which it is defined.
    """
    value = float(statistic(None)[0])
    chance = np.random.default_rng(seed)
    drawn = []
    step = max(_AT_ONCE // max(units, 1), 1)
    for start in range(0, DRAWS, step):
        size = min(step, DRAWS - start)
        weight = chance.multinomial(units, np.full(units, 1 / units), size=size) if units else np.zeros((size, 0))
        drawn.append(statistic(weight.astype(float)))
    every = np.concatenate(drawn)
    known = every[~np.isnan(every)]
    if np.isnan(value) or not len(known):
        return Estimate(value, np.nan, np.nan)
    low, high = np.quantile(known, (0.025, 0.975))
    return Estimate(value, float(low), float(high))


def _times(counts: np.ndarray, weight: np.ndarray | None) -> np.ndarray:
    return np.ones((1, len(counts))) if weight is None else weight
