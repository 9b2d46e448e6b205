"""Study files, the demo, and charts of saved tables."""

import json
import random
import tomllib
import unittest

from millstone.texts.inputs.toml_places import places_of
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
            (("title =", "titel ="), "line 3, column 1, [study]: unknown key 'titel'; did you mean 'title'?", "known keys here: title, output"),
            (("[corpus]", "[corpsu]"), "line 6, column 1: unknown key 'corpsu'; did you mean 'corpus'?", "known keys"),
            (("stop = []", "stopp = []"), "line 20, column 1, step 2 (keyness): unknown key 'stopp'; did you mean 'stop'?", "against, min_freq"),
            (('"freq"', '"frequency"'), "line 14, column 1: command is 'frequency'; did you mean 'freq'?", "keyness"),
            (('command = "freq"\n', ""), "line 13, column 1: the step has no command", "keyness"),
            (('against = "pairs"', "zeros = 3"), "line 19, column 1, step 2 (keyness): zeros must be one of add, smooth, skip, not '3'", "fix"),
            (("order =", "encoding = true #"), "line 8, column 1, [corpus]: encoding must be text or a number, not True", "fix"),
            (("[[step]]\n", "[[step]\n"), "study.toml, line 13, column", "fix the TOML"),
            (('output = "k.csv"', 'output = "f.csv"'), "line 17, column 1 (keyness): two outputs are the same file", "its own name"),
            (('output = "f.csv"', 'output = "f.doc"'), "line 13, column 1 (freq): -o: no output format has the ending of 'f.doc'", ".csv"),
            (('"stop.txt"', '"stopp.txt"'), "line 13, column 1 (freq): there is no stop list stopp.txt; did you mean 'stop.txt'?", "spelling"),
            (('"huts", ', '"hats", '), "line 13, column 1 (freq): there is no file or folder hats; did you mean 'huts'?", "spelling"),
            (('against = "pairs"', 'against = "Ostrell"'), "line 17, column 1 (keyness): --against: there is no group 'Ostrell'; did you mean 'Ostrel'?", "name one of"),
            (('order = ["Ostrel"', 'order = ["Nowhere"'), "--order names no group of the texts: Nowhere", "the groups are"),
            (('stop = ["stop.txt"]', 'stem = "en"\nlemmas = ["en"]'), "--stem and --lemmas cannot both", "choose one"),
            (("[prepare]", '[corpus.fields.kind]\nsource = "x"\nrules = [{ match = "*" }]\n[prepare]'), "line 10, column 1, [corpus]: fields kind: each rule must be written", "fix"),
            (("[prepare]", '[corpus.fields.kind]\nsource = "x"\nrulez = 3\n[prepare]'), "fields kind: unknown key 'rulez'; did you mean 'rules'?", "fix"),
            (("[prepare]", '[corpus.fields.kind]\nsource = "x"\nrules = [{ match = "*", value = "y" }]\n[prepare]'), "the field 'kind' is made from 'x', which no document has", "fields are"),
        ]  # fmt: skip
        for (old, new), what, remedy in table:
            with self.subTest(new):
                self.assertIn(old, STUDY)
                self.write("study.toml", STUDY.replace(old, new, 1))
                self.fails_before_work(what, remedy, "run", "study.toml")
        self.write("study.toml", STUDY.split("[[step]]", maxsplit=1)[0])
        self.fails(1, "the study 'Huts' has no steps", "[[step]]", "run", "study.toml")
        self.fails(1, "no study file gone.toml", "millstone init", "run", "gone.toml")
        self.fails(2, "run takes one study file", "study.toml", "run")

    def fails_before_work(self, what: str, remedy: str, *arguments: object) -> None:
        """As `fails`, but the line that says how many steps there are may have come before."""
        run = self.millstone(*arguments)
        error, to_do = run.err.splitlines()[-2:]
        self.assertEqual(run.code, 1, run.err)
        self.assertIn(what, error)
        self.assertIn(remedy, to_do)
        self.assertFalse([name for name in self.files() if name.startswith("out/")])

    def test_the_last_step_is_checked_before_the_first_and_may_read_what_it_makes(self):
        step = '[[step]]\ncommand = "keyness"\noutput = "k.csv"\nas_dictionary = "made.toml"\nadjust = "none"\nalpha = 1\n'
        later = '[[step]]\ncommand = "categories"\ndictionary = "out/made.toml"\noutput = "c.csv"\n'
        shared = '[study]\noutput = "out"\n[corpus]\ninput = ["huts"]\n' + step + later
        last = '[[step]]\ncommand = "{}"\n{}\noutput = "{}.csv"\n'
        wrong = [
            ("freq", 'columns = "frq"', "(freq): --columns: the table has no column 'frq'; did you mean", "its columns"),
            ("logodds", 'sort = "zz"', "(logodds): --sort: the table has no column 'zz'", ":asc for the smallest"),
            ("keyness", 'measures = "ells"', "(keyness): there is no measure 'ells'", "the measures are"),
            ("keyness", 'background = "b.csv"\nbelow = 1\nshared = true', "(keyness): there is no frequency list", "spelling"),
            ("logodds", 'prior = "p.csv"', "(logodds): there is no frequency list", "spelling"),
            ("contrast", 'table = "t.csv"\nvalues = "x"', "(contrast): there is no table", "spelling"),
            ("categories", 'dictionary = "d.toml"', "(categories): there is no dictionary", "spelling"),
            ("matrix", 'ngram = "1..2"', "a matrix holds n-grams of one size", "--ngram 2"),
        ]  # fmt: skip
        for command, settings, what, remedy in wrong:
            with self.subTest(settings):
                self.write("s.toml", shared + last.format(command, settings, "last"))
                self.fails_before_work(what, remedy, "run", "s.toml")
        self.write("s.toml", shared)
        self.assertIn("would write out/k.csv, out/made.toml", self.succeeds("run", "s.toml", "--dry-run").out)
        self.succeeds("run", "s.toml")
        first = tomllib.loads((self.folder / "out/made.toml").read_text("utf-8"))["categories"]
        self.assertEqual({name for name in self.table("out/c.csv")[0] if name in first}, set(first))

    def test_places_of_keys(self):
        text = '[a]\nx = [\n  "y = 1", # [b]\n]\n"q r" = """\n[c]\nz = 1\n"""\n[a.b]\n k.l = {m = 1}\n[[s]]\nx = 1\n[[s]]\nx = 2\n[s.t]\nu = \'#\''
        self.assertEqual(
            places_of(text),
            {
                ("a",): (1, 1), ("a", "x"): (2, 1), ("a", "q r"): (5, 1), ("a", "b"): (9, 1), ("a", "b", "k"): (10, 2), ("a", "b", "k", "l"): (10, 2),
                ("s",): (11, 1), ("s", 0): (11, 1), ("s", 0, "x"): (12, 1), ("s", 1): (13, 1), ("s", 1, "x"): (14, 1), ("s", 1, "t"): (15, 1),
                ("s", 1, "t", "u"): (16, 1),
            },
        )  # fmt: skip

    def test_places_of_keys_on_random_files(self):
        chance = random.Random(3)
        values = [
            '"a # b"',
            "[1, [2, 3]]",
            "[\n  1, # [\n  2,\n]",
            '"""\nk = 1\n[x]\n"""',
            "{ a = 1, b = [2] }",
            "'{'",
            "3 # ] }",
        ]
        for _ in range(200):
            lines, expected = [], {}
            for table in chance.sample("abc", chance.randrange(1, 4)):
                header = chance.choice([f"[{table}]", f"[[{table}]]"])
                lines.append(header)
                for key in chance.sample("pqrs", chance.randrange(4)):
                    path = (table, 0, key) if header.startswith("[[") else (table, key)
                    expected[path] = (sum(line.count("\n") + 1 for line in lines) + 1, 1)
                    lines.append(f"{key} = {chance.choice(values)}")
            text = "\n".join(lines)
            tomllib.loads(text)
            found = {path: place for path, place in places_of(text).items() if path[-1] in tuple("pqrs")}
            self.assertEqual(found, expected, text)

    def test_some_steps_only_and_none(self):
        named = STUDY.replace('against = "pairs"', 'name = "pairwise"\nagainst = "pairs"')
        self.write("study.toml", named)
        run = self.succeeds("run", "study.toml", "--dry-run")
        self.assertIn("2 keyness (pairwise): which terms set groups apart", run.out)
        self.assertIn("would write out/k.csv, out/k.png", run.out)
        self.assertEqual(
            set(self.files()) - {"study.toml", "stop.txt"},
            {name for name in self.files() if name.startswith("huts/")},
        )
        for step, written in (("pairwise", "k.csv"), ("1", "f.csv"), ("freq", "f.csv"), ("keyness", "k.csv")):
            self.succeeds("run", "study.toml", "--step", step)
            self.assertIn(f"out/{written}", self.files())
        self.fails(
            1, "there is no step 'keynes'", "1 freq, 2 keyness (pairwise)", "run", "study.toml", "--step=keynes"
        )

    def test_init_writes_a_study_that_runs(self):
        rows = "".join(
            f'{n},{("Ostrel", "Haskgate")[n % 2]},"The snow fell on the hut, and {n} of us were in it.",{n % 5}\n'
            for n in range(40)
        )
        self.write("my data/book.csv", "entry_no,hut,words,nights\n" + rows)
        self.succeeds("init", "my data/book.csv", "-o", "my data/s.toml")
        text = (self.folder / "my data/s.toml").read_text("utf-8")
        for line in ('input = ["book.csv"]', 'text = "words"', 'id = "entry_no"', 'group = "hut" ', 'stop = ["en"] '):
            self.assertIn(f"\n{line}", text)
        self.succeeds("run", "my data/s.toml")
        self.assertIn("my data/results/logodds.png", self.files())
        uncommented = "\n".join(
            line.removeprefix("# ") for line in text.splitlines() if line.startswith("# drop_repeats")
        )
        self.assertEqual(uncommented.split("#")[0].strip(), "drop_repeats = true")
        self.fails(1, "s.toml already exists", "-o FILE.toml", "init", "huts", "-o", "my data/s.toml")
        self.succeeds("init", "huts")
        self.succeeds("run", "study.toml")
        self.write("numbers.csv", "a,b\n1,2\n")
        self.fails(1, "no column looks like running text", "by hand", "init", "numbers.csv", "-o", "n.toml")
        self.fails(1, "there is no file or folder gone", "name the folder", "init", "gone", "-o", "n.toml")
        self.fails(2, "init takes one folder", "init PATH", "init")


