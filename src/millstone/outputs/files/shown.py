"""Values as they are read, on a screen or a page: with the decimals of their column, and open ends of intervals."""

import math

from millstone.core.tables.columns import Column
from millstone.core.tables.table import Table, values_of

# Smaller values are rounding errors of zero
_NOISE = 1e-12


def shown(value: object, column: Column | None) -> str:
    """A value as it is read: numbers with the decimals of their column, and with as many as their sign needs.

    Examples
    --------
    >>> two = Column("low", "low", "", datatype="number", digits=2)
    >>> shown(-0.004, two), shown(1234.567, two)
    ('-0.004', '1,234.57')
    """
    if value is None or type(value).__name__ == "NAType" or (isinstance(value, float) and math.isnan(value)):
        return ""
    if column is not None and column.unit == "probability" and isinstance(value, float):
        return "<0.0001" if value < 0.0001 else f"{value:.4f}"
    if value == 0:
        return "0"
    if isinstance(value, float) and column is not None and column.datatype == "number":
        return fixed(value, column.digits)
    return f"{value:,}" if isinstance(value, int) and not isinstance(value, bool) else str(value)


def fixed(value: float, decimals: int) -> str:
    """A number with so many decimals, or as many more as it takes not to look like 0."""
    if abs(value) < _NOISE:
        return "0"
    while abs(value) < 0.5 * 10**-decimals:
        decimals += 1
    return f"{value:,.{decimals}f}"


def shown_cells(table: Table, name: str, column: Column | None) -> list[str]:
    """(rows,) the cells of a column as they are read; of an interval with one end this says on which side it is open.

    Examples
    --------
    >>> limits = Table({"x_low": [4.2, 1.0], "x_high": [float("nan"), 2.0]})
    >>> shown_cells(limits, "x_low", Column("x_low", "low", "", datatype="number", digits=1))
    ['>= 4.2', '1.0']
    """
    values = values_of(table[name])
    cells = [shown(value, column) for value in values]
    end, sign, other = ("_low", ">=", "_high") if name.endswith("_low") else ("_high", "<=", "_low")
    beyond = name.removesuffix(end) + other
    if not name.endswith(end) or beyond not in table:
        return cells
    missing = [value is None for value in values_of(table[beyond])]
    return [f"{sign} {cell}" if cell and is_open else cell for cell, is_open in zip(cells, missing, strict=True)]
