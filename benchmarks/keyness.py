"""Keyness of large lists and of many documents, beside reading the same tables with pandas.

    python benchmarks/keyness.py [TERMS]

Prints seconds, ratios and the limits wanted: two lists of TERMS different terms (default: 1,000,000), twenty groups
of 50,000 terms each against the rest, a permutation test on 5,000 documents, and TERMS terms in 20,000 documents
compared over documents and over tokens, each in a process of its own.
"""

import resource
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
import pandas as pd

from measure import MILLSTONE, measured
from millstone.analyses.keyness.compute import keyness
from millstone.analyses.keyness.settings import KeynessSettings
from millstone.core.evidence.document_tests import permutation, rates_of
from millstone.core.evidence.sampling import sampling_units
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.tables.table import Table
from millstone.core.terms.counts import Counts, count
from millstone.core.terms.frequency_lists import added_up, corpus_of_lists, with_listed
from millstone.core.terms.term_map import map_terms


def lists(terms: int, groups: int, seed: int = 1) -> pd.DataFrame:
    """A long table ``group, term, freq`` of terms that most groups share."""
    chance = np.random.default_rng(seed)
    expected = 5e6 / (np.arange(1, terms + 1) + 2.7) ** 1.1 + 1.5
    # a list by frequency is in no order of its terms
    names = [f"term{number}" for number in chance.permutation(terms)]
    parts = []
    for group in range(groups):
        freq = chance.poisson(expected * np.exp(chance.normal(0, 0.4, terms)))
        part = pd.DataFrame({"group": f"g{group}", "term": names, "freq": freq})
        parts.append(part[part["freq"] > 0])
    return pd.concat(parts, ignore_index=True)


def counts_of(table: pd.DataFrame) -> Counts:
    """The same as the program counts it."""
    of_groups = {
        str(group): added_up(rows["term"].to_numpy(dtype=object), rows["freq"].to_numpy())
        for group, rows in table.groupby("group", sort=False)
    }
    corpus = corpus_of_lists(of_groups)
    term_map = map_terms(corpus)
    return with_listed(count(corpus, term_map), corpus, term_map, of_groups)


def timed(work: Callable[[], object]) -> float:
    """Seconds that something takes, the least of three times."""
    found = []
    for _ in range(3):
        start = time.perf_counter()
        work()
        found.append(time.perf_counter() - start)
    return min(found)


def compared(name: str, folder: Path, table: pd.DataFrame, against: str) -> None:
    """A table of lists: computing in the process, and the whole command, beside reading it with pandas."""
    paths = []
    for group, rows in table.groupby("group", sort=False):
        paths.append(folder / f"{group}.csv")
        rows[["term", "freq"]].to_csv(paths[-1], index=False)
    reading = timed(lambda: [pd.read_csv(path) for path in paths])
    counts = counts_of(table)
    computing = timed(lambda: keyness(counts, KeynessSettings(measures=("all",), against=against)))
    command = [MILLSTONE, "keyness", *map(str, paths), "--lists", "--against", against, "--top", "1000", "--quiet"]
    whole, memory = measured(command)
    read_all = "import sys, pandas; [pandas.read_csv(path) for path in sys.argv[1:]]"
    process, _ = measured([sys.executable, "-c", read_all, *map(str, paths)])
    print(f"{name}: reading with pandas {reading:.2f} s, in its own process {process:.2f} s")
    print(f"  all measures in the process {computing:.2f} s, ratio {computing / reading:.1f} (3 at most)")
    print(
        f"  the command with --top 1000 {whole:.2f} s, ratio {whole / reading:.1f} (5 at most), "
        f"{memory:.0f} MB; ratio to the process that reads {whole / process:.1f}"
    )


