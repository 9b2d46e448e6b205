"""Tests of all terms at once in which an observation is a document, not a token."""

from collections.abc import Callable

import numpy as np

from millstone.core.frozen import frozen
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.statistics import two_samples
from millstone.core.terms.counts import Part

_CELLS = 1 << 22
_SAME = 1 - 1e-12


@frozen
class Rates:
    """Relative frequencies of n1 documents of the target and n2 of the reference.

    Attributes
    ----------
    both : SparseMatrix
        (n1 + n2, terms) float, those of the target first.
    n1, n2 : int
    """

    both: SparseMatrix
    n1: int
    n2: int

    def sides(self) -> tuple[tuple[SparseMatrix, int], tuple[SparseMatrix, int]]:
        """The rates of each side, and its number of documents."""
        return (self.both.rows(slice(self.n1)), self.n1), (self.both.rows(slice(self.n1, None)), self.n2)


def rates_of(target: Part, reference: Part, wanted: np.ndarray, whole_units: bool) -> Rates:
    """The relative frequencies of the `wanted` terms in the documents of two sides.

    Parameters
    ----------
    target, reference : Part
    wanted : ndarray
        (wanted,) numbers of terms.
    whole_units : bool
        Each unit is an observation; otherwise the parts of one text are averaged first.
    """
    sides = []
    for part in (target, reference):
        counted = part.matrix.columns(wanted)
        rates = counted.with_data(counted.data / np.repeat(part.base, np.diff(counted.indptr)))
        sides.append(rates if whole_units else _averaged(rates, part.sources))
    return Rates(SparseMatrix.stacked(sides), sides[0].shape[0], sides[1].shape[0])


def _averaged(rates: SparseMatrix, sources: np.ndarray) -> SparseMatrix:
    """(sources, terms) the mean over the units that come from one text; `sources` is (units,), its number."""
    units = np.bincount(sources)
    if units.max(initial=0) <= 1:
        return rates
    of_cells = sources[rates.row_of_cells]
    weighted = (1 / units)[of_cells] * rates.data
    return SparseMatrix.of_cells(weighted, of_cells, rates.indices, (len(units), rates.shape[1]))


def mann_whitney(rates: Rates) -> np.ndarray:
    """Two-sided p of Mann-Whitney's U for each term.

    Returns
    -------
    ndarray
        (terms,) by the normal approximation with tie and continuity correction; NaN where all
        documents are equal.

    References
    ----------
    Mann, H. B. & Whitney, D. R. (1947). Lijffijt, J. et al. (2016). Significance testing of word
    frequencies in corpora.

    Notes
    -----
    Documents without a term are one tie at the bottom, so only the documents that have it are sorted.
    """
    both, n1, n2 = rates.both, rates.n1, rates.n2
    n, terms = n1 + n2, both.shape[1]
    rate = both.data
    order = np.lexsort((rate, both.indices))
    term, rate, in_target = both.indices[order], rate[order], both.row_of_cells[order] < n1

    present = np.bincount(term, minlength=terms)
    absent = n - present
    first_of_term = np.cumsum(present) - present
    starts_tie = np.ones(len(term), dtype=bool)
    starts_tie[1:] = (term[1:] != term[:-1]) | (rate[1:] != rate[:-1])
    tie = np.cumsum(starts_tie) - 1
    tie_first = np.flatnonzero(starts_tie)
    tie_size = np.diff(np.append(tie_first, len(term)))
    tie_rank = tie_first - first_of_term[term[tie_first]] + absent[term[tie_first]] + (tie_size + 1) / 2

    absent_in_target = n1 - np.bincount(term, weights=in_target, minlength=terms)
    rank_sum = absent_in_target * (absent + 1) / 2
    rank_sum += np.bincount(term, weights=np.where(in_target, tie_rank[tie], 0), minlength=terms)
    u = rank_sum - n1 * (n1 + 1) / 2
    cubes = np.bincount(term[tie_first], weights=tie_size.astype(float) ** 3 - tie_size, minlength=terms)
    cubes += absent.astype(float) ** 3 - absent
    return two_samples.mann_whitney(u, cubes, n1, n2)


def welch(rates: Rates) -> np.ndarray:
    """Two-sided p of Welch's t test for each term.

    Returns
    -------
    ndarray
        (terms,); NaN where a side has one document only, or neither side any variance.

    References
    ----------
    Welch, B. L. (1947). The generalization of Student's problem when several different population
    variances are involved.
    """
    (mean_a, error_a), (mean_b, error_b) = (_mean_and_error(side, n) for side, n in rates.sides())
    return two_samples.welch(mean_a - mean_b, error_a, error_b, rates.n1, rates.n2)[2]


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
    """p of the difference of mean rates under random reassignments of the documents, for all terms at once.

    Parameters
    ----------
    rates : Rates
    draws : int
        How many reassignments, 1 or more.
    seed : int
        The same seed gives the same draws.
    progress : callable
        Called with how many draws are done, of how many.

    Returns
    -------
    ndarray
        (terms,) ``(1 + hits) / (1 + draws)``, two-sided.

    References
    ----------
    Good, P. (2005). Permutation, parametric and bootstrap tests of hypotheses. Lijffijt, J. et al. (2016).
    """
    n1, n2, terms = rates.n1, rates.n2, rates.both.shape[1]
    in_target, in_reference = (_sums(side) for side, _ in rates.sides())
    total = in_target + in_reference
    least = np.abs(in_target / n1 - in_reference / n2) * _SAME
    hits = np.zeros(terms, dtype=np.int64)
    by_term = rates.both.transposed().to_sparse()
    chance = np.random.default_rng(seed)
    at_once = max(1, min(64, _CELLS // max(terms, 1)))
    for done in range(0, draws, at_once):
        number = min(at_once, draws - done)
        drawn = np.zeros((n1 + n2, number))
        for draw in range(number):
            drawn[chance.permutation(n1 + n2)[:n1], draw] = 1
        sums = by_term @ drawn
        difference = sums / n1 - (total[:, np.newaxis] - sums) / n2
        hits += (np.abs(difference) >= least[:, np.newaxis]).sum(axis=1)
        progress(done + number, draws)
    return (1 + hits) / (1 + draws)


def _sums(side: SparseMatrix) -> np.ndarray:
    return np.bincount(side.indices, weights=side.data, minlength=side.shape[1])
