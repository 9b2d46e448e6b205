"""The schemas of differences between groups, of tests over all groups, and of the course of values."""

from collections.abc import Iterator

from millstone.analyses.base.groups.held_equal import CONDITIONAL
from millstone.core.tables.columns import (
    DESIGN_EFFECT,
    DOCUMENTS,
    GROUP,
    IN_FILES_ONLY,
    LOG2,
    NOTE,
    PERCENT,
    PROBABILITY,
    Column,
    integer,
    number,
    text,
)
from millstone.core.tables.schema import Schema

_UNIT = "unit of the value"
_POINTS = "percentage points"


_COLUMNS = (
    text("group_a", "group a", "the first group", drawn=True),
    text("group_b", "group b", "the group it is compared with", drawn=True),
    text(
        "value",
        "value",
        "what is compared: a category, a score, a measure or a field",
        drawn=True,
        look="key",
    ),
    number("mean_a", "mean a", "mean over the documents of group a", _UNIT, priority=3, partner="mean_b"),
    number("mean_b", "mean b", "mean over the documents of group b", _UNIT, partner="mean_a"),
    number("difference", "difference", "mean a - mean b", _UNIT),
    number(
        "ci_low",
        "low",
        "lower limit of the 95 % interval of the difference",
        _UNIT,
        priority=3,
        partner="ci_high",
    ),
    number("ci_high", "high", "upper limit of the 95 % interval of the difference", _UNIT, partner="ci_low"),
    number(
        "hedges_g",
        "g",
        "Hedges' g: the difference in standard deviations, small samples corrected (1981)",
        priority=4,
        drawn=True,
    ),
    number(
        "cliffs_delta",
        "delta",
        "Cliff's delta: P(a > b) - P(a < b) over pairs of documents, -1 to 1 (1993)",
        priority=6,
    ),
    number(
        "p_adjusted",
        "p adjusted",
        "p, adjusted for all rows of the table",
        PROBABILITY,
        4,
        priority=2,
        drawn=True,
    ),
    number(
        "p_rank_adjusted",
        "p rank adjusted",
        "p rank, adjusted for all rows of the table",
        PROBABILITY,
        4,
        priority=5,
    ),
    text("higher_in", "higher in", "the group with the higher mean; empty when equal", priority=5, drawn=True),
    number(
        "log_ratio",
        "log ratio",
        "log2 of the places per token in group a by those in b: 1 is twice",
        LOG2,
        priority=6,
    ),
    number(
        "log_ratio_low",
        "low",
        "lower limit of its 95 % interval over sampling units",
        LOG2,
        priority=6,
        partner="log_ratio_high",
    ),
    number(
        "log_ratio_high",
        "high",
        "upper limit of its 95 % interval over sampling units",
        LOG2,
        partner="log_ratio_low",
    ),
    number(
        "p_rate_adjusted",
        "p rate adjusted",
        "p rate, adjusted for all rows of the table",
        PROBABILITY,
        4,
        priority=6,
    ),
    *(one.having(priority=5) for one in CONDITIONAL),
    NOTE.having(priority=3),
    integer("n_a", "n a", "documents of group a that have the value", DOCUMENTS, priority=IN_FILES_ONLY),
    integer("n_b", "n b", "documents of group b that have the value", DOCUMENTS, priority=IN_FILES_ONLY),
    number(
        "sd_a",
        "sd a",
        "standard deviation over the documents of group a (n - 1)",
        _UNIT,
        priority=IN_FILES_ONLY,
    ),
    number(
        "sd_b",
        "sd b",
        "standard deviation over the documents of group b (n - 1)",
        _UNIT,
        priority=IN_FILES_ONLY,
    ),
    number(
        "hedges_g_low",
        "g low",
        "lower limit of the 95 % interval of g",
        priority=IN_FILES_ONLY,
        partner="hedges_g_high",
        drawn=True,
    ),
    number(
        "hedges_g_high",
        "g high",
        "upper limit of the 95 % interval of g",
        priority=IN_FILES_ONLY,
        partner="hedges_g_low",
        drawn=True,
    ),
    number("t", "t", "Welch's t", priority=IN_FILES_ONLY),
    number("df", "df", "its degrees of freedom", digits=1, priority=IN_FILES_ONLY),
    number("p", "p", "two-sided p of Welch's test, for this row alone", PROBABILITY, 4, priority=IN_FILES_ONLY),
    number(
        "p_rank",
        "p rank",
        "two-sided p of Mann and Whitney's test, for this row alone",
        PROBABILITY,
        4,
        priority=IN_FILES_ONLY,
    ),
    DESIGN_EFFECT.having(priority=IN_FILES_ONLY),
    number(
        "p_rate",
        "p rate",
        "p that the rates are equal, over sampling units, for this row alone",
        PROBABILITY,
        4,
        priority=IN_FILES_ONLY,
    ),
)


