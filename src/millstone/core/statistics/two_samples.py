"""The tests of two samples that stand behind every comparison by documents, from what sums give of them."""

from typing import TYPE_CHECKING

import numpy as np

from millstone.core.statistics.functions import erfc

if TYPE_CHECKING:
    from numpy.typing import ArrayLike

_NO_VARIANCE = 1e-12


def welch(
    difference: "ArrayLike", error_a: "ArrayLike", error_b: "ArrayLike", n_a: int, n_b: int
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Welch's t test of each difference of two means.

    Parameters
    ----------
    difference : array_like
        (tests,) mean of a - mean of b.
    error_a, error_b : array_like
        (tests,) the squared standard error of each mean; NaN for a sample of one.
    n_a, n_b : int
        Observations.

    Returns
    -------
    t, df, p : ndarray
        (tests,) each, p two-sided; NaN where a sample has one observation, or neither varies.

    References
    ----------
    Welch, B. L. (1947). The generalization of Student's problem when several different population
    variances are involved.
    """
    from scipy import special

    a, b = np.asarray(error_a, dtype=float), np.asarray(error_b, dtype=float)
    if min(n_a, n_b) < 2:
        nothing = np.full(a.shape, np.nan)
        return nothing, nothing, nothing
    error = np.where(a + b > 0, a + b, np.nan)
    with np.errstate(invalid="ignore", divide="ignore"):
        t = np.asarray(difference) / np.sqrt(error)
        df = error**2 / (a**2 / (n_a - 1) + b**2 / (n_b - 1))
    return t, df, 2 * special.stdtr(df, -np.abs(t))


def mann_whitney(u: "ArrayLike", ties: "ArrayLike", n_a: int, n_b: int) -> np.ndarray:
    """Two-sided p of each Mann-Whitney U, by the normal approximation with tie and continuity correction.

    Parameters
    ----------
    u : array_like
        (tests,) the rank sum of a, less its smallest possible value.
    ties : array_like
        (tests,) the sum of t^3 - t over the sizes t of the ties.
    n_a, n_b : int
        Observations.

    Returns
    -------
    ndarray
        (tests,); NaN where all observations are equal.

    References
    ----------
    Mann, H. B. & Whitney, D. R. (1947). On a test of whether one of two random variables is stochastically
    larger than the other.
    """
    n = n_a + n_b
    variance = n_a * n_b / 12 * ((n + 1) - np.asarray(ties) / (n * max(n - 1, 1)))
    z = (np.abs(np.asarray(u) - n_a * n_b / 2) - 0.5) / np.sqrt(np.where(variance > _NO_VARIANCE, variance, np.nan))
    return np.minimum(erfc(z / np.sqrt(2)), 1)
