"""A look at documents as they pass on their way to be scanned: what in them is likely to be wrong."""

import re
from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field

from millstone.core.corpus.cleaning import find_broken, find_cuts, find_entities, recurring_candidates
from millstone.core.corpus.corpus import Document
from millstone.core.corpus.repeats import Repeats
from millstone.core.wording import numbered

LEAST_RECURRING = 3
_RECURRING_SHARE = 0.05
_LINES_FOR_NUMBERS = 10
_NUMBERED_SHARE = 0.9
_LINES_KEPT = 1_000_000
_LONGEST_LINE = 300
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
        """Pass the documents on, looking at each."""
        for document in map(Document.whole, documents):
            self._look(document)
            yield document

    def _look(self, document: Document) -> None:
        text = document.text
        if not text.strip():
            return
        self.repeats.seen(document)
        if document.annotated is not None:
            return
        self.seen["markup"].add(document, find_cuts(text, "markup"))
        self.seen["links"].add(document, find_cuts(text, "links"))
        self.seen["entities"].add(document, find_entities(text))
        self.seen["hyphens"].add(document, find_broken(text))
        if not text.isascii():
            self.seen["lost"].add(document, text.count("\ufffd"))
            self.seen["misread"].add(document, len(_MISREAD.findall(text)))
        self.seen["numbered"].add(document, int(_is_numbered(text)))
        if "\n" in text.strip():
            self._note_lines(text)

    def _note_lines(self, text: str) -> None:
        for keys in recurring_candidates(text):
            self._pages += 1
            self._lines.update(key for key in keys if len(key) <= _LONGEST_LINE)
        if len(self._lines) > _LINES_KEPT:
            # of so many lines those seen once so far are the least likely to be running ones
            self._lines = Counter({key: number for key, number in self._lines.items() if number > 1})

    def recurring(self) -> list[tuple[str, int]]:
        """The lines that recur on more pages or in more documents than chance would have it, commonest first."""
        least = max(LEAST_RECURRING, _RECURRING_SHARE * self._pages)
        found = [(line, number) for line, number in self._lines.items() if number >= least]
        return sorted(found, key=lambda one: (-one[1], one[0]))


def _is_numbered(text: str) -> bool:
    lines = [line for line in text.splitlines() if line.strip()]
    if len(lines) < _LINES_FOR_NUMBERS:
        return False
    return sum(_NUMBERED.search(line) is not None for line in lines) >= _NUMBERED_SHARE * len(lines)
