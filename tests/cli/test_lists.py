"""Frequency lists as inputs, and fields counted instead of words."""

import json
import unittest

from tests.cli.program import ProgramTest

TEXTS = {
    "A/1.txt": "Rope and ice. The rope froze.",
    "A/2.txt": "Rope, ice and the harness.",
    "B/1.txt": "The boat leaks and leaks.",
    "B/2.txt": "Children, the boat! Ice.",
}


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
                ("keyness", "--stop", "en"),
                ("logodds", "--prior", "uniform", "--min-docs", "2"),
            ):
                with self.subTest(inputs=inputs, command=command):
                    name, *options = command
                    texts = self.succeeds(name, "huts", *options).rows()
                    lists = self.succeeds(name, "--lists", *inputs, *options).rows()
                    self.assertEqual(self.without(lists, "dp", "note"), self.without(texts, "dp", "note"))
        bigrams = self.succeeds("freq", "huts", "--ngram", "2").rows()
        measures = ("dp", "mi", "t_score", "log_dice")
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
        self.fails(
            1, "prepared differently: stop", "same settings", "keyness", "--lists", "a.csv", "b.csv", "--strict"
        )

    def test_wrong_lists(self):
        self.write("half.csv", "term,freq\nice,3\nrope,2.5\n")
        self.write("two.csv", "term,freq\nice,30\n")
        self.write("words.csv", "a,b\nice,snow\n")
        self.write("book.docx", "")
        self.succeeds("freq", "huts", "--ngram", "1..2", "-o", "mixed.csv")
        self.each_fails(
            [
                (1, "half.csv, row 3: freq is '2.5'", "--freq COLUMN", "freq", "--lists", "half.csv"),
                (1, "two.csv has no column 'nr'", "--freq", "freq", "--lists", "two.csv", "--freq", "nr"),
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
                (1, "n-grams of several sizes", "--ngram N", "freq", "--lists", "mixed.csv"),
                (2, "--ngram needs texts", "leave --ngram out", "freq", "--lists", "two.csv", "--ngram", "2"),
                (2, "--lemmas needs texts", "leave --lemmas out", "freq", "--lists", "two.csv", "--lemmas", "en"),
                (1, "there is no table in book.docx", ".csv", "freq", "--lists", "book.docx"),
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
