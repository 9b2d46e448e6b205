"""The settings of profile."""

from millstone.analyses.base.settings import SamplingSettings
from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.declare import setting
from millstone.core.settings.kinds import choice_or_integer, integer, switch


@frozen
class ProfileSettings(SamplingSettings):
    """Settings of ``profile``."""

    per_document: bool = setting(switch(), False, "one row per document instead of one row per group")
    keep_all: bool = setting(
        switch(), False, "of a table: keep all rows and columns as they are, with the measures to their right"
    )
    equal_length: str = setting(
        choice_or_integer("N|shortest", "shortest"),
        "",
        "add types and ttr as N tokens drawn at random have them; shortest: as many as the smallest row has",
    )
    segment: int = setting(integer("N", 1), 500, "msttr: tokens of a segment")
    window: int = setting(integer("N", 1), 500, "mattr: tokens of a window")
    mtld: bool = setting(
        switch(),
        True,
        "compute mtld, which takes longest on large corpora",
        off="leave mtld out, which takes longest on large corpora",
    )
