"""One comparison of two sides: its terms, their measures, and the rows that are shown."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import pandas as pd

from millstone.core.background import Background
from millstone.core.comparisons import ALPHA, Comparison, chosen_terms
from millstone.core.counts import Part
from millstone.core.document_tests import Rates, mann_whitney, permutation, rates_of, welch
from millstone.core.key_notes import largest_in_one, notes_of
from millstone.core.keyness_measures import ALL, MEASURES, Sides
from millstone.core.measures import Z90, fisher_p, log_ratio, pearson_chi2
from millstone.core.order import competition_ranks, ranking
from millstone.core.resampling import resampled
from millstone.core.settings import KeynessSettings
from millstone.core.significance import adjusted, chi2_upper_tail

DOCUMENTS_FOR_TEST = 8
"""Fewer on a side make the test by ranks rough."""
OVER_DOCUMENTS = ("welch", "rank", "permutation")
"""The tests in which an observation is a document."""
_OWN_STATISTIC = ("ll", "g2", "chi2")
_P = ("p", "p_adjusted", "fisher")

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
        Told how many random draws are done, of how many.
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
    def sides(self) -> Sides:
        """What is counted of these terms on each side."""
        settings, of_documents = self.settings, self.settings.count == "documents"
        counted = [part.docs if of_documents else part.freq for part in (self.target, self.reference)]
        n1, n2 = (int(part.documents if of_documents else part.tokens) for part in (self.target, self.reference))
        a, b = (one[self.wanted].astype(np.int64) for one in counted)
        statistic = "g2" if of_documents or settings.test == "g2" else "ll"
        sides = Sides(a, b, n1, n2, settings.zeros, statistic, of_documents)
        sides.p = self._p(sides)
        sides.p_adjusted = adjusted(sides.p, settings.adjust)
        return sides

    @property
    def test(self) -> str:
        """The name of the test in force."""
        return self.settings.test or ("g2" if self.settings.count == "documents" else "ll")

    @cached_property
    def rates(self) -> Rates:
        """The rates of these terms in each document."""
        return rates_of(self.target, self.reference, self.wanted, self.settings.independent_units)

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
        name = self.settings.rank_by or (self.test if self.test in _OWN_STATISTIC else sides.statistic)
        values = MEASURES[name].of(sides)
        return -values if name in _P else np.abs(values)

    def _p_by_documents(self) -> np.ndarray | None:
        """p of a test over documents, for the notes."""
        few = min(len(self.target.base), len(self.reference.base)) < DOCUMENTS_FOR_TEST
        if few or any(part.counts.listed is not None for part in (self.target, self.reference)):
            return None
        if self.test in OVER_DOCUMENTS or not len(self.wanted):
            return self.sides.p
        return mann_whitney(self.rates)

    def table(self) -> pd.DataFrame:
        """The rows that are shown, in order; ranks are among all terms that were compared."""
        sides = self.sides
        columns = self._columns()
        shared = self.settings.shared
        order = self.shared if shared else ranking(self.score(sides), sides.a + sides.b)
        rank = np.empty(len(sides.a), dtype=np.int64)
        rank[order] = np.arange(1, len(order) + 1)
        order = order if shared else order[self.chosen[order]]
        found = {"target": self.comparison.target, "reference": self.comparison.reference, "rank": rank[order]}
        found |= {name: values[order] for name, values in columns.items()}
        # objects as they are: the other kind of text takes long to make
        kept = {
            name: pd.Series(one, dtype=object) if one.dtype == object else one
            for name, one in found.items()
            if not isinstance(one, str)
        }
        return pd.DataFrame(found | kept)

    def _columns(self) -> dict[str, np.ndarray]:
        """All columns from ``term`` on, (wanted,) each, in the order of the terms."""
        sides, target, reference, wanted = self.sides, self.target, self.reference, self.wanted
        names = np.array(["", self.comparison.target, self.comparison.reference], dtype=object)
        columns = {
            "term": names_of(target, wanted),
            "freq_target": sides.a,
            "freq_reference": sides.b,
            "rank_target": _list_ranks(target, sides.a, sides.of_documents),
            "rank_reference": _list_ranks(reference, sides.b, sides.of_documents),
            "per_million_target": self._rates(sides.a, sides.n1),
            "per_million_reference": self._rates(sides.b, sides.n2),
            "docs_percent_target": 100 * target.docs[wanted] / target.documents,
            "docs_percent_reference": 100 * reference.docs[wanted] / reference.documents,
            "higher_in": names[sides.difference.astype(int)],
        }
        columns |= {name: MEASURES[name].of(sides) for name in self._measures()}
        if self.settings.shared and self.background is None:
            columns |= {"shared_low": self._narrow[1], "shared_high": self._narrow[2]}
        if self.background is not None:
            columns["per_million_background"] = self._background_rates
        if self.settings.resample:
            columns |= self._resampled()
        by_documents = self._p_by_documents()
        columns["note"] = notes_of(
            self.comparison,
            target,
            reference,
            wanted,
            sides.difference,
            sides.p_adjusted,
            by_documents,
            in_one=not sides.of_documents,
        )
        return columns

    def _rates(self, counted: np.ndarray, size: int) -> np.ndarray:
        return np.full(len(counted), np.nan) if self.sides.of_documents else 1e6 * counted / size

    def _measures(self) -> list[str]:
        """The measures that have a column."""
        statistic = self.test if self.test in _OWN_STATISTIC else self.sides.statistic
        first = ["log_ratio", "log_ratio_low", "log_ratio_high", statistic, "p_adjusted"]
        further = [name for asked in self.settings.measures for name in (ALL if asked == "all" else (asked,))]
        further += [self.settings.rank_by] if self.settings.rank_by else []
        return list(dict.fromkeys([*first, *further]))

    def _resampled(self) -> dict[str, np.ndarray]:
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
    def chosen(self) -> np.ndarray:
        """(wanted,) bool: the terms that the settings let be shown."""
        settings, sides = self.settings, self.sides
        found = np.ones(len(self.wanted), dtype=bool)
        if settings.alpha is not None:
            found &= sides.p_adjusted < settings.alpha
        if settings.min_log_ratio is not None:
            found &= np.abs(sides.ratio[0]) >= settings.min_log_ratio
        if settings.direction != "both":
            found &= sides.difference == (1 if settings.direction == "target" else -1)
        return found

    @cached_property
    def passes(self) -> np.ndarray:
        """(wanted,) bool: the same; where no other rule says what is key, p is below 0.05."""
        if self.settings.alpha is not None or self.settings.min_log_ratio is not None:
            return self.chosen
        return self.chosen & (self.sides.p_adjusted < ALPHA)

    @cached_property
    def shared(self) -> np.ndarray:
        """The terms that are about equally frequent, or rare elsewhere, in their order."""
        sides, settings = self.sides, self.settings
        on_both = (sides.a > 0) & (sides.b > 0)
        if self.background is not None and settings.below is not None:
            rate = self._background_rates
            found = np.flatnonzero(on_both & (rate < settings.below))
            return found[np.lexsort((found, -(sides.a + sides.b)[found], rate[found]))]
        _, low, high = self._narrow
        found = np.flatnonzero(on_both & (low >= -settings.margin) & (high <= settings.margin))
        return found[np.lexsort((found, (high - low)[found], np.abs(sides.ratio[0][found])))]

    @cached_property
    def _narrow(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """log_ratio with its 90 % interval: two one-sided tests at 5 %."""
        sides = self.sides
        return log_ratio(sides.a, sides.b, sides.n1, sides.n2, z=Z90)

    @cached_property
    def _background_rates(self) -> np.ndarray:
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


def _list_ranks(part: Part, counted: np.ndarray, of_documents: bool) -> pd.arrays.IntegerArray:
    """(wanted,) the rank in the list of all terms, empty for a term that is not in it."""
    every = part.docs.astype(np.int64) if of_documents else part.freq
    return pd.arrays.IntegerArray(competition_ranks(counted, every), counted == 0)
