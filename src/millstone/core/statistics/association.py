"""How much more often words occur together than chance would have it."""

import numpy as np

from millstone.core.arrays import numbers_of


def ngram_parts(
    words: np.ndarray, freq: np.ndarray, places: int, chosen: np.ndarray
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """The frequencies that an n-gram is held against.

    Parameters
    ----------
    words : ndarray
        (n-grams, n) int32, all different.
    freq : ndarray
        (n-grams,) int64 occurrences.
    places : int
        N-gram places.
    chosen : ndarray
        (chosen,) integers: of which n-grams the parts are wanted.

    Returns
    -------
    f1, f2, size : ndarray
        (chosen,) float each: the n-grams with the same first n - 1 words, with the same last n - 1 words,
        and for bigrams the places, for longer ones the n-grams with the same middle n - 2 words.
    """
    n = words.shape[1]
    first, last = _totals(words[:, :-1], freq, chosen), _totals(words[:, 1:], freq, chosen)
    return first, last, _totals(words[:, 1:-1], freq, chosen) if n > 2 else np.full(len(chosen), float(places))


def _totals(words: np.ndarray, freq: np.ndarray, chosen: np.ndarray) -> np.ndarray:
    """(chosen,) float: the occurrences of all n-grams with the same `words`."""
    group = words[:, 0]
    for column in words.T[1:]:
        # the number of what comes before and the next word, made small again
        wide = group.astype(np.int64) * (int(words.max(initial=0)) + 1)
        _, group = numbers_of(wide + column)
    return np.bincount(group, weights=freq)[group[chosen]]


def mutual_information(f12: np.ndarray, f1: np.ndarray, f2: np.ndarray, size: np.ndarray) -> np.ndarray:
    """log2(f12 / E), E = f1 f2 / size; all (pairs,), f12 above 0.

    References
    ----------
    Church, K. W. & Hanks, P. (1990). Word association norms, mutual information, and lexicography.

    Examples
    --------
    >>> mutual_information(np.array([8.0]), np.array([10.0]), np.array([10.0]), np.array([100.0])).tolist()
    [3.0]
    """
    return np.log2(f12 * size / (f1 * f2))


def t_score(f12: np.ndarray, f1: np.ndarray, f2: np.ndarray, size: np.ndarray) -> np.ndarray:
    """(f12 - E) / sqrt(f12), E = f1 f2 / size; all (pairs,), f12 above 0.

    References
    ----------
    Church, K. W. et al. (1991). Using statistics in lexical analysis.

    Examples
    --------
    >>> t_score(np.array([16.0]), np.array([20.0]), np.array([20.0]), np.array([100.0])).tolist()
    [3.0]
    """
    return (f12 - f1 * f2 / size) / np.sqrt(f12)


def log_dice(f12: np.ndarray, f1: np.ndarray, f2: np.ndarray) -> np.ndarray:
    """14 + log2(2 f12 / (f1 + f2)), at most 14; all (pairs,), f12 above 0.

    References
    ----------
    Rychly, P. (2008). A lexicographer-friendly association score.

    Examples
    --------
    >>> log_dice(np.array([4.0]), np.array([4.0]), np.array([4.0])).tolist()
    [14.0]
    """
    return 14 + np.log2(2 * f12 / (f1 + f2))


def delta_p(f12: np.ndarray, window: np.ndarray, f2: np.ndarray, size: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """How much likelier a collocate is near a node than elsewhere, and a token of it to be near than other tokens.

    ``f12 / W - (f2 - f12) / (N - W)`` and ``f12 / f2 - (W - f12) / (N - f2)``, -1 to 1; all (pairs,), `window` W and
    `size` N; NaN where all tokens are near, or all are the collocate.

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
