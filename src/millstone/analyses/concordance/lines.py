"""The lines of a concordance: places in reading order, drawn, sorted, and cut out of their texts."""

import math
import re
from bisect import bisect_left, bisect_right
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from millstone.analyses.concordance.joined_texts import JoinedTexts
from millstone.core.corpus.corpus import Corpus, group_codes
from millstone.core.matches.matches import Matches, documents_of

SENTENCE, PARAGRAPH, DOCUMENT = "sentence", "paragraph", "document"
_WORDS_COMPARED = 12
_BLANK_LINE = re.compile(r"\n[^\S\n]*\n|\r\n[^\S\r\n]*\r\n|\r[^\S\r]*\r|[\x85\u2028\u2029]")
# after it a sentence begins without a blank; quotation marks that close may follow
_IDEOGRAPHIC_STOP = re.compile(r"[^\s。！？]*[。！？]+[」』）】》〉”’]*")


@dataclass(frozen=True)
class Lines:
    """L lines: the number of each (1 the first that is read), its node, its place and its document, (L,) each."""

    number: np.ndarray
    node: np.ndarray
    places: Matches
    document: np.ndarray

    def __len__(self) -> int:
        return len(self.number)

    def at(self, which: np.ndarray) -> "Lines":
        """Some of them, in that order."""
        return Lines(self.number[which], self.node[which], self.places.at(which), self.document[which])


def lines_of(corpus: Corpus, nodes: Mapping[str, Matches]) -> Lines:
    """All places of all nodes, numbered in the order in which texts are read."""
    start = np.concatenate([one.start for one in nodes.values()]).astype(np.int64)
    length = np.concatenate([one.length for one in nodes.values()]).astype(np.int64)
    node = np.repeat(np.arange(len(nodes)), [len(one) for one in nodes.values()])
    order = np.lexsort((node, start))
    places = Matches(start[order], length[order])
    return Lines(np.arange(1, len(order) + 1), node[order], places, documents_of(corpus, places))


def drawn(lines: Lines, number: int, seed: int) -> Lines:
    """So many of the lines, drawn at random without replacement, in their order; all where there are no more."""
    if not number or number >= len(lines):
        return lines
    return lines.at(np.sort(np.random.default_rng(seed).choice(len(lines), number, replace=False)))


def in_order(corpus: Corpus, lines: Lines, keys: Sequence[str], seed: int = 1) -> Lines:
    """The lines sorted by one key after the other; equal ones stay in reading order.

    Parameters
    ----------
    corpus : Corpus
    lines : Lines
    keys : sequence of str
        ``left``, ``right`` (word by word from the place outwards, case-blind), ``found``, ``document`` (as they are
        read), ``random``, ``group`` in the order of the groups, or a field of the documents.
    seed : int
        Of ``random``.
    """
    columns: list[np.ndarray] = []
    for key in keys:
        columns += _key(corpus, lines, key, seed)
    # the last column that is given to the sort counts most
    return lines.at(np.lexsort([lines.number, *reversed(columns)])) if columns else lines


def _key(corpus: Corpus, lines: Lines, key: str, seed: int) -> list[np.ndarray]:
    if key == "left":
        return [_words_at(corpus, lines, lines.places.start - step) for step in range(1, _WORDS_COMPARED + 1)]
    if key == "right":
        return [_words_at(corpus, lines, lines.places.end + step) for step in range(_WORDS_COMPARED)]
    if key == "found":
        steps = range(int(lines.places.length.max(initial=0)))
        at = [lines.places.start + step for step in steps]
        return [np.where(one < lines.places.end, _words_at(corpus, lines, one), -1) for one in at]
    if key == "random":
        return [np.random.default_rng(seed).permutation(len(lines))]
    return [lines.number if key == DOCUMENT else _rank_of(corpus, key)[lines.document]]


def _rank_of(corpus: Corpus, field: str) -> np.ndarray:
    """(D,) the rank of each document by a field: groups in their order, numbers as numbers, text case-blind."""
    if field == "group":
        return group_codes(corpus.documents, corpus.groups)
    cells = [str(cell).strip() for cell in corpus.documents[field].tolist()]
    numbers = list(map(_number, cells))
    is_of_numbers = all(number is not None for number, cell in zip(numbers, cells, strict=True) if cell)
    # what is empty comes last among numbers, and first among texts
    ranked: list[Any] = (
        [np.inf if one is None else one for one in numbers] if is_of_numbers else list(map(str.casefold, cells))
    )
    place = {value: number for number, value in enumerate(sorted(set(ranked)))}
    return np.array([place[value] for value in ranked], dtype=np.int64)


def _number(cell: str) -> float | None:
    try:
        number = float(cell if "_" not in cell else "")
    except ValueError:
        return None
    return None if math.isnan(number) else number


def _words_at(corpus: Corpus, lines: Lines, at: np.ndarray) -> np.ndarray:
    """(L,) the rank of the word at each position, -1 beyond the document."""
    ids, starts, _ = corpus.sequence
    inside = (at >= starts[lines.document]) & (at < starts[lines.document + 1])
    number = corpus.lowered.number
    return np.where(inside, number[ids[np.where(inside, at, 0)]], -1)


