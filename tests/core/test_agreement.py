"""Agreement of coders against published examples, and categories that err: coverage where the errors are known."""

import itertools
import unittest

import numpy as np

from millstone.core.coding.agreement import cohen_kappa, krippendorff_alpha, percent_agreement, with_interval
from millstone.core.coding.misclassified import (
    Coded,
    Rates,
    corrected_difference,
    corrected_share,
    precision_of,
    rates_of,
    recall_and_f1,
)
from millstone.core.coding.prevalence import share_of

# Krippendorff (2011): two observers and binary codes; four observers, five values, gaps
BINARY = ("0100000010", "1110010000")
FOUR = ("123321412...", "1233224125.3", ".3332342251.", "12332441251.")


def counts_of(coders: tuple[str, ...]) -> np.ndarray:
    values = sorted({sign for codes in coders for sign in codes if sign != "."})
    return np.array(
        [[sum(codes[at] == value for codes in coders) for value in values] for at in range(len(coders[0]))]
    )


def plain_alpha(coders: tuple[str, ...]) -> float:
    """Alpha from the matrix of coincidences, pair by pair."""
    together: dict[tuple[str, str], float] = {}
    for at in range(len(coders[0])):
        codes = [one[at] for one in coders if one[at] != "."]
        for one, other in itertools.permutations(range(len(codes)), 2):
            pair = codes[one], codes[other]
            together[pair] = together.get(pair, 0) + 1 / (len(codes) - 1)
    number = sum(together.values())
    of = {value: sum(n for (one, _), n in together.items() if one == value) for value, _ in together}
    seen = sum(n for (one, other), n in together.items() if one != other)
    chance = sum(of[one] * of[other] for one, other in itertools.permutations(of, 2)) / (number - 1)
    return 1 - seen / chance


class Agreement(unittest.TestCase):
    def test_published_examples_to_three_digits(self) -> None:
        for coders, published in ((BINARY, 0.095), (FOUR, 0.743)):
            self.assertAlmostEqual(float(krippendorff_alpha(counts_of(coders))[0]), published, 3)
            self.assertAlmostEqual(float(krippendorff_alpha(counts_of(coders))[0]), plain_alpha(coders))

    def test_kappa_and_per_cent_by_hand(self) -> None:
        one, other = (np.array(list(codes), dtype=int) for codes in BINARY)
        # 6 of 10 the same; by chance 0.2 x 0.4 + 0.8 x 0.6
        self.assertAlmostEqual(float(cohen_kappa(one, other)[0]), (0.6 - 0.56) / 0.44)
        self.assertAlmostEqual(float(percent_agreement(counts_of(BINARY))[0]), 60)
        self.assertTrue(np.isnan(cohen_kappa(np.zeros(4), np.zeros(4))[0]))
        self.assertTrue(np.isnan(krippendorff_alpha(np.array([[2, 0], [2, 0]]))[0]))
        self.assertTrue(np.isnan(percent_agreement(np.array([[1, 0], [0, 1]]))[0]))

    def test_weights_are_units_that_are_there_so_often(self) -> None:
        chance = np.random.default_rng(2)
        counts = chance.multinomial(3, (0.6, 0.3, 0.1), size=9)
        times = chance.integers(0, 4, (5, 9))
        for statistic in (krippendorff_alpha, percent_agreement):
            for row, found in zip(times, statistic(counts, times.astype(float)), strict=True):
                self.assertAlmostEqual(float(found), float(statistic(np.repeat(counts, row, axis=0))[0]))

    def test_intervals_hold_alpha_of_the_texts(self) -> None:
        chance = np.random.default_rng(7)

        # coders who see what a unit is 9 times in 10
        def coded(units: int) -> np.ndarray:
            truth = chance.random(units) < 0.3
            codes = [np.where(chance.random(units) < 0.9, truth, ~truth) for _ in range(2)]
            return np.stack([sum(codes), 2 - sum(codes)], axis=1).astype(int)

        true = float(krippendorff_alpha(coded(200_000))[0])
        held = 0
        for seed in range(120):
            counts = coded(120)
            found = with_interval(lambda weight, own=counts: krippendorff_alpha(own, weight), 120, seed)
            held += found.low <= true <= found.high
        self.assertGreaterEqual(held / 120, 0.88)


