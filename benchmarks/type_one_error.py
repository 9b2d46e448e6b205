"""How often tests of keyness find a difference where there is none, and how often intervals hold the true ratio.

    python benchmarks/type_one_error.py GUESTBOOK.csv [RUNS] [FIGURE.png]

Texts of one population are put on two sides at random, again and again (default: 100 times); every difference is
chance then. Printed is, by design and test, the percentage of terms with p < 0.05, of which a right test has 5,
and of runs in which any term has an adjusted p below 0.05; and how often the 95 % intervals over documents and over
tokens hold the true ratio, where it is 1 and where it is 4. GUESTBOOK is the table that `millstone demo` writes; the
other texts are made up of words whose rates vary from text to text, as those of topical words do.
"""

import sys
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import pandas as pd

from millstone.analyses.keyness.compute import keyness
from millstone.analyses.keyness.settings import KeynessSettings
from millstone.core.corpus.corpus import Document
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.scan.scan import scan
from millstone.core.tables.table import Table
from millstone.core.terms.counts import Counts, count
from millstone.core.terms.term_map import map_terms

TESTS = ("ll", "welch", "rank", "permutation", "documents")
TERMS, DRAWS, LEAST = 300, 199, 10
Made = Callable[[np.random.Generator, float], Counts]
"""Texts of which those of the group A have the given number of times the rates of the others."""


@dataclass(frozen=True)
class Design:
    """Texts on two sides: how they are made or drawn, and what their sampling units are taken to be."""

    name: str
    made: Made
    unit: str = ""
    can_differ: bool = True


def counts_of(matrix: np.ndarray, base: np.ndarray, groups: np.ndarray, author: np.ndarray) -> Counts:
    """Counts of made-up terms."""
    names = [str(one) for one in range(len(base))]
    table = Table({"document": names, "group": groups.astype(object), "author": author.astype(str).astype(object)})
    terms = np.array([f"term{number:04}" for number in range(matrix.shape[1])], dtype=object)
    return Counts(SparseMatrix.of_dense(matrix.astype(np.int32)), terms, base, table, ("A", "B"), {})


def bursty(sides: tuple[int, int], tokens: tuple[int, int], texts_each: int = 1) -> Made:
    """Authors of one or more texts each; how much a word varies between authors differs from word to word."""

    def made(chance: np.random.Generator, ratio: float) -> Counts:
        authors = np.repeat(np.arange(sum(sides)), texts_each)
        groups = np.where(authors < sides[0], "A", "B")
        base = chance.integers(*tokens, len(authors))
        # function words vary little, topical ones much
        shape = 10 ** chance.uniform(-0.7, 1.3, TERMS)
        rate = 10 ** chance.uniform(-4.5, -2.5, TERMS) * chance.gamma(shape, 1 / shape, (sum(sides), TERMS))[authors]
        varied = rate * chance.gamma(3, 1 / 3, (len(authors), TERMS))
        varied[groups == "A"] *= ratio
        return counts_of(chance.poisson(varied * base[:, np.newaxis]), base.astype(np.int64), groups, authors)

    return made


def drawn(path: str, sides: tuple[int, int]) -> Made:
    """Entries of one hut's guest book."""
    table = pd.read_csv(path, dtype=str).dropna(subset=["entry"])
    entries = table.loc[table["hut"] == table["hut"].iloc[0], "entry"].tolist()
    corpus = scan(Document(str(number), "all", text) for number, text in enumerate(entries))
    counts = count(corpus, map_terms(corpus))

    def made(chance: np.random.Generator, ratio: float) -> Counts:
        rows = chance.permutation(len(entries))[: sum(sides)]
        documents = counts.documents.at(rows)
        documents = documents.with_columns({"group": np.repeat(["A", "B"], sides).astype(object)})
        return Counts(counts.matrix.rows(rows), counts.terms, counts.base[rows], documents, ("A", "B"), {})

    return made


def designs(path: str) -> list[Design]:
    """The designs, the more usual first."""
    return [
        Design("books, 33 against 33", bursty((33, 33), (40_000, 120_000))),
        Design("books, 3 against 3", bursty((3, 3), (40_000, 120_000))),
        Design("chapters, 200 against 200", bursty((200, 200), (2000, 6000))),
        Design("chapters, 5 against 100", bursty((5, 100), (2000, 6000))),
        Design("guest-book entries, 167 against 167", drawn(path, (167, 167)), can_differ=False),
        Design("guest-book entries, 20 against 300", drawn(path, (20, 300)), can_differ=False),
        Design("ten texts of each of 40 authors, unit: author", bursty((20, 20), (1000, 3000), 10), "author"),
        Design("the same, each text taken for a unit", bursty((20, 20), (1000, 3000), 10)),
    ]


