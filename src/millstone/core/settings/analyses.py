"""The settings of the core: what each analysis can be asked.

Light on purpose: nothing is imported here that costs time, since the command line's
help is made from these declarations.
"""

from dataclasses import replace

from millstone.core.frozen import frozen
from millstone.core.settings.declare import setting
from millstone.core.settings.kinds import (
    choice,
    choice_or_path,
    free_text,
    group_or_table,
    names,
    number,
    path,
    paths,
    positive,
    result,
    share,
    switch,
    whole,
    words,
)
from millstone.core.settings.preparation import Sampling

MOST_DRAWS = 10_000_000
PRIORS = ("pooled", "uniform", "none")
LISTS = (".csv", ".tsv", ".xlsx", ".jsonl", ".parquet", ".txt")
"""The endings of frequency lists that an option can name."""


@frozen
class FrequencySettings:
    """What ``freq`` can be asked."""

    min_freq: int = setting(whole("N", 1), 1, "leave out terms with fewer than N occurrences in a group")
    max_freq: int = setting(whole("N"), 0, "leave out terms with more than N occurrences in a group; 1: the hapaxes")
    min_docs: int = setting(whole("N"), 0, "leave out terms that occur in fewer than N documents of a group")
    min_log_dice: float | None = setting(
        number("X"), None, "n-grams: leave out those with a log Dice below X (the largest possible is 14)"
    )
    wide: bool = setting(switch(), False, "one row per term, with the groups side by side and their total")


@frozen
class ProfileSettings:
    """What ``profile`` can be asked."""

    per_document: bool = setting(switch(), False, "one row per document instead of one row per group")
    keep_all: bool = setting(
        switch(), False, "of a table: keep all rows and columns as they are, with the measures to their right"
    )
    segment: int = setting(whole("N", 1), 1000, "msttr: tokens of a segment")
    window: int = setting(whole("N", 1), 500, "mattr: tokens of a window")
    mtld: bool = setting(
        switch(),
        True,
        "compute mtld, which takes longest on large corpora",
        off="leave mtld out, which takes longest on large corpora",
    )


@frozen
class MatrixSettings:
    """What ``matrix`` can be asked."""

    by: str = setting(choice("document", "group"), "document", "one row per document, or one row per group")
    transpose: bool = setting(switch(), False, "one row per term, one column per document or group")
    weight: str = setting(
        choice("count", "relative", "binary", "tfidf"),
        "count",
        "occurrences, their share of the row's tokens, 1 for present, or occurrences x ln(D / docs)",
    )
    min_freq: int = setting(whole("N", 1), 1, "leave out terms with fewer than N occurrences in all")
    max_freq: int = setting(whole("N"), 0, "leave out terms with more than N occurrences in all")
    min_docs: int = setting(whole("N"), 0, "leave out terms in fewer than N documents")


@frozen
class ComparisonSettings:
    """What every comparison of groups can be asked."""

    against: str = setting(
        group_or_table("rest|pairs|GROUP|FILE", LISTS),
        "rest",
        "each group with all others, each pair, or every group with GROUP or a list",
    )
    min_freq: int = setting(whole("N", 1), 1, "leave out terms under N occurrences on both sides together")
    max_freq: int = setting(
        whole("N"), 0, "leave out terms with more than N occurrences on both sides together", rare=True
    )
    min_docs: int = setting(
        whole("N"), 0, "leave out terms in fewer than N documents of both sides together", rare=True
    )


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
class CertaintySettings(SamplingSettings):
    """What every analysis with p values can be asked about how sure a difference is."""

    adjust: str = setting(
        choice("bh", "holm", "bonferroni", "none"),
        "bh",
        "adjust p for the number of tests: Benjamini & Hochberg, Holm, Bonferroni, or not at all",
        rare=True,
    )
    seed: int = setting(whole("N"), 1, "the seed of random draws; the same seed gives the same result", rare=True)


