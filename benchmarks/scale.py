"""What a list costs by tokens, different words, documents and cells, and whether that foretells another size.

    python benchmarks/scale.py FOLDER [MEGABYTES...]

Makes tables of several sizes (10, 100, 1000, 10000 and 3000 MB) with long and short rows in a folder, where they
stay, lists the words of each, and fits seconds and bytes to what the lists say of the texts. The last size is not
used to fit: it is foretold, and held against what was measured. Memory is fitted where it has room for all counts.
"""

import sys
from collections.abc import Sequence
from pathlib import Path

import numpy as np
import pandas as pd
from scipy.optimize import nnls

from measure import MILLSTONE, make, measured

SIZES = (10, 100, 1000, 10_000, 3000)
# characters of a row: a page, a message
ROWS = (4000, 400)
WHAT = ("run", "tokens", "terms", "documents", "cells")
# memory does not hold the text
HELD = ("run", "terms", "documents", "cells")
SMALL = 1200


def table_of(folder: Path, megabytes: int, characters: int) -> Path:
    """The table of a size, made where it is not there."""
    path = folder / f"{megabytes}_{characters}.csv"
    if not path.exists():
        make("corpus.py", str(megabytes), str(path), str(characters))
    return path


def listed(table: Path, *options: str) -> dict[str, float]:
    """Seconds and megabytes of a list of the words of a table, and what the list says of it."""
    words = table.with_name("words.csv")
    seconds, size = measured(
        (
            MILLSTONE,
            "freq",
            str(table),
            "--text",
            "text",
            "--no-cache",
            "--quiet",
            "--force",
            "-o",
            str(words),
            *options,
        )
    )
    found = pd.read_csv(words, usecols=["freq", "docs", "docs_percent"])
    words.unlink()
    # each document with a term is a cell, and the commonest term says how many documents there are
    documents = round(found["docs"][0] * 100 / found["docs_percent"][0])
    cells, tokens = int(found["docs"].sum()), int(found["freq"].sum())
    return {
        "run": 1,
        "tokens": tokens,
        "terms": len(found),
        "documents": documents,
        "cells": cells,
        "seconds": seconds,
        "megabytes": size,
    }


def fitted(runs: pd.DataFrame, what: str, by: Sequence[str]) -> pd.Series:
    """The cost of one run, token, term, document and cell, none below 0, by least squares of relative errors."""
    weighted = runs[list(by)].div(runs[what], axis=0)
    scale = weighted.max()
    return pd.Series(nnls((weighted / scale).to_numpy(), np.ones(len(runs)))[0] / scale, index=by)


def main(folder: Path, sizes: list[int]) -> None:
    *used, last = sizes
    runs = []
    for megabytes in (*used, last):
        for characters in ROWS if megabytes <= SMALL else ROWS[:1]:
            runs.append({"MB": megabytes, "row": characters, **listed(table_of(folder, megabytes, characters))})
            print({name: round(value, 2) for name, value in runs[-1].items()}, flush=True)
    table = pd.DataFrame(runs)
    known = table[table["MB"] != last]
    for what, some, by in (("seconds", known, WHAT), ("megabytes", known[known["MB"] <= SMALL], HELD)):
        cost = fitted(some, what, by)
        foretold = (table[list(by)] * cost).sum(axis=1)
        print(f"\n{what}: " + ", ".join(f"{value:.3g} per {name}" for name, value in cost.items()))
        for (_, run), value in zip(table.iterrows(), foretold, strict=True):
            label = "foretold" if run["MB"] == last else "fitted"
            print(f"{run['MB']:8.0f} MB, rows of {run['row']:5.0f}: {run[what]:9.1f}, {label} {value:9.1f}")


if __name__ == "__main__":
    main(Path(sys.argv[1]), [int(size) for size in sys.argv[2:]] or list(SIZES))
