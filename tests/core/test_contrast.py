"""Differences between groups in values of documents, against SciPy and by hand; trends within texts."""

import tracemalloc
import unittest
import warnings

import numpy as np
import pandas as pd
from scipy import stats

from millstone.core.compare.contrast import Observations, contrast, omnibus
from millstone.core.compare.pairs import group_pairs
from millstone.core.compare.trends import trends
from millstone.core.errors import DataError
from millstone.core.settings.analyses import ContrastSettings
from millstone.core.statistics.samples import Sample, bootstrap_interval
from millstone.core.table import Table
from tests.core.builders import framed

contrast, omnibus, trends = map(framed, (contrast, omnibus, trends))

# value: the documents of three groups; with ties, no variance, one document, missing values
SAMPLES = {
    "spread": ([3.0, 5.5, 1.0, 4.0, 9.0], [2.0, 2.5, 7.0], [1.0, 1.5, 0.5, 2.0]),
    "ties": ([1.0, 1.0, 2.0, 2.0, 3.0], [2.0, 2.0, 2.0], [1.0, 3.0, 3.0, 3.0]),
    "large": ([1e6 + 1, 1e6 + 2, 1e6 + 4, 1e6, 1e6], [1e6 + 9, 1e6 + 8, 1e6 + 5], [1e6, 1e6 + 3, 1e6, 1e6 + 1]),
    "missing": ([1.0, np.nan, 2.0, 4.0, np.nan], [np.nan, 3.0, 5.0], [1.0, 2.0, 1.0, np.nan]),
}


def observed(samples: dict[str, tuple[list[float], ...]], weight: np.ndarray | None = None) -> Observations:
    sizes = [len(part) for part in next(iter(samples.values()))]
    group = np.repeat([f"g{number}" for number in range(len(sizes))], sizes).astype(object)
    names = np.array([f"d{number}" for number in range(len(group))], dtype=object)
    values = pd.DataFrame({name: np.concatenate(parts) for name, parts in samples.items()})
    return Observations(Table.of_frame(values), group, tuple(dict.fromkeys(group)), names, weight)


