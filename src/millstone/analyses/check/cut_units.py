"""The table of the units that texts are cut into, each with its text."""

from typing import Any

import numpy as np

from millstone.analyses.base.step import Step
from millstone.analyses.concordance.contexts import cut_lines
from millstone.analyses.concordance.lines import Lines
from millstone.core.corpus.corpus import Corpus
from millstone.core.matches.matches import Matches
from millstone.core.tables.columns import renamed
from millstone.core.tables.table import Table

_OPENING = "([{\u00ab\u201c\u201e\u2018\u00a1\u00bf\"'"


def units_table(step: Step[Any], corpus: Corpus) -> Table:
    """The documents, or the parts that ``--unit`` makes of them, with their texts.

    Parameters
    ----------
    step : Step
    corpus : Corpus
        From an ordered scan of the step's texts.

    Returns
    -------
    Table
        ``document, group``, the fields, ``tokens, text``; white space is folded. A unit without a word has no row.
    """
    _, starts, _ = corpus.sequence
    lengths = np.diff(starts)
    rows = np.flatnonzero(lengths)
    number = np.arange(len(rows))
    lines = Lines(number, np.zeros(len(rows), dtype=np.int64), Matches(starts[rows], lengths[rows]), rows)
    # no words beside the unit, only the signs at its edges
    cells = cut_lines(step, corpus, lines, ("0",))[0]
    documents = corpus.documents.at(rows)
    described = documents.renamed(renamed(documents.names[2:], ("tokens", "text")))
    text = np.array([_joined(*row) for row in cells.tolist()], dtype=object)
    return described.with_columns({"tokens": corpus.tokens[rows], "text": text})


def _joined(left: str, middle: str, right: str) -> str:
    """A unit with the signs before its first word and after its last."""
    if left and left[-1] not in _OPENING:
        left += " "
    if right and (right[0] in _OPENING[:-2] or right[0].isalnum() or right[0] in "-\u2013\u2014"):
        right = " " + right
    return f"{left}{middle}{right}"
