"""What an analysis gives back: a table, and what one must know to read it."""

import datetime
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import pandas as pd

from millstone.core.columns import Column
from millstone.core.corpus.corpus import GroupSize
from millstone.core.describe.matrix import DocumentTerms
from millstone.core.dictionary.marked_text import MarkedText

LEDGER = ".millstone-ledger.json"
"""The file in which each folder keeps account of the results written there; never a text."""

RESULTS, SAMPLES = "written by millstone", "sample texts of millstone"
"""What a ledger lists: name -> SHA-256. Results are never texts of a folder, sample texts are."""
COMPANION = "-metadata.json"
"""The end of the name of a table's companion; never a text or a table."""


@dataclass(frozen=True)
class GivenCell:
    """A cell of a workbook as it was given: its value, and the format in which the sheet shows it."""

    value: Any
    number_format: str = "General"

    @property
    def plain(self) -> object:
        """The value as formats without dates have it: a number, or text."""
        if self.value is None or isinstance(self.value, bool | int | float | str):
            return self.value
        return str(self)

    def __str__(self) -> str:
        if self.value is None:
            return ""
        if isinstance(self.value, datetime.datetime):
            at_midnight = self.value.time() == datetime.time()
            return self.value.date().isoformat() if at_midnight else self.value.isoformat(" ", "seconds")
        return repr(self.value) if isinstance(self.value, float) else str(self.value)


@dataclass(frozen=True)
class Result:
    """The table of one analysis.

    Attributes
    ----------
    command : str
        The command that makes such tables.
    frame : DataFrame
        One row per observation, in the order to be read.
    columns : mapping
        Column name -> Column; what is not in it is metadata of the documents.
    groups : tuple of GroupSize
        All groups of the corpus, in their order.
    settings : mapping
        The settings in force that are not defaults, as they would be typed.
    left_out : mapping
        Rule -> tokens it left out.
    growth : DataFrame or None
        Of ``freq``, where it is to be drawn: ``group, tokens, types``, how the vocabulary grows.
    matrix : DocumentTerms or None
        Of ``matrix`` the whole table; `frame` then holds only as much as a screen can show.
    key_terms : mapping
        Of ``keyness``, where a dictionary is asked for: group -> terms.
    categories : tuple of str
        Of ``categories``: those that are shown.
    values : DataFrame or None
        Of ``contrast``: the values of the documents that were compared, a row a document.
    beside : mapping
        Setting -> a further table, written to the file that the setting names.
    marked : sequence of MarkedText
        Of ``categories``, where they are asked for: the texts with what was counted in them.
    compared : DataFrame or None
        Of ``keyness``, where every term is to be drawn and `frame` has only some: all that were compared.
    all_rows : mapping
        Where ``--match`` or ``--top`` chose some rows: list or comparison -> how many rows there were before.
    """

    command: str
    frame: pd.DataFrame
    columns: Mapping[str, Column]
    groups: tuple[GroupSize, ...]
    settings: Mapping[str, object] = field(default_factory=dict)
    left_out: Mapping[str, int] = field(default_factory=dict)
    growth: pd.DataFrame | None = None
    matrix: DocumentTerms | None = None
    key_terms: Mapping[str, Sequence[str]] = field(default_factory=dict)
    compared: pd.DataFrame | None = None
    all_rows: Mapping[tuple[str, ...], int] = field(default_factory=dict)
    categories: tuple[str, ...] = ()
    values: pd.DataFrame | None = None
    beside: Mapping[str, "Result"] = field(default_factory=dict)
    marked: Sequence[MarkedText] = ()