class Contrast(unittest.TestCase):
    def test_against_scipy(self) -> None:
        frame = contrast(observed(SAMPLES)).set_index(["value", "group_a", "group_b"])
        for name, parts in SAMPLES.items():
            for (a, x), (b, y) in (((0, 1), (0, 1)), ((0, 2), (0, 2)), ((1, 2), (1, 2))):
                first, second = (np.array(parts[one]) for one in (a, x))
                first, second = first[~np.isnan(first)], second[~np.isnan(second)]
                row = frame.loc[(name, f"g{a}", f"g{x}")]
                with self.subTest(name, pair=(b, y)), warnings.catch_warnings():
                    # SciPy warns of a group without variance
                    warnings.simplefilter("ignore")
                    welch = stats.ttest_ind(first, second, equal_var=False)
                    found = row[["t", "df", "p", "ci_low", "ci_high"]].to_numpy(dtype=float)
                    wanted = [welch.statistic, welch.df, welch.pvalue, *welch.confidence_interval()]
                    np.testing.assert_allclose(found, wanted, rtol=1e-9)
                    rank = stats.mannwhitneyu(first, second, method="asymptotic").pvalue
                    np.testing.assert_allclose(row["p_rank"], rank, rtol=1e-12)
                    delta = np.sign(first[:, None] - second).mean()
                    self.assertAlmostEqual(row["cliffs_delta"], delta, 12)
                    self.assertEqual(row["difference"], row["mean_a"] - row["mean_b"])

    def test_hedges_g_by_hand(self) -> None:
        row = contrast(observed({"v": ([1.0, 2.0, 3.0], [2.0, 4.0, 6.0, 8.0])})).iloc[0]
        # pooled variance (2 x 1 + 3 x 20/3) / 5 = 4.4; d = -3 / 2.0976; J = 1 - 3 / 19
        d = -3 / 4.4**0.5
        self.assertAlmostEqual(row["hedges_g"], d * (1 - 3 / 19), 12)
        t = d / (1 / 3 + 1 / 4) ** 0.5
        for name, share in (("hedges_g_low", 0.975), ("hedges_g_high", 0.025)):
            noncentral = row[name] / (1 - 3 / 19) / (1 / 3 + 1 / 4) ** 0.5
            self.assertAlmostEqual(stats.nct.cdf(t, 5, noncentral), share, 9)

    def test_swapping_the_groups_turns_the_signs(self) -> None:
        seen = observed(SAMPLES)
        one = contrast(seen)
        other = contrast(Observations(seen.values, seen.group, seen.groups[::-1], seen.names)).set_index(
            ["value", "group_b", "group_a"]
        )
        other = other.loc[list(one[["value", "group_a", "group_b"]].itertuples(index=False, name=None))].reset_index()
        for name in ("difference", "t", "hedges_g", "cliffs_delta"):
            np.testing.assert_allclose(one[name], -other[name], rtol=1e-9)
        for name in ("p", "p_adjusted", "p_rank", "df", "higher_in"):
            self.assertEqual(one[name].tolist(), other[name].tolist())
        np.testing.assert_allclose(one["hedges_g_low"], -other["hedges_g_high"], rtol=1e-6)

    def test_small_and_constant_groups(self) -> None:
        notes: list[str] = []
        values = {"one": ([1.0], [2.0, 4.0]), "flat": ([3.0], [3.0, 3.0]), "none": ([np.nan], [1.0, 2.0])}
        frame = contrast(observed(values), note=notes.append).set_index("value")
        empty = ["ci_low", "ci_high", "hedges_g", "t", "df", "p"]
        self.assertTrue(frame[empty].isna().all().all())
        self.assertEqual(
            frame["note"].tolist(),
            ["", "", "no document of g0 has the value"],
        )
        self.assertEqual(
            notes[0], "one document in g0: no standard deviation, interval or test", "once, not in each row"
        )
        self.assertEqual((frame.loc["one", "difference"], frame.loc["flat", "higher_in"]), (-2, ""))
        self.assertTrue(np.isnan(frame.loc["none", "mean_a"]) and frame.loc["none", "higher_in"] == "")
        flat = contrast(observed({"flat": ([3.0, 3.0], [4.0, 4.0, 4.0])})).iloc[0]
        self.assertTrue(flat[empty].isna().all())
        self.assertEqual((flat["difference"], flat["note"]), (-1, "all documents of each group are equal: no test"))
        self.assertAlmostEqual(flat["p_rank"], stats.mannwhitneyu([3, 3], [4, 4, 4], method="asymptotic").pvalue, 12)

    def test_the_farthest_document_is_told(self) -> None:
        calm = [1.0, 1.1, 0.9, 1.0, 1.05, 0.95]
        frame = contrast(observed({"v": (calm, [5.0, 5.2, 4.9, 9.0])}))
        self.assertEqual(frame["note"].iloc[0], "")
        frame = contrast(observed({"v": ([2.0, 2.1, 1.9, 2.0, 2.05, 1.95], [*calm[1:], 9.0])}))
        self.assertEqual(frame["note"].iloc[0], "without d11 the difference changes sign")
        frame = contrast(observed({"v": ([1.5, 1.6, 1.4, 1.5], [1.0, 1.1, 0.9, 1.0, 1.05, 2.9])}))
        self.assertRegex(frame["note"].iloc[0], r"^without d9 p is \d")

    def test_weights(self) -> None:
        samples = {"v": (SAMPLES["spread"][0], SAMPLES["spread"][1])}
        alike = contrast(observed(samples))
        same = contrast(observed(samples, np.full(8, 7.0)))
        columns = ["mean_a", "sd_a", "difference", "ci_low", "ci_high", "t", "df", "p", "hedges_g"]
        np.testing.assert_allclose(alike[columns].to_numpy(float), same[columns].to_numpy(float), rtol=1e-12)
        weight = np.array([1, 2, 3, 4, 5, 1, 1, 2.0])
        row = contrast(observed(samples, weight)).iloc[0]
        self.assertAlmostEqual(row["mean_a"], np.average(samples["v"][0], weights=weight[:5]), 12)

    def test_intervals_by_drawing(self) -> None:
        chance = np.random.default_rng(3)
        samples = {"v": (chance.normal(1, 1, 80).tolist(), chance.normal(0, 2, 60).tolist())}
        drawn, again = (contrast(observed(samples), ContrastSettings(interval="bootstrap")).iloc[0] for _ in range(2))
        welch = contrast(observed(samples)).iloc[0]
        self.assertEqual(drawn["ci_low"], again["ci_low"], "the same seed")
        half = (welch["ci_high"] - welch["ci_low"]) / 2
        for name in ("ci_low", "ci_high"):
            self.assertLess(abs(drawn[name] - welch[name]), 0.15 * half)

    def test_who_is_compared(self) -> None:
        groups = ("a", "b", "c")
        self.assertEqual(group_pairs(groups, "pairs"), [("a", "b"), ("a", "c"), ("b", "c")])
        self.assertEqual(group_pairs(groups, "b"), [("a", "b"), ("c", "b")])
        with self.assertRaisesRegex(DataError, "did you mean 'b'"):
            group_pairs(groups, "bb")
        alone = Observations(pd.DataFrame({"v": [1.0, 2.0]}), np.array(["a", "a"]), ("a",), np.array(["1", "2"]))
        with self.assertRaisesRegex(DataError, "a contrast needs two groups"):
            contrast(alone)

    def test_memory_of_the_bootstrap_does_not_grow_with_draws_times_documents(self) -> None:
        many = Sample(np.arange(4000.0), np.ones(4000), np.arange(4000).astype(object))
        tracemalloc.start()
        bootstrap_interval(many, many, 5000, 1)
        peak = tracemalloc.get_traced_memory()[1]
        tracemalloc.stop()
        self.assertLess(peak, 5000 * 4000 * 8 / 2, "half of what all draws would take at once")

    def test_no_more_differences_than_chance_makes(self) -> None:
        """Documents of one population, shuffled 200 times: p below 0.05 in about 5 of a hundred."""
        chance = np.random.default_rng(8)
        values = pd.DataFrame({f"v{number}": chance.gamma(0.8 + number, 1, 60) for number in range(5)})
        group = np.repeat(["a", "b"], 30).astype(object)
        names = np.arange(60).astype(str).astype(object)
        found = [
            contrast(Observations(Table.of_frame(values), chance.permutation(group), ("a", "b"), names))
            for _ in range(200)
        ]
        for name in ("p", "p_rank"):
            share = np.mean([frame[name] < 0.05 for frame in found])
            # two standard errors of 1,000 tests, those of one shuffle taken as independent
            self.assertLess(abs(share - 0.05), 0.014, name)


