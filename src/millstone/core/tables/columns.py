"""What each column of a result means: title, meaning, unit, datatype, and decimals on a screen."""

import math
from collections.abc import Collection, Iterable, Mapping
from dataclasses import replace

from millstone.core.base.light_dataclass import frozen

PERCENT, PER_MILLION, OCCURRENCES, DOCUMENTS, LOG2 = (
    "percent",
    "per million tokens",
    "occurrences",
    "documents",
    "binary logarithm",
)


@frozen
class Column:
    """One column of a result table; `decimals` is for screens only, files carry full precision.

    No value is below `least` or above `most`.
    """

    title: str
    meaning: str
    datatype: str = "string"
    unit: str = ""
    decimals: int = 0
    least: float = -math.inf
    most: float = math.inf


def number(title: str, meaning: str, unit: str = "", decimals: int = 2) -> Column:
    """A column of numbers that may have a fraction."""
    return Column(title, meaning, "number", unit, decimals)


def whole(title: str, meaning: str, unit: str = "") -> Column:
    """A column of whole numbers."""
    return Column(title, meaning, "integer", unit)


COLUMNS: dict[str, Column] = {
    "document": Column("document", "name of the document: its path, id or row"),
    "group": Column("group", "the sub-corpus"),
    "target": Column("target", "the group that is held against the reference"),
    "reference": Column("reference", "the group, or rest for all other groups together, on the other side"),
    "against": Column("against", "the group, or rest for all other groups together, on the other side"),
    "term": Column("term", "the word as it was counted, after preparation"),
    "rank": whole("rank", "place in the order of the table, 1 first"),
    "n": whole("n", "words of the n-gram", "words"),
    "freq": whole("freq", "occurrences in the group", OCCURRENCES),
    "freq_against": whole("freq there", "occurrences on the other side", OCCURRENCES),
    "freq_target": whole("freq target", "occurrences in the target", OCCURRENCES),
    "freq_reference": whole("freq reference", "occurrences in the reference", OCCURRENCES),
    "rank_target": whole("rank target", "rank in the target's frequency list, empty when absent"),
    "rank_reference": whole("rank reference", "rank in the reference's frequency list, empty when absent"),
    "per_million": number("per million", "occurrences per million tokens of the group", PER_MILLION, 1),
    "per_million_target": number("per million target", "rate in the target", PER_MILLION, 1),
    "per_million_reference": number("per million reference", "rate in the reference", PER_MILLION, 1),
    "docs": whole("docs", "documents of the group that have the term", DOCUMENTS),
    "docs_percent": number("docs %", "share of the group's documents that have the term", PERCENT, 1),
    "docs_percent_target": number("docs % target", "share of the target's documents with it", PERCENT, 1),
    "docs_percent_reference": number("docs % reference", "share of the reference's documents with it", PERCENT, 1),
    "dp": number(
        "dp",
        "deviation of proportions: 0 spread evenly over the documents, near 1 all in few (Gries 2008)",
        decimals=3,
    ),
    "dp_expected": number(
        "dp expected", "dp on the average if chance alone spread the term over documents of these sizes", decimals=3
    ),
    "evenness": number("evenness", "1 spread as evenly as chance would, near 0 all in one document", "ratio", 3),
    "dp_norm": number("dp norm", "dp by the largest that the sizes of the documents allow, 0 to 1", decimals=3),
    "juilland_d": number(
        "juilland d", "1 spread evenly over the documents, 0 all in one (Juilland 1971)", decimals=3
    ),
    "mi": number("mi", "mutual information of the n-gram's two parts: log2 of observed by expected", LOG2),
    "t_score": number("t score", "observed less expected occurrences, by the square root of the observed"),
    "log_dice": number("log dice", "14 where the two parts never stand without each other (Rychly 2008)", LOG2),
    "higher_in": Column("higher in", "the side where the term is relatively more frequent; empty when equal"),
    "log_ratio": number("log ratio", "log2 of rate in target by rate in reference: 1 is twice, -1 half", LOG2),
    "log_ratio_low": number(
        "low", "lower limit of the 95 % interval of the log ratio; empty where there is none", LOG2
    ),
    "log_ratio_high": number(
        "high", "upper limit of the 95 % interval of the log ratio; empty where there is none", LOG2
    ),
    "ll": number("ll", "log-likelihood of the two counts, 0 when the rates are equal", decimals=1),
    "design_effect": number(
        "design effect",
        "how many times more the term varies between sampling units than chance would; 1 is even",
        "ratio",
        1,
    ),
    "ll_documents": number("ll documents", "ll by design effect: the evidence over sampling units", decimals=1),
    "g2": number("g2", "log-likelihood of the 2 x 2 table of the term and all else (Dunning 1993)", decimals=1),
    "chi2": number("chi2", "Pearson's chi-squared of the 2 x 2 table; empty when a margin is 0", decimals=1),
    "fisher": number("fisher", "p of Fisher's exact test, two-sided", "probability", 4),
    "p": number("p", "p of the test in force, for this term alone", "probability", 4),
    "p_adjusted": number(
        "p adjusted", "p of the test in force, adjusted for the number of terms compared", "probability", 4
    ),
    "bic": number("bic", "ll - ln N: above 2 positive, 6 strong, 10 very strong evidence; below 0 for none"),
    "ell": number("ell", "share of the largest ll the term could have, 0 to 1", "ratio", 4),
    "percent_diff": number("% diff", "difference of the rates, in percent of the reference's", PERCENT, 1),
    "relative_risk": number("relative risk", "rate in target by rate in reference", "ratio"),
    "odds_ratio": number("odds ratio", "odds of the term in target by its odds in reference", "ratio"),
    "diff_coefficient": number("diff coefficient", "(r1 - r2) / (r1 + r2), -1 to 1", "ratio", 3),
    "odds_share": number("odds share", "odds ratio / (1 + odds ratio): 0 to 1, 0.5 when equal", "ratio", 3),
    "shared_low": number("low 90", "lower limit of the 90 % interval of the log ratio", LOG2),
    "shared_high": number("high 90", "upper limit of the 90 % interval of the log ratio", LOG2),
    "per_million_background": number("per million there", "rate in the background list", PER_MILLION, 2),
    "resample_low": number("resample low", "2.5 % of the log ratios of the samples lie below", LOG2),
    "resample_high": number("resample high", "2.5 % of the log ratios of the samples lie above", LOG2),
    "rank_low": whole("rank low", "2.5 % of the ranks in the samples are smaller"),
    "rank_high": whole("rank high", "2.5 % of the ranks in the samples are larger"),
    "note": Column("note", "what to bear in mind when reading this row"),
    "log_odds": number("log odds", "weighted log odds ratio, above 0 for the group", "natural logarithm"),
    "std_error": number("std error", "standard error of the log odds ratio", "natural logarithm"),
    "z": number("z", "log odds by standard error; it orders terms and is not a test", "standard errors"),
    "z_documents": number(
        "z documents", "z by the square root of the design effect: less sure where few documents have it"
    ),
    "forms": Column("forms", "the words that are counted as the term, each with its occurrences in the group"),
    "documents": whole("documents", "documents of the group", DOCUMENTS),
    "shortest": whole("shortest", "tokens of the shortest document that has any", "tokens"),
    "median": number("median", "median of the documents' tokens, those without any left aside", "tokens", 1),
    "longest": whole("longest", "tokens of the longest document", "tokens"),
    "longest_document": Column("longest document", "name of the longest document"),
    "empty": whole("empty", "documents without tokens", DOCUMENTS),
    "repeated": whole("repeated", "documents whose text occurred before in the group", DOCUMENTS),
    "part_of": Column("part of", "the document that this is a part of"),
    "part": whole("part", "number of the part within its document, 1 first"),
    "position": number("position", "where the part begins, in percent of its document's tokens", PERCENT, 1),
    "tokens": whole("tokens", "word tokens", "tokens"),
    "kept_tokens": whole("kept tokens", "word tokens that no rule left out", "tokens"),
    "types": whole("types", "different terms among the kept tokens", "types"),
    "hapaxes": whole("hapaxes", "terms that occur once", "types"),
    "hapax_percent": number("hapax %", "share of the types that occur once", PERCENT, 1),
    "ttr": number("ttr", "types by kept tokens, 0 to 1; falls as texts get longer", "ratio", 3),
    "msttr": number("msttr", "mean type-token ratio of full segments (Johnson 1944); empty under one", "ratio", 3),
    "mattr": number("mattr", "mean type-token ratio of all windows (Covington & McFall 2010)", "ratio", 3),
    "mtld": number("mtld", "mean length of stretches of a ratio above 0.72 (McCarthy & Jarvis 2010)", "tokens", 1),
    "guiraud_r": number("guiraud r", "types by the square root of kept tokens", "ratio", 2),
    "yule_k": number("yule k", "how likely two tokens are the same type, times 10,000 (Yule 1944)", "", 1),
    "mean_word_length": number("word length", "mean length of the kept tokens as written", "characters", 2),
    "mean_sentence_length": number("sentence length", "mean length of sentences that have tokens", "tokens", 1),
    "repeated_documents": whole("repeated", "documents whose text occurred before in the group", DOCUMENTS),
    "matched_percent": number("matched %", "share of the document's tokens that any category covers", PERCENT, 1),
}
_SHARES = {"hapax_percent": 100.0, "matched_percent": 100.0, "ttr": 1.0, "msttr": 1.0, "mattr": 1.0}
_SIZES = (
    "tokens",
    "kept_tokens",
    "types",
    "hapaxes",
    "mtld",
    "guiraud_r",
    "mean_word_length",
    "mean_sentence_length",
)
COLUMNS |= {name: replace(COLUMNS[name], least=0.0, most=most) for name, most in _SHARES.items()}
COLUMNS |= {name: replace(COLUMNS[name], least=0.0) for name in _SIZES}


