"""The word tree: how the contexts of a node branch, fork by fork."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np

from millstone.analyses.wordtree.settings import WordTreeSettings
from millstone.core.base.arrays import in_sorted, unique, unique_counts
from millstone.core.corpus.corpus import ALL, Corpus, group_codes
from millstone.core.matches.matches import Matches, documents_of
from millstone.core.tables.table import Table

END = "(end)"
_END = -1
_COLUMNS = ["group", "node", "side", "level", "branch", "places", "percent", "docs", "parent"]


def word_tree(
    corpus: Corpus, nodes: Mapping[str, Matches], settings: WordTreeSettings | None = None, pooled: bool = False
) -> Table:
    """The branches of each node in each group.

    Parameters
    ----------
    corpus : Corpus
        From an ordered scan.
    nodes : mapping
        Name -> places.
    settings : WordTreeSettings, optional
    pooled : bool
        One tree of all groups, called ``all``.

    Returns
    -------
    Table
        ``group, node, side, level, branch, places, percent, docs, parent``: a row per branch, each followed by the
        branches of its fork, the widest first. The branches of a fork add up to the branch that they divide.
    """
    settings = settings or WordTreeSettings()
    codes = np.zeros(len(corpus.tokens), dtype=int) if pooled else group_codes(corpus.documents, corpus.groups)
    groups = (ALL,) if pooled else corpus.groups
    sides = ("left", "right") if settings.side == "both" else (settings.side,)
    rows: list[tuple[object, ...]] = []
    for number, group in enumerate(groups):
        for name, places in nodes.items():
            here = places.at(np.flatnonzero(codes[documents_of(corpus, places)] == number))
            for side in sides:
                tree = _Tree(corpus, here, side == "left", settings)
                rows += [(group, name, side, *row) for row, _ in tree.rows()]
    return Table.of_rows(rows, _COLUMNS)


def places_on(
    corpus: Corpus, places: Matches, side: str, parent: str, branch: str, settings: WordTreeSettings
) -> Matches:
    """The places on a branch of a tree: `places` are those of its node in its group."""
    for row, which in _Tree(corpus, places, side == "left", settings).rows():
        if (row[1], row[5]) == (branch, parent):
            return places.at(which)
    return places.at(np.array([], dtype=np.int64))


@dataclass(frozen=True)
class _Branch:
    """Some places that go on alike: their numbers, the words so far, and how many words from the node they are."""

    places: np.ndarray
    words: tuple[str, ...]
    reach: int


class _Tree:
    """The tree of one node on one side."""

    def __init__(self, corpus: Corpus, places: Matches, leftwards: bool, settings: WordTreeSettings) -> None:
        ids, _, breaks = corpus.sequence
        lowered = corpus.lowered
        self._words, self._number, self._ids = lowered.words, lowered.number, ids
        self._leftwards, self._settings = leftwards, settings
        self._places, self._document = places, documents_of(corpus, places)
        sentence = np.searchsorted(breaks, places.start, side="right")
        self._limit = breaks[sentence - 1] if leftwards else breaks[np.minimum(sentence, len(breaks) - 1)]

    def rows(self) -> Iterator[tuple[tuple[object, ...], np.ndarray]]:
        """Level, branch, places, percent, docs and parent, branch by branch, and which places these are."""
        if len(self._places):
            yield from self._fork(_Branch(np.arange(len(self._places)), (), 0), 1)

    def _fork(self, trunk: _Branch, level: int) -> Iterator[tuple[tuple[object, ...], np.ndarray]]:
        following = self._word_at(trunk.places, trunk.reach)
        words, number = unique_counts(following[following != _END])
        widest = np.lexsort((words, -number))
        shown = [at for at in widest[: self._settings.branches].tolist() if number[at] >= self._settings.min_places]
        parent = self._text(trunk.words)
        for at in shown:
            branch = self._grown(trunk, trunk.places[following == words[at]], int(words[at]))
            yield self._row(level, self._text(branch.words[len(trunk.words) :]), branch.places, parent)
            # where all of it has come to an end there is no fork
            if level < self._settings.depth and (self._word_at(branch.places, branch.reach) != _END).any():
                yield from self._fork(branch, level + 1)
        others = trunk.places[(following != _END) & ~in_sorted(following, np.sort(words[shown]))]
        if len(others):
            yield self._row(level, f"({len(words) - len(shown):,} more)", others, parent)
        ended = trunk.places[following == _END]
        if len(ended):
            yield self._row(level, END, ended, parent)

    def _grown(self, trunk: _Branch, places: np.ndarray, word: int) -> _Branch:
        """A branch with all the words that its places share."""
        words, reach = [*trunk.words, self._words[word]], trunk.reach + 1
        while True:
            following = self._word_at(places, reach)
            if following[0] == _END or (following != following[0]).any():
                return _Branch(places, tuple(words), reach)
            words.append(self._words[following[0]])
            reach += 1

    def _word_at(self, places: np.ndarray, reach: int) -> np.ndarray:
        """The number of the word so far from each place, _END beyond its sentence."""
        if self._leftwards:
            at = self._places.start[places] - 1 - reach
            inside = at >= self._limit[places]
        else:
            at = self._places.end[places] + reach
            inside = at < self._limit[places]
        return np.where(inside, self._number[self._ids[np.where(inside, at, 0)]], _END)

    def _text(self, words: tuple[str, ...]) -> str:
        return " ".join(words[::-1] if self._leftwards else words)

    def _row(self, level: int, branch: str, places: np.ndarray, parent: str) -> tuple[tuple[object, ...], np.ndarray]:
        docs = len(unique(self._document[places]))
        return (level, branch, len(places), 100 * len(places) / len(self._places), docs, parent), places
