"""Counting a large dictionary, beside a frequency list of the same texts.

    python benchmarks/categories.py [DOCUMENTS]

Prints seconds, ratios and memory: DOCUMENTS short documents (default: 100,000) of about 70 tokens in one table, a
dictionary of 100 categories with 5,000 entries, a third of them of several words, a third with wildcards.
"""

import csv
import json
import sys
import tempfile
from pathlib import Path

import numpy as np

from measure import MILLSTONE, measured

CATEGORIES, ENTRIES, WORDS = 100, 5000, 60_000


def vocabulary(size: int) -> list[str]:
    """Words of different lengths, the commonest the shortest."""
    letters = "aeioustrnlmdpcbgfhkv"
    chance = np.random.default_rng(3)
    found: dict[str, None] = {}
    while len(found) < size:
        length = 2 + int(np.log2(len(found) + 2) / 2) + int(chance.integers(0, 3))
        found["".join(chance.choice(list(letters), length))] = None
    return list(found)


def write_texts(path: Path, words: list[str], documents: int) -> None:
    """A table of texts whose words follow Zipf's law."""
    chance = np.random.default_rng(4)
    share = 1 / (np.arange(len(words)) + 2.7)
    every = chance.choice(len(words), documents * 70, p=share / share.sum()).reshape(documents, 70)
    with path.open("w", encoding="utf-8", newline="") as file:
        writer = csv.writer(file)
        writer.writerow(["id", "group", "entry"])
        for number, row in enumerate(every):
            text = " ".join(
                words[word] + ("." if place % 14 == 13 else "") for place, word in enumerate(row.tolist())
            )
            writer.writerow([number, "ab"[number % 2], text])


def write_dictionary(path: Path, words: list[str]) -> None:
    """Categories of words from the whole range of frequencies."""
    chance = np.random.default_rng(5)
    lines = ["[categories]"]
    for category in range(CATEGORIES):
        entries = []
        for number in range(ENTRIES // CATEGORIES):
            one, other = (words[int(place)] for place in 10 ** chance.uniform(1.3, np.log10(len(words)), 2))
            entries.append((f"{one} {other}", f"{one[:4]}*", one)[number % 3])
        lines.append(f"category{category} = {json.dumps(entries)}")
    path.write_text("\n".join(lines) + "\n", encoding="utf-8")


def main(documents: int) -> None:
    words = vocabulary(WORDS)
    with tempfile.TemporaryDirectory() as name:
        table, dictionary = Path(name, "texts.csv"), Path(name, "dictionary.toml")
        write_texts(table, words, documents)
        write_dictionary(dictionary, words)
        shared = [str(table), "--text", "entry", "--group", "group", "--no-cache", "--quiet"]
        base, _ = measured([MILLSTONE, "freq", *shared, "-o", str(Path(name, "freq.csv"))])
        print(f"{documents:,} documents, {table.stat().st_size / 1e6:.0f} MB: freq {base:.1f} s")
        for what, further in (
            ("categories", []),
            ("by group and with words", ["--by-group", "g.csv", "--words", "w.csv"]),
        ):
            typed = [str(Path(name, one)) if one.endswith(".csv") else one for one in further]
            command = [MILLSTONE, "categories", *shared, "--dictionary", str(dictionary), *typed]
            seconds, memory = measured([*command, "-o", str(Path(name, "c.csv")), "--force"])
            print(
                f"  {what} {seconds:.1f} s, ratio {seconds / base:.1f} (2 at most), {memory:.0f} MB (1,000 at most)"
            )


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 100_000)
