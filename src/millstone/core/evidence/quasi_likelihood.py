"""The ratio of two rates over sampling units: how much terms vary between them, and intervals that agree with p."""

from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np

from millstone.core.base.light_dataclass import frozen
from millstone.core.statistics.contingency import log_likelihood

BOUND95 = 3.841458820694124
"""The quantile of chi-squared with one degree of freedom that 95 % lie below."""
BOUND90 = 2.705543454095404
"""The quantile that 90 % lie below."""
FARTHEST = 64.0
"""An end of an interval of the log ratio farther out than this does not count as one."""

_LN2 = float(np.log(2))
# powers of 2, so that the ratios that are tried, and with them the ends, are the same numbers on every machine
_STEP, _FIRST_STEP, _NEAR_ENOUGH = 2**-4, 1.0, 2**-31
_SECANTS = 6
_AT_ONCE = 1 << 17


@dataclass(frozen=True, eq=False)
class Squares:
    """Sums over the units of a side, each weighted by ``1 / (1 - h)``, h the unit's share of all tokens.

    Attributes
    ----------
    counts : ndarray
        (terms,) occurrences in these units, without a weight.
    squares, products : ndarray
        (terms,) the sums of y^2 and of y n, y the occurrences in a unit and n its tokens.
    sizes : float
        The sum of n^2.
    """

    counts: np.ndarray
    squares: np.ndarray
    products: np.ndarray
    sizes: float

    def residual(self, rate: np.ndarray) -> np.ndarray:
        """(terms,) the weighted sum of ``(y - n rate)^2``."""
        found: np.ndarray = self.squares - 2 * rate * self.products + rate**2 * self.sizes
        return found

    def least_residual(self, first: np.ndarray, last: np.ndarray) -> np.ndarray:
        """(terms,) the least that `residual` is anywhere between two rates, of which the first is the smaller."""
        if not self.sizes:
            return np.zeros(len(first))
        return self.residual(np.clip(self.products / self.sizes, first, last))

    def at(self, which: np.ndarray) -> "Squares":
        """The sums of some terms."""
        return Squares(self.counts[which], self.squares[which], self.products[which], self.sizes)


@dataclass(frozen=True, eq=False)
class Crossed:
    """Sums over units that lie on both sides, weighted as those of each side.

    Attributes
    ----------
    target, reference : Squares
        What these units have on each side.
    counts : ndarray
        (terms,) the sum of the products of the occurrences on the two sides.
    target_sizes, reference_sizes : ndarray
        (terms,) the sums of occurrences in the target by tokens in the reference, and the reverse.
    sizes : float
        The sum of the products of the tokens.
    """

    target: Squares
    reference: Squares
    counts: np.ndarray
    target_sizes: np.ndarray
    reference_sizes: np.ndarray
    sizes: float

    def at(self, which: np.ndarray) -> "Crossed":
        """The sums of some terms."""
        return Crossed(
            self.target.at(which),
            self.reference.at(which),
            self.counts[which],
            self.target_sizes[which],
            self.reference_sizes[which],
            self.sizes,
        )

    @property
    def swapped(self) -> "Crossed":
        """The sums with the sides exchanged."""
        return Crossed(self.reference, self.target, self.counts, self.reference_sizes, self.target_sizes, self.sizes)

    def residual(self, r1: np.ndarray, r2: np.ndarray) -> np.ndarray:
        """(terms,) the weighted sum of the products of a unit's residuals on the two sides."""
        found: np.ndarray = self.counts - r2 * self.target_sizes - r1 * self.reference_sizes + r1 * r2 * self.sizes
        return found


