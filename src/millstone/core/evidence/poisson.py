"""Log-linear models of counts: many terms at once over the cells of one design."""

import numpy as np

from millstone.core.base.light_dataclass import frozen

_MOST_STEPS = 100
_MOST_HALVINGS = 30
_NEAR_ENOUGH = 1e-10
_RIDGE = 1e-9


@frozen
class PoissonFit:
    """Fitted counts of T terms in K cells, in each of which a rate is the product of the effects of its columns.

    Attributes
    ----------
    mean : ndarray
        (K, T) float; 0 in cells that can have none, since a column has no occurrences at all.
    effects : ndarray
        (p, T) float, natural logarithms; of columns that say the same together, those nearest 0.
    """

    mean: np.ndarray
    effects: np.ndarray


def fit_rates(counts: np.ndarray, sizes: np.ndarray, columns: np.ndarray, possible: np.ndarray) -> PoissonFit:
    """Fit counts with means ``n exp(x g)`` by maximum likelihood.

    Parameters
    ----------
    counts : ndarray
        (K, T) occurrences.
    sizes : ndarray
        (K,) tokens, above 0.
    columns : ndarray
        (K, p) the design x, with a column of ones; columns may depend on each other.
    possible : ndarray
        (K, T) bool: cells that can have occurrences; False where a column of 0 and 1 has none in any of its cells.

    Returns
    -------
    PoissonFit

    References
    ----------
    Nelder, J. A. & Wedderburn, R. W. M. (1972). Generalized linear models.

    Notes
    -----
    Newton's steps, halved where the likelihood would fall. Where an estimate is infinite the means go to 0 in the
    cells that it empties, until nothing is left to gain.
    """
    n = np.where(possible, sizes[:, None], 0.0)
    total = counts.sum(axis=0)
    # a first step from the counts themselves, drawn towards equal rates, so that none has to climb far
    with np.errstate(divide="ignore", invalid="ignore"):
        start = np.where(n > 0, counts + 0.5 * n * total / n.sum(axis=0), 0.0)
        level = np.where(n > 0, np.log(start / n), 0.0)
    start, level = np.nan_to_num(start), np.nan_to_num(level)
    effects = _solve(_information(start, columns), columns.T @ (start * level), start.sum(axis=0))
    mean = np.zeros(counts.shape)
    open_ = np.flatnonzero(total > 0)
    y, n, at = counts[:, open_].astype(float), n[:, open_], effects[:, open_]
    here = _means(n, columns, at)
    gain = _likelihood(y, columns, at, here)
    for _ in range(_MOST_STEPS):
        gradient = columns.T @ (y - here)
        step = _solve(_information(here, columns), gradient, total[open_])
        left = (gradient * step).sum(axis=0)
        at, here, gain = _climbed(y, n, columns, at, step, gain)
        go_on = left > _NEAR_ENOUGH * np.maximum(1, 1e-3 * total[open_])
        if not go_on.all():
            effects[:, open_], mean[:, open_] = at, here
            open_, y, n, at, here, gain = (
                open_[go_on],
                y[:, go_on],
                n[:, go_on],
                at[:, go_on],
                here[:, go_on],
                gain[go_on],
            )
        if not len(open_):
            break
    effects[:, open_], mean[:, open_] = at, here
    return PoissonFit(mean, effects)


def residual_of(indicator: np.ndarray, columns: np.ndarray, weight: np.ndarray) -> np.ndarray:
    """Residuals of an indicator after a weighted regression on the columns of a design, for each term.

    Parameters
    ----------
    indicator : ndarray
        (K,)
    columns : ndarray
        (K, p)
    weight : ndarray
        (K, T) 0 or more.

    Returns
    -------
    ndarray
        (K, T)
    """
    information, total = _information(weight, columns), weight.sum(axis=0)
    left = np.repeat(indicator[:, None].astype(float), weight.shape[1], axis=1)
    for _ in range(2):
        # a second time for what the ridge held back
        left = left - columns @ _solve(information, columns.T @ (weight * left), total)
    return left


def _climbed(
    counts: np.ndarray,
    n: np.ndarray,
    columns: np.ndarray,
    effects: np.ndarray,
    step: np.ndarray,
    gain: np.ndarray,
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """The effects after a step that does not lower the likelihood, with the means and the likelihood."""
    found = effects + step
    mean = _means(n, columns, found)
    reached = _likelihood(counts, columns, found, mean)
    for _ in range(_MOST_HALVINGS):
        worse = np.flatnonzero(~(reached >= gain - _NEAR_ENOUGH * np.maximum(1, np.abs(gain))))
        if not len(worse):
            break
        step[:, worse] /= 2
        found[:, worse] = effects[:, worse] + step[:, worse]
        mean[:, worse] = _means(n[:, worse], columns, found[:, worse])
        reached[worse] = _likelihood(counts[:, worse], columns, found[:, worse], mean[:, worse])
    return found, mean, reached


def _means(n: np.ndarray, columns: np.ndarray, effects: np.ndarray) -> np.ndarray:
    with np.errstate(over="ignore", invalid="ignore"):
        return np.where(n > 0, n * np.exp(columns @ effects), 0.0)


def _likelihood(counts: np.ndarray, columns: np.ndarray, effects: np.ndarray, mean: np.ndarray) -> np.ndarray:
    """(T,) the logarithm of the likelihood but for what does not depend on the effects."""
    found: np.ndarray = ((columns.T @ counts) * effects).sum(axis=0) - mean.sum(axis=0)
    return found


def _information(weight: np.ndarray, columns: np.ndarray) -> np.ndarray:
    """(T, p, p) the sums of products of the columns, weighted by (K, T)."""
    size = columns.shape[1]
    found = np.empty((weight.shape[1], size, size))
    for one in range(size):
        # of the columns of a field each cell has one only
        rows = np.flatnonzero(columns[:, one])
        found[:, one] = (columns[rows].T @ (columns[rows, one][:, None] * weight[rows])).T
    return found


def _solve(information: np.ndarray, wanted: np.ndarray, total: np.ndarray) -> np.ndarray:
    """(p, T) the least solution of each term's equations; a little is added so that dependent columns do no harm."""
    scale = np.where(total > 0, total, 1.0)
    matrix = information / scale[:, None, None] + _RIDGE * np.eye(information.shape[1])
    solved: np.ndarray = np.linalg.solve(matrix, (wanted / scale).T[:, :, None])[:, :, 0].T
    return solved
