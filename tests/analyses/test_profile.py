"""Measures of variety against plain definitions, and the documents x terms table against the frequency list."""

import math
import random
import unittest
from unittest import mock

import numpy as np
from scipy import stats

from millstone.analyses.freq.compute import frequency_list
from millstone.analyses.matrix.compute import document_terms
from millstone.analyses.matrix.settings import MatrixSettings
from millstone.analyses.profile.compute import profile
from millstone.analyses.profile.measures import MEASURES
from millstone.analyses.profile.settings import ProfileSettings
from millstone.core.settings.preparation import Preparation
from millstone.core.statistics.richness import (
    expected_types,
    hypergeometric_diversity,
    mean_segment_ttr,
    moving_average_ttr,
    previous_places,
    textual_diversity,
    window_types,
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


class Samples(unittest.TestCase):
    """Types in random samples of the tokens, and intervals over sampling units."""

    def test_types_of_samples_against_scipy(self):
        chance = np.random.default_rng(2)
        for size in (1, 5, 60, 900):
            freq = chance.geometric(0.2, size)
            tokens = int(freq.sum())
            for drawn in {1, tokens, min(42, tokens), tokens // 2 + 1}:
                missed = stats.hypergeom.pmf(0, tokens, freq, drawn)
                self.assertAlmostEqual(expected_types(freq, drawn), (1 - missed).sum(), 9)
            self.assertTrue(math.isnan(expected_types(freq, tokens + 1)))
            if tokens >= 42:
                of_types = stats.hypergeom.sf(0, tokens, freq, 42) / 42
                self.assertAlmostEqual(hypergeometric_diversity(freq), of_types.sum(), 12)
        # a million tokens keep all digits
        self.assertAlmostEqual(expected_types(np.full(10, 10**7), 10**7), 10, 9)

    def test_windows_and_factors_add_up(self):
        chance = np.random.default_rng(3)
        for size in (3, 40, 500):
            before = previous_places(chance.integers(0, 30, size))
            for window in (1, 3, 40):
                types = window_types(before, window)
                plain = [int((before[at : at + window] < at).sum()) for at in range(size - window + 1)]
                self.assertEqual(types.tolist(), plain)

    def test_intervals_cover_and_need_eight_units(self):
        chance, words = np.random.default_rng(9), 400
        settings, base = ProfileSettings(window=50), np.arange(1, words + 1) ** -1.0
        found: dict[str, list[tuple[float, float, float]]] = {"mattr": [], "mtld": [], "hdd": []}
        for _ in range(60):
            rows = []
            for number in range(20):
                own = base * chance.gamma(0.5, size=words)
                tokens = chance.choice(words, int(chance.integers(30, 300)), p=own / own.sum())
                rows.append((str(number), "g", " ".join(f"w{token}" for token in tokens)))
            corpus = corpus_of(rows, ordered=True)
            row = profile(corpus, map_terms(corpus), settings).iloc[0]
            for name, values in found.items():
                values.append((row[name], row[f"{name}_low"], row[f"{name}_high"]))
        for name, values in found.items():
            value, low, high = np.array(values).T
            self.assertGreater(((low <= value.mean()) & (value.mean() <= high)).mean(), 0.85, name)
            self.assertLess(np.median(high - low), 6 * value.std(), name)
        few = corpus_of([(str(at), "g", "a b c d e f " * 20) for at in range(7)], ordered=True)
        self.assertTrue(math.isnan(profile(few, map_terms(few), settings)["hdd_low"][0]))

    def test_equal_length(self):
        corpus = corpus_of([("1", "A", "a b c a b d"), ("2", "B", "a b a")], ordered=True)
        frame = profile(corpus, map_terms(corpus), ProfileSettings(equal_length="shortest"))
        self.assertEqual(frame["equal_tokens"].tolist(), [3, 3])
        # of the 20 samples of three of a a b b c d: those without a, without b, without c, without d
        self.assertAlmostEqual(frame["equal_types"][0], 4 - (4 + 4 + 10 + 10) / 20)
        self.assertEqual(frame["equal_types"][1], 2)
        self.assertAlmostEqual(frame["equal_ttr"][1], 2 / 3)


if __name__ == "__main__":
    unittest.main()
