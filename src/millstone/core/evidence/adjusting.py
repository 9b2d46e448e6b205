"""Fields of documents that a comparison holds equal, as the columns of a model."""

from collections.abc import Sequence

import numpy as np

from millstone.core.base.errors import DataError
from millstone.core.base.light_dataclass import frozen
from millstone.core.base.wording import listed, nearest, nearest_names
from millstone.core.corpus.periods import field_numbers
from millstone.core.tables.table import Table, distinct_rows

NONE = "(none)"
"""The level of documents without a value of a category."""
MOST_LEVELS = 50
_NUMBER = ":number"
_NOT_FIELDS = ("document", "group")


@frozen
class AdjustingField:
    """One field: a category with levels, or a number.

    Attributes
    ----------
    name : str
    levels : tuple of str
        Of a category; empty for a number.
    values : ndarray
        (D,) int64 the level of each document, or float its number, NaN without one.
    """

    name: str
    levels: tuple[str, ...]
    values: np.ndarray

    @property
    def is_number(self) -> bool:
        """Whether its values are numbers."""
        return not self.levels


@frozen
class Adjusting:
    """The fields that a comparison holds equal.

    Attributes
    ----------
    fields : tuple of AdjustingField
    known : ndarray
        (D,) bool: documents with a value of each number.
    """

    fields: tuple[AdjustingField, ...]
    known: np.ndarray

    @property
    def named(self) -> str:
        """The fields in words."""
        return listed([field.name for field in self.fields], between=" and ")

    def design(self, documents: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """The patterns of values that some documents have, as the rows of a design.

        Parameters
        ----------
        documents : ndarray
            (documents,) numbers of documents, all of them known.

        Returns
        -------
        pattern : ndarray
            (documents,) int64 the row of each.
        columns : ndarray
            (patterns, p) float: ones, then a column of 0 and 1 for each level, numbers in standard deviations.
        """
        values = [field.values[documents] for field in self.fields]
        pattern, first = distinct_rows(values)
        columns = [np.ones((len(first), 1))]
        for field, own in zip(self.fields, values, strict=True):
            if field.is_number:
                spread = float(own.std()) or 1.0
                columns.append((own[first, None] - own.mean()) / spread)
            else:
                columns.append((own[first, None] == np.unique(own)).astype(float))
        return pattern, np.concatenate(columns, axis=1)

    def separating(self, documents: np.ndarray, in_target: np.ndarray) -> str:
        """The first category that alone says which side each of some documents is on; empty for none.

        Parameters
        ----------
        documents : ndarray
            (documents,) their numbers.
        in_target : ndarray
            (documents,) bool.

        Returns
        -------
        str
        """
        for field in self.fields:
            own = field.values[documents]
            if not field.is_number and not len(np.intersect1d(own[in_target], own[~in_target])):
                return field.name
        return ""


def adjusting_of(documents: Table, asked: Sequence[str], option: str = "--adjust-for") -> Adjusting:
    """The fields that ``--adjust-for`` names.

    Parameters
    ----------
    documents : Table
        One row each: ``document, group``, then the metadata.
    asked : sequence of str
        Names of fields; ``NAME:number`` for one whose values are numbers or dates.
    option : str
        For messages.

    Returns
    -------
    Adjusting

    Raises
    ------
    DataError
        For a field that does not exist, is the group itself or has more than 50 levels, or a value that is not a
        number.
    """
    fields: list[AdjustingField] = []
    known = np.ones(len(documents), dtype=bool)
    for name in asked:
        field = _field(documents, name, option)
        if any(field.name == other.name for other in fields):
            raise DataError(f"{option}: {field.name!r} is named twice", "name each field once")
        if field.is_number:
            known &= ~np.isnan(field.values)
        fields.append(field)
    return Adjusting(tuple(fields), known)


def _field(documents: Table, asked: str, option: str) -> AdjustingField:
    name, is_number = asked, False
    if asked not in documents and asked.endswith(_NUMBER):
        name, is_number = asked.removesuffix(_NUMBER), True
    fields = [one for one in documents.names if one not in _NOT_FIELDS]
    if name not in fields:
        raise DataError(
            f"{option}: there is no field {name!r}{nearest(name, fields)}",
            f"fields are {nearest_names(name, fields)}"
            if fields
            else "the texts have none; --path-pattern takes fields from the names of files",
        )
    cells = [str(cell).strip() for cell in documents[name].tolist()]
    if is_number:
        return AdjustingField(name, (), field_numbers(cells, f"{option} {name}", documents["document"].tolist()))
    levels = sorted(set(cells) - {""}) + ([NONE] if "" in cells else [])
    if len(levels) > MOST_LEVELS:
        raise DataError(
            f"{option} {name}: there are {len(levels):,} different values, and at most {MOST_LEVELS} levels are held "
            "equal",
            f"type {name}:number if they are numbers, or name a field that puts the documents into fewer classes",
        )
    place = {level: at for at, level in enumerate(levels)}
    return AdjustingField(name, tuple(levels), np.array([place[cell or NONE] for cell in cells], dtype=np.int64))
