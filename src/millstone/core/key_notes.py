"""What to mind when reading a row of keyness."""

import numpy as np

from millstone.core.comparisons import ALPHA, Comparison
from millstone.core.counts import Part
from millstone.core.notes import joined

ONE_DOCUMENT_SHARE = 0.5
ONE_DOCUMENT_LEAST = 5


def notes_of(
    comparison: Comparison,
    target: Part,
    reference: Part,
    wanted: np.ndarray,
    direction: np.ndarray,
    p_adjusted: np.ndarray,
    p_by_documents: np.ndarray | None,
    in_one: bool,
) -> np.ndarray:
    """The notes of the `wanted` terms.

    Parameters
    ----------
    comparison : Comparison
    target, reference : Part
    wanted : ndarray
        (wanted,) numbers of terms.
    direction : ndarray
        (wanted,) 1 where the target has the higher rate, -1 where the reference has.
    p_adjusted : ndarray
        (wanted,) of the test in force.
    p_by_documents : ndarray or None
        (wanted,) p, not adjusted, of a test over documents; None where there are too few of them.
    in_one : bool
        Tell of terms that stand mostly in one document.

    Returns
    -------
    ndarray
        (wanted,) str objects.
    """
    sides = ((target, comparison.target, 1), (reference, comparison.reference, -1))
    found = [_in_one_document(part, wanted, direction == side) for part, _, side in sides if in_one]
    for part, name, _ in sides:
        found.append(_noted(part.freq[wanted] == 0, f"absent from {name}"))
    if p_by_documents is not None:
        found.append(_noted((p_adjusted < ALPHA) & (p_by_documents >= ALPHA), "not by documents"))
    return joined(found)


def _noted(which: np.ndarray, note: str) -> np.ndarray:
    return np.array(["", note], dtype=object)[which.astype(int)]


def largest_in_one(part: Part, wanted: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(wanted,) the most occurrences of each term in one document, and which document that is."""
    if not len(part.base) or not len(wanted):
        return np.zeros(len(wanted), dtype=np.int64), np.zeros(len(wanted), dtype=np.int64)
    columns = part.matrix[:, wanted].tocsc()
    most = np.zeros(len(wanted), dtype=np.int64)
    which = np.zeros(len(wanted), dtype=np.int64)
    column = np.repeat(np.arange(len(wanted)), np.diff(columns.indptr))
    # the last of each column's cells in this order is its largest, of equal ones the first document
    order = np.lexsort((-columns.indices, columns.data, column))
    column = column[order]
    last = np.flatnonzero(np.append(column[1:] != column[:-1], True)) if len(column) else column
    most[column[last]], which[column[last]] = columns.data[order][last], columns.indices[order][last]
    return most, which


def _in_one_document(part: Part, wanted: np.ndarray, higher_here: np.ndarray) -> np.ndarray:
    notes = np.full(len(wanted), "", dtype=object)
    if len(part.base) < 2 or part.counts.listed is not None:
        return notes
    freq = part.freq[wanted]
    candidates = np.flatnonzero(higher_here & (freq >= ONE_DOCUMENT_LEAST))
    most, which = largest_in_one(part, wanted[candidates])
    noted = most >= ONE_DOCUMENT_SHARE * freq[candidates]
    for row, number, document in zip(candidates[noted], most[noted], which[noted], strict=True):
        notes[row] = f"one document ({part.names[document]}) has {100 * number / freq[row]:.0f} % of it"
    return notes
