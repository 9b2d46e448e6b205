"""Each part of the compiled part beside the arrays, or the Python, that do the same where there is no C compiler.

    python benchmarks/compiled.py [MEGABYTES] [RUNS]

Each line: a part, seconds of it and of the other (the least of the runs), and how many times as quick it is. A part
that gains less than 1.5 times is not worth its code.
"""

import codecs
import csv
import io
import sys
import time
from collections.abc import Callable
from contextlib import ExitStack
from unittest import mock

import numpy as np

from corpus import blocks
from millstone.core.base import arrays
from millstone.core.matrix import cells, totals
from millstone.core.matrix.cells import SparseMatrix, remap_columns
from millstone.core.scan.numbering import PADDING, ByteNumbering, CompiledNumbering
from millstone.core.tokenise import runs
from millstone.core.tokenise.runs import find_runs

SIZE, RUNS = float(sys.argv[1]) if len(sys.argv) > 1 else 20, int(sys.argv[2]) if len(sys.argv) > 2 else 5
BLOCK = 4 << 20
DOCUMENTS, COLUMNS = 4000, 50_000
CELLS = 2_000_000

Pair = tuple[Callable[[], object], Callable[[], object]]


def without(part: Callable[[], object]) -> Callable[[], object]:
    """A part as it is where the compiled part is missing."""

    def run() -> object:
        modules = (runs, cells, totals)
        with ExitStack() as stack:
            for one in modules:
                stack.enter_context(mock.patch.object(one, "compiled", None))
            return part()

    return run


def seconds(part: Callable[[], object]) -> float:
    """The least time of the runs."""
    found = []
    for _ in range(RUNS):
        start = time.perf_counter()
        part()
        found.append(time.perf_counter() - start)
    return min(found)


def text_parts() -> dict[str, Pair]:
    """What is done with the words of a text."""
    compiled = arrays.compiled
    text = "".join(blocks(SIZE)).lower().encode()
    pieces = [b" " + text[at : at + BLOCK] + b" " + PADDING for at in range(0, len(text), BLOCK)]
    found = [find_runs(piece) for piece in pieces]

    def number(numbering: CompiledNumbering | ByteNumbering) -> object:
        for piece, (starts, lengths) in zip(pieces, found, strict=True):
            numbering.numbers(piece, starts, lengths)
        return numbering

    def count_arrays() -> None:
        numbering = ByteNumbering()
        for piece in pieces:
            np.bincount(numbering.numbers(piece, *find_runs(piece)))

    quick, plain = CompiledNumbering(), ByteNumbering()
    number(quick)
    number(plain)
    every = np.random.default_rng(1).permutation(len(quick))
    counted = CompiledNumbering()
    return {
        "runs of a text": (
            lambda: [find_runs(one) for one in pieces],
            without(lambda: [find_runs(one) for one in pieces]),
        ),
        "numbers of strings": (lambda: number(CompiledNumbering()), lambda: number(ByteNumbering())),
        "runs counted": (lambda: [counted.count(one) for one in pieces], without(count_arrays)),
        "strings of numbers": (lambda: quick.strings(every), lambda: plain.strings(every)),
        "order of strings": (lambda: quick.ordered(every), lambda: plain.ordered(every)),
        "UTF-8 checked": (
            lambda: [compiled.whole(one) for one in pieces],
            lambda: [codecs.utf_8_decode(one) for one in pieces],
        ),
    }


def matrix_parts() -> dict[str, Pair]:
    """What is done with the cells of a matrix."""
    chance = np.random.default_rng(2)
    columns = (COLUMNS * chance.random(CELLS) ** 3).astype(np.int32)
    times = chance.integers(1, 9, CELLS).astype(np.int32)
    ends = np.linspace(0, CELLS, DOCUMENTS + 1).astype(np.int64)
    matrix = SparseMatrix(times, columns, ends, (DOCUMENTS, COLUMNS))
    other = chance.integers(-1, COLUMNS // 2, COLUMNS).astype(np.int32)

    def move() -> object:
        return remap_columns(matrix, other, COLUMNS // 2)

    def add() -> None:
        totals.added_times(times, columns, np.zeros(COLUMNS, dtype=np.int64))

    return {"columns remapped": (move, without(move)), "columns added up": (add, without(add))}


def table_parts() -> dict[str, Pair]:
    """What is done with a delimited file."""
    compiled = arrays.compiled
    text = "".join(blocks(SIZE))
    rows = io.StringIO(newline="")
    written = csv.writer(rows, lineterminator="\n")
    written.writerows([number, "a", text[at : at + 400]] for number, at in enumerate(range(0, len(text), 400)))
    data = rows.getvalue().encode()

    def find() -> None:
        found = compiled.rows(data, ord(","), ord('"'), True)
        assert found is not None
        starts, lengths = np.frombuffer(found[1], dtype=np.int64).reshape(-1, 3, 2)[:, 2].T
        starts, lengths = np.ascontiguousarray(starts), np.ascontiguousarray(lengths)
        compiled.joined(data, ord('"'), starts, lengths, np.empty(len(starts), dtype=np.int64))

    def read() -> None:
        b"\0".join([row[2].encode() for row in csv.reader(io.StringIO(data.decode(), newline=""))])

    return {"cells of a table": (find, read)}


def main() -> None:
    if arrays.compiled is None:
        sys.exit("there is no compiled part here: install with a C compiler")
    print(f"{'part':22} {'compiled':>9} {'arrays':>9} {'ratio':>6}")
    for name, (quick, plain) in (text_parts() | matrix_parts() | table_parts()).items():
        first, other = seconds(quick), seconds(plain)
        print(f"{name:22} {first:9.3f} {other:9.3f} {other / first:6.1f}")


if __name__ == "__main__":
    main()
