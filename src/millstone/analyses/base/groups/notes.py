"""The notes of a row: what to bear in mind when reading it."""

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING

import numpy as np

from millstone.core.corpus.corpus import NOUNS

if TYPE_CHECKING:
    import pandas as pd

TakeNote = Callable[[str], None]
"""Called with what the user should know of a whole result."""

BY_TOKENS_ONLY = "by tokens only"
"""The note of a term that differs over tokens, and not over documents."""


def joined(noted: Mapping[str, np.ndarray], first: Mapping[int, str] | None = None) -> np.ndarray:
    """The notes of each row, joined with ``; ``.

    Parameters
    ----------
    noted : mapping
        Note -> (rows,) bool: which rows have it.
    first : mapping, optional
        Row -> what is said of it before the others.

    Returns
    -------
    ndarray
        (rows,) str objects, empty where there is nothing to say.
    """
    number = sum(which.astype(np.int64) << place for place, which in enumerate(noted.values()))
    together = [
        "; ".join(note for place, note in enumerate(noted) if combination >> place & 1)
        for combination in range(1 << len(noted))
    ]
    found = np.array(together, dtype=object)[number]
    for row, note in (first or {}).items():
        found[row] = f"{note}; {found[row]}" if found[row] else note
    values: np.ndarray = found
    return values


def is_carried_by_few(frame: "pd.DataFrame") -> "pd.Series[bool]":
    """Which rows of a table have a note that few documents carry a difference; none where it has no notes."""
    notes = frame.assign(note=frame.get("note", ""))["note"].fillna("")
    return notes.str.contains(rf"{BY_TOKENS_ONLY}|^one (?:{'|'.join(NOUNS)}) \(", regex=True)
