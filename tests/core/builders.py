"""Small corpora for the tests of the core."""

from collections.abc import Callable, Sequence
from functools import wraps
from typing import Any

import pandas as pd

from millstone.core.corpus.corpus import Corpus, Document
from millstone.core.scan.scan import scan
from millstone.core.settings.preparation import Preparation
from millstone.core.tables.result import Result
from millstone.core.tables.table import Table
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


def as_table(given: pd.DataFrame | Table) -> Table:
    return given if isinstance(given, Table) else Table.of_frame(given)


def result_of(command: str, given: pd.DataFrame | Table, *further: Any, **named: Any) -> Result:
    return Result(command, as_table(given), *further, **named)


def framed(function: Callable[..., Any]) -> Callable[..., Any]:
    """A function with tables as DataFrames, given and got: more can be asked of these."""

    @wraps(function)
    def call(*given: Any, **named: Any) -> Any:
        found = function(*(as_table(one) if isinstance(one, pd.DataFrame) else one for one in given), **named)
        return found.to_frame() if isinstance(found, Table) else found

    return call


def rows_of(table: pd.DataFrame | Table, *columns: str) -> list[tuple[object, ...]]:
    frame = table.to_frame() if isinstance(table, Table) else table
    return list(frame[list(columns)].itertuples(index=False, name=None))
