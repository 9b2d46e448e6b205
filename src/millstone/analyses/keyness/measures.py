"""The measures of keyness: the columns they fill, their formulas and their sources."""

from collections.abc import Callable

import numpy as np

from millstone.analyses.keyness.sides import TwoCorpusCounts
from millstone.core.base.light_dataclass import frozen
from millstone.core.statistics import contingency, effect_sizes
from millstone.core.tables.columns import (
    DESIGN_EFFECT,
    LOG2,
    LOG_RATIO,
    OCCURRENCES,
    PERCENT,
    PROBABILITY,
    RATIO,
    number,
)
from millstone.core.tables.measures import Measure, Measures


@frozen
class KeynessMeasure(Measure[TwoCorpusCounts]):
    """A measure of two sides.

    `strength` makes of its values what terms are ranked by, the largest first: how far they are from no difference
    between the sides. A slow one is not among those that ``--measures all`` means.
    """

    is_slow: bool = False
    strength: Callable[[np.ndarray], np.ndarray] = np.abs


def _as_ratio(values: np.ndarray) -> np.ndarray:
    """Ratios: twice is as far from equal as half."""
    with np.errstate(divide="ignore"):
        found: np.ndarray = np.abs(np.log(values))
        return found


def _as_evidence(p: np.ndarray) -> np.ndarray:
    """p: the smaller the stronger, however small both are."""
    with np.errstate(divide="ignore"):
        found: np.ndarray = -np.log(p)
        return found


def _empty(sides: TwoCorpusCounts) -> np.ndarray:
    return np.full(len(sides.a), np.nan)


