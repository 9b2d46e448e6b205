"""Columns of tables: what each means, and what a screen makes of it."""

import math
from collections.abc import Collection, Iterable, Mapping
from dataclasses import replace
from typing import Any

from millstone.core.base.light_dataclass import frozen

PERCENT, PER_MILLION, OCCURRENCES, DOCUMENTS, LOG2, PROBABILITY, RATIO = (
    "percent",
    "per million tokens",
    "occurrences",
    "documents",
    "binary logarithm",
    "probability",
    "ratio",
)
ON_SCREENS = "on screens"
"""The look of a column that a file has only where it is asked for."""
IN_FILES_ONLY = 0
"""The priority of a column that no screen shows unless it is asked for."""


@frozen
class Column:
    """One column of a table.

    Attributes
    ----------
    name : str
        In files, options and code.
    title : str
        On screens, pages and figures.
    meaning : str
        A line for the legend and the companion of a file.
    unit : str
        Of its values, "" for none.
    datatype : str
        ``string``, ``integer`` or ``number``.
    digits : int
        Decimals on a screen; files have full precision.
    least, most : float
        No value is below `least` or above `most`.
    priority : int
        How soon it leaves a narrow screen: the largest first, of equal ones the one farthest right; columns of
        priority 1 last, and never the key of the table. `IN_FILES_ONLY` for one that is not shown there.
    partner : str
        The column that leaves a screen together with this one, such as the other limit of an interval.
    look : str
        How a screen treats text: ``key`` names the row and gets half of the width; ``wrapped`` goes on in the next
        line; ``items`` are cut between items; ``free`` takes what is left. ``ON_SCREENS`` is left out of files.
    narrowest : int
        How many cells text of free length needs at least.
    drawn : bool
        The figures of the table are made of it.
    identifies : bool
        A table without a companion is known by it.
    optional : bool
        There where it was asked for.
    choices : tuple of str
        The values that may be filled in by hand, which a workbook offers.
    """

    name: str
    title: str
    meaning: str
    unit: str = ""
    datatype: str = "string"
    digits: int = 0
    least: float = -math.inf
    most: float = math.inf
    priority: int = 1
    partner: str = ""
    look: str = ""
    narrowest: int = 0
    drawn: bool = False
    identifies: bool = False
    optional: bool = False
    choices: tuple[str, ...] = ()

    def having(self, **changes: Any) -> "Column":
        """The column with some attributes changed."""
        return replace(self, **changes)


def text(name: str, title: str, meaning: str, **further: Any) -> Column:
    """A column of text.

    Parameters
    ----------
    name : str
        As in files.
    title : str
        As on the screen.
    meaning : str
        The sentence of the legend.
    **further : Any
        Other fields of `Column`.

    Returns
    -------
    Column
    """
    return Column(name, title, meaning, **further)


def integer(name: str, title: str, meaning: str, unit: str = "", **further: Any) -> Column:
    """A column of whole numbers.

    Parameters
    ----------
    name : str
        As in files.
    title : str
        As on the screen.
    meaning : str
        The sentence of the legend.
    unit : str, optional
        What a value of 1 is.
    **further : Any
        Other fields of `Column`.

    Returns
    -------
    Column
    """
    return Column(name, title, meaning, unit, "integer", **further)


def number(name: str, title: str, meaning: str, unit: str = "", digits: int = 2, **further: Any) -> Column:
    """A column of numbers that may have a fraction.

    Parameters
    ----------
    name : str
        As in files.
    title : str
        As on the screen.
    meaning : str
        The sentence of the legend.
    unit : str, optional
        What a value of 1 is.
    digits : int, optional
        Digits after the point on the screen.
    **further : Any
        Other fields of `Column`.

    Returns
    -------
    Column
    """
    return Column(name, title, meaning, unit, "number", digits, **further)


def by_name(columns: Iterable[Column]) -> dict[str, Column]:
    """The columns by their names.

    Parameters
    ----------
    columns : iterable of Column
        Those of a schema.

    Returns
    -------
    dict of str to Column
    """
    return {one.name: one for one in columns}


GROUP = text("group", "group", "the sub-corpus", look="key")
DOCUMENT = text("document", "document", "name of the document: its path, id or row", look="key")
TERM = text("term", "term", "the word as it was counted, after preparation", look="key")
NODE = text("node", "node", "the expression or category that was looked for")
RANK = integer("rank", "rank", "place in the order of the table, 1 first")
WORDS = integer("n", "n", "words of the n-gram", "words")
FREQ = integer("freq", "freq", "occurrences in the group", OCCURRENCES)
RATE = number("per_million", "per million", "occurrences per million tokens of the group", PER_MILLION, 1)
DOCS = integer("docs", "docs", "documents of the group that have the term", DOCUMENTS)
DOCS_PERCENT = number("docs_percent", "docs %", "share of the group's documents that have the term", PERCENT, 1)
TOKENS = integer("tokens", "tokens", "word tokens", "tokens", least=0.0)
LOG_RATIO = number("log_ratio", "log ratio", "log2 of rate in target by rate in reference: 1 is twice, -1 half", LOG2)
DESIGN_EFFECT = number(
    "design_effect",
    "design effect",
    "how many times more the term varies between sampling units than chance would; 1 is even",
    RATIO,
    1,
)
NOTE = text("note", "note", "what to bear in mind when reading this row", look="wrapped", narrowest=12)
PARTS = (
    text("part_of", "part of", "the document that this is a part of"),
    integer("part", "part", "number of the part within its document, 1 first"),
    number("position", "position", "where the part begins, in percent of its document's tokens", PERCENT, 1),
)
"""The columns of documents that are parts of others."""
PART_COLUMNS = tuple(one.name for one in PARTS)


def renamed(metadata: Iterable[str], taken: Collection[str]) -> Mapping[str, str]:
    """Metadata fields that have the name of a result column, and the name to which they are renamed."""
    return {name: f"{name}_given" for name in metadata if name in taken}
