"""Many settings from the command line: both tables, the curve, lines behind rows, a study, what is refused."""

import unittest

from tests.cli.program import ProgramTest

STUDY = """[study]
title = "Would it hold?"
output = "results"
[corpus]
input = "book.csv"
text = "entry"
group = "hut"
[[step]]
command = "vary"
of = "keyness"
output = "vary.csv"
each = "each.csv"
chart = "curve.svg"
[step.over]
stop = ["none", "lists/own.txt"]
min_freq = [1, 3]
"""


class Vary(ProgramTest):
    def setUp(self) -> None:
        super().setUp()
        rows = ["hut,season,who,entry"]
        for number in range(24):
            hut, word = (("a", "ski"), ("b", "boat"))[number % 2]
            said = f"the {word} {word} and the stove {'snow ' * (number % 5)}number{number % 6}"
            rows.append(f"{hut},{('summer', 'winter')[number // 12]},w{number % 7},{said}")
        self.write("book.csv", "\n".join(rows))
        self.write("d.toml", '[categories]\nsport = ["ski", "boat"]\nwarm = ["stove"]\nsnow = ["snow"]\n')
        self.write("lists/own.txt", "the\nand\n")
        self.book = ("book.csv", "--text", "entry", "--group", "hut")

    def test_a_grid_its_curve_and_the_lines_behind_it(self) -> None:
        over = ("--over", "stop: none | the,and", "--over", "min-freq: 1|3")
        run = self.succeeds("vary", "keyness", *self.book, *over, "-o", "v.csv", "--each", "e.csv", "--say")
        self.assertIn("settings: keyness --over 'stop: none | the,and' --over 'min-freq: 1 | 3'", run.err)
        self.assertRegex(
            run.err, r"note: \d+ rows pass under the first of 4 combinations; of these \d+ pass under all"
        )
        self.assertRegex(run.err, r"a compared with b, under 4 combinations of settings \(stop, min-freq\): \d+ rows")
        rows = {row["term"]: row for row in self.table("v.csv")}
        self.assertEqual((rows["ski"]["settings"], float(rows["ski"]["passes"])), ("4", 1))
        self.assertEqual(rows["the"]["settings"], "2")
        each = self.table("e.csv")
        self.assertEqual({row["combination"] for row in each if row["term"] == "the"}, {"1", "2"})
        self.succeeds("chart", "v.csv", "--chart", "v.svg", "--chart-top", "2")
        self.assertIn("ski: a compared with b", (self.folder / "v.svg").read_text("utf-8"))
        lines = self.succeeds("concordance", "--from", "v.csv", "--term", "ski").rows()
        self.assertEqual(len(lines), 24)
        self.write("alone.csv", (self.folder / "v.csv").read_bytes())
        (self.folder / "e.csv").unlink()
        refused = self.millstone("chart", "v.csv", "--chart", "again.png")
        self.assertIn("save them beside it with --each", refused.err)

    def test_every_command_that_can_be_varied(self) -> None:
        for of, options in {
            "freq": (),
            "logodds": (),
            "contrast": ("--dictionary", "d.toml"),
            "collocates": ("--find", "stove", "--min-together", "1"),
        }.items():
            over = "span: 1 | 2 | 5" if of == "collocates" else "where: season = summer | season = winter | none"
            with self.subTest(of=of):
                run = self.succeeds("vary", of, *self.book, *options, "--over", over)
                rows = run.rows()
                self.assertTrue(rows)
                self.assertTrue(
                    all(
                        float(row["lowest"]) <= float(row["median"]) <= float(row["highest"])
                        for row in rows
                        if row["median"]
                    )
                )
                moved = self.succeeds(
                    "vary", of, *self.book, *options, "--over", "length: 1.. | 4..", "-o", f"{of}.csv"
                )
                self.assertIn("note: combination 2: length 4..", moved.err)
        permuted = ("--over", "span: 1 | 2 | 5", "--permute", "5")
        run = self.succeeds(
            "vary",
            "collocates",
            *self.book,
            "--find",
            "stove",
            "--min-together",
            "1",
            "--against-group",
            "b",
            *permuted,
        )
        self.assertIn("p_median", run.rows()[0])
        by_who = ("--sampling-unit", "who", "--over", "test: ll | documents | g2", "--permute", "9")
        run = self.succeeds("vary", "keyness", *self.book, *by_who)
        self.assertIn("9 random ways to put 7 sampling units on the two sides", run.err)
        # each of the seven has documents in both groups, so that it can only swap them
        p = {row["term"]: float(row["p_median"]) for row in run.rows() if row["p_median"]}
        self.assertTrue(p)
        self.assertTrue(all(0.1 <= one <= 1 for one in p.values()))

    def test_a_study_and_its_report(self) -> None:
        self.write("study.toml", STUDY)
        self.succeeds("run", "study.toml")
        page = (self.folder / "results/report.html").read_text("utf-8")
        self.assertIn("under 4 combinations of settings", page)
        self.assertEqual(len(self.table("results/each.csv")[0]), 13)
        self.write("study.toml", STUDY.replace('of = "keyness"', 'of = "keynes"'))
        self.fails(
            1, "line 10, column 1: of is 'keynes'; did you mean 'keyness'?", "write the command", "run", "study.toml"
        )
        self.write("study.toml", STUDY.replace("min_freq = [1, 3]", "min_freq = 3"))
        self.fails(1, "over has min_freq with one value", "fix the value of over", "run", "study.toml")
        self.write("study.toml", STUDY.replace('"lists/own.txt"', '"/etc/hostname"'))
        self.fails(1, "it reads /etc/hostname", "type --trust", "run", "study.toml")

    def test_what_cannot_be_is_said_before_anything_runs(self) -> None:
        keyness = ("vary", "keyness", *self.book, "-o", "no.csv")
        many = [
            one
            for n in ("min-freq", "min-docs", "max-freq")
            for one in ("--over", f"{n}: {'|'.join(map(str, range(1, 18)))}")
        ]
        table = [
            (2, "and there is none", "type vary and one of freq", ("vary",)),
            (
                2,
                "'keynes' is not one; did you mean 'keyness'",
                "type vary and one of",
                ("vary", "keynes", *self.book),
            ),
            (2, "there is no --over", "type --over", keyness),
            (2, "--output cannot vary", "options that change what is counted", (*keyness, "--over", "output: a | b")),
            (2, "--min-freq must be a whole number, not 'x'", "mend", (*keyness, "--over", "min-freq: 2 | x")),
            (2, "has one value", "--help", (*keyness, "--over", "min-freq: 2")),
            (2, "17 x 17 x 17 = 4,913 combinations, and at most 200", "--most 4913", (*keyness, *many)),
            (
                2,
                "--min-freq has 3 values, --stop 2",
                "as many values",
                (*keyness, "--paired", "--over", "min-freq: 1|2|3", "--over", "stop: en|none"),
            ),
            (
                1,
                "combination 2 (where season = never)",
                "loosen",
                (*keyness, "--over", "where: season = summer | season = never"),
            ),
            (
                1,
                "combination 1 (stop no.txt): there is no stop list",
                "check",
                (*keyness, "--over", "stop: no.txt | none"),
            ),
            (
                2,
                "--permute: freq compares no groups",
                "leave",
                ("vary", "freq", *self.book, "--permute", "9", "--over", "stop: en|de|none"),
            ),
        ]
        self.each_fails([(*row[:3], *row[3]) for row in table])


if __name__ == "__main__":
    unittest.main()
