"""Sampling units: what was drawn independently, be it documents, the texts that parts are of, or authors."""

import numpy as np

from millstone.core.base.arrays import unique, unique_inverse
from millstone.core.base.errors import DataError
from millstone.core.base.light_dataclass import frozen
from millstone.core.base.wording import nearest, nearest_names
from millstone.core.corpus.corpus import NOUNS
from millstone.core.corpus.corpus_units import text_numbers
from millstone.core.tables.table import Table, distinct_rows


@frozen
class SamplingUnits:
    """The sampling unit of each document.

    Attributes
    ----------
    of : ndarray
        (documents,) int64 the number of the unit that each belongs to, from 0.
    noun : str
        What a unit is called: ``document``, ``part``, ``text``, or the field that says which documents belong
        together.
    field : str
        That field; empty where none was named.
    without : int
        How many documents have no value of the field, each of which is a unit of its own.
    names : ndarray or None
        (documents,) the name of each one's unit, where a field was named.
    """

    of: np.ndarray
    noun: str = NOUNS[0]
    field: str = ""
    without: int = 0
    names: np.ndarray | None = None

    def number(self, documents: np.ndarray) -> int:
        """How many units some documents, given by their numbers, belong to."""
        return len(unique(self.of[documents]))

    def counted(self, number: int) -> str:
        """A number of units in words, such as ``3 documents`` or ``1 unit by author``."""
        if self.field:
            return f"{number:,} unit{'' if number == 1 else 's'} by {self.field}"
        return f"{number:,} {self.noun}{'' if number == 1 else 's'}"


def sampling_units(documents: Table, field: str = "", independent_parts: bool = False) -> SamplingUnits:
    """The sampling units of documents.

    Parameters
    ----------
    documents : Table
        One row each: ``document, group``, for parts of texts ``part_of, part``, then the metadata.
    field : str
        Documents with the same value of it are one unit; by default each document is one, of parts each text.
    independent_parts : bool
        Each part of a text is a unit.

    Returns
    -------
    SamplingUnits
        The number of the unit of each document.

    Raises
    ------
    DataError
        For a field that does not exist.
    """
    are_parts = "part_of" in documents
    if field:
        return _by_field(documents, field, are_parts)
    if not are_parts or independent_parts:
        return SamplingUnits(np.arange(len(documents)), NOUNS[int(are_parts)])
    return SamplingUnits(text_numbers(documents), "text")


def _by_field(documents: Table, field: str, are_parts: bool) -> SamplingUnits:
    if field not in documents:
        raise DataError(
            f"--sampling-unit: there is no field {field!r}{nearest(field, documents.names)}",
            f"fields are {nearest_names(field, documents.names)}",
        )
    values = np.array([str(cell).strip() for cell in documents[field]], dtype=object)
    alone = np.flatnonzero(values == "")
    numbers, _ = distinct_rows([values])
    own = text_numbers(documents) if are_parts else np.arange(len(documents))
    # a text without a value is one unit with all of its parts
    numbers[alone] = len(documents) + own[alone]
    _, of = unique_inverse(numbers)
    names = np.where(values == "", documents["document"], values)
    return SamplingUnits(of, field, field, len(unique(own[alone])), names)
