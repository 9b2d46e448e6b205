"""Words used alike: those whose neighbours are the neighbours of an expression."""

from collections.abc import Collection, Iterator, Mapping, Sequence

import numpy as np

from millstone.analyses.alike.settings import AlikeSettings
from millstone.analyses.alike.space import Space
from millstone.core.base.arrays import begins
from millstone.core.corpus.corpus import Corpus
from millstone.core.corpus.documents import as_objects
from millstone.core.matches.matches import Matches
from millstone.core.statistics.ranks import ranking
from millstone.core.tables.table import Table
from millstone.core.terms.term_map import TermMap

COLUMNS = ("group", "node", "rank", "term", "freq", "similarity", "shared_contexts", "contexts")
EXPLAINED = 1000
"""So many of the most alike terms have their contexts listed."""
_SHOWN = 5


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
    return {one: "; ".join(readable_contexts(space.words, own, adjoining)) for one, own in found.items()}


def context_from(text: str, known: Mapping[str, int]) -> dict[int, int]:
    """Read a context as `readable_contexts` writes it.

    Parameters
    ----------
    text : str
        Such as ``_ of the`` or ``at ... _``.
    known : mapping
        Word -> its number.

    Returns
    -------
    dict
        Distance -> the number of the word there; empty for what is no context of these words.
    """
    before, sign, after = f" {text} ".partition(" _ ")
    side = 1 if after.strip() else -1
    words = (after if side > 0 else before).strip()
    if not sign or not words:
        return {}
    far = words.removeprefix("... ") if side > 0 else words.removesuffix(" ...")
    if far != words:
        return {2 * side: known[far]} if far in known else {}
    if words in known:
        return {side: known[words]}
    parts = words.split(" ")
    for at in range(1, len(parts)):
        pair = [" ".join(parts[:at]), " ".join(parts[at:])]
        near, farther = pair if side > 0 else reversed(pair)
        if near in known and farther in known:
            return {side: known[near], 2 * side: known[farther]}
    return {}


def readable_contexts(
    words: Sequence[str], contexts: Sequence[tuple[int, int]], adjoining: Collection[tuple[int, int, int]]
) -> Iterator[str]:
    """``the _``, ``_ of the``, ``at ... _``: neighbours that adjoin in one string, each context once.

    Parameters
    ----------
    words : sequence of str
        The words of a space.
    contexts : sequence of tuple
        The distance and the number of a word.
    adjoining : collection of tuple
        The pairs of neighbours that occur together, as `Space.adjoining` has them.

    Yields
    ------
    str
    """
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
