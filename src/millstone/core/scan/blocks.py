"""Texts put together, or cut, into blocks of about equal size."""

from collections.abc import Iterable, Iterator

import numpy as np

from millstone.core.scan.tally import Block
from millstone.core.tokenise.sentences import WHITE_SPACE

SIZE = 1 << 21
_GAP = b" "


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

    def stream(self, document: int, chunks: Iterable[bytes]) -> Iterator[Block]:
        """Add a text that comes in chunks of UTF-8, wherever they are cut."""
        yield from self.rest()
        kept = b""
        for chunk in chunks:
            kept += chunk
            cut = _last_gap(kept) if len(kept) >= SIZE else 0
            if cut:
                yield self._block([document], [kept[:cut]])
                kept = kept[cut:]
        yield self._block([document], [kept])

    def rest(self) -> Iterator[Block]:
        """What is still waiting to fill a block."""
        if self._texts:
            yield self._block(self._documents, self._texts)
        self._texts, self._documents, self._waiting = [], [], 0

    def _block(self, documents: list[int], texts: list[bytes]) -> Block:
        self.number += 1
        ends = np.cumsum([len(text) + 1 for text in texts])
        return Block(self.number, np.array(documents), _GAP.join([b"", *texts, b""]), ends)


def _last_gap(data: bytes) -> int:
    """Where the last white space starts that follows something, all of it, so that no blank line is cut in two."""
    start = max(data.rfind(b" "), data.rfind(b"\n"), 0)
    while here := next((white for white in WHITE_SPACE if data.endswith(white, 0, start)), b""):
        start -= len(here)
    return start
