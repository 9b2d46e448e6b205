"""A grid of 24 settings, beside one run of the same analysis, both with a kept scan.

    python benchmarks/vary.py [MEGABYTES]

Makes a table of MEGABYTES (default: 200) in 20,000 documents of two groups, and prints seconds, memory and the ratio.
"""

import sys
import tempfile
from pathlib import Path

from corpus import write_with_field
from measure import MILLSTONE, measured, median

DOCUMENTS = 20_000
OVER = ("stop: none | en", "length: 1.. | 3.. | 5..", "min-freq: 5 | 10", "test: documents | ll")


def main(megabytes: float) -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        write_with_field(folder / "texts.csv", megabytes, DOCUMENTS, "side", "ab")
        texts = ["texts.csv", "--text", "text", "--id", "id", "--group", "side", "--quiet", "-o", "r.csv", "--force"]
        own = {"XDG_CACHE_HOME": str(folder / "cache")}
        one = [MILLSTONE, "keyness", *texts, "--min-freq", "5"]
        grid = [MILLSTONE, "vary", "keyness", *texts, *(word for over in OVER for word in ("--over", over))]
        measured(one, folder, **own)
        seconds, memory = median([measured(one, folder, **own) for _ in range(3)])
        print(f"keyness: {seconds:.2f} s, {memory:.0f} MB")
        of_grid = measured(grid, folder, **own)
        ratio = of_grid[0] / seconds
        print(f"vary keyness, 24 settings: {of_grid[0]:.2f} s, {of_grid[1]:.0f} MB, ratio to keyness {ratio:.1f}")


if __name__ == "__main__":
    main(float(sys.argv[1]) if len(sys.argv) > 1 else 200)
