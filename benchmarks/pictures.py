"""What is shown to others: word clouds, and the report of a large study.

    python benchmarks/pictures.py [SCALE]

SCALE 1 (default) draws clouds of 200 words and makes the report of a study of 40 steps, with five million rows in
all tables. Prints seconds, and the ratio to a bar chart of the plotting library, or of the page to the same rows as
pandas writes them.
"""

import io
import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

import numpy as np
import pandas as pd
from matplotlib.figure import Figure

from measure import MILLSTONE, measured
from millstone.analyses.freq import figures as frequency
from millstone.analyses.freq.schema import schema
from millstone.core.corpus.corpus import GroupSize
from millstone.core.tables.result import Result
from millstone.core.tables.table import Table
from millstone.outputs.charts.draw import drawn
from millstone.outputs.charts.settings import FrequencyChartSettings

RUNS, STEPS, ROWS = 3, 40, 200
LETTERS = list("aeioubdfgklmnprstvwz")


def seconds(what: Callable[[], object]) -> float:
    """The median time of several runs, start-up and the first run left aside."""
    what()
    taken = []
    for _ in range(RUNS):
        start = time.perf_counter()
        what()
        taken.append(time.perf_counter() - start)
    return statistics.median(taken)


def lists(groups: int, words: int) -> Result:
    """Frequency lists of made-up words, with rates as they are in texts."""
    chance = np.random.default_rng(1)
    rows = [
        (f"g{group}", rank, "".join(chance.choice(LETTERS, chance.integers(3, 11))), words - rank, 1e5 / rank, 1)
        for group in range(groups)
        for rank in range(1, words + 1)
    ]
    frame = pd.DataFrame(rows, columns=["group", "rank", "term", "freq", "per_million", "docs"])
    sizes = tuple(GroupSize(f"g{group}", 1, 9) for group in range(groups))
    return Result("freq", Table.of_frame(frame), schema().by_name, sizes)


def bars() -> None:
    """A plain bar chart."""
    figure = Figure(figsize=(12.8, 8), layout="constrained")
    figure.subplots().barh(range(60), range(60))
    figure.savefig(io.BytesIO(), format="png")


def clouds(words: int) -> None:
    """Clouds of so many words in all, in one panel and in three, beside the other figure of the same lists."""
    plain = seconds(bars)
    print(f"{'a bar chart of the plotting library':44}{plain:8.2f}")
    for groups in (1, 3):
        result = lists(groups, words // groups)
        for name, figure in (("cloud", frequency.draw_cloud), ("terms", frequency.draw_lists)):
            settings = FrequencyChartSettings(chart_top=words // groups if name == "cloud" else 15)
            taken = seconds(partial(drawn, result, settings, {"terms": figure}, [".png"], []))
            print(f"{f'{name}, {words} words, panels: {groups}':44}{taken:8.2f}{taken / plain:7.1f}", flush=True)


def report(scale: float) -> None:
    """The page of a study of many steps with long tables, and how long the steps take without it."""
    with tempfile.TemporaryDirectory() as made:
        folder = Path(made)
        chance = np.random.default_rng(2)
        words = np.array(["".join(chance.choice(LETTERS, 7)) for _ in range(60_000)], dtype=object)
        for group in "ABC":
            text = " ".join(words[chance.integers(0, len(words), int(40_000 * scale))])
            (folder / f"{group}.txt").write_text(text, "utf-8")
        steps = [
            f'[[step]]\ncommand = "{command}"\noutput = "{number}.csv"\nchart = "{number}.svg"\n{more}'
            for number in range(STEPS)
            for command, more in (
                (("freq", ""), ("keyness", ""), ("logodds", ""), ("freq", "ngram = 2\n"))[number % 4],
            )
        ]
        study = folder / "study.toml"
        study.write_text(f'[study]\noutput = "out"\n[corpus]\ninput = ["A.txt", "B.txt", "C.txt"]\n{"".join(steps)}')
        without, _ = measured([MILLSTONE, "run", str(study), "--no-report", "--quiet"])
        taken, peak = measured([MILLSTONE, "run", str(study), "--quiet"])
        size = (folder / "out" / "report.html").stat().st_size
        tables = [pd.read_csv(folder / "out" / f"{number}.csv") for number in range(STEPS)]
        blocks = [["target", "reference"] if "target" in one else ["group"] for one in tables]
        shown = [one.groupby(by, sort=False).head(ROWS) for one, by in zip(tables, blocks, strict=True)]
        other = sum(len(one.to_html()) for one in shown)
        print(f"{f'{STEPS} steps, {sum(map(len, tables)):,} rows':44}{without:8.1f}")
        print(f"{'with the report':44}{taken:8.1f}{taken / without:7.2f}{peak:9.0f} MB")
        print(f"{'the page, in MB; tables alone by pandas':44}{size / 1e6:8.1f}{other / 1e6:8.1f}")


if __name__ == "__main__":
    of_full = float(sys.argv[1]) if len(sys.argv) > 1 else 1.0
    clouds(int(200 * of_full) or 10)
    report(of_full)
