"""Keyness and weighted log odds, against SciPy, hand formulas and identities."""

import math
import unittest
from itertools import pairwise

import numpy as np
import pandas as pd
from scipy import stats

from millstone.analyses.base.groups.pairs import comparisons
from millstone.analyses.keyness.compute import keyness
from millstone.analyses.keyness.settings import KeynessSettings
from millstone.analyses.logodds.compute import log_odds, log_odds_ratio
from millstone.analyses.logodds.settings import LogOddsSettings
from millstone.core.base.errors import DataError
from millstone.core.evidence.document_tests import Rates, mann_whitney
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.settings.preparation import Preparation
from millstone.core.statistics.contingency import log_likelihood
from millstone.core.statistics.effect_sizes import log_ratio
from millstone.core.statistics.ranks import ranking
from millstone.core.statistics.significance import adjusted, chi2_upper_tail
from tests.core.builders import MINI, counts_of, framed, rows_of

keyness, log_odds = map(framed, (keyness, log_odds))

# a, b, N1, N2: zeros, ones, equal rates, unequal sizes, large counts, a term in every token
TABLES = [
    (12, 3, 1000, 900),
    (0, 7, 1000, 900),
    (7, 0, 1000, 900),
    (1, 0, 50, 5000),
    (1, 1, 100, 100),
    (10, 1000, 1000, 100_000),
    (3, 2000, 1000, 100_000),
    (10**9, 10**9 + 40_000, 10**11, 10**11),
    (2 * 10**9, 10**9, 10**12, 10**10),
    (50, 20, 50, 400),
]


def power_divergence(a: float, b: float, n1: float, n2: float) -> float:
    expected = [n1 * (a + b) / (n1 + n2), n2 * (a + b) / (n1 + n2)]
    return stats.power_divergence([a, b], expected, lambda_="log-likelihood").statistic


