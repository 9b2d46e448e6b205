"""The settings of code."""

from millstone.analyses.base.settings import DictionarySource
from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.declare import setting
from millstone.core.settings.kinds import integer, share


@frozen
class CodeSettings(DictionarySource):
    """Settings of ``code``."""

    sample: int = setting(integer("N", 4), 200, "draw N units: half with a hit, spread over categories and entries")
    coders: int = setting(integer("N", 1, most=26), 1, "make a sheet for each of N coders: A, B, ...")
    overlap: float = setting(
        share("X", or_none=True), 0.3, "--coders: the share of the units that all of them code, the others one each"
    )
    context: int = setting(integer("N"), 30, "so many words before and after each unit, for reading")
    seed: int = setting(integer("N"), 1, "the seed of random draws; the same seed gives the same result", rare=True)
