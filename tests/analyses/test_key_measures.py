"""Every measure of keyness against SciPy, hand values and identities; tests over documents; samples."""

import itertools
import math
import unittest
import warnings
from fractions import Fraction

import numpy as np
import pandas as pd
from scipy import stats

from millstone.analyses.keyness.comparing.table import comparisons_beside, key_terms
from millstone.analyses.keyness.compute import keyness
from millstone.analyses.keyness.measures import MEASURES
from millstone.analyses.keyness.settings import KeynessSettings
from millstone.analyses.keyness.sides import TwoCorpusCounts
from millstone.core.base.errors import MillstoneError
from millstone.core.corpus.corpus import ALL
from millstone.core.evidence.document_tests import Rates, mann_whitney, permutation, welch
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.matrix.totals import column_sums
from millstone.core.statistics.contingency import fisher_p, log_likelihood
from millstone.core.statistics.significance import chi2_upper_tail
from millstone.core.terms.background import Background
from millstone.core.terms.counts import Counts
from tests.analyses.test_contrast import apart
from tests.analyses.test_keyness import TABLES
from tests.core.builders import MINI, counts_of, framed

keyness, comparisons_beside, key_terms = map(framed, (keyness, comparisons_beside, key_terms))

SPANS = {"0 or more": (0, math.inf), "0 to 1": (0, 1), "-1 to 1": (-1, 1), "-100 or more": (-100, math.inf)}


def sides(a: list[int], b: list[int], n1: int, n2: int, zeros: str = "add") -> TwoCorpusCounts:
    return TwoCorpusCounts(np.array(a), np.array(b), n1, n2, zeros)


def measured(name: str, a: int, b: int, n1: int, n2: int, zeros: str = "add") -> float:
    with warnings.catch_warnings():
        warnings.simplefilter("error")
        return float(MEASURES[name].of(sides([a], [b], n1, n2, zeros))[0])


def measured_p(a: int, b: int, n1: int, n2: int) -> float:
    return float(stats.chi2.sf(measured("g2", a, b, n1, n2), 1))


