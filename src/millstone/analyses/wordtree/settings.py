"""The settings of wordtree."""

from millstone.analyses.base.settings import NodeSettings
from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.declare import setting
from millstone.core.settings.kinds import choice, integer, switch


@frozen
class WordTreeSettings(NodeSettings):
    """Settings of ``wordtree``."""

    side: str = setting(choice("right", "left", "both"), "right", "the contexts that follow, precede, or both")
    depth: int = setting(integer("N", 1, most=50), 4, "how many forks deep")
    min_places: int = setting(integer("N", 1), 2, "branches of fewer than N places are added up as (N more)")
    branches: int = setting(integer("N", 1, most=1000), 8, "how many branches of a fork, the widest first")
    together: bool = setting(switch(), False, "one tree of all groups")
