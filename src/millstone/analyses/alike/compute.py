"""Words used alike: those whose neighbours are the neighbours of an expression."""

from collections.abc import Collection, Iterator, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np

from millstone.analyses.alike.settings import AlikeSettings
from millstone.core.base.arrays import begins, unique
from millstone.core.corpus.corpus import Corpus
from millstone.core.corpus.documents import as_objects
from millstone.core.matches.matches import Matches
from millstone.core.statistics.ranks import ranking
from millstone.core.tables.table import Table
from millstone.core.terms.term_map import TermMap

COLUMNS = ("group", "node", "rank", "term", "freq", "similarity", "shared_contexts", "contexts")
FARTHEST = 2
SMOOTHING = 0.75
"""The power of the frequencies of contexts."""
EXPLAINED = 1000
"""So many of the most alike terms have their contexts listed."""
_SHOWN = 5


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


def alike(
    corpus: Corpus,
    term_map: TermMap,
    nodes: Mapping[str, Matches],
    groups: Mapping[str, np.ndarray],
    settings: AlikeSettings | None = None,
) -> Table:
    """The terms that are used like some expressions.

    Parameters
    ----------
    corpus : Corpus
        From an ordered scan, D documents.
    term_map : TermMap
        Of this corpus.
    nodes : mapping
        Name -> places.
    groups : mapping
        Name -> (D,) bool: a separate space is made of these documents.
    settings : AlikeSettings, optional

    Returns
    -------
    Table
        ``group, node, rank, term, freq, similarity, shared_contexts, contexts``: the kept terms that share a context,
        the most alike first; nothing for a node with fewer places than ``--min-freq``.

    References
    ----------
    Levy, O., Goldberg, Y. & Dagan, I. (2015). Improving distributional similarity with lessons learned from word
    embeddings.
    """
    settings = settings or AlikeSettings()
    starts = corpus.sequence[1]
    tables = [Table(dict.fromkeys(COLUMNS, as_objects([])))]
    for group, units in groups.items():
        in_group = np.repeat(units, np.diff(starts))
        space = Space(corpus, term_map, units)
        kept = space.is_kept(term_map)
        for name, every in nodes.items():
            places = every.at(np.flatnonzero(in_group[every.start]))
            if len(places) < settings.min_freq:
                continue
            tables.append(_of_node(space, places, kept, settings).with_columns({"group": group, "node": name}))
    return Table.joined(tables).only(COLUMNS)


def overlap_by_chance(
    corpus: Corpus,
    term_map: TermMap,
    nodes: Mapping[str, Matches],
    pair: tuple[np.ndarray, np.ndarray],
    most: int,
    draws: int,
    settings: AlikeSettings,
) -> dict[str, float]:
    """How many of the most alike terms two random halves of the same texts have in common, on the average.

    Parameters
    ----------
    corpus, term_map, nodes
        As in `alike`.
    pair : tuple of ndarray
        (D,) bool each: the documents of two groups, which are put together and divided anew in the same numbers.
    most : int
        How many terms of each half are compared.
    draws : int
        How often the texts are divided.
    settings : AlikeSettings

    Returns
    -------
    dict
        Node -> mean number of terms that are the same; none where a half never has enough places.
    """
    starts, every = corpus.sequence[1], np.flatnonzero(pair[0] | pair[1])
    chance, found = np.random.default_rng(1), {name: list[int]() for name in nodes}
    for _ in range(draws):
        in_first = np.zeros(len(pair[0]), dtype=bool)
        in_first[chance.permutation(every)[: int(pair[0].sum())]] = True
        first: dict[str, set[int]] = {}
        for half in (in_first, (pair[0] | pair[1]) & ~in_first):
            space, in_half = Space(corpus, term_map, half), np.repeat(half, np.diff(starts))
            kept = space.is_kept(term_map)
            for name, places in nodes.items():
                own = places.at(np.flatnonzero(in_half[places.start]))
                if len(own) < settings.min_freq:
                    continue
                terms = set(_ranked(space, own, kept, settings)[0][:most].tolist())
                if half is in_first:
                    first[name] = terms
                elif name in first:
                    found[name].append(len(terms & first[name]))
    return {name: float(np.mean(numbers)) for name, numbers in found.items() if numbers}


def _ranked(
    space: Space, places: Matches, kept: np.ndarray, settings: AlikeSettings
) -> tuple[np.ndarray, np.ndarray, np.ndarray, Mapping[int, np.ndarray]]:
    """The words that are used like a node, the most alike first; of all words similarity and shared contexts."""
    weights = space.weights(space.contexts_of(places))
    similarity, shared = space.similarities(weights)
    wanted = kept & (space.freq >= settings.min_freq) & (shared > 0) & (similarity > 0)
    wanted[space.words_of(places)] = False
    rows = np.flatnonzero(wanted)
    return rows[ranking(similarity[rows], space.freq[rows])], similarity, shared, weights


def _of_node(space: Space, places: Matches, kept: np.ndarray, settings: AlikeSettings) -> Table:
    rows, similarity, shared, weights = _ranked(space, places, kept, settings)
    explained = np.zeros(len(space.words), dtype=bool)
    explained[rows[:EXPLAINED]] = True
    texts = _contexts(space, space.products(weights, explained), space.adjoining(places))
    return Table(
        {
            "rank": np.arange(1, len(rows) + 1),
            "term": np.array(space.words, dtype=object)[rows],
            "freq": space.freq[rows],
            "similarity": similarity[rows],
            "shared_contexts": shared[rows],
            "contexts": [texts.get(row, "") for row in rows.tolist()],
        }
    )


def _contexts(space: Space, products: Table, adjoining: Collection[tuple[int, int, int]]) -> dict[int, str]:
    """Of each word its contexts that weigh most, as one reads them."""
    word = products["word"]
    order = np.lexsort((-products["product"], word))
    is_first = begins(word[order])
    # how far behind the first of its word each of them comes
    behind = np.arange(len(order)) - np.flatnonzero(is_first)[np.cumsum(is_first) - 1]
    found: dict[int, list[tuple[int, int]]] = {}
    for row in products.at(order[behind < _SHOWN]).rows():
        found.setdefault(row["word"], []).append((row["distance"], row["context"]))
    return {one: "; ".join(_readable(space.words, own, adjoining)) for one, own in found.items()}


def _readable(
    words: Sequence[str], contexts: Sequence[tuple[int, int]], adjoining: Collection[tuple[int, int, int]]
) -> Iterator[str]:
    """``the _``, ``_ of the``, ``at ... _``: neighbours that adjoin in one string, each context once."""
    listed: set[tuple[int, int]] = set()
    for distance, context in contexts:
        if (distance, context) in listed:
            continue
        side, is_near = (1 if distance > 0 else -1), abs(distance) == 1
        others = [other for way, other in contexts if way == (2 * side if is_near else side)]
        pairs = [(context, other) if is_near else (other, context) for other in others]
        joined = next((pair for pair in pairs if (side, *pair) in adjoining), None)
        if joined is not None:
            listed |= {(side, joined[0]), (2 * side, joined[1])}
            parts = [words[one] for one in joined]
        else:
            listed.add((distance, context))
            parts = [words[context]] if is_near else ["...", words[context]]
        yield " ".join(["_", *parts] if side > 0 else [*reversed(parts), "_"])
