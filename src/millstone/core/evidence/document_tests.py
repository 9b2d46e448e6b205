"""Tests of all terms at once in which an observation is a sampling unit, not a token."""

from collections.abc import Callable
from dataclasses import field

import numpy as np

from millstone.core.base.arrays import unique_inverse
from millstone.core.base.light_dataclass import frozen
from millstone.core.evidence import two_samples
from millstone.core.evidence.relabelling import AS_FAR, Relabelling, pairs_of
from millstone.core.evidence.sampling import SamplingUnits
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.terms.counts import Part

_CELLS = 1 << 22
# a variance so much smaller than the square of its mean is what rounding leaves
_NOISE = 1e-12
LEAST_FOR_WELCH = 5
"""Units with a term that each side must have for Welch's test of its rates."""


@frozen
class Rates:
    """Relative frequencies in n1 units of the target and n2 of the reference.

    Attributes
    ----------
    both : SparseMatrix
        (n1 + n2, terms) float, those of the target first.
    n1, n2 : int
    pairs : ndarray
        (pairs, 2) int64: the rows of each unit that lies on both sides, that of the target first.
    """

    both: SparseMatrix
    n1: int
    n2: int
    pairs: np.ndarray = field(default_factory=lambda: np.zeros((0, 2), dtype=np.int64))

    def sides(self) -> tuple[tuple[SparseMatrix, int], tuple[SparseMatrix, int]]:
        """The rates of each side, and its number of units."""
        return (self.both.rows(slice(self.n1)), self.n1), (self.both.rows(slice(self.n1, None)), self.n2)

    @property
    def relabelling(self) -> Relabelling:
        """The ways to put the units on the sides anew."""
        return Relabelling(self.n1, self.n2, self.pairs)


def rates_of(target: Part, reference: Part, wanted: np.ndarray, sampling: SamplingUnits) -> Rates:
    """The relative frequencies of the `wanted` terms in the sampling units of two sides.

    Parameters
    ----------
    target, reference : Part
    wanted : ndarray
        (wanted,) numbers of terms.
    sampling : SamplingUnits
        The documents of a unit are averaged.

    Returns
    -------
    Rates
        (units, terms) of both sides.
    """
    sides, units = [], []
    for part in (target, reference):
        counted = part.matrix.columns(wanted)
        rates = counted.with_data(counted.data / np.repeat(part.base, np.diff(counted.indptr)))
        different, unit = unique_inverse(sampling.of[part.rows_with_tokens])
        units.append(different)
        sides.append(_averaged(rates, unit))
    return Rates(SparseMatrix.stacked(sides), len(units[0]), len(units[1]), pairs_of(units[0], units[1]))


def _averaged(rates: SparseMatrix, unit: np.ndarray) -> SparseMatrix:
    """(units, terms) the mean over the documents of each unit, of which (documents,) `unit` has the number."""
    documents = np.bincount(unit)
    if documents.max(initial=0) <= 1:
        return rates
    of_cells = unit[rates.row_of_cells]
    weighted = (1 / documents)[of_cells] * rates.data
    return SparseMatrix.of_cells(weighted, of_cells, rates.indices, (len(documents), rates.shape[1]))


