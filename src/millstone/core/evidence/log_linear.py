"""Counts that rise or fall with a number: a rate that changes by the same factor per unit of it."""

import numpy as np

from millstone.core.base.light_dataclass import frozen

_NEAR_ENOUGH = 1e-13
_MOST_STEPS = 200


@frozen
class LogLinear:
    """Log-linear rates of T terms in P periods: mean counts are ``n exp(alpha + beta x)``.

    Attributes
    ----------
    alpha, beta : ndarray
        (terms,) float; NaN where the estimate is infinite, since all occurrences lie in the first or the last period.
    mean : ndarray
        (P, terms) float, the fitted counts; NaN likewise.
    dispersion : ndarray
        (terms,) float, 1 or more: how many times more counts vary around the fit than chance would have it.
    error : ndarray
        (terms,) float, the standard error of `beta`, with the dispersion.
    """

    alpha: np.ndarray
    beta: np.ndarray
    mean: np.ndarray
    dispersion: np.ndarray
    error: np.ndarray

    @property
    def t(self) -> np.ndarray:
        """(terms,) `beta` by its standard error, on P - 2 degrees of freedom."""
        found: np.ndarray = self.beta / self.error
        return found


def log_linear(counts: np.ndarray, sizes: np.ndarray, x: np.ndarray) -> LogLinear:
    """Fit log-linear rates by maximum likelihood, with a dispersion from Pearson's chi-squared.

    Parameters
    ----------
    counts : ndarray
        (P, terms) occurrences in each period.
    sizes : ndarray
        (P,) tokens of each, above 0.
    x : ndarray
        (P,) where each period lies; three or more, not all the same.

    Returns
    -------
    LogLinear

    References
    ----------
    McCullagh, P. & Nelder, J. A. (1989). Generalized linear models, chapters 6 and 9. Wedderburn, R. W. M. (1974).
    Quasi-likelihood functions, generalized linear models, and the Gauss-Newton method.

    Notes
    -----
    Given beta, alpha follows from the total; so one equation in beta is left, that the mean of x over the occurrences
    is its mean under the fit. The latter rises with beta, and Newton's steps are kept between bounds that close in.
    """
    y, n = np.asarray(counts, dtype=float), np.asarray(sizes, dtype=float)
    middle, scale = float((x.min() + x.max()) / 2), float(np.ptp(x)) / 2
    z = (np.asarray(x, dtype=float) - middle) / scale
    total = y.sum(axis=0)
    with np.errstate(invalid="ignore", divide="ignore"):
        wanted = (z @ y) / total
    beta = _slopes(n, z, wanted)
    share = _shares(n, z, beta)
    fitted = share * total
    with np.errstate(invalid="ignore", divide="ignore"):
        apart = np.where(fitted > 0, (y - fitted) ** 2 / fitted, np.where(np.isnan(fitted), np.nan, 0.0))
        dispersion = np.maximum(apart.sum(axis=0) / (len(n) - 2), 1)
        mean_z = (z @ fitted) / total
        information = (z**2) @ fitted - total * mean_z**2
        error = np.sqrt(dispersion / information) / scale
        # the total of the fit is that of the counts
        level = np.log(total) - _log_sum(n, z, beta)
    slope = beta / scale
    return LogLinear(level - slope * middle, slope, fitted, dispersion, error)


def _slopes(n: np.ndarray, z: np.ndarray, wanted: np.ndarray) -> np.ndarray:
    """(terms,) the slopes under which the mean of z over the occurrences is as wanted."""
    # at the edges the estimate is infinite
    possible = (wanted > z.min()) & (wanted < z.max())
    beta = np.where(possible, 0.0, np.nan)
    low, high = np.full(len(wanted), -np.inf), np.full(len(wanted), np.inf)
    open_ = np.flatnonzero(possible)
    for _ in range(_MOST_STEPS):
        if not len(open_):
            break
        share = _shares(n, z, beta[open_])
        mean = z @ share
        variance = (z**2) @ share - mean**2
        away = wanted[open_] - mean
        low[open_[away > 0]] = beta[open_[away > 0]]
        high[open_[away < 0]] = beta[open_[away < 0]]
        step = beta[open_] + away / np.maximum(variance, 1e-300)
        bounded = _between(step, low[open_], high[open_])
        done = np.abs(bounded - beta[open_]) <= _NEAR_ENOUGH * np.maximum(np.abs(beta[open_]), 1)
        beta[open_] = bounded
        open_ = open_[~done]
    return beta


