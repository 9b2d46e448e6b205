"""Where the entries of a dictionary stand in a corpus: each category's places, longest match first."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from millstone.core.corpus import Corpus
from millstone.core.dictionary import Dictionary, Entry, Vocabulary


@dataclass(frozen=True)
class Places:
    """P places of a category: first token, number of tokens and weight, each (P,), in text order."""

    start: np.ndarray
    length: np.ndarray
    weight: np.ndarray

    @classmethod
    def joined(cls, several: Iterable["Places"]) -> "Places":
        """All places of several, in text order."""
        some = list(several)
        start = np.concatenate([np.array([], dtype=np.int64), *(one.start for one in some)])
        length = np.concatenate([np.array([], dtype=np.int64), *(one.length for one in some)])
        weight = np.concatenate([np.array([]), *(one.weight for one in some)])
        order = np.argsort(start, kind="stable")
        return cls(start[order], length[order], weight[order])

    def tokens(self) -> np.ndarray:
        """The positions of all tokens in the places."""
        return spread(self.start, self.length)


@dataclass(frozen=True)
class _Candidates:
    """Where one entry could match, before it competes with others; `order` breaks ties, low wins."""

    start: np.ndarray
    length: int
    weight: float
    is_exception: bool
    order: int


def spread(start: np.ndarray, length: np.ndarray) -> np.ndarray:
    """The positions ``start .. start + length - 1`` of each span, one after the other."""
    ends = np.cumsum(length)
    total = int(ends[-1]) if len(ends) else 0
    return np.arange(total) + np.repeat(start - (ends - length), length)


def find_places(corpus: Corpus, dictionary: Dictionary) -> Mapping[str, Places]:
    """The places of every category, parents included.

    Parameters
    ----------
    corpus : Corpus
        From an ordered scan.
    dictionary : Dictionary

    Returns
    -------
    mapping
        Category -> Places. The places of ``a/b`` are places of ``a`` first, whatever exceptions ``a``
        has; then come the entries of ``a`` itself, where no token is taken yet.

    Notes
    -----
    An entry is looked up from its rarest word, so the cost goes with that word's occurrences.
    """
    finder = _Finder(corpus)
    found: dict[str, Places] = {}
    for name in sorted(dictionary.names(), key=lambda name: -name.count("/")):
        of_children = _resolved([found[child] for child in dictionary.children(name)], finder.size)
        entries = dictionary.categories.get(name, ())
        candidates = [finder.candidates(entry, order) for order, entry in enumerate(entries)]
        of_itself = _compete(candidates, finder.size, barred=of_children.tokens())
        found[name] = Places.joined([of_children, of_itself])
    return {name: found[name] for name in dictionary.names()}


class _Finder:
    """Looks entries up in a corpus by way of an index from forms to positions."""

    def __init__(self, corpus: Corpus) -> None:
        self._ids, _, self._breaks = corpus.sequence
        self.size = len(self._ids)
        self._vocabulary = Vocabulary(corpus.forms)
        self._positions = np.argsort(self._ids, kind="stable")
        frequency = np.bincount(self._ids, minlength=len(corpus.forms))
        self._first = np.cumsum(frequency) - frequency
        self._frequency = frequency

    def candidates(self, entry: Entry, order: int) -> _Candidates:
        forms = [self._vocabulary.matches(pattern, entry.case) for pattern in entry.patterns]
        rarest = min(range(len(forms)), key=lambda number: self._frequency[forms[number]].sum())
        spans = spread(self._first[forms[rarest]], self._frequency[forms[rarest]])
        start = np.sort(self._positions[spans]) - rarest
        length = len(entry.patterns)
        start = start[(start >= 0) & (start + length <= self.size)]
        for offset, pattern in enumerate(entry.patterns):
            if offset != rarest:
                start = start[self._vocabulary.mask(pattern, entry.case)[self._ids[start + offset]]]
        start = start[self._sentence(start) == self._sentence(start + length - 1)]
        preference = (not entry.is_exception) * 2 + entry.has_wildcards
        return _Candidates(start, length, entry.weight, entry.is_exception, preference << 32 | order)

    def _sentence(self, position: np.ndarray) -> np.ndarray:
        return np.searchsorted(self._breaks, position, side="right")


def _resolved(of_children: list[Places], size: int) -> Places:
    """Places of several sub-categories as places of the parent: no token twice."""
    lengths = {int(length) for places in of_children for length in np.unique(places.length)}
    candidates = []
    for order, places in enumerate(of_children):
        for length in lengths:
            chosen = places.length == length
            for weight in np.unique(places.weight[chosen]):
                start = places.start[chosen & (places.weight == weight)]
                candidates.append(_Candidates(start, length, float(weight), False, order))
    return _compete(candidates, size)


def _compete(candidates: list[_Candidates], size: int, barred: Sequence[int] | np.ndarray = ()) -> Places:
    """Longest first, leftmost first, then by order; no entry, but an exception, gets the `barred` tokens."""
    taken, taken_for_entries = np.zeros(size, dtype=bool), np.zeros(size, dtype=bool)
    taken_for_entries[np.asarray(barred, dtype=np.int64)] = True
    won = []
    for length in sorted({one.length for one in candidates}, reverse=True):
        rivals = [one for one in candidates if one.length == length]
        start = np.concatenate([one.start for one in rivals])
        which = np.repeat(np.arange(len(rivals)), [len(one.start) for one in rivals])
        by_place = np.lexsort((np.array([one.order for one in rivals])[which], start))
        start, which = start[by_place], which[by_place]
        tokens = start[:, None] + np.arange(length)
        is_exception = np.array([one.is_exception for one in rivals])[which]
        free = ~taken[tokens].any(axis=1) & (is_exception | ~taken_for_entries[tokens].any(axis=1))
        start, which = start[free], which[free]
        kept = _leftmost(start, length)
        start, which = start[kept], which[kept]
        taken[spread(start, np.full(len(start), length))] = True
        counted = ~np.array([one.is_exception for one in rivals])[which]
        weight = np.array([one.weight for one in rivals])[which]
        won.append(Places(start[counted], np.full(int(counted.sum()), length), weight[counted]))
    return Places.joined(won)


def _leftmost(start: np.ndarray, length: int) -> np.ndarray:
    """(places,) bool: those left when each takes its tokens from left to right; `start` ascends, the
    first of equal ones wins."""
    kept = np.ones(len(start), dtype=bool)
    free_from = 0
    # only places that touch a neighbour are walked through, all others stand alone
    near = np.flatnonzero(np.diff(start) < length)
    for number in np.unique(np.concatenate((near, near + 1))):
        kept[number] = start[number] >= free_from
        if kept[number]:
            free_from = start[number] + length
    return kept
