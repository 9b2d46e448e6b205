"""Near-duplicates among the texts of a request, by its settings."""

import numpy as np

from millstone.core.base.errors import DataError
from millstone.core.base.wording import nearest, nearest_names
from millstone.core.corpus.corpus import Corpus, natural_key
from millstone.core.corpus.near_duplicates import NearDuplicates, near_duplicates
from millstone.core.settings.preparation import Preparation

USUAL = 0.5
"""The share of runs of five words from which texts are near-duplicates, unless another is typed."""


def near_duplicates_of(corpus: Corpus, preparation: Preparation) -> NearDuplicates:
    """The near-duplicates of an ordered scan, and which of them stay.

    Raises
    ------
    DataError
        For a field by which none can be chosen, as it is not there.
    """
    least = preparation.drop_near_duplicates or USUAL
    return near_duplicates(corpus, least, _order(corpus, preparation.keep))


def _order(corpus: Corpus, keep: str) -> np.ndarray:
    """(documents,) int64: the larger, the sooner a document stays."""
    which, _, field = keep.partition(":")
    if not field:
        return corpus.tokens
    if field not in corpus.documents:
        names = corpus.documents.names
        raise DataError(
            f"--keep: the documents have no field {field!r}{nearest(field, names)}",
            f"name one of {nearest_names(field, names)}",
        )
    values = [tuple(natural_key(str(value))) for value in corpus.documents[field].tolist()]
    rank = {value: number for number, value in enumerate(sorted(set(values)))}
    ranks = np.array([rank[value] for value in values], dtype=np.int64)
    by_field = ranks if which == "newest" else -ranks
    # of equal ones the longest stays
    found = np.empty(len(ranks), dtype=np.int64)
    found[np.lexsort((corpus.tokens, by_field))] = np.arange(len(ranks))
    return found