def schema() -> Schema:
    """Differences of each pair of groups; the last columns are those of categories."""
    return Schema("contrast", _COLUMNS, blocks=("group_a", "group_b"), joint=" compared with ", every=False)


def omnibus() -> Schema:
    """Tests over all groups at once."""
    return Schema(
        "omnibus",
        (
            text("value", "value", "what is compared: a category, a score, a measure or a field", look="key"),
            number("welch_f", "F", "Welch's analysis of variance: F (1951)"),
            number("df1", "df1", "degrees of freedom between groups", digits=0),
            number("df2", "df2", "degrees of freedom within groups", digits=1),
            number("p", "p", "p of F", PROBABILITY, 4),
            number("kruskal_h", "H", "Kruskal and Wallis' H (1952)"),
            number("p_kruskal", "p of H", "p of H by its chi-squared approximation", PROBABILITY, 4),
        ),
    )


def trend() -> Schema:
    """The course of values within texts."""
    return Schema(
        "trend",
        (
            text("value", "value", "what is compared: a category, a score, a measure or a field", look="key"),
            GROUP.having(priority=2),
            integer("texts", "texts", "texts of three parts or more", "texts", priority=4),
            integer("parts", "parts", "the most parts of a text", "parts", priority=4),
            number("slope", "slope", "change from beginning to end: mean over the texts of their slopes", _UNIT),
            number(
                "slope_low",
                "low",
                "lower limit of the 95 % interval of the slope",
                _UNIT,
                priority=2,
                partner="slope_high",
            ),
            number("slope_high", "high", "upper limit of the 95 % interval of the slope", _UNIT, partner="slope_low"),
            number(
                "rho",
                "rho",
                "Spearman's rank correlation of the part's number and the mean there, -1 to 1",
                priority=3,
            ),
            text(
                "departing",
                "departing",
                "parts that differ from the other parts of their texts, adjusted p below 0.05",
                priority=2,
                narrowest=12,
                look="wrapped",
            ),
        ),
    )


def corrected() -> Schema:
    """Shares of units in pairs of groups, as counted and as coders would have them."""
    return Schema(
        "corrected", tuple(_of_corrected()), blocks=("group_a", "group_b"), joint=" compared with ", every=False
    )


def _of_corrected() -> Iterator[Column]:
    """Its columns: what is counted, what is corrected, and by which rates."""
    yield from (_COLUMNS[0].having(drawn=False), _COLUMNS[1].having(drawn=False))
    yield text("category", "category", "a category of the dictionary", look="key")
    for name, title, what, priority in (
        ("share", "share", "of the units of group {}, those in which the category counts something", 4),
        ("corrected", "corrected", "its share if the category were always right (Rogan & Gladen 1978)", 3),
    ):
        raw = name == "share"
        for end in "ab":
            partner = f"{name}_{'b' if end == 'a' else 'a'}"
            said = what.format(end) if raw else f"{what}: group {end}"
            yield number(f"{name}_{end}", f"{title} {end}", said, PERCENT, priority=priority, partner=partner)
        kind, least = ("difference", "ci") if raw else ("corrected_difference", "corrected")
        of = f"{name} a - {name} b"
        yield number(kind, kind.replace("_", " "), of, _POINTS, priority=2 if raw else 1)
        for end, other, which in (("low", "high", "lower"), ("high", "low", "upper")):
            said = f"{which} limit of its 95 % interval over sampling units"
            said += "" if raw else ", with the error of the coded units"
            yield number(f"{least}_{end}", end, said, _POINTS, priority=3 if raw else 1, partner=f"{least}_{other}")
    yield NOTE.having(priority=5)
    for name, what in (
        ("sensitivity", "of the units that are of the category, the share in which it counts"),
        ("specificity", "of the units that are not, the share in which it does not count"),
    ):
        for end in "ab":
            yield number(f"{name}_{end}", f"{name} {end}", f"{what}: group {end}", priority=IN_FILES_ONLY)
    for name, what in (("coded", "coded units of group {}"), ("units", "units of group {}")):
        for end in "ab":
            yield integer(f"{name}_{end}", f"{name} {end}", what.format(end), "units", priority=IN_FILES_ONLY)
