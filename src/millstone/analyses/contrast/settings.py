"""The settings of contrast."""

from millstone.analyses.base.settings import MOST_DRAWS, ArbiterSettings, CertaintySettings, DictionarySettings
from millstone.core.base.light_dataclass import frozen
from millstone.core.settings.declare import setting
from millstone.core.settings.kinds import choice, free_text, integer, names, output_path, path, paths, switch


@frozen
class ContrastSettings(CertaintySettings, ArbiterSettings, DictionarySettings):
    """Settings of ``contrast``."""

    values: tuple[str, ...] = setting(
        names("A,B"),
        (),
        "compare measures of profile, or numeric fields; of a --table its columns",
    )
    table: str = setting(path("FILE"), "", "compare columns of a table, one document per row, as categories saves it")
    corrected_by: tuple[str, ...] = setting(
        paths("SHEET"),
        (),
        "a filled-in coding sheet: compare shares of units, as counted and corrected by what coders say",
        rare=True,
    )
    same_rates: bool = setting(
        switch(),
        False,
        "--corrected-by: take categories to err alike in all groups, which makes intervals narrower",
        rare=True,
    )
    against: str = setting(
        free_text("pairs|rest|GROUP"),
        "pairs",
        "compare each pair of groups, each with all others, or with this one",
    )
    interval: str = setting(
        choice("welch", "bootstrap"),
        "welch",
        "the interval of a difference: Welch's, or by resampling documents",
        rare=True,
    )
    draws: int = setting(integer("N", 1, most=MOST_DRAWS), 9999, "bootstrap: the number of resamples", rare=True)
    by_length: bool = setting(
        switch(), False, "weigh documents by their tokens in means; otherwise all weigh alike", rare=True
    )
    omnibus: str = setting(
        output_path("FILE"), "", "write whether groups differ at all: Welch's ANOVA and Kruskal-Wallis"
    )
    trend: str = setting(
        output_path("FILE"),
        "",
        "for parts of texts (--unit parts:N): write how each value changes from beginning to end",
    )
