"""The settings of check."""

from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.declare import setting
from millstone.core.settings.kinds import free_text, integer
from millstone.core.settings.preparation import Sampling


@frozen
class CheckSettings(Sampling):
    """Settings of ``check``."""

    show: int = setting(integer("N"), 0, "print the first N documents whole, as they are read and cleaned")
    explain: str = setting(
        free_text("WORD"), "", "say what preparation makes of a word, or which words become a term, and why"
    )
