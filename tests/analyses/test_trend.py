"""Trends over periods: what is planted is found, one loud period is named, and chance passes one time in twenty."""

import datetime
import unittest

import numpy as np

from millstone.analyses.trend.compute import courses, group_periods, trends
from millstone.analyses.trend.settings import TrendSettings
from millstone.core.base.errors import DataError
from millstone.core.corpus.periods import looks_ordered, periods_of
from tests.core.builders import counts_of

YEARS = [str(year) for year in range(2010, 2022)]


def texts(counts: dict[str, list[int]], tokens: int = 1000) -> list[tuple[str, str, str]]:
    """A document for each period, in which words occur so often among so many tokens."""
    rows = []
    for at in range(len(next(iter(counts.values())))):
        words = [word for word, often in counts.items() for _ in range(often[at])]
        rows.append((str(at), "g", " ".join([*words, *["x"] * (tokens - len(words))])))
    return rows


class Periods(unittest.TestCase):
    TABLE = (
        (["2016-01-06", "2016-07", "2018", "", "2017-12-31T10:00"], "", ["2016", "2017", "2018"], [0, 0, 2, -1, 1]),
        (["2016-01-06", "2016-07-01", "2019-05"], "quarter", ["2016-Q1", "2016-Q3", "2019-Q2"], [0, 1, 2]),
        (["2016-12", "2016-01-31"], "month", ["2016-01", "2016-12"], [1, 0]),
        (["1999-05-01", "2008", "2011"], "decade", ["1990s", "2000s", "2010s"], [0, 1, 2]),
        (["1999-05-01", "2008", "2011"], "5", ["1995", "2005", "2010"], [0, 1, 2]),
        (["3", "-4", "2.5", "3.0"], "", ["-4", "2.5", "3"], [2, 0, 1, 2]),
        (["13", "-4", "9.9"], "5", ["-5", "5", "10"], [2, 0, 1]),
        (["1999", "2008"], "decade", ["1990s", "2000s"], [0, 1]),
    )

    def test_table(self):
        for cells, size, labels, of in self.TABLE:
            with self.subTest(cells, size=size):
                found = periods_of(cells, size, "when", cells)
                self.assertEqual((list(found.labels), found.of.tolist()), (labels, of))
                self.assertTrue(looks_ordered(cells))
        x = periods_of(["2016-03-01", "2015-12-31", "2016", "2015-01"], "", "when", list("abcd")).x
        day = datetime.date(2016, 3, 1).timetuple().tm_yday - 1
        np.testing.assert_allclose(x, [2016 + day / 366, 2015 + 364 / 365, 2016.5, 2015 + 15.5 / 365])

    def test_what_is_no_period(self):
        for cells, size, said in (
            (["1", "two"], "", "'two' of document b is neither a number nor a date"),
            (["2016-13", "2016-01"], "", "'2016-13' of document a is not a date"),
            (["2016-02-30", "x"], "", "'2016-02-30' of document a is not a date"),
            (["2016-02", "2017"], "quarter", "'2017' of document b has no month, and --period quarter asks for it"),
            (["1", "2"], "month", "holds numbers, not dates"),
            (["2016-01", "2017-01"], "2.5", "periods of whole years"),
            (["nan", "1"], "", "'nan' of document a is neither"),
        ):
            with self.subTest(cells, size=size), self.assertRaises(DataError) as caught:
                periods_of(cells, size, "when", "ab")
            self.assertIn(said, caught.exception.what)
        self.assertFalse(looks_ordered(["1", "1"]))


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
