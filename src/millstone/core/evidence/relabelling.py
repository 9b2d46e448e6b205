"""The ways to put sampling units on two sides anew, as if nothing but chance had put them there."""

from collections.abc import Iterator
from itertools import combinations, islice, product
from math import comb, lgamma, log

import numpy as np

from millstone.core.base.light_dataclass import frozen

VERY_MANY = 10**18
"""More ways than this are not told apart."""
AS_FAR = 1 - 1e-9
"""A statistic so much smaller than another, relatively, still counts as as far."""


@frozen
class Relabelling:
    """Units of two sides: those on one side are put on the sides at random, those on both swap what they have there.

    Attributes
    ----------
    n1, n2 : int
        Observations of each side; those of the first one have the first rows.
    pairs : ndarray
        (pairs, 2) int64: the rows of each unit that lies on both sides, that of the first side first.
    """

    n1: int
    n2: int
    pairs: np.ndarray

    @property
    def alone(self) -> np.ndarray:
        """(rows,) the rows of units that lie on one side only, rising."""
        is_alone = np.ones(self.n1 + self.n2, dtype=bool)
        is_alone[self.pairs] = False
        return np.flatnonzero(is_alone)

    @property
    def ways(self) -> int:
        """How many there are, no more than `VERY_MANY`: the exact number would take long for many units."""
        alone = self.alone
        number, first = len(alone), int((alone < self.n1).sum())
        digits = lgamma(number + 1) - lgamma(first + 1) - lgamma(number - first + 1) + len(self.pairs) * log(2)
        return comb(number, first) * 2 ** len(self.pairs) if digits < log(VERY_MANY) else VERY_MANY

    @property
    def smallest_p(self) -> float:
        """The smallest p that counting all of them can give."""
        # where as many units are free on each side, every way has a mirror image that is as far
        alone = self.alone
        return (2 if 2 * int((alone < self.n1).sum()) == len(alone) else 1) / self.ways

    @property
    def seen(self) -> np.ndarray:
        """(rows, 1) 1 for the first side, 0 for the second, as it is."""
        found = np.zeros((self.n1 + self.n2, 1))
        found[: self.n1] = 1
        return found

    def some(self, draws: int, seed: int, at_once: int) -> Iterator[np.ndarray]:
        """(rows, some) labels as in `seen`, some ways at a time: each once where `draws` allow it, else drawn."""
        enumerated = self.ways <= draws
        labels = self._every() if enumerated else self._drawn(seed)
        left = self.ways if enumerated else draws
        while left > 0:
            number = min(at_once, left)
            left -= number
            yield np.stack(list(islice(labels, number)), axis=1)

    def p(self, hits: np.ndarray, draws: int) -> np.ndarray:
        """p from how many of the tried ways were as far as what is seen; what is seen is one of them."""
        ways = self.ways
        return hits / ways if ways <= draws else (1 + hits) / (1 + draws)

    def _every(self) -> Iterator[np.ndarray]:
        alone = self.alone
        for chosen in combinations(alone.tolist(), int((alone < self.n1).sum())):
            for sides in product((0, 1), repeat=len(self.pairs)):
                found = np.zeros(self.n1 + self.n2)
                found[list(chosen)] = 1
                found[self.pairs[np.arange(len(sides)), list(sides)]] = 1
                yield found

    def _drawn(self, seed: int) -> Iterator[np.ndarray]:
        chance, alone = np.random.default_rng(seed), self.alone
        number, pairs = int((alone < self.n1).sum()), np.arange(len(self.pairs))
        while True:
            found = np.zeros(self.n1 + self.n2)
            found[alone[chance.permutation(len(alone))[:number]]] = 1
            if len(pairs):
                found[self.pairs[pairs, chance.integers(0, 2, len(pairs))]] = 1
            yield found


def on_sides(side: np.ndarray, unit: np.ndarray) -> tuple[np.ndarray, Relabelling]:
    """The units of two sides as observations that may be relabelled.

    Parameters
    ----------
    side : ndarray
        (documents,) 0 or 1; -1 for documents of neither.
    unit : ndarray
        (documents,) int64 the number of the sampling unit of each.

    Returns
    -------
    row : ndarray
        (documents,) int64 the row of each among the labels; -1 for documents of neither side.
    labels : Relabelling
    """
    own, other = (np.unique(unit[side == number]) for number in (0, 1))
    row = np.full(len(side), -1)
    row[side == 0] = np.searchsorted(own, unit[side == 0])
    row[side == 1] = len(own) + np.searchsorted(other, unit[side == 1])
    return row, Relabelling(len(own), len(other), pairs_of(own, other))


def pairs_of(first: np.ndarray, second: np.ndarray) -> np.ndarray:
    """(pairs, 2) the rows of units that are in both of two samples, from the units of the observations.

    Parameters
    ----------
    first : ndarray
        (units of the first sample,) the number of each unit.
    second : ndarray
        (units of the second sample,) the number of each unit.

    Returns
    -------
    ndarray
        int64; rows of the second sample come after those of the first.
    """
    _, here, there = np.intersect1d(first, second, assume_unique=True, return_indices=True)
    return np.stack((here, len(first) + there), axis=1).astype(np.int64)
