"""How strongly two terms occur together in the same units: their measures, by name."""

from collections.abc import Callable, Mapping

import numpy as np

Measure = Callable[[np.ndarray, np.ndarray, np.ndarray, float], np.ndarray]
"""From the units with each of two terms and those with both, (pairs,) each, and the number of units."""


def dice(a: np.ndarray, b: np.ndarray, both: np.ndarray, units: float) -> np.ndarray:
    """2 both / (a + b), 0 to 1.

    Parameters
    ----------
    a : ndarray
        (pairs,) units with the first term.
    b : ndarray
        (pairs,) units with the second term.
    both : ndarray
        (pairs,) units with both.
    units : float
        Units in all.

    Returns
    -------
    ndarray
        (pairs,) float.

    References
    ----------
    Dice, L. R. (1945). Measures of the amount of ecologic association between species.

    Examples
    --------
    >>> dice(np.array([4.0]), np.array([4.0]), np.array([2.0]), 10).tolist()
    [0.5]
    """
    found: np.ndarray = 2 * both / (a + b)
    return found


def jaccard(a: np.ndarray, b: np.ndarray, both: np.ndarray, units: float) -> np.ndarray:
    """Both / (a + b - both), 0 to 1.

    Parameters
    ----------
    a : ndarray
        (pairs,) units with the first term.
    b : ndarray
        (pairs,) units with the second term.
    both : ndarray
        (pairs,) units with both.
    units : float
        Units in all.

    Returns
    -------
    ndarray
        (pairs,) float.

    References
    ----------
    Jaccard, P. (1912). The distribution of the flora in the alpine zone.

    Examples
    --------
    >>> jaccard(np.array([4.0]), np.array([3.0]), np.array([2.0]), 10).tolist()
    [0.4]
    """
    found: np.ndarray = both / (a + b - both)
    return found


def cosine(a: np.ndarray, b: np.ndarray, both: np.ndarray, units: float) -> np.ndarray:
    """Both / sqrt(a b), 0 to 1.

    Parameters
    ----------
    a : ndarray
        (pairs,) units with the first term.
    b : ndarray
        (pairs,) units with the second term.
    both : ndarray
        (pairs,) units with both.
    units : float
        Units in all.

    Returns
    -------
    ndarray
        (pairs,) float.

    References
    ----------
    Salton, G. & McGill, M. J. (1983). Introduction to modern information retrieval.

    Examples
    --------
    >>> cosine(np.array([4.0]), np.array([9.0]), np.array([3.0]), 10).tolist()
    [0.5]
    """
    found: np.ndarray = both / np.sqrt(a * b)
    return found


def npmi(a: np.ndarray, b: np.ndarray, both: np.ndarray, units: float) -> np.ndarray:
    """ln(both units / (a b)) / -ln(both / units), -1 to 1, 0 by chance; 1 where all units have both.

    Parameters
    ----------
    a : ndarray
        (pairs,) units with the first term.
    b : ndarray
        (pairs,) units with the second term.
    both : ndarray
        (pairs,) units with both.
    units : float
        Units in all.

    Returns
    -------
    ndarray
        (pairs,) float.

    References
    ----------
    Bouma, G. (2009). Normalized (pointwise) mutual information in collocation extraction.

    Examples
    --------
    >>> npmi(np.array([4.0, 5.0, 10.0]), np.array([4.0, 4.0, 10.0]), np.array([4.0, 3.0, 10.0]), 10).round(3).tolist()
    [1.0, 0.337, 1.0]
    """
    everywhere = both >= units
    with np.errstate(divide="ignore", invalid="ignore"):
        found = np.log(both * units / (a * b)) / -np.log(both / units)
    return np.where(everywhere, 1.0, found)


ASSOCIATIONS: Mapping[str, Measure] = {"dice": dice, "jaccard": jaccard, "cosine": cosine, "npmi": npmi}
"""The measures by name."""
