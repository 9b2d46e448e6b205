"""How long a command takes on texts so small that starting is all.

    python benchmarks/start.py [RUNS]

Runs the commands on the demo corpus (default: 11 times each, in turn) and prints medians, and their ratio to
`python -c "import numpy"`; what computes nothing is compared with `python -c "import argparse"`.
"""

import subprocess
import sys
import tempfile
from pathlib import Path

from measure import MILLSTONE, measured, median

RUNS = 11
TABLE = ("guestbook.csv", "--text", "entry", "--group", "hut", "--quiet")
COMMANDS = {
    "freq": ("freq", *TABLE),
    "keyness": ("keyness", *TABLE),
    "logodds": ("logodds", *TABLE),
    "categories": ("categories", *TABLE, "--dictionary", "dictionary.toml"),
    "concordance": ("concordance", *TABLE, "--find", "rope"),
    "check": ("check", *TABLE),
}
OF_NOTHING = {"--version": ("--version",), "--help": ("freq", "--help"), "--completion": ("--completion", "bash")}
WRONG = ("freq", "guestbook.csv", "--topp", "3")


def main(runs: int) -> None:
    """Measure and print."""
    with tempfile.TemporaryDirectory() as folder:
        subprocess.run([MILLSTONE, "demo", folder, "--quiet"], check=True)
        place = Path(folder)
        numpy, argparse = ([sys.executable, "-c", f"import {name}"] for name in ("numpy", "argparse"))
        every = {"import numpy": numpy, "import argparse": argparse}
        every |= {name: [MILLSTONE, *typed] for name, typed in {**COMMANDS, **OF_NOTHING}.items()}
        # its status is 2, as it must be
        every["an error"] = ["bash", "-c", f"! {MILLSTONE} {' '.join(WRONG)} 2>/dev/null"]
        taken: dict[str, list[tuple[float, float]]] = {name: [] for name in every}
        for _ in range(runs):
            for name, command in every.items():
                taken[name].append(measured(command, place))
    found = {name: median(values) for name, values in taken.items()}
    for name, (seconds, memory) in found.items():
        beside = "import numpy" if name in COMMANDS else "import argparse"
        ratio = seconds / found[beside][0]
        print(f"{name:16} {seconds:6.2f} s {memory:6.0f} MB   {ratio:5.1f} x {beside}")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else RUNS)