MEASURES: Measures[KeynessMeasure] = Measures(
    "two sides of a comparison: a and b occurrences of N1 and N2 tokens, rates r1 = a / N1 and r2 = b / N2",
    KeynessMeasure(
        LOG_RATIO.having(drawn=True, identifies=True), lambda s: s.ratio[0], "log2(r1 / r2)", "Hardie 2014"
    ),
    KeynessMeasure(
        number(
            "log_ratio_low",
            "low",
            "lower limit of the 95 % interval of the log ratio; empty where there is none",
            LOG2,
            priority=2,
            partner="log_ratio_high",
            drawn=True,
            identifies=True,
        ),
        lambda s: s.limits[0],
        "the least ratio that the test lets pass",
    ),
    KeynessMeasure(
        number(
            "log_ratio_high",
            "high",
            "upper limit of the 95 % interval of the log ratio; empty where there is none",
            LOG2,
            partner="log_ratio_low",
            drawn=True,
            identifies=True,
        ),
        lambda s: s.limits[1],
        "the largest ratio that the test lets pass",
    ),
    KeynessMeasure(
        number(
            "percent_diff",
            "% diff",
            "difference of the rates, in percent of the reference's",
            PERCENT,
            1,
            priority=7,
            optional=True,
        ),
        lambda s: s.effect(effect_sizes.percent_diff),
        "100 (r1 - r2) / r2",
        "Gabrielatos & Marchi 2011",
        "-100 or more",
    ),
    KeynessMeasure(
        number("relative_risk", "relative risk", "rate in target by the other", RATIO, priority=7, optional=True),
        lambda s: s.effect(effect_sizes.relative_risk),
        "r1 / r2",
        span="0 or more",
        strength=_as_ratio,
    ),
    KeynessMeasure(
        number(
            "odds_ratio",
            "odds ratio",
            "odds of the term in target by its odds in reference",
            RATIO,
            priority=7,
            optional=True,
        ),
        lambda s: s.effect(effect_sizes.odds_ratio),
        "(a / (N1 - a)) / (b / (N2 - b))",
        span="0 or more",
        strength=_as_ratio,
    ),
    KeynessMeasure(
        number(
            "diff_coefficient",
            "diff coefficient",
            "(r1 - r2) / (r1 + r2), -1 to 1",
            RATIO,
            3,
            priority=7,
            optional=True,
        ),
        lambda s: s.of(effect_sizes.diff_coefficient),
        "(r1 - r2) / (r1 + r2)",
        "Hofland & Johansson 1982",
        "-1 to 1",
    ),
    KeynessMeasure(
        number(
            "ell",
            "ell",
            "share of the largest ll the term could have, 0 to 1",
            RATIO,
            4,
            priority=7,
            optional=True,
        ),
        lambda s: (
            _empty(s)
            if s.of_documents
            else np.minimum(s.of(contingency.log_likelihood) / s.of(contingency.largest_log_likelihood), 1)
        ),
        "ll / (-2 (a + b) ln(min(N1, N2) / N))",
        "Johnston, Berry & Mielke 2006",
        "0 to 1",
    ),
    KeynessMeasure(
        number(
            "bic",
            "bic",
            "ll - ln N: above 2 positive, 6 strong, 10 very strong evidence; below 0 for none",
            priority=7,
            optional=True,
        ),
        lambda s: contingency.bayes_information(s.likelihood, s.n1, s.n2),
        "ll - ln N",
        "Wilson 2013",
        strength=np.positive,
    ),
    KeynessMeasure(
        number("ll", "ll", "log-likelihood of the two counts, 0 when the rates are equal", digits=1, priority=13),
        lambda s: s.of(contingency.log_likelihood),
        "2 (a ln(a / E1) + b ln(b / E2))",
        "Rayson & Garside 2000",
        "0 or more",
    ),
    KeynessMeasure(
        number(
            "g2",
            "g2",
            "log-likelihood of the 2 x 2 table of the term and all else (Dunning 1993)",
            digits=1,
            priority=12,
        ),
        lambda s: s.of(contingency.four_cell_log_likelihood),
        "2 sum of O ln(O / E)",
        "Dunning 1993",
        "0 or more",
    ),
    KeynessMeasure(
        number(
            "chi2",
            "chi2",
            "Pearson's chi-squared of the 2 x 2 table; empty when a margin is 0",
            digits=1,
            priority=11,
            optional=True,
        ),
        lambda s: s.of(contingency.pearson_chi2),
        "sum of (O - E)^2 / E",
        "Pearson 1900",
        "0 or more",
    ),
    KeynessMeasure(
        DESIGN_EFFECT.having(priority=10),
        lambda s: s.design_effect,
        "sum of e^2 / (1 - h) / (a + b) over units, at least 1",
        span="1 or more",
        strength=np.positive,
    ),
    KeynessMeasure(
        number(
            "ll_documents",
            "ll documents",
            "ll by design effect: the evidence over sampling units",
            digits=1,
            priority=9,
            identifies=True,
        ),
        lambda s: s.by_documents,
        "ll / design_effect",
        span="0 or more",
    ),
    KeynessMeasure(
        number(
            "smallest_ratio",
            "smallest ratio",
            "how many times as frequent in the target the term must be to be found in 8 of 10 such corpora",
            RATIO,
            priority=7,
            optional=True,
        ),
        lambda s: s.smallest_ratio,
        "ll of its expected counts / design effect = (z.975 + z.8)^2",
        "Self & Mauritsen 1988",
        "above 1",
        strength=np.negative,
    ),
    KeynessMeasure(
        number("p", "p", "p of the test in force, for this term alone", PROBABILITY, 4, priority=8, optional=True),
        lambda s: s.p,
        "of the test in force",
        span="0 to 1",
        strength=_as_evidence,
    ),
    KeynessMeasure(
        number(
            "p_adjusted",
            "p adjusted",
            "p of the test in force, adjusted for the number of terms compared",
            PROBABILITY,
            4,
            priority=3,
            drawn=True,
        ),
        lambda s: s.p_adjusted,
        "p for the number of terms",
        "Benjamini & Hochberg 1995",
        "0 to 1",
        strength=_as_evidence,
    ),
    KeynessMeasure(
        number("fisher", "fisher", "p of Fisher's exact test, two-sided", PROBABILITY, 4, priority=7, optional=True),
        lambda s: s.of(contingency.fisher_p),
        "sum of the tables no likelier",
        "Fisher 1934",
        "0 to 1",
        is_slow=True,
        strength=_as_evidence,
    ),
    KeynessMeasure(
        number(
            "expected_target",
            "expected target",
            "occurrences in the target if the rates were equal",
            OCCURRENCES,
            1,
            priority=7,
            partner="expected_reference",
            optional=True,
        ),
        lambda s: s.expected[0],
        "N1 (a + b) / (N1 + N2)",
        span="0 or more",
        strength=np.positive,
    ),
    KeynessMeasure(
        number(
            "expected_reference",
            "expected reference",
            "occurrences in the reference if the rates were equal",
            OCCURRENCES,
            1,
            priority=7,
            partner="expected_target",
            optional=True,
        ),
        lambda s: s.expected[1],
        "N2 (a + b) / (N1 + N2)",
        span="0 or more",
        strength=np.positive,
    ),
)


def measures_named(name: str) -> tuple[str, ...]:
    """The measures that a name means: one of them, ``expected`` on both sides, or ``all``."""
    if name == "all":
        return all_measures()
    return ("expected_target", "expected_reference") if name == "expected" else (name,)


def all_measures() -> tuple[str, ...]:
    """The measures that ``--measures all`` means."""
    return tuple(name for name, measure in MEASURES.items() if not measure.is_slow)
