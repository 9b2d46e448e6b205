"""Near-duplicates: documents that share most of their runs of five words."""

import hashlib
import math
from collections.abc import Iterator, Sequence
from functools import lru_cache

import numpy as np

from millstone.core.base.arrays import unique
from millstone.core.base.light_dataclass import frozen
from millstone.core.corpus.corpus import Corpus, group_codes

SHINGLE = 5
"""So many words in a row are a shingle."""
PERMUTATIONS = 128
"""So many smallest values stand for the shingles of a document."""
_FOUND = 0.99
_BATCH = 1_000_000
_ALL_PAIRS, _FIRST = 40, 8
_SEED = 20_31


@frozen
class NearDuplicates:
    """The documents that are nearly the text of another in their group, and which of them stay.

    Attributes
    ----------
    cluster : ndarray
        (documents,) int64, the number of the documents that are linked to each other; -1 for one that is alone.
    kept : ndarray
        (documents,) bool: false for one that shares so much with one that is kept.
    in_common : ndarray
        (documents,) float, the Jaccard similarity with the kept one that it is most like; NaN for one that is kept.
    across : int
        How many documents are as like one of another group.
    """

    cluster: np.ndarray
    kept: np.ndarray
    in_common: np.ndarray
    across: int


def near_duplicates(corpus: Corpus, least: float = 0.5, order: np.ndarray | None = None) -> NearDuplicates:
    """Find the documents that are nearly the text of another one.

    Parameters
    ----------
    corpus : Corpus
        From an ordered scan, D documents.
    least : float
        The Jaccard similarity of the sets of their shingles, in any case, from which two are near-duplicates.
    order : ndarray, optional
        (D,) of which the largest stays in a cluster; else the longest does, of equal ones the first.

    Returns
    -------
    NearDuplicates
        Every pair is verified; of pairs at `least`, 99 in 100 are met, of more alike ones nearly all.

    References
    ----------
    Broder, A. Z. (1997). On the resemblance and containment of documents.
    """
    shingles = _Shingles(corpus)
    links = _Links(len(corpus.documents), shingles, least, group_codes(corpus.documents, corpus.groups))
    for bucket in _buckets(shingles, least):
        links.join(bucket)
    return _chosen(links, corpus.tokens if order is None else order)


class _Shingles:
    """The shingles of documents as numbers, made when they are asked for."""

    def __init__(self, corpus: Corpus) -> None:
        self._ids, self.starts, _ = corpus.sequence
        words = corpus.lowered
        of_word = [
            int.from_bytes(hashlib.blake2b(word.encode("utf-8", "surrogatepass"), digest_size=8).digest(), "little")
            for word in words.words
        ]
        self._hash_of = np.array([*of_word, 0], dtype=np.uint64)[words.number]
        self.of = lru_cache(maxsize=4096)(self._of)

    def _of(self, document: int) -> np.ndarray:
        """The shingles of a document, ascending and different."""
        return unique(self.between(document, document + 1)[0])

    def between(self, first: int, end: int) -> tuple[np.ndarray, np.ndarray]:
        """The shingles of some documents in a row, and where those of each begin; a shorter text is one shingle."""
        starts = np.asarray(self.starts[first : end + 1], dtype=np.int64)
        lengths = np.diff(starts)
        own = self._hash_of[self._ids[starts[0] : starts[-1]]]
        number = np.where(lengths >= SHINGLE, lengths - SHINGLE + 1, np.minimum(lengths, 1))
        begins = np.concatenate(([0], np.cumsum(number)))
        document = np.repeat(np.arange(len(lengths)), number)
        place = starts[document] - starts[0] + np.arange(begins[-1]) - begins[document]
        last = starts[document + 1] - starts[0]
        found = np.zeros(len(place), dtype=np.uint64)
        for step in range(SHINGLE):
            at = place + step
            word = np.where(at < last, own[np.minimum(at, max(len(own) - 1, 0))], np.uint64(0))
            found = _mixed(found ^ word)
        return found, begins[:-1]


