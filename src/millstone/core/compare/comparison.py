"""One comparison of two sides: its terms, their measures, and the rows that are shown."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
import pandas as pd

from millstone.core.arrays import different_pairs, stable_order
from millstone.core.compare.bootstrap import resampled
from millstone.core.compare.keyness_notes import largest_in_one, notes_of
from millstone.core.compare.pairs import ALPHA, Comparison, chosen_terms
from millstone.core.ranks import competition_ranks, dense_ranks
from millstone.core.settings.analyses import KeynessSettings
from millstone.core.statistics.document_tests import Rates, mann_whitney, permutation, rates_of, welch
from millstone.core.statistics.keyness_measures import ALL, MEASURES, Sides
from millstone.core.statistics.measures import Z90, fisher_p, log_ratio, pearson_chi2
from millstone.core.statistics.significance import adjusted, chi2_upper_tail
from millstone.core.terms.background import Background
from millstone.core.terms.counts import Part

DOCUMENTS_FOR_TEST = 8
"""Fewer on a side make the test by ranks rough."""
OVER_DOCUMENTS = ("welch", "rank", "permutation")
"""The tests in which an observation is a document."""
_OWN_STATISTIC = ("ll", "g2", "chi2")
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
    def _times(self) -> np.ndarray:
        """(rows of sides,) how many terms each row is."""
        return np.bincount(self.row_of, minlength=len(self._counted[0]))

    @cached_property
    def sides(self) -> Sides:
        """What is counted on each side, a row for each pair of counts.

        Of long lists most terms have the counts of many others, and all measures of them.
        """
        settings, of_documents = self.settings, self.settings.count == "documents"
        parts = (self.target, self.reference)
        n1, n2 = (int(part.documents if of_documents else part.tokens) for part in parts)
        a, b, _ = self._counted
        statistic = "g2" if of_documents or settings.test == "g2" else "ll"
        sides = Sides(a, b, n1, n2, settings.zeros, statistic, of_documents)
        self._test(sides, self._times)
        return sides

    @property
    def test(self) -> str:
        """The name of the test in force."""
        return self.settings.test or ("g2" if self.settings.count == "documents" else "ll")

    @cached_property
    def rates(self) -> Rates:
        """The rates of these terms in each document."""
        return rates_of(self.target, self.reference, self.wanted, self.settings.independent_units)

    def _test(self, sides: Sides, times: np.ndarray | None = None) -> None:
        """Put in p and adjusted p; `times` is how many terms each row is."""
        sides.p = self._p(sides)
        sides.p_adjusted = adjusted(sides.p, self.settings.adjust, times)

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
        if name in P_LIKE and not len(sides.p):
            # a sample that was drawn
            self._test(sides)
        values = MEASURES[name].of(sides)
        return -values if name in P_LIKE else np.abs(values)

    def _p_by_documents(self) -> np.ndarray | None:
        """(wanted,) p of a test over documents, for the notes."""
        few = min(len(self.target.base), len(self.reference.base)) < DOCUMENTS_FOR_TEST
        if few or any(part.counts.listed is not None for part in (self.target, self.reference)):
            return None
        if self.test in OVER_DOCUMENTS or not len(self.wanted):
            return self.sides.p[self.row_of]
        return mann_whitney(self.rates)

    def table(self) -> pd.DataFrame:
        """The rows that are shown, in order; ranks are among all terms that were compared."""
        rank, terms = self._ranked()
        found: dict[str, Any] = {
            "target": self.comparison.target,
            "reference": self.comparison.reference,
            "rank": rank,
        }
        found |= self._columns(terms)
        # objects as they are: the other kind of text takes long to make
        kept = {
            name: pd.Series(one, dtype=object) if one.dtype == object else one
            for name, one in found.items()
            if not isinstance(one, str)
        }
        return pd.DataFrame(found | kept, copy=False)

    def _ranked(self) -> tuple[np.ndarray, np.ndarray]:
        """The rank of each shown term among all, and which one it is: its place in `wanted`."""
        if self.settings.shared:
            return np.arange(1, len(self.shared) + 1), self.shared
        sides = self.sides
        order = stable_order(dense_ranks(self.score(sides), sides.a + sides.b)[self.row_of])
        shown = np.flatnonzero(self.chosen[self.row_of[order]])
        return shown + 1, order[shown]

    def _columns(self, terms: np.ndarray) -> dict[str, np.ndarray]:
        """All columns from ``term`` on, (terms,) each; `terms` are indices into `wanted`."""
        sides, target, reference = self.sides, self.target, self.reference
        rows, wanted = self.row_of[terms], self.wanted[terms]
        names = np.array(["", self.comparison.target, self.comparison.reference], dtype=object)
        columns = {
            "term": names_of(target, wanted),
            "freq_target": sides.a[rows],
            "freq_reference": sides.b[rows],
            "rank_target": _list_ranks(target, sides.a, sides.of_documents)[rows],
            "rank_reference": _list_ranks(reference, sides.b, sides.of_documents)[rows],
            "per_million_target": self._rates(sides.a, sides.n1)[rows],
            "per_million_reference": self._rates(sides.b, sides.n2)[rows],
            "docs_percent_target": 100 * target.docs[wanted] / target.documents,
            "docs_percent_reference": 100 * reference.docs[wanted] / reference.documents,
            "higher_in": names[sides.difference[rows].astype(int)],
        }
        columns |= {name: MEASURES[name].of(sides)[rows] for name in self._measures()}
        if self.settings.shared and self.background is None:
            columns |= {"shared_low": self._narrow[1][rows], "shared_high": self._narrow[2][rows]}
        if self.background is not None:
            columns["per_million_background"] = self._background_rates[terms]
        if self.settings.resample:
            columns |= {name: values[terms] for name, values in self._resampled().items()}
        by_documents = self._p_by_documents()
        columns["note"] = notes_of(
            self.comparison,
            target,
            reference,
            wanted,
            sides.difference[rows],
            sides.p_adjusted[rows],
            None if by_documents is None else by_documents[terms],
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
        """(rows of sides,) bool: which the settings let be shown."""
        settings, sides = self.settings, self.sides
        found = np.ones(len(sides.a), dtype=bool)
        if settings.alpha is not None:
            found &= sides.p_adjusted < settings.alpha
        if settings.min_log_ratio is not None:
            found &= np.abs(sides.ratio[0]) >= settings.min_log_ratio
        if settings.direction != "both":
            found &= sides.difference == (1 if settings.direction == "target" else -1)
        return found

    @property
    def passing(self) -> int:
        """How many terms are key, or shared; where no other rule says what is key, p is below 0.05."""
        if self.settings.shared:
            return len(self.shared)
        key = self.chosen
        if self.settings.alpha is None and self.settings.min_log_ratio is None:
            key = key & (self.sides.p_adjusted < ALPHA)
        return int(self._times[key].sum())

    @cached_property
    def shared(self) -> np.ndarray:
        """The terms that are about equally frequent, or rare elsewhere, as indices into `wanted`, in their order."""
        sides, settings, row_of = self.sides, self.settings, self.row_of
        on_both = (sides.a > 0) & (sides.b > 0)
        if self.background is not None and settings.below is not None:
            rate = self._background_rates
            found = np.flatnonzero(on_both[row_of] & (rate < settings.below))
            return found[np.lexsort((found, -(sides.a + sides.b)[row_of[found]], rate[found]))]
        _, low, high = self._narrow
        within = on_both & (low >= -settings.margin) & (high <= settings.margin)
        found = np.flatnonzero(within[row_of])
        rows = row_of[found]
        return found[np.lexsort((found, (high - low)[rows], np.abs(sides.ratio[0][rows])))]

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
    """(counts,) the rank in the list of all terms, empty for a term that is not in it."""
    every = part.docs.astype(np.int64) if of_documents else part.freq
    return pd.arrays.IntegerArray(competition_ranks(counted, every), counted == 0)
