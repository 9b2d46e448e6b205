"""Intervals of measures of variety over the sampling units of a group."""

from collections.abc import Mapping

import numpy as np
from scipy import special

from millstone.analyses.profile.ordered_terms import Together
from millstone.core.statistics.richness import both_passes, hypergeometric_diversity, window_types

LEAST_UNITS = 8
"""With fewer units no interval is given."""
_BLOCKS = 50


def intervals(one: Together, unit: np.ndarray, wanted: Mapping[str, float]) -> dict[str, tuple[float, float]]:
    """The 95 % intervals of some measures of texts taken together.

    Parameters
    ----------
    one : Together
        N kept tokens.
    unit : ndarray
        (N,) the number of the sampling unit of each kept token.
    wanted : mapping
        ``mattr``, ``mtld`` or ``hdd`` -> its value.

    Returns
    -------
    dict
        Measure -> its interval; NaN where the value is, or where there are fewer than 8 units.

    References
    ----------
    Cochran, W. G. (1977). Sampling techniques, chapter 6 (ratios of what clusters have). Shao, J. & Tu, D. (1995).
    The jackknife and bootstrap, chapter 2 (groups left out in turn).

    Notes
    -----
    mattr is the types of all windows by their tokens, mtld tokens by factors: ratios of sums over units, a window
    counted where it begins and a factor where it ends. hdd is computed anew without each of up to 50 blocks of units.
    """
    different, unit = np.unique(unit, return_inverse=True)
    units = len(different)
    nothing = (np.nan, np.nan)
    if units < LEAST_UNITS:
        return dict.fromkeys(wanted, nothing)
    found = {}
    for name, value in wanted.items():
        error, freedom = _ERRORS[name](one, unit, units) if not np.isnan(value) else (np.nan, 1)
        half = float(special.stdtrit(freedom, 0.975)) * error
        if np.isnan(half):
            found[name] = nothing
        elif name == "mtld":
            # it has no upper limit, and is skewed: the interval is that of its logarithm
            found[name] = value * float(np.exp(-half / value)), value * float(np.exp(half / value))
        else:
            found[name] = max(value - half, 0.0), min(value + half, 1.0)
    return found


def _of_windows(one: Together, unit: np.ndarray, units: int) -> tuple[float, float]:
    types = window_types(one.before, one.settings.window)
    at = unit[: len(types)]
    tokens = one.settings.window * np.bincount(at, minlength=units)
    above = np.bincount(at, types, units)
    return _of_ratio((above - above.sum() / tokens.sum() * tokens) / tokens.sum(), tokens)


def _of_factors(one: Together, unit: np.ndarray, units: int) -> tuple[float, float]:
    tokens = np.bincount(unit, minlength=units)
    away = np.zeros(units)
    for factors, at in zip(both_passes(one.before), (unit, unit[::-1]), strict=True):
        own = np.bincount(at[factors.ends - 1], minlength=units).astype(float)
        own[at[-1]] += factors.rest
        away += (tokens - len(unit) / factors.number * own) / factors.number / 2
    return _of_ratio(away, tokens)


def _of_ratio(away: np.ndarray, sizes: np.ndarray) -> tuple[float, float]:
    """The standard error of a ratio of sums over units, and its degrees of freedom; few large units have few."""
    share = sizes / sizes.sum()
    return float(np.sqrt((away**2 / (1 - share)).sum())), 1 / float((share**2).sum()) - 1


def _of_samples(one: Together, unit: np.ndarray, units: int) -> tuple[float, float]:
    number = min(units, _BLOCKS)
    # the largest units go to different blocks, so that these are about as large
    block = np.empty(units, dtype=np.int64)
    block[np.argsort(-np.bincount(unit), kind="stable")] = np.arange(units) % number
    of_token = block[unit]
    terms, term = np.unique(one.terms, return_inverse=True)
    every = np.bincount(term, minlength=len(terms))
    value, without = hypergeometric_diversity(every), []
    for left_out in range(number):
        freq = every - np.bincount(term[of_token == left_out], minlength=len(terms))
        without.append(hypergeometric_diversity(freq[freq > 0]))
    share = np.bincount(of_token) / len(of_token)
    # without a block the value moves by its share of the rest
    away = (value - np.array(without)) * (1 - share)
    return _of_ratio(away, share)


_ERRORS = {"mattr": _of_windows, "mtld": _of_factors, "hdd": _of_samples}
MEASURES_WITH_INTERVAL = tuple(_ERRORS)
