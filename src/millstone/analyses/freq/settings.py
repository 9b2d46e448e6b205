"""The settings of freq."""

from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.declare import setting
from millstone.core.settings.kinds import integer, number, switch


@frozen
class FrequencySettings:
    """Settings of ``freq``."""

    min_freq: int = setting(integer("N", 1), 1, "leave out terms with fewer than N occurrences in a group")
    max_freq: int = setting(
        integer("N"), 0, "leave out terms with more than N occurrences in a group; 1: the hapaxes"
    )
    min_docs: int = setting(integer("N"), 0, "leave out terms that occur in fewer than N documents of a group")
    min_log_dice: float | None = setting(
        number("X"), None, "n-grams: leave out those with a log Dice below X (the largest possible is 14)"
    )
    wide: bool = setting(switch(), False, "one row per term, with the groups side by side and their total")