_COUNTED = {
    "ngrams": ("per million n-gram places", "the n-gram: its words as they were counted, after preparation"),
    "values": ("per million documents", "a value of the field that was counted"),
}


def columns_of_terms(names: Iterable[str], what: str = "terms") -> dict[str, Column]:
    """The columns of a table of ``terms``; rates of ``ngrams`` are of their places, those of ``values`` of documents.

    Where groups or comparisons stand side by side, ``freq_A`` is the column ``freq`` of A.
    """
    found = {name: COLUMNS[name] if name in COLUMNS else _of_group(name) for name in names}
    if what != "terms":
        unit, meaning = _COUNTED[what]
        found |= {name: replace(one, unit=unit) for name, one in found.items() if name.startswith("per_million")}
        found["term"] = replace(found["term"], meaning=meaning, title="value" if what == "values" else "term")
    return found


def _of_group(name: str) -> Column:
    own = max((one for one in COLUMNS if name.startswith(f"{one}_")), key=len, default="")
    if not own:
        raise KeyError(f"nothing is said of the column {name!r}: declare it in COLUMNS")
    group = name.removeprefix(f"{own}_")
    return replace(COLUMNS[own], title=f"{COLUMNS[own].title} {group}", meaning=f"{COLUMNS[own].meaning}: {group}")


