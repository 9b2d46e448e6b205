"""A look at documents as they pass on their way to be scanned: what in them is likely to be wrong."""

import codecs
import re
from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field

from millstone.core.base.wording import numbered
from millstone.core.corpus.cleaning import PAGE_END, find_broken, find_cuts, find_entities, recurring_candidates
from millstone.core.corpus.corpus import Document
from millstone.core.corpus.repeats import Repeats

LEAST_RECURRING = 3
_RECURRING_SHARE = 0.05
_LINES_FOR_NUMBERS = 10
_NUMBERED_SHARE = 0.9
_LINES_KEPT = 1_000_000
_LONGEST_LINE = 300
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
    _lines: Counter[str] = field(default_factory=Counter)
    _pages: int = 0

    def watch(self, documents: Iterable[Document]) -> Iterator[Document]:
        """Pass the documents on, looking at each; at a long one part by part."""
        for document in documents:
            if document.chunks is not None or document.text.strip():
                self._look(document)
            yield document

    def _look(self, document: Document) -> None:
        self.repeats.seen(document)
        if document.annotated is not None:
            return
        parts = [document.text] if document.chunks is None else _parts(document.chunks())
        times: Counter[str] = Counter()
        lines = _Lines()
        for text in parts:
            times.update(_times(text))
            lines.add(text)
        for what, number in times.items():
            self.seen[what].add(document, number)
        self.seen["numbered"].add(document, int(lines.are_numbered))
        if lines.several:
            self._note_lines(lines.pages)

    def _note_lines(self, pages: Iterable[set[str]]) -> None:
        for keys in pages:
            self._pages += 1
            self._lines.update(keys)
        if len(self._lines) > _LINES_KEPT:
            # of so many lines those seen once so far are the least likely to be running ones
            self._lines = Counter({key: number for key, number in self._lines.items() if number > 1})

    def recurring(self) -> list[tuple[str, int]]:
        """The lines that recur on more pages or in more documents than chance would have it, commonest first."""
        least = max(LEAST_RECURRING, _RECURRING_SHARE * self._pages)
        found = [(line, number) for line, number in self._lines.items() if number >= least]
        return sorted(found, key=lambda one: (-one[1], one[0]))


def _times(text: str) -> dict[str, int]:
    """How often a text shows what preparation can cut or repair, or what reading spoiled."""
    found = {
        "markup": find_cuts(text, "markup"),
        "links": find_cuts(text, "links"),
        "entities": find_entities(text),
        "hyphens": find_broken(text),
    }
    if not text.isascii():
        found["lost"] = text.count("\ufffd")
        found["misread"] = len(_MISREAD.findall(text))
    return found


class _Lines:
    """The lines of a text that comes in parts."""

    def __init__(self) -> None:
        self.pages: list[set[str]] = []
        self.several = False
        self._filled = self._numbered = 0
        self._has_pages = False

    @property
    def are_numbered(self) -> bool:
        """Whether most lines begin or end with a number."""
        return self._filled >= _LINES_FOR_NUMBERS and self._numbered >= _NUMBERED_SHARE * self._filled

    def add(self, text: str) -> None:
        """Take in the next part."""
        filled = [line for line in text.splitlines() if line.strip()]
        self._filled += len(filled)
        self._numbered += sum(_is_numbered(line.strip()) for line in filled)
        if not self.several and "\n" not in text.strip():
            return
        self.several = True
        self._has_pages = self._has_pages or PAGE_END in text
        pages = list(recurring_candidates(text, _LONGEST_LINE))
        if self._has_pages or not self.pages:
            self.pages += pages
        elif len(self.pages[0]) <= _LINES_KEPT:
            # a text without pages is one
            self.pages[0].update(*pages)


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
