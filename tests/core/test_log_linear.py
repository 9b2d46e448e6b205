"""Log-linear rates: against a general optimiser, SciPy's tau and hand calculations."""

import unittest

import numpy as np
from scipy import optimize, stats

from millstone.core.evidence.log_linear import kendall_tau, lag_correlation, log_linear


class Fits(unittest.TestCase):
    def test_against_a_general_optimiser(self):
        chance = np.random.default_rng(4)
        for periods in (3, 5, 12, 60):
            x = (
                np.sort(chance.uniform(1990, 2020, periods))
                if periods != 5
                else np.array([2016, 2017, 2018, 2019, 2020.0])
            )
            sizes = chance.integers(500, 60_000, periods)
            slopes = chance.normal(0, 4 / np.ptp(x), 30)
            counts = chance.poisson(sizes[:, None] * 1e-3 * np.exp(slopes * (x[:, None] - x.mean())))
            found = log_linear(counts, sizes, x)
            z = x - x.mean()
            for term in range(counts.shape[1]):
                y = counts[:, term]
                if not (y[1:].any() and y[:-1].any()):
                    self.assertTrue(np.isnan(found.beta[term]))
                    continue

                def loss(theta: np.ndarray, y: np.ndarray = y, z: np.ndarray = z, n: np.ndarray = sizes) -> float:
                    eta = theta[0] + theta[1] * z + np.log(n)
                    return float(np.exp(eta).sum() - y @ eta)

                best = optimize.minimize(loss, (np.log(y.sum() / sizes.sum()), 0.0), method="Nelder-Mead",
                                         options={"xatol": 1e-10, "fatol": 1e-12, "maxiter": 4000})  # fmt: skip
                self.assertAlmostEqual(found.beta[term], best.x[1], 4)
                mean = found.mean[:, term]
                np.testing.assert_allclose(mean, sizes * np.exp(found.alpha[term] + found.beta[term] * x), rtol=1e-7)
                # what the two equations of the likelihood say
                np.testing.assert_allclose([mean.sum(), x @ mean], [y.sum(), x @ y], rtol=1e-11)
                phi = max(1, ((y - mean) ** 2 / mean).sum() / (periods - 2))
                self.assertAlmostEqual(found.dispersion[term], phi)
                centre = x @ mean / mean.sum()
                self.assertAlmostEqual(found.error[term] / np.sqrt(phi / (mean @ (x - centre) ** 2)), 1)

    def test_what_has_no_slope(self):
        x, sizes = np.arange(5.0), np.full(5, 100)
        counts = np.array([[9, 0, 2, 0, 3], [0, 0, 2, 1, 0], [0, 0, 2, 8, 0], [0, 0, 2, 1, 0], [0, 7, 2, 0, 0]])
        found = log_linear(counts, sizes, x)
        self.assertEqual(np.isnan(found.beta).tolist(), [True, True, False, False, True])
        np.testing.assert_allclose(found.beta[2:4], 0, atol=1e-12)
        steep = log_linear(np.array([[1000], [1], [0]]), np.array([10**4, 10**4, 10**4]), np.arange(3.0))
        self.assertLess(steep.beta[0], -6)
        far = log_linear(np.array([[0], [3], [10**6]]), np.array([5, 10**8, 10**7]), np.array([0, 1e-3, 1e6]))
        self.assertTrue(np.isfinite(far.beta[0]))

    def test_tau_and_neighbours(self):
        chance = np.random.default_rng(5)
        x = np.array([1.0, 2, 3, 5, 8, 8, 9])
        sizes = np.array([10, 20, 20, 30, 10, 40, 50])
        counts = chance.integers(0, 6, (7, 40))
        found = kendall_tau(counts, sizes, x)
        for term in range(40):
            expected = stats.kendalltau(counts[:, term] / sizes, x).statistic
            self.assertAlmostEqual(found[term], expected)
        fitted = np.full((4, 2), 4.0)
        lag = lag_correlation(np.array([[6, 6], [6, 2], [2, 6], [2, 2]]), fitted)
        # residuals 1, 1, -1, -1 and 1, -1, 1, -1
        np.testing.assert_allclose(lag, [1 / 4, -3 / 4])


if __name__ == "__main__":
    unittest.main()
