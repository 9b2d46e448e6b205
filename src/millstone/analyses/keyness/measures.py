"""The measures of keyness by name: one registry, from which columns, options and documentation are made."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np

from millstone.core.base.light_dataclass import frozen
from millstone.core.evidence.quasi_likelihood import UnitSums, dispersion, ends
from millstone.core.statistics import measures


@dataclass(frozen=True, eq=False)
class Sides:
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

    def at(self, rows: np.ndarray) -> "Sides":
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

    @cached_property
    def ratio(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """log_ratio with the limits of its 95 % interval over tokens."""
        return measures.log_ratio(self.a, self.b, self.n1, self.n2, self.zeros)

    @cached_property
    def limits(self) -> tuple[np.ndarray, np.ndarray]:
        """The limits of the 95 % interval of log_ratio; NaN where an end does not exist."""
        return ends(self.sums) if self.over_units and self.sums is not None else self.ratio[1:]

    @cached_property
    def design_effect(self) -> np.ndarray:
        """How many times more each term varies between sampling units than chance would; NaN without units."""
        return _empty(self) if self.sums is None else dispersion(self.sums, np.zeros(len(self.a)))

    @property
    def by_documents(self) -> np.ndarray:
        """The log-likelihood over sampling units."""
        return self.of(measures.log_likelihood) / self.design_effect

    @cached_property
    def likelihood(self) -> np.ndarray:
        """The log-likelihood in force."""
        return self.of(measures.log_likelihood if self.statistic == "ll" else measures.four_cell_log_likelihood)

    @cached_property
    def difference(self) -> np.ndarray:
        """(terms,) -1, 0 or 1: the sign of the difference of the rates, exact however large the counts."""
        exact = np.int64 if self.n1 * self.n2 < 2**62 else object
        return np.sign((self.a.astype(exact) * self.n2 - self.b.astype(exact) * self.n1).astype(float))


@frozen
class Measure:
    """A measure: its formula as one would write it, its range in words, and how it is computed.

    `strength` makes of its values what terms are ranked by, the largest first: how far they are from no difference
    between the sides. What a column of it means stands with the columns (`columns.COLUMNS`).
    """

    name: str
    formula: str
    span: str
    of: Callable[[Sides], np.ndarray]
    is_slow: bool = False
    strength: Callable[[np.ndarray], np.ndarray] = np.abs


def _as_ratio(values: np.ndarray) -> np.ndarray:
    """Ratios: twice is as far from equal as half."""
    with np.errstate(divide="ignore"):
        return np.abs(np.log(values))


def _as_evidence(p: np.ndarray) -> np.ndarray:
    """p: the smaller the stronger, however small both are."""
    with np.errstate(divide="ignore"):
        return -np.log(p)


def _empty(sides: Sides) -> np.ndarray:
    return np.full(len(sides.a), np.nan)


MEASURES: Mapping[str, Measure] = {
    measure.name: measure
    for measure in (
        Measure("ll", "2 (a ln(a / E1) + b ln(b / E2))", "0 or more", lambda s: s.of(measures.log_likelihood)),
        Measure("g2", "2 sum of O ln(O / E)", "0 or more", lambda s: s.of(measures.four_cell_log_likelihood)),
        Measure("chi2", "sum of (O - E)^2 / E", "0 or more", lambda s: s.of(measures.pearson_chi2)),
        Measure(
            "design_effect",
            "sum of e^2 / (1 - h) / (a + b) over units, at least 1",
            "1 or more",
            lambda s: s.design_effect,
            strength=np.positive,
        ),
        Measure("ll_documents", "ll / design_effect", "0 or more", lambda s: s.by_documents),
        Measure(
            "fisher",
            "sum of the tables no likelier",
            "0 to 1",
            lambda s: s.of(measures.fisher_p),
            is_slow=True,
            strength=_as_evidence,
        ),
        Measure("p", "of the test in force", "0 to 1", lambda s: s.p, strength=_as_evidence),
        Measure("p_adjusted", "p for the number of terms", "0 to 1", lambda s: s.p_adjusted, strength=_as_evidence),
        Measure(
            "bic",
            "ll - ln N",
            "any",
            lambda s: measures.bayes_information(s.likelihood, s.n1, s.n2),
            strength=np.positive,
        ),
        Measure(
            "ell",
            "ll / (-2 (a + b) ln(min(N1, N2) / N))",
            "0 to 1",
            lambda s: (
                _empty(s)
                if s.of_documents
                else np.minimum(s.of(measures.log_likelihood) / s.of(measures.largest_log_likelihood), 1)
            ),
        ),
        Measure("percent_diff", "100 (r1 - r2) / r2", "-100 or more", lambda s: s.effect(measures.percent_diff)),
        Measure(
            "relative_risk", "r1 / r2", "0 or more", lambda s: s.effect(measures.relative_risk), strength=_as_ratio
        ),
        Measure(
            "odds_ratio",
            "(a / (N1 - a)) / (b / (N2 - b))",
            "0 or more",
            lambda s: s.effect(measures.odds_ratio),
            strength=_as_ratio,
        ),
        Measure("log_ratio", "log2(r1 / r2)", "any", lambda s: s.ratio[0]),
        Measure("log_ratio_low", "the least ratio that the test lets pass", "any", lambda s: s.limits[0]),
        Measure("log_ratio_high", "the largest ratio that the test lets pass", "any", lambda s: s.limits[1]),
        Measure("diff_coefficient", "(r1 - r2) / (r1 + r2)", "-1 to 1", lambda s: s.of(measures.diff_coefficient)),
        Measure(
            "odds_share",
            "odds_ratio / (1 + odds_ratio)",
            "0 to 1",
            lambda s: s.effect(measures.odds_share),
            strength=lambda values: np.abs(values - 0.5),
        ),
    )
}
ALL = tuple(name for name, measure in MEASURES.items() if not measure.is_slow)
"""What ``--measures all`` means."""
