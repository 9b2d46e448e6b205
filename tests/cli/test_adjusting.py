"""Fields held equal from the command line: a sign that turns, what is told, what is refused."""

import itertools
import unittest

from tests.cli.program import ProgramTest

SHORT, LONG = 20, 100


class HeldEqual(ProgramTest):
    def setUp(self) -> None:
        """In each season `tea` is rarer in b, which has most of its texts in winter, when there is much tea."""
        super().setUp()
        rows = ["id,hut,season,year,code,same,entry"]
        tea = {("a", "summer"): 2, ("a", "winter"): 12, ("b", "summer"): 1, ("b", "winter"): 8}
        texts = {("a", "summer"): 20, ("a", "winter"): 4, ("b", "summer"): 4, ("b", "winter"): 20}
        for (hut, season), times in tea.items():
            for number in range(texts[hut, season]):
                drunk = times + number % 2
                words = ["tea"] * drunk + ["bread"] * (4 + number % 3) + ["the"] * (LONG - drunk)
                name, year = f"{hut}{season[0]}{number}", 2000 + number if number else ""
                rows.append(f"{name},{hut},{season},{year},{hut}{number % 3},one,{' '.join(words)}")
        rows.append(f"lost,a,autumn,2001,a0,one,{'tea ' * 3}{'the ' * SHORT}")
        self.write("book.csv", "\n".join(rows))
        self.write("d.toml", '[categories]\ndrinks = ["tea"]\nfood = ["bread"]\n')

    def test_a_sign_that_turns(self) -> None:
        book = ("book.csv", "--text", "entry", "--group", "hut", "--adjust-for", "season")
        run = self.succeeds("keyness", *book, "-o", "k.csv")
        self.assertIn("with season held equal these pass: 1 (1 of the 1 that pass without)", run.err)
        self.assertRegex(run.err, r"in a only: season autumn \(1 % of its tokens\); such texts say nothing")
        for table, key in (("k.csv", "term"), ("c.csv", "value")):
            if key == "value":
                self.succeeds("contrast", *book, "--dictionary", "d.toml", "-o", table)
            rows = {row[key]: row for row in self.table(table)}
            tea, bread = rows["tea" if key == "term" else "drinks"], rows["bread" if key == "term" else "food"]
            self.assertLess(float(tea["log_ratio"]), 0)
            self.assertGreater(float(tea["log_ratio_conditional_low"]), 0)
            self.assertAlmostEqual(float(tea["log_ratio_conditional"]), 0.55, delta=0.1)
            self.assertIn("with season held equal the difference turns round", tea["note"])
            self.assertLess(float(tea["p_conditional_adjusted"]), 0.05)
            self.assertGreater(float(bread["p_conditional"]), 0.05)
            self.assertEqual(bread["note"], "")
        shown, _ = self.on_a_terminal(60, "contrast", *book, "--dictionary", "d.toml")
        self.assertRegex("\n".join(shown), r"value .* ratio +held +adjusted")

    def test_every_layout_has_the_columns(self) -> None:
        book = ("keyness", "book.csv", "--text", "entry", "--group", "hut", "--adjust-for", "season,year:number")
        run = self.succeeds(*book, "--jobs", "2", "-o", "one.csv")
        self.assertIn("4 documents without a value of year: left out where it is held equal", run.err)
        self.succeeds(*book, "--jobs", "1", "-o", "two.csv")
        self.assertEqual((self.folder / "one.csv").read_bytes(), (self.folder / "two.csv").read_bytes())
        for further in (("--wide",), ("--ngram", "1..2"), ("--against", "pairs", "--sampling-unit", "year")):
            with self.subTest(further=further):
                header = self.succeeds(*book, *further).rows()[0]
                self.assertTrue(any(name.startswith("log_ratio_conditional") for name in header))

    def test_a_study_says_how(self) -> None:
        self.write(
            "study.toml",
            '[corpus]\ninput = ["book.csv"]\ntext = "entry"\ngroup = "hut"\n[[step]]\ncommand = "keyness"\n'
            'output = "k.csv"\nadjust_for = ["season", "year:number"]\n',
        )
        self.succeeds("run", "study.toml")
        said = next(self.folder.rglob("report.html")).read_text("utf-8")
        self.assertIn("The conditional ratios hold season and year equal", said)

    def test_what_is_refused(self) -> None:
        book = ("book.csv", "--text", "entry", "--group", "hut")
        self.write("list.csv", "term,freq\ntea,5\nbread,4\n")
        many = ["id,hut,title,entry", *(f"{at},{'ab'[at % 2]},t{at},some words here" for at in range(500))]
        self.write("many.csv", "\n".join(many))
        for given, error, remedy in (
            ((*book, "--adjust-for", "hut"), "--adjust-for hut: this makes the groups", "name another field"),
            ((*book, "--adjust-for", "sesaon"), "no field 'sesaon'; did you mean 'season'?", "fields are"),
            ((*book, "--adjust-for", "code"), "code sets all texts of a from b apart", "leave the field out"),
            (
                (*book, "--adjust-for", "season:number"),
                "season: 'summer' of document 2 is neither",
                "fix the value",
            ),
            ((*book, "--adjust-for", "season", "--count", "documents"), "--count documents has none", "leave one"),
            ((*book, "--adjust-for", "season", "--against", "list.csv"), "--adjust-for needs documents", "give the"),
            (
                ("many.csv", "--text", "entry", "--group", "hut", "--adjust-for", "title"),
                "--adjust-for title: there are 500 different values, and at most 50 levels",
                "type title:number if they are numbers",
            ),
        ):
            with self.subTest(given=given):
                self.fails(2 if "hut" in given[-1] or "documents" in given else 1, error, remedy, "keyness", *given)
        few = ["hut,season,entry", *itertools.starmap("{},{},tea and bread".format, [("a", "x"), ("b", "y")] * 2)]
        self.write("few.csv", "\n".join([*few, "a,y,tea"]))
        run = self.millstone("keyness", "few.csv", "--text", "entry", "--group", "hut", "--adjust-for", "season")
        self.assertEqual(run.code, 0)


if __name__ == "__main__":
    unittest.main()
