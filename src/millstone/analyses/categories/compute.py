"""Dictionary categories counted in each document."""

import numpy as np

from millstone.analyses.base.settings import DictionarySettings
from millstone.core.base.errors import DataError
from millstone.core.corpus.corpus import Corpus, group_codes
from millstone.core.dictionary.dictionary import Dictionary
from millstone.core.dictionary.matches import DictionaryMatches, find_matches
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.statistics.means import group_means
from millstone.core.tables.columns import PART_COLUMNS, renamed
from millstone.core.tables.table import Table

FIXED_COLUMNS = ("document", "group", *PART_COLUMNS, "tokens", "matched_percent")


def categories(corpus: Corpus, dictionary: Dictionary, settings: DictionarySettings | None = None) -> Table:
    """Count the categories of a dictionary in each document.

    Parameters
    ----------
    corpus : Corpus
        D documents; from an ordered scan where an entry has several words.
    dictionary : Dictionary
    settings : DictionarySettings, optional
        ``scale``: percent or per_thousand of the document's tokens, count, or mean weight.

    Returns
    -------
    Table
        D rows: ``document, group``, the metadata, ``tokens, matched_percent``, one column per category.
        Rates of a document without tokens are NaN, and so is a mean weight without a place.

    Raises
    ------
    DataError
        When no entry matches anywhere.
    """
    settings = settings or DictionarySettings()
    check_names(dictionary)
    return table_of(find_matches(corpus, dictionary), dictionary, settings.scale)


def table_of(matches: DictionaryMatches, dictionary: Dictionary, scale: str) -> Table:
    """The categories of each document, from the matches of a dictionary."""
    corpus = matches.corpus
    names = dictionary.needed_categories
    numbers = matches.numbers(names)
    weights = matches.weights(names) if scale == "weighted" else numbers
    columns = {
        "tokens": corpus.tokens,
        "matched_percent": _per(100, matches.covered(dictionary.traced_categories), corpus.tokens),
        **_values(dictionary, _scaled(numbers, weights, corpus.tokens, scale)),
    }
    described = corpus.documents.renamed(renamed(corpus.documents.names, taken_names(dictionary)))
    return described.with_columns(columns)


def by_group(matches: DictionaryMatches, dictionary: Dictionary, table: Table, scale: str) -> Table:
    """The values of groups, over their documents and over all their words.

    Parameters
    ----------
    matches : DictionaryMatches
    dictionary : Dictionary
    table : Table
        As `table_of` gives it.
    scale : str

    Returns
    -------
    Table
        ``group, value, documents, mean, sd, ci_low, ci_high, pooled``: mean over the documents that have the
        value, each of the same weight, with its 95 % interval; `pooled` is the value of the group as if it were
        one text.
    """
    corpus, names = matches.corpus, dictionary.needed_categories
    codes = group_codes(corpus.documents, corpus.groups)
    shape = (len(corpus.groups), len(codes))
    member = SparseMatrix.of_cells(np.ones(len(codes), dtype=np.int64), codes, np.arange(len(codes)), shape)
    numbers = member @ matches.numbers(names)
    weights = member @ matches.weights(names) if scale == "weighted" else numbers
    pooled = _values(dictionary, _scaled(numbers, weights, member @ corpus.tokens, scale))
    means = group_means(table, list(pooled), corpus.groups).renamed(
        {"n": "documents", "low": "ci_low", "high": "ci_high"}
    )
    # by group, then value, where means are by value, then group
    order = np.arange(len(means)).reshape(len(pooled), len(corpus.groups)).T.ravel()
    means = means.only(["group", "value", *means.names[2:]]).at(order)
    return means.with_columns({"pooled": np.array(list(pooled.values()), dtype=float).T.ravel()})


def _values(dictionary: Dictionary, scaled: np.ndarray) -> dict[str, np.ndarray]:
    """The columns that are shown, from the (rows, needed) values of categories."""
    values = dict(zip(dictionary.needed_categories, scaled.T, strict=True))
    shown = {name: values[name] for name in dictionary.shown_categories}
    return shown | {score.name: score.of(values) for score in dictionary.shown_scores}


def taken_names(dictionary: Dictionary) -> set[str]:
    """The names of columns that metadata may not have."""
    return {"tokens", "matched_percent", *dictionary.names(), *dictionary.scores}


def check_names(dictionary: Dictionary) -> None:
    """Raise DataError for a category that has the name of a result column."""
    named = {name: ("category", dictionary.places.get(name, "")) for name in dictionary.names()}
    named |= {name: ("score", score.where) for name, score in dictionary.scores.items()}
    for name, (what, place) in named.items():
        if name in FIXED_COLUMNS:
            raise DataError(
                f"{place}{': ' if place else ''}a {what} is named {name!r}, as a column of the result is",
                f"give the {what} another name",
            )


def _scaled(numbers: np.ndarray, weights: np.ndarray, tokens: np.ndarray, scale: str) -> np.ndarray:
    """(rows, names): the numbers of places, or their weights, on the scale that is asked for; `tokens` is (rows,)."""
    if scale == "count":
        return numbers
    if scale == "weighted":
        return _per(1, weights, numbers)
    return _per(100 if scale == "percent" else 1000, numbers, tokens[:, None])


def _per(factor: float, value: np.ndarray, whole: np.ndarray) -> np.ndarray:
    whole = np.broadcast_to(whole, value.shape)
    found: np.ndarray = np.divide(factor * value, whole, out=np.full(value.shape, np.nan), where=whole > 0)
    return found
