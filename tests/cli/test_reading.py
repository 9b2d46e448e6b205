"""concordance, collocates, dispersion: the program on texts of several formats; lines agree with counts."""

import csv
import io
import random
import re
import unicodedata
import unittest
from collections import Counter

import lxml.html
import pandas as pd
from rich.cells import cell_len
from rich.console import Console

from millstone.cli.terminal.lines import show_lines
from millstone.core.tables.schema import Schema
from tests.cli.corpus_files import counted_by_hand, write_tables, write_texts
from tests.cli.program import ProgramTest
from tests.core.builders import result_of

ODD = {
    "1.txt": "The “hut”, re\u0301ne\u0301e said;\r\nthe\thut of\ufb01ce is shut.\r\n\r\nSnow\u00adfall! A hut.",
    "2.txt": "Hut huts hut. No stove here \U0001f525 hut-door and\u200b hut",
    "3.txt": "nothing at all",
}


def _texts_of(rows: list[dict[str, str]], name: str) -> dict[str, str]:
    """Document -> the texts of its rows, one after the other, without white space."""
    found: dict[str, str] = {}
    for row in rows:
        key = row["group"] + (row[name] or row["document"])
        found[key] = found.get(key, "") + "".join(row["text"].split())
    return found


class Reading(ProgramTest):
    def texts(self) -> None:
        for name, text in ODD.items():
            self.write(f"t/a/{name}", text)
        self.write("t/b/4.txt", "A stove in the hut. The stove smokes; the hut smells. Stove!")

    def test_found_stands_in_the_document_where_it_is_said_to(self):
        self.texts()
        rows = self.succeeds("concordance", "t", "--find", "hut", "--context", "document").rows()
        self.assertEqual([row["line"] for row in rows], [str(number) for number in range(1, len(rows) + 1)])
        for row in rows:
            whole = (self.folder / "t" / row["document"]).read_text("utf-8")
            parts = " ".join(" ".join((row["left"], row["found"], row["right"])).split())
            self.assertEqual(parts.replace(" ", ""), "".join(whole.split()), row)
            self.assertEqual(unicodedata.normalize("NFC", row["found"].lower()), "hut")
        freq = self.succeeds("freq", "t", "--match", "hut").rows()
        self.assertEqual(len(rows), sum(int(row["freq"]) for row in freq), "as many lines as occurrences")

    def test_tables_annotated_texts_and_units(self):
        self.texts()
        self.write("g.csv", 'id,text,hut\n1,"one\thut\nand a hut",x\n2,nothing,y\n3,"the hut",x\n')
        table = self.succeeds(
            "concordance", "g.csv", "--text", "text", "--id", "id", "--group", "hut", "--find", "hut"
        )
        found = [(row["document"], row["group"], row["token_number"], row["left"]) for row in table.rows()]
        self.assertEqual(found, [("1", "x", "2", "one"), ("1", "x", "5", "one hut and a"), ("3", "x", "2", "the")])
        lines = ["1\tDo\tdo\tAUX\t_\t_\t_\t_\t_\tSpaceAfter=No", "2\tn't\tnot\tPART" + "\t_" * 6]
        lines += ["3\tgo\tgo\tVERB" + "\t_" * 5 + "\tSpaceAfter=No", "4\t.\t.\tPUNCT" + "\t_" * 6, ""]
        self.write("a.conllu", "\n".join([*lines, *lines]))
        row = self.succeeds("concordance", "a.conllu", "--find", "n't", "--context", "sentence").rows()[1]
        self.assertEqual((row["left"], row["found"], row["right"]), ("Do", "n't", "go."))
        tagged = self.succeeds("concordance", "a.conllu", "--find", "go, do", "--pos", "VERB").rows()
        self.assertEqual([row["found"] for row in tagged], ["go", "go"])
        for unit in ("sentence", "paragraph", "words:3", "parts:2", "line"):
            with self.subTest(unit):
                cut = self.succeeds("concordance", "t/b", "--find", "stove", "--unit", unit, "--context", "1").rows()
                self.assertEqual([row["found"] for row in cut], ["stove", "stove", "Stove"])
                whole = self.succeeds("freq", "t/b", "--match", "stove", "--unit", unit).rows()
                self.assertEqual(whole[0]["freq"], "3")

    def test_sorting_drawing_and_choosing_lines(self):
        self.texts()
        stove = ("concordance", "t", "--find", "stove", "--context", "3")
        for sort in ("right", "left", "found", "random", "document", "group,right"):
            with self.subTest(sort):
                rows = self.succeeds(*stove, "--sort", sort).rows()
                self.assertEqual(sorted(row["line"] for row in rows), ["1", "2", "3", "4"])
                words = {name: [row[name].lower().split() for row in rows] for name in ("left", "right")}
                outwards = {"left": [one[::-1] for one in words["left"]], "right": words["right"]}.get(sort)
                if outwards:
                    self.assertEqual(outwards, sorted(outwards))
                if sort == "document":
                    self.assertEqual([row["line"] for row in rows], ["1", "2", "3", "4"])
        drawn = self.succeeds(*stove, "--sample", "2", "--seed", "7")
        again = self.succeeds(*stove, "--sample", "2", "--seed", "7")
        self.assertEqual(drawn.out, again.out)
        self.assertIn("2 of 4 lines drawn at random, seed 7", drawn.err)
        self.assertIn("stove: 4 places in 2 documents", drawn.err)
        several = (*stove[:2], "--find", "hut", *stove[2:], "--sort", "right")
        first = self.succeeds(*several, "--top", "3").rows()
        self.assertEqual(first, self.succeeds(*several).rows()[:3], "cut out as all of them are")
        near = self.succeeds(*stove, "--near", "smokes", "--span", "2").rows()
        far = self.succeeds(*stove, "--not-near", "smokes", "--span", "2").rows()
        self.assertEqual((len(near), len(far)), (1, 3))
        lemmas = self.succeeds("concordance", "t", "--find", "smoke", "--lemmas", "en").rows()
        self.assertEqual([row["found"] for row in lemmas], ["smokes"], "under the lemma")
        self.assertEqual(len(self.succeeds("concordance", "t", "--find", "the", "--stop", "en").rows()), 5)

    def test_counts_agree_between_commands(self):
        self.texts()
        self.write("d.toml", '[categories]\nheat = ["stove", "smok*", "the hut"]\n')
        by = ("--dictionary", "d.toml")
        places = self.succeeds("concordance", "t", *by, "--per-document").rows()
        counted = self.succeeds("categories", "t", *by, "--scale", "count").rows()
        self.assertEqual([row["places"] for row in places], [row["heat"] for row in counted])
        most = self.succeeds("concordance", "t", *by, "--per-document", "--top", "2").rows()
        self.assertEqual(most, sorted(places, key=lambda row: -int(row["places"]))[:2], "the most places first")
        fewest = self.succeeds("concordance", "t", *by, "--per-document", "--sort", "tokens:asc").rows()
        self.assertEqual(fewest, sorted(places, key=lambda row: int(row["tokens"])))
        self.succeeds("concordance", "t", *by, "--per-document", "-o", "hits.csv", "--quiet")
        self.succeeds("contrast", "--table", "hits.csv", "--values", "per_million", "--group", "group")
        spread = self.succeeds("dispersion", "t", "--find", "hut", "--find", "stove", "--find", "frost")
        self.assertEqual([row["freq"] for row in spread.rows()], ["6", "1", "0", "2", "3", "0"])
        self.assertIn("no 'frost' in the texts", spread.err)
        terms = self.succeeds("dispersion", "t", "--match", "hut,stove").rows()
        of_nodes = {(row["group"], row["term"]): row for row in spread.rows()}
        for row in terms:
            self.assertEqual(row, of_nodes[row["group"], row["term"]])
        company = self.succeeds("collocates", "t", "--find", "hut", "--span", "2", "--min-together", "1").rows()
        self.assertEqual({row["side"] for row in company}, {"both"})

    def test_a_word_tree_by_group_or_of_all(self):
        self.texts()
        rows = self.succeeds("wordtree", "t", "--find", "hut", "--min-places", "1", "--depth", "1").rows()
        self.assertEqual({row["group"] for row in rows}, {"all"})
        self.assertEqual(sum(int(row["places"]) for row in rows), 8)
        by_group = self.succeeds("wordtree", "t", "--find", "the", "--group", "folder", "--side", "both").rows()
        self.assertEqual(
            {(row["group"], row["side"]) for row in by_group}, {(g, s) for g in "ab" for s in ("left", "right")}
        )
        shown, _ = self.on_a_terminal(60, "wordtree", "t", "--find", "the", "--quiet")
        self.assertEqual(shown[0], "the, to the right: 5 places")

    def test_any_analysis_near_an_expression_only(self):
        self.write("t/a/1.txt", "red ice blue snow red rope. Green hut ice old hut.")
        self.write("t/a/2.txt", "nothing of it here")
        self.write("t/b/1.txt", "ice and ice melt; then came rain")
        near = ("--around", "ice", "--around-span", "1")
        freq = self.succeeds("freq", "t", *near)
        counted = {(row["group"], row["term"]): row for row in freq.rows()}
        terms = {key: row["freq"] for key, row in counted.items()}
        # red ice blue; hut ice old; ice and ice melt: the second ice is not near the first
        self.assertEqual(
            terms,
            {("a", word): "1" for word in ("red", "blue", "hut", "old")} | {("b", "and"): "1", ("b", "melt"): "1"},
        )
        self.assertEqual(counted["a", "red"]["per_million"], "250000.0")
        self.assertEqual(counted["a", "red"]["docs_percent"], "50.0", "of all documents")
        self.assertIn("left out 16 of 22 tokens: around 16", freq.err)
        self.assertIn("note: only the 6 tokens within 1 to the left and 1 to the right of 4 places of ice", freq.err)
        pairs = self.succeeds("freq", "t", *near[:2], "--around-span", "0,2", "--ngram", "2").rows()
        self.assertEqual(
            {row["term"] for row in pairs}, {"blue snow", "old hut", "and ice", "ice melt"} | {"melt then"}
        )
        self.write("d.toml", '[categories]\nc = ["red", "hut"]\n')
        row = self.succeeds("categories", "t", *near, "--dictionary", "d.toml", "--scale", "count").rows()[0]
        self.assertEqual((row["tokens"], row["c"]), ("4", "2"))
        explained = self.succeeds("check", "t", *near, "--explain", "ice").out
        self.assertEqual(explained, '"ice" -> counted as "ice", 4 times; around leaves out 4 of them\n')
        for command in ("keyness", "logodds", "matrix", "profile"):
            self.succeeds(command, "t", *near)
        self.write(
            "s.toml",
            '[study]\noutput="out"\n[corpus]\ninput=["t"]\n[prepare]\naround=["ice"]\n[[step]]\ncommand="freq"\noutput="f.csv"\n',
        )
        self.succeeds("run", "s.toml")
        self.fails(2, "shows texts as they stand", "--near", "concordance", "t", "--find", "hut", *near)

    def test_the_lines_behind_a_number_are_as_many_as_it_says(self):
        self.write("p.txt", "mountain hut\n")
        self.write("m.csv", "term,as\nsnow,weather\nice,weather\n")
        self.write("d.toml", '[categories]\ncold = ["ice", "snow*", "the hut"]\n"cold/wet" = ["snow fell"]\n')
        text = (
            "The mountain hut and the hut. Snow fell on huts; ice, ice. She went home, they go to the mountain hut. "
        )
        for hut, times in (("a", 3), ("b", 2)):
            for number in range(3):
                self.write(f"t/{hut}/{number}.txt", f"{text * times}Snow fell {'again ' * number}")
        number_of = {
            "freq": lambda row: int(row["freq"]),
            "keyness": lambda row: int(row["freq_target"]) + int(row["freq_reference"]),
            "logodds": lambda row: int(row["freq"]) + int(row["freq_against"]),
            "dispersion": lambda row: int(row["freq"]),
            "collocates": lambda row: sum(int(cell) for name, cell in row.items() if name.startswith("together")),
            "wordtree": lambda row: int(row["places"]),
            "categories": lambda row: int(row["cold"]),
        }
        plain = [
            (),
            ("--stop", "en"),
            ("--lemmas", "en"),
            ("--merge", "m.csv"),
            ("--phrases", "p.txt"),
            ("--unit", "sentence"),
        ]
        plain += [
            ("--around", "hut", "--around-span", "2"),
            ("--ngram", "2"),
            ("--ngram", "2", "--bridge", "--stop", "en"),
        ]
        asked = [("freq", one) for one in plain]
        asked += [("keyness", one) for one in (*plain[:3], ("--against", "pairs"), ("--ngram", "2..3"))]
        asked += [
            ("logodds", ()),
            ("dispersion", ("--stop", "en")),
            ("dispersion", ("--find", "the hut", "--find", "ice")),
            ("dispersion", ("--find", "hut", "--find", "hut*", "--phrases", "p.txt", "--around", "mountain, snow")),
        ]
        asked += [
            ("collocates", ("--find", "hut*", "--lemmas", "en", *one))
            for one in ((), ("--by-side",), ("--within", "sentence"), ("--phrases", "p.txt"))
        ]
        asked += [
            ("collocates", ("--find", "hut*", *one))
            for one in (
                ("--against", "the"),
                ("--against-group", "rest"),
                ("--against", "the, hut ice", "--group", "file"),
            )
        ]
        asked += [
            ("wordtree", ("--find", "the", "--side", "both")),
            ("wordtree", ("--find", "the", "--group", "folder")),
        ]
        near = ("--around", "snow", "--phrases", "p.txt")
        asked += [("categories", ("--dictionary", "d.toml", "--scale", "count", *one)) for one in ((), near)]
        for number, (command, settings) in enumerate(asked):
            table = f"{number}.csv"
            self.succeeds(command, "t", *settings, "-o", table, "--quiet")
            rows = list(csv.DictReader(io.StringIO((self.folder / table).read_text("utf-8"))))
            chosen = range(1, len(rows) + 1, max(len(rows) // 3, 1))
            select = ("--select", "cold") if command == "categories" else ()
            runs = self.several([("concordance", "--from", table, "--row", str(one), *select) for one in chosen])
            for one, run in zip(chosen, runs, strict=True):
                with self.subTest(command=command, settings=settings, row=rows[one - 1]):
                    self.assertEqual(run.code, 0, run.err)
                    self.assertEqual(len(run.rows()), number_of[command](rows[one - 1]))
        every = [
            row
            for row in csv.DictReader(io.StringIO((self.folder / "0.csv").read_text("utf-8")))
            if row["term"] == "ice"
        ]
        of_term = self.succeeds("concordance", "--from", "0.csv", "--term", "ice", "--context", "0").rows()
        self.assertEqual(len(of_term), sum(int(row["freq"]) for row in every))
        self.assertEqual({row["found"] for row in of_term}, {"ice"})

    def test_tables_with_few_columns_and_further_tables(self):
        self.texts()
        self.succeeds("network", "t", "--unit", "sentence", "--nodes", "n.csv", "-o", "e.csv", "--quiet")
        self.succeeds("keyness", "t", "--columns", "term,log_ratio", "-o", "k.csv", "--quiet")
        two = ("--find", "hut", "--find", "the")
        self.succeeds("collocates", "t", *two, "--min-together", "1", "-o", "c.csv", "--quiet")
        saved = {
            name: list(csv.DictReader(io.StringIO((self.folder / f"{name}.csv").read_text("utf-8"))))
            for name in "nekc"
        }
        freq: Counter[str] = Counter()
        for row in self.succeeds("freq", "t").rows():
            freq[row["term"]] += int(row["freq"])
        links, both = saved["e"], ("term_b", "term_a")
        common = next(
            row["collocate"]
            for row in saved["c"]
            if [one["collocate"] for one in saved["c"]].count(row["collocate"]) > 1
        )
        asked = {
            ("n.csv", "--row", "1"): int(saved["n"][0]["freq"]),
            ("e.csv", "--term", ", ".join(links[0][end] for end in both)): int(links[0]["together"]),
            ("k.csv", "--row", "2"): freq[saved["k"][1]["term"]],
            ("c.csv", "--term", common): sum(
                int(row["together"]) for row in saved["c"] if row["collocate"] == common
            ),
        }
        runs = self.several([("concordance", "--from", *typed) for typed in asked])
        for (typed, number), run in zip(asked.items(), runs, strict=True):
            self.assertEqual(len(run.rows()), number, (typed, run.err))

    def test_documents_counted_and_groups_from_fields(self):
        rows = ["1,x,2001,hut hut ice", "2,x,2002,hut snow", "3,y,2001,hut ice hut", "4,y,2002,rain"]
        self.write("g.csv", "\n".join(["id,hut,year,text", *rows, ""]))
        table = ("g.csv", "--text", "text", "--id", "id", "--group", "hut")
        self.succeeds("keyness", *table, "--count", "documents", "-o", "key.csv", "--quiet")
        self.succeeds("freq", *table[:-1], "year", "--where", "hut = x", "-o", "freq.csv", "--quiet")
        for name, counted in (("key.csv", ("freq_target", "freq_reference")), ("freq.csv", ("freq",))):
            saved = list(csv.DictReader(io.StringIO((self.folder / name).read_text("utf-8"))))
            asked = [("concordance", "--from", name, "--row", str(one)) for one in range(1, len(saved) + 1)]
            for row, run in zip(saved, self.several(asked), strict=True):
                with self.subTest(name, term=row["term"]):
                    lines = run.rows()
                    found = {line["document"] for line in lines} if name == "key.csv" else lines
                    self.assertEqual(len(found), sum(int(row[one]) for one in counted))
                    self.assertEqual({line["found"] for line in lines}, {row["term"]})

    def test_a_table_that_does_not_say_where_it_comes_from(self):
        self.texts()
        self.succeeds("freq", "t", "-o", "f.csv", "--quiet")
        self.succeeds("profile", "t", "-o", "p.csv", "--quiet")
        self.succeeds("keyness", "--lists", "f.csv", "-o", "l.csv", "--quiet")
        self.succeeds("network", "t", "--unit", "sentence", "-o", "e.csv", "--quiet")
        self.write("alone.csv", "group,term,freq\na,hut,1\n")
        self.each_fails(
            [
                (1, "there is no table g.csv", "check the spelling", "concordance", "--from", "g.csv", "--row", "1"),
                (1, "alone.csv does not say what it was made from", "make it again", "concordance", "--from", "alone.csv", "--row", "1"),
                (1, "the rows of profile have no lines", "freq, dispersion", "concordance", "--from", "p.csv", "--row", "1"),
                (1, "--row 999: f.csv has", "row 1 is the first", "concordance", "--from", "f.csv", "--row", "999"),
                (2, "--row: must be 1 or more", "", "concordance", "--from", "f.csv", "--row", "0"),
                (1, "f.csv has no row of 'hutt'; did you mean 'hut'", "as the table has it", "concordance", "--from", "f.csv", "--term", "hutt"),
                (1, "l.csv was made of frequency lists, and lists have no lines", "name the texts", "concordance", "--from", "l.csv", "--row", "1"),
                (2, "a row of e.csv is a link of two terms", "type both", "concordance", "--from", "e.csv", "--term", "hut"),
                (1, "e.csv has no link of 'hutt,the'", "type both terms", "concordance", "--from", "e.csv", "--term", "hutt,the"),
                (2, "--from needs a row of the table", "--row N", "concordance", "--from", "f.csv"),
                (2, "--row and --term name a row of a table", "add --from", "concordance", "t", "--find", "hut", "--row", "1"),
                (2, "--from takes inputs", "leave INPUT", "concordance", "t", "--from", "f.csv", "--row", "1"),
            ]
        )  # fmt: skip
        self.write("t/a/1.txt", "hut")
        run = self.succeeds("concordance", "--from", "f.csv", "--term", "hut")
        self.assertIn("note: changed since the table was made: t/a/1.txt", run.err)

    def test_what_is_found_is_cut_out_rightly_whatever_the_format(self):
        every = ("--find", ", ".join(f"{sign}*" for sign in "abcdefghijklmnopqrstuvwxyz0123456789"), "--context")
        repaired = ("--mend", "hyphens,entities")
        endings = write_texts(self.folder)
        write_tables(self.folder)
        asked = [(ending, ()) for ending in endings]
        asked += [(f"book.{ending}", ("--text", "entry", "--group", "hut")) for ending in ("csv", "xlsx", "parquet")]
        runs = [("concordance", name, *table, *every, "document", *repaired) for name, table in asked]
        whole_text: dict[tuple[str, str], set[str]] = {}
        for (name, _), run in zip(asked, self.several(runs), strict=True):
            with self.subTest(name):
                counted: dict[str, Counter[str]] = {}
                for row in run.rows():
                    found = unicodedata.normalize("NFKC", row["found"]).replace("\u00ad", "").replace("’", "'")
                    counted.setdefault(row["group"], Counter())[found.lower()] += 1
                    text = "".join((row["left"] + row["found"] + row["right"]).split())
                    whole_text.setdefault((name, row["group"] + row["document"]), set()).add(text)
                self.assertEqual(counted, counted_by_hand())
        for key, texts in whole_text.items():
            self.assertEqual(len(texts), 1, f"{key}: whatever is found, the document around it is the same")
        sentences = self.succeeds(
            "concordance", "pdf", "--find", "kilometres", "--context", "sentence", *repaired
        ).rows()
        self.assertEqual(
            [" ".join((row["left"], row["found"], row["right"])) for row in sentences],
            ["A long stage: 31 kilometres to the office of the warden."],
        )
        paragraph = self.succeeds("concordance", "docx", "--find", "hush", "--context", "paragraph").rows()[0]
        self.assertEqual((paragraph["left"], paragraph["right"]), ("Don’t wake the children: “", "”, said Núria."))
        self.write("c/1.txt", "See http://a.example/hut for the hut, #hut and @hut; the hut.")
        cuts = ("--cut", "links", "--cut", "hashtags", "--cut", "mentions")
        cut = self.succeeds("concordance", "c", "--find", "hut", *cuts, "--context", "1")
        self.assertEqual([row["left"].split()[-1] for row in cut.rows()], ["the", "the"])

    def test_the_units_of_a_text_make_it_up_whatever_the_format(self):
        chance = random.Random(3)
        signs = (
            " ",
            " ",
            " ",
            ". ",
            "? ",
            "\n",
            "\n\n",
            ", ",
            " (",
            ") ",
            " -- ",
            "...",
            " \u201c",
            "\u201d ",
            "。",
            "！ ",
            "\n\n* * *\n\n",
        )
        for number in range(12):
            words = (
                chance.choice(("hut", "Hut", "a", "U.S.", "9", "再见", "don\u2019t")) + chance.choice(signs)
                for _ in range(30)
            )
            self.write(f"made/{number}.txt", "A" + "".join(words))
        asked = [("made", ()), *((ending, ()) for ending in write_texts(self.folder))]
        runs = [("check", name, *more, "--show-units", "-") for name, more in asked]
        whole = [_texts_of(run.rows(), "document") for run in self.several(runs)]
        for unit in ("paragraph", "sentence", "line", "words:3", "parts:4"):
            runs = [("check", name, *more, "--unit", unit, "--show-units", "-") for name, more in asked]
            for (name, _), texts, run in zip(asked, whole, self.several(runs), strict=True):
                if unit in ("paragraph", "line") and "annotated texts cannot be cut" in run.err:
                    continue
                with self.subTest(name, unit=unit):
                    # a unit that has no word has no row
                    expected = {key: text.replace("***", "") for key, text in texts.items()}
                    found = {key: text.replace("***", "") for key, text in _texts_of(run.rows(), "part_of").items()}
                    self.assertEqual(found, expected, run.err)

    def test_documents_of_one_name_and_those_left_out(self):
        texts = ["a short hut", "a longer text about the hut and one hut", "the other hut stands beside it, says Odd"]
        self.write("same.csv", "id,text\n" + "".join(f'7,"{text}"\n' for text in texts))
        table = ("same.csv", "--text", "text", "--id", "id", "--context", "2")
        for settings, left in (
            ((), ["a short", "about the", "and one", "the other"]),
            (("--min-tokens", "5"), ["about the", "and one", "the other"]),
            # of nine words the second piece has five, and no context goes beyond its piece
            (("--unit", "words:4", "--min-tokens", "4"), ["the", "and one", "the other"]),
            (("--unit", "between:and"), ["a short", "about the", "one", "the other"]),
            (("--unit", "sentence", "--min-tokens", "5"), ["about the", "and one", "the other"]),
            (("--drop-repeats",), ["a short", "about the", "and one", "the other"]),
        ):
            with self.subTest(settings):
                rows = self.succeeds("concordance", *table, "--find", "hut", *settings).rows()
                self.assertEqual([row["left"] for row in rows], left)
                self.assertEqual({row["found"] for row in rows}, {"hut"})

    def test_lines_of_sentences_that_blank_lines_end(self):
        self.write("b.txt", "The hut\n\nRevised 1994\n\nWhat is a hut?\n")
        self.succeeds("freq", "b.txt", "--unit", "sentence", "-o", "f.csv")
        for typed in (("b.txt", "--find", "hut", "--unit", "sentence"), ("--from", "f.csv", "--term", "hut")):
            rows = self.succeeds("concordance", *typed).rows()
            self.assertEqual(
                [(row["document"], row["left"]) for row in rows], [("b.txt#1", "The"), ("b.txt#3", "What is a")]
            )

    def test_sentences_as_contexts_have_their_own_marks(self):
        cases = (
            ("你好。再见！再见 a b", "a b", ("再见", "")),
            ("“你好。”他说。再见 a b。完", "a b", ("再见", "。")),
            ("I read it. -- USA Today said so. More.", "usa", ("--", "Today said so.")),
            ('He went. "Well," she said. (c) More here', "well", ('"', '," she said.')),
            ("One.\n\n* * *\n\n(c) More here", "more", ("(c)", "here")),
            ("... and so on. Next", "so", ("... and", "on.")),
        )
        for text, find, wanted in cases:
            self.write("s.txt", text)
            row = self.succeeds("concordance", "s.txt", "--find", find, "--context", "sentence").rows()[0]
            with self.subTest(text):
                self.assertEqual((row["left"], row["right"]), wanted)

    def test_where_each_character_is_a_token_expressions_and_entries_are_cut_too(self):
        self.write("z/1.txt", "小屋的火炉很冷。管理员说火炉坏了。")
        self.write("d.toml", '[categories]\nfire = ["火炉", "坏?"]\n')
        rule = ("--tokens", "characters")
        rows = self.succeeds("concordance", "z", *rule, "--find", "火炉, 管理*", "--context", "1").rows()
        self.assertEqual(
            [row["left"] + row["found"] + row["right"] for row in rows], ["的火炉很", "冷。管理员说", "说火炉坏"]
        )
        counted = self.succeeds("categories", "z", *rule, "--dictionary", "d.toml", "--scale", "count").rows()
        self.assertEqual(counted[0]["fire"], "3")

    def test_lines_as_a_page(self):
        self.write("t/a/<b>.txt", 'A <script>alert("rope")</script> & rope.\n\nThe second rope; "rope" again.')
        self.succeeds("concordance", "t", "--find", "rope", "--context", "2", "--sort", "left", "-o", "lines.html")
        page = lxml.html.fromstring((self.folder / "lines.html").read_text("utf-8"))
        self.assertEqual(len(page.findall(".//script")), 1, "none but its own")
        lines = page.findall(".//details")
        self.assertEqual(sorted(line.get("data-line") for line in lines), ["1", "2", "3", "4"])
        by_number = {line.get("data-line"): line for line in lines}
        self.assertEqual(
            by_number["1"].find("p").text_content(), 'A <script>alert("rope")</script> & rope.', "its paragraph"
        )
        self.assertEqual(by_number["3"].find("p").text_content(), 'The second rope; "rope" again.')
        self.assertTrue(all(line.find("p/b").text == "rope" for line in lines))
        pressed = [one.text for one in page.iter("button") if one.get("aria-pressed") == "true"]
        self.assertEqual(pressed, ["left"])
        self.assertFalse([one for one in page.iter() if one.get("src") or one.get("href")], "nothing from elsewhere")
        self.assertEqual(by_number["1"].find(".//span[@class='d']").text, "a/<b>.txt")
        self.assertEqual(page.find(".//h1").text, "Concordance: rope")
        self.succeeds(
            "collocates", "t", "--find", "rope", "--span", "1", "--min-together", "1", "-o", "near.csv", "--quiet"
        )
        self.succeeds("concordance", "--from", "near.csv", "--term", "second", "-o", "second.html")
        page = lxml.html.fromstring((self.folder / "second.html").read_text("utf-8"))
        self.assertEqual(page.find(".//h1").text, "Concordance: second of near.csv")
        marked = [[one.text for one in line.iter("strong")] for line in page.findall(".//summary")]
        self.assertEqual(marked, [["second"]], "the collocate where it was counted")

    def test_all_of_it_in_a_study(self):
        self.texts()
        self.succeeds("freq", "t", "-o", "f.csv", "--quiet")
        steps = ["concordance", "collocates", "dispersion", "wordtree"]
        made = [f'[[step]]\ncommand = "{one}"\nfind = ["hut, huts"]\noutput = "{one}.csv"\n' for one in steps]
        made.append('[[step]]\ncommand = "freq"\naround = ["hut, huts"]\noutput = "near.csv"\n')
        for table, output in (("f.csv", "behind"), ("out/near.csv", "behind-near")):
            # the second one is made by a step before it
            made.append(
                f'[[step]]\ncommand = "concordance"\nfrom = "{table}"\nterm = "hut"\noutput = "{output}.csv"\n'
            )
        self.write("s.toml", '[study]\noutput = "out"\n[corpus]\ninput = ["t"]\n' + "\n".join(made))
        self.write("bad.toml", (self.folder / "s.toml").read_text("utf-8").replace("out/near", "out/far"))
        self.fails(1, "there is no table out/far.csv", "make it with -o", "run", "bad.toml")
        run = self.succeeds("run", "s.toml")
        self.assertIn("--from f.csv --term hut", " ".join(run.out.split()) + " ".join(run.err.split()))
        for name, arguments in (
            *((one, (one, "t", "--find", "hut, huts")) for one in steps),
            ("near", ("freq", "t", "--around", "hut, huts")),
            ("behind", ("concordance", "--from", "f.csv", "--term", "hut")),
            ("behind-near", ("concordance", "--from", "out/near.csv", "--term", "hut")),
        ):
            with self.subTest(name):
                rows = list(csv.DictReader(io.StringIO((self.folder / "out" / f"{name}.csv").read_text("utf-8-sig"))))
                self.assertEqual(rows, self.succeeds(*arguments).rows())

    def test_wrong_questions(self):
        self.texts()
        self.each_fails(
            [
                (2, "concordance needs something to look for", "--find EXPRESSION", "concordance", "t"),
                (2, "collocates needs something to look for", "--find", "collocates", "t"),
                (2, "--find ',': the expression is empty", "type words", "concordance", "t", "--find", ","),
                (2, "only wildcards", "add a word", "concordance", "t", "--find", "*"),
                (2, "^ has no meaning in an expression", "type words", "concordance", "t", "--find", "^hut"),
                (2, "an expression has no exceptions", "leave the ! out", "dispersion", "t", "--find", "!hut"),
                (2, "--span: must be two numbers, left and right", "", "collocates", "t", "--find", "hut", "--span", "5,"),
                (2, "--context: must be a whole number", "", "concordance", "t", "--find", "hut", "--context", "-1"),
                (2, "two expressions are called 'hut'", "NAME=", "dispersion", "t", "--find", "hut", "--find", "hut"),
                (1, "lines cannot be sorted by 'rihgt'; did you mean 'right'", "sort by", "concordance", "t", "--find", "hut", "--sort", "rihgt"),
                (2, "one of them says what is looked for", "leave one", "concordance", "t", "--find", "hut", "--dictionary", "d.toml"),
                (1, "there is no dictionary d.toml", "spelling", "concordance", "t", "--dictionary", "d.toml"),
                (2, "there is no measure 'delta'", "the measures are", "collocates", "t", "--find", "hut", "--measures", "delta"),
                (2, "--around-span 0: nothing is near", "5,5", "freq", "t", "--around", "hut", "--around-span", "0"),
                (2, "--span 0,0: nothing is near", "5,5", "collocates", "t", "--find", "hut", "--span", "0"),
            ]
        )  # fmt: skip
        nothing = self.succeeds("concordance", "t", "--find", "stoev")
        self.assertEqual(len(nothing.out.splitlines()), 1)
        self.assertIn("no 'stoev' in the texts; nearest: 'stove'", nothing.err)
        undrawn = self.succeeds("collocates", "t", "--find", "stoev", "--chart", "c.png")
        self.assertIn("note: c.png was not drawn: there is nothing to draw", undrawn.err)
        self.assertFalse((self.folder / "c.png").exists())

    def test_a_page_of_lines_holds_no_more_than_it_shows(self):
        # one paragraph of 150,000 characters
        words = [f"word{n % 97}" if n % 600 else "anchor" for n in range(23_400)]
        self.write("one/long.txt", " ".join(words))
        for context in ((), ("--context", "document")):
            self.succeeds("concordance", "one", "--find", "anchor", *context, "-o", "lines.html")
            page = (self.folder / "lines.html").read_text("utf-8")
            self.assertEqual(page.count("<details data-line"), 39)
            self.assertLess(len(page), 300_000)
            self.assertEqual(page.count("<b>anchor</b>"), 2 * 39, "in each line and in its paragraph")

    def test_on_a_terminal_what_is_found_stands_in_one_column(self):
        around = (
            "before it (",
            "\u5c71\u306e ",
            "e\u0301te\u0301 “",
            "a long way before it stands here, and so on to ",
        )
        for number, before in enumerate(around):
            self.write(
                f"t/a name that is long {number}.txt", f"{before}rope, and after it more of the same text " * 1
            )
        for width in (40, 80, 200):
            with self.subTest(width):
                lines, _ = self.on_a_terminal(width, "concordance", "t", "--find", "rope", "--quiet")
                lines = [line for line in lines if "rope" in line]
                self.assertEqual(len(lines), 4)
                self.assertEqual(len({cell_len(line[: line.index("rope")]) for line in lines}), 1, lines)
                self.assertTrue(all(cell_len(line) <= width for line in lines), lines)
                names = [line.split("  ")[1] for line in lines] if width > 40 else []
                self.assertEqual(len(set(names)), len(names), "no two look alike")

    def test_the_other_word_of_a_line_is_marked_on_a_terminal(self):
        rows = [
            ("the old rope and an", "rope", "hung by the old hut, old friend", "old", 4),
            ("an old, old", "rope", ", said he", "old", -2),
            ("an old, old", "rope", ", said he", "old", -1),
            ("חבל ישן מאוד על", "יד", "הבית הגדול", "ישן", -3),
            (f"{'far ' * 40}away", "rope", f"is {'far ' * 40}seen", "seen", 42),
            ("nothing", "rope", "near it", "it", 2),
        ]
        frame = pd.DataFrame(rows, columns=["left", "found", "right", "collocate", "distance"])
        frame = frame.assign(line=range(1, len(rows) + 1), document="d", group="d")
        result = result_of("concordance", frame, {}, (), schema=Schema("concordance", centre="found"))
        for width in (60, 90, 200):
            written = io.StringIO()
            console = Console(
                file=written, force_terminal=True, width=width, highlight=False, color_system="standard"
            )
            show_lines(result, 10, console)
            lines = [line for line in written.getvalue().split("\n") if "\x1b[1;4m" in line]
            self.assertEqual(len(lines), len(rows))
            for line, (_, _, _, word, distance) in zip(lines, rows, strict=True):
                with self.subTest(width, word=word, distance=distance):
                    before, _, after = line.partition("\x1b[1;4m")
                    pieces = re.split(r"\x1b\[1m(.*?)\x1b\[0m", before if distance < 0 else after)
                    if abs(distance) > 20:
                        self.assertEqual(len(pieces), 1, "beyond the edge of the screen")
                        continue
                    self.assertEqual(len(re.findall(r"\x1b\[1m", line)), 1)
                    self.assertEqual(pieces[1], word)
                    between = re.sub(r"\x1b\[[0-9;]*m|[\u2068\u2069]", "", pieces[2] if distance < 0 else pieces[0])
                    words = between.split()[1:] if distance > 0 else between.split()
                    self.assertEqual(len([one for one in words if one.strip(",")]), abs(distance) - 1)

    def test_scripts_from_right_to_left_keep_their_order_and_names_differ(self):
        before, after = "ראינו את", "הגדול מן החלון"
        long = "a very long name of a folder that goes on and on, part"
        for number in (1, 2):
            self.write(f"t/x/{long} {number}.txt", f"{before} ההר {after}.")
        for width in (60, 100):
            with self.subTest(width):
                lines, _ = self.on_a_terminal(width, "concordance", "t", "--find", "ההר", "--quiet")
                lines = [line for line in lines if "ההר" in line]
                self.assertEqual(len(lines), 2)
                for line in lines:
                    self.assertLess(line.index(before), line.index("ההר"), "in the order in which it is read")
                    self.assertLess(line.index("ההר"), line.index("הגדול"))
                    # each field is marked as running from right to left by itself
                    self.assertEqual(line.count("\u2068"), line.count("\u2069"))
                    self.assertEqual(line.count("\u2068"), 3)
                self.assertEqual(len({line.split("\u2068")[0] for line in lines}), 2, "names differ")


if __name__ == "__main__":
    unittest.main()
