"""Which rows of a result are shown and saved, and in which order."""

import pandas as pd

from millstone.core.declare import nearest
from millstone.core.errors import DataError

BLOCKS = {"freq": ("group",), "keyness": ("target", "reference"), "logodds": ("group", "against")}
"""The columns that say to which list or comparison a row belongs; what is not named is one block."""


def choose(frame: pd.DataFrame, command: str, sort: str, top: int) -> pd.DataFrame:
    """Sort within each block, then keep the first `top` rows of each (0: all).

    Raises
    ------
    DataError
        For a column that does not exist.
    """
    blocks = list(BLOCKS.get(command, ()))
    if sort:
        column, _, direction = sort.partition(":")
        if column not in frame.columns or direction not in ("", "asc", "desc"):
            columns = [str(name) for name in frame.columns]
            raise DataError(
                f"--sort: the table has no column {sort!r}{nearest(column, columns)}",
                f"its columns: {', '.join(columns)}; add :asc for the smallest first",
            )
        block = frame.groupby(blocks, sort=False).ngroup() if blocks else 0
        ordered = frame.assign(_block=block).sort_values(
            ["_block", column], ascending=[True, direction == "asc"], kind="stable", na_position="last"
        )
        frame = ordered.drop(columns="_block")
    if top:
        frame = frame.groupby(blocks, sort=False).head(top) if blocks else frame.head(top)
    return frame.reset_index(drop=True)
