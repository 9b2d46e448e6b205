"""Trends over periods: what is planted is found, one loud period is named, and chance passes one time in twenty."""

import unittest

import numpy as np

from millstone.analyses.trend.compute import courses, group_periods, trends
from millstone.analyses.trend.settings import TrendSettings
from millstone.core.base.errors import DataError
from millstone.core.corpus.periods import periods_of
from tests.core.builders import counts_of

YEARS = [str(year) for year in range(2010, 2022)]


def texts(counts: dict[str, list[int]], tokens: int = 1000) -> list[tuple[str, str, str]]:
    """A document for each period, in which words occur so often among so many tokens."""
    rows = []
    for at in range(len(next(iter(counts.values())))):
        words = [word for word, often in counts.items() for _ in range(often[at])]
        rows.append((str(at), "g", " ".join([*words, *["x"] * (tokens - len(words))])))
    return rows


class Trends(unittest.TestCase):
    def test_what_rises_falls_and_is_loud(self):
        planted = {
            "rise": [round(10 * 1.15**at) for at in range(12)],
            "fall": [round(60 * 0.85**at) for at in range(12)],
            "even": [20] * 12,
            "loud": [2, 2, 2, 2, 2, 2, 2, 2, 2, 2, 2, 60],
            "last": [0] * 11 + [9],
        }
        counts = counts_of(texts(planted))
        periods = periods_of(YEARS, "", "year", YEARS)
        said: list[str] = []
        rows = {row["term"]: row for row in trends(counts, periods, TrendSettings(), said.append).rows()}
        self.assertEqual((rows["rise"]["trend"], rows["fall"]["trend"]), ("rises", "falls"))
        for name, change in (("rise", 15), ("fall", -15)):
            self.assertLess(abs(rows[name]["change_percent"] - change), 1)
            self.assertTrue(rows[name]["change_low"] < change < rows[name]["change_high"])
            self.assertLess(rows[name]["p_adjusted"], 1e-3)
            self.assertEqual(rows[name]["note"], "")
        self.assertAlmostEqual(rows["even"]["change_percent"], 0)
        self.assertTrue(np.isnan(rows["even"]["tau"]))
        self.assertEqual((rows["loud"]["loudest"], rows["loud"]["trend"]), ("2021", "rises"))
        self.assertLess(rows["loud"]["p_adjusted"], 0.05)
        self.assertEqual(rows["loud"]["note"], "without 2021 it does not pass")
        self.assertTrue(np.isnan(rows["last"]["p"]))
        self.assertIn("no rate of change", rows["last"]["note"])
        self.assertEqual(max(rows.values(), key=lambda row: row["rank"])["term"], "last")
        self.assertEqual((rows["rise"]["periods"], rows["rise"]["docs"], rows["last"]["freq"]), (12, 12, 9))
        self.assertRegex(
            said[0], r"12 periods \(2010 to 2021\): \d of 6 pass \(p adjusted < 0.05\), 2 rise, \d falls?; 1 of"
        )
        only = trends(counts, periods, TrendSettings(direction="rises"))
        self.assertNotIn("fall", only["term"].tolist())
        course = courses(counts, group_periods(counts, periods)[0], ["rise"]).to_frame()
        self.assertEqual(course["freq"].tolist(), planted["rise"])
        self.assertTrue(
            ((course["fitted_low"] < course["fitted"]) & (course["fitted"] < course["fitted_high"])).all()
        )
        self.assertTrue(
            ((course["rate_low"] < course["per_million"]) & (course["per_million"] < course["rate_high"])).all()
        )

    def test_waves_are_noted(self):
        months = [f"{2015 + at // 12}-{at % 12 + 1:02}" for at in range(24)]
        counts = counts_of(texts({"wave": [10 + round(6 * np.sin(at / 2)) for at in range(24)]}, 400))
        wave = next(
            row for row in trends(counts, periods_of(months, "month", "m", months)).rows() if row["term"] == "wave"
        )
        self.assertRegex(
            wave["note"], r"rates of neighbouring periods are alike \(0\.9\): the interval is too narrow"
        )
        self.assertEqual(wave["course"][:6], "\u2585\u2587\u2588\u2588\u2588\u2588")

    def test_fewer_than_five_periods(self):
        counts = counts_of(texts({"word": [8, 9, 8, 9]}))
        with self.assertRaises(DataError) as caught:
            trends(counts, periods_of(YEARS[:4], "", "year", YEARS[:4]))
        self.assertIn("a trend needs 5 periods, and g has 4: 2010, 2011, 2012, 2013", caught.exception.what)
        self.assertIn("keyness", caught.exception.remedy)

    def test_chance_passes_one_time_in_twenty(self):
        """Bursty documents of unequal length, and a shock for each word in each period."""
        for periods in (5, 12):
            chance, words = np.random.default_rng(periods), 50
            base, p = np.arange(1, words + 1) ** -0.8, []
            for _ in range(12):
                rows, years = [], []
                for year in range(periods):
                    shocks = np.exp(chance.normal(0, 0.3, words))
                    for number in range(int(chance.integers(3, 9))):
                        taste = base * shocks * chance.gamma(0.7, size=words)
                        tokens = chance.choice(words, int(chance.integers(30, 500)), p=taste / taste.sum())
                        rows.append((f"{year}-{number}", "g", " ".join(f"w{token}" for token in tokens)))
                        years.append(str(2000 + year))
                table = trends(counts_of(rows), periods_of(years, "", "year", years))
                p.append(np.asarray(table["p"], dtype=float))
            share = (np.concatenate(p) < 0.05).mean()
            self.assertTrue(0.015 < share <= 0.075, (periods, share))


if __name__ == "__main__":
    unittest.main()
