"""Study files, the demo, and charts of saved tables."""

import unittest

from tests.cli.program import ProgramTest

STUDY = """
[study]
title = "Huts"
output = "out"

[corpus]
input = ["huts", "late=huts/Ostrel/2.txt"]
order = ["Ostrel", "late"]

[prepare]
stop = ["stop.txt"]

[[step]]
command = "freq"
output = "f.csv"

[[step]]
command = "keyness"
against = "pairs"
stop = []
output = "k.csv"
chart = "k.png"
"""


class Study(ProgramTest):
    def setUp(self):
        super().setUp()
        self.three_huts()
        self.write("stop.txt", "the\n")

    def test_a_study_runs_from_anywhere_as_typed_commands_do(self):
        self.write("study.toml", STUDY)
        run = self.succeeds("run", self.folder / "study.toml")
        self.assertIn("Huts: 2 steps", run.err)
        self.assertIn("2. keyness: which terms set groups apart", run.err)
        typed = self.succeeds(
            "freq", "huts", "late=huts/Ostrel/2.txt", "--order=Ostrel,late", "--stop=stop.txt"
        ).rows()
        self.assertEqual(self.table("out/f.csv"), typed)
        self.assertEqual(typed[0]["group"], "Ostrel")
        typed = self.succeeds("keyness", "--study", "study.toml", "--stop=./stop.txt", "--against=pairs").rows()
        self.assertNotIn("the", {row["term"] for row in typed})
        self.assertIn("the", {row["term"] for row in self.table("out/k.csv")}, "a step's own setting wins")
        self.assertTrue((self.folder / "out/k.png").read_bytes().startswith(b"\x89PNG"))
        self.succeeds("run", "study.toml")

    def test_faults_are_found_before_any_work(self):
        table = [
            (
                ("title =", "titel ="),
                "[study]: unknown key 'titel'; did you mean 'title'?",
                "known keys here: title, output",
            ),
            (("[corpus]", "[corpsu]"), "unknown key 'corpsu'; did you mean 'corpus'?", "known keys"),
            (
                ("stop = []", "stopp = []"),
                "step 2 (keyness): unknown key 'stopp'; did you mean 'stop'?",
                "against, min_freq",
            ),
            (('"freq"', '"frequency"'), "step 1: command is 'frequency'; did you mean 'freq'?", "keyness"),
            (('against = "pairs"', "zeros = 3"), "zeros must be one of add, smooth, skip, not '3'", "mend the line"),
            (("order =", "encoding = true #"), "encoding must be text or a number, not True", "mend the line"),
            (("[[step]]\n", "[[step]\n"), "study.toml, line 13, column", "mend the TOML"),
            (('output = "k.csv"', 'output = "f.csv"'), "two outputs are the same file", "its own name"),
            (('output = "f.csv"', 'output = "f.doc"'), "the ending of 'f.doc'", ".csv"),
        ]
        for (old, new), what, remedy in table:
            with self.subTest(new):
                self.assertIn(old, STUDY)
                self.write("study.toml", STUDY.replace(old, new, 1))
                status = 2 if "ending" in what or "two outputs" in what else 1
                self.fails(status, what, remedy, "run", "study.toml")
        self.write("study.toml", STUDY.split("[[step]]", maxsplit=1)[0])
        self.fails(1, "the study 'Huts' has no steps", "[[step]]", "run", "study.toml")
        self.fails(1, "no study file gone.toml", "millstone demo", "run", "gone.toml")
        self.fails(2, "run takes one study file", "study.toml", "run")


class Demo(ProgramTest):
    def test_twice_into_one_folder_and_never_over_other_peoples_files(self):
        run = self.succeeds("demo", "huts")
        for word in (
            "Where to look, in huts:",
            "results/keyness.csv, results/keyness.png",
            "To try next",
            "millstone keyness guestbook.csv",
        ):
            self.assertIn(word, run.err)
        first = self.files()
        self.assertLessEqual({"huts/results/keyness.csv", "huts/results/logodds.png", "huts/truth.toml"}, set(first))
        self.succeeds("demo", "huts", "--quiet")
        self.assertEqual(self.files(), first)
        edited = self.write("huts/results/keyness.csv", "mine now\n")
        self.fails(1, "results/keyness.csv was edited since millstone wrote it", "--force", "demo", "huts", "--quiet")
        edited.unlink()
        self.write("other/guestbook.csv", "mine\n")
        self.fails(1, "other/guestbook.csv is there already", "--force", "demo", "other")
        self.assertFalse(
            (self.folder / "other/journals").exists() and any((self.folder / "other/journals").rglob("*.txt"))
        )

    def test_charts_of_saved_tables_equal_those_of_the_analysis(self):
        self.succeeds("demo", "huts", "--quiet")
        for name in ("keyness", "logodds", "categories"):
            with self.subTest(name):
                self.succeeds("chart", f"huts/results/{name}.csv", "--chart", f"{name}.png")
                self.assertEqual(
                    (self.folder / f"{name}.png").read_bytes(),
                    (self.folder / f"huts/results/{name}.png").read_bytes(),
                )
        self.succeeds(
            "chart", "huts/results/logodds.csv", "--panels", "term", "--chart", "terms.svg", "--chart-top", 4
        )
        (self.folder / "huts/results/keyness.csv-metadata.json").unlink()
        self.succeeds("chart", "huts/results/keyness.csv", "--chart", "alone.pdf")
        self.write("other.csv", "a,b\n1,2\n")
        table = [
            (1, "there is no table gone.csv", "-o", "chart", "gone.csv"),
            (1, "other.csv is no result of millstone: its columns are a, b", "saved", "chart", "other.csv"),
            (1, "there is no chart of freq", "keyness, logodds, categories", "chart", "huts/results/frequency.csv"),
            (2, "chart takes one table", "millstone chart", "chart"),
            (2, "the ending of 'x.gif'", ".png", "chart", "huts/results/keyness.csv", "--chart=x.gif"),
        ]
        for status, what, remedy, *arguments in table:
            with self.subTest(arguments):
                self.fails(status, what, remedy, *arguments)


if __name__ == "__main__":
    unittest.main()