def mann_whitney(rates: Rates) -> np.ndarray:
    """Two-sided p of Mann-Whitney's U for each term.

    Parameters
    ----------
    rates : Rates
        Relative frequencies of the terms in the units of both sides.

    Returns
    -------
    ndarray
        (terms,) exact for up to 20 units, else by the normal approximation with tie and continuity correction; 1
        where all units are equal. Units on both sides can only swap them.

    Notes
    -----
    Units without a term are one tie at the bottom, so only the units that have it are sorted.

    References
    ----------
    Mann, H. B. & Whitney, D. R. (1947). Lijffijt, J. et al. (2016). Significance testing of word
    frequencies in corpora.
    """
    both, n1, n2 = rates.both, rates.n1, rates.n2
    n, terms = n1 + n2, both.shape[1]
    rate = both.data
    order = np.lexsort((rate, both.indices))
    term, rate, row = both.indices[order], rate[order], both.row_of_cells[order]

    present = np.bincount(term, minlength=terms)
    absent = n - present
    first_of_term = np.cumsum(present) - present
    starts_tie = np.ones(len(term), dtype=bool)
    starts_tie[1:] = (term[1:] != term[:-1]) | (rate[1:] != rate[:-1])
    tie = np.cumsum(starts_tie) - 1
    tie_first = np.flatnonzero(starts_tie)
    tie_size = np.diff(np.append(tie_first, len(term)))
    tie_rank = tie_first - first_of_term[term[tie_first]] + absent[term[tie_first]] + (tie_size + 1) / 2
    if len(rates.pairs) or n - len(rates.pairs) <= two_samples.EXACT_UNITS:
        return _by_ranks(rates, term, row, tie_rank[tie], (absent + 1) / 2)

    in_target = row < n1
    absent_in_target = n1 - np.bincount(term, weights=in_target, minlength=terms)
    rank_sum = absent_in_target * (absent + 1) / 2
    rank_sum += np.bincount(term, weights=np.where(in_target, tie_rank[tie], 0), minlength=terms)
    u = rank_sum - n1 * (n1 + 1) / 2
    cubes = np.bincount(term[tie_first], weights=tie_size.astype(float) ** 3 - tie_size, minlength=terms)
    cubes += absent.astype(float) ** 3 - absent
    return two_samples.mann_whitney(u, cubes, n1, n2)


