"""The general way from text to tokens: each different piece between white space is cut once by the rule."""

from bisect import bisect_left
from collections.abc import Collection, Iterable, Sequence
from itertools import chain, compress

import numpy as np

from millstone.core.base.arrays import concat_ranges
from millstone.core.corpus.corpus import Document, Token
from millstone.core.matrix.cells import MatrixCells, SparseMatrix, map_cells, remap_columns
from millstone.core.tokenise.token_rules import Cutter, is_mark
from millstone.core.tokenise.words import SENTENCE_END, are_lone_words, normalise, paragraphs, words_of_runs

PARAGRAPH_END = ""
"""Stands among the pieces where a line of nothing but white space is."""

BREAK = -1
_BLOCK = 1 << 20


class Numbering(dict[str | Token, int]):
    """Gives each different key the next number when it is first asked for."""

    def __missing__(self, key: str | Token) -> int:
        number = self[key] = len(self)
        return number


def are_ascii(spelled: bytes, lengths: np.ndarray) -> np.ndarray:
    """(strings,) bool, of strings of so many bytes with one byte between them.

    Parameters
    ----------
    spelled : bytes
        The strings, one byte after each.
    lengths : ndarray
        (strings,) bytes.

    Returns
    -------
    ndarray
    """
    found = np.ones(len(lengths), dtype=bool)
    beyond = np.flatnonzero(np.frombuffer(spelled, dtype=np.uint8) >= 0x80)
    found[np.searchsorted(np.cumsum(lengths + 1), beyond, side="right")] = False
    return found


class PieceTable:
    """The forms and sentence ends in each different run or piece, as arrays.

    ``content[first[p]:first[p + 1]]`` are the form numbers of piece p, BREAK where a sentence ends; the
    last piece is an end of a paragraph.

    Parameters
    ----------
    runs : sequence of str
        Different runs, cut by the rule ``words``; none is the beginning of another's token.
    is_ascii : ndarray
        (runs,) bool.
    pieces : collection of str or Token
        Different pieces and annotated tokens, numbered after the runs.
    cut : callable
        How the pieces are cut.
    marks : bool
        Annotated marks of punctuation are kept.
    """

    def __init__(
        self, runs: Sequence[str], is_ascii: np.ndarray, pieces: Collection[str | Token], cut: Cutter, marks: bool
    ) -> None:
        beyond = np.flatnonzero(~is_ascii)
        lone = is_ascii.copy()
        lone[beyond] = are_lone_words([runs[number] for number in beyond.tolist()])
        # what stands alone needs no dictionary: it is different and in order
        self._words = runs if lone.all() else list(compress(runs, lone.tolist()))
        self._further = Numbering()
        several, lengths = self._numbered(words_of_runs([runs[number] for number in np.flatnonzero(~lone).tolist()]))
        rest = (_tokens(piece, cut, marks) for piece in chain(pieces, [PARAGRAPH_END]))
        others, other_lengths = self._numbered(rest)
        is_lone = np.zeros(len(runs) + len(other_lengths), dtype=bool)
        is_lone[: len(runs)] = lone
        sizes = np.ones(len(is_lone), dtype=np.int64)
        sizes[~is_lone] = lengths + other_lengths
        self.first = np.concatenate(([0], np.cumsum(sizes)))
        self.content = np.zeros(self.first[-1], dtype=np.int32)
        from_lone = np.zeros(len(self.content), dtype=bool)
        from_lone[self.first[:-1][is_lone]] = True
        self.content[from_lone] = np.arange(len(self._words))
        self.content[~from_lone] = several + others
        # BREAK picks the last one
        self.content = np.append(self._put_in_order(pieces), BREAK).astype(np.int32)[self.content]
        self._lengths = sizes.astype(np.int32)
        # without one, anything may stand
        self._first_content = np.append(self.content, BREAK)[self.first[:-1]]

    def _put_in_order(self, pieces: Collection[str | Token]) -> np.ndarray:
        """(forms,) the place in code-point order of the words that stand alone, and of what was found further."""
        further = list(self._further)
        self.annotation: tuple[Token, ...] = ()
        if not any(isinstance(piece, Token) for piece in pieces):
            return self._merged([str(one) for one in further])
        tokens = [one if isinstance(one, Token) else Token(one) for one in (*self._words, *further)]
        self.annotation = tuple(sorted(set(tokens)))
        self.forms = [token.form for token in self.annotation]
        place = {token: number for number, token in enumerate(self.annotation)}
        return np.array([place[token] for token in tokens])

    def _merged(self, further: list[str]) -> np.ndarray:
        """Merge further forms that are words alone into the sorted forms, and return their places."""
        words = self._words
        after = np.array([bisect_left(words, one) for one in further], dtype=np.int64)
        known = np.array([words[at : at + 1] == [one] for at, one in zip(after.tolist(), further, strict=True)], bool)
        new = np.array(sorted(np.flatnonzero(~known).tolist(), key=further.__getitem__), dtype=np.int64)
        self.forms = sorted([*words, *(further[number] for number in new.tolist())]) if len(new) else list(words)
        of_words = np.arange(len(words)) + np.searchsorted(after[new], np.arange(len(words)), side="right")
        place = np.empty(len(further), dtype=np.int64)
        place[known] = of_words[after[known]]
        place[new] = after[new] + np.arange(len(new))
        return np.concatenate((of_words, place))

    def _numbered(self, pieces: Iterable[Sequence[str | Token | None]]) -> tuple[list[int], list[int]]:
        """The content of pieces, given as tokens, one after the other, and how much each gives."""
        content: list[int] = []
        lengths = []
        first = len(self._words)
        for tokens in pieces:
            content += [BREAK if token is SENTENCE_END else first + self._further[token] for token in tokens]
            lengths.append(len(tokens))
        return content, lengths

    def __len__(self) -> int:
        return len(self.first) - 1

    def form_counts(self, pieces: SparseMatrix) -> SparseMatrix:
        """(documents, forms) int32 from (documents, pieces), in which a piece may stand several times."""
        is_token = self.content != BREAK
        after = np.concatenate(([0], np.cumsum(is_token)))[self.first]
        forms, number = self.content[is_token], np.diff(after)
        if number.max(initial=0) <= 1:
            first_form = np.append(forms, -1)[np.where(number, after[:-1], -1)].astype(np.int32)
            return remap_columns(pieces, first_form, len(self.forms))

        def expand(indices: np.ndarray, values: np.ndarray, row: np.ndarray) -> MatrixCells:
            times = number[indices]
            return MatrixCells(
                np.repeat(values, times), forms[concat_ranges(after[indices], times)], np.repeat(row, times)
            )

        return map_cells(pieces, expand, len(self.forms))

    def expansion(self, piece_of: np.ndarray) -> "Expansion":
        """How numbers become tokens of which each is that of a piece."""
        first = self.first[:-1][piece_of]
        return Expansion(self.content, first, self._first_content[piece_of], self._lengths[piece_of])


