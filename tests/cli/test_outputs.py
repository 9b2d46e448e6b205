"""What comes out: tables on screen, in pipes and files, companions, and what is never overwritten."""

import csv
import hashlib
import io
import json
import os
import re
import resource
import subprocess
import unittest
from pathlib import Path

import openpyxl
import pandas as pd
from scipy.io import mmread

from millstone.core.base.errors import DataError
from millstone.outputs.files.writing import Outputs
from tests.cli.program import PROGRAM, ProgramTest, environment


class Tables(ProgramTest):
    def setUp(self):
        super().setUp()
        self.three_huts()

    def test_all_formats_hold_the_same_at_full_precision(self):
        endings = ("csv", "tsv", "json", "jsonl", "md", "html", "xlsx", "parquet")
        for run in self.several([("keyness", "huts", "-o", f"k.{ending}") for ending in endings]):
            self.assertEqual(run.code, 0, run.err)
        rows = self.table("k.csv")
        with (self.folder / "k.tsv").open(encoding="utf-8", newline="") as file:
            self.assertEqual(list(csv.DictReader(file, delimiter="\t", quoting=csv.QUOTE_NONE)), rows)
        for row, record in zip(rows, json.loads((self.folder / "k.json").read_text("utf-8")), strict=True):
            self.assertEqual({name: "" if value is None else str(value) for name, value in record.items()}, row)
        lines = (self.folder / "k.jsonl").read_text("utf-8").splitlines()
        self.assertEqual(list(map(json.loads, lines)), json.loads((self.folder / "k.json").read_text("utf-8")))
        numbers = [float(row["ll"]) for row in rows]
        cells = [line.split(" | ") for line in (self.folder / "k.md").read_text("utf-8").splitlines()]
        shown = [line[cells[0].index("ll")] for line in cells[2:]]
        self.assertEqual(
            shown, [f"{number:.1f}" for number in numbers], "Markdown is to be read, with the digits of the screen"
        )
        (page,) = pd.read_html(self.folder / "k.html", keep_default_na=False, converters={"ll": float})
        sheets = pd.read_excel(self.folder / "k.xlsx", sheet_name=None, keep_default_na=False)
        self.assertEqual(list(sheets), ["Fallowmere - rest", "Haskgate - rest", "Ostrel - rest", "about"])
        book = pd.concat([sheet for name, sheet in sheets.items() if name != "about"])
        for table in (page, book, pd.read_parquet(self.folder / "k.parquet")):
            self.assertEqual(list(table.columns), list(rows[0]))
            self.assertEqual(table["ll"].tolist(), numbers)
            self.assertEqual(table["term"].tolist(), [row["term"] for row in rows])
        self.assertEqual(self.succeeds("keyness", "huts", "--quiet").rows(), rows)
        self.assertRegex(rows[0]["ll"], r"^\d+\.\d{12,}$")

    def test_text_in_a_workbook_stays_text(self):
        self.write("odd.csv", "entry\n=1+1 @home -x +y \x07a\n")
        self.succeeds("freq", "odd.csv", "--text", "entry", "--tokens", "spaces", "-o", "odd.xlsx")
        sheet = openpyxl.load_workbook(self.folder / "odd.xlsx")["odd"]
        terms = {row[2].value: row[2].data_type for row in sheet.iter_rows(min_row=2)}
        self.assertEqual(terms, {"=1+1": "s", "@home": "s", "-x": "s", "+y": "s", "\u2407a": "s"})

    def test_a_folder_gets_a_file_a_group(self):
        groups = ("a/b", "Hut", "hut", "con", "..")
        self.write("g.csv", "entry,hut\n" + "".join(f"snow at {group},{group}\n" for group in groups))
        self.succeeds("freq", "g.csv", "--text", "entry", "--group", "hut", "-o", "lists/")
        found = sorted(path.name for path in (self.folder / "lists").glob("*.csv"))
        self.assertEqual(found, ["Hut.csv", "_.csv", "_con.csv", "a_b.csv", "hut_2.csv"])
        self.assertEqual({row["group"] for row in self.table("lists/a_b.csv")}, {"a/b"})
        self.assertEqual(self.notes("lists/hut_2.csv")["command"], "freq")
        self.succeeds("freq", "g.csv", "--text", "entry", "--group", "hut", "-o", "lists/")
        self.write("lists/Hut.csv", "mine")
        self.fails(
            1, "Hut.csv was edited since", "--force", "freq", "g.csv", "--text=entry", "--group=hut", "-o", "lists"
        )

    def test_groups_side_by_side(self):
        rows = {row["term"]: row for row in self.succeeds("freq", "huts", "--wide", "--min-freq", 2).rows()}
        self.assertEqual(list(rows), ["rope", "the"])
        the = {name: value for name, value in rows["the"].items() if not name.startswith("per_million")}
        self.assertEqual(
            list(the.values()),
            ["the", "2", "1", "1", "1", "1", "1", "1", "2", "1", "4", "1", "3"],
        )
        self.assertEqual((rows["rope"]["freq_Haskgate"], rows["rope"]["rank_Haskgate"]), ("0", ""))
        self.assertEqual(float(rows["rope"]["per_million_total"]), 1e6 * 4 / 22)

    def test_ngrams_of_several_sizes(self):
        run = self.succeeds("freq", "huts", "--ngram", "2..3", "--stop", "en", "--bridge", "--match", "rope*,leaks")
        found = [(row["group"], row["rank"], row["term"], row["n"]) for row in run.rows()]
        expected = [
            ("Ostrel", "1", "rope froze", "2"),
            ("Ostrel", "1", "rope harness", "2"),
            ("Ostrel", "1", "rope ice", "2"),
        ]
        expected += [("Ostrel", "1", "rope rope", "2"), ("Ostrel", "1", "rope rope harness", "3")]
        self.assertEqual(found, [("Fallowmere", "1", "boat leaks", "2"), *expected])
        self.succeeds("keyness", "huts", "--ngram", "2", "-o", "k2.csv")
        self.assertEqual(self.notes("k2.csv")["groups"][2]["places"], {"2": 6})

    def test_a_matrix_read_back(self):
        for ending in ("mtx", "csv", "tsv", "parquet", "xlsx"):
            self.succeeds("matrix", "huts", "-o", f"m.{ending}")
        matrix = mmread(self.folder / "m.mtx").toarray()
        names = (self.folder / "m.columns.tsv").read_text("utf-8").splitlines()[1:]
        documents = pd.read_csv(self.folder / "m.rows.tsv", sep="\t")["document"].tolist()
        self.assertEqual(documents, ["Fallowmere/1.txt", "Haskgate/1.txt", "Ostrel/1.txt", "Ostrel/2.txt"])
        listed: dict[str, int] = {}
        for row in self.succeeds("freq", "huts").rows():
            listed[row["term"]] = listed.get(row["term"], 0) + int(row["freq"])
        self.assertEqual(dict(zip(names, matrix.sum(axis=0).tolist(), strict=True)), listed)
        dense = [
            pd.read_csv(self.folder / "m.csv"),
            pd.read_csv(self.folder / "m.tsv", sep="\t"),
            pd.read_parquet(self.folder / "m.parquet"),
            pd.read_excel(self.folder / "m.xlsx"),
        ]
        for table in dense:
            self.assertEqual(table[names].to_numpy().tolist(), matrix.tolist())
            self.assertEqual(table["document"].tolist(), documents)
        piped = self.succeeds("matrix", "huts", "--quiet").rows()
        self.assertEqual([int(row["rope"]) for row in piped], [0, 0, 2, 2])

    def test_a_saved_table_is_not_printed_and_a_pipe_gets_nothing_but_the_table(self):
        run = self.succeeds("freq", "huts", "-o", "f.csv")
        self.assertEqual(run.out, "")
        self.assertIn("wrote f.csv, f.csv-metadata.json", run.err)
        run = self.succeeds("freq", "huts", "--stop", "en", "--length", "3..")
        self.assertTrue(run.out.startswith("group\trank\tterm\tfreq\t"))
        self.assertEqual(
            run.err.splitlines()[0],
            "read 4 documents, 22 tokens in 3 groups: Fallowmere 1 (6 tokens); Haskgate 1 (7 tokens); Ostrel 2 (9 tokens)",
        )
        self.assertEqual(run.err.splitlines()[1], "left out 6 of 22 tokens: stop list en 6")
        self.assertIn("settings: --stop en --length 3..", run.err)
        self.write("my.txt", "rope\n")
        run = self.succeeds("freq", "huts", "--stop", "en,my.txt", "--min-tokens", 5)
        self.assertIn(
            "left out 8 of 19 tokens: stop list en 6; stop list my.txt 2\nleft out 1 document under 5 tokens\n",
            run.err,
        )
        self.assertIn("settings: --min-tokens 5 --stop en,my.txt\n", run.err)
        self.assertEqual(self.succeeds("freq", "huts", "--quiet").err, "")

    def test_tabs_and_line_breaks_in_cells_become_spaces(self):
        self.write("book.csv", 'entry,remark\nice and snow,"a\tb\nc ""d"""\n')
        self.write("d.toml", '[categories]\nwet = ["ice"]')
        run = self.succeeds("categories", "book.csv", "--text=entry", "--dictionary=d.toml")
        self.assertEqual(run.rows()[0]["remark"], 'a b c "d"')
        self.succeeds("categories", "book.csv", "--text=entry", "--dictionary=d.toml", "-o", "c.csv")
        self.assertEqual(self.table("c.csv")[0]["remark"], 'a\tb\nc "d"')

    def test_choosing_rows(self):
        cases = [
            (("--top", 1), [("Fallowmere", "the"), ("Haskgate", "a"), ("Ostrel", "rope")]),
            (("--top", 1, "--sort", "term:desc"), [("Fallowmere", "the"), ("Haskgate", "wet"), ("Ostrel", "the")]),
            (("--top", 1, "--sort", "term"), [("Fallowmere", "boat"), ("Haskgate", "a"), ("Ostrel", "and")]),
            (("--top", 1, "--sort", "freq"), [("Fallowmere", "the"), ("Haskgate", "a"), ("Ostrel", "rope")]),
            (("--min-freq", 2), [("Fallowmere", "the"), ("Ostrel", "rope")]),
            (("--min-freq", 9), []),
            (("--min-docs", 2), [("Ostrel", "rope")]),
            (("--match", "b*T,*ce"), [("Fallowmere", "boat"), ("Ostrel", "ice")]),
        ]
        for arguments, expected in cases:
            with self.subTest(arguments):
                rows = self.succeeds("freq", "huts", *arguments).rows()
                self.assertEqual([(row["group"], row["term"]) for row in rows], expected)
        self.assertIn("no term is left to show", self.millstone("freq", "huts", "--min-freq", 9).err)

    def test_a_closed_pipe_is_no_error(self):
        self.write("big.txt", " ".join(f"word{n}" for n in range(60_000)))
        command = f'"{PROGRAM}" freq big.txt | head -n 2; echo "${{PIPESTATUS[0]}}"'
        done = subprocess.run(
            ["bash", "-c", command], env=environment(), cwd=self.folder, capture_output=True, text=True, check=False
        )
        self.assertEqual(done.stdout.splitlines()[2], "0")
        self.assertNotIn("error", done.stderr.lower())

    def test_a_terminal_gets_aligned_tables(self):
        lines, said = self.on_a_terminal(120, "keyness", "huts")
        self.assertIn("more columns in a saved file: rank_target", said)
        self.assertEqual(lines[0], "Fallowmere (1 document, 6 tokens) compared with rest (all other groups)")
        self.assertRegex(lines[1], r"^ +log +in +in +design +ll +p")
        self.assertRegex(
            lines[2], r"^rank +term +higher in +ratio +low +high +Fallowmere +rest +ll +effect +documents"
        )
        self.assertTrue(any(line.startswith("Ostrel (2 documents, 9 tokens)") for line in lines))

    def test_no_number_is_cut_and_no_word_vanishes_at_any_width(self):
        texts = {
            f"{hut}/{n}.txt": f"{'rope ' * n}incomprehensibly ice {'snow ' * (9 - n)}The {hut} stove."
            for hut in ("Ostrel", "Fallowmere", "Haskgate")
            for n in range(1, 9)
        }
        for name, text in texts.items():
            self.write(f"more/{name}", text)
        self.write(
            "d.toml",
            '[categories]\ncold = ["ice", "snow*"]\ngear = ["rope"]\nfire = ["stove"]\nword = ["incompre*"]\n',
        )
        commands = {
            ("freq", "more", "--lemmas", "en"): "incomprehensibly",
            ("freq", "more", "--ngram", "2"): "incomprehensibly ice",
            ("freq", "more", "--wide"): "incomprehensibly",
            ("keyness", "more", "--measures", "bic,odds_ratio"): "incomprehensibly",
            ("keyness", "more", "--wide"): "incomprehensibly",
            ("logodds", "more"): "incomprehensibly",
            ("profile", "more"): "Fallowmere",
            ("profile", "more", "--per-document"): "Fallowmere/1.txt",
            ("check", "more"): "Fallowmere",
            ("categories", "more", "--dictionary", "d.toml"): "Fallowmere/1.txt",
            ("categories", "more", "--validate", "d.toml"): "d.toml, line 2",
            ("contrast", "more", "--dictionary", "d.toml"): "fire",
            ("contrast", "more/Ostrel", "--dictionary", "d.toml", "--unit", "parts:3", "--trend", "t.csv"): "fire",
            ("matrix", "more", "--weight", "relative"): "Fallowmere/1.txt",
            ("matrix", "more", "--by", "group", "--transpose"): "incomprehensibly",
        }
        for command, word in commands.items():
            whole = set(" ".join(self.on_a_terminal(400, *command)[0]).split())
            for width in (40, 60, 80, 100, 120, 160, 250):
                with self.subTest(command, width=width):
                    lines, said = self.on_a_terminal(width, *command)
                    self.assertLessEqual(max(map(len, lines)), width)
                    text = "\n".join(lines)
                    self.assertRegex(text, rf"\n *\d* *{word[: width // 2 - 1]}")
                    numbers = {cell for cell in text.split() if re.fullmatch(r"-?[\d,]*\d(\.\d+)?", cell)}
                    self.assertLessEqual(numbers, whole, "each number is whole")
                    self.assertNotRegex(text, r"\d\u2026|^\W*l\u2026")
                    hidden = next((line for line in said.splitlines() if line.startswith("more columns")), "")
                    self.assertLessEqual(hidden.count(","), 5)

    def test_a_matrix_keeps_the_order_of_its_columns(self):
        for hut, words in (("C", 9), ("A", 1), ("B", 5)):
            self.write(f"order/{hut}/1.txt", "ice " * words)
        lines, _ = self.on_a_terminal(80, "matrix", "order", "--by", "group", "--transpose")
        self.assertEqual(lines[0].split(), ["term", "A", "B", "C"])

    def test_two_groups_stand_side_by_side_where_there_is_room(self):
        self.write("two/A.txt", "ice ice ice snow rope")
        self.write("two/B.txt", "fire fire snow")
        asked = ("keyness", "two", "--group", "file", "--top", "1", "--measures", "bic")
        lines, _ = self.on_a_terminal(170, *asked, "--legend")
        self.assertRegex(lines[0], r"^more frequent in A +more frequent in B$")
        titles = ["rank", "term", "log", "ratio", "low", "high", "freq", "docs", "%", "p", "adjusted", "bic", "note"]
        self.assertEqual(lines[1].split(), [*titles, *titles])
        row = lines[3].split()
        self.assertEqual(row[1], "ice")
        self.assertIn("3 : 0", lines[3])
        self.assertIn("fire", lines[3])
        self.assertIn("0 : 2", lines[3])
        self.assertTrue(any("note 1: absent from B" in line for line in lines))
        self.assertTrue(any(line.strip().startswith("bic: ll - ln N") for line in lines), "the legend")
        narrow, _ = self.on_a_terminal(80, *asked)
        self.assertEqual(narrow[0], "A (1 document, 5 tokens) compared with B (1 document, 3 tokens)")

    def test_top_cuts_the_file_and_that_is_said(self):
        run = self.succeeds("freq", "huts", "--top", 1, "-o", "f.csv")
        whole = len(self.succeeds("freq", "huts").rows())
        self.assertIn(f"saved 3 of {whole} rows (--top 1)\n", run.err)
        self.assertEqual(len(self.table("f.csv")), 3)
        notes = json.loads((self.folder / "f.csv-metadata.json").read_text("utf-8"))["notes"][0]
        self.assertEqual(notes["rows"], {"saved": 3, "of": whole})
        run = self.succeeds("freq", "huts", "--match", "r*", "-o", "lists/")
        self.assertIn("saved 1 of", run.err)
        notes = json.loads((self.folder / "lists/Ostrel.csv-metadata.json").read_text("utf-8"))["notes"][0]
        self.assertEqual(notes["rows"], {"saved": 1, "of": 6}, "of its own group")
        self.assertNotIn("saved", self.succeeds("freq", "huts", "-o", "all.csv").err)
        lines, _ = self.on_a_terminal(100, "freq", "huts", "--top", "1")
        self.assertIn("-o FILE.csv without --top saves all", "\n".join(lines))

    def test_tables_that_cannot_be_drawn_or_filtered(self):
        self.write("d.toml", '[categories]\nterm = ["rope*"]\nx = ["ice"]\n')
        whole = {"freq": (), "keyness": (), "logodds": (), "categories": ("--dictionary", "d.toml")}
        for command, options in whole.items():
            self.succeeds(command, "huts", *options, "--columns", "term", "-o", f"{command}.csv")
        self.succeeds("keyness", "huts", "--wide", "-o", "wide.csv")
        self.succeeds("contrast", "huts", "--dictionary", "d.toml", "--columns", "value,p", "-o", "contrast.csv")
        self.each_fails(
            [
                *((1, f"lacks columns that a figure of {name} is made of", "without --columns", "chart", f"{name}.csv") for name in (*whole, "contrast")),
                (1, "side by side cannot be drawn", "without --wide", "chart", "wide.csv"),
                (1, "--match: the table has no terms", "leave the option out", "categories", "huts", "--dictionary=d.toml", "--match=s*"),
                (2, "--validate counts nothing, and --marked", "--dictionary", "categories", "huts", "--validate=d.toml", "--marked=m.html"),
                (2, "--draws: must be 1 or more", "--help", "contrast", "huts", "--dictionary=d.toml", "--interval=bootstrap", "--draws=0"),
                (2, "--draws: must be 10,000,000 or less", "--help", "contrast", "huts", "--dictionary=d.toml", "--draws=1000000000"),
                (2, "--show: must be 1,000,000,000,000,000 or less", "--help", "check", "huts", "--show=9223372036854775808"),
                (2, "--unit: must be one of", "--help", "freq", "huts", "--unit=words:99999999999999999999"),
                (2, "--chart-top: must be 500 or less", "--help", "freq", "huts", "--chart-top=99999999999999999999"),
                (2, "--jobs: must be 1,000 or less", "--help", "freq", "huts", "--jobs=99999999999999999999"),
            ]
        )  # fmt: skip
        self.write("empty.csv", "id,entry\n")
        self.assertIn(
            "looks wrong: there is no text to count", self.succeeds("check", "empty.csv", "--text=entry").err
        )
        self.write("p.txt", "the rope\n")
        asked = ("huts", "--phrases=p.txt")
        types = [float(row["types"]) for row in self.succeeds("profile", *asked, "--per-document").rows()]
        rows = self.succeeds("contrast", *asked, "--values=types").rows()
        self.assertEqual(float(rows[1]["mean_b"]), (types[2] + types[3]) / 2)


