"""Measures of how varied and how repetitive a text is."""

import numpy as np

from millstone.core.base.arrays import begins, chunks, unique_counts
from millstone.core.base.light_dataclass import frozen

MTLD_LIMIT = 72
"""A factor of mtld ends when fewer than so many of a hundred tokens are new types."""

HDD_SAMPLE = 42
"""The tokens of the samples of hdd."""

_PLACE = 32


def previous_places(terms: np.ndarray) -> np.ndarray:
    """(tokens,) int32: where the same term stood last before each place, -1 where it is new.

    Parameters
    ----------
    terms : ndarray
        (tokens,) the number of the term of each.

    Returns
    -------
    ndarray
    """
    # sorted by term, then place
    packed = terms.astype(np.int64)
    packed <<= _PLACE
    packed |= np.arange(len(terms))
    packed.sort()
    before = np.full(len(terms), -1, dtype=np.int32)
    for here in chunks(len(terms) - 1):
        some = packed[here.start : here.stop + 1]
        same = ~begins(some >> _PLACE)[1:]
        places = some & ((1 << _PLACE) - 1)
        before[places[1:][same]] = places[:-1][same]
    return before


def mean_segment_ttr(before: np.ndarray, segment: int) -> float:
    """Mean type-token ratio of consecutive full segments.

    Parameters
    ----------
    before : ndarray
        (tokens,) from `previous_places`.
    segment : int
        Tokens of a segment.

    Returns
    -------
    float
        0 to 1; NaN for less than one segment.

    References
    ----------
    Johnson, W. (1944). Studies in language behavior: a program of research.

    Examples
    --------
    >>> mean_segment_ttr(previous_places(np.array([1, 1, 2, 3, 9])), 2)
    0.75
    """
    full = len(before) // segment * segment
    starts = np.arange(0, full, segment)[:, np.newaxis]
    return float((before[:full].reshape(-1, segment) < starts).sum() / full) if full else np.nan


def moving_average_ttr(before: np.ndarray, window: int) -> float:
    """Mean type-token ratio of all windows of so many tokens.

    Parameters
    ----------
    before : ndarray
        (tokens,) from `previous_places`.
    window : int

    Returns
    -------
    float
        0 to 1; NaN for less than one window.

    References
    ----------
    Covington, M. A. & McFall, J. D. (2010). Cutting the Gordian knot: the moving-average type-token ratio.

    Notes
    -----
    A token adds a type to each window that holds it but not the place before it; these windows are counted.

    Examples
    --------
    >>> moving_average_ttr(previous_places(np.array([1, 1, 2])), 2)
    0.75
    """
    windows = len(before) - window + 1
    if windows < 1:
        return np.nan
    types = 0
    for here in chunks(len(before)):
        place = np.arange(here.start, here.stop)
        first = np.maximum(np.maximum(place - window, before[here]) + 1, 0)
        last = np.minimum(place, windows - 1)
        types += int(np.maximum(last - first + 1, 0).sum())
    return types / (windows * window)


def textual_diversity(before: np.ndarray) -> float:
    """The measure of textual lexical diversity: mean length of stretches whose type-token ratio stays up.

    Parameters
    ----------
    before : ndarray
        (tokens,) from `previous_places`.

    Returns
    -------
    float
        Mean of the forward and the backward pass; NaN where a pass has no factor at all.

    References
    ----------
    McCarthy, P. M. & Jarvis, S. (2010). MTLD, vocd-D, and HD-D.
    """
    size = len(before)
    passes = [one.number for one in both_passes(before)]
    return float(np.mean([size / factors for factors in passes])) if all(passes) else np.nan


@frozen
class Factors:
    """The factors of one pass over a text: after how many tokens each ends, and how far the last one got.

    Attributes
    ----------
    ends : ndarray
        (factors,) int64, ascending.
    rest : float
        0 to 1.
    """

    ends: np.ndarray
    rest: float

    @property
    def number(self) -> float:
        """How many factors there are, the last one in proportion."""
        return len(self.ends) + self.rest


def both_passes(before: np.ndarray) -> tuple[Factors, Factors]:
    """The factors of the forward pass, and of the backward pass, whose tokens count from the end.

    Parameters
    ----------
    before : ndarray
        (tokens,) from `previous_places`.

    Returns
    -------
    tuple of Factors
    """
    size = len(before)
    after = np.full(size, size, dtype=np.int32)
    for here in chunks(size):
        again = np.flatnonzero(before[here] >= 0)
        after[before[here][again]] = again + here.start
    return _factors(before), _factors(size - 1 - after[::-1])


