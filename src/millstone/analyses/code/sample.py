"""Which units are to be coded: drawn by strata, so that rare entries are seen and every unit has a known weight."""

from collections.abc import Mapping, Sequence

import numpy as np

from millstone.core.base.light_dataclass import frozen
from millstone.core.coding.sealed import Hits
from millstone.core.dictionary.matches import DictionaryMatches

LEAST = 2
"""Units that are drawn of a stratum, if it has so many: one alone tells no variance."""


@frozen
class Strata:
    """The strata of units, and how many of each are drawn.

    Attributes
    ----------
    of : ndarray
        (units,) int64 the number of the stratum of each; 0 for units without a hit.
    names : tuple of tuple
        (strata,) the category and the number of the entry of each: empty and -1 for units without a hit, -1 where the
        entries of few units are put together.
    drawn : ndarray
        (strata,) int64 how many units of each are drawn.
    """

    of: np.ndarray
    names: tuple[tuple[str, int], ...]
    drawn: np.ndarray

    @property
    def sizes(self) -> np.ndarray:
        """(strata,) how many units each has."""
        return np.bincount(self.of, minlength=len(self.names))


def entries_of(
    matches: DictionaryMatches, names: Sequence[str], starts: np.ndarray, wanted: np.ndarray
) -> list[list[Hits]]:
    """Which entries of each category count in some units.

    Parameters
    ----------
    matches : DictionaryMatches
        Of an ordered scan.
    names : sequence of str
        The categories.
    starts : ndarray
        (units + 1,) the first token of each unit, and the one after the last.
    wanted : ndarray
        The numbers of units.

    Returns
    -------
    list of list
        Of each unit and category the numbers of the entries, rising; empty where only a sub-category counts, None
        where nothing does.
    """
    row_of = np.full(len(starts) - 1, -1, dtype=np.int64)
    row_of[wanted] = np.arange(len(wanted))
    found: list[list[Hits]] = [[None] * len(names) for _ in range(len(wanted))]
    for column, name in enumerate(names):
        places = matches.places(name)
        row = row_of[np.searchsorted(starts, places.start, "right") - 1]
        pairs = sorted(
            {(at, entry) for at, entry in zip(row.tolist(), places.entry.tolist(), strict=True) if at >= 0}
        )
        for at, entry in pairs:
            found[at][column] = (*(found[at][column] or ()), *((entry,) if entry >= 0 else ()))
    return found


