"""The smallest ratio that a comparison finds: against a root of the log-likelihood, and by simulation."""

import unittest

import numpy as np
from scipy import optimize, stats

from millstone.core.evidence.power import Z80, smallest_ratio
from millstone.core.evidence.quasi_likelihood import Squares, UnitSums, dispersion
from millstone.core.statistics.contingency import log_likelihood


class SmallestRatio(unittest.TestCase):
    def test_the_root_of_the_log_likelihood_of_expected_counts(self):
        self.assertAlmostEqual(Z80, stats.norm.ppf(0.975) + stats.norm.ppf(0.8), places=12)
        for count, n1, n2, phi in (
            (100, 1000, 1000, 1.0),
            (40, 5000, 20000, 1.6),
            (900, 70000, 3000, 2.5),
            (20, 7, 9, 1),
        ):
            with self.subTest(count=count, n1=n1, n2=n2):

                def far(rho, count=count, n1=n1, n2=n2, phi=phi):
                    a = count * rho * n1 / (rho * n1 + n2)
                    e1, e2 = count * n1 / (n1 + n2), count * n2 / (n1 + n2)
                    b = count - a
                    return 2 * (a * np.log(a / e1) + b * np.log(b / e2)) / phi - Z80**2

                found = smallest_ratio(np.array([count]), n1, n2, phi)[0]
                self.assertAlmostEqual(found, optimize.brentq(far, 1, 1e9, xtol=1e-13), delta=1e-8 * found)
        self.assertTrue(np.isnan(smallest_ratio(np.array([0, 3, 1000]), 1000, 1000, np.array([1, 1, 900]))).all())
        every = smallest_ratio(np.array([20, 100, 1000, 10**6]), 1000, 1000)
        self.assertTrue((np.diff(every) < 0).all() and every[-1] > 1)

    def test_eight_of_ten_are_found(self):
        """Documents of unequal length in which a word is bursty; the design effect is that of texts alike."""
        chance, runs = np.random.default_rng(5), 800
        for units, rate, burst in (((40, 40), 0.004, 2.0), ((25, 60), 0.01, 1.0), ((80, 30), 0.002, 5.0)):
            sizes = [chance.integers(200, 1500, count) for count in units]
            n1, n2 = (int(one.sum()) for one in sizes)
            alike = self.drawn(chance, sizes, (rate, rate), burst, runs)
            phi = float(np.median(dispersion(alike, np.zeros(runs))))
            rho = smallest_ratio(np.array([rate * (n1 + n2)]), n1, n2, phi)[0]
            # the pooled rate stays as it is
            other = rate * (n1 + n2) / (rho * n1 + n2)
            apart = self.drawn(chance, sizes, (rho * other, other), burst, runs)
            likelihood = log_likelihood(apart.a, apart.b, n1, n2)
            p = stats.chi2.sf(likelihood / dispersion(apart, np.zeros(runs)), 1)
            with self.subTest(units=units, rho=rho):
                self.assertTrue(0.72 <= (p < 0.05).mean() <= 0.88, (p < 0.05).mean())

    def drawn(self, chance, sizes, rates, burst, runs):
        """The sums of a word in documents, `runs` times; `burst` is the shape of the gamma its rates vary by."""
        counts = [
            chance.poisson(one[:, None] * rate * chance.gamma(burst, 1 / burst, (len(one), runs)))
            for one, rate in zip(sizes, rates, strict=True)
        ]
        n1, n2 = (int(one.sum()) for one in sizes)
        sides = []
        for y, n in zip(counts, sizes, strict=True):
            weight = 1 / (1 - n / (n1 + n2))
            sides.append(Squares(y.sum(axis=0), weight @ y**2, (weight * n) @ y, float(weight @ n**2)))
        return UnitSums(sides[0].counts, sides[1].counts, n1, n2, *sides)


if __name__ == "__main__":
    unittest.main()
