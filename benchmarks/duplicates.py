"""Near-duplicates among many short documents: time, memory, and how many of the planted ones are met.

python benchmarks/duplicates.py [DOCUMENTS]
"""

import random
import resource
import sys
import time

from millstone.core.corpus.corpus import Document
from millstone.core.corpus.near_duplicates import near_duplicates
from millstone.core.scan.scan import scan

_WORDS = 5000
_PLANTED = 20


def texts(number: int, chance: random.Random) -> list[list[str]]:
    """Texts of 10 to 110 words, few words frequent and many rare."""
    vocabulary = [f"w{n}" for n in range(_WORDS)]
    lengths = [chance.randrange(10, 110) for _ in range(number)]
    return [[vocabulary[int(_WORDS * chance.random() ** 3)] for _ in range(length)] for length in lengths]


def main() -> None:
    """Measure and print."""
    number = int(sys.argv[1]) if len(sys.argv) > 1 else 100_000
    chance = random.Random(1)
    every = texts(number, chance)
    planted = 0
    for _ in range(number // _PLANTED):
        # one word of twenty or more is another
        copied = list(chance.choice(every[:number]))
        if len(copied) >= _PLANTED:
            copied[chance.randrange(len(copied))] = "another"
            every.append(copied)
            planted += 1
    start = time.monotonic()
    corpus = scan([Document(f"d{at}", "g", " ".join(words)) for at, words in enumerate(every)], ordered=True)
    scanned = time.monotonic()
    found = near_duplicates(corpus)
    done = time.monotonic()
    memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(f"{len(every):,} documents, {int(corpus.tokens.sum()):,} tokens, {planted:,} planted near-duplicates")
    print(f"scan {scanned - start:.1f} s, near-duplicates {done - scanned:.1f} s, peak {memory:,.0f} MB")
    print(f"left out {int((~found.kept).sum()):,} in {int(found.cluster.max()) + 1:,} clusters")


if __name__ == "__main__":
    main()
