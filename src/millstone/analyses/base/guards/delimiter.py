"""One text in which something stands between its pieces: a line of signs, numbered headings, a bar."""

import re
from collections import Counter
from dataclasses import dataclass, field

_LEAST = 3
_LEAST_BARS = 5
_WORDS_BETWEEN = 20
_LONGEST_HEADING = 60
_SIGNS = re.compile(r"[^\w\s](?:[^\w]*[^\w\s])?")
# a heading with its number: ``# 12``, ``Chapter IV``, ``LETTER 3.``
_HEADING = re.compile(r"(#+ ?|[^\W\d_]{3,12}\s+)(?:\d{1,4}|[IVXLC]{1,8})\b(?!\s*,).{0,40}")


@dataclass
class Delimiters:
    """Counts what may stand between the pieces of a text that comes in parts."""

    _lines: Counter[str] = field(default_factory=Counter)
    _headings: Counter[str] = field(default_factory=Counter)
    _bars: int = 0
    _words: int = 0

    def add(self, text: str) -> None:
        """Take in the next part."""
        self._bars += text.count("|")
        for line in text.splitlines():
            bare = line.strip()
            self._words += bare.count(" ") + 1
            if not bare or len(bare) > _LONGEST_HEADING:
                continue
            if _SIGNS.fullmatch(bare):
                self._lines[bare] += 1
            elif heading := _HEADING.fullmatch(bare):
                self._headings[heading[1]] += 1

    def likeliest(self) -> tuple[str, int]:
        """The sign between the pieces, and how often it stands there; none where pieces would be too short."""
        most = max(self._words // _WORDS_BETWEEN, 0)
        for counted, least in ((self._lines, _LEAST), (self._headings, _LEAST)):
            for sign, times in counted.most_common(1):
                if least <= times <= most:
                    return sign, times
        return ("|", self._bars) if _LEAST_BARS <= self._bars <= most else ("", 0)


def unit_option(sign: str) -> str:
    """The option that makes documents of the pieces, as it is typed in a shell."""
    quoted = "between:" + sign
    return "--unit " + (f"'{quoted}'" if "'" not in quoted else f'"{quoted}"')
