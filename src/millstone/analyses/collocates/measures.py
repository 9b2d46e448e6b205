"""The measures of collocates."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from millstone.core.statistics.association import delta_p, log_dice, mutual_information, t_score
from millstone.core.statistics.contingency import four_cell_log_likelihood
from millstone.core.tables.columns import LOG2, number
from millstone.core.tables.measures import Measure, Measures


@dataclass(frozen=True)
class Cooccurrence:
    """How often collocates occur near a node.

    Attributes
    ----------
    together : ndarray
        (rows,) int64 f12: occurrences of the collocate near the node.
    freq : ndarray
        (rows,) int64 f2: all its occurrences.
    window : int
        W: the tokens near any place of the node.
    places : int
        f1: the places of the node.
    size : int
        N: all word tokens.
    """

    together: np.ndarray
    freq: np.ndarray
    window: int
    places: int
    size: int

    @cached_property
    def pair(self) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
        """f12, W, f2 and N as floats."""
        window, size = np.asarray(float(self.window)), np.asarray(float(max(self.size, 1)))
        return self.together.astype(float), window, self.freq.astype(float), size

    @property
    def expected(self) -> np.ndarray:
        """(rows,) f2 W / N."""
        _, window, freq, size = self.pair
        found: np.ndarray = freq * window / size
        return found

    @cached_property
    def delta_p(self) -> tuple[np.ndarray, np.ndarray]:
        """(rows,) each: of the collocate given the node, and of the node given the collocate."""
        return delta_p(*self.pair)


def _log_dice(one: Cooccurrence) -> np.ndarray:
    fewest = np.minimum(np.minimum(one.together, one.freq), one.places)
    return log_dice(fewest.astype(float), np.asarray(float(one.places)), one.pair[2])


MEASURES: Measures[Measure[Cooccurrence]] = Measures(
    "collocates: f12 together, f1 places of the node, f2 occurrences of the collocate, W tokens near, N all tokens",
    Measure(
        number(
            "log_dice",
            "log dice",
            "14 where the two never stand without each other (Rychly 2008)",
            LOG2,
            identifies=True,
        ),
        _log_dice,
        "14 + log2(2 f12 / (f1 + f2))",
        "Rychly 2008",
        "14 or less",
    ),
    Measure(
        number("ll", "ll", "log-likelihood of near and not near, the collocate and all else", digits=1, priority=5),
        lambda one: four_cell_log_likelihood(
            one.together, one.freq - one.together, one.window, one.size - one.window
        ),
        "2 sum of O ln(O / E) of f12, W - f12, f2 - f12 and the rest",
        "Dunning 1993",
        "0 or more",
    ),
    Measure(
        number("mi", "mi", "mutual information: log2 of together by expected", LOG2, priority=5),
        lambda one: mutual_information(*one.pair),
        "log2(f12 / expected)",
        "Church & Hanks 1990",
    ),
    Measure(
        number("t_score", "t score", "together less expected, by the square root of together", priority=6),
        lambda one: t_score(*one.pair),
        "(f12 - expected) / sqrt(f12)",
        "Church et al. 1991",
    ),
    Measure(
        number(
            "delta_p_collocate_given_node",
            "delta p given node",
            "how much likelier the collocate is near the node than elsewhere",
            digits=4,
            priority=6,
            optional=True,
        ),
        lambda one: one.delta_p[0],
        "f12 / W - (f2 - f12) / (N - W)",
        "Gries 2013",
        "-1 to 1",
    ),
    Measure(
        number(
            "delta_p_node_given_collocate",
            "delta p given collocate",
            "how much likelier its tokens are near the node than other tokens",
            digits=4,
            priority=6,
            optional=True,
        ),
        lambda one: one.delta_p[1],
        "f12 / f2 - (W - f12) / (N - f2)",
        "Gries 2013",
        "-1 to 1",
    ),
)


def optional_measures() -> tuple[str, ...]:
    """The measures that have a column where they are asked for."""
    return tuple(name for name, one in MEASURES.items() if one.column.optional)


def ranking_measures() -> tuple[str, ...]:
    """The measures that rows can be ranked by, the usual one first."""
    return (*(name for name, one in MEASURES.items() if not one.column.optional), "together")