def strata_of(matches: DictionaryMatches, names: Sequence[str], starts: np.ndarray, sample: int) -> Strata:
    """Put units into strata by the rarest entry that counts in each, and share the sample out.

    Half of the sample are units with a hit: as many of each category, within a category in proportion to the square
    root of how many units an entry has, so that rare entries are seen. Entries that would have fewer than two are put
    together.

    Parameters
    ----------
    matches : DictionaryMatches
        Of an ordered scan.
    names : sequence of str
        The categories.
    starts : ndarray
        (units + 1,) the first token of each unit, and the one after the last.
    sample : int
        How many units are drawn in all.

    Returns
    -------
    Strata
    """
    key_of, keys = _rarest_entries(matches, names, starts)
    sizes = dict(zip(range(len(keys)), np.bincount(key_of[key_of >= 0], minlength=len(keys)).tolist(), strict=True))
    whole = len(starts) - 1
    with_hit = int((key_of >= 0).sum())
    of_hits = min(with_hit, max(sample // 2, sample - (whole - with_hit)))
    categories = list(dict.fromkeys(category for category, _ in keys))
    own_of = {name: [key for key, (category, _) in enumerate(keys) if category == name] for name in categories}
    whole_of = [sum(sizes[key] for key in own) for own in own_of.values()]
    shares = _allotted(of_hits, [1.0] * len(categories), whole_of)
    strata: list[tuple[str, int]] = [("", -1)]
    drawn = [min(whole - with_hit, sample - of_hits)]
    number_of: dict[int, int] = {}
    for (category, own), share in zip(own_of.items(), shares, strict=True):
        for members, number in _shared_out(own, sizes, share):
            for key in members:
                number_of[key] = len(strata)
            strata.append((category, keys[members[0]][1] if len(members) == 1 else -1))
            drawn.append(number)
    of = np.array([number_of[key] if key >= 0 else 0 for key in key_of.tolist()], dtype=np.int64)
    return Strata(of, tuple(strata), np.array(drawn, dtype=np.int64))


def _rarest_entries(
    matches: DictionaryMatches, names: Sequence[str], starts: np.ndarray
) -> tuple[np.ndarray, list[tuple[str, int]]]:
    """(units,) the number of the entry with the fewest units among those that count in each, -1 for none; and what
    the numbers mean: category and entry."""
    units, places = [], []
    keys: list[tuple[str, int]] = []
    for name in names:
        found = matches.places(name)
        own = found.entry >= 0
        unit = np.searchsorted(starts, found.start[own], "right") - 1
        entries, number = np.unique(found.entry[own], return_inverse=True)
        pairs = np.unique(unit * (len(entries) + 1) + number)
        at, entry = np.divmod(pairs, len(entries) + 1)
        units.append(at)
        places.append(entry + len(keys))
        keys += [(name, int(one)) for one in entries]
    unit, key = np.concatenate([np.zeros(0, int), *units]), np.concatenate([np.zeros(0, int), *places])
    often = np.bincount(key, minlength=len(keys))
    # the last one that is written stands: the rarest
    order = np.lexsort((key, -often[key])) if len(key) else key
    found_of = np.full(len(starts) - 1, -1, dtype=np.int64)
    found_of[unit[order]] = key[order]
    # those that are never the rarest have no unit of their own
    kept, number_of = np.unique(found_of[found_of >= 0], return_inverse=True)
    found_of[found_of >= 0] = number_of
    return found_of, [keys[one] for one in kept.tolist()]


def _shared_out(own: Sequence[int], sizes: Mapping[int, int], share: int) -> list[tuple[list[int], int]]:
    """The strata of a category: their entries, and how many units are drawn of each."""
    root = {key: float(np.sqrt(sizes[key])) for key in own}
    wanted = dict(zip(own, _allotted(share, list(root.values()), [sizes[key] for key in own]), strict=True))
    alone = [key for key in own if wanted[key] >= min(LEAST, sizes[key])]
    few = [key for key in own if key not in alone]
    groups = [[key] for key in alone] + ([few] if few else [])
    roots, wholes = (
        [sum(root[key] for key in some) for some in groups],
        [sum(sizes[key] for key in some) for some in groups],
    )
    numbers = _allotted(share, roots, wholes)
    return [
        (members, min(whole, max(LEAST, number)))
        for members, number, whole in zip(groups, numbers, wholes, strict=True)
    ]


def _allotted(total: int, weights: Sequence[float], sizes: Sequence[int]) -> list[int]:
    """So many of each as its weight says, none more than there are; what one cannot take goes to the others."""
    found = [0] * len(sizes)
    left, open_ones = total, list(range(len(sizes)))
    while open_ones and left > 0:
        whole = sum(weights[one] for one in open_ones)
        full = [one for one in open_ones if left * weights[one] / whole >= sizes[one]]
        if not full:
            quota = {one: left * weights[one] / whole for one in open_ones}
            found = [int(quota.get(one, number)) for one, number in enumerate(found)]
            rest = total - sum(found)
            for one in sorted(open_ones, key=lambda one: int(quota[one]) - quota[one])[:rest]:
                found[one] += 1
            return found
        for one in full:
            found[one] = sizes[one]
            left -= sizes[one]
        open_ones = [one for one in open_ones if one not in full]
    return found


def drawn_units(strata: Strata, seed: int) -> np.ndarray:
    """The numbers of the units that are drawn, in random order.

    Parameters
    ----------
    strata : Strata
    seed : int

    Returns
    -------
    ndarray
        int64; without replacement, each unit of a stratum alike.
    """
    chance = np.random.default_rng(seed)
    found = [
        chance.choice(np.flatnonzero(strata.of == number), size, replace=False)
        for number, size in enumerate(strata.drawn.tolist())
        if size
    ]
    return chance.permutation(np.concatenate(found)) if found else np.zeros(0, dtype=np.int64)


def coders_of(number: int, coders: int, overlap: float) -> list[tuple[int, ...]]:
    """Which coders have each of some units in random order: all of them have the first ones, the others one each.

    Parameters
    ----------
    number : int
        How many units there are.
    coders : int
    overlap : float
        The share of the units that all coders have.

    Returns
    -------
    list of tuple of int
        Of each unit its coders, from 0.
    """
    shared = number if coders == 1 else round(number * overlap)
    every = tuple(range(coders))
    return [every if at < shared else ((at - shared) % coders,) for at in range(number)]
