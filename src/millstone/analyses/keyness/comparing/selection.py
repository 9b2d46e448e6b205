"""Which terms of a comparison are listed: all, those that are key, or those that both sides share."""

from typing import TYPE_CHECKING

import numpy as np

from millstone.analyses.base.groups.pairs import ALPHA
from millstone.analyses.keyness.comparing.comparison import ComparisonRun
from millstone.core.base.arrays import stable_order
from millstone.core.base.light_dataclass import frozen
from millstone.core.statistics.ranks import dense_ranks

if TYPE_CHECKING:
    from numpy.typing import ArrayLike


@frozen
class KeyRule:
    """When a term is key: an adjusted p, a log ratio, a direction, each only if it is asked for.

    Attributes
    ----------
    alpha : float or None
        Adjusted p lies below it.
    least_ratio : float or None
        The log ratio is as large or larger, either way.
    direction : str
        ``target`` or ``reference``: the side with the higher rate; ``both`` for either.
    """

    alpha: float | None
    least_ratio: float | None
    direction: str

    def chooses(self, p_adjusted: "ArrayLike", log_ratio: "ArrayLike", side: "ArrayLike") -> np.ndarray:
        """(terms,) bool; `side` is 1 where the target has the higher rate, -1 where the reference has."""
        ratio = np.asarray(log_ratio)
        found = np.ones(ratio.shape, dtype=bool)
        if self.alpha is not None:
            found &= np.asarray(p_adjusted) < self.alpha
        if self.least_ratio is not None:
            found &= np.abs(ratio) >= self.least_ratio
        if self.direction != "both":
            found &= np.asarray(side) == (1 if self.direction == "target" else -1)
        return found


def key_rule(alpha: float | None, least_ratio: float | None, direction: str = "both") -> KeyRule:
    """The rule that settings make; where neither p nor log ratio is asked about, p is below 0.05."""
    return KeyRule(ALPHA if alpha is None and least_ratio is None else alpha, least_ratio, direction)


@frozen
class Selection:
    """The listed terms of a comparison, in order.

    Attributes
    ----------
    rank : ndarray
        (listed,) int: ranks among all terms that were compared.
    terms : ndarray
        (listed,) int: which terms, as places in ``ComparisonRun.wanted``.
    passing : int
        How many terms are key, or shared; where no other rule says what is key, p is below 0.05.
    """

    rank: np.ndarray
    terms: np.ndarray
    passing: int


def select(one: ComparisonRun) -> Selection:
    """Select the terms to list under the settings of a comparison."""
    if one.settings.shared:
        terms = _shared(one)
        return Selection(np.arange(1, len(terms) + 1), terms, len(terms))
    sides, settings = one.sides, one.settings
    asked = (settings.alpha, settings.min_log_ratio, settings.direction)
    compared = (sides.p_adjusted, sides.ratio[0], sides.difference)
    order = stable_order(dense_ranks(one.score(sides), sides.a + sides.b)[one.row_of])
    listed = np.flatnonzero(KeyRule(*asked).chooses(*compared)[one.row_of[order]])
    key = key_rule(*asked).chooses(*compared)
    return Selection(listed + 1, order[listed], int(one.times[key].sum()))


def smallest_margin(one: ComparisonRun) -> float:
    """The smallest margin under which a term of both sides would count as shared; NaN where there is none."""
    low, high = one.narrow
    farthest = np.maximum(-low, high)[(one.sides.a > 0) & (one.sides.b > 0)]
    known = farthest[~np.isnan(farthest)]
    return float(known.min()) if len(known) else np.nan


def _shared(one: ComparisonRun) -> np.ndarray:
    """The terms that are about equally frequent, or rare elsewhere, as places in `wanted`, in their order."""
    sides, settings, row_of = one.sides, one.settings, one.row_of
    on_both = (sides.a > 0) & (sides.b > 0)
    if one.background is not None and settings.below is not None:
        rate = one.background_rates
        found = np.flatnonzero(on_both[row_of] & (rate < settings.below))
        return found[np.lexsort((found, -(sides.a + sides.b)[row_of[found]], rate[found]))]
    low, high = one.narrow
    within = on_both & (low >= -settings.margin) & (high <= settings.margin)
    found = np.flatnonzero(within[row_of])
    rows = row_of[found]
    return found[np.lexsort((found, (high - low)[rows], np.abs(sides.ratio[0][rows])))]