PART_COLUMNS = ("part_of", "part", "position")
"""The columns of documents that are parts of others."""


def renamed(metadata: Iterable[str], taken: Collection[str]) -> Mapping[str, str]:
    """Metadata fields that have the name of a result column, and the name to which they are renamed."""
    return {name: f"{name}_given" for name in metadata if name in taken}


_SCALES = {
    "percent": ("places per 100 tokens", PERCENT, 2),
    "per_thousand": ("places per 1,000 tokens", "per thousand tokens", 1),
    "count": ("places", "places", 0),
    "weighted": ("mean weight of the places", "weight", 2),
}
_POSSIBLE = {"percent": (0.0, 100.0), "per_thousand": (0.0, 1000.0), "count": (0.0, math.inf)}


def scale_unit(scale: str) -> str:
    """What a category's value is on a scale, in words."""
    return _SCALES[scale][0]


def category_columns(names: Iterable[str], scale: str, scores: Mapping[str, str] | None = None) -> dict[str, Column]:
    """The columns of a table of categories, metadata aside: the fixed ones, one per category, one per score.

    `scores` holds name -> formula.
    """
    meaning, unit, decimals = _SCALES[scale]
    datatype = "integer" if scale == "count" else "number"
    fixed = {name: COLUMNS[name] for name in ("document", "group", *PART_COLUMNS, "tokens", "matched_percent")}
    limits = _POSSIBLE.get(scale, (-math.inf, math.inf))
    own = {name: Column(name, f"category {name}: {meaning}", datatype, unit, decimals, *limits) for name in names}
    made = {name: number(name, f"score {name}: {formula}; {meaning}") for name, formula in (scores or {}).items()}
    return {**fixed, **own, **made}


def word_columns(names: Iterable[str]) -> dict[str, Column]:
    """The columns of a table of words with how each was counted."""
    own = {name: whole(name, f"1 where it was counted for the category {name}, else 0") for name in names}
    term = Column("term", "the word in small letters, or a place of several words")
    return {"group": COLUMNS["group"], "term": term, "freq": COLUMNS["freq"], **own}


