"""How much more often words occur together than chance would have it."""

import numpy as np


def ngram_parts(
    words: np.ndarray, freq: np.ndarray, places: int, chosen: np.ndarray
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """The frequencies that a bigram is held against.

    Parameters
    ----------
    words : ndarray
        (bigrams, 2) int32, all different.
    freq : ndarray
        (bigrams,) int64 occurrences.
    places : int
        Their places.
    chosen : ndarray
        (chosen,) integers: of which bigrams the parts are wanted.

    Returns
    -------
    f1, f2, size : ndarray
        (chosen,) float each: the bigrams with the same first word, with the same second word, and the places.
    """
    first, last = (np.bincount(column, weights=freq)[column[chosen]] for column in words.T)
    return first, last, np.full(len(chosen), float(places))


def word_associations(freq: np.ndarray, each: np.ndarray, tokens: float) -> dict[str, np.ndarray]:
    """How much firmer n-grams are than if their words stood side by side by chance alone.

    Parameters
    ----------
    freq : ndarray
        (n-grams,) float occurrences, above 0.
    each : ndarray
        (n-grams, n) float occurrences of each word.
    tokens : float
        All word tokens N.

    Returns
    -------
    dict
        (n-grams,) each: ``mi`` = log2(f / E) with E = N times the product of the words' rates f_i / N, ``t_score`` =
        (f - E) / sqrt(f), ``log_dice`` = 14 + log2(n f / sum of f_i), at most 14.

    References
    ----------
    Petrovic, S., Snajder, J. & Dalbelo Basic, B. (2010). Extending lexical association measures for collocation
    extraction.

    Examples
    --------
    >>> found = word_associations(np.array([8.0]), np.array([[10.0, 20.0, 10.0]]), 1000.0)
    >>> {name: values.round(3).tolist() for name, values in found.items()}
    {'mi': [11.966], 't_score': [2.828], 'log_dice': [13.263]}
    """
    n = each.shape[1]
    # as logarithms, since a product of many rates is too small a number
    log_expected = np.log2(each).sum(axis=1) - (n - 1) * np.log2(tokens)
    return {
        "mi": np.log2(freq) - log_expected,
        "t_score": (freq - np.exp2(log_expected)) / np.sqrt(freq),
        "log_dice": 14 + np.log2(n * freq / each.sum(axis=1)),
    }


def mutual_information(f12: np.ndarray, f1: np.ndarray, f2: np.ndarray, size: np.ndarray) -> np.ndarray:
    """log2(f12 / E), E = f1 f2 / size; all (pairs,), f12 above 0.

    Parameters
    ----------
    f12 : ndarray
        (pairs,) occurrences together, above 0.
    f1 : ndarray
        (pairs,) occurrences of the first.
    f2 : ndarray
        (pairs,) occurrences of the other, the collocate.
    size : ndarray
        (pairs,) or one number, tokens in all.

    Returns
    -------
    ndarray
        (pairs,) bits.

    References
    ----------
    Church, K. W. & Hanks, P. (1990). Word association norms, mutual information, and lexicography.

    Examples
    --------
    >>> mutual_information(np.array([8.0]), np.array([10.0]), np.array([10.0]), np.array([100.0])).tolist()
    [3.0]
    """
    found: np.ndarray = np.log2(f12 * size / (f1 * f2))
    return found


def t_score(f12: np.ndarray, f1: np.ndarray, f2: np.ndarray, size: np.ndarray) -> np.ndarray:
    """(f12 - E) / sqrt(f12), E = f1 f2 / size; all (pairs,), f12 above 0.

    Parameters
    ----------
    f12 : ndarray
        (pairs,) occurrences together, above 0.
    f1 : ndarray
        (pairs,) occurrences of the first.
    f2 : ndarray
        (pairs,) occurrences of the other, the collocate.
    size : ndarray
        (pairs,) or one number, tokens in all.

    Returns
    -------
    ndarray
        (pairs,)

    References
    ----------
    Church, K. W. et al. (1991). Using statistics in lexical analysis.

    Examples
    --------
    >>> t_score(np.array([16.0]), np.array([20.0]), np.array([20.0]), np.array([100.0])).tolist()
    [3.0]
    """
    found: np.ndarray = (f12 - f1 * f2 / size) / np.sqrt(f12)
    return found


def log_dice(f12: np.ndarray, f1: np.ndarray, f2: np.ndarray) -> np.ndarray:
    """14 + log2(2 f12 / (f1 + f2)), at most 14; all (pairs,), f12 above 0.

    Parameters
    ----------
    f12 : ndarray
        (pairs,) occurrences together, above 0.
    f1 : ndarray
        (pairs,) occurrences of the first.
    f2 : ndarray
        (pairs,) occurrences of the other, the collocate.

    Returns
    -------
    ndarray
        (pairs,)

    References
    ----------
    Rychly, P. (2008). A lexicographer-friendly association score.

    Examples
    --------
    >>> log_dice(np.array([4.0]), np.array([4.0]), np.array([4.0])).tolist()
    [14.0]
    """
    found: np.ndarray = 14 + np.log2(2 * f12 / (f1 + f2))
    return found


def delta_p(f12: np.ndarray, window: np.ndarray, f2: np.ndarray, size: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """How much likelier a collocate is near a node than elsewhere, and a token of it to be near than other tokens.

    ``f12 / W - (f2 - f12) / (N - W)`` and ``f12 / f2 - (W - f12) / (N - f2)``, -1 to 1; all (pairs,), `window` W and
    `size` N; NaN where all tokens are near, or all are the collocate.

    Parameters
    ----------
    f12 : ndarray
        (pairs,) occurrences together, above 0.
    window : ndarray
        (pairs,) tokens near the node.
    f2 : ndarray
        (pairs,) occurrences of the other, the collocate.
    size : ndarray
        (pairs,) or one number, tokens in all.

    Returns
    -------
    tuple[ndarray, ndarray]
        Each (pairs,), -1 to 1.

    References
    ----------
    After Gries, S. Th. (2013). 50-something years of work on collocations.

    Examples
    --------
    >>> near, of = delta_p(np.array([8.0]), np.array([20.0]), np.array([10.0]), np.array([120.0]))
    >>> near.round(2).tolist(), of.round(3).tolist()
    ([0.38], [0.691])
    """
    with np.errstate(invalid="ignore", divide="ignore"):
        near = f12 / window - (f2 - f12) / np.where(size > window, size - window, np.nan)
        of = f12 / f2 - (window - f12) / np.where(size > f2, size - f2, np.nan)
    return near, of
