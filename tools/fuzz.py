"""Runs the program on many made-up cases, and says where it failed.

    python tools/fuzz.py [--cases N] [--seed N] [--keep FOLDER]

Each case is a child of one process that has imported the program. A case fails by a traceback or an internal fault,
by another exit status than 0, 1, 2 and 130, by an error that is not two lines, a half-written file, more than 20
seconds or 1 GB. Failures are put together by where they arose. The same seed gives the same cases.
"""

import argparse
import os
import random
import shutil
import sys
import tempfile
from collections import Counter
from itertools import islice
from pathlib import Path

ROOT = Path(__file__).parent.parent
sys.path[:0] = [str(ROOT), str(ROOT / "tools")]

from fuzzing.cases import Cases  # noqa: E402
from fuzzing.imports import import_program  # noqa: E402
from fuzzing.runner import Case, Ended, faults, place_of, run, run_all  # noqa: E402
from fuzzing.samples import MADE, write  # noqa: E402


def prepared(folder: Path) -> Path:
    """Import the program once, and lay down the samples."""
    import_program()
    samples = folder / "samples"
    samples.mkdir()
    write(samples)
    for arguments in MADE:
        ended = run(Case("sample", arguments, samples), surroundings(folder))
        if ended.status:
            raise SystemExit(f"millstone {' '.join(arguments)}: {ended.err}")
    return samples


def surroundings(folder: Path) -> dict[str, str]:
    """The environment of a case: its own cache and home."""
    kept = {name: os.environ[name] for name in ("PATH", "MPLCONFIGDIR") if name in os.environ}
    own = {"HOME": str(folder), "XDG_CACHE_HOME": str(folder / "cache"), "COLUMNS": "100", "LC_ALL": "C.UTF-8"}
    return {**kept, **own}


def tried(
    number: int, seed: int, keep: Path | None = None, kinds: Counter[str] | None = None
) -> Counter[tuple[str, str]]:
    """Run so many cases; how many failed, by kind, fault and place. `kinds` counts all of them."""
    found: Counter[tuple[str, str]] = Counter()
    kinds = Counter() if kinds is None else kinds
    with tempfile.TemporaryDirectory() as made:
        folder = Path(made)
        samples = prepared(folder)
        own = surroundings(folder)
        for case, ended in run_all(islice(Cases(samples, folder, seed), number), own):
            kinds[case.kind] += 1
            if wrong := faults(case, ended):
                place = place_of(case, own) if any("fault" in one or "traceback" in one for one in wrong) else ""
                key = (case.kind, f"{'; '.join(wrong)} {place}".strip())
                found[key] += 1
                if found[key] == 1:
                    _told(key[1], case, ended, keep)
            shutil.rmtree(case.folder)
    return found


def _told(what: str, case: Case, ended: Ended, keep: Path | None) -> None:
    print(f"{what}\n    {case.kind}: millstone {' '.join(map(ascii, case.arguments))}", flush=True)
    print("".join(f"    {line[:200]}\n" for line in ended.err.strip().splitlines()[-3:]), end="", flush=True)
    if keep:
        shutil.copytree(case.folder, keep / case.folder.name, dirs_exist_ok=True)


def main() -> None:
    """Run the cases that were asked for."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--cases", type=int, default=1000)
    parser.add_argument("--seed", type=int, default=random.randrange(10**6))
    parser.add_argument("--keep", type=Path, help="keep the folder of the first case of each failure")
    typed = parser.parse_args()
    print(f"seed {typed.seed}, {typed.cases:,} cases", flush=True)
    kinds: Counter[str] = Counter()
    found = tried(typed.cases, typed.seed, typed.keep, kinds)
    print(", ".join(f"{kind} {number:,}" for kind, number in kinds.most_common()))
    for (kind, what), number in found.most_common():
        print(f"{number:6} {kind}: {what}")
    print(f"{found.total():,} of {typed.cases:,} cases failed, at {len(found)} places")
    raise SystemExit(bool(found))


if __name__ == "__main__":
    main()
