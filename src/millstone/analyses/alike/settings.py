"""The settings of alike."""

from millstone.analyses.base.settings import FindSettings
from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.declare import setting
from millstone.core.settings.kinds import integer


@frozen
class AlikeSettings(FindSettings):
    """Settings of ``alike``."""

    min_freq: int = setting(integer("N", 1), 5, "leave out terms, and nodes, with fewer than N occurrences")