class Demo(ProgramTest):
    takes_long = True

    def test_check_may_be_a_step_and_steps_go_by_their_command(self):
        self.write("huts/Ostrel/1.txt", "see <b>this</b>")
        step = '[[step]]\ncommand = "{0}"\nname = "{0} it"\noutput = "{0}.csv"\n'
        self.write("s.toml", '[corpus]\ninput = ["huts"]\n' + step.format("check") + step.format("freq"))
        run = self.succeeds("run", "s.toml")
        self.assertIn(
            "note: looks wrong: 2 pieces of markup in 1 document: Ostrel/1.txt (to fix it: --cut markup)", run.err
        )
        self.assertEqual(self.table("check.csv")[0]["group"], "Ostrel")
        self.assertIn("1. freq", self.succeeds("run", "s.toml", "--step", "freq").err)
        self.write("t.toml", '[corpus]\ninput = ["huts"]\n[[step]]\ncommand = "check"\nshow = 3\n')
        self.fails(1, "line 5, column 1: show prints to a screen", "check --study t.toml --show", "run", "t.toml")

    def test_init_lets_no_data_write_the_study(self):
        hostile = 'x\n[[step]]\ncommand = "freq"\noutput = "evil.csv"\n#'
        names = [f"{hostile}A", "B\u2028[[step]]", 'C"', "D\\", "\x7f\x01E"]
        rows = [
            {"id": f"e{n}", hostile: names[n % 5], "te\x7fxt": "some words of a text that runs on", "o'\"\\": "z"}
            for n in range(40)
        ]
        self.write('ev"il\n[[step]].jsonl', "".join(json.dumps(row) + "\n" for row in rows))
        for name in ("one\n[[step]]", 'two"#'):
            self.write(f"folder/{name}/1.txt", "some words of a text that runs on")
        for number, path in enumerate(('ev"il\n[[step]].jsonl', "folder")):
            self.succeeds("init", path, "-o", f"{number}.toml")
            study = tomllib.loads((self.folder / f"{number}.toml").read_text("utf-8"))
            self.assertEqual([step["command"] for step in study["step"]], ["freq", "keyness", "logodds"])
            self.assertEqual(set(study), {"study", "corpus", "prepare", "step"})
            self.assertEqual(study["corpus"]["input"], [path])
        for number in range(20):
            self.write(f"many/hut {number}/1.txt", "some words of a text that runs on")
        self.succeeds("init", "many", "-o", "many.toml")
        self.assertRegex(
            (self.folder / "many.toml").read_text("utf-8"), r"# groups, by subfolder: hut 0, hut 1, .* and 8 more"
        )
        study = tomllib.loads((self.folder / "0.toml").read_text("utf-8"))
        self.assertEqual((study["corpus"]["text"], study["corpus"]["group"]), ("te\x7fxt", hostile))

    def test_twice_into_one_folder_and_never_over_other_peoples_files(self):
        run = self.succeeds("demo", "huts")
        for word in (
            "Where to look, in huts:",
            "results/keyness.csv, results/keyness.png",
            "To try next",
            "millstone keyness guestbook.csv",
        ):
            self.assertIn(word, run.err)
        self.assertNotIn("\u240a", run.err, "a line break of the program's own is one")
        first = self.files()
        self.assertLessEqual({"huts/results/keyness.csv", "huts/results/logodds.png", "huts/truth.toml"}, set(first))
        self.succeeds("demo", "huts", "--quiet")
        self.assertEqual(self.files(), first)
        edited = self.write("huts/results/keyness.csv", "mine now\n")
        self.fails(1, "results/keyness.csv was edited since millstone wrote it", "--force", "demo", "huts", "--quiet")
        edited.unlink()
        self.write("other/guestbook.csv", "mine\n")
        self.fails(1, "other/guestbook.csv already exists", "--force", "demo", "other")
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
        self.succeeds("matrix", "huts/journals", "-o", "matrix.csv")
        table = [
            (1, "there is no table gone.csv", "-o", "chart", "gone.csv"),
            (1, "other.csv is not a result of millstone: its columns are a, b", "saved", "chart", "other.csv"),
            (1, "there is no chart of matrix", "freq, dispersion, profile, keyness", "chart", "matrix.csv"),
            (2, "chart takes one table", "millstone chart", "chart"),
            (2, "the ending of 'x.gif'", ".png", "chart", "huts/results/keyness.csv", "--chart=x.gif"),
        ]
        for status, what, remedy, *arguments in table:
            with self.subTest(arguments):
                self.fails(status, what, remedy, *arguments)


if __name__ == "__main__":
    unittest.main()