def drawn(chance: np.random.Generator, units: int, shares: tuple[float, float], rates: tuple[float, float]):
    """Two groups of units, what they are, what the category says, and a sheet of 200 that were drawn by hits."""
    group = np.arange(units) % 2
    truth = chance.random(units) < np.array(shares)[group]
    hit = np.where(truth, chance.random(units) < rates[0], chance.random(units) > rates[1])
    stratum = hit.astype(int)
    chosen = np.concatenate([chance.choice(np.flatnonzero(stratum == one), 100, replace=False) for one in (0, 1)])
    weight = np.bincount(stratum)[stratum[chosen]] / 100
    return group, truth, hit, Coded(hit[chosen], truth[chosen], stratum[chosen], weight)


class Misclassified(unittest.TestCase):
    def test_weighted_rates_by_hand(self) -> None:
        # 3 of 4 hits are right, each for 10 units; 1 of 5 others is of the category, each for 20
        coded = Coded(
            np.array([True] * 4 + [False] * 5),
            np.array([True, True, True, False, True, False, False, False, False]),
            np.array([0] * 4 + [1] * 5),
            np.array([10.0] * 4 + [20.0] * 5),
        )
        self.assertAlmostEqual(precision_of(coded).value, 0.75)
        # Wilson's interval of 3 of 4
        self.assertAlmostEqual(precision_of(coded).low, 0.3006, 4)
        self.assertAlmostEqual(precision_of(coded).high, 0.9544, 4)
        recall, f1 = recall_and_f1(coded, 1)
        self.assertAlmostEqual(recall.value, 30 / 50)
        self.assertAlmostEqual(f1.value, 2 * 0.75 * 0.6 / (0.75 + 0.6))
        rates = rates_of(coded)
        self.assertAlmostEqual((rates.sensitivity), 0.6)
        self.assertAlmostEqual(rates.specificity, 80 / 90)
        self.assertAlmostEqual(corrected_share(0.3, rates), (0.3 + 80 / 90 - 1) / (0.6 + 80 / 90 - 1))
        self.assertEqual(corrected_share(0.01, rates), 0)

    def test_the_corrected_difference_covers_the_true_one(self) -> None:
        shares, of_category, held, biased = (0.30, 0.18), (0.8, 0.92), 0, []
        for seed in range(500):
            chance = np.random.default_rng(seed)
            group, _, hit, coded = drawn(chance, 3000, shares, of_category)
            seen = [float(hit[group == one].mean()) for one in (0, 1)]
            variances = [share * (1 - share) / 1500 for share in seen]
            rates = rates_of(coded)
            found = corrected_difference((seen[0], seen[1]), (variances[0], variances[1]), (rates, rates))
            held += found.low <= shares[0] - shares[1] <= found.high
            biased.append(seen[0] - seen[1])
        self.assertTrue(0.93 <= held / 500 <= 0.97, held / 500)
        # what is seen is short of the difference by what the category misses
        self.assertAlmostEqual(float(np.mean(biased)), 0.12 * 0.72, 2)

    def test_it_covers_where_texts_are_bursty_and_of_unequal_length(self) -> None:
        # 40 texts of each group, in some of which the category is frequent, and 12 in which both groups have units
        held, narrow, runs = 0, 0, 400
        for seed in range(runs):
            chance = np.random.default_rng(seed)
            sizes = np.minimum(np.ceil(chance.lognormal(3.2, 0.8, 80)), 400).astype(int)
            cluster = np.repeat(np.arange(80), sizes)
            group = (cluster % 2).astype(bool)
            mixed = cluster < 12
            group[mixed] = chance.random(int(mixed.sum())) < 0.5
            # texts of both groups are alike in how much they have
            share = np.where(group, 0.25, 0.15) * chance.gamma(2, 0.5, 80)[cluster]
            truth = chance.random(len(cluster)) < np.minimum(share, 0.95)
            hit = np.where(truth, chance.random(len(cluster)) < 0.6, chance.random(len(cluster)) < 0.03)
            stratum = hit.astype(int)
            chosen = np.concatenate(
                [chance.choice(np.flatnonzero(stratum == one), 150, replace=False) for one in (0, 1)]
            )
            weight = np.bincount(stratum)[stratum[chosen]] / 150
            rates = rates_of(Coded(hit[chosen], truth[chosen], stratum[chosen], weight))
            one, other = (share_of(hit, group == which, cluster) for which in (True, False))
            for covariance in (one.covariance(other), None):
                variances = one.variance, other.variance
                if covariance is None:
                    # as if units were drawn one by one
                    variances = tuple(
                        side.value * (1 - side.value) / (group == which).sum()
                        for side, which in ((one, True), (other, False))
                    )
                found = corrected_difference((one.value, other.value), variances, (rates, rates), covariance or 0.0)
                covers = found.low <= 0.10 <= found.high
                held, narrow = held + covers * (covariance is not None), narrow + covers * (covariance is None)
        self.assertTrue(0.92 <= held / runs <= 0.98, held / runs)
        self.assertLess(narrow / runs, 0.9)

    def test_a_share_over_clusters_by_hand(self) -> None:
        cluster = np.array([0, 0, 0, 1, 2, 2])
        hit = np.array([1, 1, 0, 0, 1, 0], dtype=bool)
        found = share_of(hit, np.ones(6, dtype=bool), cluster)
        # 3 of 6; the clusters have 0.5 more, 0.5 fewer and as many as half of their units
        self.assertEqual((found.value, found.clusters), (0.5, 3))
        self.assertAlmostEqual(found.variance, 3 / 2 * (0.5**2 + 0.5**2) / 36)
        alone = share_of(hit, cluster == 0, cluster)
        self.assertTrue(np.isnan(alone.variance))
        self.assertTrue(np.isnan(share_of(hit, cluster > 5, cluster).value))

    def test_recall_is_not_sure_where_no_miss_was_drawn(self) -> None:
        # 6,000 units without a hit, of which few are of the category, and 300 with one
        for misses, of_sheet in ((100, 100), (3, 100), (300, 60)):
            held, without, narrow = 0, 0, 0
            for seed in range(200):
                chance = np.random.default_rng(seed)
                hit = np.arange(6300) < 300
                truth = np.where(hit, np.arange(6300) % 5 > 0, np.arange(6300) < 300 + misses)
                stratum = np.where(hit, 1 + (np.arange(6300) % 3), 0)
                sizes = (of_sheet, 20, 20, 20)
                chosen = np.concatenate(
                    [
                        chance.choice(np.flatnonzero(stratum == one), size, replace=False)
                        for one, size in enumerate(sizes)
                    ]
                )
                weight = (np.bincount(stratum) / sizes)[stratum[chosen]]
                coded = Coded(hit[chosen], truth[chosen], stratum[chosen], weight)
                recall, f1 = recall_and_f1(coded, seed)
                true = (hit & truth).sum() / truth.sum()
                held += recall.low <= true <= recall.high
                if not (truth & ~hit)[chosen].any():
                    without += 1
                    narrow += recall.low > 0.9
                self.assertTrue(recall.low <= recall.value <= recall.high and f1.low <= f1.value <= f1.high)
            self.assertGreaterEqual(held / 200, 0.9, (misses, of_sheet))
            self.assertEqual(narrow, 0, f"{without} sheets without a miss")

    def test_the_covariance_is_that_of_many_sheets(self) -> None:
        found, expected = [], []
        for seed in range(300):
            _, _, _, coded = drawn(np.random.default_rng(seed), 4000, (0.3, 0.3), (0.8, 0.92))
            rates: Rates = rates_of(coded)
            found.append((rates.sensitivity, rates.specificity))
            expected.append(rates.covariance)
        ratio = np.sqrt(np.diag(np.mean(expected, axis=0)) / np.diag(np.cov(np.array(found).T)))
        self.assertTrue((np.abs(ratio - 1) < 0.15).all(), ratio)


if __name__ == "__main__":
    unittest.main()
