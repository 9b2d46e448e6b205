"""The settings of reading: what is looked for, and what of its surroundings is shown or counted.

Light on purpose, like those of the analyses.
"""

from millstone.core.frozen import frozen
from millstone.core.settings.analyses import DictionarySource
from millstone.core.settings.declare import setting
from millstone.core.settings.kinds import choice, choice_or_whole, free_text, names, path, sides, switch, texts, whole
from millstone.core.settings.preparation import MOST_SPAN


@frozen
class FindSettings:
    """The words that are looked for."""

    find: tuple[str, ...] = setting(
        texts("EXPRESSION"),
        (),
        "look for words: hut; mountain hut* (several in a row); hut, huts (either); NAME=EXPRESSION; may be repeated",
    )


@frozen
class NodeSettings(DictionarySource, FindSettings):
    """What is looked for: expressions, or the places of a dictionary's categories; and what counts as near."""

    gap: int = setting(
        whole("N", most=MOST_SPAN), 0, "let up to N other words come between two words of an expression", rare=True
    )
    near: tuple[str, ...] = setting(
        texts("EXPRESSION"), (), "keep only places with this expression within the span; may be repeated", rare=True
    )
    not_near: tuple[str, ...] = setting(
        texts("EXPRESSION"),
        (),
        "keep only places without this expression within the span",
        rare=True,
    )
    span: tuple[int, int] = setting(
        sides("L,R", MOST_SPAN), (5, 5), "how many words left and right of a place count as near it"
    )
    within: str = setting(choice("document", "sentence"), "document", "where a span ends at the latest", rare=True)


@frozen
class ConcordanceSettings(NodeSettings):
    """What ``concordance`` can be asked."""

    from_: str = setting(path("TABLE"), "", "the lines behind a number of a saved table; with --row or --term")
    row: int = setting(whole("N", 1), 0, "--from: the row of data, 1 for the first")
    term: str = setting(free_text("TERM"), "", "--from: all rows of the term")
    context: str = setting(
        choice_or_whole("N|sentence|paragraph|document", "sentence", "paragraph", "document"),
        "12",
        "the context on each side: N words, or the sentence, paragraph or document",
    )
    sample: int = setting(whole("N"), 0, "draw N of the lines at random")
    seed: int = setting(whole("N"), 1, "the seed of random draws; the same seed gives the same result", rare=True)
    per_document: bool = setting(switch(), False, "count the places in each document instead of showing them")


@frozen
class DispersionSettings(NodeSettings):
    """What ``dispersion`` can be asked."""

    min_freq: int = setting(whole("N", 1), 1, "leave out terms with fewer than N occurrences in a group")
    max_freq: int = setting(whole("N"), 0, "leave out terms with more than N occurrences in a group", rare=True)
    min_docs: int = setting(whole("N"), 0, "leave out terms in fewer than N documents of a group", rare=True)


@frozen
class CollocatesSettings(NodeSettings):
    """What ``collocates`` can be asked."""

    by_side: bool = setting(switch(), False, "count what is to the left and to the right apart")
    min_together: int = setting(whole("N", 1), 3, "leave out collocates that occur near a node fewer than N times")
    repelled: bool = setting(
        switch(), False, "show the terms that occur near a node less often than expected, those least so last"
    )
    measures: tuple[str, ...] = setting(
        names("NAME"), (), "add measures as columns: delta_p_near, delta_p_of", rare=True
    )
    rank_by: str = setting(
        choice("log_dice", "mi", "t_score", "ll", "together"), "log_dice", "rank by a measure, the largest first"
    )


@frozen
class WordTreeSettings(NodeSettings):
    """What ``wordtree`` can be asked."""

    side: str = setting(choice("right", "left", "both"), "right", "the contexts that follow, precede, or both")
    depth: int = setting(whole("N", 1, most=50), 4, "how many forks deep")
    min_places: int = setting(whole("N", 1), 2, "branches of fewer than N places are added up as (N more)")
    branches: int = setting(whole("N", 1, most=1000), 8, "how many branches of a fork, the widest first")
    together: bool = setting(switch(), False, "one tree of all groups")
