"""Documents whose text occurred before, white space folded."""

import codecs
import hashlib
from collections import Counter, defaultdict
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field

from millstone.core.corpus.corpus import Document


def text_key(document: Document) -> bytes:
    """A short key that equal texts, white space folded, have in common; a long text is read in chunks.

    Parameters
    ----------
    document : Document

    Returns
    -------
    bytes
    """
    digest = hashlib.blake2b(digest_size=16)
    if document.chunks is None:
        digest.update(" ".join(document.text.split()).encode("utf-8", "surrogatepass"))
        return digest.digest()
    decoder = codecs.getincrementaldecoder("utf-8")()
    gap, rest = "", ""
    for chunk in document.chunks():
        text = rest + decoder.decode(chunk)
        pieces = text.split()
        rest = pieces.pop() if pieces and not text[-1].isspace() else ""
        if pieces:
            digest.update((gap + " ".join(pieces)).encode())
            gap = " "
    digest.update((gap + rest if rest else "").encode())
    return digest.digest()


@dataclass
class Repeats:
    """Counts, by group, the documents whose text occurred before in it.

    `example` is one of them, and `across` the number of those whose text another group had before.
    """

    in_group: Counter[str] = field(default_factory=Counter)
    example: str = ""
    across: int = 0
    _groups_of: defaultdict[bytes, set[str]] = field(default_factory=lambda: defaultdict(set))
    _waiting: list[Document] = field(default_factory=list)

    def watch(self, documents: Iterable[Document]) -> Iterator[Document]:
        """Pass documents on, taking note of each."""
        for document in documents:
            if document.chunks is None or self._groups_of or self._waiting:
                self.seen(document)
            else:
                # a long text is not read a second time if it is the only one
                self._waiting.append(document)
            yield document

    def seen(self, document: Document) -> None:
        """Take note of a document."""
        for first in self._waiting:
            self._groups_of[text_key(first)].add(first.group)
        self._waiting = []
        if document.chunks is None and not document.text.strip():
            return
        groups = self._groups_of[text_key(document)]
        if document.group in groups:
            self.in_group[document.group] += 1
            self.example = self.example or document.name
        elif groups:
            self.across += 1
        groups.add(document.group)


def without_repeats(
    documents: Iterable[Document], left_out: Callable[[str], None], across: Callable[[str], None]
) -> Iterator[Document]:
    """The documents whose text did not occur before in their group.

    Parameters
    ----------
    documents : iterable of Document
    left_out, across : callable
        Receive the names of documents left out, and of those kept whose text another group has too.

    Yields
    ------
    Document
        In their order.
    """
    groups_of: defaultdict[bytes, set[str]] = defaultdict(set)
    for document in documents:
        groups = groups_of[text_key(document)]
        if document.group in groups and document.text.strip():
            left_out(document.name)
            continue
        if groups and document.text.strip():
            across(document.name)
        groups.add(document.group)
        yield document
