"""The power of a comparison: the smallest ratio of two rates that it would find."""

import numpy as np

Z80 = 1.959963984540054 + 0.8416212335729143
"""Quantiles of the normal distribution: the one that 97.5 %, and the one that 80 % lie below, added up."""

_STEPS = 100


def smallest_ratio(
    counts: np.ndarray, n1: int, n2: int, design_effect: np.ndarray | float = 1.0, z: float = Z80
) -> np.ndarray:
    """The smallest ratio above 1 of the rate in the target by the other that a test over sampling units finds.

    It is found with a probability of 0.8 at the level 0.05, if `z` is not given: the log-likelihood of the counts
    that one expects with such a ratio is ``z ** 2`` times the design effect.

    Parameters
    ----------
    counts : ndarray
        (terms,) occurrences on both sides together.
    n1, n2 : int
        Tokens of target and reference, above 0.
    design_effect : ndarray or float
        (terms,) how many times more counts vary between units than chance would have it.
    z : float
        The quantile that belongs to the level, plus the one that belongs to the power.

    Returns
    -------
    ndarray
        (terms,) float; NaN where no ratio can be found, however large.

    References
    ----------
    Wedderburn, R. W. M. (1974). Quasi-likelihood functions, generalized linear models, and the Gauss-Newton method.
    Self, S. G. & Mauritsen, R. H. (1988). Power/sample size calculations for generalized linear models.
    """
    share = n1 / (n1 + n2)
    with np.errstate(divide="ignore", invalid="ignore"):
        wanted = np.asarray(design_effect * z**2 / (2 * counts), dtype=float)
        # the target's share of all occurrences, from what it is with equal rates to all of them
        low, high = np.full(wanted.shape, share), np.ones(wanted.shape)
        for _ in range(_STEPS):
            middle = (low + high) / 2
            beyond = _information(middle, share) >= wanted
            low, high = np.where(beyond, low, middle), np.where(beyond, middle, high)
        ratio: np.ndarray = high / (1 - high) * (n2 / n1)
    return np.where(wanted < -np.log(share), ratio, np.nan)


def _information(seen: np.ndarray, share: float) -> np.ndarray:
    """Kullback and Leibler's (1951) divergence of two shares, half of the log-likelihood per occurrence."""
    rest = 1 - seen
    against = np.where(rest > 0, rest * np.log(np.where(rest > 0, rest, 1) / (1 - share)), 0)
    found: np.ndarray = seen * np.log(seen / share) + against
    return found
