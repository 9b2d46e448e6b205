"""Trends from the command line: periods, figures, lines by period, what is refused."""

import unittest

from tests.cli.program import ProgramTest


class Trend(ProgramTest):
    def setUp(self) -> None:
        super().setUp()
        rows = ["id,day,hut,season,entry"]
        for year in range(2010, 2018):
            for number in range(6):
                words = ["ski"] * (2 * (year - 2010) + number % 2) + ["sledge"] * (2017 - year) + ["the snow lay"] * 9
                rows.append(f"{year}-{number},{year}-0{number + 1}-03,{'ab'[number % 2]},winter,{' '.join(words)}")
        rows.append("none,,a,winter,snow")
        self.write("book.csv", "\n".join(rows))
        self.write("d.toml", '[categories]\nsport = ["ski", "sledge"]\nweather = ["snow"]\n')

    def test_terms_categories_figures_and_lines(self) -> None:
        book = ("trend", "book.csv", "--text", "entry", "--over", "day")
        run = self.succeeds(*book, "-o", "t.csv", "--chart", "t.png", "--say")
        self.assertIn("note: left out 1 document without a value of day", run.err)
        self.assertIn("note: 8 periods (2010 to 2017)", run.err)
        self.assertRegex(run.err, r"Rising: ski \([0-9.]+ % per unit, 95 % interval")
        rows = {row["term"]: row for row in self.table("t.csv")}
        self.assertEqual((rows["ski"]["trend"], rows["sledge"]["trend"]), ("rises", "falls"))
        self.assertNotIn("course", rows["ski"], "the course is for screens")
        self.assertTrue((self.folder / "t.png").stat().st_size)
        self.succeeds("chart", "t.csv", "--chart", "slopes.png", "--chart-kind", "slopes")
        refused = self.millstone("chart", "t.csv", "--chart", "courses.png")
        self.assertIn("choose --chart-kind slopes", refused.err)
        lines = self.succeeds("concordance", "--from", "t.csv", "--term", "ski").rows()
        self.assertEqual((len(lines), lines[0]["period"]), (int(rows["ski"]["freq"]), "2010"))
        self.assertEqual([line["period"] for line in lines], sorted(line["period"] for line in lines))
        places = self.succeeds(*book, "--dictionary", "d.toml", "--group", "hut", "--columns", "term,course").rows()
        self.assertEqual([row["term"] for row in places], ["sport", "weather"] * 2)
        self.assertRegex(places[0]["course"], "^[\u2581-\u2588]{8}$")

    def test_what_is_refused(self) -> None:
        for code, typed, said, remedy in (
            (1, ("season",), "'winter' of document 2 is neither a number nor a date", "name another field: day"),
            (1, ("dya",), "the texts have no field 'dya'; did you mean 'day'?", "fields of numbers or dates: day"),
            (1, ("day", "--period", "decade"), "a trend needs 5 periods, and book has 1: 2010s", "--period"),
            (2, ("day", "--period", "week"), "--period: must be year, quarter, month, decade or a number", ""),
        ):
            with self.subTest(typed):
                run = self.millstone("trend", "book.csv", "--text", "entry", "--over", *typed)
                self.assertEqual((run.code, run.out), (code, ""))
                self.assertIn(said, run.err)
                self.assertIn(remedy, run.err)


if __name__ == "__main__":
    unittest.main()
