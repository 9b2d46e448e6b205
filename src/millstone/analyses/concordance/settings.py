"""The settings of concordance."""

from millstone.analyses.base.settings import NodeSettings
from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.declare import setting
from millstone.core.settings.kinds import choice_or_integer, free_text, integer, path, switch


@frozen
class ConcordanceSettings(NodeSettings):
    """Settings of ``concordance``."""

    from_: str = setting(path("TABLE"), "", "the lines behind a number of a saved table; with --row or --term")
    row: int = setting(integer("N", 1), 0, "--from: the row of data, 1 for the first")
    term: str = setting(free_text("TERM"), "", "--from: all rows of the term")
    context: str = setting(
        choice_or_integer("N|sentence|paragraph|document", "sentence", "paragraph", "document"),
        "12",
        "the context on each side: N words, or the sentence, paragraph or document",
    )
    sample: int = setting(integer("N"), 0, "draw N of the lines at random")
    seed: int = setting(integer("N"), 1, "the seed of random draws; the same seed gives the same result", rare=True)
    per_document: bool = setting(switch(), False, "count the places in each document instead of showing them")
