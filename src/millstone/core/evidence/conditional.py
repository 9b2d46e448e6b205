"""The ratio of two rates with fields of the documents held equal: is it the group, or what goes with it?"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from millstone.core.base.arrays import unique_inverse
from millstone.core.base.light_dataclass import frozen
from millstone.core.evidence.poisson import PoissonFit, fit_rates, residual_of
from millstone.core.matrix.cells import SparseMatrix, remap_columns
from millstone.core.statistics.contingency import Z95
from millstone.core.statistics.significance import chi2_upper_tail

_LN2 = float(np.log(2))
_CELLS, _VALUES = 1 << 18, 1 << 20
_NO_EVIDENCE, _NO_INFORMATION = 1e-6, 1e-6
_SMALL, _NEGLIGIBLE = 0.3, 1e-17
_PIECES = 1 << 20


@frozen
class ConditionalRatios:
    """Ratios of two rates where documents are alike in some fields.

    Attributes
    ----------
    log_ratio, low, high : ndarray
        (terms,) float, binary logarithms and the ends of 95 % intervals; NaN where the estimate is infinite.
    p : ndarray
        (terms,) 0 to 1; NaN where a term says nothing, since it occurs only where one side alone has texts.
    """

    log_ratio: np.ndarray
    low: np.ndarray
    high: np.ndarray
    p: np.ndarray


@dataclass(frozen=True, eq=False)
class AdjustedDesign:
    """Documents of two sides with their patterns of fields.

    Attributes
    ----------
    in_target : ndarray
        (documents,) bool.
    unit : ndarray
        (documents,) the number of each one's sampling unit.
    pattern : ndarray
        (documents,) the row of `patterns` of each.
    patterns : ndarray
        (patterns, p) float, with a column of ones.
    tokens : ndarray
        (documents,) above 0.
    """

    in_target: np.ndarray
    unit: np.ndarray
    pattern: np.ndarray
    patterns: np.ndarray
    tokens: np.ndarray

    @property
    def separates(self) -> bool:
        """Whether the fields say which side a document is on, so that nothing is left to compare."""
        left = residual_of(self.side, self.columns, self.sizes[:, None])[:, 0]
        return bool(self.sizes @ left**2 < _NO_INFORMATION * self.sizes.sum())

    @cached_property
    def of_fields(self) -> int:
        """How many columns beside the ones say something of their own."""
        return int(np.linalg.matrix_rank(self.patterns)) - 1

    @cached_property
    def units(self) -> int:
        """How many sampling units there are."""
        return len(np.unique(self.unit))

    @cached_property
    def cell(self) -> np.ndarray:
        """(documents,) the cell of each: a pattern on a side."""
        return self._cells[1]

    @cached_property
    def _cells(self) -> tuple[np.ndarray, np.ndarray]:
        return unique_inverse(2 * self.pattern.astype(np.int64) + self.in_target)

    @cached_property
    def side(self) -> np.ndarray:
        """(K,) 1 for cells of the target, 0 for those of the reference."""
        return (self._cells[0] % 2).astype(float)

    @cached_property
    def columns(self) -> np.ndarray:
        """(K, p) the columns of the fields in each cell."""
        found: np.ndarray = self.patterns[self._cells[0] // 2]
        return found

    @cached_property
    def sizes(self) -> np.ndarray:
        """(K,) float, tokens of each cell."""
        return np.bincount(self.cell, weights=self.tokens)

    @cached_property
    def _pieces(self) -> tuple[np.ndarray, np.ndarray]:
        number = len(self._cells[0])
        _, unit = unique_inverse(self.unit.astype(np.int64))
        return unique_inverse(unit * number + self.cell)

    @cached_property
    def piece(self) -> np.ndarray:
        """(documents,) the piece of each: a unit in a cell; pieces are in the order of their units."""
        return self._pieces[1]

    @cached_property
    def unit_of_piece(self) -> np.ndarray:
        """(pieces,)"""
        return np.asarray(self._pieces[0] // len(self._cells[0]))

    @cached_property
    def cell_of_piece(self) -> np.ndarray:
        """(pieces,)"""
        return np.asarray(self._pieces[0] % len(self._cells[0]))

    @cached_property
    def alone(self) -> np.ndarray:
        """(pieces,) bool: which pieces are all that their units have."""
        return np.asarray(np.bincount(self.unit_of_piece)[self.unit_of_piece] == 1)

    @cached_property
    def piece_sizes(self) -> np.ndarray:
        """(pieces,) float, tokens of each piece."""
        return np.bincount(self.piece, weights=self.tokens)

    @cached_property
    def on_both(self) -> np.ndarray:
        """(units,) bool: which units lie on both sides."""
        of_target = np.bincount(self.unit_of_piece, weights=self.side[self.cell_of_piece])
        every = np.bincount(self.unit_of_piece)
        return np.asarray((of_target > 0) & (of_target < every))


def conditional_ratios(counts: SparseMatrix, design: AdjustedDesign) -> ConditionalRatios:
    """The ratio of the rates of two sides among documents that are alike in some fields.

    Parameters
    ----------
    counts : SparseMatrix
        (documents, terms) occurrences.
    design : AdjustedDesign
        Two sampling units more than columns that say something.

    Returns
    -------
    ConditionalRatios

    References
    ----------
    McCullagh, P. & Nelder, J. A. (1989). Generalized linear models, chapters 6 and 9. Wedderburn, R. W. M. (1974).
    Quasi-likelihood functions, generalized linear models, and the Gauss-Newton method.

    Notes
    -----
    Two log-linear models are fitted to the cells of patterns and sides: one of the fields, and one of the fields and
    the side. p is of their likelihood ratio by the dispersion of units around the first; the interval is as wide as
    that says.
    """
    by_term = counts.transposed()
    at_once = max(1, min(_CELLS // len(design.sizes), _VALUES // design.columns.shape[1] ** 2))
    found = [
        _of_some(by_term.rows(slice(first, first + at_once)), design) for first in range(0, by_term.shape[0], at_once)
    ]
    if not found:
        return ConditionalRatios(*(np.zeros(0) for _ in range(4)))
    return ConditionalRatios(*(np.concatenate(parts) for parts in zip(*found, strict=True)))


def _of_some(own: SparseMatrix, design: AdjustedDesign) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Log ratio, its ends, and p of some terms."""
    y = _added(own, design.cell, len(design.sizes))
    total = y.sum(axis=0)
    possible = _possible(y, design.columns)
    null = fit_rates(y, design.sizes, design.columns, possible)
    sides = np.stack((1 - design.side, design.side), axis=1)
    with_side = np.concatenate((design.columns, design.side[:, None]), axis=1)
    full = fit_rates(y, design.sizes, with_side, possible & _possible(y, sides))
    apart = residual_of(design.side, design.columns, null.mean)
    informed = (apart**2 * null.mean).sum(axis=0)
    evidence = _evidence(y, null, full)
    dispersion = _dispersion(own, null.mean, apart, informed, design)
    information = (residual_of(design.side, design.columns, full.mean) ** 2 * full.mean).sum(axis=0)
    says = (total > 0) & (informed > _NO_INFORMATION * np.maximum(total, 1))
    finite = says & (information > _NO_INFORMATION)
    beta = np.where(finite, full.effects[-1], np.nan)
    with np.errstate(divide="ignore", invalid="ignore"):
        error = np.where(evidence > _NO_EVIDENCE, np.abs(beta) / np.sqrt(evidence), 1 / np.sqrt(information))
        half = Z95 * np.sqrt(dispersion) * error
        p = np.where(says, chi2_upper_tail(np.where(says, evidence / dispersion, 0.0)), np.nan)
    return beta / _LN2, (beta - half) / _LN2, (beta + half) / _LN2, p


