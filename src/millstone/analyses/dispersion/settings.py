"""The settings of dispersion."""

from millstone.analyses.base.settings import NodeSettings
from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.declare import setting
from millstone.core.settings.kinds import integer


@frozen
class DispersionSettings(NodeSettings):
    """Settings of ``dispersion``."""

    min_freq: int = setting(integer("N", 1), 1, "leave out terms with fewer than N occurrences in a group")
    max_freq: int = setting(integer("N"), 0, "leave out terms with more than N occurrences in a group", rare=True)
    min_docs: int = setting(integer("N"), 0, "leave out terms in fewer than N documents of a group", rare=True)
