"""Sums over the sampling units of two sides, a few millions of cells at a time: none are kept."""

from collections.abc import Iterator

import numpy as np

from millstone.core.base.light_dataclass import frozen
from millstone.core.evidence.quasi_likelihood import Crossed, Squares, UnitSums, dispersion
from millstone.core.evidence.sampling import SamplingUnits
from millstone.core.matrix.cells import SparseMatrix, remap_columns, row_batches
from millstone.core.statistics.contingency import log_likelihood
from millstone.core.statistics.significance import chi2_upper_tail
from millstone.core.terms.counts import Part


@frozen
class UnitsOfSides:
    """The sampling units of two sides that have tokens, and the documents of each.

    Attributes
    ----------
    target, reference : ndarray
        (units,) int64 the tokens of each unit on a side, 0 where it does not lie there; or its documents.
    rows : tuple of ndarray
        For each side, its rows in the order of their units.
    ends : tuple of ndarray
        For each side, (units + 1,) where the rows of each unit start among these.
    """

    target: np.ndarray
    reference: np.ndarray
    rows: tuple[np.ndarray, np.ndarray]
    ends: tuple[np.ndarray, np.ndarray]

    @classmethod
    def of(cls, target: Part, reference: Part, units: SamplingUnits, of_documents: bool = False) -> "UnitsOfSides":
        """The units of two sides; `of_documents` counts documents, those without tokens too, in place of tokens."""
        sides = [_side(part, of_documents) for part in (target, reference)]
        present = np.zeros(int(units.of.max(initial=-1)) + 1, dtype=bool)
        for rows, _ in sides:
            present[units.of[rows]] = True
        place = np.cumsum(present) - 1
        number = int(present.sum())
        sizes, orders, ends = [], [], []
        for rows, base in sides:
            unit = place[units.of[rows]]
            orders.append(np.argsort(unit, kind="stable"))
            ends.append(np.concatenate(([0], np.cumsum(np.bincount(unit, minlength=number)))))
            sizes.append(np.bincount(unit, weights=base, minlength=number))
        return cls(sizes[0], sizes[1], (orders[0], orders[1]), (ends[0], ends[1]))

    @property
    def number(self) -> tuple[int, int]:
        """How many units lie on each side."""
        return int((self.target > 0).sum()), int((self.reference > 0).sum())

    @property
    def on_both(self) -> np.ndarray:
        """(units,) bool: which lie on both sides."""
        return (self.target > 0) & (self.reference > 0)

    @property
    def weight(self) -> np.ndarray:
        """(units,) ``1 / (1 - h)``, h the share of the unit in all tokens; one unit alone has no finite weight."""
        every = self.target + self.reference
        found: np.ndarray = 1 / (1 - every / every.sum())
        return found


def _side(part: Part, of_documents: bool) -> tuple[np.ndarray, np.ndarray]:
    """The rows of a side among all documents, and the size of each."""
    if of_documents:
        return part.rows, np.ones(len(part.rows))
    return part.rows_with_tokens, part.base


def unit_sums(
    target: Part, reference: Part, wanted: np.ndarray, units: UnitsOfSides, of_documents: bool = False
) -> UnitSums:
    """The sums of some terms over the units of two sides.

    Parameters
    ----------
    target, reference : Part
    wanted : ndarray
        (wanted,) numbers of terms.
    units : UnitsOfSides
        Two or more.
    of_documents : bool
        Documents that have a term are counted, not occurrences; `units` were made likewise.

    Returns
    -------
    UnitSums
        Of (wanted,) terms.
    """
    both, weight, terms = units.on_both, units.weight, len(target.counts.terms)
    sizes = (units.target, units.reference)
    alone = [_Side(n, np.where(both, 0, weight), terms) for n in sizes]
    shared = [_Side(n, np.where(both, weight, 0), terms) for n in sizes] if both.any() else []
    crossed = _Products(sizes, np.where(both, weight, 0), terms) if shared else None
    for some, *counted in _by_unit(target, reference, units, of_documents):
        for side, y in enumerate(counted):
            for sums in (alone, shared) if shared else (alone,):
                sums[side].add(some, y)
        if crossed is not None:
            crossed.add(some, *counted)
    n1, n2 = (int(n.sum()) for n in sizes)
    own = [side.sums(wanted) for side in alone]
    if crossed is None:
        return UnitSums(own[0].counts, own[1].counts, n1, n2, own[0], own[1])
    on_both = [side.sums(wanted) for side in shared]
    a, b = (one.counts + other.counts for one, other in zip(own, on_both, strict=True))
    return UnitSums(a, b, n1, n2, own[0], own[1], crossed.sums(on_both[0], on_both[1], wanted))


