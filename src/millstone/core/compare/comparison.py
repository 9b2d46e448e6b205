"""One comparison of two sides: its terms, their counts, and what is computed of them."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from millstone.core.arrays import different_pairs
from millstone.core.compare.bootstrap import resampled
from millstone.core.compare.keyness_notes import largest_in_one
from millstone.core.compare.pairs import Comparison, chosen_terms
from millstone.core.settings.analyses import KeynessSettings
from millstone.core.statistics.document_tests import Rates, mann_whitney, permutation, rates_of, welch
from millstone.core.statistics.keyness_measures import MEASURES, Sides
from millstone.core.statistics.measures import Z90, fisher_p, log_ratio, pearson_chi2
from millstone.core.statistics.significance import adjusted, chi2_upper_tail
from millstone.core.terms.background import Background
from millstone.core.terms.counts import Part

DOCUMENTS_FOR_TEST = 8
"""Fewer on a side make the test by ranks rough."""
OVER_DOCUMENTS = ("welch", "rank", "permutation")
"""The tests in which an observation is a document."""
OWN_STATISTIC = ("ll", "g2", "chi2")
"""The tests whose statistic is itself a measure."""
P_LIKE = ("p", "p_adjusted", "fisher")

Progress = Callable[[int, int], None]


@dataclass(eq=False)
class Compared:
    """A comparison being made.

    Attributes
    ----------
    comparison : Comparison
    target, reference : Part
    settings : KeynessSettings
    background : Background or None
    progress : callable
        Called with how many random draws are done, of how many.
    """

    comparison: Comparison
    target: Part
    reference: Part
    settings: KeynessSettings
    background: Background | None
    progress: Progress

    @cached_property
    def wanted(self) -> np.ndarray:
        """The numbers of the terms that are compared."""
        chosen = chosen_terms(self.target, self.reference, self.settings)
        if self.settings.max_share is None:
            return np.flatnonzero(chosen)
        wanted = np.flatnonzero(chosen)
        most = np.maximum(*(largest_in_one(part, wanted)[0] for part in (self.target, self.reference)))
        freq = self.target.freq[wanted] + self.reference.freq[wanted]
        return wanted[most <= self.settings.max_share * freq]

    @cached_property
    def _counted(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Occurrences or documents of each row of `sides` in target and reference, and the row of each term."""
        parts, of_documents = (self.target, self.reference), self.settings.count == "documents"
        a, b = ((part.docs if of_documents else part.freq)[self.wanted].astype(np.int64) for part in parts)
        if self.test in OVER_DOCUMENTS or self.settings.resample:
            # what is asked of their documents sets terms with the same counts apart
            return a, b, np.arange(len(a))
        return different_pairs(a, b)

    @property
    def row_of(self) -> np.ndarray:
        """(wanted,) the row of `sides` that each term is."""
        return self._counted[2]

    @cached_property
    def times(self) -> np.ndarray:
        """(rows of sides,) how many terms each row is."""
        return np.bincount(self.row_of, minlength=len(self._counted[0]))

    @cached_property
    def sides(self) -> Sides:
        """What is counted on each side, with p: a row for each pair of counts.

        Of long lists most terms have the counts of many others, and all measures of them.
        """
        settings, of_documents = self.settings, self.settings.count == "documents"
        parts = (self.target, self.reference)
        n1, n2 = (int(part.documents if of_documents else part.tokens) for part in parts)
        a, b, _ = self._counted
        statistic = "g2" if of_documents or settings.test == "g2" else "ll"
        return self._tested(Sides(a, b, n1, n2, settings.zeros, statistic, of_documents), self.times)

    @property
    def test(self) -> str:
        """The name of the test in force."""
        return self.settings.test or ("g2" if self.settings.count == "documents" else "ll")

    @cached_property
    def rates(self) -> Rates:
        """The rates of these terms in each document."""
        return rates_of(self.target, self.reference, self.wanted, self.settings.independent_units)

    def _tested(self, sides: Sides, times: np.ndarray | None = None) -> Sides:
        """The same with p and adjusted p; `times` is how many terms each row is."""
        p = self._p(sides)
        return replace(sides, p=p, p_adjusted=adjusted(p, self.settings.adjust, times))

    def _p(self, sides: Sides) -> np.ndarray:
        if self.test == "fisher":
            return sides.of(fisher_p)
        if self.test == "welch":
            return welch(self.rates)
        if self.test == "rank":
            return mann_whitney(self.rates)
        if self.test == "permutation":
            return permutation(self.rates, self.settings.draws, self.settings.seed, self.progress)
        if self.test == "chi2":
            return chi2_upper_tail(sides.of(pearson_chi2))
        return chi2_upper_tail(MEASURES[self.test].of(sides))

    def score(self, sides: Sides) -> np.ndarray:
        """What the rows are ranked by, the largest first."""
        name = self.settings.rank_by or (self.test if self.test in OWN_STATISTIC else sides.statistic)
        if name in P_LIKE and not len(sides.p):
            # a sample that was drawn
            sides = self._tested(sides)
        return MEASURES[name].strength(MEASURES[name].of(sides))

    @cached_property
    def p_by_documents(self) -> np.ndarray | None:
        """(wanted,) p of a test over documents, for the notes."""
        few = min(len(self.target.base), len(self.reference.base)) < DOCUMENTS_FOR_TEST
        if few or any(part.counts.listed is not None for part in (self.target, self.reference)):
            return None
        if self.test in OVER_DOCUMENTS or not len(self.wanted):
            return self.sides.p[self.row_of]
        return mann_whitney(self.rates)

    def resampled(self) -> dict[str, np.ndarray]:
        settings = self.settings
        found = resampled(
            self.target,
            self.reference,
            self.wanted,
            self.sides,
            self.score,
            settings.resample,
            settings.seed,
            settings.independent_units,
            self.progress,
        )
        return {
            "resample_low": found.low,
            "resample_high": found.high,
            "rank_low": found.rank_low,
            "rank_high": found.rank_high,
        }

    @cached_property
    def narrow(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """log_ratio with its 90 % interval: two one-sided tests at 5 %."""
        sides = self.sides
        return log_ratio(sides.a, sides.b, sides.n1, sides.n2, z=Z90)

    @cached_property
    def background_rates(self) -> np.ndarray:
        if self.background is None:
            return np.full(len(self.wanted), np.nan)
        return self.background.per_million(names_of(self.target, self.wanted))

    @property
    def observed(self) -> tuple[int, int]:
        """How many documents a test over documents sees on each side."""
        return self.rates.n1, self.rates.n2


def names_of(part: Part, wanted: np.ndarray) -> np.ndarray:
    """(wanted,) the names of terms."""
    return np.asarray(part.counts.terms[wanted], dtype=object)