class Omnibus(unittest.TestCase):
    def test_against_scipy(self) -> None:
        frame = omnibus(observed(SAMPLES)).set_index("value")
        for name, parts in SAMPLES.items():
            clean = [np.array(part)[~np.isnan(part)] for part in parts]
            row = frame.loc[name]
            kruskal = stats.kruskal(*clean)
            np.testing.assert_allclose(row[["kruskal_h", "p_kruskal"]].to_numpy(float), kruskal, rtol=1e-12)
            if name == "ties":
                self.assertTrue(np.isnan(row["welch_f"]), "a group without variance")
                continue
            wanted = stats.f_oneway(*clean, equal_var=False)
            np.testing.assert_allclose(row[["welch_f", "p"]].to_numpy(float), wanted, rtol=1e-9)
        two = omnibus(observed({"v": SAMPLES["spread"][:2]})).iloc[0]
        welch = stats.ttest_ind(*SAMPLES["spread"][:2], equal_var=False)
        self.assertAlmostEqual(two["welch_f"], welch.statistic**2, 9)
        self.assertAlmostEqual(two["p"], welch.pvalue, 9)


class Trends(unittest.TestCase):
    def frame(self, texts: dict[str, list[float]], group: str = "g") -> pd.DataFrame:
        rows = [
            (group, name, number, value) for name, values in texts.items() for number, value in enumerate(values, 1)
        ]
        return pd.DataFrame(rows, columns=["group", "part_of", "part", "v"])

    def test_one_text_against_scipy(self) -> None:
        y = [1.0, 2.5, 2.0, 4.0, 3.5, 6.0]
        row = trends(self.frame({"t": y}), ["v"], ["g"]).iloc[0]
        wanted = stats.linregress((np.arange(6) + 0.5) / 6, y)
        half = stats.t.ppf(0.975, 4) * wanted.stderr
        found = row[["slope", "slope_low", "slope_high"]].to_numpy(float)
        np.testing.assert_allclose(found, [wanted.slope, wanted.slope - half, wanted.slope + half], rtol=1e-10)
        self.assertAlmostEqual(row["rho"], stats.spearmanr(range(6), y).statistic, 12)

    def test_several_texts(self) -> None:
        texts = {
            f"t{number}": [float(number), number + 0.1 * number, number + 5.0, number + 0.2] for number in range(1, 7)
        }
        row = trends(self.frame(texts), ["v"], ["g"]).iloc[0]
        slopes = [stats.linregress((np.arange(4) + 0.5) / 4, y).slope for y in texts.values()]
        interval = stats.ttest_1samp(slopes, 0).confidence_interval()
        found = row[["texts", "parts", "slope", "slope_low", "slope_high"]].to_numpy(float)
        np.testing.assert_allclose(found, [6, 4, np.mean(slopes), *interval], rtol=1e-10)
        self.assertEqual(row["departing"], "1 lower; 2 lower; 3 higher; 4 lower")
        short = trends(self.frame({"t": [1.0, 2.0]}), ["v"], ["g", "h"])
        self.assertEqual(short["texts"].tolist(), [0, 0])
        self.assertTrue(short["slope"].isna().all())


if __name__ == "__main__":
    unittest.main()
