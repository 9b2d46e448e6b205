"""Differences between groups in values of documents, against SciPy and by hand; trends within texts."""

import itertools
import tracemalloc
import unittest
import warnings
from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pandas as pd
from scipy import stats

from millstone.analyses.base.groups.pairs import group_pairs
from millstone.analyses.contrast.compute import Observations, contrast, omnibus
from millstone.analyses.contrast.document_values import DocumentValues, observations
from millstone.analyses.contrast.settings import ContrastSettings
from millstone.analyses.contrast.trends import trends
from millstone.core.base.errors import DataError
from millstone.core.evidence.samples import Sample, bootstrap_interval
from millstone.core.evidence.sampling import sampling_units
from millstone.core.tables.table import Table
from tests.core.builders import framed

contrast, omnibus, trends = map(framed, (contrast, omnibus, trends))

# value: the documents of three groups; with ties, no variance, one document, missing values
SAMPLES = {
    "spread": ([3.0, 5.5, 1.0, 4.0, 9.0], [2.0, 2.5, 7.0, 6.0, 1.5], [1.0, 1.5, 0.5, 2.0]),
    "ties": ([1.0, 1.0, 2.0, 2.0, 3.0], [2.0, 2.0, 2.0, 2.0, 2.0], [1.0, 3.0, 3.0, 3.0]),
    "large": (
        [1e6 + 1, 1e6 + 2, 1e6 + 4, 1e6, 1e6],
        [1e6 + 9, 1e6 + 8, 1e6 + 5, 1e6, 1e6 + 2],
        [1e6, 1e6 + 3, 1e6, 1e6],
    ),
    "missing": ([1.0, np.nan, 2.0, 4.0, np.nan], [np.nan, 3.0, 5.0, 1.0, 2.0], [1.0, 2.0, 1.0, np.nan]),
}


def apart(first: np.ndarray, second: np.ndarray, axis: int = -1) -> np.ndarray:
    """The difference of means by its standard error, without a sign."""
    with np.errstate(divide="ignore", invalid="ignore"):
        error = np.sqrt(sum(one.var(axis=axis, ddof=1) / one.shape[axis] for one in (first, second)))
        away = np.abs(first.mean(axis=axis) - second.mean(axis=axis))
        return np.where(away < 1e-9, 0, np.where(error > 1e-12, away / error, np.inf))


