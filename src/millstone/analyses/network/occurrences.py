"""Where terms occur, and how often two of them occur together: in the same unit, or near each other."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from millstone.core.base.arrays import unique
from millstone.core.matrix.cells import SparseMatrix

_BLOCK = 500_000


@dataclass(frozen=True)
class Positions:
    """Occurrences in text order: the first token and the last of each, the number of its term and of its unit."""

    first: np.ndarray
    last: np.ndarray
    term: np.ndarray
    unit: np.ndarray

    def at(self, which: np.ndarray) -> "Positions":
        """Some of them."""
        return Positions(self.first[which], self.last[which], self.term[which], self.unit[which])


@dataclass(frozen=True)
class Occurrences:
    """Occurrences of K terms in U units.

    Attributes
    ----------
    terms : ndarray
        (K,) names, in code-point order.
    counts : SparseMatrix
        (U, K) occurrences.
    tokens : ndarray
        (U,) word tokens.
    positions : Positions or None
        Only where terms are to be near each other.
    are_categories : bool
        Terms are categories: the places of ``a/b`` are those of ``a`` as well, which does not link them.
    """

    terms: np.ndarray
    counts: SparseMatrix
    tokens: np.ndarray
    positions: Positions | None = None
    are_categories: bool = False

    def within(self, units: np.ndarray) -> "Occurrences":
        """Those in some units, (U,) bool; all units stay in number where all are meant."""
        if units.all():
            return self
        positions = self.positions.at(units[self.positions.unit]) if self.positions is not None else None
        return replace(self, counts=self.counts.rows(units), tokens=self.tokens[units], positions=positions)

    def are_nested(self, a: np.ndarray, b: np.ndarray) -> np.ndarray:
        """(pairs,) bool: whether the second of two terms is a part of the first."""
        if not self.are_categories:
            return np.zeros(len(a), dtype=bool)
        pairs = zip(self.terms[a], self.terms[b], strict=True)
        return np.array([other.startswith(f"{one}/") for one, other in pairs], dtype=bool)


@dataclass(frozen=True)
class Together:
    """How often terms occur, and which pairs do so together.

    Attributes
    ----------
    each : ndarray
        (K,) int64 units with the term, or its occurrences.
    of : int
        Units, or word tokens.
    a, b : ndarray
        (pairs,) numbers of the two terms, a before b.
    both : ndarray
        (pairs,) int64, above 0.
    """

    each: np.ndarray
    of: int
    a: np.ndarray
    b: np.ndarray
    both: np.ndarray


def in_units(occurrences: Occurrences) -> Together:
    """Pairs in the same unit."""
    from scipy import sparse

    counts = occurrences.counts
    here = counts.with_data(np.ones(counts.nnz, dtype=np.int32)).to_sparse()
    pairs = sparse.triu(here.T @ here, k=1).tocoo()
    each = np.bincount(here.indices, minlength=len(occurrences.terms)).astype(np.int64)
    return Together(each, here.shape[0], *_in_order(pairs.row, pairs.col, pairs.data.astype(np.int64)))


def near(occurrences: Occurrences, span: int) -> Together:
    """Pairs at most `span` tokens apart in the same unit.

    The smaller of two numbers is theirs: the occurrences of the one term that have the other near, and the reverse.
    """
    positions = occurrences.positions
    assert positions is not None
    number = len(occurrences.terms)
    has_near = np.zeros((number, number), dtype=np.int64)
    for which, other in _neighbours(positions, span):
        # an occurrence counts once, however often the other term is near it
        different = unique(which * number + positions.term[other])
        term = positions.term[different // number]
        np.add.at(has_near, (term, different % number), 1)
    both = np.triu(np.minimum(has_near, has_near.T), k=1)
    a, b = np.nonzero(both)
    each = np.bincount(positions.term, minlength=number).astype(np.int64)
    return Together(each, int(occurrences.tokens.sum()), *_in_order(a, b, both[a, b]))


def _neighbours(positions: Positions, span: int) -> Iterator[tuple[np.ndarray, np.ndarray]]:
    """Occurrences, block by block, each with every one of another term that is near it: the numbers of both."""
    size = len(positions.first)
    longest = int((positions.last - positions.first).max(initial=0))
    for begin in range(0, size, _BLOCK):
        which, others = [], []
        for outwards in (1, -1):
            here, step = np.arange(begin, min(begin + _BLOCK, size)), outwards
            while len(here):
                other = here + step
                here, other = (one[(other >= 0) & (other < size)] for one in (here, other))
                low, high = (other, here) if outwards < 0 else (here, other)
                # beyond this none can be near, however long it is
                inside = positions.first[high] - positions.first[low] <= span + longest
                inside &= positions.unit[high] == positions.unit[low]
                here, other, low, high = (one[inside] for one in (here, other, low, high))
                fits = positions.first[high] - positions.last[low] <= span
                fits &= positions.term[here] != positions.term[other]
                which.append(here[fits])
                others.append(other[fits])
                step += outwards
        yield np.concatenate(which), np.concatenate(others)


def _in_order(a: np.ndarray, b: np.ndarray, both: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    order = np.lexsort((b, a))
    return a[order].astype(np.int64), b[order].astype(np.int64), both[order]
