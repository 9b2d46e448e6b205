"""Notes on rows of keyness."""

from collections.abc import Mapping
from typing import TYPE_CHECKING

import numpy as np

from millstone.analyses.base.groups.notes import joined
from millstone.analyses.base.groups.pairs import Comparison
from millstone.core.corpus.corpus import noun_of
from millstone.core.tables.result import Result
from millstone.core.terms.counts import Part

if TYPE_CHECKING:
    pass

ONE_DOCUMENT_SHARE = 0.5
ONE_DOCUMENT_LEAST = 5


def notes_of(
    comparison: Comparison,
    target: Part,
    reference: Part,
    wanted: np.ndarray,
    direction: np.ndarray,
    of_test: Mapping[str, np.ndarray],
    in_one: bool,
    absent: str = "absent from",
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
    of_test : mapping
        Note -> (wanted,) bool: which terms have it, such as those that differ by tokens only.
    in_one : bool
        Note terms that stand mostly in one document.
    absent : str
        What is said of a side without the term, before its name.

    Returns
    -------
    ndarray
        (wanted,) str objects.
    """
    sides = ((target, comparison.target, 1), (reference, comparison.reference, -1))
    mostly_in_one: dict[int, str] = {}
    for part, _, side in sides if in_one else ():
        mostly_in_one |= _in_one_document(part, wanted, direction == side)
    noted = {f"{absent} {name}": part.freq[wanted] == 0 for part, name, _ in sides}
    return joined({**noted, **of_test}, mostly_in_one)


def has_units(result: Result) -> bool:
    """Whether the terms of a table of keyness were compared over sampling units, or could have been."""
    table = result.table
    return "design_effect" in table and not bool(np.isnan(np.asarray(table["design_effect"], dtype=float)).all())


def test_in_force(result: Result) -> str:
    """The test whose p a table of keyness has: over documents, unless another was asked for or there are none."""
    asked = str(result.settings.get("test", "documents"))
    if asked != "documents" or has_units(result):
        return asked
    return "g2" if result.settings.get("count") == "documents" else "ll"


def largest_in_one(part: Part, wanted: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(wanted,) the most occurrences of each term in one document, and which document that is."""
    if not len(part.base) or not len(wanted):
        return np.zeros(len(wanted), dtype=np.int64), np.zeros(len(wanted), dtype=np.int64)
    columns = part.matrix.columns(wanted).transposed()
    most = np.zeros(len(wanted), dtype=np.int64)
    which = np.zeros(len(wanted), dtype=np.int64)
    found = np.flatnonzero(np.diff(columns.indptr))
    if len(found):
        starts = columns.indptr[found]
        most[found] = np.maximum.reduceat(columns.data, starts)
        is_most = columns.data == np.repeat(most[found], np.diff(columns.indptr)[found])
        # a column's cells are in the order of the documents: of equal ones the first counts
        place = np.minimum.reduceat(np.where(is_most, np.arange(len(is_most)), len(is_most)), starts)
        which[found] = columns.indices[place]
    return most, which


def _in_one_document(part: Part, wanted: np.ndarray, higher_here: np.ndarray) -> dict[int, str]:
    notes: dict[int, str] = {}
    if len(part.base) < 2 or part.counts.listed is not None:
        return notes
    noun = noun_of(part.counts.documents)
    freq = part.freq[wanted]
    candidates = np.flatnonzero(higher_here & (freq >= ONE_DOCUMENT_LEAST))
    most, which = largest_in_one(part, wanted[candidates])
    noted = most >= ONE_DOCUMENT_SHARE * freq[candidates]
    for row, number, document in zip(candidates[noted].tolist(), most[noted], which[noted], strict=True):
        notes[row] = f"one {noun} ({part.names[document]}) has {100 * number / freq[row]:.0f} % of it"
    return notes
