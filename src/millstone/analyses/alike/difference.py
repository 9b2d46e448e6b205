"""Whether a word is used differently in two groups: its contexts in the one beside those in the other."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from millstone.analyses.alike.compute import readable_contexts
from millstone.analyses.alike.settings import AlikeSettings
from millstone.analyses.alike.space import Space
from millstone.analyses.base.groups.notes import TakeNote
from millstone.analyses.base.groups.pairs import ALPHA
from millstone.core.base.arrays import unique_inverse
from millstone.core.base.errors import DataError
from millstone.core.base.wording import listed, numbered
from millstone.core.corpus.corpus import Corpus
from millstone.core.evidence.relabelling import AS_FAR, Relabelling, on_sides
from millstone.core.evidence.sampling import SamplingUnits
from millstone.core.matches.matches import Matches, documents_of
from millstone.core.matrix.totals import column_sums
from millstone.core.statistics.contingency import log_likelihood
from millstone.core.statistics.significance import adjusted
from millstone.core.tables.table import Table
from millstone.core.terms.term_map import TermMap

COLUMNS = (
    *("target", "reference", "node", "freq_target", "freq_reference", "difference", "chance", "chance_high", "p"),
    *("p_adjusted", "contexts_target", "contexts_reference"),
)
SAMPLES = 20
"""So often the occurrences of the larger side are drawn down to as many as the smaller has."""
MOST_OF_SIDE = 2000
"""More occurrences of a side than this are not looked at at once."""
_SHOWN = 5
_HIGH = 0.95


@dataclass(frozen=True)
class _Pair:
    """Two groups whose contexts are compared, and the ways to put their sampling units on the sides.

    Attributes
    ----------
    names : tuple of str
        The target and the reference.
    side : ndarray
        (D,) 0 for documents of the target, 1 for those of the reference, -1 for others.
    row : ndarray
        (D,) the row among the labels of each document's unit, on its side; -1 for others.
    labels : Relabelling
        The ways to put the units on the sides.
    space : Space
        Of the documents of both.
    ways : list of tuple
        The labels that are seen, then those that are drawn: (rows,) bool whether a unit is on the first side; and
        (words of the space,) bool which of them both sides have then.
    """

    names: tuple[str, str]
    side: np.ndarray
    row: np.ndarray
    labels: Relabelling
    space: Space
    ways: list[tuple[np.ndarray, np.ndarray]]


@dataclass(frozen=True)
class _Occurrences:
    """The occurrences of a node in both groups, each with its contexts.

    Attributes
    ----------
    row : ndarray
        (occurrences,) the row among the labels of the unit and the side of each.
    contexts : ndarray
        (occurrences, distances) the number of each context, -1 where there is none.
    distance, word : ndarray
        (contexts,) what each context is.
    weight : ndarray
        (contexts,) ln(total / of context), of the space.
    """

    row: np.ndarray
    contexts: np.ndarray
    distance: np.ndarray
    word: np.ndarray
    weight: np.ndarray

    def vectors(self, which: np.ndarray) -> np.ndarray:
        """(samples, contexts) the PPMI of occurrences, (samples, some) of their numbers."""
        size = len(self.word)
        samples = np.arange(len(which))[:, None, None]
        columns = self.contexts[which]
        cells = (samples * (size + 1) + np.where(columns < 0, size, columns)).ravel()
        times = np.bincount(cells, minlength=len(which) * (size + 1)).reshape(len(which), size + 1)[:, :size]
        total = np.maximum(times.sum(axis=1, keepdims=True), 1)
        with np.errstate(divide="ignore"):
            found = np.log(times) + self.weight - np.log(total)
        values: np.ndarray = np.maximum(found, 0)
        return values


def differences(
    corpus: Corpus,
    term_map: TermMap,
    nodes: Mapping[str, Matches],
    pairs: Sequence[tuple[str, str]],
    units: SamplingUnits,
    settings: AlikeSettings,
    note: TakeNote = lambda text: None,
    drawing: Callable[[int, int], None] = lambda done, of: None,
) -> Table:
    """How differently each node is used in two groups, and how differently it would be by chance.

    Parameters
    ----------
    corpus : Corpus
        From an ordered scan, D documents.
    term_map : TermMap
        Of this corpus.
    nodes : mapping
        Name -> places.
    pairs : sequence of tuple
        The groups that are compared, two by two.
    units : SamplingUnits
        Of the documents.
    settings : AlikeSettings
    note : callable
        Receives what to look out for.
    drawing : callable
        Called with the nodes that are done, and how many there are.

    Returns
    -------
    Table
        `COLUMNS`: difference is 1 less the cosine of the node's vectors in the two groups, over contexts whose word
        both have, the node's own aside: PPMI with the marginals of both groups together, the occurrences of the
        larger side drawn down to those of the smaller. ``chance`` is its mean when sampling units are put into the
        groups at random, of samples of the same size, and p how often it is as large then. By p; of equal ones the
        farthest above chance first.

    Raises
    ------
    DataError
        Where no node is frequent enough in both groups.

    References
    ----------
    Levy, O., Goldberg, Y. & Dagan, I. (2015). Improving distributional similarity. Janssen, A. (1997). Studentized
    permutation tests for non-i.i.d. hypotheses.
    """
    rows, rare, smallest = _of_pairs(corpus, term_map, nodes, pairs, units, settings, drawing)
    said = [f"{why}: {listed(map(repr, some))}" for why, some in rare.items() if why]
    if not rows:
        raise DataError(
            f"--difference: nothing can be compared: {'; '.join(said) or 'the words do not occur'}",
            "look for a word that two groups have, give more texts, or type a smaller --min-freq",
        )
    for one in said:
        note(one)
    table = _adjusted(Table.of_rows(rows, [one for one in COLUMNS if one != "p_adjusted"]), settings, smallest, note)
    return _in_order(table, pairs)


def _of_pairs(
    corpus: Corpus,
    term_map: TermMap,
    nodes: Mapping[str, Matches],
    pairs: Sequence[tuple[str, str]],
    units: SamplingUnits,
    settings: AlikeSettings,
    drawing: Callable[[int, int], None],
) -> tuple[list[tuple[object, ...]], dict[str, dict[str, None]], float]:
    """The rows of all nodes and pairs; why others have none -> these nodes; the smallest p that there can be."""
    rows: list[tuple[object, ...]] = []
    rare: dict[str, dict[str, None]] = {}
    smallest = 1.0
    for number, names in enumerate(pairs):
        pair = _pair(corpus, term_map, names, units, settings)
        smallest = min(smallest, max(pair.labels.smallest_p, 1 / (1 + settings.draws)))
        for done, (name, places) in enumerate(nodes.items(), 1):
            found = _of_node(corpus, pair, places, settings)
            if isinstance(found, tuple):
                rows.append((*names, name, *found))
            else:
                rare.setdefault(found, {})[name] = None
            drawing(number * len(nodes) + done, len(nodes) * len(pairs))
    return rows, rare, smallest


def _in_order(table: Table, pairs: Sequence[tuple[str, str]]) -> Table:
    """Rows by pair, then by p, of equal ones the farthest above chance first."""
    p, difference, chance = (np.asarray(table[name], dtype=float) for name in ("p", "difference", "chance"))
    first = {pair: number for number, pair in enumerate(pairs)}
    of_pair = [first[key] for key in zip(table["target"].tolist(), table["reference"].tolist(), strict=True)]
    return table.at(np.lexsort((chance - difference, p, np.array(of_pair))))


def _adjusted(table: Table, settings: AlikeSettings, smallest: float, note: TakeNote) -> Table:
    """The table with p adjusted for its rows; a note where even the `smallest` p that there can be would not pass."""
    p = np.asarray(table["p"], dtype=float)
    p_adjusted = adjusted(p, settings.adjust)
    if not (p_adjusted < ALPHA).any() and smallest * len(p) >= ALPHA:
        note(
            f"no difference passes; the smallest p that can come about is {smallest:.2g}, which adjusted for "
            f"{numbered(len(p), 'row')} one word alone could not pass: look at fewer words, or ask for more --draws"
        )
    return table.with_columns({"p_adjusted": p_adjusted}).only(COLUMNS)


def _pair(
    corpus: Corpus, term_map: TermMap, names: tuple[str, str], units: SamplingUnits, settings: AlikeSettings
) -> _Pair:
    groups = corpus.documents["group"]
    side = np.full(len(groups), -1)
    side[groups == names[0]], side[groups == names[1]] = 0, 1
    row, labels = on_sides(side, units.of)
    space = Space(corpus, term_map, side >= 0)
    number = term_map.stages[-1].values.number
    counts, size = corpus.form_counts, len(space.words)
    documents = np.repeat(np.arange(counts.shape[0]), np.diff(counts.indptr))
    inside = side[documents] >= 0
    cells = row[documents[inside]] * size + number[np.asarray(counts.indices)[inside]].astype(np.int64)
    of, word = np.divmod(np.unique(cells), max(size, 1))
    ways = []
    for label in (labels.seen, *labels.some(settings.draws, settings.seed, 1)):
        on_first = label[:, 0] == 1
        have = (np.bincount(word[on_first[of] == which], minlength=size) > 0 for which in (True, False))
        ways.append((on_first, np.logical_and(*have)))
    return _Pair(names, side, row, labels, space, ways)


def _of_node(corpus: Corpus, pair: _Pair, places: Matches, settings: AlikeSettings) -> tuple[object, ...] | str:
    """The row of a node without its name; or why there is none."""
    of = documents_of(corpus, places)
    inside = np.flatnonzero(pair.side[of] >= 0)
    places, of = places.at(inside), of[inside]
    freq = [int((pair.side[of] == number).sum()) for number in (0, 1)]
    if not all(freq):
        here, there = pair.names if freq[0] else pair.names[::-1]
        return f"in {here}, and not in {there}" if any(freq) else ""
    if min(freq) < settings.min_freq:
        return f"too rare in {pair.names[int(freq[1] < freq[0])]} (--min-freq {settings.min_freq})"
    node = _occurrences(pair, places, of)
    # the same random numbers for every way, so that one that is the way seen has the same value
    most = min(*freq, MOST_OF_SIDE)
    values = np.array([_difference(node, *way, most, settings.seed) for way in pair.ways])
    seen, drawn = values[0], values[1:]
    if np.isnan(seen):
        return f"without a context that {' and '.join(pair.names)} both have the words of"
    # where a side has no occurrence, or no such context, it cannot be said how different they are
    hits = np.isnan(drawn) | (drawn >= seen * AS_FAR)
    known = drawn[~np.isnan(drawn)]
    chance, high = (float(known.mean()), float(np.quantile(known, _HIGH))) if len(known) else (np.nan, np.nan)
    p = float(pair.labels.p(hits.sum(), settings.draws))
    contexts = [_contexts(pair, node, places.at(pair.side[of] == number), number) for number in (0, 1)]
    return (*freq, float(seen), chance, high, p, *contexts)


def _occurrences(pair: _Pair, places: Matches, of: np.ndarray) -> _Occurrences:
    """The occurrences of a node with their contexts, which are numbered.

    The node itself is none: it stands near itself the oftener, the more frequent it is.
    """
    distance, word, which = pair.space.contexts_one_by_one(places)
    others = ~np.isin(word, pair.space.words_of(places))
    distance, word, which = distance[others], word[others], which[others]
    size = len(pair.space.words)
    ways = np.unique(distance)
    place = np.searchsorted(ways, distance)
    keys, number = unique_inverse(place.astype(np.int64) * size + word)
    contexts = np.full((len(places), max(len(ways), 1)), -1, dtype=np.int64)
    contexts[which, place] = number
    at, words = np.divmod(keys, max(size, 1))
    of_context = ways[at] if len(ways) else at
    return _Occurrences(pair.row[of], contexts, of_context, words, pair.space.log_share(of_context, words))


def _difference(node: _Occurrences, on_first: np.ndarray, both: np.ndarray, most: int, seed: int) -> float:
    """1 less the cosine of the two sides, the mean over samples; NaN where a side has no context.

    Where units are drawn, the sides are of other sizes than those seen. Of all of them no more than `most`
    occurrences are looked at: small samples are less alike, whatever they are of.
    """
    first = on_first[node.row]
    sides = [np.flatnonzero(first), np.flatnonzero(~first)]
    most = min(most, *map(len, sides))
    if not most:
        return float("nan")
    samples = SAMPLES if max(map(len, sides)) > most else 1
    chance = np.random.default_rng(seed)
    units = []
    for side in sides:
        whole = len(side) == most
        every = np.broadcast_to(np.arange(most), (samples, most))
        order = every if whole else _some(len(side), most, samples, chance)
        vectors = node.vectors(side[order]) * both[node.word]
        length = np.sqrt((vectors**2).sum(axis=1, keepdims=True))
        units.append(np.divide(vectors, length, out=np.full_like(vectors, np.nan), where=length > 0))
    cosine = (units[0] * units[1]).sum(axis=1)
    known = cosine[~np.isnan(cosine)]
    return float(1 - known.mean()) if len(known) else float("nan")


def _some(number: int, most: int, samples: int, chance: np.random.Generator) -> np.ndarray:
    """(samples, most) different numbers below `number` in each sample."""
    return np.argpartition(chance.random((samples, number)), most - 1, axis=1)[:, :most]


def _contexts(pair: _Pair, node: _Occurrences, places: Matches, side: int) -> str:
    """The contexts that are most distinctly those of one side, by log-likelihood, as one reads them."""
    on_first, both = pair.ways[0]
    first = on_first[node.row]
    times = [
        np.bincount(own[own >= 0], minlength=len(node.word))
        for own in (node.contexts[first].ravel(), node.contexts[~first].ravel())
    ]
    own, other = (times[side], times[1 - side])
    n = [int(first.sum()), int((~first).sum())]
    here, there = n[side], n[1 - side]
    wanted = np.flatnonzero((own * there > other * here) & both[node.word])
    evidence = log_likelihood(own[wanted].astype(float), other[wanted].astype(float), here, there)
    order = wanted[np.lexsort((node.word[wanted], -np.round(evidence, 9)))][:_SHOWN]
    chosen = [(int(node.distance[one]), int(node.word[one])) for one in order.tolist()]
    return "; ".join(readable_contexts(pair.space.words, chosen, pair.space.adjoining(places)))


def commonest_terms(corpus: Corpus, term_map: TermMap, number: int) -> dict[str, Matches]:
    """The places of the commonest terms of all texts.

    Parameters
    ----------
    corpus : Corpus
        From an ordered scan.
    term_map : TermMap
        Of this corpus.
    number : int
        How many terms; of equally common ones the first in code-point order.

    Returns
    -------
    dict
        Term -> its places.
    """
    ids = corpus.sequence[0]
    freq = np.zeros(len(term_map.terms), dtype=np.int64)
    kept = term_map.term_of >= 0
    np.add.at(freq, term_map.term_of[kept], np.asarray(column_sums(corpus.form_counts))[kept])
    chosen = np.argsort(-freq, kind="stable")[:number]
    # the place among the chosen of each form's term
    place = np.full(len(term_map.terms) + 1, -1, dtype=np.int32)
    place[chosen] = np.arange(len(chosen))
    of_form = np.where(kept, place[np.where(kept, term_map.term_of, -1)], -1)
    of_token = of_form[ids]
    at = np.flatnonzero(of_token >= 0)
    order = at[np.argsort(of_token[at], kind="stable")]
    ends = np.cumsum(np.bincount(of_token[at], minlength=len(chosen)))
    parts = np.split(order, ends[:-1])
    names = [str(term_map.terms[one]) for one in chosen.tolist()]
    return {
        name: Matches(start, np.ones(len(start), dtype=np.int64)) for name, start in zip(names, parts, strict=True)
    }
