"""The table of near-duplicates."""

import numpy as np

from millstone.core.corpus.corpus import Corpus
from millstone.core.corpus.near_duplicates import NearDuplicates
from millstone.core.tables.table import Table

_COLUMNS = ["cluster", "document", "group", "tokens", "in_common", "kept"]


def duplicates_table(corpus: Corpus, found: NearDuplicates) -> Table:
    """Cluster by cluster the documents that stay, then those that do not, the most alike first.

    Returns
    -------
    Table
        ``cluster, document, group, tokens, in_common, kept``; in_common is empty for those that stay.
    """
    rows = np.flatnonzero(found.cluster >= 0)
    likeness = np.where(found.kept[rows], np.inf, np.nan_to_num(found.in_common[rows]))
    rows = rows[np.lexsort((-likeness, found.cluster[rows]))]
    names, groups = corpus.documents["document"], corpus.documents["group"]
    return Table.of_rows(
        [
            (
                int(found.cluster[row]) + 1,
                names[row],
                groups[row],
                int(corpus.tokens[row]),
                float(found.in_common[row]),
                "yes" if found.kept[row] else "no",
            )
            for row in rows.tolist()
        ],
        _COLUMNS,
    )
