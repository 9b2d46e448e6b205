"""The commonest words of each group, from which guards tell what the texts are."""

from collections import Counter
from collections.abc import Mapping

import numpy as np

from millstone.core.corpus.corpus import Corpus, group_codes
from millstone.core.matrix.totals import column_sums

GroupWords = Mapping[str, tuple[Counter[str], int]]
"""Group -> occurrences of its commonest words, in small letters, and all its tokens."""
MOST = 5000
"""So many forms are looked at: function words and what spoils a text are among the commonest."""


def commonest_words(corpus: Corpus) -> dict[str, tuple[Counter[str], int]]:
    """Group -> occurrences of its commonest words, in small letters, and all its tokens.

    Parameters
    ----------
    corpus : Corpus

    Returns
    -------
    dict
        Groups without tokens are left out.
    """
    totals = column_sums(corpus.form_counts)
    if len(totals) > MOST:
        most = np.sort(np.argpartition(totals, -MOST)[-MOST:])
        counts, forms = corpus.form_counts.columns(most), [corpus.forms[number] for number in most.tolist()]
    else:
        counts, forms = corpus.form_counts, list(corpus.forms)
    words = [form.lower() for form in forms]
    codes = group_codes(corpus.documents, corpus.groups)
    found = {}
    for number, group in enumerate(corpus.groups):
        own = np.flatnonzero(codes == number)
        tokens = int(corpus.tokens[own].sum())
        if not tokens:
            continue
        times = column_sums(counts.rows(own)).tolist()
        counted: Counter[str] = Counter()
        for word, number_of_times in zip(words, times, strict=True):
            if number_of_times:
                counted[word] += number_of_times
        found[group] = counted, tokens
    return found
