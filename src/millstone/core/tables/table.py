"""Tables within millstone: columns of cells, each an array, so that no more need be imported than counting needs."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np

from millstone.core.base.arrays import begins

if TYPE_CHECKING:
    import pandas as pd

Rows = slice | np.ndarray
"""Which rows: a stretch, their numbers, or (rows,) bool."""


@dataclass(frozen=True, eq=False)
class WholeNumbers:
    """Whole numbers of which some are missing: `values`, (rows,) int64, and `missing`, (rows,) bool."""

    values: np.ndarray
    missing: np.ndarray

    @classmethod
    def of(cls, values: np.ndarray) -> "ColumnCells":
        """The whole numbers in an array of floats, NaN where one is missing; an array of integers stays as it is."""
        if values.dtype.kind in "iu":
            return values
        missing = np.isnan(values)
        return cls(np.where(missing, 0, values).astype(np.int64), missing)

    @property
    def dtype(self) -> np.dtype[Any]:
        """The type of the numbers."""
        return self.values.dtype

    def __len__(self) -> int:
        return len(self.values)

    def __getitem__(self, which: Rows) -> "WholeNumbers":
        return WholeNumbers(self.values[which], self.missing[which])

    def __iter__(self) -> Iterator[int | None]:
        return iter(self.tolist())

    def __array__(self, dtype: Any = None, copy: bool | None = None) -> np.ndarray:
        return np.where(self.missing, np.nan, self.values).astype(dtype or float)

    def tolist(self) -> list[int | None]:
        """The numbers; None where one is missing."""
        found: list[int | None] = self.values.tolist()
        for row in np.flatnonzero(self.missing).tolist():
            found[row] = None
        return found


ColumnCells = np.ndarray | WholeNumbers
"""A column: (rows,) numbers, truth values, or any objects, of which None and NaN are missing."""


class Table:
    """Columns of one length, by name, in an order.

    Parameters
    ----------
    columns : mapping
        Name -> cells; one value stands in every row, a sequence is made an array.
    """

    def __init__(self, columns: Mapping[str, Any]) -> None:
        sizes = [len(cells) for cells in columns.values() if not _is_single(cells)]
        self._length = sizes[0] if sizes else 0
        if any(size != self._length for size in sizes):
            raise ValueError(f"columns of different lengths: {sorted(set(sizes))}")
        self._columns: dict[str, ColumnCells] = {name: _cells(cells, self._length) for name, cells in columns.items()}

    @classmethod
    def of_rows(cls, rows: Iterable[Sequence[Any]], names: Sequence[str]) -> "Table":
        """The table with these rows; a column of an empty one holds objects."""
        columns = list(zip(*rows, strict=True)) or [()] * len(names)
        return cls(dict(zip(names, columns, strict=True)))

    @classmethod
    def joined(cls, tables: Sequence["Table"]) -> "Table":
        """Tables one below the other, with all the columns that one of them has; what a table lacks is missing."""
        filled = [one for one in tables if len(one)] or tables[:1]
        if len(filled) == 1:
            return filled[0]
        lengths = list(map(len, filled))
        names = dict.fromkeys(name for one in filled for name in one.names)
        return cls({name: _together([one.get(name) for one in filled], lengths) for name in names})

    @classmethod
    def of_frame(cls, frame: "pd.DataFrame") -> "Table":
        """Build it from a DataFrame."""
        return cls({str(name): _of_series(cells) for name, cells in frame.items()})

    def to_frame(self) -> "pd.DataFrame":
        """Convert to a DataFrame, for notebooks and figures."""
        import pandas as pd

        columns = {name: _series(cells) for name, cells in self._columns.items()}
        return pd.DataFrame(columns, index=pd.RangeIndex(len(self)), copy=False)

    @property
    def names(self) -> list[str]:
        """The names of the columns."""
        return list(self._columns)

    def __len__(self) -> int:
        return self._length

    def __contains__(self, name: object) -> bool:
        return name in self._columns

    def __getitem__(self, name: str) -> Any:
        return self._columns[name]

    def get(self, name: str) -> ColumnCells | None:
        """A column; None if no column has the name."""
        return self._columns.get(name)

    def items(self) -> Iterable[tuple[str, ColumnCells]]:
        """The columns with their names."""
        return self._columns.items()

    def at(self, rows: Rows) -> "Table":
        """Some rows, in the order in which they are named."""
        return self._like({name: cells[rows] for name, cells in self._columns.items()})

    def first(self, number: int) -> "Table":
        """So many rows from the beginning."""
        return self.at(slice(number))

    def only(self, names: Iterable[str]) -> "Table":
        """Some columns, in the order in which they are named."""
        return self._like({name: self._columns[name] for name in names})

    def without(self, *names: str) -> "Table":
        """The columns but for some."""
        return self._like({name: cells for name, cells in self._columns.items() if name not in names})

    def with_columns(self, columns: Mapping[str, Any], place: int | None = None) -> "Table":
        """The table with further columns, at the end or at a place, or with others under the same names."""
        new = {name: _cells(cells, len(self)) if self._columns else cells for name, cells in columns.items()}
        if place is None:
            return Table(self._columns | new)
        names = [name for name in self._columns if name not in new]
        names[place:place] = new
        every = self._columns | new
        return Table({name: every[name] for name in names})

    def renamed(self, names: Mapping[str, str]) -> "Table":
        """The table with some columns under other names."""
        return self._like({names.get(name, name): cells for name, cells in self._columns.items()})

    def by(self, names: Sequence[str]) -> Iterator[tuple[tuple[Any, ...], "Table"]]:
        """The rows that have the same in some columns, with what that is, in the order of their first rows."""
        number, firsts = distinct_rows([self[name] for name in names])
        order = np.argsort(number, kind="stable")
        ends = np.cumsum(np.bincount(number, minlength=len(firsts)))
        for start, end, first in zip([0, *ends.tolist()], ends.tolist(), firsts.tolist(), strict=False):
            key = tuple(self[name][first : first + 1].tolist()[0] for name in names)
            yield key, self.at(order[start:end])

    def rows(self) -> Iterator[dict[str, Any]]:
        """Each row: name -> value, None or NaN where it is missing."""
        columns = [cells.tolist() for cells in self._columns.values()]
        names = self.names
        return (dict(zip(names, row, strict=True)) for row in zip(*columns, strict=True))

    def _like(self, columns: dict[str, ColumnCells]) -> "Table":
        found = Table.__new__(Table)
        found._columns = columns
        found._length = len(next(iter(columns.values()))) if columns else self._length
        return found


def is_number(cells: ColumnCells) -> bool:
    """Whether a column holds numbers or truth values, not objects.

    Parameters
    ----------
    cells : ColumnCells
        (rows,) cells of a column.

    Returns
    -------
    bool
    """
    return cells.dtype.kind in "iufb"


def is_missing(cells: ColumnCells) -> np.ndarray:
    """(rows,) bool: which cells are missing.

    Parameters
    ----------
    cells : ColumnCells
        (rows,) cells of a column.

    Returns
    -------
    ndarray
    """
    if isinstance(cells, WholeNumbers):
        return cells.missing
    if cells.dtype.kind == "f":
        return np.isnan(cells)
    if cells.dtype.kind != "O":
        return np.zeros(len(cells), dtype=bool)
    values = cells.tolist()
    if set(map(type, values)) <= {str}:
        return np.zeros(len(cells), dtype=bool)
    # NaN is the only value that differs from itself
    return np.fromiter((cell is None or cell != cell for cell in values), dtype=bool, count=len(cells))  # noqa: PLR0124


def values_of(cells: ColumnCells) -> list[Any]:
    """The cells as Python's own numbers and objects; None where one is missing.

    Parameters
    ----------
    cells : ColumnCells
        (rows,) cells of a column.

    Returns
    -------
    list of Any
    """
    found: list[Any] = cells.tolist()
    for row in np.flatnonzero(is_missing(cells)).tolist():
        found[row] = None
    return found


def distinct_rows(columns: Sequence[ColumnCells]) -> tuple[np.ndarray, np.ndarray]:
    """Number the distinct combinations of values in some columns, by first appearance.

    Parameters
    ----------
    columns : sequence of ColumnCells
        Each (rows,).

    Returns
    -------
    number : ndarray
        (rows,) int64.
    first : ndarray
        (different,) the first row of each.
    """
    # lists and comparisons stand together: runs of equal neighbouring rows are handled once
    is_new = np.zeros(len(columns[0]), dtype=bool)
    for cells in columns:
        is_new |= _differs(cells)
    starts = np.flatnonzero(is_new)
    keys = list(zip(*(cells[starts].tolist() for cells in columns), strict=True))
    known: dict[Any, int] = {}
    number = np.fromiter((known.setdefault(key, len(known)) for key in keys), dtype=np.int64, count=len(keys))
    first = np.full(len(known), len(is_new), dtype=np.int64)
    np.minimum.at(first, number, starts)
    return np.repeat(number, np.diff(starts, append=len(is_new))), first


def _differs(cells: ColumnCells) -> np.ndarray:
    """(rows,) bool: which cells differ from the one before; the first one does."""
    if isinstance(cells, WholeNumbers):
        found: np.ndarray = begins(cells.values) | begins(cells.missing)
        return found
    return begins(cells)


def spread_out(cells: ColumnCells, rows: np.ndarray, size: int, empty: object = None) -> ColumnCells:
    """The cells at their rows of a longer column; in other rows numbers are missing, and objects are `empty`.

    Parameters
    ----------
    cells : ColumnCells
        (cells,).
    rows : ndarray
        (cells,) the row of each.
    size : int
        Rows of the longer column.
    empty : object, optional
        The cell of other rows.

    Returns
    -------
    ColumnCells
        (size,) cells.
    """
    if isinstance(cells, WholeNumbers) or cells.dtype.kind in "iu":
        values, missing = np.zeros(size, dtype=np.int64), np.ones(size, dtype=bool)
        missing[rows] = is_missing(cells)
        values[rows] = cells.values if isinstance(cells, WholeNumbers) else cells
        return WholeNumbers(values, missing)
    found = np.full(size, np.nan) if cells.dtype.kind == "f" else np.full(size, empty, dtype=object)
    found[rows] = cells
    return found


def _is_single(cells: Any) -> bool:
    return cells is None or isinstance(cells, str | int | float | bool | np.generic)


def _cells(cells: Any, length: int) -> ColumnCells:
    if isinstance(cells, WholeNumbers):
        return cells
    if _is_single(cells):
        return np.full(length, cells, dtype=object if cells is None or isinstance(cells, str) else None)
    if isinstance(cells, np.ndarray):
        return cells.astype(object) if cells.dtype.kind in "US" else cells
    every = list(cells)
    if every and all(isinstance(one, bool | int | float | np.number | np.bool_) for one in every):
        return np.array(every)
    found = np.empty(len(every), dtype=object)
    found[:] = every
    return found


def _together(parts: Sequence[ColumnCells | None], lengths: Sequence[int]) -> ColumnCells:
    known = next(one for one in parts if one is not None)
    nothing = np.array([], dtype=np.int64)
    every = [
        spread_out(known[:0], nothing, length) if one is None else one
        for one, length in zip(parts, lengths, strict=True)
    ]
    if not any(isinstance(one, WholeNumbers) for one in every):
        return np.concatenate(every)
    values = [one.values if isinstance(one, WholeNumbers) else one for one in every]
    return WholeNumbers(np.concatenate(values), np.concatenate(list(map(is_missing, every))))


def _series(cells: ColumnCells) -> Any:
    import pandas as pd

    if isinstance(cells, WholeNumbers):
        return pd.arrays.IntegerArray(cells.values, cells.missing)
    # objects as they are: the other kind of text takes long to make
    return pd.Series(cells, dtype=object) if cells.dtype == object else cells


def _of_series(cells: "pd.Series[Any]") -> ColumnCells:
    if cells.dtype.name in ("Int64", "Int32"):
        missing = cells.isna().to_numpy()
        return WholeNumbers(cells.fillna(0).to_numpy(dtype=np.int64), missing)
    plain: np.ndarray = cells.to_numpy() if isinstance(cells.dtype, np.dtype) else cells.to_numpy(dtype=object)
    return plain
