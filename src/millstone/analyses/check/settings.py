"""The settings of check."""

from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.declare import setting
from millstone.core.settings.kinds import integer, output_path, switch, terms
from millstone.core.settings.output import HERE
from millstone.core.settings.preparation import Sampling


@frozen
class CheckSettings(Sampling):
    """Settings of ``check``."""

    all: bool = setting(
        switch(), False, "list everything that looks wrong; otherwise the five that touch most tokens"
    )
    duplicates: str = setting(
        output_path("FILE", alone=HERE),
        "",
        "list the near-duplicates, what they have in common, and which would stay",
    )
    show_units: str = setting(
        output_path("FILE|-"),
        "",
        "write the units that --unit cuts texts into, each with its text; - shows them here",
    )
    show: int = setting(integer("N"), 0, "print the first N documents whole, as they are read and cleaned")
    explain: tuple[str, ...] = setting(
        terms("WORD,..."), (), "say what preparation makes of a word, or which words become a term, and why"
    )
