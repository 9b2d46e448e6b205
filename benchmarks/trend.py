"""Trends over periods, beside the frequency list of the same texts, both with a kept scan.

    python benchmarks/trend.py [MEGABYTES]

Makes a table of MEGABYTES (default: 200) in 20,000 documents of 20 years, and prints seconds, memory and the ratio.
"""

import sys
import tempfile
from pathlib import Path

from corpus import blocks, rows
from measure import MILLSTONE, measured, median

DOCUMENTS, YEARS, RUNS = 20_000, 20, 3


def write_table(path: Path, megabytes: float) -> None:
    """A table with a year for each text; the years are mixed."""
    size, number = int(megabytes * 1e6 / DOCUMENTS), 0
    with path.open("w", encoding="utf-8", newline="") as file:
        file.write("id,year,text\n")
        for block in blocks(megabytes):
            for text in rows(block, size):
                quoted = text.replace('"', '""')
                file.write(f'd{number},{1950 + number * 7 % YEARS},"{quoted}"\n')
                number += 1


def main(megabytes: float) -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        write_table(folder / "texts.csv", megabytes)
        texts = ["texts.csv", "--text", "text", "--id", "id", "--quiet", "-o", "result.csv", "--force"]
        own = {"XDG_CACHE_HOME": str(folder / "cache")}
        commands = {
            "freq": [MILLSTONE, "freq", *texts],
            "freq --min-freq 5": [MILLSTONE, "freq", *texts, "--min-freq", "5"],
            "trend": [MILLSTONE, "trend", *texts, "--over", "year"],
        }
        measured(commands["freq"], folder, **own)
        found = {
            what: median([measured(command, folder, **own) for _ in range(RUNS)])
            for what, command in commands.items()
        }
        for what, (seconds, memory) in found.items():
            ratio = seconds / found["freq"][0]
            print(f"{what}: {seconds:.2f} s, {memory:.0f} MB, ratio to freq {ratio:.2f}")


if __name__ == "__main__":
    main(float(sys.argv[1]) if len(sys.argv) > 1 else 200)