def _by_ranks(
    rates: Rates, term: np.ndarray, row: np.ndarray, rank: np.ndarray, rank_of_absent: np.ndarray
) -> np.ndarray:
    """(terms,) the same from the ranks of all units, some terms at a time."""
    n, terms = rates.n1 + rates.n2, rates.both.shape[1]
    found = np.empty(terms)
    at_once = max(1, _CELLS // n)
    for first in range(0, terms, at_once):
        last = min(first + at_once, terms)
        cells = slice(*np.searchsorted(term, (first, last)))
        ranks = np.tile(rank_of_absent[first:last], (n, 1))
        ranks[row[cells], term[cells] - first] = rank[cells]
        found[first:last] = two_samples.rank_sums(ranks, rates.n1, rates.pairs)
    return found


def welch(rates: Rates) -> np.ndarray:
    """Two-sided p of Welch's t test for each term, units on both sides taken as the pairs that they are.

    Parameters
    ----------
    rates : Rates
        Relative frequencies of the terms in the units of both sides.

    Returns
    -------
    ndarray
        (terms,); NaN where a side has fewer than 5 units with the term, or neither side any variance.

    References
    ----------
    Welch, B. L. (1947). The generalization of Student's problem when several different population
    variances are involved. Derrick, B. et al. (2017). Test statistics for the comparison of means for two samples
    that include both paired and independent observations.
    """
    (mean_a, error_a), (mean_b, error_b) = (_mean_and_error(side, n) for side, n in rates.sides())
    correlation = _correlation(rates) if len(rates.pairs) else None
    p = two_samples.welch(mean_a - mean_b, error_a, error_b, rates.n1, rates.n2, correlation, len(rates.pairs))[2]
    return np.where(is_too_rare(rates), np.nan, p)


def is_too_rare(rates: Rates) -> np.ndarray:
    """(terms,) bool: which fewer than 5 units of a side have, too few for Welch's test.

    Parameters
    ----------
    rates : Rates
        Relative frequencies of the terms in the units of both sides.

    Returns
    -------
    ndarray
        (terms,) bool.
    """
    present = [np.bincount(side.indices, minlength=side.shape[1]) for side, _ in rates.sides()]
    return np.asarray(np.minimum(*present) < LEAST_FOR_WELCH)


def _correlation(rates: Rates) -> np.ndarray:
    """(terms,) Pearson's correlation of the rates of the units that lie on both sides; 0 where a side is constant."""
    one, other = (rates.both.rows(rates.pairs[:, side]).transposed().to_sparse() for side in range(2))
    number = len(rates.pairs)
    means = [np.asarray(side.sum(axis=1)).ravel() / number for side in (one, other)]
    products = np.asarray(one.multiply(other).sum(axis=1)).ravel() / number - means[0] * means[1]
    spread = [
        np.asarray(side.multiply(side).sum(axis=1)).ravel() / number - mean**2
        for side, mean in zip((one, other), means, strict=True)
    ]
    both = np.sqrt(np.maximum(spread[0], 0) * np.maximum(spread[1], 0))
    found: np.ndarray = np.clip(np.divide(products, both, out=np.zeros(len(both)), where=both > 0), -1, 1)
    return found


def _mean_and_error(side: SparseMatrix, n: int) -> tuple[np.ndarray, np.ndarray]:
    """(terms,) the mean rate, and its squared standard error; 0 where the rates differ by rounding only."""
    mean = _sums(side) / n
    present = np.bincount(side.indices, minlength=side.shape[1])
    away = np.bincount(side.indices, weights=(side.data - mean[side.indices]) ** 2, minlength=side.shape[1])
    variance = (away + (n - present) * mean**2) / max(n - 1, 1)
    return mean, np.where(variance > (1e-12 * mean) ** 2, variance, 0) / n


def permutation(
    rates: Rates, draws: int, seed: int, progress: Callable[[int, int], None] = lambda done, of: None
) -> np.ndarray:
    """p of the difference of mean rates by its standard error under relabellings of the units, for all terms at once.

    Units on one side are put on the sides anew, units on both swap them. Where a side has one unit there is no
    standard error, and the plain difference is taken.

    Parameters
    ----------
    rates : Rates
    draws : int
        How many random relabellings, 1 or more; where there are no more than these in all, each is tried once.
    seed : int
        The same seed gives the same draws.
    progress : callable
        Called with how many relabellings are done, of how many.

    Returns
    -------
    ndarray
        (terms,) two-sided: the share of all relabellings that are as far as what is seen, itself among them, or
        ``(1 + hits) / (1 + draws)``.

    References
    ----------
    Janssen, A. (1997). Studentized permutation tests for non-i.i.d. hypotheses and the generalized Behrens-Fisher
    problem.
    """
    relabelling, far = rates.relabelling, _Distances(rates)
    number = min(relabelling.ways, draws)
    hits, done = np.zeros(rates.both.shape[1], dtype=np.int64), 0
    least = far.of(relabelling.seen) * AS_FAR
    for labels in relabelling.some(draws, seed, max(1, min(64, _CELLS // max(len(hits), 1)))):
        hits += (far.of(labels) >= least).sum(axis=1)
        done += labels.shape[1]
        progress(done, number)
    return relabelling.p(hits, draws)


class _Distances:
    """How far the mean rates of two sides are apart under a labelling of the units."""

    def __init__(self, rates: Rates) -> None:
        self._n1, self._n2 = rates.n1, rates.n2
        largest = np.zeros(rates.both.shape[1])
        np.maximum.at(largest, rates.both.indices, rates.both.data)
        scaled = rates.both.with_data(rates.both.data / largest[rates.both.indices])
        self._rates = scaled.transposed().to_sparse()
        self._squares = self._rates.multiply(self._rates).tocsr()
        ones = np.ones(rates.n1 + rates.n2)
        self._total, self._all_squares = (one @ ones for one in (self._rates, self._squares))

    def of(self, in_target: np.ndarray) -> np.ndarray:
        """(terms, labellings) from (units, labellings) 1 for the target, 0 for the reference."""
        sums = self._rates @ in_target
        mean1, mean2 = sums / self._n1, (self._total[:, np.newaxis] - sums) / self._n2
        difference: np.ndarray = np.abs(mean1 - mean2)
        difference[difference < _NOISE] = 0
        if min(self._n1, self._n2) < 2:
            return difference
        squares = self._squares @ in_target
        rest = self._all_squares[:, np.newaxis] - squares
        error = self._error(squares, mean1, self._n1) + self._error(rest, mean2, self._n2)
        apart = np.where(difference > 0, np.inf, 0.0)
        found: np.ndarray = np.divide(difference, np.sqrt(error), out=apart, where=error > 0)
        return found

    @staticmethod
    def _error(squares: np.ndarray, mean: np.ndarray, n: int) -> np.ndarray:
        variance = (squares - n * mean**2) / (n - 1)
        return np.where(variance > _NOISE, variance, 0) / n


def _sums(side: SparseMatrix) -> np.ndarray:
    return np.bincount(side.indices, weights=side.data, minlength=side.shape[1])
