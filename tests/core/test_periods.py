"""Periods of dates and numbers: against the calendar of the standard library, and what is refused."""

import calendar
import datetime
import unittest

import numpy as np

from millstone.core.base.errors import DataError
from millstone.core.corpus.periods import field_numbers, looks_ordered, periods_of


def periods(cells, size=""):
    return periods_of(cells, size, "day", [f"d{at}" for at in range(len(cells))])


class Dates(unittest.TestCase):
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

    def test_labels_and_order(self):
        for cells, size, labels, of in self.TABLE:
            with self.subTest(cells, size=size):
                found = periods(cells, size)
                self.assertEqual((list(found.labels), found.of.tolist()), (labels, of))
                self.assertTrue(looks_ordered(cells))

    def test_random_days_against_the_calendar(self):
        chance = np.random.default_rng(7)
        first = datetime.date(1890, 1, 1).toordinal()
        days = [datetime.date.fromordinal(first + int(one)) for one in chance.integers(0, 60_000, 400)]
        cells = [day.isoformat() for day in days]
        named = {
            "": lambda day: f"{day.year}",
            "year": lambda day: f"{day.year}",
            "month": lambda day: day.strftime("%Y-%m"),
            "quarter": lambda day: f"{day.year}-Q{(day.month + 2) // 3}",
            "decade": lambda day: f"{day.year // 10}0s",
            "5": lambda day: f"{day.year // 5 * 5}",
        }
        for size, label in named.items():
            with self.subTest(size):
                found = periods(cells, size)
                self.assertTrue(found.are_dates)
                self.assertEqual([found.labels[at] for at in found.of.tolist()], [label(day) for day in days])
                self.assertEqual(list(found.labels), sorted(set(found.labels)), "in their order")
        for day, x in zip(days, found.x.tolist(), strict=True):
            length = 366 if calendar.isleap(day.year) else 365
            start = datetime.date(day.year, 1, 1)
            self.assertAlmostEqual(x, day.year + (day - start).days / length, places=10)

    def test_a_year_or_a_month_is_its_middle(self):
        found = periods(["2016", "2016-02", "2017-02-28", "", " 2016-03 ", "2016-03-01T08:00"])
        february = (31 + 29 / 2) / 366
        march = (31 + 29 + 31 / 2) / 366
        wanted = [2016.5, 2016 + february, 2017 + 58 / 365, np.nan, 2016 + march, 2016 + 60 / 366]
        np.testing.assert_allclose(found.x, wanted)
        self.assertEqual(found.of.tolist(), [0, 0, 1, -1, 0, 0])

    def test_what_is_no_date(self):
        for cells, size, said, remedy in (
            (["2016-05-01", "2016-13-01"], "", "'2016-13-01' of document d1 is not a date", "fix the value"),
            (["2016-05-01", "2015-02-29"], "", "'2015-02-29' of document d1 is not a date", "fix the value"),
            (["2016-05-01", "May 2016"], "", "'May 2016' of document d1 is not a date", "fix the value"),
            (["2016-05-01", "2016"], "month", "'2016' of document d1 has no month", "--period year"),
            (["2016-05-01"], "0.5", "--period 0.5: day holds dates", "whole number of years"),
            (["12", "some"], "", "'some' of document d1 is neither a number nor a date", "fix the value"),
            (["12", "nan"], "", "'nan' of document d1 is neither", "fix the value"),
            (["1_000", "2"], "", "'1_000' of document d0 is neither", "fix the value"),
            (["12.5", "13"], "year", "--period year: day holds numbers", "--period N"),
            (["12", "13"], "month", "--period month: day holds numbers", "--period N"),
        ):
            with self.subTest(cells=cells, size=size):
                with self.assertRaises(DataError) as raised:
                    periods(cells, size)
                self.assertIn(said, raised.exception.what)
                self.assertIn(remedy, raised.exception.remedy)


class Numbers(unittest.TestCase):
    def test_each_value_and_steps(self):
        cells = ["10", "-3", "2.5", "10", "", "0", "7e1"]
        for size, labels, of in (
            ("", ("-3", "0", "2.5", "10", "70"), [3, 0, 2, 3, -1, 1, 4]),
            ("5", ("-5", "0", "10", "70"), [2, 0, 1, 2, -1, 1, 3]),
            ("2.5", ("-5", "0", "2.5", "10", "70"), [3, 0, 2, 3, -1, 1, 4]),
        ):
            with self.subTest(size):
                found = periods(cells, size)
                self.assertEqual((found.labels, found.of.tolist(), found.are_dates), (labels, of, False))
                np.testing.assert_equal(found.x, [10, -3, 2.5, 10, np.nan, 0, 70])
        found = periods(["1999", "2003", "2009"], "decade")
        self.assertEqual((found.labels, found.of.tolist()), (("1990s", "2000s"), [0, 1, 1]))

    def test_fields_that_are_held_equal(self):
        """Numbers and dates mean the same as they do for trends."""
        for cells in (["1990", "", "2000.5"], ["1990-01-01", "", "1991-07-02"]):
            np.testing.assert_equal(field_numbers(cells, "--adjust-for day", ["a", "b", "c"]), periods(cells).x)
        with self.assertRaises(DataError) as raised:
            field_numbers(["x"], "--adjust-for day", ["a"])
        self.assertTrue(raised.exception.what.startswith("--adjust-for day: 'x' of document a"))

    def test_what_looks_as_if_it_had_an_order(self):
        for cells, wanted in (
            (["1", "2", ""], True),
            (["2016", "2017-05"], True),
            (["1", "1"], False),
            (["", ""], False),
            (["1", "two"], False),
            (["2016-01-01", "spring"], False),
        ):
            with self.subTest(cells):
                self.assertIs(looks_ordered(cells), wanted)


if __name__ == "__main__":
    unittest.main()
