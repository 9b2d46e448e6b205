"""Collocates: the terms that occur near a node more often than chance would have it."""

from collections.abc import Mapping

import numpy as np

from millstone.analyses.collocates.measures import MEASURES, Cooccurrence
from millstone.analyses.collocates.near import Near, near_of
from millstone.analyses.collocates.settings import CollocatesSettings
from millstone.core.base.arrays import begins, unique_counts
from millstone.core.corpus.corpus import Corpus, group_codes, noun_of
from millstone.core.matches.matches import Matches, documents_of, reach
from millstone.core.matches.term_matches import CountedTokens
from millstone.core.statistics.ranks import ranking
from millstone.core.tables.table import Table
from millstone.core.terms.counts import Counts
from millstone.core.terms.term_map import TermMap

MOSTLY = 0.5
"""A collocate of which one document has so much is noted."""


def collocates(
    corpus: Corpus,
    term_map: TermMap,
    counts: Counts,
    nodes: Mapping[str, Matches],
    settings: CollocatesSettings | None = None,
    counted: CountedTokens | None = None,
    every: bool = False,
) -> Table:
    """The terms that occur near each node more often than expected, in each group.

    Parameters
    ----------
    corpus : Corpus
        From an ordered scan.
    term_map : TermMap
        Of the tokens that are counted; a form that is left out keeps its place, and is not a collocate.
    counts : Counts
        Of these terms.
    nodes : mapping
        Name -> places.
    settings : CollocatesSettings, optional
    counted : CountedTokens, optional
        Where phrases count as one token, these tokens; a phrase is near a place where all of its words are.
    every : bool
        Whether it is more often than expected or not.

    Returns
    -------
    Table
        ``group, node, collocate, side, together, freq, expected, log_dice, ll, mi, t_score, cooccurrence_docs``, the
        measures that were asked for, and ``note``; ranked within group, node and side.

    Notes
    -----
    W is the tokens that lie in the span of any place, each counted once, those of a place itself only if they lie in
    the span of another; N all word tokens of the group; ``expected = freq W / N``.
    """
    settings = settings or CollocatesSettings()
    codes = group_codes(corpus.documents, corpus.groups)
    near = {name: near_of(corpus, places, settings, counted) for name, places in nodes.items()}
    tables = [
        _GroupCooccurrence(corpus, term_map, counts, codes == number, group).of_node(
            name, side, nodes[name], tokens, settings, every
        )
        for number, group in enumerate(corpus.groups)
        for name, sides in near.items()
        for side, tokens in sides.items()
    ]
    return Table.joined(tables)


def tokens_together(
    corpus: Corpus,
    term_map: TermMap,
    places: Matches,
    term: str,
    side: str,
    settings: CollocatesSettings,
    counted: CountedTokens,
) -> tuple[np.ndarray, Matches]:
    """Each token of a term that is counted near a node: the number of the place nearest to it, and where it stands.

    `places` are those of the node in one group; `side` is a side of the table.
    """
    _, tokens, forms = near_of(corpus, places, settings, counted)[side]
    number = term_map.term_of[forms]
    token = tokens[(number >= 0) & (term_map.terms[np.maximum(number, 0)] == term)]
    end = counted.after[np.searchsorted(counted.first, token)]
    left, right = reach(corpus, places, settings.span, settings.within)
    best, away = np.full(len(token), -1), np.full(len(token), np.iinfo(np.int64).max)
    # the nearest place is one of the few around the token
    at, longest = np.searchsorted(places.start, token), int((end - token).max(initial=0))
    for step in range(-settings.span[1] - 1, settings.span[0] + longest + 1):
        one = np.clip(at + step, 0, max(len(places) - 1, 0))
        before, after = end <= places.start[one], token >= places.end[one]
        fits = (before & (token >= left[one]) & (side != "right")) | (after & (end <= right[one]) & (side != "left"))
        distance = np.where(before, places.start[one] - end, token - places.end[one])
        closer = fits & (distance < away)
        best, away = np.where(closer, one, best), np.where(closer, distance, away)
    order = np.lexsort((token, places.start[best]))
    return best[order], Matches(token, end - token).at(order)


