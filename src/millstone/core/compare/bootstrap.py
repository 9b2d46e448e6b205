"""How far a result would change with another sample of documents: bootstrap intervals of effects and ranks."""

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from millstone.core.errors import DataError
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.statistics.keyness_measures import Sides
from millstone.core.statistics.ranks import ranking
from millstone.core.terms.counts import Part

_MOST_CELLS = 1 << 28
LIMITS = (2.5, 97.5)
"""The percentiles that are given."""


class Resampled(NamedTuple):
    """(terms,) each: percentiles of log_ratio and of the rank."""

    low: np.ndarray
    high: np.ndarray
    rank_low: np.ndarray
    rank_high: np.ndarray


def resampled(
    target: Part,
    reference: Part,
    wanted: np.ndarray,
    like: Sides,
    score: Callable[[Sides], np.ndarray],
    samples: int,
    seed: int,
    whole_units: bool = False,
    progress: Callable[[int, int], None] = lambda done, of: None,
) -> Resampled:
    """Draw documents with replacement within each side, again and again.

    Parameters
    ----------
    target, reference : Part
    wanted : ndarray
        (terms,) numbers of the terms compared.
    like : Sides
        The comparison itself: what is counted, and what is done with zeros.
    score : callable
        What ranks are made by: (terms,) of the sides of a sample.
    samples : int
        How many samples, 2 or more.
    seed : int
        The same seed gives the same samples.
    whole_units : bool
        Each unit is drawn by itself; otherwise all parts of one text are drawn together.
    progress : callable
        Called with how many samples are done, of how many.

    Returns
    -------
    Resampled

    Raises
    ------
    DataError
        When terms by samples are too many to be kept.

    References
    ----------
    Efron, B. & Tibshirani, R. J. (1993). An introduction to the bootstrap.
    """
    if samples * len(wanted) > _MOST_CELLS:
        raise DataError(
            f"--resample {samples}: {len(wanted):,} terms in so many samples do not fit in memory",
            "compare fewer terms, as with --min-freq 10, or draw fewer samples",
        )
    drawn = [_Drawn(part, wanted, like.of_documents, whole_units) for part in (target, reference)]
    chance = np.random.default_rng(seed)
    ratios = np.empty((samples, len(wanted)), dtype=np.float32)
    ranks = np.empty((samples, len(wanted)), dtype=np.int32)
    for number in range(samples):
        (a, n1), (b, n2) = (one.sample(chance) for one in drawn)
        sides = Sides(a, b, max(n1, 1), max(n2, 1), like.zeros, like.statistic, like.of_documents)
        ratios[number] = sides.ratio[0]
        order = ranking(score(sides), a + b)
        ranks[number, order] = np.arange(1, len(wanted) + 1)
        progress(number + 1, samples)
    low, high = _percentiles(ratios)
    rank_low, rank_high = np.percentile(ranks, LIMITS, axis=0, method="nearest") if len(wanted) else (ranks[0],) * 2
    return Resampled(low, high, rank_low.astype(np.int64), rank_high.astype(np.int64))


def _percentiles(ratios: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    known = ~np.isnan(ratios).all(axis=0)
    found = np.full((2, ratios.shape[1]), np.nan)
    if known.any():
        found[:, known] = np.nanpercentile(ratios[:, known], LIMITS, axis=0)
    return found[0], found[1]


class _Drawn:
    """One side, from which samples are drawn."""

    def __init__(self, part: Part, wanted: np.ndarray, of_documents: bool, whole_units: bool) -> None:
        counts = part.matrix.columns(wanted)
        base = part.base
        if not whole_units and len(base):
            # all parts of a text go together
            sources = part.sources
            base = np.bincount(sources, weights=base).astype(np.int64)
            rows = sources[counts.row_of_cells]
            counts = SparseMatrix.of_cells(counts.data, rows, counts.indices, (len(base), counts.shape[1]))
        if of_documents:
            counts = counts.with_data(np.ones_like(counts.data))
            base = np.ones_like(base)
        self._by_term, self._base = counts.transposed().to_sparse(), base

    def sample(self, chance: "np.random.Generator") -> tuple[np.ndarray, int]:
        """(terms,) counts of a sample, and its size."""
        size = len(self._base)
        times = np.bincount(chance.integers(0, size, size), minlength=size)
        return self._by_term @ times, int(self._base @ times)
