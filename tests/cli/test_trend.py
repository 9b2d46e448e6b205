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
        huts = self.succeeds(*book, "--count-field", "hut", "--chart", "huts.svg").rows()
        self.assertEqual({row["term"]: row["freq"] for row in huts}, {"a": "24", "b": "24"})
        self.assertEqual({row["first_per_million"] for row in huts}, {"500000.0"})
        self.assertIn("documents per million", (self.folder / "huts.svg").read_text("utf-8"))
        both = (*book, "--count-field", "hut", "--dictionary", "d.toml")
        self.fails(2, "--dictionary counts categories, and --count-field", "leave one", *both)

    def test_sizes_of_ngrams_and_jobs(self) -> None:
        book = ("trend", "book.csv", "--text", "entry", "--over", "day", "--ngram", "1..2", "--period", "1")
        run = self.succeeds(*book, "-o", "one.csv", "--jobs", "1")
        self.assertRegex(run.err, r"note: single terms: 8 periods \(2010 to 2017\): \d of 5 pass")
        self.assertRegex(run.err, r"note: 2-grams: 8 periods")
        self.succeeds(*book, "-o", "two.csv", "--jobs", "2")
        self.assertEqual((self.folder / "one.csv").read_bytes(), (self.folder / "two.csv").read_bytes())
        sizes = [row["n"] for row in self.table("one.csv")]
        self.assertEqual(sizes, sorted(sizes))
        tested = {n: [row for row in self.table("one.csv") if row["n"] == n] for n in ("1", "2")}
        for rows in tested.values():
            p = [float(row["p"]) for row in rows if row["p"]]
            self.assertEqual(p, sorted(p))
            for row in rows:
                if row["p"]:
                    low, change, high = (float(row[f"change_{name}"]) for name in ("low", "percent", "high"))
                    self.assertTrue(low <= change <= high)
                    self.assertEqual(float(row["p"]) < 0.05, low > 0 or high < 0, row["term"])

    def test_in_a_study_and_its_report(self) -> None:
        self.write(
            "study.toml",
            """
[study]
title = "Snow"

[corpus]
input = ["book.csv"]
text = "entry"

[[step]]
command = "trend"
over = "day"
output = "terms.csv"
chart = "courses.svg"

[[step]]
command = "trend"
over = "day"
period = "1"
dictionary = ["d.toml"]
adjust = "holm"
output = "places.csv"
chart = "slopes.svg"
chart_kind = "slopes"
""",
        )
        self.succeeds("run", "study.toml")
        report = next(self.folder.rglob("report.html")).read_text("utf-8")
        self.assertRegex(report, r"Step 1: rates were followed over day by log-linear models[^.]*Hochberg \(1995\)")
        self.assertRegex(report, r"Step 2: rates were followed over day[^.]*after Holm \(1979\)")
        for end in ("terms.csv", "courses.svg", "places.csv", "slopes.svg"):
            self.assertTrue(next(self.folder.rglob(end)).stat().st_size, end)
        for size in (1, 3, 60):
            rows = [f"{at},{1900 + at},{'ski ' * (3 + at % 5)}the snow" for at in range(max(size, 5))]
            self.write("many.csv", "\n".join(["id,year,entry", *rows]))
            self.succeeds(
                *("trend", "many.csv", "--text", "entry", "--over", "year", "--chart", f"{size}.png", "--quiet"),
                *("--chart-top", str(size), "-o", f"{size}.csv"),
            )

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
