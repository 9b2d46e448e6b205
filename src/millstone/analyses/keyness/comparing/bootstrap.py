"""How far a result would change with another sample of documents: bootstrap intervals of effects and ranks."""

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from millstone.analyses.keyness.sides import TwoCorpusCounts
from millstone.core.base.errors import DataError
from millstone.core.evidence.quasi_likelihood import Crossed, Squares, UnitSums
from millstone.core.evidence.unit_sums import UnitsOfSides, unit_matrices
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
    units: UnitsOfSides,
    like: TwoCorpusCounts,
    score: Callable[[TwoCorpusCounts], np.ndarray],
    samples: int,
    seed: int,
    with_sums: bool = False,
    progress: Callable[[int, int], None] = lambda done, of: None,
) -> Resampled:
    """Draw sampling units with replacement within each side, again and again.

    A unit that lies on both sides is drawn with all that it has on both.

    Parameters
    ----------
    target, reference : Part
    wanted : ndarray
        (terms,) numbers of the terms compared.
    units : UnitsOfSides
    like : TwoCorpusCounts
        The comparison itself: what is counted, and what is done with zeros.
    score : callable
        What ranks are made by: (terms,) of the sides of a sample.
    samples : int
        How many samples, 2 or more.
    seed : int
        The same seed gives the same samples.
    with_sums : bool
        `score` asks for the sums over the units of a sample.
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
    _check_room(samples, len(wanted))
    drawn = _Drawn(target, reference, wanted, units, like.of_documents, with_sums)
    chance = np.random.default_rng(seed)
    ratios, ranks = (np.empty((samples, len(wanted)), dtype=kind) for kind in (np.float32, np.int32))
    for number in range(samples):
        a, b, n1, n2, sums = drawn.sample(chance)
        sides = TwoCorpusCounts(a, b, n1, n2, like.zeros, like.statistic, like.of_documents, sums, like.over_units)
        ratios[number] = sides.ratio[0]
        ranks[number, ranking(score(sides), a + b)] = np.arange(1, len(wanted) + 1)
        progress(number + 1, samples)
    low, high = _percentiles(ratios)
    rank_low, rank_high = np.percentile(ranks, LIMITS, axis=0, method="nearest") if len(wanted) else (ranks[0],) * 2
    return Resampled(low, high, rank_low.astype(np.int64), rank_high.astype(np.int64))


def _check_room(samples: int, terms: int) -> None:
    if samples * terms > _MOST_CELLS:
        raise DataError(
            f"--resample {samples}: {terms:,} terms in so many samples do not fit in memory",
            "compare fewer terms, as with --min-freq 10, or draw fewer samples",
        )


def _percentiles(ratios: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    known = ~np.isnan(ratios).all(axis=0)
    found = np.full((2, ratios.shape[1]), np.nan)
    if known.any():
        found[:, known] = np.nanpercentile(ratios[:, known], LIMITS, axis=0)
    return found[0], found[1]


class _Drawn:
    """The units of two sides, from which samples are drawn."""

    def __init__(
        self,
        target: Part,
        reference: Part,
        wanted: np.ndarray,
        units: UnitsOfSides,
        of_documents: bool,
        with_sums: bool,
    ) -> None:
        y1, y2 = unit_matrices(target, reference, wanted, units, of_documents)
        self._sizes, self._both = (units.target, units.reference), units.on_both
        self._counts = [y.transposed().to_sparse() for y in (y1, y2)]
        self._squares = [counts.multiply(counts).tocsr() for counts in self._counts] if with_sums else []
        self._products = self._counts[0].multiply(self._counts[1]).tocsr() if with_sums and self._both.any() else None
        lies = [n > 0 for n in self._sizes]
        strata = (lies[0] & ~self._both, lies[1] & ~self._both, self._both)
        self._strata = [np.flatnonzero(stratum) for stratum in strata]

    def sample(self, chance: "np.random.Generator") -> tuple[np.ndarray, np.ndarray, int, int, UnitSums | None]:
        """(terms,) counts of a sample on both sides, the sizes of these, and what its units give, where wanted."""
        times = np.zeros(len(self._both), dtype=np.int64)
        for stratum in self._strata:
            size = len(stratum)
            if size:
                times[stratum] = np.bincount(chance.integers(0, size, size), minlength=size)
        a, b = (counts @ times for counts in self._counts)
        n1, n2 = (max(int(n @ times), 1) for n in self._sizes)
        return a, b, n1, n2, self._sums(times, a, b, n1, n2) if self._squares else None

    def _sums(self, times: np.ndarray, a: np.ndarray, b: np.ndarray, n1: int, n2: int) -> UnitSums:
        # a unit that is nearly all of a sample has no finite weight, and then there is nothing to divide by
        left = np.maximum(1 - (self._sizes[0] + self._sizes[1]) / (n1 + n2), 1e-9)
        weight = times / left
        alone, shared = np.where(self._both, 0, weight), np.where(self._both, weight, 0)
        own = [self._side(side, alone, times * ~self._both) for side in range(2)]
        if self._products is None:
            return UnitSums(a, b, n1, n2, own[0], own[1])
        on_both = [self._side(side, shared, times * self._both) for side in range(2)]
        crossed = Crossed(
            on_both[0],
            on_both[1],
            self._products @ shared,
            self._counts[0] @ (shared * self._sizes[1]),
            self._counts[1] @ (shared * self._sizes[0]),
            float(shared @ (self._sizes[0] * self._sizes[1])),
        )
        return UnitSums(a, b, n1, n2, own[0], own[1], crossed)

    def _side(self, side: int, weight: np.ndarray, times: np.ndarray) -> Squares:
        n, counts = self._sizes[side], self._counts[side]
        return Squares(counts @ times, self._squares[side] @ weight, counts @ (weight * n), float(weight @ n**2))
