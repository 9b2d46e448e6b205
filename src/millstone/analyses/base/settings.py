"""Settings that several analyses share.

Light on purpose: the help is made from the settings of all commands.
"""

from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.declare import setting
from millstone.core.settings.kinds import (
    LISTS,
    choice,
    dictionaries,
    free_text,
    group_or_table,
    integer,
    names,
    sides,
    switch,
    texts,
)
from millstone.core.settings.preparation import MOST_SPAN, Sampling

MOST_DRAWS = 10_000_000


@frozen
class AgainstSettings:
    """The other side of comparisons."""

    against: str = setting(
        group_or_table("rest|pairs|GROUP|FILE", LISTS),
        "rest",
        "each group with all others, each pair, or every group with GROUP or a list",
    )


@frozen
class TermLimits:
    """How frequent the terms of two sides must be to be compared."""

    min_freq: int = setting(integer("N", 1), 1, "leave out terms under N occurrences on both sides together")
    max_freq: int = setting(
        integer("N"), 0, "leave out terms with more than N occurrences on both sides together", rare=True
    )
    min_docs: int = setting(
        integer("N"), 0, "leave out terms in fewer than N documents of both sides together", rare=True
    )


@frozen
class ComparisonSettings(TermLimits, AgainstSettings):
    """Settings of every comparison of groups."""


@frozen
class SamplingSettings(Sampling):
    """The settings of sampling units, for every analysis that holds groups against each other."""

    independent_units: bool = setting(
        switch(),
        False,
        "--unit: treat the parts of a text as independent, where a text counts once otherwise",
        rare=True,
    )


@frozen
class AdjustedSettings(SamplingSettings):
    """The sampling units, and how p is adjusted."""

    adjust: str = setting(
        choice("bh", "holm", "bonferroni", "none"),
        "bh",
        "adjust p for the number of tests: Benjamini & Hochberg, Holm, Bonferroni, or not at all",
        rare=True,
    )


@frozen
class CertaintySettings(AdjustedSettings):
    """Settings of every analysis with p values: intervals and adjustment."""

    adjust_for: tuple[str, ...] = setting(
        names("FIELD,..."),
        (),
        "hold fields of the texts equal: is it the group, or what goes with it? genre,year:number",
        rare=True,
    )
    seed: int = setting(integer("N"), 1, "the seed of random draws; the same seed gives the same result", rare=True)


@frozen
class DictionarySource:
    """A dictionary, and which of its categories."""

    dictionary: tuple[str, ...] = setting(
        dictionaries("FILE"),
        (),
        "the dictionary: TOML, table, .txt list or class (en:pronouns); repeatable",
    )
    category_column: str = setting(
        free_text("NAME"), "", "of a dictionary that is a table: the column of the categories", rare=True
    )
    entry_column: str = setting(
        free_text("NAME"), "", "of a dictionary that is a table: the column of the entries", rare=True
    )
    select: tuple[str, ...] = setting(
        names("A,B"), (), "only these categories, with their sub-categories, and scores"
    )

    @property
    def dictionaries(self) -> tuple[str, ...]:
        """The files that are read as dictionaries."""
        return self.dictionary


@frozen
class DictionarySettings(DictionarySource):
    """Settings that name a dictionary."""

    scale: str = setting(
        choice("percent", "count", "per_thousand", "weighted"),
        "percent",
        "places per 100 tokens, places, places per 1,000 tokens, or the mean weight of the places",
    )


@frozen
class ArbiterSettings:
    """Whose codes hold, of several coders of a sheet."""

    arbiter: str = setting(
        free_text("CODER"),
        "",
        "coding sheets: a coder whose codes hold where others differ, and who is not compared with them",
        rare=True,
    )


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
    """Settings of nodes: expressions, or categories of a dictionary; and what counts as near."""

    gap: int = setting(
        integer("N", most=MOST_SPAN), 0, "let up to N other words come between two words of an expression", rare=True
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
