"""Rates of a category that is not always right: how right it is, and what the rates would be if it were."""

import numpy as np

from millstone.core.base.light_dataclass import frozen
from millstone.core.coding.agreement import DRAWS, Estimate
from millstone.core.statistics.contingency import Z95

LEAST = 0.1
"""Where sensitivity and specificity add up to less than 1 and this, nothing can be corrected."""


@frozen
class Coded:
    """Units that were drawn by strata and coded by hand.

    Attributes
    ----------
    hit : ndarray
        (units,) bool: whether the category counts the unit.
    code : ndarray
        (units,) bool: whether the unit is of the category, as the coder says.
    stratum : ndarray
        (units,) int64 the number of the stratum of each.
    weight : ndarray
        (units,) how many units of the texts each stands for: those of its stratum by those of it that were coded.
    """

    hit: np.ndarray
    code: np.ndarray
    stratum: np.ndarray
    weight: np.ndarray


@frozen
class Rates:
    """Sensitivity and specificity of a category, and their (2, 2) covariance."""

    sensitivity: float
    specificity: float
    covariance: np.ndarray


def precision_of(coded: Coded) -> Estimate:
    """The share of hits that are right, weighted by strata, with Wilson's interval on the effective number of hits.

    Parameters
    ----------
    coded : Coded

    Returns
    -------
    Estimate
        NaN where no unit with a hit was coded.

    References
    ----------
    Wilson, E. B. (1927). Probable inference, the law of succession, and statistical inference. Kish, L. (1965).
    Survey sampling: the effective number is the squared sum of weights by the sum of their squares.
    """
    weight = coded.weight[coded.hit]
    if not weight.sum():
        return Estimate(np.nan, np.nan, np.nan)
    # equal weights are to be exactly 1, so that a share of whole numbers is
    weight = weight / weight.max()
    share = float((weight * coded.code[coded.hit]).sum() / weight.sum())
    number = float(weight.sum() ** 2 / (weight**2).sum())
    middle = (share + Z95**2 / (2 * number)) / (1 + Z95**2 / number)
    half = Z95 / (1 + Z95**2 / number) * np.sqrt(share * (1 - share) / number + Z95**2 / (4 * number**2))
    return Estimate(share, max(float(middle - half), 0.0), min(float(middle + half), 1.0))


def recall_and_f1(coded: Coded, seed: int) -> tuple[Estimate, Estimate]:
    """Recall and F1, weighted by strata, with intervals by drawing anew.

    Hits are drawn anew within strata. The share of misses among the units without a hit is drawn from Beta(k + 1/2,
    n - k + 1/2), n their effective number: drawn anew, a sheet without a miss would never have one, and recall would
    seem to be 1 for sure.

    Parameters
    ----------
    coded : Coded
    seed : int

    Returns
    -------
    recall, f1 : Estimate
        NaN where no unit is of the category.

    References
    ----------
    Brown, L. D., Cai, T. T. & DasGupta, A. (2001). Interval estimation for a binomial proportion.
    """
    chance = np.random.default_rng(seed)
    hit = coded.hit
    times = np.zeros((DRAWS, int(hit.sum())))
    for stratum in np.unique(coded.stratum[hit]):
        own = np.flatnonzero(coded.stratum[hit] == stratum)
        times[:, own] = chance.multinomial(len(own), np.full(len(own), 1 / len(own)), size=DRAWS)
    misses = _misses(coded)
    drawn = times, misses.weight * chance.beta(misses.ones, misses.zeros, size=DRAWS)
    seen = np.ones((1, times.shape[1])), np.array([misses.weight * misses.share])
    found = []
    for value, every in zip(_recall_f1(coded, *seen), _recall_f1(coded, *drawn), strict=True):
        known = every[~np.isnan(every)]
        if np.isnan(value[0]) or not len(known):
            found.append(Estimate(float(value[0]), np.nan, np.nan))
            continue
        low, high = np.quantile(known, (0.025, 0.975))
        found.append(Estimate(float(value[0]), float(min(low, value[0])), float(max(high, value[0]))))
    return found[0], found[1]


