"""The two sides of a comparison: their counts, and what measures share."""

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np

from millstone.core.evidence.power import smallest_ratio
from millstone.core.evidence.quasi_likelihood import UnitSums, dispersion, ends
from millstone.core.statistics import contingency, effect_sizes


@dataclass(frozen=True, eq=False)
class TwoCorpusCounts:
    """Two sides of a comparison, for all terms at once.

    Attributes
    ----------
    a, b : ndarray
        (terms,) int64: occurrences in target and reference, or documents that have the term.
    n1, n2 : int
        All tokens of each side, or all its documents; above 0.
    zeros : str
        What effect sizes do with a zero: ``add``, ``smooth`` or ``skip``.
    statistic : str
        The log-likelihood in force: ``ll``, or ``g2`` of four cells.
    of_documents : bool
        Documents are counted, not tokens.
    sums : UnitSums or None
        Of the same terms over sampling units; None where there are none, or one only on a side.
    over_units : bool
        The interval of the log ratio is over sampling units, not over tokens.
    p, p_adjusted : ndarray
        (terms,) p of the test in force, and the same adjusted; empty until they are known.
    """

    a: np.ndarray
    b: np.ndarray
    n1: int
    n2: int
    zeros: str = "add"
    statistic: str = "ll"
    of_documents: bool = False
    sums: UnitSums | None = None
    over_units: bool = False
    p: np.ndarray = field(default_factory=lambda: np.array([]))
    p_adjusted: np.ndarray = field(default_factory=lambda: np.array([]))
    _known: dict[Callable[..., np.ndarray], np.ndarray] = field(default_factory=dict)

    def of(self, measure: Callable[..., np.ndarray]) -> np.ndarray:
        """A measure of the counts as they are, (terms,); computed once."""
        if measure not in self._known:
            self._known[measure] = measure(self.a, self.b, self.n1, self.n2)
        return self._known[measure]

    def effect(self, measure: Callable[..., np.ndarray]) -> np.ndarray:
        """An effect size, (terms,), in which zeros are dealt with."""
        return measure(self.a, self.b, self.n1, self.n2, self.zeros)

    def at(self, rows: np.ndarray) -> "TwoCorpusCounts":
        """Some of the terms, by their places."""
        return replace(
            self,
            a=self.a[rows],
            b=self.b[rows],
            sums=None if self.sums is None else self.sums.at(rows),
            p=self.p[rows],
            p_adjusted=self.p_adjusted[rows],
            _known={measure: values[rows] for measure, values in self._known.items()},
        )

    @property
    def expected(self) -> tuple[np.ndarray, np.ndarray]:
        """The counts of both sides if the rates were equal."""
        every = (self.a + self.b) / (self.n1 + self.n2)
        return self.n1 * every, self.n2 * every

    @cached_property
    def ratio(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """log_ratio with the limits of its 95 % interval over tokens."""
        return effect_sizes.log_ratio(self.a, self.b, self.n1, self.n2, self.zeros)

    @cached_property
    def limits(self) -> tuple[np.ndarray, np.ndarray]:
        """The limits of the 95 % interval of log_ratio; NaN where an end does not exist."""
        return ends(self.sums) if self.over_units and self.sums is not None else self.ratio[1:]

    @cached_property
    def design_effect(self) -> np.ndarray:
        """How many times more each term varies between sampling units than chance would; NaN without units."""
        return np.full(len(self.a), np.nan) if self.sums is None else dispersion(self.sums, np.zeros(len(self.a)))

    @cached_property
    def smallest_ratio(self) -> np.ndarray:
        """The smallest ratio of the rates that the test would find, by what each term varies around its two rates."""
        if self.sums is None:
            return smallest_ratio(self.a + self.b, self.n1, self.n2)
        with np.errstate(divide="ignore", invalid="ignore"):
            own = np.log(self.a / self.n1) - np.log(self.b / self.n2)
        at = np.where((self.a > 0) & (self.b > 0), own, 0.0)
        return smallest_ratio(self.a + self.b, self.n1, self.n2, dispersion(self.sums, at))

    @property
    def by_documents(self) -> np.ndarray:
        """The log-likelihood over sampling units."""
        found: np.ndarray = self.of(contingency.log_likelihood) / self.design_effect
        return found

    @cached_property
    def likelihood(self) -> np.ndarray:
        """The log-likelihood in force."""
        return self.of(contingency.log_likelihood if self.statistic == "ll" else contingency.four_cell_log_likelihood)

    @cached_property
    def difference(self) -> np.ndarray:
        """(terms,) -1, 0 or 1: the sign of the difference of the rates, exact however large the counts."""
        exact = np.int64 if self.n1 * self.n2 < 2**62 else object
        found: np.ndarray = np.sign((self.a.astype(exact) * self.n2 - self.b.astype(exact) * self.n1).astype(float))
        return found