class Companion(ProgramTest):
    def test_it_says_what_columns_mean_and_how_the_table_came_about(self):
        self.three_huts()
        self.write("stop.txt", "the\nand # both\n")
        run = self.succeeds("keyness", "huts", "--stop", "stop.txt", "--zeros=skip", "-o", "k.csv")
        self.assertIn("settings: --zeros skip --stop stop.txt\n", run.err)
        content = json.loads((self.folder / "k.csv-metadata.json").read_text("utf-8"))
        self.assertEqual((content["@context"][0], content["url"]), ("http://www.w3.org/ns/csvw", "k.csv"))
        header = next(csv.reader(io.StringIO((self.folder / "k.csv").read_text("utf-8"))))
        columns = {column["name"]: column for column in content["tableSchema"]["columns"]}
        self.assertEqual(list(columns), header)
        self.assertTrue(all(column["dc:description"] for column in columns.values()))
        self.assertEqual(columns["per_million_target"]["schema:unitText"], "per million tokens")
        self.assertEqual(columns["freq_target"]["datatype"], "integer")
        notes = self.notes("k.csv")
        self.assertEqual(notes["settings"], {"zeros": "skip", "stop": ["stop.txt"]})
        self.assertEqual(notes["groups"][2], {"name": "Ostrel", "documents": 2, "tokens": 9})
        self.assertEqual(notes["left_out"], {"stop list stop.txt": 5})
        self.assertEqual(len(notes["inputs"]), 4)
        data = (self.folder / notes["inputs"][0]["path"]).read_bytes()
        self.assertEqual(notes["inputs"][0]["sha256"], hashlib.sha256(data).hexdigest())
        self.assertEqual(notes["inputs"][0]["size"], len(data))