class Measures(unittest.TestCase):
    def test_log_likelihood_against_scipy(self):
        for a, b, n1, n2 in TABLES:
            with self.subTest(a=a, b=b):
                found = log_likelihood(np.array([a]), np.array([b]), n1, n2)[0]
                np.testing.assert_allclose(found, power_divergence(a, b, n1, n2), rtol=1e-9, atol=2e-6)
                self.assertGreaterEqual(found, 0)

    def test_log_likelihood_keeps_its_digits_for_large_nearly_equal_counts(self):
        # to the third order, with d = (a - b) / 2: ll = 2 d^2 / m for equal sizes and mean m
        a, b = 10**9, 10**9 + 40_000
        found = log_likelihood(np.array([a]), np.array([b]), 1e11, 1e11)[0]
        np.testing.assert_allclose(found, 2 * 20_000**2 / (10**9 + 20_000), rtol=1e-8)

    def test_p_against_scipy(self):
        values = np.array([0, 1e-9, 0.5, 3.841458820694124, 25, 700, 1200])
        np.testing.assert_allclose(chi2_upper_tail(values), stats.chi2.sf(values, 1), rtol=1e-12)

    def test_log_ratio_and_interval_against_scipy(self):
        for a, b, n1, n2 in TABLES:
            shown = (a or 0.5, b or 0.5)
            with self.subTest(a=a, b=b):
                found = [one[0] for one in log_ratio(np.array([a]), np.array([b]), n1, n2)]
                self.assertAlmostEqual(found[0], math.log2(shown[0] / n1 / (shown[1] / n2)), 12)
                if a and b:
                    interval = stats.contingency.relative_risk(a, n1, b, n2).confidence_interval(0.95)
                    np.testing.assert_allclose(found[1:], np.log2(interval), rtol=1e-9)

    def test_zeros_three_ways(self):
        a, b = np.array([0, 4, 3]), np.array([6, 0, 5])
        se = math.sqrt(1 / 0.5 - 1 / 100 + 1 / 6 - 1 / 200)
        add = log_ratio(a, b, 100, 200, "add")
        self.assertAlmostEqual(add[0][0], math.log2((0.5 / 100) / (6 / 200)), 12)
        self.assertAlmostEqual(add[2][0] - add[0][0], 1.959963984540054 * se / math.log(2), 12)
        smooth = log_ratio(a, b, 100, 200, "smooth")
        np.testing.assert_allclose(smooth[0], np.log2((a + 0.5) / 101 / ((b + 0.5) / 201)), rtol=1e-12)
        skip = log_ratio(a, b, 100, 200, "skip")
        self.assertEqual(np.isnan(skip).tolist(), [[True, True, False]] * 3)

    def test_identities(self):
        chance = np.random.default_rng(1)
        a, b = chance.integers(0, 60, 300), chance.integers(0, 60, 300)
        a[a + b == 0] = 1
        n1, n2 = 5000, 7000
        ll = log_likelihood(a, b, n1, n2)
        np.testing.assert_allclose(log_likelihood(b, a, n2, n1), ll, rtol=1e-12)
        np.testing.assert_allclose(log_likelihood(2 * a, 2 * b, 2 * n1, 2 * n2), 2 * ll, rtol=1e-12)
        forward, backward = log_ratio(a, b, n1, n2), log_ratio(b, a, n2, n1)
        np.testing.assert_allclose(forward[0], -backward[0], atol=1e-12)
        np.testing.assert_allclose(forward[1], -backward[2], atol=1e-12)
        both = (a > 0) & (b > 0)
        doubled = log_ratio(2 * a, 2 * b, 2 * n1, 2 * n2)[0]
        np.testing.assert_allclose(doubled[both], forward[0][both], atol=1e-12)

    def test_adjusted_p(self):
        p = np.array([0.01, np.nan, 0.04, 0.03, 0.03, 0.5, 1e-6])
        known = ~np.isnan(p)
        np.testing.assert_allclose(adjusted(p)[known], stats.false_discovery_control(p[known]), rtol=1e-12)
        self.assertTrue(np.isnan(adjusted(p)[1]))
        # by hand, six tests: sorted 1e-6 .01 .03 .03 .04 .5, times 6 5 4 3 2 1, never falling
        np.testing.assert_allclose(adjusted(p, "holm")[known], [0.05, 0.12, 0.12, 0.12, 0.5, 6e-6])
        np.testing.assert_allclose(adjusted(p, "bonferroni")[known], [0.06, 0.24, 0.18, 0.18, 1, 6e-6])
        np.testing.assert_array_equal(adjusted(p, "none"), p)
        self.assertEqual(adjusted(np.array([])).tolist(), [])
        times = np.array([3, 1, 2, 4, 1, 5, 2])
        for method in ("bh", "holm", "bonferroni", "none"):
            one_by_one = adjusted(np.repeat(p, times), method)
            np.testing.assert_allclose(np.repeat(adjusted(p, method, times), times), one_by_one, rtol=1e-12)

    def test_ranking_breaks_ties_by_total(self):
        score = np.array([2.0, 5.0, 2.0 + 5e-10, np.nan, 2.0])
        self.assertEqual(ranking(score, np.array([3, 1, 9, 99, 3])).tolist(), [1, 2, 0, 4, 3])

    def test_mann_whitney_against_scipy(self):
        chance = np.random.default_rng(5)
        target, reference = chance.poisson(0.6, (9, 25)), chance.poisson(0.9, (14, 25))
        target[:, 0], reference[:, 0] = 1, 1
        base1, base2 = chance.integers(20, 30, 9), chance.integers(20, 30, 14)
        base1[:], base2[:3] = 25, 25
        one, two = target / base1[:, None], reference / base2[:, None]
        found = mann_whitney(Rates(SparseMatrix.of_dense(np.vstack([one, two])), 9, 14))
        expected = stats.mannwhitneyu(one, two, method="asymptotic", use_continuity=True).pvalue
        np.testing.assert_allclose(found, expected, rtol=1e-10)
        same = mann_whitney(Rates(SparseMatrix.of_dense(np.vstack([one[:, :1], one[:, :1]])), 9, 9))
        self.assertEqual(same[0], 1)


