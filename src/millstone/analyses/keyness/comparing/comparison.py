"""One comparison of two sides: its terms, their counts, and what is computed of them."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from millstone.analyses.base.groups.held_equal import HeldEqual, held_equal
from millstone.analyses.base.groups.pairs import ALPHA, Comparison, chosen_terms
from millstone.analyses.keyness.comparing.bootstrap import resampled
from millstone.analyses.keyness.comparing.notes import largest_in_one
from millstone.analyses.keyness.measures import MEASURES
from millstone.analyses.keyness.settings import KeynessSettings
from millstone.analyses.keyness.sides import TwoCorpusCounts
from millstone.core.base.arrays import unique_pairs
from millstone.core.evidence.adjusting import Adjusting
from millstone.core.evidence.conditional import ConditionalRatios
from millstone.core.evidence.document_tests import Rates, is_too_rare, mann_whitney, permutation, rates_of, welch
from millstone.core.evidence.quasi_likelihood import BOUND90, UnitSums, ends
from millstone.core.evidence.sampling import SamplingUnits
from millstone.core.evidence.unit_sums import UnitsOfSides, unit_sums
from millstone.core.statistics.contingency import Z90, fisher_p, pearson_chi2
from millstone.core.statistics.effect_sizes import log_ratio
from millstone.core.statistics.significance import adjusted, chi2_upper_tail
from millstone.core.terms.background import Background
from millstone.core.terms.counts import Part

UNITS_FOR_TEST = 8
"""With fewer units on a side only large and steady differences can show, and the test by ranks is rough."""
OF_RATES = ("welch", "rank", "permutation")
"""The tests that compare the rates of units."""
OVER_UNITS = ("documents", *OF_RATES)
"""The tests in which an observation is a sampling unit, not a token."""
STATISTIC = {"documents": "ll_documents", "ll": "ll", "g2": "g2", "chi2": "chi2"}
"""The measure that the statistic of a test is."""
P_LIKE = ("p", "p_adjusted", "fisher")
_OF_UNITS = ("design_effect", "ll_documents", "log_ratio_low", "log_ratio_high")

Progress = Callable[[int, int], None]


@dataclass(eq=False)
class ComparisonRun:
    """One comparison with its intermediate results, computed on demand.

    Attributes
    ----------
    comparison : Comparison
    target, reference : Part
    settings : KeynessSettings
    background : Background or None
    progress : callable
        Called with how many random draws are done, of how many.
    sampling : SamplingUnits or None
        The sampling units of all documents; None for frequency lists.
    adjusting : Adjusting or None
        The fields of the documents that are held equal beside.
    """

    comparison: Comparison
    target: Part
    reference: Part
    settings: KeynessSettings
    background: Background | None
    progress: Progress
    sampling: SamplingUnits | None = None
    adjusting: Adjusting | None = None

    @cached_property
    def wanted(self) -> np.ndarray:
        """The numbers of the terms that are compared."""
        chosen = chosen_terms(self.target, self.reference, self.settings)
        if self.settings.max_share is None:
            return np.flatnonzero(chosen)
        wanted = np.flatnonzero(chosen)
        most = np.maximum(*(largest_in_one(part, wanted)[0] for part in (self.target, self.reference)))
        freq = self.target.freq[wanted] + self.reference.freq[wanted]
        found: np.ndarray = wanted[most <= self.settings.max_share * freq]
        return found

    @property
    def of_documents(self) -> bool:
        """Whether documents that have a term are counted, not occurrences."""
        return self.settings.count == "documents"

    @cached_property
    def units(self) -> UnitsOfSides | None:
        """The sampling units of both sides; None where a side is a frequency list."""
        if self.sampling is None:
            return None
        return UnitsOfSides.of(self.target, self.reference, self.sampling, self.of_documents)

    @cached_property
    def sums(self) -> UnitSums | None:
        """Of these terms over the sampling units of both sides; None where a side has not two of them.

        Documents that are counted are units themselves, unless it is said which of them belong together.
        """
        if self.units is None or min(self.units.number) < 2:
            return None
        if self.of_documents and not self.settings.sampling_unit:
            return None
        return unit_sums(self.target, self.reference, self.wanted, self.units, self.of_documents)

    @cached_property
    def _counted(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Occurrences or documents of each row of `sides` in target and reference, and the row of each term."""
        parts = (self.target, self.reference)
        a, b = ((part.docs if self.of_documents else part.freq)[self.wanted].astype(np.int64) for part in parts)
        if self.sums is not None or self.test in OF_RATES or self.settings.resample:
            # tests over units can differ between terms with equal counts, so no deduplication
            return a, b, np.arange(len(a))
        return unique_pairs(a, b)

    @property
    def row_of(self) -> np.ndarray:
        """(wanted,) the row of `sides` that each term is."""
        return self._counted[2]

    @cached_property
    def times(self) -> np.ndarray:
        """(rows of sides,) how many terms each row is."""
        return np.bincount(self.row_of, minlength=len(self._counted[0]))

    @cached_property
    def sides(self) -> TwoCorpusCounts:
        """The counts of both sides, with p: a row for each pair of counts, or for each term.

        Of long lists most terms have the counts of many others, and all measures of them.
        """
        parts, of_documents = (self.target, self.reference), self.of_documents
        n1, n2 = (int(part.documents if of_documents else part.tokens) for part in parts)
        a, b, _ = self._counted
        statistic = "g2" if self.test == "g2" or (of_documents and self.test != "documents") else "ll"
        over_units = self.interval == "documents"
        found = TwoCorpusCounts(a, b, n1, n2, self.settings.zeros, statistic, of_documents, self.sums, over_units)
        return self._tested(found, self.times)

    @property
    def test(self) -> str:
        """The name of the test in force: over documents where both sides have two or more of them."""
        if self.settings.test not in ("", "documents"):
            return self.settings.test
        return "documents" if self.sums is not None else "g2" if self.of_documents else "ll"

    @property
    def interval(self) -> str:
        """The interval in force: over documents, tokens or samples."""
        asked = self.settings.interval or ("documents" if self.test == "documents" else "tokens")
        return "tokens" if asked == "documents" and self.sums is None else asked

    @cached_property
    def rates(self) -> Rates:
        """The rates of these terms in each sampling unit."""
        assert self.sampling is not None
        return rates_of(self.target, self.reference, self.wanted, self.sampling)

    def _tested(self, sides: TwoCorpusCounts, times: np.ndarray | None = None) -> TwoCorpusCounts:
        """The sides with p and adjusted p; `times` is how many terms each row is."""
        p = self._p(sides)
        return replace(sides, p=p, p_adjusted=adjusted(p, self.settings.adjust, times))

    def _p(self, sides: TwoCorpusCounts) -> np.ndarray:
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
        return chi2_upper_tail(MEASURES[STATISTIC[self.test]].of(sides))

    @property
    def ranked_by(self) -> str:
        """The measure that ranks are made by."""
        default = "ll_documents" if self.test in OF_RATES and self.sums is not None else self.sides.statistic
        return self.settings.rank_by or STATISTIC.get(self.test, default)

    def score(self, sides: TwoCorpusCounts) -> np.ndarray:
        """The values that rows are ranked by, the largest first."""
        name = self.ranked_by
        if name in P_LIKE and not len(sides.p):
            # a sample that was drawn
            sides = self._tested(sides)
        return MEASURES[name].strength(MEASURES[name].of(sides))

    @cached_property
    def by_tokens_only(self) -> np.ndarray:
        """(rows of sides,) bool: what differs if tokens are taken as drawn by themselves, and not over units."""
        if self.sums is None:
            return np.zeros(len(self.sides.a), dtype=bool)
        sides, p, alpha = self.sides, self.sides.p_adjusted, self.settings.alpha or ALPHA
        if self.test in OVER_UNITS:
            return (self._adjusted(sides.likelihood) < alpha) & ~(p < alpha)
        return (p < alpha) & ~(self._adjusted(sides.by_documents) < alpha)

    @cached_property
    def too_rare(self) -> np.ndarray:
        """(wanted,) bool: what too few units have for the test in force."""
        return is_too_rare(self.rates) if self.test == "welch" else np.zeros(len(self.wanted), dtype=bool)

    def _adjusted(self, statistic: np.ndarray) -> np.ndarray:
        return adjusted(chi2_upper_tail(statistic), self.settings.adjust, self.times)

    @cached_property
    def held(self) -> HeldEqual | None:
        """The documents with the fields that are held equal; None where none are, or a side has one unit."""
        if self.adjusting is None or self.sampling is None or self.sums is None:
            return None
        return held_equal(self.comparison, self.target, self.reference, self.sampling, self.adjusting)

    @cached_property
    def conditional(self) -> ConditionalRatios | None:
        """The ratios of the `wanted` with fields held equal."""
        return None if self.held is None else self.held.ratios(self.target, self.wanted)

    @cached_property
    def p_conditional_adjusted(self) -> np.ndarray:
        """(wanted,) p of these ratios, adjusted for the number of terms."""
        if self.conditional is None:
            return np.full(len(self.wanted), np.nan)
        return adjusted(self.conditional.p, self.settings.adjust)

    def resampled(self) -> dict[str, np.ndarray]:
        """Limits of log_ratio and of the rank of each of the `wanted`, from samples of the units."""
        settings, name = self.settings, self.ranked_by
        assert self.units is not None
        found = resampled(
            self.target,
            self.reference,
            self.wanted,
            self.units,
            self.sides,
            self.score,
            settings.resample,
            settings.seed,
            self.sums is not None and (name in _OF_UNITS or (name in P_LIKE and self.test == "documents")),
            self.progress,
        )
        return {
            "resample_low": found.low,
            "resample_high": found.high,
            "rank_low": found.rank_low,
            "rank_high": found.rank_high,
        }

    @cached_property
    def narrow(self) -> tuple[np.ndarray, np.ndarray]:
        """(rows of sides,) the limits of the 90 % interval of log_ratio: two one-sided tests at 5 %."""
        sides = self.sides
        if self.interval == "documents" and self.sums is not None:
            return ends(self.sums, BOUND90)
        return log_ratio(sides.a, sides.b, sides.n1, sides.n2, z=Z90)[1:]

    @cached_property
    def background_rates(self) -> np.ndarray:
        """(wanted,) how often each term occurs per million tokens of the background."""
        if self.background is None:
            return np.full(len(self.wanted), np.nan)
        return self.background.per_million(names_of(self.target, self.wanted))


def names_of(part: Part, wanted: np.ndarray) -> np.ndarray:
    """(wanted,) the names of terms."""
    return np.asarray(part.counts.terms[wanted], dtype=object)
