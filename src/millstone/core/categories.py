"""Dictionary categories counted in each document."""

import numpy as np
import pandas as pd

from millstone.core.columns import PART_COLUMNS, renamed
from millstone.core.corpus import Corpus
from millstone.core.dictionary import Dictionary
from millstone.core.errors import DataError
from millstone.core.matching import Places, find_places
from millstone.core.settings import CategorySettings

FIXED_COLUMNS = ("document", "group", *PART_COLUMNS, "tokens", "matched_percent")


def categories(corpus: Corpus, dictionary: Dictionary, settings: CategorySettings | None = None) -> pd.DataFrame:
    """Count the categories of a dictionary in each document.

    Parameters
    ----------
    corpus : Corpus
        From an ordered scan, D documents.
    dictionary : Dictionary
    settings : CategorySettings, optional
        ``scale``: percent or per_thousand of the document's tokens, count, or mean weight.

    Returns
    -------
    DataFrame
        D rows: ``document, group``, the metadata, ``tokens, matched_percent``, a column a category.
        Rates of a document without tokens are NaN, and so is a mean weight without a place.

    Raises
    ------
    DataError
        When no entry matches anywhere.
    """
    settings = settings or CategorySettings()
    check_names(dictionary)
    places = find_places(corpus, dictionary)
    if not any(len(found.start) for found in places.values()):
        raise DataError(
            "no entry of the dictionary occurs in these texts",
            "check that dictionary and texts are in the same language and spelling",
        )
    tokens = corpus.tokens.astype(float)
    covered = np.zeros(len(corpus.ids) if corpus.ids is not None else 0, dtype=bool)
    for found in places.values():
        covered[found.tokens()] = True
    columns = {
        "tokens": corpus.tokens,
        "matched_percent": _per(100, _sums(corpus, np.flatnonzero(covered)), tokens),
    }
    for name, found in places.items():
        columns[name] = _scaled(corpus, found, tokens, settings.scale)
    described = corpus.documents.rename(columns=renamed(corpus.documents.columns, taken_names(dictionary)))
    return pd.concat([described, pd.DataFrame(columns, index=described.index)], axis=1)


def taken_names(dictionary: Dictionary) -> set[str]:
    """The names of columns that metadata may not bear."""
    return {"tokens", "matched_percent", *dictionary.names()}


def check_names(dictionary: Dictionary) -> None:
    """Raise DataError for a category that bears the name of a result column."""
    for name in dictionary.names():
        if name in FIXED_COLUMNS:
            raise DataError(
                f"a category is named {name!r}, as a column of the result is",
                "give the category another name",
            )


def _scaled(corpus: Corpus, places: Places, tokens: np.ndarray, scale: str) -> np.ndarray:
    number = _sums(corpus, places.start)
    if scale == "count":
        return number.astype(np.int64)
    if scale == "weighted":
        return _per(1, _sums(corpus, places.start, places.weight), number)
    return _per(100 if scale == "percent" else 1000, number, tokens)


def _sums(corpus: Corpus, positions: np.ndarray, weights: np.ndarray | None = None) -> np.ndarray:
    """(D,) float: how many of the positions, or what weight of them, lie in each document."""
    if corpus.starts is None:
        raise ValueError("categories need an ordered scan")
    documents = np.searchsorted(corpus.starts, positions, side="right") - 1
    return np.bincount(documents, weights=weights, minlength=len(corpus.starts) - 1).astype(float)


def _per(factor: float, value: np.ndarray, whole: np.ndarray) -> np.ndarray:
    return np.divide(factor * value, whole, out=np.full(len(value), np.nan), where=whole > 0)
