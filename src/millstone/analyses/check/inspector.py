"""A look at documents as they pass on their way to be scanned: what in them is likely to be wrong."""

import codecs
import re
from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field

from millstone.analyses.base.guards.delimiter import Delimiters
from millstone.analyses.base.guards.running import LinesOfText, RunningLines
from millstone.core.base.wording import numbered
from millstone.core.corpus.cleaning import PAGE_END, find_broken, find_cuts, find_entities
from millstone.core.corpus.corpus import Document
from millstone.core.corpus.repeats import Repeats

_LINES_FOR_NUMBERS = 10
_NUMBERED_SHARE = 0.9
_PART = 1 << 21
_LONGEST_NUMBER = 40
_NUMBERED = re.compile(r"^\s*[\[(]?\d+|\d[\])]?\s*$")
# two bytes of UTF-8 read as two characters of another encoding
_MISREAD = re.compile("[ÃÂÐÑ][\u0080-\u00bf‚ƒ„…†‡ˆ‰Š‹ŒŽ‘’“”•–—˜™š›œžŸ]|â€[™œ\u009d“”¦]")


@dataclass
class _Seen:
    """How many documents show something, how often, and the first that does."""

    documents: int = 0
    times: int = 0
    first: str = ""

    def add(self, document: Document, times: int) -> None:
        if times:
            self.documents += 1
            self.times += times
            self.first = self.first or document.name

    def where(self) -> str:
        first = f", such as document {self.first}" if self.documents > 1 else f": {self.first}"
        return f"in {numbered(self.documents, 'document')}{first}"


@dataclass
class Inspector:
    """Looks at documents as they pass on their way to be scanned."""

    seen: defaultdict[str, _Seen] = field(default_factory=lambda: defaultdict(_Seen))
    repeats: Repeats = field(default_factory=Repeats)
    repeated_tokens: int = 0
    running: RunningLines = field(default_factory=RunningLines)
    delimiters: Delimiters = field(default_factory=Delimiters)
    _documents: int = 0

    def watch(self, documents: Iterable[Document]) -> Iterator[Document]:
        """Pass the documents on, looking at each; at a long one part by part."""
        for document in documents:
            if document.chunks is not None or document.text.strip():
                self._look(document)
            yield document

    def _look(self, document: Document) -> None:
        before = self.repeats.in_group.total()
        self.repeats.seen(document)
        if self.repeats.in_group.total() > before:
            self.repeated_tokens += len(document.whole().text.split())
        self._documents += 1
        if document.annotated is not None:
            return
        parts = [document.text] if document.chunks is None else _parts(document.chunks())
        times: Counter[str] = Counter()
        lines, numbers = LinesOfText(), _Numbers()
        for text in parts:
            times.update(_times(text))
            lines.add(text)
            numbers.add(text)
            if self._documents == 1:
                self.delimiters.add(text)
        for what, number in times.items():
            self.seen[what].add(document, number)
        self.seen["numbered"].add(document, int(numbers.are_everywhere))
        if lines.several:
            self.running.add(lines.pages)


def _times(text: str) -> dict[str, int]:
    """How often a text shows what preparation can cut or repair, or what reading spoiled."""
    found = {
        "markup": find_cuts(text, "markup"),
        "links": find_cuts(text, "links"),
        "entities": find_entities(text),
        "hyphens": find_broken(text),
        "parted": text.count(" , "),
        "unparted": text.count(", ") - text.count(" , "),
    }
    if not text.isascii():
        found["lost"] = text.count("\ufffd")
        found["misread"] = len(_MISREAD.findall(text))
    return found


class _Numbers:
    """How many lines of a text, which comes in parts, begin or end with a number."""

    def __init__(self) -> None:
        self._filled = self._numbered = 0

    @property
    def are_everywhere(self) -> bool:
        """Whether most lines begin or end with a number."""
        return self._filled >= _LINES_FOR_NUMBERS and self._numbered >= _NUMBERED_SHARE * self._filled

    def add(self, text: str) -> None:
        """Take in the next part."""
        filled = [line for line in text.splitlines() if line.strip()]
        self._filled += len(filled)
        self._numbered += sum(_is_numbered(line.strip()) for line in filled)


def _is_numbered(line: str) -> bool:
    ends = line if len(line) <= 2 * _LONGEST_NUMBER else f"{line[:_LONGEST_NUMBER]} {line[-_LONGEST_NUMBER:]}"
    return _NUMBERED.search(ends) is not None


def _parts(chunks: Iterable[bytes]) -> Iterator[str]:
    """A long text in parts, cut where a page ends, or a line, or a word."""
    decoder = codecs.getincrementaldecoder("utf-8")()
    text = ""
    for chunk in chunks:
        text += decoder.decode(chunk)
        if len(text) < _PART:
            continue
        cut = next((place for mark in (PAGE_END, "\n", " ") if (place := text.rfind(mark)) > 0), 0)
        if cut:
            yield text[:cut]
            # the end of a page is not the beginning of the next
            text = text[cut + (text[cut] == PAGE_END) :]
    yield text
