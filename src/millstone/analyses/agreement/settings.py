"""The settings of agreement."""

from millstone.analyses.base.settings import ArbiterSettings
from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.declare import setting
from millstone.core.settings.kinds import integer, output_path


@frozen
class AgreementSettings(ArbiterSettings):
    """Settings of ``agreement``."""

    entries: str = setting(
        output_path("FILE"), "", "write how often each entry of the dictionary is right, the worst first; - shows it"
    )
    cases: str = setting(
        output_path("FILE"),
        "",
        "write the units to look at: wrong hits, what is missed, and where coders differ; - shows them",
    )
    seed: int = setting(integer("N"), 1, "the seed of random draws; the same seed gives the same result", rare=True)