class _GroupCooccurrence:
    """A group of documents, in which collocates are counted."""

    def __init__(self, corpus: Corpus, term_map: TermMap, counts: Counts, in_group: np.ndarray, group: str) -> None:
        self._corpus, self._term_map, self._counts = corpus, term_map, counts
        self._in_group, self._group = in_group, group
        self._freq = counts.part((group,)).freq
        self._size = int(corpus.tokens[in_group].sum())

    def of_node(
        self, node: str, side: str, places: Matches, near: Near, settings: CollocatesSettings, every: bool
    ) -> Table:
        """The collocates of a node."""
        _, starts, _ = self._corpus.sequence
        document = np.searchsorted(starts, near.tokens, side="right") - 1
        term = self._term_map.term_of[near.forms].astype(np.int64)
        here = (term >= 0) & self._in_group[document]
        term, document = term[here], document[here]
        together = np.bincount(term, minlength=len(self._counts.terms))
        window = int(np.diff(np.searchsorted(near.words, starts))[self._in_group].sum())
        f1, size = self._in_group[documents_of(self._corpus, places)].sum(), self._size
        expected = self._freq * (window / max(size, 1))
        fits = together < expected if settings.repelled else together > expected
        wanted = np.flatnonzero((fits | every) & (together >= settings.min_together))
        f12, f2 = together[wanted], self._freq[wanted]
        docs, largest, where = _by_document(term, document, wanted)
        data = Cooccurrence(f12, f2, window, int(f1), size)
        measured = {
            name: measure.of(data)
            for name, measure in MEASURES.items()
            if not measure.column.optional or name in settings.measures or name == settings.rank_by
        }
        columns = {
            "group": self._group,
            "node": node,
            "collocate": np.asarray(self._counts.terms[wanted], dtype=object),
            "side": side,
            "together": f12,
            "freq": f2,
            "expected": data.expected,
            **{name: values for name, values in measured.items() if not MEASURES[name].column.optional},
            "cooccurrence_docs": docs,
            **{name: values for name, values in measured.items() if MEASURES[name].column.optional},
            "note": self._notes(f12, largest, where),
        }
        table = Table(columns)
        strength = np.asarray(table[settings.rank_by], dtype=float)
        least_first = settings.repelled and settings.rank_by != "ll"
        return table.at(ranking(-strength if least_first else strength, f12))

    def _notes(self, f12: np.ndarray, largest: np.ndarray, where: np.ndarray) -> np.ndarray:
        notes = np.full(len(f12), "", dtype=object)
        if self._in_group.sum() < 2:
            return notes
        names, noun = self._corpus.documents["document"], noun_of(self._corpus.documents)
        for row in np.flatnonzero(largest >= MOSTLY * f12).tolist():
            notes[row] = f"one {noun} ({names[where[row]]}) has {100 * largest[row] / f12[row]:.0f} % of it"
        return notes


def _by_document(
    term: np.ndarray, document: np.ndarray, wanted: np.ndarray
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """(wanted,) the documents of each term, the most tokens of it in one of them, and which one that is."""
    number = np.full(int(max(term.max(initial=-1), wanted.max(initial=-1))) + 1, -1, dtype=np.int64)
    number[wanted] = np.arange(len(wanted))
    row, many = number[term], int(document.max(initial=0)) + 1
    pairs, times = unique_counts(row[row >= 0] * many + document[row >= 0])
    of_row, of_document = np.divmod(pairs, many)
    first = np.lexsort((of_document, -times, of_row))
    first = first[begins(of_row[first])]
    return np.bincount(of_row, minlength=len(wanted)), times[first], of_document[first]
