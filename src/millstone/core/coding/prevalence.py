"""Shares of units, such as sentences, with their error over the clusters, such as texts, that these are of."""

import numpy as np

from millstone.core.base.light_dataclass import frozen
from millstone.core.coding.agreement import Estimate
from millstone.core.statistics.contingency import Z95


@frozen
class Share:
    """The share of a group's units in which something counts, and what each cluster adds to its error.

    Attributes
    ----------
    value : float
        0 to 1; NaN for a group without units.
    apart : ndarray
        (clusters,) how far each is from the share, by the units of the group: 0 for clusters without such units.
    clusters : int
        How many clusters have units of the group.
    """

    value: float
    apart: np.ndarray
    clusters: int

    @property
    def variance(self) -> float:
        """Of the share, over clusters; NaN for fewer than two."""
        return self.covariance(self)

    def covariance(self, other: "Share") -> float:
        """Of two shares, of which clusters may have units in both groups.

        Parameters
        ----------
        other : Share
            Of the same clusters.

        Returns
        -------
        float
            NaN where a group has fewer than two clusters.
        """
        least = min(self.clusters, other.clusters)
        return float(least / (least - 1) * (self.apart @ other.apart)) if least > 1 else float("nan")


def share_of(hit: np.ndarray, inside: np.ndarray, cluster: np.ndarray) -> Share:
    """The share of units in a group in which something counts.

    Parameters
    ----------
    hit, inside : ndarray
        (units,) bool: whether it counts in a unit, and whether the unit is of the group.
    cluster : ndarray
        (units,) int64 the number of the cluster of each, from 0, the same numbers for all groups.

    Returns
    -------
    Share

    References
    ----------
    Cochran, W. G. (1977). Sampling techniques: the ratio of the totals of clusters of unequal size.
    """
    number = int(cluster.max(initial=-1)) + 1
    size = np.bincount(cluster[inside], minlength=number).astype(float)
    ones = np.bincount(cluster[inside & hit], minlength=number)
    whole = size.sum()
    if not whole:
        return Share(float("nan"), np.zeros(number), 0)
    value = float(ones.sum() / whole)
    return Share(value, (ones - value * size) / whole, int((size > 0).sum()))


def difference_of(first: Share, second: Share) -> Estimate:
    """The difference of two shares with its normal interval over clusters.

    Parameters
    ----------
    first, second : Share
        Of the same clusters.

    Returns
    -------
    Estimate
        Ends are NaN where a group has fewer than two clusters.
    """
    variance = first.variance + second.variance - 2 * first.covariance(second)
    difference, half = first.value - second.value, Z95 * float(np.sqrt(max(variance, 0.0)))
    return Estimate(difference, difference - half, difference + half)
