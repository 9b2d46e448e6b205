"""The schema of plans."""

from millstone.core.tables.columns import DESIGN_EFFECT, PER_MILLION, RATIO, WORDS, integer, number, text
from millstone.core.tables.schema import Schema

_COLUMNS = (
    text("target", "target", "the group that is to have more of a term"),
    text("reference", "reference", "the group that it is held against"),
    WORDS.having(priority=3),
    integer(
        "per_million",
        "per million",
        "rate of terms on both sides together, from this one to the next; ratios are for their mean rate",
        PER_MILLION,
        look="key",
    ),
    integer("terms", "terms", "terms of such rates that were measured", "terms", priority=4),
    DESIGN_EFFECT.having(
        meaning="how many times more such terms vary between sampling units than chance would: the median",
        priority=3,
    ),
    number(
        "design_effect_90",
        "90 %",
        "the design effect that 90 % of these terms do not exceed",
        RATIO,
        1,
        priority=5,
    ),
    number(
        "smallest_ratio",
        "smallest ratio",
        "how many times as frequent in the target such a term must be to be found with the power asked for",
        RATIO,
    ),
    number(
        "smallest_ratio_strict",
        "strict",
        "the same where p is multiplied by the number of terms (Bonferroni): the farthest an adjustment goes",
        RATIO,
        priority=2,
    ),
    integer(
        "documents_for_2",
        "documents for doubling",
        "how many documents of mean length, both sides together, it takes to find a doubling: 4 or more",
        "documents",
        priority=2,
    ),
)


def schema() -> Schema:
    """Bands of frequency with what a comparison of two groups would find."""
    return Schema("plan", _COLUMNS, blocks=("target", "reference"), joint=" compared with ", every=False)
