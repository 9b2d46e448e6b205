"""Weighted log odds: the log odds ratio of each term with a Dirichlet prior."""

import numpy as np
import pandas as pd

from millstone.core.comparisons import Comparison, check_group_names, chosen_terms, comparisons
from millstone.core.counts import Counts
from millstone.core.measures import Z95, ranking
from millstone.core.notes import joined
from millstone.core.settings import LogOddsSettings

FEW_COUNTS = 10
UNIFORM = 0.5
Z_NOTED = 1.96


def log_odds(counts: Counts, settings: LogOddsSettings | None = None) -> pd.DataFrame:
    """The weighted log odds of each term, group by group.

    Parameters
    ----------
    counts : Counts
        Two groups or more. Every term kept in any group is the vocabulary, and the totals are
        sums over it.
    settings : LogOddsSettings, optional

    Returns
    -------
    DataFrame
        ``group, against, rank, term, freq, freq_against, log_odds, std_error, z, note``; ranked by z
        descending within a comparison.

    Raises
    ------
    DataError
        For one group only, a group without tokens, or a group to compare with that does not exist.
    """
    settings = settings or LogOddsSettings()
    check_group_names(counts.sizes)
    chosen = comparisons(counts.groups, settings.against, each_group=True)
    pool = counts.part(counts.groups).freq.astype(float)
    tables = [_compare(counts, one, pool, settings) for one in chosen]
    return pd.concat(tables, ignore_index=True)


def prior(pool: np.ndarray, settings: LogOddsSettings) -> np.ndarray:
    """(terms,) the prior alpha of each term; `pool` is (terms,), the occurrences in all groups."""
    if settings.prior == "pooled":
        return settings.prior_weight * pool
    return np.full(len(pool), settings.prior_count if settings.prior == "uniform" else 0.0)


def log_odds_ratio(y_i: np.ndarray, y_j: np.ndarray, alpha: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Log odds ratio, its standard error and z.

    Parameters
    ----------
    y_i, y_j : ndarray
        (terms,) occurrences on the two sides, over the whole vocabulary.
    alpha : ndarray
        (terms,) prior, 0 or more.

    Returns
    -------
    log_odds, std_error, z : ndarray
        (terms,) each; NaN where a count and its prior are both 0, and for a vocabulary of one term.

    References
    ----------
    Monroe, B. L., Colaresi, M. P. & Quinn, K. M. (2008). Fightin' words.

    Examples
    --------
    >>> d, error, z = log_odds_ratio(np.array([8, 2]), np.array([2, 8]), np.array([10, 10]))
    >>> d.round(3).tolist(), error.round(3).tolist(), z.round(3).tolist()
    ([0.811, -0.811], [0.373, 0.373], [2.176, -2.176])
    """
    in_i, in_j = y_i + alpha, y_j + alpha
    other_i, other_j = in_i.sum() - in_i, in_j.sum() - in_j
    defined = (in_i > 0) & (in_j > 0) & (other_i > 0) & (other_j > 0)
    with np.errstate(invalid="ignore", divide="ignore"):
        ratio = np.log(in_i / other_i) - np.log(in_j / other_j)
        error = np.sqrt(1 / in_i + 1 / in_j)
    ratio, error = np.where(defined, ratio, np.nan), np.where(defined, error, np.nan)
    return ratio, error, ratio / error


def _compare(counts: Counts, comparison: Comparison, pool: np.ndarray, settings: LogOddsSettings) -> pd.DataFrame:
    target, reference = counts.part((comparison.target,)), counts.part(comparison.against)
    y_i, y_j = target.freq, reference.freq
    ratio, error, z = log_odds_ratio(y_i, y_j, prior(pool, settings))
    plain, _, plain_z = log_odds_ratio(y_i, y_j, np.full(len(pool), UNIFORM))
    depends = (np.sign(ratio) != np.sign(plain)) | ((np.abs(z) > Z_NOTED) != (np.abs(plain_z) > Z_NOTED))
    few = y_i + y_j < FEW_COUNTS
    depends &= ~np.isnan(ratio)
    notes = joined([np.where(few, "few counts", ""), np.where(depends, "depends on prior", "")])
    wanted = np.flatnonzero(chosen_terms(target, reference, settings))
    wanted = wanted[ranking(z[wanted], np.zeros(len(wanted)))]
    return pd.DataFrame(
        {
            "group": comparison.target,
            "against": comparison.reference,
            "rank": np.arange(1, len(wanted) + 1),
            "term": counts.terms[wanted],
            "freq": y_i[wanted],
            "freq_against": y_j[wanted],
            "log_odds": ratio[wanted],
            "std_error": error[wanted],
            "z": z[wanted],
            "note": notes[wanted],
        }
    )


def interval(ratio: np.ndarray, error: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The 95 % interval of a log odds ratio; for drawing."""
    return ratio - Z95 * error, ratio + Z95 * error
