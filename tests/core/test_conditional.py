"""Ratios with fields held equal: against a general Poisson regression, and by simulation with a confounder."""

import unittest
import warnings
from unittest import mock

import numpy as np
import statsmodels.api as sm
from scipy import stats

from millstone.core.evidence import conditional
from millstone.core.evidence.adjusting import NONE, adjusting_of
from millstone.core.evidence.conditional import AdjustedDesign, conditional_ratios
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.tables.table import Table

LN2 = np.log(2)


def documents(chance, number, unequal=(0.2, 0.5, 0.8)):
    """Genres and years of documents, the side of each, of which the genre has a say, and their tokens."""
    genre = chance.integers(0, 3, number)
    years = chance.integers(1990, 2000, number)
    in_target = chance.random(number) < np.array(unequal)[genre]
    table = Table(
        {
            "document": np.array([f"d{at}" for at in range(number)], dtype=object),
            "group": np.array(["b", "a"], dtype=object)[in_target.astype(int)],
            "genre": np.array(["play", "verse", ""], dtype=object)[genre],
            "year": np.array([str(year) for year in years], dtype=object),
        }
    )
    return table, genre, years, in_target, chance.integers(100, 3000, number)


def designed(table, asked, in_target, unit, tokens):
    pattern, patterns = adjusting_of(table, asked).design(np.arange(len(table)))
    return AdjustedDesign(in_target, unit, pattern, patterns, tokens)


class AgainstPoissonRegression(unittest.TestCase):
    def test_ratios_intervals_and_p(self):
        """Words that are bursty, absent from a genre, or from a side; units of one document and on both sides."""
        chance = np.random.default_rng(8)
        for units in (60, 24):
            table, genre, years, in_target, tokens = documents(chance, 60)
            rates = np.array([3e-3, 1e-2, 3e-4, 4e-3, 6e-3])
            mean = (
                tokens[:, None] * rates * np.exp(chance.normal(0, 0.5, (3, 5)))[genre] * chance.gamma(2, 0.5, (60, 5))
            )
            counts = chance.poisson(mean)
            counts[:, 3] *= genre != 1
            counts[:, 4] *= ~in_target
            unit = np.arange(60) if units == 60 else chance.integers(0, units, 60)
            design = designed(table, ["genre", "year:number"], in_target, unit, tokens)
            found = conditional_ratios(SparseMatrix.of_dense(counts), design)
            fields = np.stack([np.ones(60), genre == 1, genre == 2, years - 1995], axis=1).astype(float)
            for term in range(5):
                with self.subTest(units=units, term=term):
                    ratio, low, high, p = self.regression(counts[:, term], fields, in_target, unit, tokens)
                    self.assertAlmostEqual(found.p[term], p, delta=1e-7 + 1e-5 * p)
                    if term == 4:
                        self.assertTrue(np.isnan([found.log_ratio[4], found.low[4], found.high[4]]).all())
                        continue
                    np.testing.assert_allclose(
                        (found.log_ratio[term], found.low[term], found.high[term]), (ratio, low, high), rtol=1e-5
                    )

    def regression(self, y, fields, in_target, unit, tokens):
        """By a general library, with the dispersion summed unit by unit."""
        side, offset = in_target.astype(float), np.log(tokens)
        kept = fields[:, [0, *(at for at in (1, 2) if y[fields[:, at] > 0].any()), 3]]
        some = np.ones(len(y), dtype=bool) if kept.shape[1] == 4 else fields[:, 1] + fields[:, 2] != 1
        some |= np.array([y[(fields[:, 1:3] == row).all(axis=1)].any() for row in fields[:, 1:3]])
        mean = np.zeros(len(y))
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            both = [
                sm.GLM(y[some], x[some], family=sm.families.Poisson(), offset=offset[some]).fit(
                    maxiter=300, tol=1e-13
                )
                for x in (kept, np.column_stack([kept, side]))
            ]
        mean[some] = both[0].mu
        evidence, total = both[0].deviance - both[1].deviance, mean.sum()
        apart = np.zeros(len(y))
        apart[some] = side[some] - kept[some] @ sm.WLS(side[some], kept[some], weights=mean[some]).fit().params
        scale = total / (apart**2 * mean).sum()
        away = divisor = 0.0
        for one in np.unique(unit):
            own = unit == one
            share, left = mean[own].sum() / total, (y - mean)[own]
            if 0 < side[own].mean() < 1:
                away += scale * (apart[own] @ left) ** 2 / (1 - share)
                divisor += scale * (apart[own] ** 2 @ y[own])
            else:
                away += left.sum() ** 2 / (1 - share)
                divisor += y[own].sum()
        number = len(np.unique(unit))
        dispersion = max(1, number / (number - 3) * away / divisor)
        beta = both[1].params[-1]
        half = stats.norm.ppf(0.975) * np.sqrt(dispersion) * abs(beta) / np.sqrt(evidence)
        return beta / LN2, (beta - half) / LN2, (beta + half) / LN2, stats.chi2.sf(evidence / dispersion, 1)

    def test_terms_that_say_nothing_and_dependent_fields(self):
        """One genre per side and a shared one: a term of the shared one alone counts; a field named twice over adds none."""
        genre = np.repeat(["verse", "play", "shared", "shared"], 6)
        side = np.repeat([True, False, True, False], 6)
        table = Table(
            {
                "document": np.array([f"d{at}" for at in range(24)], dtype=object),
                "group": np.where(side, "a", "b").astype(object),
                "genre": genre.astype(object),
                "code": np.array([one[:1] for one in genre], dtype=object),
            }
        )
        chance, tokens = np.random.default_rng(2), np.full(24, 1000)
        counts = np.stack([(genre == "verse") * 5, chance.poisson(8, 24), np.zeros(24, dtype=int)], axis=1)
        found = [
            conditional_ratios(SparseMatrix.of_dense(counts), designed(table, fields, side, np.arange(24), tokens))
            for fields in (["genre"], ["genre", "code"])
        ]
        self.assertTrue(np.isnan(found[0].p[[0, 2]]).all())
        shared = counts[12:, 1]
        self.assertAlmostEqual(found[0].log_ratio[1], np.log2(shared[:6].sum() / shared[6:].sum()), places=7)
        np.testing.assert_allclose(found[1].log_ratio, found[0].log_ratio, rtol=1e-7)
        np.testing.assert_allclose(found[1].p, found[0].p, rtol=1e-6)

    def test_units_summed_up_are_as_units_one_by_one(self):
        """Rare and common words, units of very unequal size, some of one document and some of several."""
        chance = np.random.default_rng(11)
        for number, units in ((40, 40), (300, 300), (300, 120)):
            table, _, _, in_target, _ = documents(chance, number)
            tokens = np.ceil(np.exp(chance.normal(5, 1.5, number))).astype(np.int64)
            rates = 10.0 ** chance.uniform(-4, -1.5, 60)
            counts = SparseMatrix.of_dense(chance.poisson(tokens[:, None] * rates * chance.gamma(1, 1, (number, 60))))
            unit = np.arange(number) if units == number else chance.integers(0, units, number)
            design = designed(table, ["genre", "year:number"], in_target, unit, tokens)
            fast = conditional_ratios(counts, design)
            with mock.patch.object(conditional, "_SMALL", 0.0):
                plain = conditional_ratios(counts, design)
            for name in ("log_ratio", "low", "high", "p"):
                with self.subTest(number=number, units=units, name=name):
                    np.testing.assert_allclose(getattr(fast, name), getattr(plain, name), rtol=1e-9)


