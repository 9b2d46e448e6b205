"""Dictionary categories counted in each document."""

from collections.abc import Sequence

import numpy as np
import pandas as pd

from millstone.core.columns import PART_COLUMNS, renamed
from millstone.core.corpus import Corpus
from millstone.core.dictionary import Dictionary
from millstone.core.errors import DataError
from millstone.core.matches import Matches, find_matches
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
    return table_of(find_matches(corpus, dictionary), dictionary, settings.scale)


def table_of(matches: Matches, dictionary: Dictionary, scale: str) -> pd.DataFrame:
    """The same from the matches of a dictionary.

    Raises
    ------
    DataError
        When no entry matches anywhere.
    """
    corpus, shown, scores = matches.corpus, dictionary.shown_categories, dictionary.shown_scores
    needed = list(dict.fromkeys([*shown, *(name for score in scores for name in score.categories)]))
    numbers = matches.numbers(needed)
    if not numbers.any():
        raise DataError(
            "no entry of the dictionary occurs in these texts",
            "check that dictionary and texts are in the same language and spelling",
        )
    tokens = corpus.tokens.astype(float)
    values = dict(zip(needed, _scaled(numbers, matches, needed, tokens, scale).T, strict=True))
    columns = {
        "tokens": corpus.tokens,
        "matched_percent": _per(100, matches.covered(shown).astype(float), tokens),
        **{name: values[name] for name in shown},
        **{score.name: score.of(values) for score in scores},
    }
    described = corpus.documents.rename(columns=renamed(corpus.documents.columns, taken_names(dictionary)))
    return pd.concat([described, pd.DataFrame(columns, index=described.index)], axis=1)


def taken_names(dictionary: Dictionary) -> set[str]:
    """The names of columns that metadata may not bear."""
    return {"tokens", "matched_percent", *dictionary.names(), *dictionary.scores}


def check_names(dictionary: Dictionary) -> None:
    """Raise DataError for a category that bears the name of a result column."""
    named = {name: ("category", dictionary.places.get(name, "")) for name in dictionary.names()}
    named |= {name: ("score", score.where) for name, score in dictionary.scores.items()}
    for name, (what, place) in named.items():
        if name in FIXED_COLUMNS:
            raise DataError(
                f"{place}{': ' if place else ''}a {what} is named {name!r}, as a column of the result is",
                f"give the {what} another name",
            )


def _scaled(
    numbers: np.ndarray, matches: Matches, names: Sequence[str], tokens: np.ndarray, scale: str
) -> np.ndarray:
    """(D, names): the numbers of places on the scale that is asked for."""
    if scale == "count":
        return numbers
    if scale == "weighted":
        return _per(1, matches.weights(names), numbers)
    return _per(100 if scale == "percent" else 1000, numbers, np.broadcast_to(tokens[:, None], numbers.shape))


def _per(factor: float, value: np.ndarray, whole: np.ndarray) -> np.ndarray:
    return np.divide(factor * value, whole, out=np.full(value.shape, np.nan), where=whole > 0)
