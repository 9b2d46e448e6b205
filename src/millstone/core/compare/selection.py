"""Which terms of a comparison are listed: all, those that are key, or those that both sides share."""

from dataclasses import dataclass

import numpy as np

from millstone.core.arrays import stable_order
from millstone.core.compare.comparison import Compared
from millstone.core.compare.pairs import ALPHA
from millstone.core.ranks import dense_ranks


@dataclass(frozen=True)
class Selection:
    """The listed terms of a comparison, in order.

    Attributes
    ----------
    rank : ndarray
        (listed,) int: ranks among all terms that were compared.
    terms : ndarray
        (listed,) int: which terms, as places in ``Compared.wanted``.
    passing : int
        How many terms are key, or shared; where no other rule says what is key, p is below 0.05.
    """

    rank: np.ndarray
    terms: np.ndarray
    passing: int


def select(one: Compared) -> Selection:
    """The terms that the settings of a comparison let be listed."""
    if one.settings.shared:
        terms = _shared(one)
        return Selection(np.arange(1, len(terms) + 1), terms, len(terms))
    sides, settings = one.sides, one.settings
    chosen = _chosen(one)
    order = stable_order(dense_ranks(one.score(sides), sides.a + sides.b)[one.row_of])
    listed = np.flatnonzero(chosen[one.row_of[order]])
    no_rule = settings.alpha is None and settings.min_log_ratio is None
    key = chosen & (sides.p_adjusted < ALPHA) if no_rule else chosen
    return Selection(listed + 1, order[listed], int(one.times[key].sum()))


def _chosen(one: Compared) -> np.ndarray:
    """(rows of sides,) bool: which the settings let be listed."""
    settings, sides = one.settings, one.sides
    found = np.ones(len(sides.a), dtype=bool)
    if settings.alpha is not None:
        found &= sides.p_adjusted < settings.alpha
    if settings.min_log_ratio is not None:
        found &= np.abs(sides.ratio[0]) >= settings.min_log_ratio
    if settings.direction != "both":
        found &= sides.difference == (1 if settings.direction == "target" else -1)
    return found


def _shared(one: Compared) -> np.ndarray:
    """The terms that are about equally frequent, or rare elsewhere, as places in `wanted`, in their order."""
    sides, settings, row_of = one.sides, one.settings, one.row_of
    on_both = (sides.a > 0) & (sides.b > 0)
    if one.background is not None and settings.below is not None:
        rate = one.background_rates
        found = np.flatnonzero(on_both[row_of] & (rate < settings.below))
        return found[np.lexsort((found, -(sides.a + sides.b)[row_of[found]], rate[found]))]
    _, low, high = one.narrow
    within = on_both & (low >= -settings.margin) & (high <= settings.margin)
    found = np.flatnonzero(within[row_of])
    rows = row_of[found]
    return found[np.lexsort((found, (high - low)[rows], np.abs(sides.ratio[0][rows])))]