def rank_distance(first: np.ndarray, second: np.ndarray, axis: int = -1) -> np.ndarray:
    """How far the sum of the first ranks is from its mean."""
    ranks = stats.rankdata(np.concatenate((first, second), axis=axis), axis=axis)
    n = first.shape[axis]
    return np.abs(np.take(ranks, range(n), axis=axis).sum(axis=axis) - n * (ranks.shape[axis] + 1) / 2)


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
                    np.testing.assert_allclose(
                        row[["t", "df"]].to_numpy(float), [welch.statistic, welch.df], rtol=1e-9
                    )
                    p, interval = welch.pvalue, welch.confidence_interval()
                    if min(len(first), len(second)) < 5 or not np.ptp(first) * np.ptp(second):
                        p, interval = self.counted(first, second, apart), (np.nan, np.nan)
                    found = row[["p", "ci_low", "ci_high"]].to_numpy(float)
                    np.testing.assert_allclose(found, [p, *interval], rtol=1e-9)
                    np.testing.assert_allclose(row["p_rank"], self.counted(first, second, rank_distance), rtol=1e-12)
                    delta = np.sign(first[:, None] - second).mean()
                    self.assertAlmostEqual(row["cliffs_delta"], delta, 12)
                    self.assertEqual(row["difference"], row["mean_a"] - row["mean_b"])

    @staticmethod
    def counted(first: np.ndarray, second: np.ndarray, distance: Callable[..., np.ndarray]) -> float:
        """The share of all ways to put the documents into the groups that are as far."""
        found = stats.permutation_test(
            (first, second), distance, n_resamples=np.inf, alternative="greater", vectorized=True
        )
        return float(found.pvalue)

    def test_units_of_both_groups_are_pairs(self) -> None:
        chance = np.random.default_rng(2)
        here = chance.normal(0, 3, 7)
        there = here + chance.normal(1, 0.5, 7)
        table = Table({"v": np.concatenate((here, there))})
        group, unit = np.repeat(["a", "b"], 7).astype(object), np.tile(np.arange(7), 2)
        row = contrast(Observations(table, group, ("a", "b"), group, unit=unit)).iloc[0]
        paired = stats.ttest_rel(here, there)
        found = row[["t", "df", "p", "ci_low", "ci_high"]].to_numpy(float)
        np.testing.assert_allclose(
            found, [paired.statistic, 6, paired.pvalue, *paired.confidence_interval()], rtol=1e-9
        )
        swaps = np.array(list(itertools.product((0, 1), repeat=7)))
        ranks = stats.rankdata(table["v"])
        sums = np.where(swaps, ranks[7:], ranks[:7]).sum(axis=1)
        self.assertAlmostEqual(row["p_rank"], (np.abs(sums - 52.5) >= abs(sums[0] - 52.5)).mean(), 12)
        drawn = contrast(
            Observations(table.at(np.arange(14)), group, ("a", "b"), group, unit=np.arange(14)),
        ).iloc[0]
        self.assertLess(10 * row["p"], drawn["p"], "apart they say less")

    def test_a_group_against_the_rest_is_against_the_others_as_one_group(self) -> None:
        seen = observed(SAMPLES)
        several = contrast(seen, ContrastSettings(against="rest"))
        for group in seen.groups:
            as_one = np.where(seen.group == group, group, "rest").astype(object)
            two = contrast(Observations(seen.values, as_one, (group, "rest"), seen.names))
            rows = several[several["group_a"] == group].reset_index(drop=True)
            of_this_row = [name for name in two.columns if not name.endswith("_adjusted")]
            pd.testing.assert_frame_equal(rows[of_this_row], two[of_this_row])

    def test_a_unit_in_several_groups_of_the_rest_is_one_observation_of_its_documents(self) -> None:
        chance = np.random.default_rng(8)
        documents = Table(
            {
                "document": np.array([f"d{n}" for n in range(60)], dtype=object),
                "group": np.array(["a", "b", "c"], dtype=object)[chance.integers(0, 3, 60)],
                "writer": np.array([f"w{n}" for n in chance.integers(0, 12, 60)], dtype=object),
                "tokens": chance.integers(1, 90, 60),
                "v": np.where(chance.random(60) < 0.2, np.nan, chance.normal(0, 1, 60)),
            }
        )
        as_one = documents.with_columns({"group": np.where(documents["group"] == "a", "a", "rest").astype(object)})
        for by_length in (False, True):
            asked = ContrastSettings(values=("v",), sampling_unit="writer", by_length=by_length)
            rows = []
            for table, groups, settings in (
                (documents, ("a", "b", "c"), replace(asked, against="rest")),
                (as_one, ("a", "rest"), asked),
            ):
                given = DocumentValues(table, ("v",), (), sampling_units(table, "writer"))
                rows.append(contrast(observations(given, groups, settings, []), settings).iloc[0])
            compared = ["n_a", "n_b", "mean_a", "mean_b", "ci_low", "ci_high", "p", "p_rank"]
            np.testing.assert_allclose(*(row[compared].to_numpy(float) for row in rows), rtol=1e-12)

    def test_partly_paired_units_by_hand(self) -> None:
        # Derrick and others (2017): the variance of the difference less what pairs have in common
        a, b = np.array([8.0, 5, 6, 9, 4, 7]), np.array([6.0, 4, 5, 7, 2, 3, 5])
        group, unit = (
            np.repeat(["a", "b"], (6, 7)).astype(object),
            np.array([0, 1, 2, 3, 10, 11, 0, 1, 2, 3, 20, 21, 22]),
        )
        table = Table({"v": np.concatenate((a, b))})
        row = contrast(Observations(table, group, ("a", "b"), group, unit=unit)).iloc[0]
        va, vb = a.var(ddof=1) / 6, b.var(ddof=1) / 7
        r = np.corrcoef(a[:4], b[:4])[0, 1]
        error = va + vb - 2 * r * a.std(ddof=1) * b.std(ddof=1) * 4 / 42
        gamma = (va + vb) ** 2 / (va**2 / 5 + vb**2 / 6)
        df = 3 + (gamma - 3) * 5 / 13
        self.assertAlmostEqual(row["t"], (a.mean() - b.mean()) / error**0.5, 9)
        self.assertAlmostEqual(row["df"], df, 9)

    def test_hedges_g_by_hand(self) -> None:
        row = contrast(observed({"v": ([1.0, 2.0, 3.0], [2.0, 4.0, 6.0, 8.0])})).iloc[0]
        # pooled variance (2 x 1 + 3 x 20/3) / 5 = 4.4; d = -3 / 2.0976; J = 1 - 3 / 19
        d = -3 / 4.4**0.5
        self.assertAlmostEqual(row["hedges_g"], d * (1 - 3 / 19), 12)
        t = d / (1 / 3 + 1 / 4) ** 0.5
        for name, share in (("hedges_g_low", 0.975), ("hedges_g_high", 0.025)):
            noncentral = row[name] / (1 / 3 + 1 / 4) ** 0.5
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
        empty = ["ci_low", "ci_high", "hedges_g", "t", "df"]
        self.assertTrue(frame[empty].isna().all().all())
        self.assertEqual(frame["p"].fillna(-1).tolist(), [2 / 3, 1, -1], "of the plain difference")
        few = "few documents: p of all 3 relabellings, no interval"
        self.assertEqual(frame["note"].tolist(), [few, few, "no document of g0 has the value"])
        self.assertEqual(
            notes[0],
            "one document in g0: no standard deviation or interval, and p is of the plain difference",
            "once, not in each row",
        )
        self.assertEqual((frame.loc["one", "difference"], frame.loc["flat", "higher_in"]), (-2, ""))
        self.assertTrue(np.isnan(frame.loc["none", "mean_a"]) and frame.loc["none", "higher_in"] == "")
        flat = contrast(observed({"flat": ([3.0, 3.0], [4.0, 4.0, 4.0])})).iloc[0]
        self.assertTrue(flat[empty].isna().all())
        few = "few documents: p of all 10 relabellings, no interval"
        self.assertEqual((flat["difference"], flat["p"], flat["p_rank"], flat["note"]), (-1, 0.1, 0.1, few))

    def test_the_farthest_document_is_told(self) -> None:
        calm = [1.0, 1.1, 0.9, 1.0, 1.05, 0.95]
        frame = contrast(observed({"v": (calm, [5.0, 5.2, 4.9, 5.1, 9.0])}))
        self.assertEqual(frame["note"].iloc[0], "")
        frame = contrast(observed({"v": ([2.0, 2.1, 1.9, 2.0, 2.05, 1.95], [*calm[1:], 9.0])}))
        self.assertEqual(frame["note"].iloc[0], "without d11 the difference changes sign")
        # without it the means are equal, which is no change of the sign
        frame = contrast(observed({"v": ([1.0, 2, 3, 4, 5], [1.0, 2, 3, 4, 5, 9.0])}))
        self.assertEqual(frame["note"].iloc[0], "")
        frame = contrast(observed({"v": ([1.5, 1.6, 1.4, 1.5, 1.5], [1.0, 1.1, 0.9, 1.0, 1.05, 2.9])}))
        self.assertRegex(frame["note"].iloc[0], r"^without d10 p is \d")

    def test_weights(self) -> None:
        samples = {"v": (SAMPLES["spread"][0], SAMPLES["spread"][1])}
        alike = contrast(observed(samples))
        same = contrast(observed(samples, np.full(10, 7.0)))
        columns = ["mean_a", "sd_a", "difference", "ci_low", "ci_high", "t", "df", "p", "hedges_g"]
        np.testing.assert_allclose(alike[columns].to_numpy(float), same[columns].to_numpy(float), rtol=1e-12)
        weight = np.array([1, 2, 3, 4, 5, 1, 1, 2.0, 1, 1])
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
        with self.assertRaisesRegex(DataError, "needs 8 documents in each group, and g0 has 5"):
            contrast(observed(SAMPLES), ContrastSettings(interval="bootstrap"))

    def test_intervals_by_drawing_cover(self) -> None:
        """Skewed values of few documents: the interval holds the difference of the means 93 to 97 times in 100."""
        chance, covered = np.random.default_rng(5), []
        for _ in range(60):
            samples = {
                f"v{at}": (chance.gamma(1, 1, 12).tolist(), chance.gamma(1, 2, 15).tolist()) for at in range(5)
            }
            frame = contrast(observed(samples), ContrastSettings(interval="bootstrap", draws=400))
            covered.append(((frame["ci_low"] <= -1) & (frame["ci_high"] >= -1)).mean())
        self.assertAlmostEqual(np.mean(covered), 0.95, delta=0.03)

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
        many, others = (
            Sample(np.arange(4000.0), np.ones(4000), np.arange(4000).astype(object), np.arange(4000) + first)
            for first in (0, 4000)
        )
        tracemalloc.start()
        bootstrap_interval(many, others, 5000, 1)
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