IN_ORDER = {
    "document": COLUMNS["document"],
    "position": whole("position", "number of the token within its document, 1 first", "tokens"),
    "token": Column("token", "the word as it stands in the text, after normalisation"),
    "categories": Column("categories", "the categories that count it, joined with ;"),
}
"""The columns of all words in their order."""


VALIDATION = {
    "where": Column("where", "file and line of the entry"),
    "category": Column("category", "its category; empty for a word that none counts"),
    "entry": Column("entry", "the entry as it is written, or an uncounted word"),
    "hits": whole("hits", "places that the entry wins in its category; an exception, those it takes", "places"),
    "finding": Column("finding", "what is odd about it"),
}
"""The columns of what was found in a dictionary."""


def group_columns(scale: str) -> dict[str, Column]:
    """The columns of a table of values by group."""
    meaning, unit, decimals = _SCALES[scale]
    decimals = max(decimals, 2)
    return {
        "group": COLUMNS["group"],
        "value": Column("value", f"a category or a score: {meaning}"),
        "documents": whole("documents", "documents of the group that have the value", DOCUMENTS),
        "mean": number("mean", "mean over the documents, each of the same weight", unit, decimals),
        "sd": number("sd", "standard deviation over the documents (n - 1)", unit, decimals),
        "ci_low": number("low", "lower limit of the 95 % interval of the mean", unit, decimals),
        "ci_high": number("high", "upper limit of the 95 % interval of the mean", unit, decimals),
        "pooled": number("pooled", "the value of the group as if it were one text", unit, decimals),
    }


COLLOCATES = {
    "group": COLUMNS["group"],
    "node": Column("node", "the expression or category that was looked for"),
    "collocate": Column("collocate", "the term that occurs near it, after preparation"),
    "side": Column("side", "left or right of the node, or both"),
    "together": whole("together", "occurrences of the collocate near any place of the node", OCCURRENCES),
    "freq": COLUMNS["freq"],
    "expected": number("expected", "occurrences near the node if it made no difference: freq W / N", OCCURRENCES, 1),
    "mi": number("mi", "mutual information: log2 of together by expected", LOG2),
    "t_score": number("t score", "together less expected, by the square root of together"),
    "ll": number("ll", "log-likelihood of near and not near, the collocate and all else", decimals=1),
    "log_dice": number("log dice", "14 where the two never stand without each other (Rychly 2008)", LOG2),
    "docs_together": whole("docs", "documents in which they occur together", DOCUMENTS),
    "delta_p_near": number("delta p near", "how much likelier the collocate is near the node than elsewhere", "", 4),
    "delta_p_of": number("delta p of", "how much likelier its tokens are near the node than other tokens", "", 4),
    "note": COLUMNS["note"],
}
CONCORDANCE = {
    "node": COLLOCATES["node"],
    "line": whole("line", "number of the place in the order in which the texts are read, 1 first"),
    "document": COLUMNS["document"],
    "group": COLUMNS["group"],
    "part_of": COLUMNS["part_of"],
    "part": COLUMNS["part"],
    "position": COLUMNS["position"],
    "token_number": whole("token", "number of the first word found within the document, 1 first", "tokens"),
    "left": Column("left", "the text before it"),
    "found": Column("found", "what was found, as it stands in the text"),
    "right": Column("right", "the text after it"),
    "collocate": Column("collocate", "the word near it, as it stands in the text"),
    "distance": whole("distance", "words from the place to the collocate, below 0 to the left", "tokens"),
    "tokens": COLUMNS["tokens"],
    "hits": whole("hits", "places in the document", "places"),
    "per_thousand": number("per thousand", "places per 1,000 tokens of the document", "per 1,000 tokens"),
}
WORD_TREE = {
    "group": COLUMNS["group"],
    "node": COLLOCATES["node"],
    "side": Column("side", "left or right of the node"),
    "level": whole("level", "fork, 1 the nearest to the node"),
    "branch": Column("branch", "the words that its places share; (end) of the sentence, (N more) not shown"),
    "places": whole("places", "places of the node that go on so", "places"),
    "percent": number("%", "share of all places of the node", PERCENT, 1),
    "docs": whole("docs", "documents in which it stands", DOCUMENTS),
    "parent": Column("parent", "the words between the node and the branch, empty at the first fork"),
}
_MEAN_UNIT = "unit of the value"
CONTRAST = {
    "value": Column("value", "what is compared: a category, a score, a measure or a field"),
    "group_a": Column("group a", "the first group"),
    "group_b": Column("group b", "the group it is compared with"),
    "n_a": whole("n a", "documents of group a that have the value", DOCUMENTS),
    "n_b": whole("n b", "documents of group b that have the value", DOCUMENTS),
    "mean_a": number("mean a", "mean over the documents of group a", _MEAN_UNIT),
    "mean_b": number("mean b", "mean over the documents of group b", _MEAN_UNIT),
    "sd_a": number("sd a", "standard deviation over the documents of group a (n - 1)", _MEAN_UNIT),
    "sd_b": number("sd b", "standard deviation over the documents of group b (n - 1)", _MEAN_UNIT),
    "difference": number("difference", "mean a - mean b", _MEAN_UNIT),
    "ci_low": number("low", "lower limit of the 95 % interval of the difference", _MEAN_UNIT),
    "ci_high": number("high", "upper limit of the 95 % interval of the difference", _MEAN_UNIT),
    "hedges_g": number("g", "Hedges' g: the difference in standard deviations, small samples corrected (1981)"),
    "hedges_g_low": number("g low", "lower limit of the 95 % interval of g"),
    "hedges_g_high": number("g high", "upper limit of the 95 % interval of g"),
    "cliffs_delta": number("delta", "Cliff's delta: P(a > b) - P(a < b) over pairs of documents, -1 to 1 (1993)"),
    "t": number("t", "Welch's t"),
    "df": number("df", "its degrees of freedom", decimals=1),
    "p": number("p", "two-sided p of Welch's test, for this row alone", "probability", 4),
    "p_adjusted": number("p adjusted", "the same, adjusted for all rows of the table", "probability", 4),
    "p_rank": number("p rank", "two-sided p of Mann and Whitney's test, for this row alone", "probability", 4),
    "p_rank_adjusted": number("p rank adjusted", "the same, adjusted for all rows of the table", "probability", 4),
    "higher_in": Column("higher in", "the group with the higher mean; empty when equal"),
    "note": COLUMNS["note"],
}
"""The columns of differences between groups."""