class Calibration(unittest.TestCase):
    def test_p_where_only_the_genre_differs(self):
        """Bursty words whose rates differ between genres, of which the sides have unequal shares; the ratio is held by
        the interval when one is planted."""
        chance, seen, without, held = np.random.default_rng(4), [], [], []
        for number in (60, 150):
            table, genre, _, in_target, tokens = documents(chance, number, (0.1, 0.5, 0.9))
            of_genre = np.exp(chance.normal(0, 0.8, (3, 400)))[genre]
            mean = tokens[:, None] * 4e-3 * of_genre * chance.gamma(2, 0.5, (number, 400))
            counts = chance.poisson(mean)
            unit = np.arange(number)
            fields = conditional_ratios(
                SparseMatrix.of_dense(counts), designed(table, ["genre", "year:number"], in_target, unit, tokens)
            )
            plain = AdjustedDesign(in_target, unit, np.zeros(number, dtype=int), np.ones((1, 1)), tokens)
            seen.append((fields.p < 0.05).mean())
            without.append((conditional_ratios(SparseMatrix.of_dense(counts), plain).p < 0.05).mean())
            doubled = chance.poisson(mean * np.where(in_target, 2, 1)[:, None])
            twice = conditional_ratios(
                SparseMatrix.of_dense(doubled), designed(table, ["genre"], in_target, unit, tokens)
            )
            held.append(((twice.low <= 1) & (twice.high >= 1)).mean())
        self.assertLessEqual(max(seen), 0.07, seen)
        self.assertGreaterEqual(min(seen), 0.02, seen)
        self.assertGreater(min(without), 0.3, without)
        self.assertTrue(min(held) >= 0.92 and max(held) <= 0.99, held)

    def test_levels_of_documents_without_a_value(self):
        table, genre, _, _, _ = documents(np.random.default_rng(1), 30)
        (field,) = adjusting_of(table, ["genre"]).fields
        self.assertEqual([field.levels[at] for at in field.values], [("play", "verse", NONE)[at] for at in genre])


if __name__ == "__main__":
    unittest.main()
