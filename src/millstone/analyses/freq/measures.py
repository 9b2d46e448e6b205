"""The measures of n-grams: how firmly their words are tied."""

from dataclasses import dataclass

import numpy as np

from millstone.core.statistics.association import log_dice, mutual_information, t_score, word_associations
from millstone.core.tables.columns import LOG2, number
from millstone.core.tables.measures import Measure, Measures


@dataclass(frozen=True)
class NgramCounts:
    """Occurrences of n-grams and of their parts.

    Attributes
    ----------
    freq : ndarray
        (n-grams,) float, above 0.
    parts : ndarray
        (n-grams, 2) float: those with the same first word, and with the same last word; or (n-grams, n), each word.
    size : ndarray
        (n-grams,) float: the places of n-grams, or all word tokens.
    """

    freq: np.ndarray
    parts: np.ndarray
    size: np.ndarray

    @property
    def is_of_two(self) -> bool:
        """Whether an n-gram has two parts."""
        found: bool = self.parts.shape[1] == 2
        return found

    @property
    def by_words(self) -> dict[str, np.ndarray]:
        """The measures of n-grams of three words or more."""
        return word_associations(self.freq, self.parts, float(self.size.max(initial=1)))


def _two(data: NgramCounts) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    return data.freq, data.parts[:, 0], data.parts[:, 1], data.size


MEASURES: Measures[Measure[NgramCounts]] = Measures(
    "n-grams: f occurrences, E expected by chance, f_i occurrences of the words",
    Measure(
        number(
            "mi", "mi", "mutual information of the n-gram's two parts: log2 of observed by expected", LOG2, priority=6
        ),
        lambda one: mutual_information(*_two(one)) if one.is_of_two else one.by_words["mi"],
        "log2(f / E)",
        "Church & Hanks 1990",
    ),
    Measure(
        number(
            "t_score", "t score", "observed less expected occurrences, by the square root of the observed", priority=8
        ),
        lambda one: t_score(*_two(one)) if one.is_of_two else one.by_words["t_score"],
        "(f - E) / sqrt(f)",
        "Church et al. 1991",
    ),
    Measure(
        number(
            "log_dice",
            "log dice",
            "14 where the two parts never stand without each other (Rychly 2008)",
            LOG2,
            priority=3,
        ),
        lambda one: log_dice(*_two(one)[:3]) if one.is_of_two else one.by_words["log_dice"],
        "14 + log2(n f / sum of f_i)",
        "Rychly 2008",
        "14 or less",
    ),
)
