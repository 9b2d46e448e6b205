"""The notes of a row: what to mind when reading it."""

from collections.abc import Sequence

import numpy as np


def joined(columns: Sequence[np.ndarray]) -> np.ndarray:
    """Join the notes of each row with ``; ``.

    Parameters
    ----------
    columns : sequence of ndarray
        Each (rows,) str, empty where there is nothing to say.

    Returns
    -------
    ndarray
        (rows,) str objects.
    """
    notes = np.array([np.asarray(column, dtype=object) for column in columns])
    found = np.full(notes.shape[1], "", dtype=object)
    # most rows have no note: only the others are walked through
    for row in np.flatnonzero((notes != "").any(axis=0)):
        found[row] = "; ".join(filter(None, notes[:, row]))
    return found
