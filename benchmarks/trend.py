"""Trends over periods, beside the frequency list of the same texts, both with a kept scan.

    python benchmarks/trend.py [MEGABYTES]

Makes a table of MEGABYTES (default: 200) in 20,000 documents of 20 years, and prints seconds, memory and the ratio.
"""

import sys
import tempfile
from pathlib import Path

from corpus import write_with_field
from measure import MILLSTONE, measured, median

DOCUMENTS, YEARS, RUNS = 20_000, 20, 3


def main(megabytes: float) -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        write_with_field(
            folder / "texts.csv", megabytes, DOCUMENTS, "year", [str(1950 + one) for one in range(YEARS)]
        )
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