class Keyness(unittest.TestCase):
    def test_every_column_of_the_mini_corpus(self):
        frame = keyness(counts_of(MINI), KeynessSettings(against="A", test="ll"))
        self.assertEqual(frame["target"].unique().tolist(), ["B", "C"])
        b = frame[frame["target"] == "B"]
        # by hand: term, a, b, ranks in B and in A, higher in; A and B have 5 tokens each
        expected = [
            ("red", 0, 3, None, 1, "A", "absent from B"),
            ("yellow", 1, 0, 2, None, "B", "absent from A"),
            ("blue", 3, 1, 1, 2, "B", ""),
            ("green", 1, 1, 2, 2, "", ""),
        ]
        order = [0, 1, 2, 3]
        ll = [power_divergence(a, b, 5, 5) for _, a, b, *_ in expected]
        p = stats.false_discovery_control(stats.chi2.sf(ll, 1))
        self.assertEqual(sorted(order, key=lambda i: -ll[i]), order, "the rows above stand by ll")
        for row, found in enumerate(b.itertuples(index=False)):
            term, in_b, in_a, rank_b, rank_a, higher, note = expected[row]
            with self.subTest(term):
                self.assertEqual((found.reference, found.rank, found.term), ("A", row + 1, term))
                self.assertEqual((found.freq_target, found.freq_reference), (in_b, in_a))
                ranks = [None if rank is pd.NA else rank for rank in (found.rank_target, found.rank_reference)]
                self.assertEqual(ranks, [rank_b, rank_a])
                self.assertEqual((found.higher_in, found.note), (higher, note))
                self.assertAlmostEqual(found.per_million_target, in_b * 200_000)
                self.assertAlmostEqual(found.per_million_reference, in_a * 200_000)
                self.assertAlmostEqual(found.docs_percent_target, 100 / 3 if in_b else 0)
                self.assertAlmostEqual(found.docs_percent_reference, {"red": 100, "yellow": 0}.get(term, 50))
                self.assertAlmostEqual(found.ll, ll[row], 9)
                self.assertAlmostEqual(found.p_adjusted, p[row], 12)
                self.assertAlmostEqual(found.log_ratio, math.log2((in_b or 0.5) / (in_a or 0.5)), 12)

    def test_who_is_compared_with_whom(self):
        three, two = ("A", "B", "C"), ("A", "B")
        table = [
            (three, "rest", False, [("A", "rest"), ("B", "rest"), ("C", "rest")]),
            (two, "rest", False, [("A", "B")]),
            (two, "rest", True, [("A", "B"), ("B", "A")]),
            (three, "pairs", False, [("A", "B"), ("A", "C"), ("B", "C")]),
            (three, "B", False, [("A", "B"), ("C", "B")]),
        ]
        for groups, against, each, expected in table:
            with self.subTest(groups=groups, against=against):
                found = [(one.target, one.reference) for one in comparisons(groups, against, each)]
                self.assertEqual(found, expected)

    def test_the_rest_is_all_others_added_up(self):
        frame = keyness(counts_of(MINI))
        blue = frame[(frame["target"] == "A") & (frame["term"] == "blue")].iloc[0]
        self.assertEqual((blue["freq_target"], blue["freq_reference"], blue["reference"]), (1, 5, "rest"))
        self.assertAlmostEqual(blue["ll"], power_divergence(1, 5, 5, 10), 12)
        self.assertAlmostEqual(blue["docs_percent_reference"], 50)
        self.assertEqual(blue["rank_reference"], 1)

    def test_swapping_the_sides_flips_the_sign_only(self):
        rows = [("1", "A", "x x y z z z"), ("2", "B", "x y y q")]
        swapped = [(name, {"A": "B", "B": "A"}[group], text) for name, group, text in rows]
        one, other = (keyness(counts_of(some)).set_index("term").sort_index() for some in (rows, swapped))
        np.testing.assert_allclose(one["ll"], other["ll"], rtol=1e-12)
        np.testing.assert_allclose(one["log_ratio"], -other["log_ratio"], atol=1e-12)

    def test_min_freq_limits_the_family_of_tests(self):
        frame = keyness(counts_of(MINI), KeynessSettings(against="A", min_freq=3, test="ll"))
        b = frame[frame["target"] == "B"]
        self.assertEqual(sorted(b["term"]), ["blue", "red"])
        p = stats.chi2.sf([power_divergence(0, 3, 5, 5), power_divergence(3, 1, 5, 5)], 1)
        np.testing.assert_allclose(b["p_adjusted"], stats.false_discovery_control(p), rtol=1e-12)

    def test_note_on_one_document(self):
        rows = [("a1", "A", "ahoy " * 5 + "x y"), ("a2", "A", "ahoy ahoy z"), ("b", "B", "x y z " * 5)]
        notes = dict(rows_of(keyness(counts_of(rows)), "term", "note"))
        self.assertEqual(notes["ahoy"], "one document (a1) has 71 % of it; absent from B")
        # B has one document only, and x has too few occurrences: nothing to warn of
        self.assertEqual((notes["x"], notes["z"]), ("", ""))

    def test_note_on_what_tokens_alone_tell(self):
        even = [(f"a{i}", "A", "stove " * 3 + "w " * 30) for i in range(8)]
        lone = [("a8", "A", "w " * 30 + "ahoy " * 40), ("a9", "A", "w " * 20)]
        other = [(f"b{i}", "B", "w " * 30) for i in range(8)]
        notes = dict(rows_of(keyness(counts_of(even + lone + other)), "term", "note"))
        self.assertEqual(notes["stove"], "absent from B")
        self.assertEqual(notes["ahoy"], "one document (a8) has 100 % of it; absent from B; by tokens only")

    def test_groups_that_cannot_be_compared(self):
        table = [
            ("one group only", [("1", "A", "x")], "rest", "needs two groups"),
            ("a group without words", [("1", "A", "x"), ("2", "B", "...")], "rest", "'B' has no tokens"),
            ("a reserved name", [("1", "A", "x"), ("2", "rest", "y")], "rest", "named 'rest'"),
            ("no such group", [("1", "Ostrel", "x"), ("2", "B", "y")], "ostrel", "did you mean 'Ostrel'"),
        ]
        for what, rows, against, message in table:
            with self.subTest(what):
                for analyse, settings in ((keyness, KeynessSettings), (log_odds, LogOddsSettings)):
                    with self.assertRaises(DataError) as caught:
                        analyse(counts_of(rows), settings(against=against))
                    self.assertIn(message, caught.exception.what)


