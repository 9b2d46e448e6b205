"""Kills the program at random moments, and says what it left.

    python tools/kill.py [--runs N] [--seed N]

Each run renews the outputs of an earlier one, of every format, and a cached scan; at a random moment it gets
SIGKILL, SIGTERM or SIGINT. Then every output must be the old one or the new one and whole, the ledger must be sane,
and the next run must go through as if nothing had been, leave what an undisturbed run leaves, and nothing besides.
Each run is a child of one process that has imported the program; renaming is slowed down, so that many moments fall
between.
"""

import argparse
import json
import os
import random
import signal
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable
from pathlib import Path

ROOT = Path(__file__).parent.parent
sys.path[:0] = [str(ROOT), str(ROOT / "tools")]

from fuzz import prepared, surroundings  # noqa: E402
from fuzzing.runner import Case, Ended, Run, run  # noqa: E402
from millstone.outputs.disk.ledger import LEDGER, read_ledger, sha256_of  # noqa: E402
from millstone.outputs.disk.locks import LOCK  # noqa: E402
from millstone.outputs.disk.staging import ROOM  # noqa: E402

SIGNALS = (signal.SIGKILL, signal.SIGKILL, signal.SIGTERM, signal.SIGINT)
_TABLE = ("book.csv", "--text", "entry", "--group", "hut")
_ENDINGS = ("csv", "tsv", "json", "xlsx", "parquet", "html", "md")
_SLOWED = 0.004
RUNS: dict[str, tuple[str, ...]] = {
    **{f"freq.{ending}": ("freq", *_TABLE, "-o", f"out/f.{ending}") for ending in _ENDINGS},
    "figure": ("keyness", *_TABLE, "-o", "out/k.csv", "--chart", "out/k.svg"),
    "png": ("keyness", *_TABLE, "--chart", "out/k.png"),
    "lists": ("freq", *_TABLE, "-o", "out/lists/"),
    "matrix": ("matrix", *_TABLE, "-o", "out/m.mtx"),
    "study": ("run", "study.toml"),
}
"""What is run; with one more option it leaves other outputs."""


def undisturbed(samples: Path, folder: Path, name: str) -> dict[str, bytes]:
    """What a run leaves; made in its own folder."""
    own = folder / f"undisturbed {name}"
    ended = run(Case(name, arguments(name), _copied(samples, own)), surroundings(folder))
    if ended.status:
        raise SystemExit(f"{name}: {ended.err}")
    return left_in(own / "out")


def arguments(name: str, otherwise: bool = False) -> tuple[str, ...]:
    """What is typed."""
    if not otherwise:
        return RUNS[name]
    return (*RUNS[name], *(("--step", "1") if RUNS[name][0] == "run" else ("--min-tokens", "2")))


def _copied(samples: Path, folder: Path) -> Path:
    folder.mkdir()
    for path in samples.iterdir():
        if path.is_file() and not path.name.startswith("."):
            (folder / path.name).write_bytes(path.read_bytes())
    (folder / "out").mkdir()
    return folder


def left_in(folder: Path) -> dict[str, bytes]:
    """Path within the folder -> content, of everything that lies there."""
    return {
        path.relative_to(folder).as_posix(): path.read_bytes() if path.is_file() else b""
        for path in sorted(folder.rglob("*"))
        if path.is_file() or path.name.startswith(ROOM)
    }


def wrong_after(folder: Path, before: dict[str, bytes], after: dict[str, bytes]) -> list[str]:
    """What a killed run left that it must not leave."""
    found = []
    for name, content in left_in(folder).items():
        is_room = ROOM in name or name.endswith(LOCK)
        if not is_room and not name.endswith(LEDGER) and content not in (before.get(name), after.get(name)):
            found.append(f"{name} is neither old nor new")
    for path in folder.rglob(LEDGER):
        ledger = read_ledger(path.parent)
        for one in path.parent.iterdir():
            is_own = one.name in (LEDGER, LOCK) or one.name.startswith(ROOM)
            if one.is_file() and not is_own and sha256_of(one) not in ledger.sums_of(one.name):
                found.append(f"the ledger does not know {one.name}")
    return found + [f"{name} is gone" for name in before if not (folder / name).exists()]