def _mixed(values: np.ndarray) -> np.ndarray:
    """Numbers in which every bit depends on every bit of the given ones (Steele, Lea & Flood 2014)."""
    values = values + np.uint64(0x9E3779B97F4A7C15)
    values = (values ^ (values >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
    values = (values ^ (values >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
    return np.asarray(values ^ (values >> np.uint64(31)))


def rows_for(least: float) -> int:
    """How many values must agree at once, so that 99 in 100 pairs of this similarity do so somewhere.

    Parameters
    ----------
    least : float

    Returns
    -------
    int
        The most of which that holds; the fewer, the more pairs are looked at in vain.
    """
    rows = [n for n in range(1, 33) if 1 - (1 - least**n) ** (PERMUTATIONS // n) >= _FOUND]
    return max(rows, default=1)


def _buckets(shingles: _Shingles, least: float) -> Iterator[np.ndarray]:
    """Documents that agree in some smallest values, the numbers of each set ascending."""
    rows = rows_for(least)
    keys = _keys(shingles, rows)
    filled = np.diff(np.asarray(shingles.starts)) > 0
    for one in keys:
        order = np.argsort(one, kind="stable")
        order = order[filled[order]]
        edges = np.flatnonzero(np.diff(one[order])) + 1
        for bucket in np.split(order, edges) if len(order) else ():
            if len(bucket) > 1:
                yield bucket


def _keys(shingles: _Shingles, rows: int) -> np.ndarray:
    """(bands, documents) uint64: of each band of smallest values a number for its values."""
    bands = PERMUTATIONS // rows
    chance = np.random.default_rng(_SEED)
    signs = chance.integers(0, 2**63, (bands * rows, 2), dtype=np.uint64) * np.uint64(2) + np.uint64(1)
    starts = np.asarray(shingles.starts)
    documents = len(starts) - 1
    found = np.zeros((bands, documents), dtype=np.uint64)
    first = 0
    while first < documents:
        end = max(first + 1, int(np.searchsorted(starts, starts[first] + _BATCH, side="right")) - 1)
        values, begins = shingles.between(first, end)
        filled = np.flatnonzero(np.diff(starts[first : end + 1]) > 0)
        if len(filled):
            for number, (flip, times) in enumerate(signs):
                smallest = np.minimum.reduceat((values ^ flip) * times >> np.uint64(32), begins[filled])
                band = found[number // rows, first:end]
                band[filled] = _mixed(band[filled] ^ smallest)
        first = end
    return found


class _Links:
    """Pairs of documents that were verified, and the documents that hang together by them."""

    def __init__(self, documents: int, shingles: _Shingles, least: float, group: np.ndarray) -> None:
        self.shingles, self.least, self.group = shingles, least, group
        self.parent = list(range(documents))
        self.across: set[int] = set()
        self._seen: set[tuple[int, int]] = set()

    def root(self, document: int) -> int:
        """The document that stands for all that hang together with one."""
        while self.parent[document] != document:
            self.parent[document] = self.parent[self.parent[document]]
            document = self.parent[document]
        return document

    def join(self, bucket: np.ndarray) -> None:
        """Link the documents of a bucket that are alike; of a large one, those like one of the first."""
        numbers = bucket.tolist()
        for at, one in enumerate(numbers):
            if len(numbers) > _ALL_PAIRS and at >= _FIRST:
                break
            for other in numbers[at + 1 :]:
                self._compare(one, other)

    def _compare(self, one: int, other: int) -> None:
        is_own = self.group[one] == self.group[other]
        if (is_own and self.root(one) == self.root(other)) or (not is_own and {one, other} <= self.across):
            return
        if (one, other) in self._seen:
            return
        self._seen.add((one, other))
        if jaccard(self.shingles.of(one), self.shingles.of(other)) < self.least:
            return
        if is_own:
            self.parent[max(self.root(one), self.root(other))] = min(self.root(one), self.root(other))
        else:
            self.across |= {one, other}


def jaccard(one: np.ndarray, other: np.ndarray) -> float:
    """The share of two sets in common: the size of what both have by that of what either has.

    Parameters
    ----------
    one, other : ndarray
        Ascending and different.

    Returns
    -------
    float
        NaN for two empty sets.
    """
    if not len(one) and not len(other):
        return math.nan
    place = np.searchsorted(one, other)
    common = int((one[np.minimum(place, len(one) - 1)] == other).sum()) if len(one) else 0
    return common / (len(one) + len(other) - common)


def _chosen(links: _Links, order: np.ndarray) -> NearDuplicates:
    """In each cluster the first in order stays, and every other one that is like none that stays."""
    documents = len(links.parent)
    roots = np.array([links.root(one) for one in range(documents)], dtype=np.int64)
    cluster, kept = np.full(documents, -1, dtype=np.int64), np.ones(documents, dtype=bool)
    in_common = np.full(documents, np.nan)
    together = np.argsort(roots, kind="stable")
    edges = np.flatnonzero(np.diff(roots[together])) + 1
    clusters: Sequence[np.ndarray] = [some for some in np.split(together, edges) if len(some) > 1]
    for number, some in enumerate(clusters):
        cluster[some] = number
        staying: list[int] = []
        for one in some[np.argsort(-order[some].astype(float), kind="stable")].tolist():
            shares = [jaccard(links.shingles.of(one), links.shingles.of(other)) for other in staying]
            if shares and max(shares) >= links.least:
                kept[one] = False
            else:
                staying.append(one)
        for one in some[~kept[some]].tolist():
            in_common[one] = max(jaccard(links.shingles.of(one), links.shingles.of(other)) for other in staying)
    return NearDuplicates(cluster, kept, in_common, len(links.across))