@frozen
class UnitSums:
    """All that the test and its intervals need to know of the units of two sides.

    Attributes
    ----------
    a, b : ndarray
        (terms,) occurrences in target and reference.
    n1, n2 : int
        All tokens of each side, above 0.
    target, reference : Squares
        Of the units that lie on this side only.
    both : Crossed or None
        Of the units that lie on both sides; None where there are none.
    """

    a: np.ndarray
    b: np.ndarray
    n1: int
    n2: int
    target: Squares
    reference: Squares
    both: Crossed | None = None

    def at(self, which: np.ndarray) -> "UnitSums":
        """The sums of some terms."""
        both = None if self.both is None else self.both.at(which)
        return replace(
            self,
            a=self.a[which],
            b=self.b[which],
            target=self.target.at(which),
            reference=self.reference.at(which),
            both=both,
        )

    @property
    def swapped(self) -> "UnitSums":
        """The sums with the sides exchanged."""
        both = None if self.both is None else self.both.swapped
        return UnitSums(self.b, self.a, self.n2, self.n1, self.reference, self.target, both)


def dispersion(sums: UnitSums, log_rho: np.ndarray) -> np.ndarray:
    """How many times more terms vary between units than chance would, if the rates had a given ratio.

    Parameters
    ----------
    sums : UnitSums
    log_rho : ndarray
        (terms,) natural logarithm of the rate in the target by that in the reference; 0 gives the design effect.

    Returns
    -------
    ndarray
        (terms,) 1 or more: Pearson's statistic over units by its expectation, with the two rates that fit best under
        the ratio. Units on both sides enter by the difference of their residuals.

    References
    ----------
    Wedderburn, R. W. M. (1974). Quasi-likelihood functions. McCullagh, P. (1983). Quasi-likelihood functions. Rao,
    J. N. K. & Scott, A. J. (1992). A simple method for the analysis of clustered binary data.
    """
    return _dispersion_at(sums, log_rho, *_rates(sums, log_rho))


def _dispersion_at(sums: UnitSums, log_rho: np.ndarray, r1: np.ndarray, r2: np.ndarray) -> np.ndarray:
    """(terms,) the same from the rates that fit best."""
    found = sums.target.residual(r1) + sums.reference.residual(r2)
    expected = sums.target.counts + sums.reference.counts
    if sums.both is not None:
        weight = np.exp(-log_rho) * (sums.n2 / sums.n1)
        both = sums.both
        found = found + weight * both.target.residual(r1) + both.reference.residual(r2) / weight
        found = found - 2 * both.residual(r1, r2)
        expected = expected + weight * both.target.counts + both.reference.counts / weight
    # a term may be absent from a sample of units
    values: np.ndarray = np.maximum(np.divide(found, expected, out=np.ones_like(found), where=expected > 0), 1)
    return values


