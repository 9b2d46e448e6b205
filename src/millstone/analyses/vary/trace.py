"""The places behind a row of a result under many settings: those of the first combination that has any."""

from dataclasses import replace

from millstone.analyses.base.matches.origin import Origin, RowMatches, matches_behind, traced_tables
from millstone.analyses.vary.grid import combinations
from millstone.analyses.vary.rows import FORMS
from millstone.core.base.errors import DataError
from millstone.core.corpus.corpus import Corpus

TRACED = {"vary": ("term",), "moved": ("term",), "each": ("term",)}


def row_matches(origin: Origin, corpus: Corpus) -> RowMatches:
    """Where the term of a row occurs, as the first combination counts it under which it occurs at all.

    Raises
    ------
    DataError
        For a command whose rows have no lines behind them.
    """
    found: RowMatches | None = None
    every = combinations(origin.step)
    if "combination" in origin.rows:
        number = int(origin.rows["combination"].iloc[0])
        every = [one for one in every if one.number == number]
    for one in every:
        name = one.step.command.name
        table = "contexts" if name == "collocates" and "target" in origin.rows else name
        if table not in traced_tables(name):
            raise DataError(
                f"--from: the rows of {name} have no lines behind them", "give a table of terms or collocates"
            )
        form = FORMS[table]
        names = {ours: theirs for theirs, ours in form.blocks.items()} | {"term": form.term}
        found = matches_behind(
            replace(origin, step=one.step, table=table, rows=origin.rows.rename(columns=names)), corpus
        )
        if len(found[0].start):
            break
    assert found is not None
    return found
