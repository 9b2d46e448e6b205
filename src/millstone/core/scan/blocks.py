"""Texts put together, or cut, into blocks of about equal size."""

from collections.abc import Iterable, Iterator, Sequence

import numpy as np

from millstone.core.scan.numbering import PADDING
from millstone.core.scan.tally import Block
from millstone.core.tokenise.sentences import WHITE_SPACE

SIZE = 1 << 21
_GAP = b" "
_LONGEST_WHITE = max(map(len, WHITE_SPACE))


class Packer:
    """Packs texts into blocks: short ones together, a long one into several, cut at white space.

    Blocks are numbered from 1 on, in the order of the text.
    """

    def __init__(self) -> None:
        self.number = 0
        self._texts: list[bytes] = []
        self._documents: list[int] = []
        self._waiting = 0

    def text(self, document: int, text: str) -> Iterable[Block]:
        """Add the text of a document; gives what is full."""
        data = text.encode("utf-8", "surrogatepass")
        if len(data) >= SIZE:
            return self.stream(document, (data[at : at + SIZE] for at in range(0, len(data), SIZE)))
        self._texts.append(data)
        self._documents.append(document)
        self._waiting += len(data) + 1
        return self.rest() if self._waiting >= SIZE else ()

    def texts(self, first: int, texts: bytes, ends: np.ndarray) -> Iterator[Block]:
        """Add the texts of documents from number `first` on, in UTF-8 with a zero after each, which is at `ends`."""
        yield from self.rest()
        # a blank is nothing that a word spans, and ends no sentence
        data = b"".join([_GAP, texts.replace(b"\0", _GAP), PADDING])
        yield self._numbered(range(first, first + len(ends)), data, ends + 1)

    def stream(self, document: int, chunks: Iterable[bytes]) -> Iterator[Block]:
        """Add a text that comes in chunks of UTF-8, wherever they are cut."""
        yield from self.rest()
        kept: list[bytes | memoryview] = []
        size = 0
        for chunk in chunks:
            size += len(chunk)
            cut = _last_gap(chunk) if size >= SIZE else 0
            if cut >= _LONGEST_WHITE:
                # nothing is copied before it is put together
                whole = memoryview(chunk)
                yield self._of_pieces(document, [*kept, whole[:cut]])
                kept, size = [whole[cut:]], len(chunk) - cut
            else:
                kept.append(chunk)
        yield self._of_pieces(document, kept)

    def rest(self) -> Iterator[Block]:
        """The texts that are still waiting to fill a block."""
        if self._texts:
            ends = np.cumsum([len(text) + 1 for text in self._texts])
            yield self._numbered(self._documents, _GAP.join([b"", *self._texts, PADDING]), ends)
        self._texts, self._documents, self._waiting = [], [], 0

    def _of_pieces(self, document: int, pieces: Sequence[bytes | memoryview]) -> Block:
        data = b"".join([_GAP, *pieces, _GAP, PADDING])
        return self._numbered([document], data, np.array([len(data) - len(_GAP) - len(PADDING)]))

    def _numbered(self, documents: Sequence[int], data: bytes, ends: np.ndarray) -> Block:
        self.number += 1
        return Block(self.number, np.array(documents), data, ends)


def _last_gap(data: bytes) -> int:
    """Where the last white space starts that follows something, all of it, so that no blank line is cut in two."""
    start = max(data.rfind(b" "), data.rfind(b"\n"), 0)
    while here := next((white for white in WHITE_SPACE if data.endswith(white, 0, start)), b""):
        start -= len(here)
    return start
