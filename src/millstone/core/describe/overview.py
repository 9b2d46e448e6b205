"""The sizes of groups, and of the documents in them, before anything is counted."""

import numpy as np
import pandas as pd

from millstone.core.corpus.corpus import Corpus, group_codes
from millstone.core.describe.inspector import Inspector

_OVERVIEW = [
    *("group", "documents", "tokens", "shortest", "median", "longest", "longest_document", "empty", "repeated"),
]


def overview(corpus: Corpus, inspector: Inspector) -> pd.DataFrame:
    """The size of each group.

    Returns
    -------
    DataFrame
        ``group, documents, tokens, shortest, median, longest, longest_document, empty, repeated``;
        lengths are in tokens, of documents that have any.
    """
    codes = group_codes(corpus.documents, corpus.groups)
    names = corpus.documents["document"].to_numpy(dtype=object)
    rows = []
    for number, group in enumerate(corpus.groups):
        tokens = corpus.tokens[codes == number]
        lengths = tokens[tokens > 0]
        longest = names[codes == number][int(np.argmax(tokens))] if len(lengths) else ""
        rows.append(
            {
                "group": group,
                "documents": len(tokens),
                "tokens": int(tokens.sum()),
                "shortest": int(lengths.min()) if len(lengths) else 0,
                "median": float(np.median(lengths)) if len(lengths) else 0.0,
                "longest": int(lengths.max()) if len(lengths) else 0,
                "longest_document": longest,
                "empty": int((tokens == 0).sum()),
                "repeated": inspector.repeats.in_group[group],
            }
        )
    return pd.DataFrame(rows, columns=_OVERVIEW)
