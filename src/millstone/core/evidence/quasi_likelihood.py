"""The ratio of two rates over sampling units: how much terms vary between them, and intervals that agree with p."""

from dataclasses import dataclass, replace

import numpy as np

from millstone.core.frozen import frozen
from millstone.core.statistics.measures import log_likelihood

BOUND95 = 3.841458820694124
"""The quantile of chi-squared with one degree of freedom that 95 % lie below."""
BOUND90 = 2.705543454095404
"""That of 90 %."""
FARTHEST = 64.0
"""An end of an interval of the log ratio farther out than this does not count as one."""

_LN2 = float(np.log(2))
# powers of 2, so that the ratios that are tried, and with them the ends, are the same numbers on every machine
_STEP, _FIRST_STEP, _NEAR_ENOUGH = 2**-4, 1.0, 2**-31
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
        return self.squares - 2 * rate * self.products + rate**2 * self.sizes

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
        return self.counts - r2 * self.target_sizes - r1 * self.reference_sizes + r1 * r2 * self.sizes


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
    r1, r2 = _rates(sums, log_rho)
    found = sums.target.residual(r1) + sums.reference.residual(r2)
    expected = sums.target.counts + sums.reference.counts
    if sums.both is not None:
        weight = np.exp(-log_rho) * (sums.n2 / sums.n1)
        both = sums.both
        found = found + weight * both.target.residual(r1) + both.reference.residual(r2) / weight
        found = found - 2 * both.residual(r1, r2)
        expected = expected + weight * both.target.counts + both.reference.counts / weight
    # a term may be absent from a sample of units
    return np.maximum(np.divide(found, expected, out=np.ones_like(found), where=expected > 0), 1)


def _rates(sums: UnitSums, log_rho: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(terms,) each: the rates of both sides that fit best under a ratio."""
    both = sums.a + sums.b
    share = _share_of_target(sums, log_rho)
    return both * share / sums.n1, both * (1 - share) / sums.n2


def _share_of_target(sums: UnitSums, log_rho: np.ndarray) -> np.ndarray:
    """(terms,) the share of all occurrences that is expected in the target under a ratio."""
    return 1 / (1 + np.exp(-log_rho) * (sums.n2 / sums.n1))


def likelihood(sums: UnitSums, log_rho: np.ndarray) -> np.ndarray:
    """(terms,) twice the logarithm of the likelihood that is lost where the rates must have a ratio, 0 or more.

    At 0 this is `log_likelihood`, which keeps more digits where rates are nearly equal.
    """
    a, b = sums.a, sums.b
    log_odds = log_rho + np.log(sums.n1 / sums.n2)
    of_best = _times_log(a) + _times_log(b) - _times_log(a + b)
    return 2 * np.maximum(of_best + (a + b) * np.log1p(np.exp(-log_odds)) + b * log_odds, 0)


def _times_log(x: np.ndarray) -> np.ndarray:
    return x * np.log(np.maximum(x, 1))


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
    with np.errstate(divide="ignore"):
        start = np.log(sums.a / sums.b) + np.log(sums.n2 / sums.n1)
    start = np.floor(np.maximum(start, -FARTHEST * _LN2) / _STEP) * _STEP
    below = np.flatnonzero(start < 0)
    some = sums.at(below)
    statistic = log_likelihood(some.a, some.b, some.n1, some.n2) / dispersion(some, np.zeros(len(below)))
    start[below[statistic <= bound]] = 0
    inside, outside = _bracket(sums, bound, start)
    found = np.flatnonzero(~np.isnan(outside))
    low, high, some = inside[found], outside[found], sums.at(found)
    while len(low) and float((high - low).max()) > _NEAR_ENOUGH:
        middle = (low + high) / 2
        beyond = _is_rejected(some, middle, bound)
        low, high = np.where(beyond, low, middle), np.where(beyond, middle, high)
    inside[found] = low
    return np.where(np.isnan(outside), np.nan, inside)


def _is_rejected(sums: UnitSums, log_rho: np.ndarray, bound: float) -> np.ndarray:
    return likelihood(sums, log_rho) > bound * dispersion(sums, log_rho)


def _bracket(sums: UnitSums, bound: float, start: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(terms,) each: a ratio that is not rejected, and one a short step farther out that is, NaN for none.

    Long steps are taken where the likelihood cannot reach the bound on the way: it only rises, and the dispersion
    has a least value between two ratios that can be computed.
    """
    inside, outside = start.copy(), np.full(len(start), np.nan)
    step = np.full(len(start), _FIRST_STEP)
    left = np.arange(len(start))
    while len(left):
        some, here, size = sums.at(left), inside[left], step[left]
        there = here + size
        is_long = size > _STEP
        safe = np.zeros(len(left), dtype=bool)
        if is_long.any():
            far = np.flatnonzero(is_long)
            few = some.at(far)
            safe[far] = likelihood(few, there[far]) <= bound * _least_dispersion(few, here[far], there[far])
        short = np.flatnonzero(~is_long)
        beyond = np.zeros(len(left), dtype=bool)
        beyond[short] = _is_rejected(some.at(short), there[short], bound)
        outside[left[beyond]] = there[beyond]
        moves = safe | (~is_long & ~beyond)
        inside[left[moves]] = there[moves]
        # after a long step a longer one is tried, after a short one a long one now and then
        step[left] = np.where(safe, 2 * size, np.where(is_long, size / 4, _STEP))
        left = left[~beyond & (inside[left] < FARTHEST * _LN2)]
    return inside, outside


def _least_dispersion(sums: UnitSums, first: np.ndarray, last: np.ndarray) -> np.ndarray:
    """(terms,) what `dispersion` is at least anywhere between two ratios."""
    if sums.both is not None:
        return np.ones(len(first))
    (low1, high2), (high1, low2) = _rates(sums, first), _rates(sums, last)
    least = sums.target.least_residual(low1, high1) + sums.reference.least_residual(low2, high2)
    return np.maximum(least / (sums.target.counts + sums.reference.counts), 1)
