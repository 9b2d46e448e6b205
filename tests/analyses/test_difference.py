"""Words used differently in two groups: against a plain rule, every way counted, by chance, and a planted swap."""

import itertools
import math
import unittest
from collections import Counter

import numpy as np

from millstone.analyses.alike.compute import context_from, readable_contexts
from millstone.analyses.alike.difference import commonest_terms, differences
from millstone.analyses.alike.settings import AlikeSettings
from millstone.core.base.errors import DataError
from millstone.core.evidence.sampling import sampling_units
from millstone.core.tables.table import Table
from millstone.core.terms.term_map import map_terms
from tests.core.builders import corpus_of

TEXTS = (
    ("1", "a", "the bank of the river is wet. we sat on the bank of it"),
    ("2", "a", "a bank by the river. the wet bank is green"),
    ("3", "b", "the bank has money. my bank has it"),
    ("4", "b", "we sat on the river. the money of my bank is green by the bank"),
)


def compared(rows, words, **settings):
    corpus = corpus_of(rows, ordered=True)
    term_map = map_terms(corpus)
    nodes = {word: found for word, found in commonest_terms(corpus, term_map, 10_000).items() if word in words}
    units = sampling_units(corpus.documents)
    notes: list[str] = []
    options = AlikeSettings(min_freq=2, **settings)
    return differences(corpus, term_map, nodes, [("a", "b")], units, options, notes.append), notes


def plain_difference(rows, node: str) -> float:
    """1 less the cosine over contexts whose word both groups have, as the formula says it, word by word."""
    times: dict[str, Counter] = {"a": Counter(), "b": Counter()}
    contexts, total = Counter(), 0
    have: dict[str, set[str]] = {"a": set(), "b": set()}
    for _, group, text in rows:
        for sentence in text.split(". "):
            words = sentence.split()
            have[group] |= set(words)
            for at, distance in itertools.product(range(len(words)), (-2, -1, 1, 2)):
                if 0 <= at + distance < len(words):
                    context = distance, words[at + distance]
                    contexts[context] += 1
                    total += 1
                    if words[at] == node and words[at + distance] != node:
                        times[group][context] += 1
    raised = {context: number**0.75 for context, number in contexts.items()}
    scale = total / sum(raised.values())
    vectors = {}
    for group, own in times.items():
        all_own = sum(own.values())
        vectors[group] = {
            context: max(0.0, math.log(number * total / (all_own * raised[context] * scale)))
            for context, number in own.items()
            if context[1] in have["a"] & have["b"]
        }
    dot = sum(weight * vectors["b"].get(context, 0) for context, weight in vectors["a"].items())
    sizes = [math.sqrt(sum(weight**2 for weight in own.values())) for own in vectors.values()]
    return 1 - dot / (sizes[0] * sizes[1]) if all(sizes) else 1.0


class Formula(unittest.TestCase):
    def test_the_plain_rule_and_every_way_to_put_units_on_the_sides(self) -> None:
        table, _ = compared(TEXTS, {"bank"})
        row = next(table.rows())
        self.assertAlmostEqual(row["difference"], plain_difference(TEXTS, "bank"))
        self.assertEqual((row["freq_target"], row["freq_reference"]), (4, 4))
        # six ways, of which each has two texts with four occurrences a side
        ways = [
            plain_difference([(n, "a" if n in first else "b", t) for n, _, t in TEXTS], "bank")
            for first in itertools.combinations("1234", 2)
        ]
        self.assertAlmostEqual(row["p"], np.mean(np.array(ways) >= row["difference"] - 1e-9))
        self.assertAlmostEqual(row["chance"], np.mean(ways))
        self.assertEqual(row["p_adjusted"], row["p"])

    def test_contexts_are_read_back_as_they_are_written(self) -> None:
        words = ["at", "of", "the", "new york", "zip", "half"]
        known = {word: number for number, word in enumerate(words)}
        for chosen, joined in (
            ([(1, 1), (2, 2)], {(1, 1, 2)}),
            ([(-1, 2), (-2, 0)], {(-1, 2, 0)}),
            ([(2, 4)], ()),
            ([(-2, 0)], ()),
            ([(1, 3)], ()),
            ([(-1, 3), (-2, 5)], {(-1, 3, 5)}),
        ):
            (text,) = readable_contexts(words, chosen, joined)
            self.assertEqual(context_from(text, known), dict(chosen), text)
        for wrong in ("", "_", "no sign", "_ unknown", "_ of nothing"):
            self.assertEqual(context_from(wrong, known), {})

    def test_what_cannot_be_compared_is_said(self) -> None:
        rows = [*TEXTS, ("5", "a", "only here only"), ("6", "b", "wet wet")]
        table, notes = compared(rows, {"bank", "only", "money"})
        self.assertEqual(table["node"].tolist(), ["bank"])
        self.assertIn("in a, and not in b: 'only'", notes)
        self.assertIn("in b, and not in a: 'money'", notes)
        with self.assertRaisesRegex(DataError, "nothing can be compared: in a, and not in b: 'only'"):
            compared(rows, {"only"})


def bursty(chance: np.random.Generator, swapped: bool = False, rarer: float = 1.0) -> list[tuple[str, str, str]]:
    """Texts of two groups in which words come in bursts; x and y may change places in the second one."""
    found = []
    before, behind = [f"b{n}" for n in range(6)], [f"f{n}" for n in range(6)]
    for number in range(24):
        group = "ab"[number % 2]
        favoured = chance.gamma(0.7, 1, 6), chance.gamma(0.7, 1, 6)
        sentences = []
        for _ in range(int(chance.integers(6, 14))):
            one, other = (
                chance.choice(words, p=f / f.sum()) for words, f in zip((before, behind), favoured, strict=True)
            )
            # x is what follows a b, y what precedes an f
            used = [str(one), "x", "and", "y", str(other)]
            if swapped and group == "b":
                used[1], used[3] = used[3], used[1]
            if group == "b" and chance.random() > rarer:
                used[1] = "z"
            sentences.append(" ".join(used))
        found.append((str(number), group, ". ".join(sentences)))
    return found


class Chance(unittest.TestCase):
    def p_of(self, runs: int, **further: float) -> np.ndarray:
        tables = [
            compared(bursty(np.random.default_rng(seed), **further), {"x"}, draws=39)[0] for seed in range(runs)
        ]
        return np.array([table["p"][0] for table in tables])

    def test_p_is_uniform_where_nothing_differs_and_where_only_the_frequency_does(self) -> None:
        for further in ({}, {"rarer": 0.4}):
            p = self.p_of(60, **further)
            with self.subTest(**further):
                # the mean of p has a standard error of 0.04
                self.assertLess(abs(p.mean() - 0.51), 0.13)
                self.assertLessEqual((p <= 0.05).mean(), 0.15)

    def test_a_swap_of_two_words_is_found(self) -> None:
        table, _ = compared(bursty(np.random.default_rng(1), swapped=True), {"x", "y", "and", "b0", "f0"}, draws=199)
        rows = {row["node"]: row for row in table.rows()}
        self.assertEqual({table["node"][0], table["node"][1]}, {"x", "y"})
        for word in ("x", "y"):
            self.assertLess(rows[word]["p_adjusted"], 0.05)
            self.assertGreater(rows[word]["difference"], rows[word]["chance_high"])
        self.assertIn("_", rows["x"]["contexts_target"])
        self.assertIsInstance(table, Table)


if __name__ == "__main__":
    unittest.main()
