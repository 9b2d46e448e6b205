"""A table counted by the workers of a cluster, beside threads and one process of a single machine.

    python benchmarks/cluster.py [MEGABYTES] [RUNS]

Median seconds, peak memory of the largest process, and ratios; all in turn. Two workers on this machine stand for two
machines: they share its processors, so that the ratio says what the cluster costs, and nothing of what it gains.
"""

import sys
import tempfile
from pathlib import Path

from measure import MILLSTONE, make, measured, median

WAYS = {
    "one process": ("--jobs", "1"),
    "threads": (),
    "--cluster local:1": ("--cluster", "local:1"),
    "--cluster local:2": ("--cluster", "local:2"),
}
# a small one says what starting costs
SMALL = 1


def main(megabytes: float, runs: int) -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for size in (SMALL, megabytes):
            table = folder / f"{size}.csv"
            make("corpus.py", str(size), str(table))
            freq = (MILLSTONE, "freq", str(table), "--text", "text", "--group", "group", "--quiet", "--no-cache")
            found: dict[str, list[tuple[float, float]]] = {way: [] for way in WAYS}
            for _ in range(runs):
                for way, options in WAYS.items():
                    found[way].append(measured((*freq, *options)))
            threads = median(found["threads"])[0]
            print(f"{size:g} MB, {runs} runs")
            for way, values in found.items():
                seconds, peak = median(values)
                print(f"{way:20}{seconds:9.2f} s{peak:8.0f} MB   {seconds / threads:5.2f} times threads")


if __name__ == "__main__":
    main(float(sys.argv[1]) if len(sys.argv) > 1 else 1000, int(sys.argv[2]) if len(sys.argv) > 2 else 3)
