"""The lines of a concordance: places in reading order, drawn, sorted, and cut out of their texts."""

import re
import unicodedata
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import pandas as pd

from millstone.core.corpus.corpus import Corpus, group_codes
from millstone.core.reading.places import Spans, documents_of
from millstone.core.terms.stages import lowered_of

SENTENCE, PARAGRAPH, DOCUMENT = "sentence", "paragraph", "document"
_WORDS_COMPARED = 12
_BLANK_LINE = re.compile(r"\n[^\S\n]*\n|\r\n[^\S\r\n]*\r\n|\r[^\S\r]*\r|[\x85\u2028\u2029]")


@dataclass(frozen=True)
class Lines:
    """L lines: the number of each (1 the first that is read), its node, its place and its document, (L,) each."""

    number: np.ndarray
    node: np.ndarray
    places: Spans
    document: np.ndarray

    def __len__(self) -> int:
        return len(self.number)

    def at(self, which: np.ndarray) -> "Lines":
        """Some of them, in that order."""
        return Lines(self.number[which], self.node[which], self.places.at(which), self.document[which])


def lines_of(corpus: Corpus, nodes: Mapping[str, Spans]) -> Lines:
    """All places of all nodes, numbered in the order in which texts are read."""
    start = np.concatenate([one.start for one in nodes.values()]).astype(np.int64)
    length = np.concatenate([one.length for one in nodes.values()]).astype(np.int64)
    node = np.repeat(np.arange(len(nodes)), [len(one) for one in nodes.values()])
    order = np.lexsort((node, start))
    places = Spans(start[order], length[order])
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
    values = corpus.documents[field].astype(str).str.strip()
    numbers = pd.to_numeric(values, errors="coerce")
    ranked = numbers if numbers[values != ""].notna().all() else values.str.casefold()
    return np.asarray(ranked.rank(method="dense", na_option="bottom"))


def _words_at(corpus: Corpus, lines: Lines, at: np.ndarray) -> np.ndarray:
    """(L,) the rank of the word at each position, -1 beyond the document."""
    ids, starts, _ = corpus.sequence
    inside = (at >= starts[lines.document]) & (at < starts[lines.document + 1])
    number = lowered_of(corpus).number
    return np.where(inside, number[ids[np.where(inside, at, 0)]], -1)


def cut_out(
    text: str, spans: np.ndarray, first: int, last: int, context: str, bounds: tuple[int, int]
) -> tuple[str, str, str]:
    """A place with its context, as the text stands, white space folded.

    Parameters
    ----------
    text : str
    spans : ndarray
        (tokens, 2) where the tokens of the text begin and end.
    first, last : int
        The first and the last token of the place.
    context : str
        So many words on each side, or ``sentence``, ``paragraph`` or ``document``.
    bounds : tuple of int
        The first token of the sentence, and the one after its last; of the document for other contexts.

    Returns
    -------
    left, found, right : str
        Where no token follows, the context goes on to the edge of the text.
    """
    begin, end = int(spans[first, 0]), int(spans[last, 1])
    if context == DOCUMENT:
        low, high = 0, len(text)
    elif context == PARAGRAPH:
        low = max((found.end() for found in _BLANK_LINE.finditer(text, 0, begin)), default=0)
        after = _BLANK_LINE.search(text, end)
        high = after.start() if after else len(text)
    elif context == SENTENCE:
        low, high = int(spans[bounds[0], 0]), int(spans[bounds[1] - 1, 1])
        # with the quotation marks and stops that stand at the words
        while low and not text[low - 1].isspace():
            low -= 1
        while high < len(text) and not text[high].isspace():
            high += 1
    else:
        words = int(context)
        low = int(spans[first - words, 0]) if first - words > bounds[0] else _edge(text, spans, bounds[0])
        high = int(spans[last + words, 1]) if last + words < bounds[1] - 1 else _end(text, spans, bounds[1])
    return folded(text[low:begin]), folded(text[begin:end]), folded(text[end:high])


def _edge(text: str, spans: np.ndarray, first: int) -> int:
    """Where the text of a document, or of a part of it, begins."""
    return int(spans[first - 1, 1]) if first else 0


def _end(text: str, spans: np.ndarray, after: int) -> int:
    return int(spans[after, 0]) if after < len(spans) else len(text)


def folded(text: str) -> str:
    """A text with its white space folded to single blanks, none at its ends."""
    return " ".join(text.split())


def touches(sign: str, opening: bool) -> bool:
    """Whether a sign stands at the word without a blank: an opening one before it, a closing one or a stop after."""
    category = unicodedata.category(sign) if sign else ""
    return category in (("Ps", "Pi") if opening else ("Pe", "Pf", "Po")) and sign != "&"
