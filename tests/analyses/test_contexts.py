"""Contexts of two nodes side by side: against a plain rule, and over documents where nothing differs."""

import math
import random
import unittest
from collections import Counter

import numpy as np

from millstone.analyses.collocates.compared import apart
from millstone.analyses.collocates.contexts import ContextPair, ContextSide, NearCounts, contexts
from millstone.analyses.collocates.near import BOTH, near_of
from millstone.analyses.collocates.settings import CollocatesSettings
from millstone.core.corpus.corpus import Corpus
from millstone.core.evidence.sampling import sampling_units
from millstone.core.matches.expressions import expression_from
from millstone.core.matches.matches import Matches, NamedWords, find_expression
from millstone.core.tables.table import Table
from millstone.core.terms.counts import count
from millstone.core.terms.term_map import map_terms
from tests.core.builders import corpus_of


def compared(corpus: Corpus, one: str, other: str, settings: CollocatesSettings) -> Table:
    """The contexts of two expressions in a corpus of one group."""
    term_map, words = map_terms(corpus), NamedWords(corpus)
    places = [find_expression(corpus, expression_from(text), words) for text in (one, other)]
    every = np.arange(len(corpus.tokens))
    sides = [
        ContextSide(name, NearCounts.of(corpus, term_map, own, near_of(corpus, own, settings, None)[BOTH]), every)
        for name, own in zip((one, other), apart(*places)[:2], strict=True)
    ]
    pair = ContextPair(corpus.groups[0], *sides)
    return contexts(count(corpus, term_map), [pair], sampling_units(corpus.documents), settings)


class Contexts(unittest.TestCase):
    def test_against_the_plain_rule(self):
        chance = random.Random(5)
        for trial in range(60):
            texts = [chance.choices("xyabcdef", k=chance.randint(0, 25)) for _ in range(chance.randint(3, 6))]
            texts[0] += ["x", "a"]
            texts[1] += ["b", "y"]
            span = chance.randint(0, 3), chance.randint(1, 3)
            settings = CollocatesSettings(span=span, min_together=chance.randint(1, 4))
            near = {node: [_near(text, node, span) for text in texts] for node in "xy"}
            together = {
                node: Counter(text[at] for text, places in zip(texts, own, strict=True) for at in places)
                for node, own in near.items()
            }
            freq = Counter(word for text in texts for word in text)
            size = {node: sum(map(len, own)) for node, own in near.items()}
            corpus = corpus_of([(str(n), "g", " ".join(text)) for n, text in enumerate(texts)], ordered=True)
            rows = {row["collocate"]: row for row in compared(corpus, "x", "y", settings).rows()}
            expected = {word for word in freq if together["x"][word] + together["y"][word] >= settings.min_together}
            with self.subTest(trial, texts=texts, span=span):
                self.assertEqual(rows.keys(), expected)
                for word, row in rows.items():
                    a, b = together["x"][word], together["y"][word]
                    self.assertEqual((row["together_target"], row["together_reference"]), (a, b))
                    every = size["x"] + size["y"]
                    likelihood = sum(
                        2 * number * math.log(number * every / (tokens * (a + b)))
                        for number, tokens in ((a, size["x"]), (b, size["y"]))
                        if number
                    )
                    self.assertAlmostEqual(row["ll"], likelihood)
                    if a and b:
                        self.assertAlmostEqual(row["log_ratio"], math.log2(a / size["x"] / (b / size["y"])))
                    for node, number, side in (("x", a, "target"), ("y", b, "reference")):
                        self.assertAlmostEqual(row[f"per_thousand_{side}"], 1000 * number / size[node])
                        docs = sum(
                            word in {text[at] for at in own} for text, own in zip(texts, near[node], strict=True)
                        )
                        self.assertEqual(row[f"docs_{side}"], docs)
                        if number:
                            both = 2 * min(number, freq[word], freq[node]) / (freq[word] + freq[node])
                            self.assertAlmostEqual(row[f"log_dice_{side}"], 14 + math.log2(both))
                        else:
                            self.assertTrue(math.isnan(row[f"log_dice_{side}"]))

    def test_places_that_overlap_count_on_neither_side(self):
        one = Matches(np.array([0, 5, 9, 14]), np.array([2, 1, 3, 1]))
        other = Matches(np.array([1, 7, 11]), np.array([1, 2, 2]))
        own, rest, shared = apart(one, other)
        self.assertEqual((own.start.tolist(), rest.start.tolist(), shared), ([5, 14], [7], 2))

    def test_chance_alone_passes_one_time_in_twenty(self):
        """Bursty contexts, and nodes given out by chance: to whole documents, or to each place."""
        for by_document in (True, False):
            with self.subTest(by_document=by_document):
                chance = np.random.default_rng(7)
                p = np.concatenate([_under_chance(chance, by_document) for _ in range(6)])
                self.assertGreater(len(p), 200)
                self.assertLess((p < 0.05).mean(), 0.075)
                self.assertGreater((p < 0.05).mean(), 0.015)


def _near(text: list[str], node: str, span: tuple[int, int]) -> set[int]:
    """The positions near any place of a node, a place itself only if it is near another."""
    places = [at for at, word in enumerate(text) if word == node]
    left, right = span
    return {
        at for at in range(len(text)) if any(place - left <= at <= place + right and at != place for place in places)
    }


def _under_chance(chance: np.random.Generator, by_document: bool) -> np.ndarray:
    """p of the terms near two nodes that differ by chance only."""
    words, base = 60, np.arange(1, 61) ** -0.8
    rows = []
    for number in range(60):
        # each document has its own taste, as topics have
        taste = base * chance.gamma(0.5, size=words)
        taste /= taste.sum()
        node = chance.integers(2)
        tokens = []
        for _ in range(int(chance.integers(2, 12))):
            near = chance.choice(words, 8, p=taste)
            which = node if by_document else chance.integers(2)
            tokens += [f"w{word}" for word in near[:4]] + ["xy"[which]] + [f"w{word}" for word in near[4:]]
        rows.append((str(number), "g", " ".join(tokens)))
    table = compared(corpus_of(rows, ordered=True), "x", "y", CollocatesSettings(span=(4, 4), min_together=20))
    mine = np.array([term.startswith("w") for term in table["collocate"]])
    return np.asarray(table["p"], dtype=float)[mine]