def _shares(n: np.ndarray, z: np.ndarray, beta: np.ndarray) -> np.ndarray:
    """(P, terms) the share of each period in all occurrences under some slopes."""
    exponent = np.outer(z, beta) + np.log(n)[:, None]
    exponent -= np.where(np.isnan(exponent), np.nan, exponent.max(axis=0, initial=-np.inf))
    share = np.exp(exponent)
    found: np.ndarray = share / share.sum(axis=0)
    return found


def _log_sum(n: np.ndarray, z: np.ndarray, beta: np.ndarray) -> np.ndarray:
    """(terms,) the logarithm of the sum of ``n exp(beta z)``."""
    exponent = np.outer(z, beta) + np.log(n)[:, None]
    most = exponent.max(axis=0)
    found: np.ndarray = most + np.log(np.exp(exponent - most).sum(axis=0))
    return found


def _between(step: np.ndarray, low: np.ndarray, high: np.ndarray) -> np.ndarray:
    """Steps that stay between their bounds; one that would leave them goes half way to the bound, or twice as far."""
    beyond_high, beyond_low = step >= high, step <= low
    with np.errstate(invalid="ignore"):
        half = (low + high) / 2
    found = np.where((beyond_high | beyond_low) & np.isfinite(half), half, step)
    limit = 4.0 + 2 * np.where(np.isfinite(low), np.abs(low), 0) + 2 * np.where(np.isfinite(high), np.abs(high), 0)
    return np.clip(found, -limit, limit)


def lag_correlation(counts: np.ndarray, fitted: np.ndarray) -> np.ndarray:
    """The correlation of Pearson's residuals of neighbouring periods.

    Parameters
    ----------
    counts : ndarray
        (P, terms), in the order of the periods.
    fitted : ndarray
        (P, terms).

    Returns
    -------
    ndarray
        (terms,) -1 to 1; NaN where there are no residuals.
    """
    with np.errstate(invalid="ignore", divide="ignore"):
        residual = np.where(fitted > 0, (counts - fitted) / np.sqrt(fitted), 0.0)
        found: np.ndarray = (residual[:-1] * residual[1:]).sum(axis=0) / (residual**2).sum(axis=0)
    return np.where(np.isnan(fitted).any(axis=0), np.nan, found)


def kendall_tau(counts: np.ndarray, sizes: np.ndarray, x: np.ndarray) -> np.ndarray:
    """Kendall's tau-b of the rates of periods and where these lie; rates are compared exactly.

    Parameters
    ----------
    counts : ndarray
        (P, terms) int64.
    sizes : ndarray
        (P,) int64.
    x : ndarray
        (P,).

    Returns
    -------
    ndarray
        (terms,) -1 to 1; NaN where all rates are equal.

    References
    ----------
    Kendall, M. G. (1945). The treatment of ties in ranking problems.
    """
    same, of_x, of_rates = np.zeros(counts.shape[1]), 0, np.zeros(counts.shape[1])
    for first in range(len(x) - 1):
        later = slice(first + 1, None)
        order = np.sign(x[later] - x[first])
        rates = np.sign(counts[later] * sizes[first] - counts[first] * sizes[later][:, None])
        same += order @ rates
        of_x += int((order != 0).sum())
        of_rates += (rates != 0).sum(axis=0)
    with np.errstate(invalid="ignore", divide="ignore"):
        found: np.ndarray = same / np.sqrt(of_x * of_rates)
    return found
