"""Measures of variety against plain definitions, and the documents x terms table against the frequency list."""

import math
import random
import unittest
from unittest import mock

import numpy as np

from millstone.analyses.freq.compute import frequency_list
from millstone.analyses.matrix.compute import document_terms
from millstone.analyses.matrix.settings import MatrixSettings
from millstone.analyses.profile.compute import profile
from millstone.analyses.profile.measures import MEASURES
from millstone.analyses.profile.settings import ProfileSettings
from millstone.core.settings.preparation import Preparation
from millstone.core.statistics.richness import (
    mean_segment_ttr,
    moving_average_ttr,
    previous_places,
    textual_diversity,
    yule_k,
)
from millstone.core.terms.term_map import map_terms
from tests.core.builders import MINI, corpus_of, counts_of, framed, rows_of

frequency_list, profile = map(framed, (frequency_list, profile))


def ttr(tokens: list[int]) -> float:
    return len(set(tokens)) / len(tokens)


def mean(values: list[float]) -> float:
    return sum(values) / len(values) if values else math.nan


def plain_mtld(tokens: list[int]) -> float:
    def one_pass(tokens: list[int]) -> float:
        factors, seen, size = 0.0, set(), 0
        for token in tokens:
            seen.add(token)
            size += 1
            if len(seen) / size < 0.72:
                factors, seen, size = factors + 1, set(), 0
        return factors + (1 - len(seen) / size) / (1 - 0.72) if size else factors

    passes = [one_pass(tokens), one_pass(tokens[::-1])]
    return mean([len(tokens) / factors for factors in passes]) if all(passes) else math.nan


class Richness(unittest.TestCase):
    def assert_same(self, found: float, expected: float, what: object):
        if math.isnan(expected):
            self.assertTrue(math.isnan(found), what)
        else:
            self.assertAlmostEqual(found / expected, 1, delta=1e-12, msg=str(what))

    def test_against_the_definitions(self):
        chance = np.random.default_rng(4)
        for size in (0, 1, 2, 9, 60, 500, 2000):
            terms = chance.zipf(1.4, size) % 300
            before, tokens = previous_places(terms), terms.tolist()
            self.assert_same(textual_diversity(before), plain_mtld(tokens), ("mtld", size))
            for width in (1, 4, 100):
                windows = [tokens[at : at + width] for at in range(size - width + 1)]
                self.assert_same(moving_average_ttr(before, width), mean(list(map(ttr, windows))), (size, width))
                self.assert_same(
                    mean_segment_ttr(before, width), mean(list(map(ttr, windows[::width]))), (size, width)
                )

    def test_mtld_of_a_million_tokens(self):
        terms = np.random.default_rng(5).zipf(1.2, 1_000_000) % 200_000
        self.assert_same(textual_diversity(previous_places(terms)), plain_mtld(terms.tolist()), "mtld")

    def test_yule_k_by_hand(self):
        # V_1 = 2, V_3 = 1, N = 5: 1e4 (2 + 9 - 5) / 25
        self.assertAlmostEqual(yule_k(np.array([1, 3, 1])), 2400)
        self.assertEqual(yule_k(np.array([1, 1])), 0)


class Profile(unittest.TestCase):
    def test_groups_by_hand(self):
        corpus = corpus_of(MINI, ordered=True)
        frame = profile(
            corpus, map_terms(corpus, Preparation(length=(4, None))), ProfileSettings(segment=2, window=2)
        )
        columns = ("group", "documents", "tokens", "kept_tokens", "types", "hapaxes", "ttr", "mean_word_length")
        # A: red red blue, red green; B: blue blue blue green, yellow; C: red blue yellow yellow blue
        self.assertEqual(
            rows_of(frame, *columns),
            [("A", 2, 5, 2, 2, 2, 1.0, 4.5), ("B", 3, 5, 5, 3, 2, 0.6, 4.6), ("C", 1, 5, 4, 2, 0, 0.5, 5.0)],
        )
        # A: "Red red blue", "red.", "Green!"
        self.assertEqual([round(value, 3) for value in frame["mean_sentence_length"]], [round(5 / 3, 3), 2.5, 5.0])

    def test_documents_shorter_than_a_window_are_empty_and_one_group_is_its_document(self):
        corpus = corpus_of(
            [("1", "g", "ice snow ice"), ("2", "g", ""), ("3", "g", "snow ice snow rock")], ordered=True
        )
        term_map = map_terms(corpus)
        settings = ProfileSettings(per_document=True, segment=4, window=4)
        frame = profile(corpus, term_map, settings)
        self.assertEqual(frame["msttr"].isna().tolist(), [True, True, False])
        self.assertEqual(frame["tokens"].tolist(), [3, 0, 4])
        alone = corpus.keep(np.array([False, False, True]))
        whole = profile(alone, map_terms(alone), ProfileSettings(segment=4, window=4))
        for name in MEASURES:
            self.assert_equal_cells(whole[name].iloc[0], frame[name].iloc[2], name)

    def assert_equal_cells(self, one: float, other: float, name: str):
        self.assertTrue(one == other or (math.isnan(one) and math.isnan(other)), name)


class Matrix(unittest.TestCase):
    def setUp(self):
        chance = random.Random(9)
        words = ["ice", "snow", "rock", "fog", "sun"]
        texts = [
            " ".join(chance.choices(words, weights=(9, 5, 3, 1, 1), k=chance.randrange(0, 12))) for _ in range(30)
        ]
        self.counts = counts_of([(f"{n:02}", "AB"[n % 2], text) for n, text in enumerate(texts)])

    def test_groups_give_the_frequency_lists(self):
        table = document_terms(self.counts, MatrixSettings(by="group", transpose=True))
        listed = {
            (group, term): freq for group, term, freq in rows_of(frequency_list(self.counts), "group", "term", "freq")
        }
        found = {
            (group, term): int(value)
            for term, row in zip(table.rows["term"], table.values.toarray(), strict=True)
            for group, value in zip(table.names, row, strict=True)
            if value
        }
        self.assertEqual(found, listed)

    def test_weights_by_their_definitions(self):
        count = document_terms(self.counts).values.toarray()
        tokens, docs = count.sum(axis=1, keepdims=True), (count > 0).sum(axis=0)
        expected = {
            "count": count,
            "binary": count > 0,
            "relative": count / np.maximum(tokens, 1),
            "tfidf": count * np.log(len(count) / docs),
        }
        for weight, values in expected.items():
            table = document_terms(self.counts, MatrixSettings(weight=weight))
            np.testing.assert_allclose(table.values.toarray(), values, rtol=1e-14, err_msg=weight)

    def test_the_parts_are_the_whole(self):
        table = document_terms(self.counts, MatrixSettings(min_docs=3))
        with mock.patch("millstone.core.tables.matrix_result.BATCH_CELLS", 8):
            parts = list(table.batches())
        self.assertGreater(len(parts), 5)
        self.assertEqual(sum(len(part[0]) for part in parts), 30)
        self.assertEqual(table.columns[-len(table.names) :], table.names.tolist())
        together = np.concatenate([np.stack(part[-len(table.names) :], axis=1) for part in parts])
        self.assertEqual(together.tolist(), table.values.toarray().tolist())


if __name__ == "__main__":
    unittest.main()
