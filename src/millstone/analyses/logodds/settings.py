"""The settings of logodds."""

from millstone.analyses.base.settings import ComparisonSettings, SamplingSettings
from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.declare import setting
from millstone.core.settings.kinds import choice_or_path, positive

PRIORS = ("pooled", "uniform", "none")


@frozen
class LogOddsSettings(SamplingSettings, ComparisonSettings):
    """Settings of ``logodds``."""

    prior: str = setting(
        choice_or_path("pooled|uniform|none|FILE", *PRIORS),
        "pooled",
        "the prior of a term: from all groups together, the same for every term, none, or from a frequency list",
    )
    prior_weight: float = setting(
        positive("X"), 1.0, "pooled or list: the prior's size, as a multiple of all tokens counted"
    )
    prior_count: float = setting(positive("X"), 0.5, "uniform: the occurrences added to each term", rare=True)
