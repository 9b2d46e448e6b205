"""Which places the entries of a dictionary take in a row of tokens: the longest first, a token once a category."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from millstone.core.base.arrays import concat_ranges, unique
from millstone.core.dictionary.dictionary import Dictionary

_NONE = np.array([], dtype=np.int64)
# what of an order is the number of the entry
_BITS = 32
_ENTRY = (1 << _BITS) - 1


@dataclass(frozen=True)
class CategoryMatches:
    """P places of a category: first token, number of tokens and weight, each (P,), in text order.

    `entry` is the number of the entry in its category, -1 for a place of a sub-category. `lost` are the numbers of
    the exceptions that took places, one each time, and `lost_at` where.
    """

    start: np.ndarray
    length: np.ndarray
    weight: np.ndarray
    entry: np.ndarray
    lost: np.ndarray
    lost_at: np.ndarray

    @classmethod
    def joined(cls, several: Iterable["CategoryMatches"]) -> "CategoryMatches":
        """All places of several, in text order."""
        some = list(several)
        start = np.concatenate([_NONE, *(one.start for one in some)])
        length = np.concatenate([_NONE, *(one.length for one in some)])
        weight = np.concatenate([np.array([]), *(one.weight for one in some)])
        entry = np.concatenate([_NONE, *(one.entry for one in some)])
        lost, lost_at = (
            np.concatenate([_NONE, *(getattr(one, name) for one in some)]) for name in ("lost", "lost_at")
        )
        order = np.argsort(start, kind="stable")
        return cls(start[order], length[order], weight[order], entry[order], lost, lost_at)

    def as_parent_matches(self) -> "CategoryMatches":
        """The matches as those of the category above."""
        return replace(self, entry=np.full(len(self.start), -1, dtype=np.int64), lost=_NONE, lost_at=_NONE)

    def tokens(self) -> np.ndarray:
        """The positions of all tokens in the places."""
        return concat_ranges(self.start, self.length)


@dataclass(frozen=True)
class Candidates:
    """Where entries could match, before they compete, (candidates,) each; `order` breaks ties, low wins."""

    start: np.ndarray
    length: np.ndarray
    weight: np.ndarray
    is_exception: np.ndarray
    order: np.ndarray

    @classmethod
    def joined(cls, several: Iterable["Candidates"]) -> "Candidates":
        """All candidates of several."""
        some = [(one.start, one.length, one.weight, one.is_exception, one.order) for one in several]
        empty = (_NONE, _NONE, np.array([]), np.array([], dtype=bool), _NONE)
        return cls(*(np.concatenate(parts) for parts in zip(empty, *some, strict=True)))

    def moved_by(self, tokens: int) -> "Candidates":
        """The candidates so many tokens further on."""
        return replace(self, start=self.start + tokens)

    def at(self, which: np.ndarray) -> "Candidates":
        """Some of them."""
        return Candidates(
            self.start[which], self.length[which], self.weight[which], self.is_exception[which], self.order[which]
        )


def preference(is_exception: bool, has_wildcards: bool, number: int) -> int:
    """The order of an entry: low wins at the same place, exceptions first, then words without wildcards."""
    return ((not is_exception) * 2 + has_wildcards) << _BITS | number


def resolved(dictionary: Dictionary, candidates: Mapping[str, Candidates], size: int) -> dict[str, CategoryMatches]:
    """The places of every category, parents included.

    Parameters
    ----------
    dictionary : Dictionary
    candidates : mapping
        Category -> where its own entries could match.
    size : int
        The number of tokens.

    Returns
    -------
    dict
        Category -> Places. The places of ``a/b`` are places of ``a`` first, whatever exceptions ``a``
        has; then come the entries of ``a`` itself, where no token is taken yet.
    """
    found: dict[str, CategoryMatches] = {}
    for name in sorted(dictionary.names(), key=lambda name: -name.count("/")):
        of_children = _of_children([found[child] for child in dictionary.children(name)], size)
        of_itself = _compete(candidates[name], size, of_children.tokens()) if name in candidates else None
        found[name] = CategoryMatches.joined([of_children, *([of_itself] if of_itself is not None else [])])
    return {name: found[name] for name in dictionary.names()}


def _of_children(children: Sequence[CategoryMatches], size: int) -> CategoryMatches:
    """Places of several sub-categories as places of the parent: no token twice."""
    if len(children) == 1:
        return children[0].as_parent_matches()
    candidates = [
        Candidates(
            places.start,
            places.length,
            places.weight,
            np.zeros(len(places.start), dtype=bool),
            np.full(len(places.start), order, dtype=np.int64),
        )
        for order, places in enumerate(children)
    ]
    return _compete(Candidates.joined(candidates), size).as_parent_matches()


def _compete(candidates: Candidates, size: int, barred: np.ndarray = _NONE) -> CategoryMatches:
    """Longest first, leftmost first, then by order; no entry, but an exception, gets the `barred` tokens."""
    taken, taken_for_entries = np.zeros(size, dtype=bool), np.zeros(size, dtype=bool)
    taken_for_entries[barred] = True
    won = []
    for length in unique(candidates.length)[::-1].tolist():
        rivals = candidates.at(np.flatnonzero(candidates.length == length))
        rivals = rivals.at(np.lexsort((rivals.order, rivals.start)))
        tokens = rivals.start[:, None] + np.arange(length)
        free = ~taken[tokens].any(axis=1) & (rivals.is_exception | ~taken_for_entries[tokens].any(axis=1))
        rivals = rivals.at(np.flatnonzero(free))
        rivals = rivals.at(leftmost(rivals.start, length))
        taken[concat_ranges(rivals.start, rivals.length)] = True
        counted = rivals.at(~rivals.is_exception)
        lost = rivals.at(rivals.is_exception)
        entry = counted.order & _ENTRY
        won.append(
            CategoryMatches(counted.start, counted.length, counted.weight, entry, lost.order & _ENTRY, lost.start)
        )
    return CategoryMatches.joined(won)


def leftmost(start: np.ndarray, length: int) -> np.ndarray:
    """(places,) bool: those left when each takes its tokens from left to right; `start` ascends, the
    first of equal ones wins.

    Parameters
    ----------
    start : ndarray
        (places,) the first token of each, ascending.
    length : int
        Tokens of each place.

    Returns
    -------
    ndarray
    """
    kept = np.ones(len(start), dtype=bool)
    free_from = 0
    # only places that touch a neighbour are walked through, all others stand alone
    near = np.flatnonzero(np.diff(start) < length)
    for number in unique(np.concatenate((near, near + 1))):
        kept[number] = start[number] >= free_from
        if kept[number]:
            free_from = start[number] + length
    return kept