def cut_out(
    texts: JoinedTexts,
    of_text: np.ndarray,
    places: Matches,
    context: str,
    bounds: tuple[np.ndarray, np.ndarray],
    has_single_blanks: bool = False,
) -> list[tuple[str, str, str]]:
    """Places of texts with their contexts, as the texts stand, white space folded.

    Parameters
    ----------
    texts : JoinedTexts
    of_text : ndarray
        (P,) the number of the text of each place.
    places : Matches
        P places among the tokens of these texts.
    context : str
        So many words on each side, or ``sentence``, ``paragraph`` or ``document``.
    bounds : tuple of ndarray
        (P,) the first token of the sentence of each place, and the one after its last; of the document for other
        contexts.
    has_single_blanks : bool
        The texts have no other white space, so that it need not be looked for.

    Returns
    -------
    list of tuple of str
        Left, found and right of each. Where no token follows, the context goes on to the edge of the text.
    """
    text, spans = texts.text, texts.spans
    begin, end = spans[places.start, 0].tolist(), spans[places.end - 1, 1].tolist()
    whole = texts.begin[of_text], texts.end[of_text]
    if context == DOCUMENT:
        edges = [one.tolist() for one in whole]
    elif context == PARAGRAPH:
        edges = _paragraphs(text, begin, end)
    elif context == SENTENCE:
        edges = _with_signs(text, spans, bounds, whole)
    else:
        edges = _words_around(text, spans, places, int(context), bounds, whole)
    tidy = str.strip if has_single_blanks else folded
    return [
        (tidy(text[low:first]), tidy(text[first:after]), tidy(text[after:high]))
        for first, after, low, high in zip(begin, end, *edges, strict=True)
    ]


def _paragraphs(text: str, begin: Sequence[int], end: Sequence[int]) -> list[list[int]]:
    blank = [one.span() for one in _BLANK_LINE.finditer(text)]
    starts, ends = [0, *(after for _, after in blank)], [*(first for first, _ in blank), len(text)]
    # a place may go on beyond a blank line
    return [
        [starts[bisect_right(starts, first) - 1] for first in begin],
        [ends[bisect_left(ends, after)] for after in end],
    ]


def _with_signs(
    text: str, spans: np.ndarray, bounds: tuple[np.ndarray, np.ndarray], whole: tuple[np.ndarray, np.ndarray]
) -> list[list[int]]:
    """Sentences with the signs that stand at their words, and the marks between the sentence before and their own."""
    low, high = [], []
    for first, after, start, stop in zip(*bounds, *whole, strict=True):
        before = max(int(spans[first - 1, 1]) if first else 0, int(start))
        gap = text[before : spans[first, 0]]
        taken = _end_of_sentence(gap) if before > start else 0
        # a blank line parts what stands before it
        blank = max((one.end() for one in _BLANK_LINE.finditer(gap)), default=0)
        low.append(before + max(taken, blank))
        end = int(spans[after - 1, 1])
        following = int(spans[after, 0]) if after < len(spans) else len(text)
        high.append(end + _end_of_sentence(text[end : min(following, int(stop))]))
    return [low, high]


def _end_of_sentence(gap: str) -> int:
    """How many of the signs between two sentences belong to the first: those at its last word."""
    stop = _IDEOGRAPHIC_STOP.match(gap)
    if stop:
        return stop.end()
    return next((place for place, sign in enumerate(gap) if sign.isspace()), len(gap))


def _words_around(
    text: str,
    spans: np.ndarray,
    places: Matches,
    words: int,
    bounds: tuple[np.ndarray, np.ndarray],
    whole: tuple[np.ndarray, np.ndarray],
) -> list[list[int]]:
    """Up to so many words; where there are not so many, to the edge of the text of a document or its part."""
    low, high = places.start - words, places.end - 1 + words
    first_edge = np.maximum(np.where(bounds[0] > 0, spans[bounds[0] - 1, 1], 0), whole[0])
    last_edge = np.minimum(spans[np.minimum(bounds[1], len(spans) - 1), 0], whole[1])
    last_edge = np.where(bounds[1] < len(spans), last_edge, whole[1])
    for row in np.flatnonzero((low <= bounds[0]) & (first_edge > whole[0])).tolist():
        # of a part of a text: the signs at the last word before it belong to the part before
        edge, first = int(first_edge[row]), int(spans[bounds[0][row], 0])
        first_edge[row] = edge + _end_of_sentence(text[edge:first])
    for row in np.flatnonzero((high >= bounds[1] - 1) & (last_edge < whole[1])).tolist():
        end = int(spans[bounds[1][row] - 1, 1])
        last_edge[row] = end + _end_of_sentence(text[end : int(last_edge[row])])
    before = np.where(low > bounds[0], spans[np.maximum(low, 0), 0], first_edge)
    after = np.where(high < bounds[1] - 1, spans[np.minimum(high, len(spans) - 1), 1], last_edge)
    return [before.tolist(), after.tolist()]


def folded(text: str) -> str:
    """A text with its white space folded to single blanks, none at its ends."""
    return " ".join(text.split())