_RATES = {
    "log_ratio": number("log ratio", "log2 of the places per token in group a by those in b: 1 is twice", LOG2),
    "log_ratio_low": number("low", "lower limit of its 95 % interval over sampling units", LOG2),
    "log_ratio_high": number("high", "upper limit of its 95 % interval over sampling units", LOG2),
    "design_effect": COLUMNS["design_effect"],
    "p_rate": number(
        "p rate", "p that the rates are equal, over sampling units, for this row alone", "probability", 4
    ),
    "p_rate_adjusted": number("p rate adjusted", "p rate, adjusted for all rows of the table", "probability", 4),
}
CONTRAST_RATES = {
    **{name: one for name, one in CONTRAST.items() if name != "note"},
    **_RATES,
    "note": COLUMNS["note"],
}
"""The columns of differences in categories of a dictionary, which have a ratio of rates, too."""

OMNIBUS = {
    "value": CONTRAST["value"],
    "welch_f": number("F", "Welch's analysis of variance: F (1951)"),
    "df1": number("df1", "degrees of freedom between groups", decimals=0),
    "df2": number("df2", "degrees of freedom within groups", decimals=1),
    "p": number("p", "p of F", "probability", 4),
    "kruskal_h": number("H", "Kruskal and Wallis' H (1952)"),
    "p_kruskal": number("p of H", "p of H by its chi-squared approximation", "probability", 4),
}
"""The columns of tests over all groups at once."""

TREND = {
    "value": CONTRAST["value"],
    "group": COLUMNS["group"],
    "texts": whole("texts", "texts of three parts or more", "texts"),
    "parts": whole("parts", "the most parts of a text", "parts"),
    "slope": number("slope", "change from beginning to end: mean over the texts of their slopes", _MEAN_UNIT),
    "slope_low": number("low", "lower limit of the 95 % interval of the slope", _MEAN_UNIT),
    "slope_high": number("high", "upper limit of the 95 % interval of the slope", _MEAN_UNIT),
    "rho": number("rho", "Spearman's rank correlation of the part's number and the mean there, -1 to 1"),
    "departing": Column("departing", "parts that differ from the other parts of their texts, adjusted p below 0.05"),
}
"""The columns of the development within texts."""
