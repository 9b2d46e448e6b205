"""Runs the compiled part under the sanitizers of a C compiler: wrong addresses and undefined behaviour end the run.

    python tools/sanitize.py [--calls N] [--seed N]

The package is copied to a folder of its own with a compiled part that checks itself. Tests that use it are run there,
and then its functions are called many times with odd arguments; a call may be refused, and nothing else may happen.
"""

import argparse
import os
import random
import shutil
import subprocess
import sys
import sysconfig
import tempfile
from collections import Counter
from pathlib import Path

ROOT = Path(__file__).parent.parent
TESTS = (
    "tests.core.scan.test_numbering",
    "tests.core.test_arrays",
    "tests.core.scan.test_tokens",
    "tests.core.scan.test_workers",
)
FLAGS = (
    "-fsanitize=address,undefined",
    "-Wall",
    "-Werror",
    "-fno-sanitize-recover=all",
    "-fno-omit-frame-pointer",
    "-O1",
    "-g",
    "-DPy_LIMITED_API=0x030B0000",
)
OPTIONS = {"ASAN_OPTIONS": "detect_leaks=0:allocator_may_return_null=1", "UBSAN_OPTIONS": "print_stacktrace=1"}


def build(folder: Path) -> dict[str, str]:
    """Lay down the package with a compiled part that checks itself; the environment in which it is used."""
    source = folder / "src/millstone"
    shutil.copytree(ROOT / "src/millstone", source, ignore=shutil.ignore_patterns("*.so", "__pycache__"))
    for name in ("tests", "tools"):
        shutil.copytree(ROOT / name, folder / name, ignore=shutil.ignore_patterns("__pycache__"))
    compiler = sysconfig.get_config_var("CC").split()[0]
    made = source / "core/_compiled.abi3.so"
    parts = sorted((source / "core/compiled").glob("*.c"))
    include = sysconfig.get_path("include")
    options = ("-shared", "-fPIC", "-Wall", "-Wextra", "-Wno-unused-parameter", f"-I{include}", *FLAGS)
    subprocess.run([compiler, *options, *map(str, parts), "-o", str(made)], check=True)
    library = subprocess.run([compiler, "-print-file-name=libasan.so"], capture_output=True, text=True, check=True)
    return {**os.environ, **OPTIONS, "LD_PRELOAD": library.stdout.strip(), "PYTHONPATH": str(folder / "src")}


def call_oddly(number: int, seed: int) -> Counter[str]:
    """Call the functions with arrays that do not fit, and with some that do; how often each went through."""
    import numpy as np

    from millstone.core.base.arrays import compiled
    from millstone.core.tokenise.runs import RUN_TABLES

    assert compiled is not None, "the compiled part was not found"
    chance = random.Random(seed)
    table = compiled.Table()

    def text() -> bytes:
        letters = chance.choices((b"ice ", b"snow", b" ", b"-", b"'", b"\xc2\xa0", b"\xe2\x80\x99", b"\xff"), k=9)
        return b"".join(letters)[: chance.randrange(40)] + bytes(chance.choice((0, 3, 8, 8, 8)))

    def array(kind: str = "") -> object:
        kind = kind or chance.choice(("i4", "i8", "u1"))
        size = chance.choice((0, 1, 2, 3, 8, 33))
        values = np.array([chance.choice((0, 1, 2, 7, -1, 2**31 - 1, size)) for _ in range(size)]).astype(kind)
        if chance.random() < 0.1:
            # an array that begins between two numbers
            return np.frombuffer(b"\0" + values.tobytes(), dtype=np.uint8)[1:].view(values.dtype).copy(order="K")
        return values if chance.random() < 0.95 else values.view("u1")[:-1].copy()

    tables = (RUN_TABLES, RUN_TABLES, (b"\1" * 256, *RUN_TABLES[1:]), (b"", *RUN_TABLES[1:]))
    calls = (
        lambda: table.number(text(), array("i8"), array("i8"), array("i4")),
        lambda: table.count(text(), *chance.choice(tables)),
        lambda: table.count_each(text(), *chance.choice(tables), array("i8"), array("i8")),
        lambda: table.take(np.zeros(table.met(), "i4"), np.zeros(table.met(), "i8")),
        lambda: table.take(array("i4"), array("i8")),
        lambda: table.spelled(array("i8"), array("i8")),
        lambda: table.ordered(array("i8")),
        lambda: compiled.runs(text(), *chance.choice(tables), array("i8"), array("i8")),
        lambda: compiled.whole(text()),
        lambda: compiled.rows(text(), chance.randrange(256), chance.randrange(256), chance.random() < 0.5),
        lambda: compiled.joined(text(), 34, array("i8"), array("i8"), array("i8")),
        lambda: compiled.sums(array("i4"), array("i4"), array("i8")),
        lambda: compiled.moved(*(array(kind) for kind in ("i4", "i4", "i8", "i4", "i4", "i4", "i8"))),
        lambda: compiled.moved(array(), array(), array(), array(), array(), array(), array()),
    )
    went: Counter[str] = Counter()
    for _ in range(number):
        try:
            chance.choice(calls)()
            went["done"] += 1
        except (ValueError, IndexError, OverflowError, RuntimeError) as error:
            went[str(error)] += 1
    return went


def main() -> None:
    """Build, test, call."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--calls", type=int, default=200_000)
    parser.add_argument("--seed", type=int, default=random.randrange(10**6))
    parser.add_argument("--only-calls", action="store_true", help=argparse.SUPPRESS)
    asked = parser.parse_args()
    if asked.only_calls:
        for what, times in call_oddly(asked.calls, asked.seed).most_common():
            print(f"{times:10,} {what}")
        return
    with tempfile.TemporaryDirectory() as made:
        folder = Path(made)
        own = build(folder)
        print(f"seed {asked.seed}", flush=True)
        calls = ("tools/sanitize.py", "--only-calls", "--calls", str(asked.calls), "--seed", str(asked.seed))
        for command in (("-m", "unittest", *TESTS), calls):
            subprocess.run([sys.executable, *command], cwd=folder, env=own, check=True)


if __name__ == "__main__":
    main()