def units_and_sums(
    target: Part, reference: Part, wanted: np.ndarray, sampling: SamplingUnits | None, of_documents: bool = False
) -> tuple[UnitsOfSides | None, UnitSums | None]:
    """The units of two sides, and the sums of some terms over them; None where a side has not two units.

    Parameters
    ----------
    target : Part
        Counts of the first side.
    reference : Part
        Counts of the second side.
    wanted : ndarray
        (terms,) the numbers of the terms.
    sampling : SamplingUnits or None
        The sampling units of the documents; None where these are not known.
    of_documents : bool, optional
        Documents with a term are counted, not its tokens.

    Returns
    -------
    tuple[UnitsOfSides or None, UnitSums or None]
    """
    if sampling is None:
        return None, None
    units = UnitsOfSides.of(target, reference, sampling, of_documents)
    if min(units.number) < 2:
        return units, None
    return units, unit_sums(target, reference, wanted, units, of_documents)


_VERY_MANY = 1e9


def smallest_p(units: UnitsOfSides) -> float:
    """The smallest p over units that any term can reach: that of one which is on one side only, as evenly as can be.

    With more and more occurrences its log-likelihood and its dispersion grow alike, so that there is a limit.

    Parameters
    ----------
    units : UnitsOfSides
        The units of both sides.

    Returns
    -------
    float
        0 to 1.
    """
    nothing, weight, both = np.zeros(1), units.weight, units.on_both
    sizes = (units.target, units.reference)
    n1, n2 = (int(n.sum()) for n in sizes)
    found = []
    for side, own in enumerate(sizes):
        # the units of the side are as far as each other, weighted, from what equal rates would give them
        left = _VERY_MANY * (1 - own.sum() / (n1 + n2))
        share = own / own.sum() if both.any() else np.where(own > 0, 1 / weight, 0)
        y = own * _VERY_MANY / (n1 + n2) + left * share / share.sum()
        counted = [np.where(side == one, y, 0) for one in range(2)]
        alone = [_squares(y, n, np.where(both, 0, weight)) for y, n in zip(counted, sizes, strict=True)]
        shared = [_squares(y, n, np.where(both, weight, 0)) for y, n in zip(counted, sizes, strict=True)]
        on_both = np.where(both, weight, 0)
        crossed = Crossed(
            shared[0],
            shared[1],
            nothing,
            np.array([on_both @ (counted[0] * sizes[1])]),
            np.array([on_both @ (counted[1] * sizes[0])]),
            float(on_both @ (sizes[0] * sizes[1])),
        )
        a, b = (np.array([y.sum()]) for y in counted)
        sums = UnitSums(a, b, n1, n2, alone[0], alone[1], crossed if both.any() else None)
        statistic = log_likelihood(a, b, n1, n2) / dispersion(sums, nothing)
        found.append(float(chi2_upper_tail(statistic)[0]))
    return min(found)


def _squares(y: np.ndarray, n: np.ndarray, weight: np.ndarray) -> Squares:
    """The sums of one term over some units, those without weight left out."""
    sums = (y[weight > 0].sum(), weight @ y**2, weight @ (y * n))
    counts, squares, products = (np.array([float(one)]) for one in sums)
    return Squares(counts, squares, products, float(weight @ n**2))


def unit_matrices(
    target: Part, reference: Part, wanted: np.ndarray, units: UnitsOfSides, of_documents: bool = False
) -> tuple[SparseMatrix, SparseMatrix]:
    """(units, wanted) each: what every unit has on the one side and on the other.

    Parameters
    ----------
    target : Part
        Counts of the first side.
    reference : Part
        Counts of the second side.
    wanted : ndarray
        (terms,) the numbers of the terms.
    units : UnitsOfSides
        The units of both sides.
    of_documents : bool, optional
        Documents with a term are counted, not its tokens.

    Returns
    -------
    tuple[SparseMatrix, SparseMatrix]
    """
    found = [
        (y1.columns(wanted), y2.columns(wanted)) for _, y1, y2 in _by_unit(target, reference, units, of_documents)
    ]
    y1, y2 = (SparseMatrix.stacked(matrices) for matrices in zip(*found, strict=True))
    return y1, y2


