"""The settings of alike."""

from millstone.analyses.base.settings import MOST_DRAWS, AdjustedSettings, FindSettings
from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.declare import setting
from millstone.core.settings.kinds import integer, output_path


@frozen
class AlikeSettings(AdjustedSettings, FindSettings):
    """Settings of ``alike``."""

    min_freq: int = setting(integer("N", 1), 5, "leave out terms, and nodes, with fewer than N occurrences")
    difference: str = setting(
        output_path("FILE|-"),
        "",
        "write how differently the nodes are used in each two groups, and how differently by chance; - shows it here",
    )
    terms: int = setting(
        integer("N", 1), 0, "--difference: of the N commonest terms instead of --find, such as --terms 200"
    )
    draws: int = setting(
        integer("N", 1, most=MOST_DRAWS),
        199,
        "--difference: how often sampling units are put into the groups at random",
        rare=True,
    )
    seed: int = setting(integer("N"), 1, "the seed of random draws; the same seed gives the same result", rare=True)