def log_odds_by_hand(y_i: list[int], y_j: list[int], alpha: list[float]) -> list[tuple[float, float]]:
    n_i, n_j, a0 = sum(y_i), sum(y_j), sum(alpha)
    found = []
    for i, j, a in zip(y_i, y_j, alpha, strict=True):
        d = math.log((i + a) / (n_i + a0 - i - a)) - math.log((j + a) / (n_j + a0 - j - a))
        found.append((d, math.sqrt(1 / (i + a) + 1 / (j + a))))
    return found


class LogOdds(unittest.TestCase):
    VOCABULARY = ("blue", "green", "red", "yellow")
    A, B, C, POOL = [1, 1, 3, 0], [3, 1, 0, 1], [2, 0, 1, 2], [6, 2, 4, 3]

    def assert_rows(self, settings: LogOddsSettings, group: str, y_i: list[int], y_j: list[int], alpha: list[float]):
        frame = log_odds(counts_of(MINI), settings)
        rows = frame[frame["target"] == group].set_index("term")
        for term, i, j, (d, se) in zip(self.VOCABULARY, y_i, y_j, log_odds_by_hand(y_i, y_j, alpha), strict=True):
            if i + j == 0:
                self.assertNotIn(term, rows.index)
                continue
            with self.subTest(group=group, term=term):
                row = rows.loc[term]
                self.assertEqual((row["freq"], row["freq_against"]), (i, j))
                np.testing.assert_allclose((row["log_odds"], row["std_error"], row["z"]), (d, se, d / se), rtol=1e-12)

    def test_every_column_by_hand(self):
        rest_of_a = [b + c for b, c in zip(self.B, self.C, strict=True)]
        self.assert_rows(LogOddsSettings(), "A", self.A, rest_of_a, self.POOL)
        self.assert_rows(LogOddsSettings(against="B"), "C", self.C, self.B, self.POOL)
        half = LogOddsSettings(prior_weight=0.5, against="pairs")
        self.assert_rows(half, "B", self.B, self.C, [x / 2 for x in self.POOL])
        self.assert_rows(LogOddsSettings(prior="uniform", prior_count=0.1), "A", self.A, rest_of_a, [0.1] * 4)

    def test_without_prior_it_is_the_plain_log_odds_ratio(self):
        frame = log_odds(counts_of(MINI), LogOddsSettings(prior="none", against="B"))
        rows = frame[frame["target"] == "A"].set_index("term")
        self.assertAlmostEqual(rows.loc["blue", "log_odds"], math.log((1 / 4) / (3 / 2)), 12)
        self.assertTrue(np.isnan(rows.loc["red", "log_odds"]) and np.isnan(rows.loc["yellow", "z"]))
        self.assertEqual(rows.index.tolist(), ["green", "blue", "red", "yellow"], "empty z last, by code point")
        tiny = log_odds(counts_of(MINI), LogOddsSettings(prior="uniform", prior_count=1e-9, against="B"))
        tiny = tiny[tiny["target"] == "A"].set_index("term")
        self.assertAlmostEqual(tiny.loc["blue", "log_odds"], rows.loc["blue", "log_odds"], 7)

    def test_i_against_j_is_minus_j_against_i(self):
        one = log_odds(counts_of(MINI), LogOddsSettings(against="A"))
        other = log_odds(counts_of(MINI), LogOddsSettings(against="B"))
        b = one[one["target"] == "B"].set_index("term")["z"]
        a = other[other["target"] == "A"].set_index("term")["z"]
        np.testing.assert_allclose(a.loc[b.index], -b, atol=1e-12)

    def test_two_groups_are_both_listed_by_name(self):
        frame = log_odds(counts_of(MINI[:4]))
        self.assertEqual(frame[["target", "against"]].drop_duplicates().to_numpy().tolist(), [["A", "B"], ["B", "A"]])
        for _, rows in frame.groupby("target"):
            self.assertEqual(rows["rank"].tolist(), list(range(1, len(rows) + 1)))
            self.assertTrue(all(x >= y for x, y in pairwise(rows["z"])))

    def test_row_choices_change_no_value(self):
        every = log_odds(counts_of(MINI)).set_index(["target", "term"])
        some = log_odds(counts_of(MINI), LogOddsSettings(min_freq=4)).set_index(["target", "term"])
        self.assertLess(len(some), len(every))
        np.testing.assert_array_equal(some["z"], every.loc[some.index, "z"])

    def test_totals_are_over_the_vocabulary(self):
        counts = counts_of(MINI, Preparation(length=(4, None)))
        frame = log_odds(counts, LogOddsSettings(prior="uniform", against="B")).set_index(["target", "term"])
        expected = log_odds_by_hand([1, 1, 0], [3, 1, 1], [0.5] * 3)
        self.assertAlmostEqual(frame.loc[("A", "blue"), "log_odds"], expected[0][0], 12)

    def test_notes(self):
        rows = [("1", "A", "x " * 57 + "y " * 43 + "q"), ("2", "B", "x " * 43 + "y " * 57 + "q")]
        notes = dict(rows_of(log_odds(counts_of(rows)), "term", "note"))
        # by hand: d = 0.55, z = 2.74 under uniform 0.5; d = 0.18, z = 1.60 under the pooled prior
        self.assertEqual(notes, {"x": "depends on prior", "y": "depends on prior", "q": "few counts"})

    def test_a_prior_that_outweighs_a_group_is_told(self):
        for settings, wanted in (
            ({}, []),
            (
                {"prior_weight": 10.0},
                ["as much as 150 counts", "20 times those of 3 of the 3 groups", "(A has 5;"],
            ),
            ({"prior": "uniform", "prior_count": 26.0}, ["as much as 104 counts", "--prior-count makes it lighter"]),
        ):
            notes: list[str] = []
            log_odds(counts_of(MINI), LogOddsSettings(**settings), note=notes.append)
            with self.subTest(settings):
                capped = [note for note in notes if "stay within about" in note]
                self.assertEqual(
                    [len(capped), len(notes)], [settings.get("prior") != "uniform", len(capped) + bool(wanted)]
                )
                for text in wanted:
                    self.assertIn(text, notes[0])

    def test_one_term_is_no_vocabulary(self):
        for one in log_odds_ratio(np.array([3]), np.array([5]), np.array([8.0])):
            self.assertTrue(np.isnan(one[0]))


if __name__ == "__main__":
    unittest.main()