def slowly() -> Callable[[], None]:
    """Let renaming take its time, so that a signal may come between; the result undoes it."""
    real = (Path.replace, os.link)
    Path.replace = lambda self, target: (time.sleep(_SLOWED), real[0](self, target))[1]  # type: ignore
    os.link = lambda *given, **more: (time.sleep(_SLOWED), real[1](*given, **more))[1]

    def undone() -> None:
        Path.replace, os.link = real  # type: ignore

    return undone


def interrupted(case: Case, environment: dict[str, str], number: int, after: float) -> Ended:
    """A run that gets a signal some seconds after its start."""
    running = Run(case, environment)
    time.sleep(after)
    running.send(number)
    while (ended := running.ended()) is None:
        time.sleep(0.001)
    return ended


def tried(number: int, seed: int) -> tuple[Counter[str], Counter[str]]:
    """Interrupt so many runs; how they ended, and what was wrong."""
    from millstone.texts.cache import scan_cache

    # in the background a shell lets interruptions be ignored, which a run inherits
    signal.signal(signal.SIGINT, signal.default_int_handler)
    chance = random.Random(seed)
    ends: Counter[str] = Counter()
    faults: Counter[str] = Counter()
    with tempfile.TemporaryDirectory() as made:
        folder = Path(made)
        samples = prepared(folder)
        environment = surroundings(folder)
        undone, seconds = slowly(), scan_cache.SECONDS
        scan_cache.SECONDS = -1
        names = list(RUNS)
        whole = {name: undisturbed(samples, folder, name) for name in names}
        for one in range(number):
            name = names[one % len(names)]
            own = _copied(samples, folder / f"{one}")
            run(Case(name, arguments(name, otherwise=True), own), environment)
            before = left_in(own / "out")
            case = Case(name, arguments(name), own)
            taken = _taken(case, environment, folder / f"timed {name}", samples)
            number_of_signal = chance.choice(SIGNALS)
            ended = interrupted(case, environment, number_of_signal, chance.uniform(0, 1.05 * taken))
            ends[f"{signal.Signals(number_of_signal).name}: status {ended.status}"] += 1
            wrong = wrong_after(own / "out", before, whole[name])
            litter = " ".join(left_in(own / "out"))
            if number_of_signal != signal.SIGKILL and (ROOM in litter or LOCK in litter):
                wrong.append("a room is left, though it could be taken away")
            if "Traceback" in ended.err or "Exception ignored" in ended.err:
                wrong.append(f"a traceback: {ended.err[-300:]}")
            again = run(case, environment)
            if again.status:
                wrong.append(f"the next run fails: {again.err}")
            elif left_in(own / "out") != whole[name]:
                wrong.append("the next run leaves something else than an undisturbed one")
            if left := [path.name for litter in (f"{ROOM}*", LOCK) for path in folder.rglob(litter)]:
                wrong.append(f"litter after the next run: {left}")
            faults.update(f"{name}, {signal.Signals(number_of_signal).name}: {fault}" for fault in wrong)
        undone()
        scan_cache.SECONDS = seconds
    return ends, faults


_times: dict[str, float] = {}


def _taken(case: Case, environment: dict[str, str], place: Path, samples: Path) -> float:
    """How many seconds a run takes that nothing disturbs."""
    if case.kind not in _times:
        own = Case(case.kind, case.arguments, _copied(samples, place))
        _times[case.kind] = run(own, environment).seconds
    return _times[case.kind]


def main() -> None:
    """Interrupt the runs that were asked for."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--runs", type=int, default=200)
    parser.add_argument("--seed", type=int, default=random.randrange(10**6))
    typed = parser.parse_args()
    print(f"seed {typed.seed}, {typed.runs:,} runs", flush=True)
    ends, faults = tried(typed.runs, typed.seed)
    print(json.dumps(ends, indent=1))
    for what, number in faults.most_common():
        print(f"{number:6} {what}")
    print(f"{faults.total():,} faults")
    raise SystemExit(bool(faults))


if __name__ == "__main__":
    main()
