"""The settings of trend."""

from millstone.analyses.base.settings import DictionarySource
from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.declare import setting
from millstone.core.settings.kinds import choice, free_text, integer, period


@frozen
class TrendSettings(DictionarySource):
    """Settings of ``trend``."""

    over: str = setting(free_text("FIELD"), "", "the number or date of each document, in whose order things change")
    period: str = setting(
        period("year|quarter|month|decade|N"),
        "",
        "put documents together by these periods; N: years, or steps of a number (default: years; each number)",
    )
    min_freq: int = setting(integer("N", 1), 5, "leave out terms under N occurrences in a group")
    direction: str = setting(choice("rises", "falls", "both"), "both", "show only what rises, or falls")
    adjust: str = setting(
        choice("bh", "holm", "bonferroni", "none"),
        "bh",
        "adjust p for the number of tests: Benjamini & Hochberg, Holm, Bonferroni, or not at all",
        rare=True,
    )