def _factors(before: np.ndarray) -> Factors:
    """The factors of one pass.

    A plain loop, since each factor begins where the one before it ends; array operations on stretches
    were slower wherever factors are short.
    """
    ends: list[int] = []
    start, types, place = 0, 0, 0
    for here in chunks(len(before)):
        for last in before[here].tolist():
            place += 1
            if last < start:
                types += 1
            elif 100 * types < MTLD_LIMIT * (place - start):
                ends.append(place)
                start, types = place, 0
    rest = (1 - types / (place - start)) / (1 - MTLD_LIMIT / 100) if place > start else 0.0
    return Factors(np.array(ends, dtype=np.int64), rest)


def window_types(before: np.ndarray, window: int) -> np.ndarray:
    """(windows,) int32: the types of each window of so many tokens, by the place where it begins.

    Parameters
    ----------
    before : ndarray
        (tokens,) from `previous_places`.
    window : int

    Returns
    -------
    ndarray
        Empty for less than one window.

    Examples
    --------
    >>> window_types(previous_places(np.array([1, 1, 2])), 2).tolist()
    [1, 2]
    """
    windows = len(before) - window + 1
    if windows < 1:
        return np.zeros(0, dtype=np.int32)
    change = np.zeros(windows + 1, dtype=np.int32)
    for here in chunks(len(before)):
        place = np.arange(here.start, here.stop)
        first = np.maximum(np.maximum(place - window, before[here]) + 1, 0)
        after = np.minimum(place, windows - 1) + 1
        inside = first < after
        change += np.bincount(first[inside], minlength=windows + 1).astype(np.int32)
        change -= np.bincount(after[inside], minlength=windows + 1).astype(np.int32)
    found: np.ndarray = np.cumsum(change[:-1], dtype=np.int32)
    return found


def expected_types(freq: np.ndarray, tokens: int) -> float:
    """How many types a random sample of so many of the tokens has on average, drawn without replacement.

    Parameters
    ----------
    freq : ndarray
        (types,) occurrences of each type, above 0.
    tokens : int
        Size of the sample.

    Returns
    -------
    float
        NaN where there are fewer tokens.

    References
    ----------
    Hurlbert, S. H. (1971). The nonconcept of species diversity: a critique and alternative parameters.

    Notes
    -----
    A type of f occurrences among N tokens is missed with probability C(N - f, n) / C(N, n), which is the product of
    1 - n / (N - j) over j below f.

    Examples
    --------
    >>> round(expected_types(np.array([2, 1, 1]), 2), 6)
    1.833333
    """
    size = int(freq.sum())
    if tokens > size:
        return np.nan
    different, times = unique_counts(freq)
    # a type with more occurrences than are left out cannot be missed
    some = different <= size - tokens
    most = int(different[some].max(initial=0))
    missed = np.exp(np.cumsum(np.log1p(-tokens / (size - np.arange(most)))))[different[some] - 1]
    return float(times.sum() - (times[some] * missed).sum())


def hypergeometric_diversity(freq: np.ndarray) -> float:
    """Expected type-token ratio of a random sample of 42 of the tokens.

    Parameters
    ----------
    freq : ndarray
        (types,) occurrences of each type, above 0.

    Returns
    -------
    float
        0 to 1; NaN for fewer than 42 tokens.

    References
    ----------
    McCarthy, P. M. & Jarvis, S. (2010). MTLD, vocd-D, and HD-D.

    Examples
    --------
    >>> hypergeometric_diversity(np.ones(50, dtype=np.int64))
    1.0
    """
    return expected_types(freq, HDD_SAMPLE) / HDD_SAMPLE


def yule_k(freq: np.ndarray) -> float:
    """Yule's characteristic K: 1e4 (sum of m^2 V_m - N) / N^2.

    Parameters
    ----------
    freq : ndarray
        (types,) occurrences of each type, above 0.

    Returns
    -------
    float
        0 where no type occurs twice; NaN without types.

    References
    ----------
    Yule, G. U. (1944). The statistical study of literary vocabulary.

    Examples
    --------
    >>> yule_k(np.array([2, 1, 1]))
    1250.0
    """
    size = float(freq.sum())
    return float(1e4 * ((freq.astype(float) ** 2).sum() - size) / size**2) if size else np.nan
