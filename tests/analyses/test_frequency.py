"""Terms, frequency lists and dispersion, against hand calculations."""

import unittest

import numpy as np
from scipy import stats

from millstone.analyses.freq.compute import frequency_list
from millstone.analyses.freq.settings import FrequencySettings
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.settings.preparation import Preparation
from millstone.core.statistics.dispersion import deviation_of_proportions, evenness, expected_deviation
from millstone.core.statistics.ranks import competition_ranks
from millstone.core.terms.word_lists import WordList, entries_of_several_words
from tests.core.builders import MINI, counts_of, framed, rows_of

frequency_list = framed(frequency_list)

# by hand: A has 5 tokens in 2 documents of 3 and 2, B 5 in documents of 4, 1 and 0, C 5 in one
EXPECTED = [
    # group, rank, term, freq, per_million, docs, docs_percent, dp, of which chance alone would give
    ("A", 1, "red", 3, 600_000, 2, 100, 1 / 15),
    ("A", 2, "blue", 1, 200_000, 1, 50, 2 / 5),
    ("A", 2, "green", 1, 200_000, 1, 50, 3 / 5),
    ("B", 1, "blue", 3, 600_000, 1, 100 / 3, 1 / 5),
    ("B", 2, "green", 1, 200_000, 1, 100 / 3, 1 / 5),
    ("B", 2, "yellow", 1, 200_000, 1, 100 / 3, 4 / 5),
    ("C", 1, "blue", 2, 400_000, 1, 100, np.nan),
    ("C", 1, "yellow", 2, 400_000, 1, 100, np.nan),
    ("C", 3, "red", 1, 200_000, 1, 100, np.nan),
]


class FrequencyList(unittest.TestCase):
    def test_every_column_by_hand(self):
        frame = frequency_list(counts_of(MINI))
        self.assertEqual(
            list(frame.columns),
            ["group", "rank", "term", "freq", "per_million", "docs", "docs_percent", "dp", "dp_expected", "evenness"],
        )
        self.assertEqual(len(frame), len(EXPECTED))
        for found, expected in zip(frame.itertuples(index=False, name=None), EXPECTED, strict=True):
            with self.subTest(expected[:3]):
                self.assertEqual(found[:4], expected[:4])
                np.testing.assert_allclose(found[4:8], expected[4:], rtol=1e-12)

    def test_the_lists_add_up_to_the_corpus(self):
        counts = counts_of(MINI)
        self.assertEqual(frequency_list(counts)["freq"].sum(), counts.base.sum())
        self.assertEqual([size.tokens for size in counts.sizes], [5, 5, 5])
        self.assertEqual([size.documents for size in counts.sizes], [2, 3, 1])

    def test_min_freq_chooses_rows_and_changes_no_rank(self):
        frame = frequency_list(counts_of(MINI), FrequencySettings(min_freq=2))
        self.assertEqual(
            rows_of(frame, "group", "rank", "term"),
            [("A", 1, "red"), ("B", 1, "blue"), ("C", 1, "blue"), ("C", 1, "yellow")],
        )

    def test_ranks_share_and_skip(self):
        self.assertEqual(competition_ranks(np.array([9, 1, 5]), np.array([5, 9, 5, 1, 0])).tolist(), [1, 4, 2])

    def test_equal_frequencies_stand_in_code_point_order(self):
        frame = frequency_list(counts_of([("1", "g", "éclair zebra Apple apple2 10 émeu")]))
        self.assertEqual(frame["term"].tolist(), ["10", "apple", "apple2", "zebra", "éclair", "émeu"])