class SafeWriting(ProgramTest):
    def setUp(self):
        super().setUp()
        self.three_huts()

    def test_what_is_never_written(self):
        self.write("mine.csv", "a,b\n")
        self.write("figure.png", b"png")
        self.write("in.csv", "t\nice\n")
        for name in ("sub", "lists"):
            (self.folder / name).mkdir()
        table = [
            (1, "no folder nowhere to write f.csv", "create it first", "freq", "huts", "-o", "nowhere/f.csv"),
            (1, "mine.csv already exists and was not written by millstone", "--force", "freq", "huts", "-o", "mine.csv"),
            (1, "figure.png already exists", "--force", "keyness", "huts", "-o", "k.csv", "--chart", "figure.png"),
            (2, "no output format has the ending of 'f.xls'", ".csv, .tsv, .xlsx", "freq", "huts", "-o", "f.xls"),
            (2, "-o sub: this table has no groups to split", "name a file", "profile", "huts", "-o", "sub/"),
            (2, "-o sub: a matrix is one table", "table.mtx", "matrix", "huts", "-o", "sub"),
            (2, "no output format has the ending of 'k.gif'", ".png, .svg, .pdf", "keyness", "huts", "--chart", "k.gif"),
            (2, "--chart: no output format has the ending of 'k.csv'", ".png", "keyness", "huts", "-o", "k.csv", "--chart", "./k.csv"),
            (2, "in.csv is one of the inputs", "another name", "freq", "in.csv", "--text=t", "-o", "in.csv", "--force"),
            (2, "link.csv is one of the inputs", "another name", "freq", "in.csv", "--text=t", "-o", "link.csv", "--force"),
            (2, "hard.csv is one of the inputs", "another name", "freq", "tables", "--text=t", "-o", "hard.csv", "--force"),
            (2, "tables/t.csv is one of the inputs", "another name", "freq", "tables", "--text=t", "-o", "tables/t.csv", "--force"),
            (2, "stop.csv is one of the inputs", "another name", "freq", "huts", "--stop=stop.csv", "-o", "stop.csv", "--force"),
            (2, "stop.csv is one of the inputs", "another name", "freq", "huts", "--metadata=stop.csv", "-o", "stop.csv", "--force"),
            (2, "list.csv is one of the inputs", "another name", "keyness", "huts", "--against=list.csv", "-o", "list.csv", "--force"),
            (2, "list.csv is one of the inputs", "another name", "logodds", "huts", "--prior=list.csv", "-o", "list.csv", "--force"),
            (2, "lists/l.csv is one of the inputs", "another name", "freq", "--lists", "lists", "-o", "lists/l.csv", "--force"),
            (2, "list.csv is one of the inputs", "another name", "contrast", "--table=list.csv", "--values=freq", "-o", "list.csv", "--force"),
        ]  # fmt: skip
        for name in ("list.csv", "lists/l.csv"):
            self.succeeds("freq", "huts/Ostrel", "-o", name)
        self.write("stop.csv", "term\nrope\n")
        self.write("tables/t.csv", "t\nice\n")
        (self.folder / "link.csv").symlink_to("in.csv")
        (self.folder / "hard.csv").hardlink_to(self.folder / "tables/t.csv")
        for status, what, remedy, *arguments in table:
            with self.subTest(arguments):
                self.fails(status, what, remedy, *arguments)

    def test_own_results_are_renewed_edited_ones_are_left(self):
        self.succeeds("freq", "huts", "-o", "f.csv")
        self.succeeds("freq", "huts", "-o", "f.csv", "--top", 1)
        self.assertEqual(len(self.table("f.csv")), 3)
        self.write("f.csv", "edited\n")
        self.fails(1, "f.csv was edited since millstone wrote it", "--force", "freq", "huts", "-o", "f.csv")
        self.succeeds("freq", "huts", "-o", "f.csv", "--force")
        self.assertEqual(self.table("f.csv")[0]["term"], "the")

    def test_what_another_program_writes_meanwhile_is_not_replaced(self):
        for before in (None, "own"):
            outputs = Outputs()
            path = self.folder / f"{before}.csv"
            if before:
                outputs.claim(path)
                outputs.add(path, b"first")
                outputs.commit()
                outputs = Outputs()
            outputs.claim(path)
            outputs.add(path, b"result")
            path.write_bytes(b"somebody else's work")
            with self.assertRaisesRegex(DataError, "was written by another program meanwhile"):
                outputs.commit()
            self.assertEqual(path.read_bytes(), b"somebody else's work")
            self.assertEqual([one.name for one in self.folder.glob(".millstone-room-*")], [])

    def test_a_full_disk_leaves_everything_as_it_was(self):
        self.succeeds("freq", "huts", "-o", "f.csv", "--top", 1)
        self.write("more/1.txt", " ".join(f"word{n}" for n in range(3000)))

        def small_files():
            resource.setrlimit(resource.RLIMIT_FSIZE, (8192, 8192))

        self.fails(
            1,
            "f.csv cannot be written: file too large",
            "nothing was changed",
            "freq",
            "more",
            "-o",
            "f.csv",
            preexec_fn=small_files,
        )
        with Path("/dev/full").open("w") as full:
            done = subprocess.run(
                [PROGRAM, "freq", "huts"],
                cwd=self.folder,
                stdout=full,
                env=environment(),
                stderr=subprocess.PIPE,
                text=True,
                check=False,
            )
        self.assertEqual(done.returncode, 1)
        self.assertIn("standard output: no space left on device", done.stderr)
        self.assertNotIn("Traceback", done.stderr)

    def test_a_folder_that_may_not_be_written(self):
        folder = "/sys" if os.geteuid() == 0 else "closed"
        if folder == "closed":
            (self.folder / "closed").mkdir(mode=0o555)
        run = self.millstone("freq", "huts", "-o", f"{folder}/f.csv")
        self.assertEqual((run.code, len(run.err.splitlines())), (1, 2), run.err)
        self.assertRegex(run.err, "read-only|cannot be written")

    def test_the_same_run_gives_the_same_bytes(self):
        for name in ("one", "two"):
            (self.folder / name).mkdir()
            self.succeeds("keyness", "huts", "-o", f"{name}/k.csv", "--chart", f"{name}/k.svg")
        for file in ("k.csv", "k.csv-metadata.json", "k.svg", ".millstone-ledger.json"):
            self.assertEqual(
                (self.folder / "one" / file).read_bytes(), (self.folder / "two" / file).read_bytes(), file
            )


if __name__ == "__main__":
    unittest.main()
