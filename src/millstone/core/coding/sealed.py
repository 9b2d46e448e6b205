"""Which units were drawn for coding, and with what weight: kept apart from what coders read."""

import hashlib
from collections.abc import Mapping, Sequence

from millstone.core.base.light_dataclass import frozen

_SHORT = 9

Hits = tuple[int, ...] | None
"""The numbers of the entries that count in a unit; None where the category counts nothing in it."""


@frozen
class SealedUnit:
    """A unit that was drawn.

    Attributes
    ----------
    group : str
    stratum : int
        Its number.
    tokens : int
        So many it had.
    hits : tuple
        (categories,) the entries of each that count in it; none where only a sub-category counts.
    """

    group: str
    stratum: int
    tokens: int
    hits: tuple[Hits, ...]


@frozen
class Sealed:
    """The units of a draw.

    Attributes
    ----------
    unit : str
        What a unit is, as it is typed: ``sentence``.
    categories : tuple of str
    entries : tuple of tuple of str
        The entries of each category, as they are written in the dictionary.
    strata : tuple of tuple
        Category (empty for units without a hit), how many units of the texts it has, and how many were drawn.
    units : mapping
        The name of a unit -> SealedUnit.
    """

    unit: str
    categories: tuple[str, ...]
    entries: tuple[tuple[str, ...], ...]
    strata: tuple[tuple[str, int, int], ...]
    units: Mapping[str, SealedUnit]


def names_of_units(documents: Sequence[object]) -> list[str]:
    """Names of units that stay as they are while the documents that they are cut of keep names and order.

    Parameters
    ----------
    documents : sequence
        The name of each unit as a document, such as ``a.txt#3``; of two with one name the second is told apart.

    Returns
    -------
    list of str
        The letter u, so that no spreadsheet takes one for a number, and nine hexadecimal digits.
    """
    known: dict[str, int] = {}
    found = []
    for name in map(str, documents):
        known[name] = often = known.get(name, 0) + 1
        digits = hashlib.sha256(f"{name}\0{often}".encode("utf-8", "surrogatepass")).hexdigest()
        found.append(f"u{digits[:_SHORT]}")
    return found
