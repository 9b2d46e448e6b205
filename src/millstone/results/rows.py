"""Which rows of a result are shown and saved, and in which order."""

import pandas as pd

from millstone.core.declare import nearest
from millstone.core.errors import DataError

BLOCKS = {"freq": ("group",), "keyness": ("target", "reference"), "logodds": ("group", "against")}
"""The columns that say to which list or comparison a row belongs; what is not named is one block."""


def arrange(frame: pd.DataFrame, command: str, sort: str) -> pd.DataFrame:
    """Sort within each block by ``COLUMN`` or ``COLUMN:asc``; an empty `sort` leaves the order as it is.

    Raises
    ------
    DataError
        For a column that does not exist.
    """
    if not sort:
        return frame
    column, _, direction = sort.partition(":")
    if column not in frame.columns or direction not in ("", "asc", "desc"):
        columns = [str(name) for name in frame.columns]
        raise DataError(
            f"--sort: the table has no column {sort!r}{nearest(column, columns)}",
            f"its columns: {', '.join(columns)}; add :asc for the smallest first",
        )
    blocks = list(BLOCKS.get(command, ()))
    block = frame.groupby(blocks, sort=False).ngroup() if blocks else 0
    ordered = frame.assign(_block=block).sort_values(
        ["_block", column], ascending=[True, direction == "asc"], kind="stable", na_position="last"
    )
    return ordered.drop(columns="_block").reset_index(drop=True)


def first_rows(frame: pd.DataFrame, command: str, top: int) -> pd.DataFrame:
    """The first `top` rows of each block; 0 means all."""
    blocks = list(BLOCKS.get(command, ()))
    if not top:
        return frame
    first = frame.groupby(blocks, sort=False).head(top) if blocks else frame.head(top)
    return first.reset_index(drop=True)