def chance_findings(design: Design, runs: int) -> pd.DataFrame:
    """Percent of terms with p < 0.05, and of runs with any adjusted p below it, by test."""
    chance, found = np.random.default_rng(1), {test: list[tuple[float, bool]]() for test in TESTS}
    for _ in range(runs):
        counts = design.made(chance, 1.0)
        for test in TESTS:
            asked = KeynessSettings(
                test=test, min_freq=LEAST, measures=("p",), draws=DRAWS, sampling_unit=design.unit
            )
            table = keyness(counts, asked).to_frame()
            p = table["p"].dropna()
            found[test].append(
                (float((p < 0.05).mean()) if len(p) else np.nan, bool((table["p_adjusted"] < 0.05).any()))
            )
    return 100 * pd.DataFrame({test: pd.DataFrame(rows).mean() for test, rows in found.items()}).T


def coverage(design: Design, runs: int, ratio: float) -> dict[str, float]:
    """Percent of terms on both sides whose 95 % interval holds the true ratio, over documents and over tokens."""
    chance, found = np.random.default_rng(2), {"documents": list[float](), "tokens": list[float]()}
    for _ in range(runs):
        counts = design.made(chance, ratio)
        for over, shares in found.items():
            asked = KeynessSettings(interval=over, min_freq=LEAST, sampling_unit=design.unit)
            table = keyness(counts, asked).to_frame()
            low, high = table["log_ratio_low"].fillna(-np.inf), table["log_ratio_high"].fillna(np.inf)
            shares.append(float(((low <= np.log2(ratio)) & (high >= np.log2(ratio))).mean()))
    return {over: 100 * float(np.mean(shares)) for over, shares in found.items()}


def draw(names: Sequence[str], found: pd.DataFrame, covered: pd.DataFrame, path: str, runs: int) -> None:
    """Two panels: what tests find by chance, and what intervals hold."""
    import matplotlib as mpl

    from millstone.outputs.charts import theme
    from millstone.outputs.charts.settings import ChartSettings

    looks = dict(
        zip(
            TESTS,
            (("#d0612a", "s"), ("#5fa8a0", "D"), ("#7c2f3a", "^"), ("#8a8f3c", "v"), ("#17567a", "o")),
            strict=True,
        )
    )
    with mpl.rc_context(theme.STYLE):  # type: ignore[arg-type]
        figure = theme.new_figure()
        left, right = figure.subplots(1, 2, sharey=True, width_ratios=(3, 2))
        for test, (colour, mark) in looks.items():
            shares = found.xs(test, level="test")["terms"].reindex(names)
            left.plot(shares, range(len(names)), mark, color=colour, label=test, markersize=8)
        for over, (colour, mark) in (("tokens", looks["ll"]), ("documents", looks["documents"])):
            for ratio, face in ((1, colour), (4, "white")):
                shares = covered[(over, ratio)].reindex(names)
                label = f"over {over}, true ratio {ratio}"
                right.plot(
                    shares, range(len(names)), mark, color=colour, markerfacecolor=face, label=label, markersize=8
                )
        for axes, at, text in (
            (left, 5, "percent of terms with p < 0.05"),
            (right, 95, "percent of intervals that hold the true ratio"),
        ):
            axes.axvline(at, color=theme.INK, linewidth=1)
            axes.grid(axis="both")
            axes.set_xlabel(text)
            axes.legend(loc="upper center", bbox_to_anchor=(0.5, -0.09), ncols=3 if axes is left else 2)
        theme.name_rows(left, list(names))
        any_term = {test: found.xs(test, level="test")["runs"].reindex(names) for test in ("ll", "documents")}
        pairs = zip(any_term["ll"], any_term["documents"], strict=True)
        theme.right_edge(left, [f"{one:.0f} : {other:.0f}" for one, other in pairs], "runs, %")
        left.set_xlim(0, None)
        right.set_xlim(None, 100)
        theme.heading(
            figure, ChartSettings(), "Differences found where there are none, and intervals that hold the truth"
        )
        text = (
            f"Left: texts of one population on two sides at random, {runs} times: every difference is chance, and a "
            "right test calls 5 % of the terms significant (line). ll takes each token for drawn by itself, the "
            "others each text. Beside it: in how many runs any term has an adjusted p below 0.05, by ll : by "
            "documents. "
            "Right: how often the 95 % intervals hold the true ratio of the rates (line: 95 %); of "
            "the guest book it is 1."
        )
        theme.caption(figure, [text])
        figure.savefig(path, dpi=theme.DPI, metadata={"Software": None})


def main(path: str, runs: int, figure: str) -> None:
    tested, covered = {}, {}
    for design in designs(path):
        tested[design.name] = chance_findings(design, runs).set_axis(["terms", "runs"], axis=1)
        covered[design.name] = {
            (over, ratio): share
            for ratio in ((1, 4) if design.can_differ else (1,))
            for over, share in coverage(design, max(runs // 4, 5), ratio).items()
        }
        print(design.name)
        print(tested[design.name].round(1).T.to_string())
        print(
            "  intervals:",
            {f"{over}, ratio {ratio}": round(share, 1) for (over, ratio), share in covered[design.name].items()},
            flush=True,
        )
    if figure:
        found = pd.concat(tested, names=["design", "test"])
        draw(list(tested), found, pd.DataFrame.from_dict(covered, orient="index"), figure, runs)


if __name__ == "__main__":
    main(sys.argv[1], int(sys.argv[2]) if len(sys.argv) > 2 else 100, sys.argv[3] if len(sys.argv) > 3 else "")
