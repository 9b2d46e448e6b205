"""The sizes of groups, and of the documents in them, before anything is counted."""

import numpy as np

from millstone.analyses.check.inspector import Inspector
from millstone.core.corpus.corpus import Corpus, group_codes
from millstone.core.tables.table import Table

_OVERVIEW = [
    *("group", "documents", "tokens", "shortest", "median", "longest", "longest_document", "empty", "repeated"),
]


def overview(corpus: Corpus, inspector: Inspector) -> Table:
    """The size of each group.

    Returns
    -------
    Table
        ``group, documents, tokens, shortest, median, longest, longest_document, empty, repeated``;
        lengths are in tokens, of documents that have any.
    """
    codes = group_codes(corpus.documents, corpus.groups)
    names = corpus.documents["document"]
    rows = []
    for number, group in enumerate(corpus.groups):
        tokens = corpus.tokens[codes == number]
        lengths = tokens[tokens > 0]
        longest = names[codes == number][int(np.argmax(tokens))] if len(lengths) else ""
        rows.append(
            (
                group,
                len(tokens),
                int(tokens.sum()),
                int(lengths.min()) if len(lengths) else 0,
                float(np.median(lengths)) if len(lengths) else 0.0,
                int(lengths.max()) if len(lengths) else 0,
                longest,
                int((tokens == 0).sum()),
                inspector.repeats.in_group[group],
            )
        )
    return Table.of_rows(rows, _OVERVIEW)
