"""The settings of the core: preparation, and what each analysis can be asked.

Light on purpose: nothing is imported here that costs time, since the command line's
help is made from these declarations.
"""

from dataclasses import dataclass

from millstone.core.declare import choice, free_text, paths, positive, setting, span, whole, words_or_paths


@dataclass(frozen=True)
class Preparation:
    """What counts as a term."""

    min_tokens: int = setting(whole("N"), 0, "leave out documents shorter than N tokens")
    case: str = setting(choice("lower", "keep"), "lower", "count The and the as one term, or apart")
    stop: tuple[str, ...] = setting(
        words_or_paths("LIST"),
        (),
        "leave out the words of a stop list: en, or a UTF-8 file with a word a line; several with commas",
    )
    length: tuple[int, int | None] = setting(
        span("MIN..MAX"), (0, None), "keep terms of so many characters: 4..12, 4.. or ..12"
    )


@dataclass(frozen=True)
class FrequencySettings:
    """What ``freq`` can be asked."""

    min_freq: int = setting(whole("N", 1), 1, "leave out terms with fewer than N occurrences in a group")


@dataclass(frozen=True)
class ComparisonSettings:
    """What every comparison of groups can be asked."""

    against: str = setting(
        free_text("rest|pairs|GROUP"),
        "rest",
        "compare each group with all others together, each pair of groups, or every group with GROUP",
    )
    min_freq: int = setting(whole("N", 1), 1, "leave out terms with fewer than N occurrences on both sides together")


@dataclass(frozen=True)
class KeynessSettings(ComparisonSettings):
    """What ``keyness`` can be asked."""

    zeros: str = setting(
        choice("add", "smooth", "skip"),
        "add",
        "effect sizes of a term absent from one side: 0.5 in place of the zero, 0.5 added to all, or empty",
    )
    adjust: str = setting(
        choice("bh", "holm", "bonferroni", "none"),
        "bh",
        "adjust p for the number of terms: Benjamini & Hochberg, Holm, Bonferroni, or not at all",
    )


@dataclass(frozen=True)
class LogOddsSettings(ComparisonSettings):
    """What ``logodds`` can be asked."""

    prior: str = setting(
        choice("pooled", "uniform", "none"),
        "pooled",
        "pooled: each term weighs as in all groups together; uniform: the same for each; none: no prior",
    )
    prior_weight: float = setting(
        positive("X"), 1.0, "pooled prior: its size, as a multiple of all the tokens counted"
    )
    prior_count: float = setting(positive("X"), 0.5, "uniform prior: the occurrences added to each term")


@dataclass(frozen=True)
class CategorySettings:
    """What ``categories`` can be asked."""

    dictionary: tuple[str, ...] = setting(
        paths("FILE"), (), "the dictionary, a TOML file; may be repeated, equal categories are joined"
    )
    scale: str = setting(
        choice("percent", "count", "per_thousand", "weighted"),
        "percent",
        "places per 100 tokens, places, places per 1,000 tokens, or the mean weight of the places",
    )
