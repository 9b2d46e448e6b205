"""Rates of a category that is not always right: how right it is, and what the rates would be if it were."""

import numpy as np

from millstone.core.base.light_dataclass import frozen
from millstone.core.coding.agreement import DRAWS, Estimate

LEAST = 0.1
"""Where sensitivity and specificity add up to less than 1 and this, nothing can be corrected."""
_Z = 1.959963984540054


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
    share = float((weight * coded.code[coded.hit]).sum() / weight.sum())
    number = float(weight.sum() ** 2 / (weight**2).sum())
    middle = (share + _Z**2 / (2 * number)) / (1 + _Z**2 / number)
    half = _Z / (1 + _Z**2 / number) * np.sqrt(share * (1 - share) / number + _Z**2 / (4 * number**2))
    return Estimate(share, max(float(middle - half), 0.0), min(float(middle + half), 1.0))


def recall_and_f1(coded: Coded, seed: int) -> tuple[Estimate, Estimate]:
    """Recall and F1, weighted by strata, with intervals by drawing units anew within each stratum.

    Parameters
    ----------
    coded : Coded
    seed : int

    Returns
    -------
    recall, f1 : Estimate
        NaN where no unit is of the category.
    """
    chance = np.random.default_rng(seed)
    times = np.zeros((DRAWS, len(coded.hit)))
    for stratum in np.unique(coded.stratum):
        own = np.flatnonzero(coded.stratum == stratum)
        times[:, own] = chance.multinomial(len(own), np.full(len(own), 1 / len(own)), size=DRAWS)
    drawn, seen = _recall_f1(coded, times), _recall_f1(coded, np.ones((1, len(coded.hit))))
    found = []
    for value, every in zip(seen, drawn, strict=True):
        known = every[~np.isnan(every)]
        ends = np.quantile(known, (0.025, 0.975)) if len(known) and not np.isnan(value[0]) else (np.nan, np.nan)
        found.append(Estimate(float(value[0]), float(ends[0]), float(ends[1])))
    return found[0], found[1]


def _recall_f1(coded: Coded, times: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    weight = times * coded.weight
    right, hits, is_one = weight @ (coded.hit & coded.code), weight @ coded.hit, weight @ coded.code
    with np.errstate(invalid="ignore", divide="ignore"):
        return right / is_one, 2 * right / (hits + is_one)


def rates_of(coded: Coded) -> Rates:
    """Sensitivity and specificity, weighted by strata, with their covariance by linearisation within strata.

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
    pairs = ((coded.hit & coded.code, coded.code), (~coded.hit & ~coded.code, ~coded.code))
    values, residuals = [], []
    for right, whole in pairs:
        total = float((coded.weight * whole).sum())
        share = float((coded.weight * right).sum()) / total if total else np.nan
        values.append(share)
        residuals.append(coded.weight * (right - share * whole) / total if total else np.full(len(right), np.nan))
    z = np.stack(residuals)
    covariance = np.zeros((2, 2))
    for stratum in np.unique(coded.stratum):
        own = z[:, coded.stratum == stratum]
        number = own.shape[1]
        if number > 1:
            apart = own - own.mean(axis=1, keepdims=True)
            covariance += number / (number - 1) * apart @ apart.T
    return Rates(values[0], values[1], covariance)


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
    return (share + rates.specificity - 1) / _reach(rates)


def _reach(rates: Rates) -> float:
    return rates.sensitivity + rates.specificity - 1


def corrected_difference(
    shares: tuple[float, float], variances: tuple[float, float], rates: tuple[Rates, Rates]
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

    Returns
    -------
    Estimate
        Normal; each share is cut at 0 and 1, its variance is that of the share before.
    """
    gradients = [
        np.array([-_uncut(share, own), 1 - _uncut(share, own)]) / _reach(own)
        for share, own in zip(shares, rates, strict=True)
    ]
    of_shares = sum(variance / _reach(own) ** 2 for variance, own in zip(variances, rates, strict=True))
    if rates[0] is rates[1]:
        apart = gradients[0] - gradients[1]
        of_rates = float(apart @ rates[0].covariance @ apart)
    else:
        of_rates = sum(float(one @ own.covariance @ one) for one, own in zip(gradients, rates, strict=True))
    difference = corrected_share(shares[0], rates[0]) - corrected_share(shares[1], rates[1])
    half = _Z * float(np.sqrt(of_shares + of_rates))
    return Estimate(difference, max(difference - half, -1.0), min(difference + half, 1.0))
