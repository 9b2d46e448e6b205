"""The settings of collocates."""

from collections.abc import Sequence
from importlib import import_module

from millstone.analyses.base.settings import AdjustedSettings, NodeSettings
from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.declare import setting
from millstone.core.settings.kinds import about_measures, choice_of, free_text, integer, names, switch


def _optional() -> Sequence[str]:
    found: Sequence[str] = import_module("millstone.analyses.collocates.measures").optional_measures()
    return found


def _ranking() -> Sequence[str]:
    found: Sequence[str] = import_module("millstone.analyses.collocates.measures").ranking_measures()
    return found


@frozen
class CollocatesSettings(AdjustedSettings, NodeSettings):
    """Settings of ``collocates``."""

    against: str = setting(
        free_text("EXPRESSION"),
        "",
        "compare what is near --find with what is near this expression; with --dictionary, this category",
    )
    against_group: str = setting(
        free_text("GROUP|rest|pairs"),
        "",
        "compare what is near the same expression in each group with GROUP, the rest, or each other",
    )
    by_side: bool = setting(switch(), False, "count what is to the left and to the right apart")
    min_together: int = setting(integer("N", 1), 3, "leave out collocates that occur near a node fewer than N times")
    repelled: bool = setting(switch(), False, "show the terms that are near a node less often than expected")
    measures: tuple[str, ...] = setting(
        about_measures(_optional, names("NAME")), (), "add measures as columns", rare=True
    )
    rank_by: str = setting(choice_of(_ranking), "log_dice", "rank by a measure, the largest first")
