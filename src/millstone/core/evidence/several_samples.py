"""Tests of the values of several groups at once."""

from collections.abc import Sequence

import numpy as np
from scipy import special, stats

from millstone.core.evidence.samples import Sample


def welch_anova(samples: Sequence[Sample]) -> tuple[float, float, float, float]:
    """F, its two degrees of freedom and p of Welch's analysis of variance; NaN where a group does not vary.

    Parameters
    ----------
    samples : sequence of Sample
        The values of each group.

    Returns
    -------
    tuple[float, float, float, float]

    References
    ----------
    Welch, B. L. (1951). On the comparison of several mean values.
    """
    usable = [sample for sample in samples if sample.n > 1 and sample.variance > 0]
    k = len(usable)
    if k < 2 or k < sum(sample.n > 1 for sample in samples):
        return np.nan, np.nan, np.nan, np.nan
    weight = np.array([1 / sample.squared_error for sample in usable])
    mean = np.array([sample.mean for sample in usable])
    freedom = np.array([sample.n - 1 for sample in usable])
    total = weight.sum()
    grand = weight @ mean / total
    spread = float(((1 - weight / total) ** 2 / freedom).sum())
    f = (weight @ (mean - grand) ** 2 / (k - 1)) / (1 + 2 * (k - 2) / (k**2 - 1) * spread)
    df2 = (k**2 - 1) / (3 * spread)
    return float(f), float(k - 1), float(df2), float(special.fdtrc(k - 1, df2, f))


def kruskal_wallis(samples: Sequence[np.ndarray]) -> tuple[float, float]:
    """H, corrected for ties, and p by its chi-squared approximation; NaN where all values are equal.

    Parameters
    ----------
    samples : sequence of ndarray
        The values of each group.

    Returns
    -------
    tuple[float, float]

    References
    ----------
    Kruskal, W. H. & Wallis, W. A. (1952). Use of ranks in one-criterion variance analysis.
    """
    if len(samples) < 2 or np.ptp(np.concatenate(samples)) == 0:
        return np.nan, np.nan
    found = stats.kruskal(*samples)
    return float(found.statistic), float(found.pvalue)
