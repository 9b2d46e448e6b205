"""The measures of dispersion."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from millstone.core.matrix.cells import SparseMatrix
from millstone.core.matrix.totals import column_sums
from millstone.core.statistics.dispersion import deviation_of_proportions, evenness, expected_deviation, juilland_d
from millstone.core.tables.columns import RATIO, number
from millstone.core.tables.measures import Measure, Measures


@dataclass(frozen=True)
class Spread:
    """How terms are spread over the documents of a group.

    Attributes
    ----------
    matrix : SparseMatrix
        (documents, terms) occurrences.
    base : ndarray
        (documents,) tokens, all above 0.
    terms : ndarray
        (rows,) the columns of the matrix that are measured.
    """

    matrix: SparseMatrix
    base: np.ndarray
    terms: np.ndarray

    @cached_property
    def freq(self) -> np.ndarray:
        """(rows,) occurrences."""
        found: np.ndarray = column_sums(self.matrix)[self.terms]
        return found

    @cached_property
    def dp(self) -> np.ndarray:
        """(rows,) deviation of proportions."""
        found: np.ndarray = deviation_of_proportions(self.matrix, self.base)[self.terms]
        return found

    @cached_property
    def expected(self) -> np.ndarray:
        """(rows,) the deviation of proportions that chance gives on the average."""
        return expected_deviation(self.freq, self.base)

    @property
    def smallest_share(self) -> float:
        """The share that the smallest document has of the tokens; NaN for one document."""
        return float(self.base.min() / self.base.sum()) if len(self.base) > 1 else np.nan


MEASURES: Measures[Measure[Spread]] = Measures(
    "dispersion: v_i the share that document i has of the term, s_i its share of the tokens",
    Measure(
        number(
            "dp",
            "dp",
            "deviation of proportions: 0 spread evenly over the documents, near 1 all in few (Gries 2008)",
            digits=3,
            drawn=True,
        ),
        lambda one: one.dp,
        "half the sum of |v_i - s_i|",
        "Gries 2008",
        "0 to 1",
    ),
    Measure(
        number(
            "dp_expected",
            "dp expected",
            "dp on the average if chance alone spread the term over documents of these sizes",
            digits=3,
            priority=3,
        ),
        lambda one: one.expected,
        "sum of E|X_i - f s_i| / 2 f",
        "De Moivre 1730",
        "0 to 1",
    ),
    Measure(
        number(
            "evenness",
            "evenness",
            "1 spread as evenly as chance would, near 0 all in one document",
            RATIO,
            3,
            priority=2,
        ),
        lambda one: evenness(one.dp, one.expected),
        "1 - (dp - dp_expected) / (1 - dp_expected)",
        span="0 to 1",
    ),
    Measure(
        number(
            "dp_norm",
            "dp norm",
            "dp by the largest that the sizes of the documents allow, 0 to 1",
            digits=3,
            priority=3,
        ),
        lambda one: one.dp / (1 - one.smallest_share),
        "dp / (1 - min s_i)",
        "Lijffijt & Gries 2012",
        "0 to 1",
    ),
    Measure(
        number(
            "juilland_d",
            "juilland d",
            "1 spread evenly over the documents, 0 all in one (Juilland 1971)",
            digits=3,
            priority=3,
        ),
        lambda one: juilland_d(one.matrix, one.base)[one.terms],
        "1 - (sd / mean) / sqrt(k - 1)",
        "Juilland et al. 1971",
        "0 to 1",
    ),
)