def permuted(documents: int, terms: int, draws: int) -> None:
    """Seconds of a permutation test."""
    chance = np.random.default_rng(2)
    probability = 1 / (np.arange(terms) + 20)
    rows = [
        np.unique(chance.choice(terms, 700, p=probability / probability.sum()), return_counts=True)
        for _ in range(documents)
    ]
    ends = np.cumsum([0, *(len(found) for found, _ in rows)])
    cells = (np.concatenate([times for _, times in rows]), np.concatenate([found for found, _ in rows]), ends)
    matrix = SparseMatrix(*cells, (documents, terms))
    half = documents // 2
    groups = ["a"] * half + ["b"] * (documents - half)
    table = Table({"document": [str(one) for one in range(documents)], "group": groups})
    names = np.array([f"term{number:06}" for number in range(terms)], dtype=object)
    counts = Counts(matrix, names, np.full(documents, 700), table, ("a", "b"), {})
    sides = counts.part(("a",)), counts.part(("b",))
    seconds = timed(lambda: permutation(rates_of(*sides, np.arange(terms), sampling_units(table)), draws, 1))
    print(f"permutation, {draws} draws, {documents:,} documents x {terms:,} terms: {seconds:.1f} s (60 at most)")


def many_documents(documents: int, terms: int) -> Counts:
    """Counts of a few common terms and many rare ones in documents of very different length."""
    chance = np.random.default_rng(1)
    base = chance.integers(100, 3000, documents)
    size = int(base.sum())
    common = (20_000 ** chance.random(size)).astype(np.int64)
    rare = (terms ** (0.55 + 0.45 * chance.random(size))).astype(np.int64)
    column = np.where(chance.random(size) < 0.8, common, rare) % terms
    ones = np.ones(size, np.int32)
    matrix = SparseMatrix.of_cells(ones, np.repeat(np.arange(documents), base), column, (documents, terms))
    groups = np.repeat(["a", "b"], (documents // 2, documents - documents // 2)).tolist()
    table = Table({"document": [str(one) for one in range(documents)], "group": groups})
    names = np.array([f"term{number:07}" for number in range(terms)], dtype=object)
    return Counts(matrix, names, base, table, ("a", "b"), {})


def over_documents(terms: int) -> None:
    """Seconds and memory of the tests over documents and over tokens, with the intervals of all terms."""
    found = {}
    for test in ("ll", "documents"):
        work = f"import sys; sys.path.insert(0, {str(Path(__file__).parent)!r}); import keyness as one"
        work = f"{work}; one.keyness_of({terms}, {test!r})"
        run = subprocess.run([sys.executable, "-c", work], capture_output=True, text=True, check=True)
        found[test] = [float(one) for one in run.stdout.split()]
    (tokens, small), (documents, large) = found["ll"], found["documents"]
    print(
        f"{terms:,} terms in 20,000 documents, all rows: over tokens {tokens:.1f} s, over documents {documents:.1f} s"
    )
    print(f"  ratio {documents / tokens:.1f} (2.5 at most), {large - small:+.0f} MB (500 more at most)")


def keyness_of(terms: int, test: str) -> None:
    """Print the seconds that a comparison takes, and the memory of the process in megabytes."""
    counts = many_documents(20_000, terms)
    start = time.perf_counter()
    keyness(counts, KeynessSettings(test=test))
    print(time.perf_counter() - start, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024)


def fields_held(documents: int, terms: int) -> None:
    """Seconds of ratios with two categories and a number held equal, beside those without."""
    chance = np.random.default_rng(3)
    counts = many_documents(documents, terms)
    fields = {
        "genre": [f"genre {one}" for one in chance.integers(0, 6, documents)],
        "place": [f"place {one}" for one in chance.integers(0, 12, documents)],
        "year": [str(one) for one in chance.integers(1950, 2000, documents)],
    }
    counts = replace(counts, documents=counts.documents.with_columns(fields))
    plain = timed(lambda: keyness(counts, KeynessSettings()))
    held = timed(lambda: keyness(counts, KeynessSettings(adjust_for=("genre", "place", "year:number"))))
    print(
        f"{terms:,} terms in {documents:,} documents: {plain:.1f} s; with three fields held equal {held:.1f} s "
        "(20 at most)"
    )


def main(terms: int) -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        compared(f"two lists of {terms:,} terms", folder, lists(terms, 2), "rest")
        compared(f"20 lists of {terms // 20:,} terms", folder, lists(terms // 20, 20), "rest")
    permuted(5000, terms // 50, 999)
    over_documents(terms)
    fields_held(1000, terms // 200)


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 1_000_000)