@frozen
class KeynessSettings(CertaintySettings, ComparisonSettings):
    """What ``keyness`` can be asked."""

    test: str = setting(
        choice("documents", "ll", "g2", "chi2", "fisher", "welch", "rank", "permutation"),
        "",
        "what p is of (default: documents); of tokens are ll, g2, chi2, fisher",
    )
    interval: str = setting(
        choice("documents", "tokens", "resample"),
        "",
        "the interval of the log ratio: over documents, as --test documents has it; over tokens, as the tests of "
        "tokens have it; or by resampling",
        rare=True,
    )
    count: str = setting(
        choice("tokens", "documents"),
        "tokens",
        "compare occurrences, or the number of documents that have a term",
        rare=True,
    )
    measures: tuple[str, ...] = setting(
        words("NAME"), (), "add measures as columns: bic, ell, odds_ratio, ... or all"
    )
    zeros: str = setting(
        choice("add", "smooth", "skip"),
        "add",
        "effect sizes of a term absent from one side: 0.5 in place of the zero, 0.5 added to all, or empty",
        rare=True,
    )
    rank_by: str = setting(
        free_text("MEASURE"),
        "",
        "rank by a measure, the farthest from no difference first (default: ll_documents)",
        rare=True,
    )
    direction: str = setting(
        choice("target", "reference", "both"), "both", "show only what is more frequent on this side", rare=True
    )
    alpha: float | None = setting(share("X"), None, "show only terms whose adjusted p is below X")
    min_log_ratio: float | None = setting(positive("X"), None, "show only log ratios of X or more, either way")
    max_share: float | None = setting(
        share("X"), None, "leave out terms of which one document has more than the share X, such as 0.5", rare=True
    )
    shared: bool = setting(switch(), False, "show what is about equally frequent on both sides")
    margin: float = setting(
        positive("X"), 0.5, "--shared: the log ratio's 90 % interval lies within -X to X", rare=True
    )
    background: str = setting(
        path("FILE"),
        "",
        "--shared: a frequency list of the language; shows what both sides have and the list has rarely",
        rare=True,
    )
    below: float | None = setting(
        positive("X"), None, "--background: terms of fewer than X per million in the list", rare=True
    )
    resample: int = setting(
        whole("N", 2, or_zero=True, most=MOST_DRAWS),
        0,
        "resample the documents N times: intervals of log ratio and rank",
        rare=True,
    )
    draws: int = setting(
        whole("N", 1, most=MOST_DRAWS),
        9999,
        "permutation: how often documents are reassigned to the sides at random",
        rare=True,
    )
    wide: bool = setting(switch(), False, "one row per term, with the comparisons side by side", rare=True)
    as_dictionary: str = setting(
        result("FILE"), "", "write the key terms of each group as a dictionary for millstone categories", rare=True
    )

    @property
    def in_full(self) -> "KeynessSettings":
        """The same with every compared term to be shown."""
        return replace(self, alpha=None, min_log_ratio=None, direction="both")


@frozen
class LogOddsSettings(SamplingSettings, ComparisonSettings):
    """What ``logodds`` can be asked."""

    prior: str = setting(
        choice_or_path("pooled|uniform|none|FILE", *PRIORS),
        "pooled",
        "the prior of a term: from all groups together, the same for every term, none, or from a frequency list",
    )
    prior_weight: float = setting(
        positive("X"), 1.0, "pooled or list: the prior's size, as a multiple of all tokens counted"
    )
    prior_count: float = setting(positive("X"), 0.5, "uniform: the occurrences added to each term", rare=True)


@frozen
class DictionarySource:
    """A dictionary, and which of its categories."""

    dictionary: tuple[str, ...] = setting(
        paths("FILE"), (), "the dictionary: TOML, or a table of entries; may be repeated, equal categories are joined"
    )
    select: tuple[str, ...] = setting(
        names("A,B"), (), "only these categories, with their sub-categories, and scores"
    )


@frozen
class DictionarySettings(DictionarySource):
    """What is counted by a dictionary."""

    scale: str = setting(
        choice("percent", "count", "per_thousand", "weighted"),
        "percent",
        "places per 100 tokens, places, places per 1,000 tokens, or the mean weight of the places",
    )


@frozen
class CategorySettings(DictionarySettings):
    """What ``categories`` can be asked."""

    by_group: str = setting(result("FILE"), "", "write means, deviations and pooled values of the groups")
    words: str = setting(
        result("FILE"), "", "write the words of each group with the categories they were counted for"
    )
    in_order: str = setting(
        result("FILE"), "", "write every word of the texts in order, with its categories", rare=True
    )
    marked: str = setting(
        result("FILE.html|-"), "", "write the texts with what was counted marked in them; - shows them here"
    )
    keep_all: bool = setting(
        switch(), False, "of a table: keep all rows and columns as they are, with the categories to their right"
    )
    validate: tuple[str, ...] = setting(
        paths("FILE"),
        (),
        "count nothing; report what is odd about a dictionary and, with INPUT, what its entries catch",
    )


@frozen
class ContrastSettings(CertaintySettings, DictionarySettings):
    """What ``contrast`` can be asked."""

    values: tuple[str, ...] = setting(
        names("A,B"),
        (),
        "compare measures that profile computes, or numeric fields; of a --table, its columns",
    )
    table: str = setting(path("FILE"), "", "compare columns of a table, one document per row, as categories saves it")
    against: str = setting(
        free_text("pairs|GROUP"), "pairs", "compare each pair of groups, or each group with this one"
    )
    interval: str = setting(
        choice("welch", "bootstrap"),
        "welch",
        "the interval of a difference: Welch's, or by resampling documents",
        rare=True,
    )
    draws: int = setting(whole("N", 1, most=MOST_DRAWS), 9999, "bootstrap: the number of resamples", rare=True)
    by_length: bool = setting(switch(), False, "weigh documents by their tokens in means; otherwise all weigh alike")
    omnibus: str = setting(result("FILE"), "", "write whether groups differ at all: Welch's ANOVA and Kruskal-Wallis")
    trend: str = setting(
        result("FILE"), "", "for parts of texts (--unit parts:N): write how each value changes from beginning to end"
    )
