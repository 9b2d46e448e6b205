"""How alike two lists are: against SciPy, and beside random halves where nothing differs."""

import math
import random
import unittest

import numpy as np
from scipy import stats

from millstone.analyses.keyness.overlap import likeness, overlap
from millstone.analyses.keyness.settings import KeynessSettings
from millstone.core.base.arrays import unique
from tests.core.builders import counts_of


class Overlap(unittest.TestCase):
    def test_against_scipy(self):
        chance = np.random.default_rng(3)
        for _ in range(20):
            a, b = (chance.poisson(chance.gamma(0.4, 20, 60)) for _ in range(2))
            n1, n2, terms = int(a.sum()) + 40, int(b.sum()) + 9, 25
            found = likeness(a, b, (n1, n2), terms)
            common = np.argsort(-(a + b), kind="stable")[:terms]
            self.assertAlmostEqual(found.rho, stats.spearmanr(a[common], b[common]).statistic)
            expected = [side * (a + b)[common] / (n1 + n2) for side in (n1, n2)]
            chi2 = sum(((o[common] - e) ** 2 / e).sum() for o, e in zip((a, b), expected, strict=True))
            self.assertAlmostEqual(found.chi2_by_df, chi2 / (terms - 1))
            top = [set(sorted(range(60), key=lambda at: (-side[at], at))[:terms]) for side in (a, b)]
            self.assertAlmostEqual(found.shared_percent, 100 * len(top[0] & top[1]) / terms)
        itself = likeness(a, a, (n1, n1), terms)
        self.assertEqual((itself.rho, itself.chi2_by_df, itself.shared_percent), (1, 0, 100))
        self.assertTrue(math.isnan(likeness(a, a * 0, (n1, 1), terms).rho))

    def test_texts_that_differ_by_chance_are_as_alike_as_random_halves(self):
        """Bursty documents of unequal lengths: tokens alone would call them different."""
        chance = np.random.default_rng(8)
        words, taste = 80, np.arange(1, 81) ** -0.9
        found = []
        for _ in range(8):
            rows = []
            for number in range(40):
                own = taste * chance.gamma(0.6, size=words)
                tokens = chance.choice(words, int(chance.integers(20, 300)), p=own / own.sum())
                rows.append((str(number), "AB"[number % 2], " ".join(f"w{token}" for token in tokens)))
            found.append(next(overlap(counts_of(rows), KeynessSettings(overlap_terms=50)).rows()))
        for name in ("rho", "chi2_by_df", "shared_percent"):
            seen, halves = (np.array([row[f"{name}{end}"] for row in found]) for end in ("", "_halves"))
            self.assertLess(abs((seen / halves).mean() - 1), 0.1, name)
        self.assertGreater(min(row["chi2_by_df_halves"] for row in found), 2, "which is far from the 1 of tokens")

    def test_what_differs_is_less_alike_than_halves(self):
        chance = random.Random(4)
        rows = [
            (
                str(at),
                "AB"[at % 2],
                " ".join(chance.choices("abcdefgh", (8, 7, 6, 5, 4, 3, 2, 1)[:: 1 - 2 * (at % 2)], k=80)),
            )
            for at in range(20)
        ]
        row = next(overlap(counts_of(rows), KeynessSettings(overlap_terms=8)).rows())
        self.assertLess(row["rho"], 0)
        self.assertGreater(row["chi2_by_df"], 5 * row["chi2_by_df_halves"])
        lone = next(overlap(counts_of([("1", "A", "a b c a"), ("2", "B", "a b b")])).rows())
        self.assertTrue(math.isnan(lone["rho_halves"]))
        self.assertEqual(len(unique(np.array([lone["terms"], 3]))), 1)