def exact_p(a: int, both: int, n1: int, n2: int) -> Fraction:
    """p of Fisher's exact test in rational arithmetic, each table's weight made from the one before."""
    least = max(0, both - n2)
    weights = [math.comb(n1, least) * math.comb(n2, both - least)]
    for x in range(least, min(both, n1)):
        weights.append(weights[-1] * (both - x) * (n1 - x) // ((x + 1) * (n2 - both + x + 1)))
    seen = weights[a - least]
    return Fraction(sum(weight for weight in weights if weight <= seen), sum(weights))


class Measures(unittest.TestCase):
    def test_each_against_scipy_or_by_hand(self):
        for a, b, n1, n2 in TABLES:
            cells = [[float(a), float(b)], [float(n1 - a), float(n2 - b)]]
            has_margin = min(a + b, n1 + n2 - a - b) > 0
            large = a > 10**6
            expected = {
                "g2": stats.chi2_contingency(cells, correction=False, lambda_="log-likelihood").statistic,
                "chi2": stats.chi2_contingency(cells, correction=False).statistic,
                # SciPy overflows there; for such counts the test is that of chi-squared
                "fisher": measured_p(a, b, n1, n2) if large else stats.fisher_exact(cells).pvalue,
                "bic": measured("ll", a, b, n1, n2) - math.log(n1 + n2),
                "ell": measured("ll", a, b, n1, n2) / (-2 * (a + b) * math.log(min(n1, n2) / (n1 + n2))),
                "percent_diff": 100 * (a / n1 - (b or 0.5) / n2) / ((b or 0.5) / n2),
                "relative_risk": (a / n1) / ((b or 0.5) / n2),
                "odds_ratio": (a / ((n1 - a) or 0.5)) / ((b or 0.5) / (n2 - b)),
                "diff_coefficient": (a / n1 - b / n2) / (a / n1 + b / n2),
            }
            self.assertTrue(has_margin)
            for name, value in expected.items():
                with self.subTest(name, a=a, b=b):
                    # the sums of SciPy lose digits where large counts are nearly equal
                    np.testing.assert_allclose(
                        measured(name, a, b, n1, n2), value, rtol=1e-8, atol=1e-4 if large else 1e-9
                    )

    def test_fisher_against_exact_fractions(self):
        chance = np.random.default_rng(5)
        tried, tiny = 0, 0
        while tried < 200:
            n1, n2 = (int(10 ** chance.uniform(1, 5)) for _ in range(2))
            both = int(min(n1 + n2, 10 ** chance.uniform(0.3, 3.2)))
            a = int(chance.integers(max(0, both - n2), min(both, n1) + 1))
            p = exact_p(a, both, n1, n2)
            if p > Fraction(1, 10**300):
                tried, tiny = tried + 1, tiny + (p < Fraction(1, 10**32))
                found = fisher_p(np.array([a]), np.array([both - a]), n1, n2)[0]
                np.testing.assert_allclose(found, float(p), rtol=1e-10, err_msg=f"{a} of {both}, {n1}, {n2}")
        self.assertGreater(tiny, 20)

    def test_every_measure_is_within_its_span_and_explained(self):
        for name, measure in MEASURES.items():
            self.assertTrue(measure.column.meaning, "a column says what it means")
            low, high = SPANS.get(measure.span, (-math.inf, math.inf))
            for (a, b, n1, n2), zeros in itertools.product(TABLES, ("add", "smooth", "skip")):
                value = measured(name, a, b, n1, n2, zeros) if name not in ("p", "p_adjusted") else low
                with self.subTest(name, a=a, b=b, zeros=zeros):
                    self.assertFalse(math.isinf(value))
                    self.assertTrue(math.isnan(value) or low <= value <= high, value)
        self.assertNotIn("fisher", ALL)

    def test_what_zeros_do(self):
        rows = (
            ("percent_diff", 0, 4, "add", -100),
            ("relative_risk", 0, 4, "add", 0),
            ("relative_risk", 4, 0, "add", 8),
            ("odds_ratio", 0, 4, "add", 0),
            ("odds_ratio", 4, 0, "add", (4 / 96) / (0.5 / 100)),
            ("odds_ratio", 100, 4, "add", (100 / 0.5) / (4 / 96)),
            ("relative_risk", 4, 0, "smooth", 9),
            ("percent_diff", 4, 0, "smooth", 800),
            ("odds_ratio", 4, 0, "smooth", (4.5 / 96.5) / (0.5 / 100.5)),
            ("relative_risk", 4, 0, "skip", math.nan),
            ("percent_diff", 0, 4, "skip", -100),
            ("log_ratio", 0, 4, "skip", math.nan),
            ("odds_ratio", 4, 0, "skip", math.nan),
            ("diff_coefficient", 4, 0, "skip", 1),
            ("ell", 0, 4, "skip", 1),
        )
        for name, a, b, zeros, value in rows:
            with self.subTest(name, a=a, b=b, zeros=zeros):
                np.testing.assert_allclose(measured(name, a, b, 100, 100, zeros), value, rtol=1e-12)

    def test_identities(self):
        chance = np.random.default_rng(2)
        for _ in range(200):
            n1, n2 = (int(one) for one in chance.integers(50, 10**6, 2))
            a, b = int(chance.integers(1, n1)), int(chance.integers(1, n2))
            one, swapped, doubled = (a, b, n1, n2), (b, a, n2, n1), (2 * a, 2 * b, 2 * n1, 2 * n2)
            for name in ("ll", "g2", "chi2", "ell", "bic"):
                np.testing.assert_allclose(measured(name, *one), measured(name, *swapped), rtol=1e-9, atol=1e-9)
            for name in ("ll", "g2", "chi2"):
                np.testing.assert_allclose(measured(name, *doubled), 2 * measured(name, *one), rtol=1e-9, atol=1e-9)
            for name in ("ell", "percent_diff", "relative_risk", "odds_ratio", "log_ratio", "diff_coefficient"):
                np.testing.assert_allclose(measured(name, *doubled), measured(name, *one), rtol=1e-9, atol=1e-9)
            for name in ("log_ratio", "diff_coefficient"):
                np.testing.assert_allclose(measured(name, *one), -measured(name, *swapped), rtol=1e-9, atol=1e-9)


class OverDocuments(unittest.TestCase):
    def test_welch_against_scipy(self):
        chance = np.random.default_rng(3)
        one, two = chance.random((9, 12)) * (chance.random((9, 12)) > 0.4), chance.random((14, 12)) ** 3
        one[:, 0], two[:, 0] = 0.1, 0.3
        one[:, 1] = 0.2
        one[4:, 2] = 0
        found = welch(Rates(SparseMatrix.of_dense(np.vstack([one, two])), 9, 14))
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            expected = stats.ttest_ind(one, two, equal_var=False).pvalue
        self.assertTrue(np.isnan(found[0]), "no variance on either side")
        self.assertTrue(np.isnan(found[2]), "four units of a side have it")
        enough = np.minimum((one > 0).sum(axis=0), (two > 0).sum(axis=0)) >= 5
        enough[0] = False
        np.testing.assert_allclose(found[enough], expected[enough], rtol=1e-9)
        np.testing.assert_array_equal(np.isnan(found), ~enough)
        both = Rates(
            SparseMatrix.of_dense(np.vstack([two, two**2])), 14, 14, np.stack((np.arange(14), np.arange(14) + 14), 1)
        )
        np.testing.assert_allclose(welch(both)[1:], stats.ttest_rel(two[:, 1:], two[:, 1:] ** 2).pvalue, rtol=1e-6)
        self.assertTrue(np.isnan(welch(Rates(SparseMatrix.of_dense(np.vstack([one, two])), 1, 22))).all())

    def test_relabellings_are_counted(self):
        """All of them where there are few, units on both sides swapped; random ones come near."""
        chance = np.random.default_rng(4)
        both = chance.random((9, 6)) * (chance.random((9, 6)) > 0.3)
        both[:, 5] = 0.5
        both[:4, 4], both[4:, 4] = 0.1, 0.2
        for pairs in (np.zeros((0, 2), dtype=np.int64), np.array([[0, 4], [2, 7]])):
            rates = Rates(SparseMatrix.of_dense(both), 4, 5, pairs)
            alone = [row for row in range(9) if row not in pairs]
            ways = [
                [*chosen, *(pair[side] for pair, side in zip(pairs.tolist(), sides, strict=True))]
                for chosen in itertools.combinations(alone, 4 - len(pairs))
                for sides in itertools.product((0, 1), repeat=len(pairs))
            ]
            rest = [[row for row in range(9) if row not in way] for way in ways]
            ranks = stats.rankdata(both, axis=0)
            sums = np.array([ranks[way].sum(axis=0) for way in ways])
            far = np.array([apart(both[way], both[others], 0) for way, others in zip(ways, rest, strict=True)])
            by_rank = np.abs(sums - sums.mean(axis=0))
            seen = [sorted(way) for way in ways].index([0, 1, 2, 3])
            done_of: list[tuple[int, int]] = []
            found = permutation(rates, 126, 1, lambda done, of, said=done_of: said.append((done, of)))
            np.testing.assert_allclose(found, (far >= far[seen] * (1 - 1e-9)).mean(axis=0), rtol=1e-9)
            np.testing.assert_allclose(mann_whitney(rates), (by_rank >= by_rank[seen] - 1e-9).mean(axis=0), rtol=1e-9)
            self.assertEqual((found[5], mann_whitney(rates)[5]), (1, 1), "all are equal")
            self.assertEqual(done_of[-1], (len(ways), len(ways)))
            self.assertEqual(rates.relabelling.ways, len(ways))
            # none of several drawn often would come near the exact share by luck alone
            drawn = Rates(SparseMatrix.of_dense(np.tile(both, (3, 1))), 12, 15)
            np.testing.assert_array_equal(permutation(drawn, 300, 1), permutation(drawn, 300, 1))
        self.assertEqual(permutation(Rates(SparseMatrix.of_dense(both[:2]), 1, 1), 99, 1).tolist(), [1] * 6)
        lone = permutation(Rates(SparseMatrix.of_dense(both), 1, 8), 99, 1)
        away = [np.abs(both[at] - np.delete(both, at, 0).mean(axis=0)) for at in range(9)]
        np.testing.assert_allclose(lone, (np.array(away) >= away[0] - 1e-12).mean(axis=0), rtol=1e-9)

    def test_drawn_relabellings_come_near_all_of_them(self):
        chance = np.random.default_rng(7)
        rates = Rates(SparseMatrix.of_dense(chance.random((12, 8)) * (chance.random((12, 8)) > 0.3)), 5, 7)
        every, drawn = permutation(rates, 792, 1), permutation(rates, 790, 1)
        np.testing.assert_allclose(drawn, every, atol=0.06)
        self.assertFalse(np.array_equal(drawn, every))

    def test_ranks_of_many_units_against_scipy(self):
        chance = np.random.default_rng(9)
        both = chance.random((40, 6)) * (chance.random((40, 6)) > 0.6)
        expected = stats.mannwhitneyu(both[:18], both[18:], method="asymptotic").pvalue
        np.testing.assert_allclose(mann_whitney(Rates(SparseMatrix.of_dense(both), 18, 22)), expected, rtol=1e-9)
        # of pairs alone, the variance under swapping
        pairs = np.stack((np.arange(25), np.arange(25) + 25), axis=1)
        paired = np.concatenate((both[:25], both[:25] * 1.2 + 0.1))
        ranks = stats.rankdata(paired, axis=0)
        half = (ranks[:25] - ranks[25:]) / 2
        z = (np.abs(half.sum(axis=0)) - 0.5) / np.sqrt((half**2).sum(axis=0))
        found = mann_whitney(Rates(SparseMatrix.of_dense(paired), 25, 25, pairs))
        np.testing.assert_allclose(found, 2 * stats.norm.sf(z), rtol=1e-6)

    def test_no_more_differences_than_chance_makes(self):
        # words whose rates vary from document to document, shuffled into two groups 200 times
        chance = np.random.default_rng(6)
        base = chance.integers(100, 900, 120)
        rates = chance.uniform(0.002, 0.02, 60)[np.newaxis] * chance.gamma(0.6, 1.7, (120, 60))
        counted = SparseMatrix.of_dense(chance.poisson(rates * base[:, np.newaxis]).astype(np.int32))
        relative = SparseMatrix.of_dense(counted.toarray() / base[:, np.newaxis])
        found = {"rank": 0.0, "welch": 0.0, "permutation": 0.0, "ll": 0.0}
        for shuffle in range(200):
            order = chance.permutation(120)
            shuffled = Rates(relative.rows(order), 60, 60)
            a, b = (column_sums(counted.rows(order[half])) for half in (slice(60), slice(60, 120)))
            p = {
                "rank": mann_whitney(shuffled),
                "welch": welch(shuffled),
                "permutation": permutation(shuffled, 199, shuffle),
                "ll": chi2_upper_tail(log_likelihood(a, b, base[order[:60]].sum(), base[order[60:]].sum())),
            }
            found = {name: found[name] + (p[name] < 0.05).mean() / 200 for name in found}
        for name in ("rank", "welch", "permutation"):
            self.assertAlmostEqual(found[name], 0.05, delta=0.01, msg=name)
        self.assertGreater(found["ll"], 0.2, "tokens are not independent")

    def whole_and_in_parts(self) -> tuple[Counts, Counts]:
        """Texts, and the same with each of them given twice, as two parts of one."""
        rows = [
            (f"{group}{number}", group, f"{'ice ' * (number + 3 * (group == 'B'))} rock snow")
            for group in "AB"
            for number in range(9)
        ]
        whole = counts_of(rows)
        again = np.repeat(np.arange(18), 2)
        table = whole.documents.at(again)
        table = table.with_columns({"part_of": table["document"]}, 2)
        table = table.with_columns({"document": [f"{name}#{row}" for row, name in enumerate(table["document"])]})
        matrix = whole.matrix.rows(again)
        return whole, Counts(matrix, whole.terms, whole.base[again], table, whole.groups, {})

    def test_parts_of_one_text_are_one_observation(self):
        whole, parts = self.whole_and_in_parts()
        for test in ("rank", "welch", "permutation"):
            settings = {"test": test, "draws": 199}
            one, two = (keyness(counts, KeynessSettings(**settings)) for counts in (whole, parts))
            np.testing.assert_allclose(one["p_adjusted"], two["p_adjusted"], rtol=1e-9)
            if test != "permutation":
                alone = keyness(parts, KeynessSettings(**settings, independent_units=True))
                self.assertFalse(np.allclose(alone["p_adjusted"], one["p_adjusted"], equal_nan=True))

    def test_parts_of_one_text_are_drawn_together(self):
        whole, parts = self.whole_and_in_parts()
        one, two = (keyness(counts, KeynessSettings(resample=60)) for counts in (whole, parts))
        columns = ["term", "resample_low", "resample_high"]
        pd.testing.assert_frame_equal(
            one[columns].sort_values("term", ignore_index=True), two[columns].sort_values("term", ignore_index=True)
        )
        alone = keyness(parts, KeynessSettings(resample=60, independent_units=True)).set_index("term").loc["ice"]
        together = one.set_index("term").loc["ice"]
        widths = [row["resample_high"] - row["resample_low"] for row in (alone, together)]
        self.assertLess(widths[0], widths[1], "more observations of the same seem surer than they are")


class Choosing(unittest.TestCase):
    TEXTS = [(f"A{n}", "A", "ice ice snow rock tree the the") for n in range(9)]
    TEXTS += [(f"B{n}", "B", f"snow rock rock fire the the{' ash' * 20 if n == 0 else ''}") for n in range(9)]

    def frame(self, **settings: object) -> pd.DataFrame:
        return keyness(counts_of(self.TEXTS), KeynessSettings(**settings))

    def test_rows(self):
        every = self.frame()
        self.assertEqual(every["rank"].tolist(), list(range(1, len(every) + 1)))
        rows = (
            ({"direction": "target"}, every["higher_in"] == "A"),
            ({"direction": "reference", "alpha": 1.0}, (every["higher_in"] == "B") & (every["p_adjusted"] < 1)),
            ({"alpha": 0.01}, every["p_adjusted"] < 0.01),
            ({"min_log_ratio": 2.0}, every["log_ratio"].abs() >= 2),
        )
        for settings, wanted in rows:
            with self.subTest(settings):
                found = self.frame(**settings)
                self.assertEqual(found["term"].tolist(), every.loc[wanted, "term"].tolist())
                self.assertEqual(found["rank"].tolist(), every.loc[wanted, "rank"].tolist(), "ranks among all")
        self.assertNotIn("ash", self.frame(max_share=0.5)["term"].tolist())
        by_size = self.frame(rank_by="log_ratio")["log_ratio"].abs()
        self.assertTrue(by_size.is_monotonic_decreasing)
        # the rank does not ask which side is called the target, and much evidence is never below little
        turned = [(name, {"A": "C", "B": "B"}[group], text) for name, group, text in self.TEXTS]
        for name in ("relative_risk", "odds_ratio", "p", "p_adjusted", "bic"):
            settings = KeynessSettings(rank_by=name, zeros="smooth")
            here, there = (keyness(counts_of(rows), settings) for rows in (self.TEXTS, turned))
            with self.subTest(name):
                self.assertEqual([one["target"].iloc[0] for one in (here, there)], ["A", "B"])
                self.assertEqual(here["term"].tolist(), there["term"].tolist())
                if name in ("bic", "p"):
                    like = self.frame(rank_by="ll") if name == "bic" else every
                    self.assertEqual(here["term"].tolist(), like["term"].tolist(), "as by its statistic")
        wide = comparisons_beside(keyness(counts_of(MINI), KeynessSettings()), counts_of(MINI))
        self.assertEqual(wide["term"].is_unique, True)
        self.assertEqual(wide["freq_A"].sum(), 5)
        self.assertEqual(key_terms(every, ("A", "B"), 0.05), {"A": ["ice", "tree"], "B": ["fire"]})

    def test_terms_with_the_same_counts_are_as_they_are_one_by_one(self):
        words = [f"w{number:02}" for number in range(60)]
        texts = [
            (
                f"{group}{n}",
                group,
                " ".join(word for at, word in enumerate(words) if (at * n + len(group)) % step == 0),
            )
            for group, step in (("A", 3), ("BB", 4))
            for n in range(1, 5)
        ]
        for settings in (
            {},
            {"shared": True, "margin": 5.0},
            {"direction": "target", "rank_by": "p"},
            {"test": "chi2"},
        ):
            asked = {"measures": ("all",), "adjust": "holm", "count": "documents", **settings}
            with self.subTest(settings):
                # samples need every term by itself
                one_by_one = keyness(counts_of(texts), KeynessSettings(**asked, resample=2))
                together = keyness(counts_of(texts), KeynessSettings(**asked))
                self.assertGreater(len(together), together[["freq_target", "freq_reference"]].drop_duplicates().size)
                pd.testing.assert_frame_equal(one_by_one[together.columns], together)

    def test_what_is_shared(self):
        found = self.frame(shared=True, margin=2.0)
        self.assertEqual(set(found["term"]), {"snow", "rock", "the"} & set(found["term"]))
        self.assertTrue(((found["shared_low"] >= -2) & (found["shared_high"] <= 2)).all())
        self.assertTrue(found["log_ratio"].abs().is_monotonic_increasing)
        self.assertIn("the", found["term"].tolist())
        background = Background("language", {"the": 60_000, "rock": 20}, 1_000_000)
        rare = keyness(counts_of(self.TEXTS), KeynessSettings(shared=True, below=30.0), background)
        self.assertEqual(rare["term"].tolist(), ["snow", "rock"])
        self.assertEqual(rare["per_million_background"].tolist(), [0.5, 20])

    def test_documents_counted(self):
        found = self.frame(count="documents", measures=("ell",)).set_index("term")
        self.assertEqual(found.loc["ash", ["freq_target", "freq_reference"]].tolist(), [0, 1])
        self.assertEqual(found.loc["the", "g2"], 0)
        self.assertEqual(found.loc["the", "p_adjusted"], 1)
        self.assertTrue(found["ell"].isna().all() and found["per_million_target"].isna().all())

    def test_samples(self):
        found = self.frame(resample=200).set_index("term")
        again = self.frame(resample=200).set_index("term")
        pd.testing.assert_frame_equal(found, again)
        steady, shaky = found.loc["tree"], found.loc["ash"]
        # the same in each document of a side: only the size of the other side moves it
        widths = [one["resample_high"] - one["resample_low"] for one in (steady, shaky)]
        self.assertLess(2 * widths[0], widths[1])
        self.assertTrue((found["rank_low"] <= found["rank_high"]).all())

    def test_wrong_settings(self):
        rows = (
            ({"measures": ("ll", "elll")}, "no measure 'elll'; did you mean 'ell'?"),
            ({"rank_by": "all"}, "no measure 'all'"),
            ({"below": 3.0}, "--background and --below"),
            ({"test": "welch", "count": "documents"}, "--test welch compares rates"),
            ({"test": "rank", "rank_by": "p", "resample": 9}, "--test rank is not recomputed"),
        )
        for settings, message in rows:
            with self.subTest(settings), self.assertRaisesRegex(MillstoneError, message.replace("?", r"\?")):
                self.frame(**settings)
