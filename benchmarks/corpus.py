"""A made-up text of any length for measuring: Zipf-Mandelbrot, its vocabulary growing with its length.

    python benchmarks/corpus.py MEGABYTES FILE [CHARACTERS]

Accented letters, apostrophes, hyphens, capitals, numbers, quotation marks and other punctuation; a line in about
every fifteen words, a blank line now and then. The seed is fixed, so that the same size is the same text. A FILE
that ends in .csv becomes a table of four groups, each row with 4,000 CHARACTERS of the same text, or so many.
"""

import sys
from collections.abc import Iterator, Sequence
from pathlib import Path

import numpy as np

SYLLABLES = tuple("ba co de fi gu ha jo ke lu mé ni or pa qué ri sö ta und ve wi xa ye zo n'a el-o ст".split())  # noqa: SIM905
RANKS, SHIFT, EXPONENT = 900_000, 2.7, 1.15
# of 200 MB; a longer text has more to choose from, by Heaps' law
MEGABYTES, GROWTH = 200, 0.6
ROW = 4000
BLOCK = 1 << 20
ENDS = np.array(
    [*[" "] * 70, *[", "] * 10, *[". "] * 6, *[".\n"] * 6, "! ", "? ", "; ", ": ", "”\n", ") ", ".\n\n", " — "],
    dtype=object,
)


def word(number: int) -> str:
    """A different word for each number, short ones first."""
    parts = []
    while True:
        number, rest = divmod(number, len(SYLLABLES) - 1)
        parts.append(SYLLABLES[rest])
        if not number:
            return "".join(parts)


def blocks(megabytes: float) -> Iterator[str]:
    """The text block by block."""
    chance = np.random.default_rng(20)
    edges = np.cumsum((np.arange(int(RANKS * max(megabytes / MEGABYTES, 1) ** GROWTH)) + SHIFT) ** -EXPONENT)
    words: dict[int, str] = {}
    written = 0
    while written < megabytes * 1e6:
        ranks = np.searchsorted(edges, chance.random(BLOCK) * edges[-1])
        different, place = np.unique(ranks, return_inverse=True)
        known = [words.get(rank) or words.setdefault(rank, word(rank)) for rank in different.tolist()]
        tokens = np.array(known, dtype=object)[place]
        capital = np.flatnonzero(chance.random(BLOCK) < 0.1)
        tokens[capital] = [one.capitalize() for one in tokens[capital]]
        number = np.flatnonzero(chance.random(BLOCK) < 0.01)
        tokens[number] = [str(one) for one in chance.zipf(1.5, len(number)) % 100_000]
        opened = np.flatnonzero(chance.random(BLOCK) < 0.01)
        tokens[opened] = ["“" + one for one in tokens[opened]]
        ends = ENDS[chance.integers(len(ENDS), size=BLOCK)]
        data = "".join((tokens + ends).tolist()).encode()[: int(megabytes * 1e6) - written]
        yield data.decode("utf-8", "ignore")
        written += len(data)


def rows(text: str, size: int) -> Iterator[str]:
    """A text in pieces of about `size` characters, cut at blanks."""
    at = 0
    while at < len(text):
        end = text.find(" ", at + size)
        end = len(text) if end < 0 else end
        yield text[at:end]
        at = end + 1


def write_with_field(path: Path, megabytes: float, documents: int, field: str, values: Sequence[str]) -> None:
    """Write a table of so many documents with a field, whose values take turns and are mixed."""
    size, number = int(megabytes * 1e6 / documents), 0
    with path.open("w", encoding="utf-8", newline="") as file:
        file.write(f"id,{field},text\n")
        for block in blocks(megabytes):
            for text in rows(block, size):
                quoted = text.replace('"', '""')
                file.write(f'd{number},{values[number * 7 % len(values)]},"{quoted}"\n')
                number += 1


def write_text(path: Path, megabytes: float, size: int = ROW) -> None:
    """Write the text, or a table of it with so many characters in a row."""
    is_table = path.suffix == ".csv"
    number = 0
    with path.open("w", encoding="utf-8", newline="") as file:
        file.write("id,group,text\n" if is_table else "")
        for text in blocks(megabytes):
            if not is_table:
                file.write(text)
                continue
            for row in rows(text, size):
                file.write(f'd{number},g{number % 4},"{row}"\n')
                number += 1


if __name__ == "__main__":
    write_text(Path(sys.argv[2]), float(sys.argv[1]), *map(int, sys.argv[3:4]))
