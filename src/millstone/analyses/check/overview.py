"""The sizes of groups, and of the documents in them, before anything is counted."""

from collections.abc import Mapping, Sequence

import numpy as np

from millstone.analyses.base.guards.commonest import GroupWords
from millstone.analyses.check.inspector import Inspector
from millstone.core.base.wording import listed
from millstone.core.corpus.corpus import Corpus, group_codes
from millstone.core.tables.table import Table
from millstone.texts.inputs.lists.told_language import Told, told_language

_OVERVIEW = [
    *("group", "documents", "tokens", "language", "function_words_percent", "shortest", "median", "longest"),
    *("longest_document", "empty", "repeated"),
]


def overview(corpus: Corpus, inspector: Inspector, languages: Mapping[str, Told]) -> Table:
    """The size of each group, and its language.

    Returns
    -------
    Table
        ``group, documents, tokens, language, function_words_percent, shortest, median, longest, longest_document,
        empty, repeated``;
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
                languages[group].code if group in languages else "",
                100 * languages[group].share if group in languages else np.nan,
                int(lengths.min()) if len(lengths) else 0,
                float(np.median(lengths)) if len(lengths) else 0.0,
                int(lengths.max()) if len(lengths) else 0,
                longest,
                int((tokens == 0).sum()),
                inspector.repeats.in_group[group],
            )
        )
    return Table.of_rows(rows, _OVERVIEW)


def languages_of(words: GroupWords) -> dict[str, Told]:
    """Group -> its language, where one can be told."""
    told = {group: told_language(counted, tokens) for group, (counted, tokens) in words.items()}
    return {group: one for group, one in told.items() if one is not None}


def languages_in_words(groups: Sequence[str], languages: Mapping[str, Told]) -> str:
    """``en (41 % function words)``; of several languages, which groups are in which."""
    if not languages:
        return "not told by function words"
    said = []
    for code in dict.fromkeys(one.code for one in languages.values()):
        own = {group: 100 * one.share for group, one in languages.items() if one.code == code}
        low, high = (f"{most(own.values()):.0f}" for most in (min, max))
        which = f" in {listed(own)}" if len(own) < len(groups) else ""
        said.append(f"{code}{which} ({low if low == high else f'{low} to {high}'} % function words)")
    without = [group for group in groups if group not in languages]
    return "; ".join([*said, *([f"not told in {listed(without)}"] if without else [])])
