"""Frequency lists as inputs, and fields counted instead of words."""

import json
import unittest

import openpyxl

from tests.cli.program import ProgramTest

TEXTS = {
    "A/1.txt": "Rope and ice. The rope froze.",
    "A/2.txt": "Rope, ice and the harness.",
    "B/1.txt": "The boat leaks and leaks.",
    "B/2.txt": "Children, the boat! Ice.",
}


# what a list, which has no documents, cannot say
OF_DOCUMENTS = ("dp", "dp_expected", "evenness", "design_effect", "ll_documents", "z_documents", "note")


class Lists(ProgramTest):
    def setUp(self):
        super().setUp()
        for name, text in TEXTS.items():
            self.write(f"huts/{name}", text)

    def without(self, rows: list[dict[str, str]], *columns: str) -> list[dict[str, str]]:
        return [{name: value for name, value in row.items() if name not in columns} for row in rows]

    def test_lists_give_what_their_texts_give(self):
        self.succeeds("freq", "huts", "-o", "lists/")
        self.succeeds("freq", "huts", "-o", "long.xlsx")
        self.succeeds("freq", "huts", "-o", "long.csv")
        self.succeeds("freq", "huts", "--ngram", "2", "-o", "pairs.csv")
        for inputs in (("lists",), ("long.csv",), ("A=lists/A.csv", "B=lists/B.csv")):
            for command in (
                ("freq",),
                ("freq", "--stop", "en", "--length", "4..", "--min-freq", "2"),
                ("freq", "--drop", "*o*", "--wide", "--min-docs", "2"),
                ("keyness", "--stop", "en", "--test", "ll"),
                ("logodds", "--prior", "uniform", "--min-docs", "2"),
            ):
                with self.subTest(inputs=inputs, command=command):
                    name, *options = command
                    texts = self.succeeds(name, "huts", *options).rows()
                    lists = self.succeeds(name, "--lists", *inputs, *options).rows()
                    self.assertEqual(*(self.without(rows, *OF_DOCUMENTS) for rows in (lists, texts)))
        # each size has its own base
        self.succeeds("freq", "huts", "--ngram", "1..2", "-o", "sizes/")
        for command in (("freq",), ("freq", "--wide"), ("keyness", "--test", "ll"), ("logodds",)):
            texts = self.succeeds(*command[:1], "huts", "--ngram", "1..2", *command[1:]).rows()
            lists = self.succeeds(*command[:1], "--lists", "sizes", *command[1:]).rows()
            ties = (*OF_DOCUMENTS, "mi", "t_score", "log_dice")
            self.assertEqual(*(self.without(rows, *ties) for rows in (lists, texts)), command)
        beside = self.succeeds("keyness", "A=huts/A", "--ngram", "1..2", "--test", "ll", "--against", "sizes/B.csv")
        of_texts = self.succeeds("keyness", "huts", "--ngram", "1..2", "--test", "ll", "--against", "B")
        ratios = [{(row["term"], row["log_ratio"]) for row in run.rows()} for run in (beside, of_texts)]
        self.assertEqual(*ratios)
        self.assertIn("2-grams: 0 of", beside.err)
        bigrams = self.succeeds("freq", "huts", "--ngram", "2").rows()
        measures = (*OF_DOCUMENTS, "mi", "t_score", "log_dice")
        self.assertEqual(
            self.without(self.succeeds("freq", "--lists", "pairs.csv").rows(), *measures),
            self.without(bigrams, *measures),
        )

    def test_lists_of_others(self):
        self.write("de.csv", "Wort;Anzahl\nEis;1200\nSeil;30\neis;3\n")
        self.write("plain.txt", "ice\t12\nrope\t3\n")
        self.write(
            "many.jsonl",
            "".join(
                json.dumps(row) + "\n"
                for row in (
                    {"hut": "A", "word": "ice", "count": 4, "seen": 2},
                    {"hut": "B", "word": "ice", "count": 1, "seen": 1},
                    {"hut": "B", "word": "rope", "count": 9, "seen": 3},
                )
            ),
        )
        run = self.succeeds("freq", "--lists", "de.csv")
        self.assertEqual(
            [(row["group"], row["term"], row["freq"], row["docs"]) for row in run.rows()],
            [("de", "eis", "1203", ""), ("de", "seil", "30", "")],
        )
        self.assertIn("took the column 'Anzahl' of de.csv as the freq", run.err)
        self.assertIn("corpus sizes: de 1,233 tokens (the sum of its list)", run.err)
        run = self.succeeds("freq", "--lists", "x=plain.txt", "--base-size", "x=1000", "--documents", "x=4")
        self.assertEqual(
            [(row["term"], float(row["per_million"])) for row in run.rows()], [("ice", 12000), ("rope", 3000)]
        )
        run = self.succeeds(
            "keyness",
            "--lists",
            "many.jsonl",
            "--group",
            "hut",
            "--term",
            "word",
            "--docs",
            "seen",
            "--documents",
            "A=4,B=10",
            "--base-size",
            "A=100",
            "--base-size",
            "B=100",
        )
        (ice,) = [row for row in run.rows() if row["term"] == "ice"]
        self.assertEqual(
            (ice["docs_percent_target"], ice["docs_percent_reference"], ice["log_ratio"]), ("50.0", "10.0", "2.0")
        )
        # lists of one name add up
        run = self.succeeds("freq", "--lists", "x=plain.txt", "x=many.jsonl")
        self.assertEqual([(row["term"], row["freq"]) for row in run.rows()], [("ice", "17"), ("rope", "12")])

    def test_different_preparation_is_named(self):
        self.succeeds("freq", "huts/A", "-o", "a.csv", "--stop", "en")
        self.succeeds("freq", "huts/B", "-o", "b.csv")
        run = self.succeeds("keyness", "--lists", "a.csv", "b.csv")
        self.assertIn("note: the lists were prepared differently: stop (a.csv: en; b.csv: default)", run.err)
        self.succeeds("freq", "huts/A", "-o", "a.csv", "--case", "keep")
        self.fails(
            1,
            "the lists were prepared differently: case",
            "same settings",
            "keyness",
            "--lists",
            "a.csv",
            "b.csv",
            "--strict",
        )

    def test_what_a_cut_list_lacks_is_unknown_and_not_absent(self):
        self.succeeds("freq", "huts/B", "-o", "whole.csv")
        cases = (
            *(("--top", "1"), ("--min-freq", "2"), ("--max-freq", "1"), ("--min-docs", "2")),
            *(("--match", "i*"), ("--only", "ice,rope"), ("--stop", "en")),
        )
        for options in cases:
            with self.subTest(options):
                self.succeeds("freq", "huts/A", *options, "-o", "old.csv", "--quiet")
                kept = {row["term"] for row in self.table("old.csv")}
                run = self.succeeds("keyness", "--lists", "old=old.csv", "new=whole.csv")
                self.assertEqual(
                    {row["term"] for row in run.rows()}, kept, "terms of both lists, and those new lacks"
                )
                self.assertRegex(run.err, rf"left out \d terms? that a cut list may hold \(old: {options[0]} ")
                self.assertIn("old 11 tokens (its companion)", run.err, "the base is that of the corpus")
                run = self.succeeds("logodds", "--lists", "old=old.csv", "new=whole.csv")
                self.assertEqual({row["term"] for row in run.rows()}, kept)
                wide = self.succeeds("freq", "--wide", "--lists", "old=old.csv", "new=whole.csv").rows()
                unknown = {row["term"] for row in wide if row["freq_old"] == ""}
                self.assertEqual(unknown, {row["term"] for row in self.table("whole.csv")} - kept)
                self.fails(
                    1, "the list 'old' was cut", "save it whole", "keyness", "--lists", "old=old.csv", "new=whole.csv", "--strict",
                )  # fmt: skip
                run = self.succeeds("keyness", "huts/B", "--against", "old.csv")
                self.assertLessEqual({row["term"] for row in run.rows()}, kept)
        # the same rule on both sides leaves nothing unknown
        for name in "AB":
            self.succeeds("freq", f"huts/{name}", "--stop", "en", "-o", f"{name}.csv")
        run = self.succeeds("keyness", "--lists", "A.csv", "B.csv")
        self.assertIn("absent from A", {row["note"] for row in run.rows()})
        self.succeeds("freq", "huts/A", "--match", "h*", "-o", "old.csv", "--quiet")
        self.succeeds("freq", "huts/B", "--top", "1", "-o", "new.csv", "--quiet")
        self.fails(
            1, "no term is left to compare: left out 2 terms that a cut list may hold (A: --match 'h*'; B: --top 1)",
            "save the lists whole", "keyness", "--lists", "old.csv", "new.csv",
        )  # fmt: skip

    def test_lists_come_back_from_every_format(self):
        asked = ("freq", "late=huts/B", "early=huts/A", "--max-freq", "2", "--quiet")
        expected = None
        for ending in ("csv", "tsv", "json", "jsonl", "xlsx", "parquet"):
            with self.subTest(ending):
                self.succeeds(*asked, "-o", f"l.{ending}")
                run = self.succeeds("keyness", "--lists", f"l.{ending}", "--min-freq", "1")
                found = (
                    run.out,
                    [line for line in run.err.splitlines() if "corpus sizes" in line or "a cut list" in line],
                )
                expected = expected or found
                self.assertEqual(found, expected)
        self.assertIn("late\tearly\t", expected[0], "the order of the groups stays")
        self.assertIn("late 9 tokens (its companion), early 11 tokens (its companion)", expected[1][0])
        self.assertIn("(late, early: --max-freq 2)", expected[1][1])
        run = self.succeeds("freq", "--lists", "l.xlsx")
        self.assertIn("read 2 sheets of l.xlsx: late, early (--sheet names one)", run.err)
        groups = {row["group"] for row in self.succeeds("freq", "--lists", "l.xlsx", "--sheet", "early").rows()}
        self.assertEqual(groups, {"early"})
        book = openpyxl.Workbook()
        for title, rows in (
            ("Ostrel", [("word", "count"), ("ice", 3)]),
            ("notes", [("mind", "this")]),
            ("Vair", [("Word", "Freq"), ("fog", 2)]),
        ):
            sheet = book.create_sheet(title)
            for row in rows:
                sheet.append(row)
        book.save(self.folder / "other.xlsx")
        run = self.succeeds("freq", "--lists", "other.xlsx")
        self.assertEqual([(row["group"], row["term"]) for row in run.rows()], [("Ostrel", "ice"), ("Vair", "fog")])
        self.assertIn("read 2 sheets of other.xlsx: Ostrel, Vair; no lists: notes", run.err)

    def test_a_list_without_companion_is_taken_as_whole_and_that_is_noted(self):
        self.write("old.csv", "term,freq\nice,30\n")
        self.write("new.csv", "term,freq\nice,30\nrope,1\n")
        run = self.succeeds("keyness", "--lists", "old.csv", "new.csv")
        self.assertIn("absent from old", {row["note"] for row in run.rows()})
        self.assertIn("old.csv has no companion and no term of fewer than 30 occurrences: taken as whole", run.err)
        self.assertNotIn("new.csv has no companion", run.err)

    def test_wrong_lists(self):
        self.write("half.csv", "term,freq\nice,3\nrope,2.5\n")
        self.write("two.csv", "term,freq\nice,30\n")
        self.write("docs.csv", "term,freq,docs\nice,3,5\n")
        self.write("few.csv", "term,freq,docs\nice,3,2\n")
        self.write("words.csv", "a,b\nice,snow\n")
        self.write("book.docx", "")
        self.succeeds("freq", "huts", "--ngram", "1..2", "-o", "mixed.csv")
        self.succeeds("freq", "huts", "-o", "whole.csv")
        self.each_fails(
            [
                (1, "half.csv, row 3: freq is '2.5'", "--freq COLUMN", "freq", "--lists", "half.csv"),
                (1, "two.csv has no column 'nr'", "--freq", "freq", "--lists", "two.csv", "--freq", "nr"),
                (
                    1,
                    "docs.csv: 'ice' occurs in more documents (5) than it has occurrences (3)",
                    "--docs",
                    "freq",
                    "--lists",
                    "docs.csv",
                ),
                (
                    1,
                    "'ice' occurs in 2 documents, more than the 1 of its corpus",
                    "--documents few=N",
                    "freq",
                    "--lists",
                    "few.csv",
                    "--documents=few=1",
                ),
                (1, "words.csv: which column is the term?", "--term COLUMN", "freq", "--lists", "words.csv"),
                (
                    1,
                    "30 occurrences, more than its corpus size 20",
                    "--base-size two=N",
                    "freq",
                    "--lists",
                    "two.csv",
                    "--base-size=two=20",
                ),
                (
                    1,
                    "--base-size: there is no list 'x'",
                    "the lists are two",
                    "freq",
                    "--lists",
                    "two.csv",
                    "--base-size=x=20",
                ),
                (
                    1,
                    "--documents: there is no list 'x'",
                    "the lists are two",
                    "freq",
                    "--lists",
                    "two.csv",
                    "--documents=x=20",
                ),
                (2, "must be NAME=N", "--help", "freq", "--lists", "two.csv", "--base-size", "20"),
                (
                    1,
                    "whole.csv has terms of one size, and other lists",
                    "same --ngram",
                    "freq",
                    "--lists",
                    "mixed.csv",
                    "whole.csv",
                ),
                (
                    1,
                    "mixed.csv: the list has no 3-grams",
                    "same --ngram",
                    "keyness",
                    "huts",
                    "--ngram",
                    "3",
                    "--against",
                    "mixed.csv",
                ),
                (2, "--ngram needs texts", "leave --ngram out", "freq", "--lists", "two.csv", "--ngram", "2"),
                (2, "--lemmas needs texts", "leave --lemmas out", "freq", "--lists", "two.csv", "--lemmas", "en"),
                (1, "there is no table in book.docx", ".csv", "freq", "--lists", "book.docx"),
            ]
        )


