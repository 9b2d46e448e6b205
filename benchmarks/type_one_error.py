"""How often tests of keyness find a difference where there is none.

    python benchmarks/type_one_error.py GUESTBOOK.csv [SHUFFLES] [FIGURE.png]

The entries of one hut are shuffled into two groups of equal size, again and again (default: 200 times). Printed is
the share of terms with p < 0.05 under each test, by the number of documents that have the term, half of those of
both groups; a right test has 5 %. GUESTBOOK is the table that `millstone demo` writes.
"""

import itertools
import sys

import numpy as np
import pandas as pd

from millstone.core.corpus.corpus import Document
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.scan.scan import scan
from millstone.core.statistics.document_tests import mann_whitney, permutation, rates_of, welch
from millstone.core.statistics.measures import log_likelihood
from millstone.core.statistics.significance import chi2_upper_tail
from millstone.core.table import Table
from millstone.core.terms.counts import Counts, count
from millstone.core.terms.term_map import map_terms

TESTS = ("ll", "welch", "rank", "permutation")
BOUNDS = (0, 1, 2, 3, 5, 8, 12, 20, 30, 50, 80, 10**9)
DRAWS = 499


def population(path: str) -> Counts:
    """The entries of the first hut."""
    table = pd.read_csv(path, dtype=str).dropna(subset=["entry"])
    entries = table.loc[table["hut"] == table["hut"].iloc[0], "entry"].tolist()
    corpus = scan(Document(str(number), "all", text) for number, text in enumerate(entries))
    counts = count(corpus, map_terms(corpus))
    return counts


def bursty(documents: int = 300, terms: int = 1500) -> Counts:
    """Made-up documents in which the rate of a word varies from one to the next, as that of topical words does."""
    chance = np.random.default_rng(3)
    base = chance.integers(150, 1500, documents)
    rates = 0.05 / (np.arange(terms) + 3)
    varied = rates * chance.gamma(0.5, 2.0, (documents, terms))
    matrix = SparseMatrix.of_dense(chance.poisson(varied * base[:, np.newaxis]).astype(np.int32))
    table = Table({"document": [str(one) for one in range(documents)], "group": "all"})
    names = np.array([f"term{number:05}" for number in range(terms)], dtype=object)
    return Counts(matrix, names, base.astype(np.int64), table, ("all",), {})


def shuffled(counts: Counts, shuffles: int) -> pd.DataFrame:
    """A row per term and shuffle: half of its documents, and whether each test has p < 0.05."""
    chance = np.random.default_rng(1)
    number = len(counts.base)
    parts = []
    for shuffle in range(shuffles):
        groups = np.where(chance.permutation(number) < number // 2, "a", "b")
        documents = counts.documents.with_columns({"group": groups})
        halves = Counts(counts.matrix, counts.terms, counts.base, documents, ("a", "b"), {})
        one, two = halves.part(("a",)), halves.part(("b",))
        wanted = np.flatnonzero(one.freq + two.freq)
        rates = rates_of(one, two, wanted, whole_units=True)
        p = {
            "ll": chi2_upper_tail(log_likelihood(one.freq[wanted], two.freq[wanted], one.tokens, two.tokens)),
            "welch": welch(rates),
            "rank": mann_whitney(rates),
            "permutation": permutation(rates, DRAWS, shuffle),
        }
        # not the number in one half, which itself says how uneven a shuffle is
        each = (one.docs[wanted] + two.docs[wanted]) // 2
        parts.append(pd.DataFrame({"docs": each, **{name: p[name] < 0.05 for name in TESTS}}))
    return pd.concat(parts, ignore_index=True)


def shares(found: pd.DataFrame) -> pd.DataFrame:
    """Percent with p < 0.05, by half of the documents that have the term."""
    labels = [f"{low}" if high == low + 1 else f"{low} to {high - 1}" for low, high in itertools.pairwise(BOUNDS)]
    labels[-1] = f"{BOUNDS[-2]} or more"
    binned = pd.cut(found["docs"], [bound - 0.5 for bound in BOUNDS], labels=labels)
    table = 100 * found.groupby(binned, observed=True)[list(TESTS)].mean()
    return table.assign(cases=found.groupby(binned, observed=True).size())


def draw(tables: dict[str, pd.DataFrame], path: str, shuffles: int) -> None:
    """The shares as lines, one per test; one panel per population."""
    import matplotlib as mpl

    from millstone.charts import theme
    from millstone.charts.settings import ChartSettings

    looks = dict(zip(TESTS, (("#d0612a", "s"), ("#17567a", "o"), ("#5fa8a0", "D"), ("#7c2f3a", "^")), strict=True))
    with mpl.rc_context(theme.STYLE):  # type: ignore[arg-type]
        figure = theme.new_figure()
        for axes, (title, table) in zip(figure.subplots(1, len(tables), sharey=True), tables.items(), strict=True):
            shown = table.drop(index="0", errors="ignore")
            axes.axhspan(4, 6, color=theme.FAINT)
            axes.axhline(5, color=theme.INK, linewidth=1)
            for name, (colour, mark) in looks.items():
                axes.plot(range(len(shown)), shown[name], color=colour, marker=mark, label=name)
            axes.set_xticks(range(len(shown)), shown.index.tolist(), rotation=35, ha="right")
            axes.set_xlabel("documents of a group that have the term, on the average of both")
            axes.set_title(title)
            axes.legend(loc="upper left")
        figure.axes[0].set_ylabel("percent of terms with p < 0.05")
        figure.axes[0].set_ylim(0, None)
        theme.heading(figure, ChartSettings(), "Differences found where there are none")
        text = (
            f"Documents of one population, shuffled into two groups {shuffles} times: every difference is chance, "
            "and a right test calls 5 % of them significant (line; band: 4 to 6 %). Log-likelihood (ll) takes each "
            "token as a separate observation; the others take each document as one."
        )
        theme.caption(figure, [text])
        figure.savefig(path, dpi=theme.DPI, metadata={"Software": None})


def main(path: str, times: int, figure: str) -> None:
    tables = {}
    for title, counts in (
        ("Guest-book entries of one hut", population(path)),
        ("Made-up bursty documents", bursty()),
    ):
        cases = shuffled(counts, times)
        tables[title] = shares(cases)
        print(title)
        print(tables[title].round(2).to_string())
        common = cases[cases["docs"] >= 20]
        print(f"20 documents or more a group: {(100 * common[list(TESTS)].mean()).round(2).to_dict()}")
    if figure:
        draw(tables, figure, times)


if __name__ == "__main__":
    main(sys.argv[1], int(sys.argv[2]) if len(sys.argv) > 2 else 200, sys.argv[3] if len(sys.argv) > 3 else "")
