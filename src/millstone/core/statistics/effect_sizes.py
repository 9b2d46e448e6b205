"""Sizes of the difference between two corpora, for all terms at once.

Throughout, `a` and `b` are (terms,) occurrences in target and reference, `n1` and `n2` the
numbers of all tokens there, above 0; every result is (terms,) float, NaN where it is undefined.
"""

import numpy as np

from millstone.core.statistics.contingency import Z95


def log_ratio(
    a: np.ndarray, b: np.ndarray, n1: float, n2: float, zeros: str = "add", z: float = Z95
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """``log2`` of the ratio of the two rates, with the limits of its interval.

    Parameters
    ----------
    zeros : {"add", "smooth", "skip"}
        0.5 in place of a zero; 0.5 added to each count and 1 to each size; or empty.
    z : float
        The normal quantile of the interval, by default that of 95 %.

    Returns
    -------
    log_ratio, low, high : ndarray
        (terms,) each.

    References
    ----------
    Hardie, A. (2014). Log ratio: an informal introduction. Interval: Katz, D. et al. (1978).
    Obtaining confidence intervals for the risk ratio in cohort studies.

    Examples
    --------
    >>> [limit.round(3).tolist() for limit in log_ratio(np.array([12, 4]), np.array([3, 0]), 1000, 1000)]
    [[2.0, 3.0], [0.179, -1.24], [3.821, 7.24]]
    """
    a, b, n1, n2 = _without_zeros(a, b, n1, n2, zeros)
    with np.errstate(invalid="ignore", divide="ignore"):
        centre = np.log2(a / n1) - np.log2(b / n2)
        variance = np.maximum(1 / a - 1 / n1, 0) + np.maximum(1 / b - 1 / n2, 0)
        half = z * np.sqrt(variance) / np.log(2)
    return centre, centre - half, centre + half


def relative_risk(a: np.ndarray, b: np.ndarray, n1: float, n2: float, zeros: str = "add") -> np.ndarray:
    """The ratio of the two rates, ``r1 / r2``, from 0; `zeros` as in `log_ratio`, but a zero of a stays.

    Parameters
    ----------
    a : ndarray
        (terms,) occurrences in the target.
    b : ndarray
        (terms,) occurrences in the reference.
    n1 : float
        Tokens of the target, above 0.
    n2 : float
        Tokens of the reference, above 0.
    zeros : str, optional
        What stands in for a frequency of 0.

    Returns
    -------
    ndarray
        (terms,) float.

    Examples
    --------
    >>> relative_risk(np.array([12, 4, 0]), np.array([3, 0, 2]), 1000, 1000).tolist()
    [4.0, 8.0, 0.0]
    """
    a, b, n1, n2 = _without_zeros(a, b, n1, n2, zeros, keep_first=True)
    with np.errstate(invalid="ignore", divide="ignore"):
        return a * n2 / (b * n1)


def percent_diff(a: np.ndarray, b: np.ndarray, n1: float, n2: float, zeros: str = "add") -> np.ndarray:
    """The difference of the rates in percent of the reference's, ``100 (r1 - r2) / r2``, from -100.

    Parameters
    ----------
    a : ndarray
        (terms,) occurrences in the target.
    b : ndarray
        (terms,) occurrences in the reference.
    n1 : float
        Tokens of the target, above 0.
    n2 : float
        Tokens of the reference, above 0.
    zeros : str, optional
        What stands in for a frequency of 0.

    Returns
    -------
    ndarray
        (terms,) float.

    References
    ----------
    Gabrielatos, C. & Marchi, A. (2011). Keyness: matching metrics to definitions.

    Examples
    --------
    >>> percent_diff(np.array([12, 0]), np.array([3, 2]), 1000, 1000).tolist()
    [300.0, -100.0]
    """
    a, b, n1, n2 = _without_zeros(a, b, n1, n2, zeros, keep_first=True)
    with np.errstate(invalid="ignore", divide="ignore"):
        return 100 * (a * n2 - b * n1) / (b * n1)


def odds_ratio(a: np.ndarray, b: np.ndarray, n1: float, n2: float, zeros: str = "add") -> np.ndarray:
    """``(a / (N1 - a)) / (b / (N2 - b))``, from 0; 0.5 in place of a zero of b, N1 - a or N2 - b.

    Parameters
    ----------
    a : ndarray
        (terms,) occurrences in the target.
    b : ndarray
        (terms,) occurrences in the reference.
    n1 : float
        Tokens of the target, above 0.
    n2 : float
        Tokens of the reference, above 0.
    zeros : str, optional
        What stands in for a frequency of 0.

    Returns
    -------
    ndarray
        (terms,) float.

    Examples
    --------
    >>> odds_ratio(np.array([12, 0]), np.array([3, 2]), 112, 103).round(3).tolist()
    [4.0, 0.0]
    """
    others1, others2 = n1 - np.asarray(a, dtype=float), n2 - np.asarray(b, dtype=float)
    a, b, n1, n2 = _without_zeros(a, b, n1, n2, zeros, keep_first=True)
    if zeros == "smooth":
        others1, others2 = n1 - a, n2 - b
    elif zeros == "add":
        others1, others2 = (np.where(others == 0, 0.5, others) for others in (others1, others2))
    with np.errstate(invalid="ignore", divide="ignore"):
        found = (a / others1) / (b / others2)
    return np.where(np.isfinite(found), found, np.nan)


def diff_coefficient(a: np.ndarray, b: np.ndarray, n1: float, n2: float) -> np.ndarray:
    """``(r1 - r2) / (r1 + r2)``, -1 to 1, from the counts as they are.

    Parameters
    ----------
    a : ndarray
        (terms,) occurrences in the target.
    b : ndarray
        (terms,) occurrences in the reference.
    n1 : float
        Tokens of the target, above 0.
    n2 : float
        Tokens of the reference, above 0.

    Returns
    -------
    ndarray
        (terms,) float.

    References
    ----------
    Hofland, K. & Johansson, S. (1982). Word frequencies in British and American English.

    Examples
    --------
    >>> diff_coefficient(np.array([12, 0]), np.array([4, 5]), 1000, 1000).tolist()
    [0.5, -1.0]
    """
    a, b = np.asarray(a, dtype=float) * n2, np.asarray(b, dtype=float) * n1
    with np.errstate(invalid="ignore", divide="ignore"):
        return (a - b) / (a + b)


def _without_zeros(
    a: np.ndarray, b: np.ndarray, n1: float, n2: float, zeros: str, keep_first: bool = False
) -> tuple[np.ndarray, np.ndarray, float, float]:
    a, b = np.asarray(a, dtype=float), np.asarray(b, dtype=float)
    if zeros == "smooth":
        return a + 0.5, b + 0.5, n1 + 1, n2 + 1
    if zeros == "skip":
        # a ratio with a zero above is 0, which is no less defined than others
        undefined = b == 0 if keep_first else (a == 0) | (b == 0)
        return np.where(undefined, np.nan, a), np.where(undefined, np.nan, b), n1, n2
    return a if keep_first else np.where(a == 0, 0.5, a), np.where(b == 0, 0.5, b), n1, n2
