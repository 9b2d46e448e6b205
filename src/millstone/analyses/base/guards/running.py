"""Lines that recur over pages or documents: running titles, page numbers, boilerplate."""

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass, field

from millstone.core.base.light_dataclass import frozen
from millstone.core.corpus.cleaning import PAGE_END, recurring_candidates
from millstone.core.terms.word_lists import entry_tokens

LEAST_RECURRING = 3
_SHARE = 0.05
_LINES_KEPT = 1_000_000


@frozen
class RunningLine:
    """A line that recurs, numbers as #: its pages, or documents without pages, and the tokens of all its places."""

    line: str
    pages: int
    tokens: int


@dataclass
class RunningLines:
    """Counts lines over the pages of texts, or over texts without pages."""

    pages: int = 0
    _pages_of: Counter[str] = field(default_factory=Counter)
    _times: Counter[str] = field(default_factory=Counter)

    def add(self, pages: Iterable[Counter[str]]) -> None:
        """Take note of the lines of some pages."""
        for lines in pages:
            self.pages += 1
            self._pages_of.update(lines.keys())
            self._times.update(lines)
        if len(self._pages_of) > _LINES_KEPT:
            # of so many lines those seen once so far are the least likely to be running ones
            self._pages_of = Counter({key: number for key, number in self._pages_of.items() if number > 1})
            self._times = Counter({key: self._times[key] for key in self._pages_of})

    def found(self) -> list[RunningLine]:
        """The lines that recur on more pages or in more documents than chance would have it, commonest first."""
        least = max(LEAST_RECURRING, _SHARE * self.pages)
        lines = [
            RunningLine(line, number, self._times[line] * len(entry_tokens(line.replace("#", "0"))))
            for line, number in self._pages_of.items()
            if number >= least
        ]
        return sorted(lines, key=lambda one: (-one.pages, one.line))


class LinesOfText:
    """The lines of a text that comes in parts, as many of them as may be running ones."""

    def __init__(self) -> None:
        self.pages: list[Counter[str]] = []
        self.several = False
        self._has_pages = False

    def add(self, text: str) -> None:
        """Take in the next part."""
        if not self.several and "\n" not in text.strip():
            return
        self.several = True
        self._has_pages = self._has_pages or PAGE_END in text
        pages = list(recurring_candidates(text))
        if self._has_pages or not self.pages:
            self.pages += pages
        elif len(self.pages[0]) <= _LINES_KEPT:
            # a text without pages is one
            for page in pages:
                self.pages[0].update(page)