def _rates(sums: UnitSums, log_rho: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(terms,) each: the rates of both sides that fit best under a ratio."""
    odds = np.exp(-log_rho) * (sums.n2 / sums.n1)
    share = (sums.a + sums.b) / (1 + odds)
    return share / sums.n1, share * odds / sums.n2


def likelihood(sums: UnitSums, log_rho: np.ndarray) -> np.ndarray:
    """(terms,) twice the logarithm of the likelihood that is lost where the rates must have a ratio, 0 or more.

    At 0 this is `log_likelihood`, which keeps more digits where rates are nearly equal.

    Parameters
    ----------
    sums : UnitSums
        The sums of the terms over the units.
    log_rho : ndarray
        (terms,) the natural logarithm of the ratio.

    Returns
    -------
    ndarray
        (terms,) 0 or more.
    """
    return _likelihood_at(sums, log_rho, _of_best(sums))


def _likelihood_at(sums: UnitSums, log_rho: np.ndarray, best: np.ndarray) -> np.ndarray:
    """(terms,) the same, where the likelihood under the ratio that fits best is known."""
    log_odds = log_rho + np.log(sums.n1 / sums.n2)
    found: np.ndarray = 2 * np.maximum(best + (sums.a + sums.b) * np.log1p(np.exp(-log_odds)) + sums.b * log_odds, 0)
    return found


def _of_best(sums: UnitSums) -> np.ndarray:
    found: np.ndarray = _times_log(sums.a) + _times_log(sums.b) - _times_log(sums.a + sums.b)
    return found


def _times_log(x: np.ndarray) -> np.ndarray:
    found: np.ndarray = x * np.log(np.maximum(x, 1))
    return found


def ends(sums: UnitSums, bound: float = BOUND95) -> tuple[np.ndarray, np.ndarray]:
    """The interval of the log ratio that holds all ratios which the test does not reject.

    Parameters
    ----------
    sums : UnitSums
    bound : float
        The quantile of chi-squared with one degree of freedom.

    Returns
    -------
    low, high : ndarray
        (terms,) binary logarithms; NaN where an end does not exist, as the lower one of a term that is absent from
        the target, or lies farther out than 64.

    Notes
    -----
    With few units the statistic can cross the bound more than once. An end is the first crossing outward from the
    estimate or, where equal rates lie on that side and are not rejected, from equal rates: so p and interval agree.
    """
    high = np.full(len(sums.a), np.nan)
    low = high.copy()
    for found, one in ((high, sums), (low, sums.swapped)):
        exists = np.flatnonzero(one.b > 0)
        for at in range(0, len(exists), _AT_ONCE):
            which = exists[at : at + _AT_ONCE]
            found[which] = _upper_end(one.at(which), bound) / _LN2
    return -low, high


def _upper_end(sums: UnitSums, bound: float) -> np.ndarray:
    """(terms,) natural logarithms of the upper ends, NaN where there is none; all terms occur in the reference."""
    curve = _Curve(sums, _of_best(sums), bound)
    inside, outside = _bracket(curve, _start(sums, bound))
    found = np.flatnonzero(~np.isnan(outside))
    inside[found] = _crossing(curve.at(found), inside[found], outside[found])
    return np.where(np.isnan(outside), np.nan, inside)


def _start(sums: UnitSums, bound: float) -> np.ndarray:
    """(terms,) a ratio, on the grid of steps, from which the first crossing outward is the end."""
    with np.errstate(divide="ignore"):
        estimate = np.log(sums.a / sums.b) + np.log(sums.n2 / sums.n1)
        # so near the estimate the likelihood cannot reach the bound: its curvature is at most (a + b) / 2
        near = estimate + 2 * np.sqrt(bound / (sums.a + sums.b))
        # of a term that is absent it is known where it does
        alone = np.log(np.expm1(np.minimum(bound / (2 * sums.b), 700))) + np.log(sums.n2 / sums.n1)
    start = np.floor(np.maximum(np.where(sums.a > 0, near, alone), -FARTHEST * _LN2) / _STEP) * _STEP
    below = np.flatnonzero(estimate < 0)
    some = sums.at(below)
    statistic = log_likelihood(some.a, some.b, some.n1, some.n2) / dispersion(some, np.zeros(len(below)))
    kept = below[statistic <= bound]
    start[kept] = np.maximum(start[kept], 0)
    found: np.ndarray = start
    return found


class _Curve(NamedTuple):
    """The statistic of some terms, less the bound: where it is above 0 a ratio is rejected."""

    sums: UnitSums
    best: np.ndarray
    bound: float

    def at(self, which: np.ndarray) -> "_Curve":
        """The curve of some of the terms."""
        return _Curve(self.sums.at(which), self.best[which], self.bound)

    def excess(self, log_rho: np.ndarray) -> np.ndarray:
        """(terms,) the log-likelihood less the bound times the dispersion."""
        return _likelihood_at(self.sums, log_rho, self.best) - self.bound * dispersion(self.sums, log_rho)

    def stays_within(self, first: np.ndarray, last: np.ndarray) -> np.ndarray:
        """(terms,) bool: whether no ratio between two can be rejected: the likelihood only rises outward."""
        return _likelihood_at(self.sums, last, self.best) <= self.bound * _least_dispersion(self.sums, first, last)


def _crossing(curve: _Curve, inside: np.ndarray, outside: np.ndarray) -> np.ndarray:
    """(terms,) the last ratio of a fine grid that is not rejected, between one that is not and one that is."""
    low, high, was_beyond = inside, outside, np.full(len(inside), np.nan)
    at_low, at_high = curve.excess(low), curve.excess(high)
    for _ in range(_SECANTS):
        # where the end is one of the two to the last digit, their values may be equal
        apart, share = at_high - at_low, np.full(len(low), 0.5)
        share = np.clip(np.divide(-at_low, apart, out=share, where=apart > _NEAR_ENOUGH), 0, 1)
        middle = low + share * (high - low)
        at_middle = curve.excess(middle)
        beyond = at_middle > 0
        # an end that stays where it is a second time counts half, so that it moves, too (the Illinois rule)
        half = np.where(beyond == was_beyond, 0.5, 1)
        at_low = np.where(beyond, at_low * half, at_middle)
        at_high = np.where(beyond, at_middle, at_high * half)
        low, high, was_beyond = np.where(beyond, low, middle), np.where(beyond, middle, high), beyond
    found = np.clip(np.floor(middle / _NEAR_ENOUGH) * _NEAR_ENOUGH, inside, outside - _NEAR_ENOUGH)
    missed = np.flatnonzero((curve.excess(found) > 0) | (curve.excess(found + _NEAR_ENOUGH) <= 0))
    if len(missed):
        found[missed] = _halved(curve.at(missed), inside[missed], outside[missed])
    values: np.ndarray = found
    return values


def _halved(curve: _Curve, inside: np.ndarray, outside: np.ndarray) -> np.ndarray:
    """(terms,) the same by halving."""
    low, high = inside, outside
    while float((high - low).max()) > _NEAR_ENOUGH:
        middle = (low + high) / 2
        beyond = curve.excess(middle) > 0
        low, high = np.where(beyond, low, middle), np.where(beyond, middle, high)
    return low


def _bracket(curve: _Curve, start: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(terms,) each: a ratio that is not rejected, and one a short step farther out that is, NaN for none."""
    inside, outside = start.copy(), np.full(len(start), np.nan)
    left, some, step = np.arange(len(start)), curve, np.full(len(start), _FIRST_STEP)
    while len(left):
        here, there = inside[left], inside[left] + step
        is_long = step > _STEP
        safe, beyond = np.zeros(len(left), dtype=bool), np.zeros(len(left), dtype=bool)
        far, near = np.flatnonzero(is_long), np.flatnonzero(~is_long)
        if len(far):
            safe[far] = some.at(far).stays_within(here[far], there[far])
        if len(near):
            beyond[near] = some.at(near).excess(there[near]) > 0
        outside[left[beyond]] = there[beyond]
        moves = safe | (~is_long & ~beyond)
        inside[left[moves]] = there[moves]
        # after a long step a longer one is tried
        step = np.where(safe, 2 * step, np.where(is_long, step / 4, _STEP))
        go_on = np.flatnonzero(~beyond & (inside[left] < FARTHEST * _LN2))
        if len(go_on) < len(left):
            left, some, step = left[go_on], some.at(go_on), step[go_on]
    return inside, outside


def _least_dispersion(sums: UnitSums, first: np.ndarray, last: np.ndarray) -> np.ndarray:
    """(terms,) what `dispersion` is at least anywhere between two ratios, which has a least value in each sum."""
    if sums.both is not None:
        return np.ones(len(first))
    (low1, high2), (high1, low2) = _rates(sums, first), _rates(sums, last)
    least = sums.target.least_residual(low1, high1) + sums.reference.least_residual(low2, high2)
    found: np.ndarray = np.maximum(least / (sums.target.counts + sums.reference.counts), 1)
    return found