def _recall_f1(coded: Coded, times: np.ndarray, missed: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    weight = times * coded.weight[coded.hit]
    right, hits = weight @ coded.code[coded.hit], weight.sum(axis=1)
    with np.errstate(invalid="ignore", divide="ignore"):
        return right / (right + missed), 2 * right / (hits + right + missed)


@frozen
class _Misses:
    """The units without a hit: their weight, the share that is of the category, and the parameters of its Beta."""

    weight: float
    share: float
    ones: float
    zeros: float

    @property
    def variance(self) -> float:
        """Of the weight of those that are of the category."""
        both = self.ones + self.zeros
        return self.weight**2 * self.ones * self.zeros / (both**2 * (both + 1))


def _misses(coded: Coded) -> _Misses:
    weight, code = coded.weight[~coded.hit], coded.code[~coded.hit]
    whole = float(weight.sum())
    if not whole:
        return _Misses(0.0, 0.0, 0.5, 0.5)
    share = float(weight @ code) / whole
    number = whole**2 / float(weight @ weight)
    return _Misses(whole, share, share * number + 0.5, (1 - share) * number + 0.5)


def rates_of(coded: Coded) -> Rates:
    """Sensitivity and specificity, weighted by strata, with their covariance.

    That of hits by linearisation within strata, that of misses by the distribution that `recall_and_f1` draws them
    from, so that sheets without a miss do not pass for certain.

    Parameters
    ----------
    coded : Coded

    Returns
    -------
    Rates
        NaN where no unit is of the category, or none is not.

    References
    ----------
    Cochran, W. G. (1977). Sampling techniques: ratios in stratified samples.
    """
    hit, misses = coded.hit, _misses(coded)
    weight, code, stratum = coded.weight[hit], coded.code[hit], coded.stratum[hit]
    missed = misses.weight * misses.share
    ones = float(weight @ code) + missed
    zeros = float(weight @ ~code) + misses.weight - missed
    if not ones or not zeros:
        return Rates(np.nan, np.nan, np.full((2, 2), np.nan))
    sensitivity, specificity = 1 - missed / ones, (misses.weight - missed) / zeros
    z = np.stack([weight * code * (1 - sensitivity) / ones, -weight * ~code * specificity / zeros])
    of_missed = np.array([-sensitivity / ones, -(1 - specificity) / zeros])
    covariance = misses.variance * np.outer(of_missed, of_missed)
    for one in np.unique(stratum):
        own = z[:, stratum == one]
        number = own.shape[1]
        if number > 1:
            apart = own - own.mean(axis=1, keepdims=True)
            covariance += number / (number - 1) * apart @ apart.T
    return Rates(sensitivity, specificity, covariance)


def corrected_share(share: float, rates: Rates) -> float:
    """The share of units of a category if it were always right, cut at 0 and 1.

    Parameters
    ----------
    share : float
        Of units that it counts.
    rates : Rates

    Returns
    -------
    float

    References
    ----------
    Rogan, W. J. & Gladen, B. (1978). Estimating prevalence from the results of a screening test.
    """
    return float(np.clip(_uncut(share, rates), 0.0, 1.0))


def _uncut(share: float, rates: Rates) -> float:
    return (share + rates.specificity - 1) / reach_of(rates)


def reach_of(rates: Rates) -> float:
    """How far a category tells units of it from others: 1 where it is always right, 0 where it guesses.

    Parameters
    ----------
    rates : Rates

    Returns
    -------
    float
        Youden's J: sensitivity + specificity - 1.

    References
    ----------
    Youden, W. J. (1950). Index for rating diagnostic tests.
    """
    return rates.sensitivity + rates.specificity - 1


def corrected_difference(
    shares: tuple[float, float],
    variances: tuple[float, float],
    rates: tuple[Rates, Rates],
    covariance: float = 0.0,
) -> Estimate:
    """The difference of two shares if the category were always right, with its interval by the delta method.

    Parameters
    ----------
    shares : tuple of float
        Of units that the category counts in two groups.
    variances : tuple of float
        Of these shares.
    rates : tuple of Rates
        Of each group; one object where both have the same, whose error then does not count twice.
    covariance : float
        Of the two shares, where the same texts have units of both groups.

    Returns
    -------
    Estimate
        Normal; each share is cut at 0 and 1, its variance is that of the share before.
    """
    gradients = [
        np.array([-_uncut(share, own), 1 - _uncut(share, own)]) / reach_of(own)
        for share, own in zip(shares, rates, strict=True)
    ]
    of_shares = sum(variance / reach_of(own) ** 2 for variance, own in zip(variances, rates, strict=True))
    of_shares -= 2 * covariance / (reach_of(rates[0]) * reach_of(rates[1]))
    if rates[0] is rates[1]:
        apart = gradients[0] - gradients[1]
        of_rates = float(apart @ rates[0].covariance @ apart)
    else:
        of_rates = sum(float(one @ own.covariance @ one) for one, own in zip(gradients, rates, strict=True))
    difference = corrected_share(shares[0], rates[0]) - corrected_share(shares[1], rates[1])
    half = Z95 * float(np.sqrt(max(of_shares + of_rates, 0.0)))
    return Estimate(difference, max(difference - half, -1.0), min(difference + half, 1.0))