def _by_unit(
    target: Part, reference: Part, units: UnitsOfSides, of_documents: bool
) -> Iterator[tuple[slice, SparseMatrix, SparseMatrix]]:
    """Some units at a time: which, and (units, terms) what each has on the one side and on the other."""
    matrices = [part.counts.matrix.rows(part.rows) if of_documents else part.matrix for part in (target, reference)]
    cells = np.zeros(len(units.target) + 1, dtype=np.int64)
    for matrix, order, ends in zip(matrices, units.rows, units.ends, strict=True):
        cells += np.concatenate(([0], np.cumsum(np.diff(matrix.indptr)[order])))[ends]
    for some in row_batches(cells):
        found = [
            _together(
                matrix, order[ends[some.start] : ends[some.stop]], ends[some.start : some.stop + 1], of_documents
            )
            for matrix, order, ends in zip(matrices, units.rows, units.ends, strict=True)
        ]
        yield some, found[0], found[1]


def _together(matrix: SparseMatrix, rows: np.ndarray, ends: np.ndarray, of_documents: bool) -> SparseMatrix:
    """(units, terms) the rows of each unit added up; `ends` says where those of each start, not from 0."""
    own = matrix.rows(rows)
    if of_documents:
        own = own.with_data(np.ones_like(own.data))
    if len(rows) == len(ends) - 1 and (np.diff(ends) == 1).all():
        return own
    columns = own.shape[1]
    joint = SparseMatrix(own.data, own.indices, own.indptr[ends - ends[0]], (len(ends) - 1, columns))
    return remap_columns(joint, np.arange(columns, dtype=np.int32), columns)


class _Side:
    """The sums over the units of one side, to which some are added at a time; those without weight are left out."""

    def __init__(self, sizes: np.ndarray, weight: np.ndarray, terms: int) -> None:
        self._sizes, self._weight = sizes, weight
        self._counts, self._squares, self._products = (np.zeros(terms) for _ in range(3))

    def add(self, some: slice, y: SparseMatrix) -> None:
        """Add what some units have."""
        unit, weight = y.row_of_cells, self._weight[some]
        _add(self._counts, y.indices, (weight > 0)[unit] * y.data)
        _add(self._squares, y.indices, weight[unit] * y.data.astype(float) ** 2)
        _add(self._products, y.indices, (weight * self._sizes[some])[unit] * y.data)

    def sums(self, wanted: np.ndarray) -> Squares:
        """The sums of the wanted terms."""
        sizes = float(self._weight @ self._sizes**2)
        return Squares(self._counts[wanted], self._squares[wanted], self._products[wanted], sizes)


class _Products:
    """The sums of products of what units have on the one side and on the other."""

    def __init__(self, sizes: tuple[np.ndarray, np.ndarray], weight: np.ndarray, terms: int) -> None:
        self._sizes, self._weight = sizes, weight
        self._counts, self._target_sizes, self._reference_sizes = (np.zeros(terms) for _ in range(3))

    def add(self, some: slice, y1: SparseMatrix, y2: SparseMatrix) -> None:
        """Add what some units have on the two sides."""
        weight, terms = self._weight[some], len(self._counts)
        n1, n2 = (n[some] for n in self._sizes)
        unit1, unit2 = y1.row_of_cells, y2.row_of_cells
        _add(self._target_sizes, y1.indices, (weight * n2)[unit1] * y1.data)
        _add(self._reference_sizes, y2.indices, (weight * n1)[unit2] * y2.data)
        found, first, second = np.intersect1d(
            unit1 * terms + y1.indices, unit2 * terms + y2.indices, assume_unique=True, return_indices=True
        )
        unit, term = np.divmod(found, terms)
        _add(self._counts, term, weight[unit] * y1.data[first] * y2.data[second])

    def sums(self, target: Squares, reference: Squares, wanted: np.ndarray) -> Crossed:
        """The sums of the wanted terms, with those of each side."""
        return Crossed(
            target,
            reference,
            self._counts[wanted],
            self._target_sizes[wanted],
            self._reference_sizes[wanted],
            float(self._weight @ (self._sizes[0] * self._sizes[1])),
        )


def _add(total: np.ndarray, places: np.ndarray, values: np.ndarray) -> None:
    total += np.bincount(places, weights=values, minlength=len(total))
