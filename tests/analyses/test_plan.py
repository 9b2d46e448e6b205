"""Plans: by hand, and by simulation of corpora of the planned size."""

import unittest

import numpy as np
from scipy import stats

from millstone.analyses.plan.compute import plan, plan_of_sizes
from millstone.analyses.plan.settings import PlanSettings, planned_group
from millstone.core.evidence.quasi_likelihood import dispersion
from millstone.core.evidence.sampling import SamplingUnits
from millstone.core.evidence.unit_sums import UnitsOfSides, unit_sums
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.statistics.contingency import log_likelihood
from millstone.core.tables.table import Table
from millstone.core.terms.counts import Counts

RATES, BANDS = (500, 1700, 5000, 17_000), (300, 1000, 3000, 10_000)


def corpus(chance, sizes, ratio, copies=120, shape=4.0, base=None):
    """Bursty words of each rate per million on both sides together, `ratio` times as frequent in the first group."""
    base = chance.integers(400, 2000, sum(sizes)) if base is None else base
    first = np.arange(len(base)) < sizes[0]
    n1, n2 = int(base[first].sum()), int(base[~first].sum())
    columns = []
    for rate, times in zip(RATES, ratio, strict=True):
        other = rate * 1e-6 * (n1 + n2) / (times * n1 + n2)
        mean = base * np.where(first, times * other, other)
        columns.append(chance.poisson(mean[:, None] * chance.gamma(shape, 1 / shape, (len(base), copies))))
    names = np.array([f"d{at}" for at in range(len(base))], dtype=object)
    table = Table({"document": names, "group": np.where(first, "a", "b").astype(object)})
    counts = np.concatenate(columns, axis=1).astype(np.int32)
    terms = np.array([f"w{at}" for at in range(counts.shape[1])], dtype=object)
    return Counts(SparseMatrix.of_dense(counts), terms, base.astype(np.int64), table, ("a", "b"), {})


class Plans(unittest.TestCase):
    def test_sizes_by_hand(self):
        settings = PlanSettings(sizes=("old=20x5000", "new=40 x 2000"), design_effect=2.0, power=0.9, terms=50)
        rows = list(plan_of_sizes(settings).rows())
        self.assertEqual([row["per_million"] for row in rows[:4]], [1, 3, 10, 30])
        z = stats.norm.ppf(0.975) + stats.norm.ppf(0.9)
        strict = stats.norm.ppf(1 - 0.05 / 100) + stats.norm.ppf(0.9)
        for row in rows:
            n1, n2 = (100_000, 80_000) if row["target"] == "old" else (80_000, 100_000)
            every = row["per_million"] * 0.18

            def far(rho, n1=n1, n2=n2, every=every):
                a = every * rho * n1 / (rho * n1 + n2)
                e1, e2 = every * n1 / (n1 + n2), every * n2 / (n1 + n2)
                return 2 * (a * np.log(a / e1) + (every - a) * np.log((every - a) / e2)) / 2

            self.assertEqual(row["documents_for_2"], max(4, np.ceil(60 * z**2 / far(2.0))))
            for name, wanted in (("smallest_ratio", z), ("smallest_ratio_strict", strict)):
                with self.subTest(row=row, name=name):
                    if np.isnan(row[name]):
                        self.assertLess(far(1e12), wanted**2)
                    else:
                        self.assertAlmostEqual(far(row[name]), wanted**2, places=6)

    def test_terms_of_texts_by_hand(self):
        """The bands, and the quantiles of the dispersion around each side's own rate."""
        counts = corpus(np.random.default_rng(3), (12, 20), (2, 2, 1, 1), copies=30)
        table = plan(counts)
        units = SamplingUnits(np.arange(32))
        parts = counts.part(("a",)), counts.part(("b",))
        every = np.arange(len(counts.terms))
        self.assertEqual(sum(table["terms"].tolist()), 2 * len(every))
        rate = 1e6 * (parts[0].freq + parts[1].freq) / (parts[0].tokens + parts[1].tokens)
        sums = unit_sums(*parts, every, UnitsOfSides.of(*parts, units))
        with np.errstate(divide="ignore"):
            own = np.log(sums.a / sums.n1) - np.log(sums.b / sums.n2)
        phi = dispersion(sums, np.where(np.isfinite(own), own, 0))
        for row in table.rows():
            inside = (rate >= row["per_million"]) & (
                rate < row["per_million"] * (3 if str(row["per_million"])[0] == "1" else 10 / 3)
            )
            with self.subTest(row):
                self.assertEqual(row["terms"], inside.sum())
                self.assertAlmostEqual(row["design_effect"], np.median(phi[inside]))
                self.assertAlmostEqual(row["design_effect_90"], np.quantile(phi[inside], 0.9))

    def test_what_is_planned_is_found_eight_times_in_ten(self):
        """Five rows: words as bursty as those that were measured, with the ratio that the plan names."""
        chance, found = np.random.default_rng(6), {}
        for sizes in ((60, 60), (40, 80)):
            alike = corpus(chance, sizes, (1, 1, 1, 1))
            measured = plan(alike)
            for row in measured.rows():
                if row["target"] != "a" or row["per_million"] not in BANDS or np.isnan(row["smallest_ratio"]):
                    continue
                ratio = [row["smallest_ratio"] if rate == row["per_million"] else 1 for rate in BANDS]
                if row["smallest_ratio"] > 6:
                    continue
                counts = corpus(chance, sizes, ratio, copies=400, base=alike.base)
                place = BANDS.index(row["per_million"])
                wanted = np.arange(400 * place, 400 * (place + 1))
                parts = counts.part(("a",)), counts.part(("b",))
                sums = unit_sums(*parts, wanted, UnitsOfSides.of(*parts, SamplingUnits(np.arange(sum(sizes)))))
                p = stats.chi2.sf(
                    log_likelihood(sums.a, sums.b, sums.n1, sums.n2) / dispersion(sums, np.zeros(400)), 1
                )
                found[sizes, row["per_million"]] = (p < 0.05).mean()
        self.assertGreaterEqual(len(found), 5)
        self.assertTrue(all(0.72 <= share <= 0.88 for share in found.values()), found)

    def test_how_sizes_are_typed(self):
        self.assertEqual(planned_group("a b=3x40"), planned_group(" a b=3 \u00d7 40"))
        for typed, said in (
            ("old", "NAME=DOCUMENTSxTOKENS"),
            ("old=0x5", "0 documents"),
            ("old=1x5", "1 document:"),
            ("old=5x0", "0 tokens"),
            ("=5x5", "NAME=DOCUMENTSxTOKENS"),
        ):
            with self.subTest(typed), self.assertRaisesRegex(ValueError, said):
                planned_group(typed)


if __name__ == "__main__":
    unittest.main()