def _added(own: SparseMatrix, place: np.ndarray, number: int) -> np.ndarray:
    """(number, terms) the occurrences of some terms, (terms, documents), in the places where documents are."""
    terms = own.shape[0]
    at = place[own.indices] * terms + own.row_of_cells
    return np.bincount(at, weights=own.data, minlength=number * terms).reshape(number, terms)


def _possible(y: np.ndarray, columns: np.ndarray) -> np.ndarray:
    """(K, T) bool: cells of no level from which a term is absent."""
    is_level = ((columns == 0) | (columns == 1)).all(axis=0)
    levels = columns[:, is_level]
    absent: np.ndarray = (levels.T @ y) == 0
    return np.asarray(levels @ absent == 0)


def _evidence(y: np.ndarray, null: PoissonFit, full: PoissonFit) -> np.ndarray:
    """(T,) the drop in deviance from one fit to the other, 0 or more."""
    with np.errstate(divide="ignore", invalid="ignore"):
        gained = np.where(y > 0, y * np.log(full.mean / null.mean), 0.0).sum(axis=0)
    found: np.ndarray = np.maximum(2 * (gained - full.mean.sum(axis=0) + null.mean.sum(axis=0)), 0)
    return found


def _dispersion(
    own: SparseMatrix, mean: np.ndarray, apart: np.ndarray, informed: np.ndarray, design: AdjustedDesign
) -> np.ndarray:
    """(T,) how many times more units vary around the fields' fit than chance would, 1 or more.

    Of most units a term is absent. Those in one cell whose share is small are summed up by a power series in their
    share and by what they have; the others one by one.
    """
    total = mean.sum(axis=0)
    rates = mean / design.sizes[:, None]
    with np.errstate(divide="ignore", invalid="ignore"):
        largest = np.nan_to_num(rates / total).max(axis=1)[design.cell_of_piece] * design.piece_sizes
    summed = design.alone & (largest < _SMALL)
    away, counted = _of_summed(
        own, rates, total, np.flatnonzero(summed), float(largest[summed].max(initial=0)), design
    )
    others = np.flatnonzero(~summed)
    at_once = max(1, _PIECES // max(len(others), 1))
    for first in range(0, len(total) if len(others) else 0, at_once):
        some = slice(first, first + at_once)
        more = _of_pieces(own.rows(some), rates[:, some], total[some], apart[:, some], informed[some], others, design)
        away[some] += more[0]
        counted[some] += more[1]
    with np.errstate(divide="ignore", invalid="ignore"):
        found = design.units / (design.units - design.of_fields) * away / counted
    values: np.ndarray = np.where(found > 1, found, 1.0)
    return values


def _of_summed(
    own: SparseMatrix,
    rates: np.ndarray,
    total: np.ndarray,
    pieces: np.ndarray,
    largest: float,
    design: AdjustedDesign,
) -> tuple[np.ndarray, np.ndarray]:
    """(T,) each: the weighted squares of the residuals of units that are one piece each, and their occurrences.

    With h the share of a unit, those without the term have the sum of ``(n r)^2 / (1 - h)``, which is that of
    ``(n r)^2 h^j`` over all j.
    """
    cell, sizes, terms = design.cell_of_piece[pieces], design.piece_sizes[pieces], len(total)
    most = np.ones(len(rates))
    np.maximum.at(most, cell, sizes)
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.nan_to_num(rates / total) * most[:, None]
    series = np.zeros((len(rates), terms))
    steps = 1 if largest <= 0 else int(np.ceil(np.log(_NEGLIGIBLE) / np.log(min(largest, _SMALL)))) + 1
    for power in range(steps + 1, 1, -1):
        moment = np.bincount(cell, weights=(sizes / most[cell]) ** power, minlength=len(rates))
        series = series * share + moment[:, None]
    away = ((rates * most[:, None]) ** 2 * series).sum(axis=0)
    place = np.full(len(design.piece_sizes), -1, dtype=np.int64)
    place[pieces] = np.arange(len(pieces))
    y = remap_columns(own, place[design.piece].astype(np.int32), len(pieces))
    term, unit, times = y.row_of_cells, y.indices, y.data.astype(float)
    expected = sizes[unit] * rates[cell[unit], term]
    weight = 1 / (1 - expected / total[term])
    away += np.bincount(term, weights=weight * times * (times - 2 * expected), minlength=terms)
    return away, np.bincount(term, weights=times, minlength=terms).astype(float)


def _of_pieces(
    own: SparseMatrix,
    rates: np.ndarray,
    total: np.ndarray,
    apart: np.ndarray,
    informed: np.ndarray,
    pieces: np.ndarray,
    design: AdjustedDesign,
) -> tuple[np.ndarray, np.ndarray]:
    """(T,) each: the weighted squares of the residuals of the units of some pieces, and what they are divided by.

    A unit on both sides enters by what sets its sides apart.
    """
    place = np.full(len(design.piece_sizes), len(pieces))
    place[pieces] = np.arange(len(pieces))
    y = _added(own, place[design.piece], len(pieces) + 1)[:-1]
    cell, unit = design.cell_of_piece[pieces], design.unit_of_piece[pieces]
    starts = np.flatnonzero(np.diff(unit, prepend=-1))
    expected = rates[cell] * design.piece_sizes[pieces][:, None]
    left = y - expected
    with np.errstate(divide="ignore", invalid="ignore"):
        rest = 1 - np.add.reduceat(expected, starts, axis=0) / total
        weight = np.where(rest > _NO_INFORMATION, 1 / rest, 0.0)
        away = np.add.reduceat(left, starts, axis=0) ** 2
        counted = np.add.reduceat(y, starts, axis=0)
        both = design.on_both[unit[starts]][:, None]
        if both.any():
            scaled = apart[cell] * np.sqrt(total / informed)
            away = np.where(both, np.add.reduceat(scaled * left, starts, axis=0) ** 2, away)
            counted = np.where(both, np.add.reduceat(scaled**2 * y, starts, axis=0), counted)
    return (weight * away).sum(axis=0), counted.sum(axis=0)
