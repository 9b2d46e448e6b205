"""The settings of keyness."""

from collections.abc import Sequence
from dataclasses import replace
from importlib import import_module

from millstone.analyses.base.settings import MOST_DRAWS, CertaintySettings, ComparisonSettings
from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.declare import setting
from millstone.core.settings.kinds import (
    about_measures,
    choice,
    free_text,
    integer,
    output_path,
    path,
    positive,
    share,
    switch,
    words,
)


def _measures() -> Sequence[str]:
    return tuple(import_module("millstone.analyses.keyness.measures").MEASURES)


@frozen
class KeynessSettings(CertaintySettings, ComparisonSettings):
    """Settings of ``keyness``."""

    test: str = setting(
        choice("documents", "ll", "g2", "chi2", "fisher", "welch", "rank", "permutation"),
        "",
        "the test behind p (default: documents); over tokens: ll, g2, chi2, fisher",
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
        about_measures(_measures, words("NAME")), (), "add measures as columns: bic, ell, odds_ratio, ... or all"
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
        integer("N", 2, or_zero=True, most=MOST_DRAWS),
        0,
        "resample the documents N times: intervals of log ratio and rank",
        rare=True,
    )
    draws: int = setting(
        integer("N", 1, most=MOST_DRAWS),
        9999,
        "permutation: how often documents are reassigned to the sides at random",
        rare=True,
    )
    overlap: str = setting(
        output_path("FILE|-"),
        "",
        "write how alike the lists of both sides are, beside random halves of the texts; - shows it here",
        rare=True,
    )
    overlap_terms: int = setting(
        integer("N", 2), 500, "--overlap: compare the N commonest terms of both sides", rare=True
    )
    wide: bool = setting(switch(), False, "one row per term, with the comparisons side by side", rare=True)
    keys_to: str = setting(
        output_path("FILE"),
        "",
        "write the key terms of each group as a dictionary for millstone categories",
        rare=True,
        formerly="as_dictionary",
    )

    @property
    def in_full(self) -> "KeynessSettings":
        """The settings with every compared term to be shown."""
        return replace(self, alpha=None, min_log_ratio=None, direction="both")