class Study(ProgramTest):
    """The commands of lists as steps of a study, and their figures."""

    STUDY = """
[study]
output = "results"
[corpus]
input = ["huts"]
[prepare]
stop = ["en"]
[[step]]
command = "freq"
output = "lists/"
ngram = "1..2"
bridge = true
[[step]]
command = "freq"
output = "wide.xlsx"
wide = true
chart = "growth.png"
chart_kind = "growth"
prepare_is = 1
[[step]]
command = "profile"
per_document = true
segment = 2
window = 2
output = "profile.csv"
chart = "profile.svg"
chart_measures = ["types", "mattr"]
[[step]]
command = "matrix"
by = "group"
weight = "relative"
output = "matrix.mtx"
"""

    def setUp(self):
        super().setUp()
        for name, text in TEXTS.items():
            self.write(f"huts/{name}", text)

    def test_all_of_them_as_steps(self):
        self.write("study.toml", self.STUDY)
        self.fails(1, "unknown key 'prepare_is'", "known keys here", "run", "study.toml")
        self.write(
            "study.toml",
            self.STUDY.replace("prepare_is = 1\n", "").replace(
                "wide = true\nchart", "wide = true\nforce = true\nchart"
            ),
        )
        self.succeeds("run", "study.toml")
        results = self.folder / "results"
        names = sorted(str(path.relative_to(results)) for path in results.rglob("*") if path.is_file())
        expected = ["growth.png", "lists/A.csv", "lists/B.csv", "matrix.columns.tsv", "matrix.mtx", "matrix.rows.tsv"]
        expected += ["profile.csv", "profile.svg", "report.html", "wide.xlsx"]
        self.assertEqual([name for name in names if not name.endswith(".json")], expected)
        sizes = {row["n"] for row in self.table("results/lists/A.csv")}
        self.assertEqual(sizes, {"1", "2"})
        self.assertEqual([row["document"] for row in self.table("results/profile.csv")], list(TEXTS))
        before = self.files()
        self.succeeds("run", "study.toml")
        self.assertEqual(self.files(), before, "the same study gives the same files")

    def test_figures_of_saved_tables(self):
        self.succeeds("freq", "huts", "-o", "f.csv", "--chart", "f.png", "--chart-kind", "rank")
        self.succeeds("profile", "huts", "-o", "p.csv", "--chart", "p.png", "--chart-measures", "ttr")
        for table, options in (("f", ("--chart-kind", "rank")), ("p", ("--chart-measures", "ttr"))):
            self.succeeds("chart", f"{table}.csv", "--chart", f"{table}2.png", *options)
            files = self.files()
            self.assertEqual(files[f"{table}2.png"], files[f"{table}.png"], "drawn again it is the same")
        self.succeeds("freq", "huts", "-o", "w.csv", "--wide")
        self.each_fails(
            [
                (
                    1,
                    "cannot be drawn from a frequency list",
                    "millstone freq",
                    "chart",
                    "f.csv",
                    "--chart-kind",
                    "growth",
                    "--chart",
                    "g.png",
                ),
                (
                    1,
                    "no measure 'ttt'; did you mean 'ttr'?",
                    "its measures",
                    "chart",
                    "p.csv",
                    "--chart-measures",
                    "ttt",
                ),
                (1, "side by side cannot be drawn", "--wide", "chart", "w.csv"),
                (
                    2,
                    "must be one of terms, cloud, rank, share, growth",
                    "--help",
                    "freq",
                    "huts",
                    "--chart-kind",
                    "ranks",
                ),
                (2, "must be a size such as 2", "--help", "freq", "huts", "--ngram", "0..2"),
                (2, "the range 3..2 runs backwards", "--help", "freq", "huts", "--ngram", "3..2"),
                (2, "no output format has the ending of 'm.json'", ".mtx", "matrix", "huts", "-o", "m.json"),
                (2, "a matrix holds n-grams of one size", "--ngram 2", "matrix", "huts", "--ngram", "1..2"),
                (1, "the table has no terms", "leave the option out", "profile", "huts", "--match", "a*"),
                (2, "there is no option --pages", "--help-all", "cache", "--pages"),
            ]
        )


class Fields(ProgramTest):
    def test_values_of_a_field_are_counted_once_a_document(self):
        self.write("book.csv", "entry,hut,party\nice ice,A,club\nsnow,A,family\nrope,B,club\nfog,B,\nsun,B,club\n")
        common = ("book.csv", "--text", "entry", "--group", "hut", "--count-field", "party")
        rows = self.succeeds("freq", *common).rows()
        found = [(row["group"], row["term"], row["freq"], round(float(row["per_million"]))) for row in rows]
        self.assertEqual(
            found, [("A", "club", "1", 500000), ("A", "family", "1", 500000), ("B", "club", "2", 666667)]
        )
        self.assertEqual(len(self.succeeds("logodds", *common).rows()), 4)
        self.succeeds("freq", *common, "-o", "f.csv")
        content = json.loads((self.folder / "f.csv-metadata.json").read_text("utf-8"))
        units = {column["name"]: column.get("schema:unitText") for column in content["tableSchema"]["columns"]}
        self.assertEqual(units["per_million"], "per million documents")
        self.fails(
            1, "there is no field 'partei'; did you mean 'party'?", "the fields are", "freq", *common[:-1], "partei"
        )


if __name__ == "__main__":
    unittest.main()