class Dispersion(unittest.TestCase):
    def test_what_chance_gives_against_every_outcome_and_by_drawing(self):
        for base in (np.array([3, 2]), np.array([5, 1, 1, 9]), np.array([40] * 7), np.array([10_000, 3])):
            share = base / base.sum()
            freq = np.array([1, 2, 3, 17, 60])
            expected = [
                sum((stats.binom.pmf(np.arange(f + 1), f, s) * np.abs(np.arange(f + 1) / f - s)).sum() for s in share)
                / 2
                for f in freq
            ]
            np.testing.assert_allclose(expected_deviation(freq, base), expected, rtol=1e-11)
        # nearly normal for large counts: the mean of |X - m| is sd sqrt(2 / pi)
        large = expected_deviation(np.array([10**9]), np.array([7, 3]))[0]
        self.assertAlmostEqual(large / (np.sqrt(0.21 / 1e9) * np.sqrt(2 / np.pi)), 1, 6)
        self.assertTrue(np.isnan(expected_deviation(np.array([0]), np.array([7, 3]))[0]))
        self.assertTrue(np.isnan(expected_deviation(np.array([4]), np.array([7]))[0]))
        chance, base = np.random.default_rng(1), np.array([60, 25, 15])
        drawn = chance.multinomial(8, base / 100, 20_000)
        mean = deviation_of_proportions(SparseMatrix.of_dense(drawn.T), base).mean()
        self.assertAlmostEqual(mean, expected_deviation(np.array([8]), base)[0], 2)
        found = evenness(np.array([0.1, 0.3, 0.65, 1.0]), np.array([0.3, 0.3, 0.3, 0.3]))
        np.testing.assert_allclose(found, [1, 1, 0.5, 0])

    def test_dp_is_half_the_sum_of_differences(self):
        chance = np.random.default_rng(3)
        matrix = chance.poisson(0.7, (12, 30))
        base = matrix.sum(axis=1) + chance.integers(1, 40, 12)
        share = base / base.sum()
        with np.errstate(invalid="ignore"):
            by_definition = np.abs(matrix / matrix.sum(axis=0) - share[:, None]).sum(axis=0) / 2
        found = deviation_of_proportions(SparseMatrix.of_dense(matrix), base)
        np.testing.assert_allclose(found, by_definition, rtol=1e-12)

    def test_limits(self):
        base = np.array([10, 30])
        even_all_absent = SparseMatrix.of_dense(np.array([[1, 2, 0], [3, 0, 0]]))
        np.testing.assert_allclose(deviation_of_proportions(even_all_absent, base), [0, 0.75, np.nan])
        self.assertTrue(np.isnan(deviation_of_proportions(even_all_absent.rows(slice(1)), base[:1])).all())


class Preparing(unittest.TestCase):
    TEXT = "The Marmot’s the MARMOT'S hut, a hut in ice-cold Été"

    # settings -> terms with frequencies
    TABLE = (
        ("default", Preparation(), (), {"the": 2, "marmot's": 2, "hut": 2, "a": 1, "in": 1, "ice-cold": 1, "été": 1}),
        (
            "case kept",
            Preparation(case="keep"),
            (),
            {"The": 1, "the": 1, "Marmot's": 1, "MARMOT'S": 1, "hut": 2, "a": 1, "in": 1, "ice-cold": 1, "Été": 1},
        ),
        (
            "a stop list",
            Preparation(),
            ("THE", "marmot’s", "e\u0301te\u0301"),
            {"hut": 2, "a": 1, "in": 1, "ice-cold": 1},
        ),
        (
            "a stop list with case kept",
            Preparation(case="keep"),
            ("the",),
            {"The": 1, "Marmot's": 1, "MARMOT'S": 1, "hut": 2, "a": 1, "in": 1, "ice-cold": 1, "Été": 1},
        ),
        ("length in characters", Preparation(length=(2, 3)), (), {"the": 2, "hut": 2, "in": 1, "été": 1}),
        ("length without upper limit", Preparation(length=(8, None)), (), {"marmot's": 2, "ice-cold": 1}),
    )

    def test_table(self):
        for what, preparation, stop, expected in self.TABLE:
            with self.subTest(what):
                counts = counts_of([("1", "g", self.TEXT)], preparation, [WordList("mine", stop)])
                found = dict(zip(counts.terms, counts.matrix.toarray()[0].tolist(), strict=True))
                self.assertEqual(found, expected)
                self.assertEqual(counts.base.tolist(), [10], "what is left out stays in the base")
                self.assertEqual(sum(counts.left_out.values()), 10 - sum(expected.values()))

    def test_left_out_is_told_by_rule_each_word_once(self):
        lists = [WordList("first", ["the", "hut"]), WordList("second", ["hut", "in"])]
        counts = counts_of([("1", "g", self.TEXT)], Preparation(length=(4, None)), lists)
        self.assertEqual(dict(counts.left_out), {"stop list first": 4, "stop list second": 1, "length": 2})

    def test_entries_of_several_words_leave_out_no_single_word(self):
        several = WordList("mine", ["ice axe", "rock-and-roll", "and/or", "hut"])
        self.assertEqual(entries_of_several_words(several), ["ice axe", "and/or"])
        self.assertIn("ice", counts_of([("1", "g", "ice axe")], stop_lists=[several]).terms)


if __name__ == "__main__":
    unittest.main()
