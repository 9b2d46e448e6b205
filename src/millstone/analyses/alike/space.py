"""The space of contexts: how often each word occurs in each context, and how alike words are by that."""

from collections.abc import Iterator, Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np

from millstone.core.base.arrays import begins, unique
from millstone.core.corpus.corpus import Corpus
from millstone.core.matches.matches import Matches
from millstone.core.tables.table import Table
from millstone.core.terms.term_map import TermMap

FARTHEST = 2
SMOOTHING = 0.75
"""The power of the frequencies of contexts."""


@dataclass(frozen=True)
class _Pairs:
    """P different pairs of words at one distance: the first, the one after it, and how often they do so."""

    first: np.ndarray
    after: np.ndarray
    times: np.ndarray


class Space:
    """How often each word occurs in each context: some word at the distance -2, -1, 1 or 2 in the same sentence.

    Parameters
    ----------
    corpus : Corpus
        From an ordered scan.
    term_map : TermMap
        Of this corpus; what it leaves out is a context all the same.
    units : ndarray
        (D,) bool, the documents that are looked at.
    """

    def __init__(self, corpus: Corpus, term_map: TermMap, units: np.ndarray) -> None:
        self.words, number = term_map.stages[-1].values.words, term_map.stages[-1].values.number
        ids, starts, breaks = corpus.sequence
        self._number = number
        self._ids = number[ids]
        # of each token how many sentences began before it; tokens of other documents are in none
        begins_one = np.zeros(len(ids) + 1, dtype=bool)
        begins_one[breaks] = begins_one[starts] = True
        sentence = np.cumsum(begins_one[:-1], dtype=np.int32)
        if not units.all():
            sentence[~np.repeat(units, np.diff(starts))] = -1
        self._sentence = sentence
        size = len(self.words)
        self.freq = np.bincount(self._ids if units.all() else self._ids[sentence >= 0], minlength=size)
        # arrays are sorted without the interpreter
        with ThreadPoolExecutor() as pool:
            distances = range(1, FARTHEST + 1)
            self._pairs = dict(zip(distances, pool.map(self._at, distances), strict=True))
        self.of_words, self._of_contexts = np.zeros(size), {}
        for distance, pairs in self._pairs.items():
            ends = pairs.first, pairs.after
            before, behind = (np.bincount(one, weights=pairs.times, minlength=size) for one in ends)
            # what follows `first` is its context at +distance, what precedes `after` one at -distance
            self.of_words += before + behind
            self._of_contexts[distance], self._of_contexts[-distance] = behind, before
        self.total = float(self.of_words.sum())
        # contexts are raised to a power, so that rare ones weigh less, and brought back to the same total
        raised = {distance: times**SMOOTHING for distance, times in self._of_contexts.items()}
        scale = self.total / max(sum(float(one.sum()) for one in raised.values()), 1.0)
        with np.errstate(divide="ignore"):
            self._log_words = np.log(self.of_words)
            self._log_contexts = {distance: np.log(one * scale) for distance, one in raised.items()}

    def _at(self, distance: int) -> _Pairs:
        one, other = self._sentence[:-distance], self._sentence[distance:]
        keys = self._ids[:-distance].astype(np.int64)
        keys *= len(self.words)
        keys += self._ids[distance:]
        keys = keys[(one == other) & (one >= 0)]
        keys.sort()
        at = np.flatnonzero(begins(keys))
        first, after = (one.astype(np.int32) for one in np.divmod(keys[at], max(len(self.words), 1)))
        return _Pairs(first, after, np.diff(np.append(at, len(keys))).astype(np.int32))

    def is_kept(self, term_map: TermMap) -> np.ndarray:
        """(words,) bool: which of them are terms."""
        kept = np.zeros(len(self.words), dtype=bool)
        kept[self._number[term_map.term_of >= 0]] = True
        return kept

    def words_of(self, places: Matches) -> np.ndarray:
        """The words that are a place by themselves."""
        return unique(self._ids[places.start[places.length == 1]])

    def contexts_one_by_one(self, places: Matches) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """The contexts of places: of each the distance, the number of the word, and the number of the place."""
        found = []
        for distance in self._of_contexts:
            edge = places.start if distance < 0 else places.end - 1
            at = edge + distance
            which = np.flatnonzero((at >= 0) & (at < len(self._ids)))
            same = (self._sentence[at[which]] == self._sentence[edge[which]]) & (self._sentence[edge[which]] >= 0)
            which = which[same]
            found.append((np.full(len(which), distance), self._ids[at[which]].astype(np.int64), which))
        distances, words, numbers = (np.concatenate(parts) for parts in zip(*found, strict=True))
        return distances, words, numbers

    def log_share(self, distance: np.ndarray, word: np.ndarray) -> np.ndarray:
        """(contexts,) ln(all contexts / those that are this one), of contexts by distance and word."""
        found = np.zeros(len(word))
        for one, weights in self._log_contexts.items():
            which = distance == one
            found[which] = np.log(self.total) - weights[word[which]]
        return found

    def contexts_of(self, places: Matches) -> dict[int, np.ndarray]:
        """Distance -> (words,) how often each word is there, seen from the edge of a place."""
        found = {}
        for distance in self._of_contexts:
            edge = places.start if distance < 0 else places.end - 1
            at = edge + distance
            inside = (at >= 0) & (at < len(self._ids))
            at, edge = at[inside], edge[inside]
            same = (self._sentence[at] == self._sentence[edge]) & (self._sentence[edge] >= 0)
            found[distance] = np.bincount(self._ids[at[same]], minlength=len(self.words)).astype(float)
        return found

    def adjoining(self, places: Matches) -> set[tuple[int, int, int]]:
        """The pairs of neighbours that occur together at a place: -1 or 1, the nearer word, the farther one."""
        found = set()
        for side in (-1, 1):
            edge = places.start if side < 0 else places.end - 1
            far = edge + 2 * side
            inside = (far >= 0) & (far < len(self._ids))
            far, edge = far[inside], edge[inside]
            same = (self._sentence[far] == self._sentence[edge]) & (self._sentence[edge] >= 0)
            near = self._ids[edge[same] + side]
            found |= {
                (side, one, other) for one, other in zip(near.tolist(), self._ids[far[same]].tolist(), strict=True)
            }
        return found

    def weights(self, times: Mapping[int, np.ndarray]) -> dict[int, np.ndarray]:
        """Distance -> (words,) the PPMI of something with such contexts."""
        total = sum(float(one.sum()) for one in times.values())
        found = {}
        for distance, one in times.items():
            which = np.flatnonzero(one)
            found[distance] = np.zeros(len(one))
            found[distance][which] = self._ppmi(one[which], np.log(max(total, 1.0)), distance, which)
        return found

    def _ppmi(
        self, times: np.ndarray, log_word: np.ndarray | float, distance: int, context: np.ndarray
    ) -> np.ndarray:
        """max(0, ln(times total / (of word, of context))), all (cells,), times above 0."""
        found = np.log(times)
        found += np.log(self.total)
        found -= log_word
        found -= self._log_contexts[distance][context]
        values: np.ndarray = np.maximum(found, 0, out=found)
        return values

    def similarities(self, node: Mapping[int, np.ndarray]) -> tuple[np.ndarray, np.ndarray]:
        """How alike each word is to a node.

        Parameters
        ----------
        node : mapping
            Its `weights`.

        Returns
        -------
        similarity : ndarray
            (words,) cosine, 0 to 1.
        shared : ndarray
            (words,) contexts in which both are above 0.
        """
        size = len(self.words)
        dot, squares, shared = np.zeros(size), np.zeros(size), np.zeros(size, dtype=np.int64)
        for distance, word, context, times in self._sides():
            own = self._ppmi(times, self._log_words[word], distance, context)
            both = own * node[distance][context]
            own *= own
            squares += np.bincount(word, weights=own, minlength=size)
            which = np.flatnonzero(both)
            dot += np.bincount(word[which], weights=both[which], minlength=size)
            shared += np.bincount(word[which], minlength=size)
        length = np.sqrt(squares) * np.sqrt(sum(float((one**2).sum()) for one in node.values()))
        similarity = np.divide(dot, length, out=np.zeros(size), where=length > 0)
        return np.clip(similarity, 0, 1), shared

    def products(self, node: Mapping[int, np.ndarray], wanted: np.ndarray) -> Table:
        """``word, distance, context, product`` of each context that `wanted` words, (words,) bool, share with it."""
        found = []
        for distance, words, contexts, every in self._sides():
            here = np.flatnonzero(wanted[words] & (node[distance][contexts] > 0))
            word, context = words[here], contexts[here]
            own = self._ppmi(every[here], self._log_words[word], distance, context)
            columns = {
                "word": word,
                "distance": distance,
                "context": context,
                "product": own * node[distance][context],
            }
            found.append(Table(columns))
        together = Table.joined(found)
        return together.at(together["product"] > 0)

    def _sides(self) -> Iterator[tuple[int, np.ndarray, np.ndarray, np.ndarray]]:
        """Each distance with its words, contexts, and how often a word occurs in a context."""
        for distance, pairs in self._pairs.items():
            yield distance, pairs.first, pairs.after, pairs.times
            yield -distance, pairs.after, pairs.first, pairs.times
