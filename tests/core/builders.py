"""Small corpora for the tests of the core."""

from collections.abc import Sequence

import pandas as pd

from millstone.core.corpus.corpus import Corpus, Document
from millstone.core.scan.scan import scan
from millstone.core.settings.preparation import Preparation
from millstone.core.terms.counts import Counts, count
from millstone.core.terms.term_map import map_terms
from millstone.core.terms.word_lists import WordList, WordLists

# three groups with ties, zeros, a document without tokens and a term in every group
MINI = (
    ("a1", "A", "Red red blue"),
    ("a2", "A", "red. Green!"),
    ("b1", "B", "blue blue blue, green"),
    ("b2", "B", "yellow"),
    ("b3", "B", "... !"),
    ("c1", "C", "red blue yellow yellow Blue"),
)


def corpus_of(rows: Sequence[tuple[str, str, str]], ordered: bool = False) -> Corpus:
    return scan((Document(*row) for row in rows), ordered=ordered)


def counts_of(
    rows: Sequence[tuple[str, str, str]],
    preparation: Preparation | None = None,
    stop_lists: Sequence[WordList] = (),
) -> Counts:
    corpus = corpus_of(rows)
    return count(corpus, map_terms(corpus, preparation, WordLists(stop=stop_lists)))


def rows_of(frame: pd.DataFrame, *columns: str) -> list[tuple[object, ...]]:
    return list(frame[list(columns)].itertuples(index=False, name=None))