class Expansion:
    """The tokens of numbers that stand for pieces: the content of each from `first` on, so many as `lengths` says.

    `opening` is the first of each content.
    """

    def __init__(self, content: np.ndarray, first: np.ndarray, opening: np.ndarray, lengths: np.ndarray) -> None:
        self._content, self._first, self._opening, self._lengths = content, first, opening, lengths
        self._each_is_a_token = bool((lengths == 1).all() and (opening != BREAK).all())

    def tokens(
        self, numbers: np.ndarray, breaks: np.ndarray, ends: np.ndarray
    ) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """The tokens of numbers in text order, int32, before which of them a sentence ends, and where documents end.

        The last two are given as places in the numbers.
        """
        if self._each_is_a_token:
            return self._opening.take(numbers), breaks, ends
        size = self._lengths.take(numbers)
        content = np.repeat(self._opening.take(numbers), size)
        after = np.concatenate(([0], np.cumsum(size, dtype=np.int64)))
        several = np.flatnonzero(size > 1)
        if len(several):
            place = concat_ranges(after[several], size[several])
            content[place] = self._content[concat_ranges(self._first[numbers[several]], size[several])]
        between = np.flatnonzero(content == BREAK)
        breaks, ends = (after[one] - np.searchsorted(between, after[one]) for one in (breaks, ends))
        within = between - np.arange(len(between))
        return np.delete(content, between), np.sort(np.concatenate((within, breaks))), ends


def _tokens(piece: str | Token, cut: Cutter, marks: bool) -> Sequence[str | Token | None]:
    if isinstance(piece, Token):
        token = _normal(piece)
        return [token] if token.form and (marks or not is_mark(token.form)) else []
    return [SENTENCE_END] if piece == PARAGRAPH_END else cut(piece)


def _normal(token: Token) -> Token:
    form, lemma = (" ".join(normalise(part).split()) for part in token[:2])
    return Token(form, lemma, token.tag)


def pieces_of(block: str | Sequence[Token | None], ordered: bool) -> Sequence[str | Token]:
    """The pieces of a text between white space, or its annotated tokens; PARAGRAPH_END only if `ordered`.

    Parameters
    ----------
    block : str or Sequence[Token or None]
        A stretch of text, or annotated tokens.
    ordered : bool
        Ends of paragraphs are kept.

    Returns
    -------
    Sequence[str or Token]
    """
    if not isinstance(block, str):
        return [token or PARAGRAPH_END for token in block]
    if not ordered:
        return block.split()
    found = [[*paragraph.split(), PARAGRAPH_END] for paragraph in paragraphs(block)]
    found[-1].pop()
    return list(chain.from_iterable(found))


def text_blocks(document: Document) -> Iterable[str | Sequence[Token | None]]:
    """The text in blocks of about a million characters, cut at white space; annotated tokens in one.

    Parameters
    ----------
    document : Document
        Its text is read piece by piece.

    Returns
    -------
    Iterable[str or Sequence[Token or None]]
    """
    if document.annotated is not None:
        yield document.annotated
        return
    text = document.text
    start = 0
    while len(text) - start > _BLOCK:
        window = text[start : start + _BLOCK]
        # all the white space goes to the next block, so that a blank line is never cut in two
        cut = len(window[: max(window.rfind("\n"), window.rfind(" "), 0)].rstrip())
        if not cut:
            break
        yield text[start : start + cut]
        start += cut
    yield text[start:] if start else text
