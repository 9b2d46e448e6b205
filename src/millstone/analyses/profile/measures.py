"""The measures of a profile: how large and how varied texts are."""

from millstone.analyses.profile.ordered_terms import Together, ratio
from millstone.core.statistics.richness import (
    hypergeometric_diversity,
    mean_segment_ttr,
    moving_average_ttr,
    textual_diversity,
    yule_k,
)
from millstone.core.tables.columns import PERCENT, RATIO, TOKENS, integer, number
from millstone.core.tables.measures import Measure, Measures

_PERCENT, _RATIO = {"least": 0.0, "most": 100.0}, {"least": 0.0, "most": 1.0}

MEASURES: Measures[Measure[Together]] = Measures(
    "texts: N kept tokens, V different terms among them, V_m those that occur m times",
    Measure(TOKENS, lambda one: one.tokens, "all word tokens"),
    Measure(
        integer(
            "kept_tokens",
            "kept tokens",
            "word tokens that no rule left out",
            "tokens",
            priority=6,
            identifies=True,
            least=0.0,
        ),
        lambda one: len(one.terms),
        "N",
    ),
    Measure(
        integer("types", "types", "different terms among the kept tokens", "types", identifies=True, least=0.0),
        lambda one: len(one.freq),
        "V",
    ),
    Measure(
        integer("hapaxes", "hapaxes", "terms that occur once", "types", priority=5, least=0.0),
        lambda one: one.hapaxes,
        "V_1",
    ),
    Measure(
        number("hapax_percent", "hapax %", "share of the types that occur once", PERCENT, 1, priority=3, **_PERCENT),
        lambda one: ratio(100 * one.hapaxes, len(one.freq)),
        "100 V_1 / V",
    ),
    Measure(
        number(
            "ttr", "ttr", "types by kept tokens, 0 to 1; falls as texts get longer", RATIO, 3, priority=2, **_RATIO
        ),
        lambda one: ratio(len(one.freq), len(one.terms)),
        "V / N",
    ),
    Measure(
        number(
            "msttr",
            "msttr",
            "mean type-token ratio of full segments (Johnson 1944); empty under one",
            RATIO,
            3,
            priority=4,
            **_RATIO,
        ),
        lambda one: mean_segment_ttr(one.before, one.settings.segment),
        "mean of V / N of consecutive segments",
        "Johnson 1944",
    ),
    Measure(
        number(
            "mattr",
            "mattr",
            "mean type-token ratio of all windows (Covington & McFall 2010)",
            RATIO,
            3,
            identifies=True,
            **_RATIO,
        ),
        lambda one: moving_average_ttr(one.before, one.settings.window),
        "mean of V / N of all windows",
        "Covington & McFall 2010",
    ),
    Measure(
        number(
            "mtld",
            "mtld",
            "mean length of stretches of a ratio above 0.72 (McCarthy & Jarvis 2010)",
            "tokens",
            1,
            least=0.0,
        ),
        lambda one: textual_diversity(one.before),
        "N by the number of factors",
        "McCarthy & Jarvis 2010",
    ),
    Measure(
        number(
            "hdd",
            "hdd",
            "expected type-token ratio of 42 tokens drawn at random (McCarthy & Jarvis 2010)",
            RATIO,
            3,
            priority=2,
            **_RATIO,
        ),
        lambda one: hypergeometric_diversity(one.freq),
        "sum of 1 - C(N - f, 42) / C(N, 42) by 42",
        "McCarthy & Jarvis 2010",
    ),
    Measure(
        number("guiraud_r", "guiraud r", "types by the square root of kept tokens", RATIO, priority=6, least=0.0),
        lambda one: ratio(len(one.freq), len(one.terms) ** 0.5),
        "V / sqrt(N)",
        "Guiraud 1954",
    ),
    Measure(
        number(
            "yule_k",
            "yule k",
            "how likely two tokens are the same type, times 10,000 (Yule 1944)",
            digits=1,
            priority=4,
        ),
        lambda one: yule_k(one.freq),
        "1e4 (sum of m^2 V_m - N) / N^2",
        "Yule 1944",
    ),
    Measure(
        number(
            "mean_word_length",
            "word length",
            "mean length of the kept tokens as written",
            "characters",
            priority=3,
            least=0.0,
        ),
        lambda one: ratio(one.characters, len(one.terms)),
        "characters / N",
    ),
    Measure(
        number(
            "mean_sentence_length",
            "sentence length",
            "mean length of sentences that have tokens",
            "tokens",
            1,
            least=0.0,
        ),
        lambda one: ratio(one.tokens, one.sentences),
        "tokens / sentences",
    ),
)
