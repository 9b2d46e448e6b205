"""The program with dictionaries: counted by hand on a mini-corpus, traced word by word, and wrong in many ways."""

import datetime
import json
import unittest
from html.parser import HTMLParser

import openpyxl
import pandas as pd

from tests.cli.program import ProgramTest

DICTIONARY = """title = "Huts"
[categories]
weather = ["storm*", "fog", "white out", { entry = "Gale", case = true, weight = 3 }]
"weather/snow" = ["snow", "fresh snow", "!snow goose"]
animals = ["*goose*", "snow goose", "dog?"]
way = ["way out", "out of the hut"]

[scores]
trouble = "({weather} - {weather/snow}) / {way}"
"""
TEXTS = {
    # weather: storms, white out, gale (weight 1: small letters match nothing)
    "A/1": "Storms, a white out. A gale!\n\nFresh snow; one snow goose. Snow & fog.",
    "A/2": "Gale. Dogs d\u2019or. A way out of the hut, way out!",
    "B/1": "",
    "B/2": "Don't go out. <b>White</b> snow-storm, white. Out!",
}
COUNTS = {
    # tokens, covered tokens, weather, snow, animals, way, trouble
    "A/1": (13, 9, 5, 2, 1, 0, ""),
    "A/2": (11, 8, 1, 0, 1, 2, "0.5"),
    "B/1": (0, 0, 0, 0, 0, 0, ""),
    "B/2": (9, 0, 0, 0, 0, 0, ""),
}


class _Marks(HTMLParser):
    """The texts of a page, each mark as text[LETTERS]."""

    def __init__(self) -> None:
        super().__init__()
        self.texts: list[str] = []
        self._inside = False

    def handle_starttag(self, tag: str, attributes: list[tuple[str, str | None]]) -> None:
        if tag == "p" and ("class", "text") in attributes:
            self._inside = True
            self.texts.append("")
        elif tag == "sub":
            self.texts[-1] += "["

    def handle_endtag(self, tag: str) -> None:
        if tag == "p":
            self._inside = False
        elif tag == "sub":
            self.texts[-1] += "]"

    def handle_data(self, data: str) -> None:
        if self._inside:
            self.texts[-1] += data


class Categories(ProgramTest):
    def setUp(self) -> None:
        super().setUp()
        self.write("d.toml", DICTIONARY)
        for name, text in TEXTS.items():
            self.write(f"huts/{name}.txt", text)

    def counts(self, *arguments: object) -> dict[str, dict[str, str]]:
        run = self.succeeds("categories", "huts", "--dictionary", "d.toml", "--scale", "count", *arguments)
        return {row["document"].removesuffix(".txt"): row for row in run.rows()}

    def test_by_hand(self) -> None:
        rows = self.counts()
        for name, (tokens, covered, *numbers) in COUNTS.items():
            with self.subTest(name):
                row = rows[name]
                self.assertEqual(int(row["tokens"]), tokens)
                self.assertEqual(row["matched_percent"], str(100 * covered / tokens) if tokens else "")
                shown = [row[one] for one in ("weather", "weather/snow", "animals", "way", "trouble")]
                self.assertEqual(shown, [str(number) for number in numbers])
        weighted = self.succeeds("categories", "huts", "--dictionary", "d.toml", "--scale", "weighted").rows()
        self.assertEqual([row["weather"] for row in weighted], ["1.0", "3.0", "", ""])

    def test_words_documents_and_order_agree(self) -> None:
        outputs = ("--words", "w.csv", "--in-order", "o.csv", "--by-group", "g.csv")
        rows = self.counts(*outputs)
        words = self.table("w.csv")
        for group in "AB":
            for name in ("weather", "weather/snow", "animals", "way"):
                of_documents = sum(int(row[name]) for row in rows.values() if row["group"] == group)
                of_words = sum(int(row["freq"]) for row in words if row["group"] == group and row[name] == "1")
                self.assertEqual(of_words, of_documents, (group, name))
        found = {(row["term"], row["weather/snow"], row["animals"]): int(row["freq"]) for row in words}
        self.assertEqual(found["fresh snow", "1", "0"], 1)
        self.assertEqual(found["snow goose", "0", "1"], 1)
        self.assertEqual(found["snow", "1", "0"], 1)
        self.assertNotIn("goose", {row["term"] for row in words}, "it is counted with its place")
        order = self.table("o.csv")
        self.assertEqual(len(order), sum(tokens for tokens, *_ in COUNTS.values()))
        for name, (_, covered, *_) in COUNTS.items():
            here = [row for row in order if row["document"] == f"{name}.txt"]
            self.assertEqual([int(row["position"]) for row in here], list(range(1, len(here) + 1)))
            self.assertEqual(sum(bool(row["categories"]) for row in here), covered)
        self.assertEqual([row["categories"] for row in order if row["token"] == "Fresh"], ["weather; weather/snow"])
        pooled = {(row["group"], row["value"]): row["pooled"] for row in self.table("g.csv")}
        self.assertEqual((pooled["A", "weather"], pooled["A", "trouble"]), ("6.0", "2.0"))

    def test_texts_are_marked(self) -> None:
        self.counts("--marked", "m.html")
        page = _Marks()
        page.feed((self.folder / "m.html").read_text("utf-8"))
        plain = self.succeeds("categories", "huts", "--dictionary", "d.toml", "--marked", "-").out
        wanted = [
            "Storms[A], a white out[A]. A gale!\n\nFresh snow[B]; one snow goose[C]. Snow[B] & fog[A].",
            "Gale[A]. Dogs[C] d\u2019or. A way out of the hut[D], way out[D]!",
            "",
            "Don't go out. <b>White</b> snow-storm, white. Out!",
        ]
        self.assertEqual(page.texts, wanted, "escaped, with the original apostrophe")
        for text in wanted:
            self.assertIn(text, plain)
        self.assertIn("[A] weather 6; [B] weather/snow 2; [C] animals 2; [D] way 2", plain)
        some = self.succeeds("categories", "huts", "--dictionary", "d.toml", "--select", "way", "--marked", "-").out
        self.assertIn("A way out of the hut[A], way out[A]!", some)
        self.assertNotIn("[B]", some)

    def test_nothing_found_is_a_result(self) -> None:
        self.write("none.toml", '[categories]\nsea = ["anchor*", "snwo"]\n')
        run = self.succeeds("categories", "huts", "--dictionary", "none.toml", "--scale", "count", "--chart", "c.png")
        self.assertEqual({row["sea"] for row in run.rows()}, {"0"})
        self.assertIn("note: no entry of the dictionary occurs in these texts (snwo is near snow)", run.err)

    def test_all_rows_and_columns_are_kept(self) -> None:
        self.write("cold.toml", '[categories]\ncold = ["ice", "snow"]\nentry = ["wet"]\n')
        lines = ["id,entry,n,code,tokens", "1,wet snow ice,1.50,007,9", '2,,2,010,"a, b"', ",,,,", "3,ice,3,,"]
        self.write("k.csv", "\n".join([*lines, ""]))
        asked = ("categories", "k.csv", "--text=entry", "--dictionary=cold.toml", "--keep-all")
        run = self.succeeds(*asked, "-o", "all.csv")
        self.assertIn("the result 'tokens' is 'tokens_2' here, 'entry' is 'entry_2' here", run.err)
        saved = (self.folder / "all.csv").read_text("utf-8").splitlines()
        self.assertEqual(len(saved), len(lines), "the rows align")
        for before, after in zip(lines, saved, strict=True):
            self.assertTrue(after.startswith(f"{before},"), "what was given stands there as it was")
        self.assertEqual([row["tokens_2"] for row in self.table("all.csv")], ["3", "", "", "1"])
        columns = json.loads((self.folder / "all.csv-metadata.json").read_text("utf-8"))["tableSchema"]["columns"]
        kinds = {column["name"]: column["datatype"] for column in columns}
        self.assertEqual(
            (kinds["id"], kinds["n"], kinds["code"], kinds["tokens"]), ("integer", "number", "string", "string")
        )
        self.succeeds(*asked[:-1], "-o", "some.json")
        row = json.loads((self.folder / "some.json").read_text("utf-8"))[0]
        self.assertEqual(
            (row["id"], row["n"], row["code"]), (1, 1.5, "007"), "numbers are numbers without --keep-all, too"
        )
        self.succeeds("profile", "k.csv", "--text=entry", "--per-document", "--keep-all", "-o", "p.jsonl")
        rows = [json.loads(line) for line in (self.folder / "p.jsonl").read_text("utf-8").splitlines()]
        self.assertEqual([row["types"] for row in rows], [3, None, None, 1])
        self.each_fails(
            [
                (2, "--keep-all keeps the rows of one table", ".csv", *asked, "k.csv"),
                (2, "--keep-all keeps rows and columns as they are, and --top does not", "leave one out", *asked, "--top=1"),
                (2, "a row here is a group", "--per-document", "profile", "k.csv", "--text=entry", "--keep-all"),
            ]
        )  # fmt: skip

    def test_a_workbook_keeps_numbers_dates_and_formats(self) -> None:
        self.write("cold.toml", '[categories]\ncold = ["ice", "snow"]\n')
        book = openpyxl.Workbook()
        sheet = book.active
        given = [
            ["when", "entry", "share"],
            [datetime.datetime(2018, 5, 3), "snow", 0.25],
            [datetime.datetime(2019, 1, 1), None, 1 / 3],
        ]
        for row in given:
            sheet.append(row)
        for row in (2, 3):
            sheet.cell(row, 1).number_format, sheet.cell(row, 3).number_format = "dd.mm.yyyy", "0.0%"
        book.save(self.folder / "b.xlsx")
        asked = ("categories", "b.xlsx", "--text=entry", "--dictionary=cold.toml", "--keep-all")
        self.succeeds(*asked, "-o", "all.xlsx")
        sheet = openpyxl.load_workbook(self.folder / "all.xlsx").worksheets[0]
        self.assertEqual([[cell.value for cell in row[:3]] for row in sheet.iter_rows()], given)
        self.assertEqual(
            [cell.number_format for cell in list(sheet.iter_rows())[2][:3]], ["dd.mm.yyyy", "General", "0.0%"]
        )
        self.assertEqual([row[5].value for row in sheet.iter_rows(min_row=2)], [100, None])
        self.succeeds(*asked, "-o", "all.parquet")
        frame = pd.read_parquet(self.folder / "all.parquet")
        self.assertEqual((frame["when"].dt.year.tolist(), frame["share"].tolist()), ([2018, 2019], [0.25, 1 / 3]))
        self.succeeds(*asked, "-o", "all.csv")
        self.assertEqual([row["when"] for row in self.table("all.csv")], ["2018-05-03", "2019-01-01"])

    def test_selection(self) -> None:
        for select, wanted in (
            ("weather", ["weather", "weather/snow"]),
            ("weather/snow,way", ["weather/snow", "way"]),
            ("trouble", ["trouble"]),
        ):
            row = self.counts("--select", select)["A/2"]
            self.assertEqual(list(row)[4:], wanted)
        self.assertEqual(self.counts("--select", "way")["A/2"]["matched_percent"], str(100 * 6 / 11))
        # of a score, the words of what it is made of
        row = self.counts("--select", "trouble", "--words", "w.csv", "--marked", "m.html")["A/2"]
        self.assertEqual(row["matched_percent"], str(100 * 7 / 11))
        self.assertEqual(list(self.table("w.csv")[0])[3:], ["weather", "weather/snow", "way"])

    def test_tables_of_entries(self) -> None:
        rows = [
            "Category,Entry,Weight,Case",
            "weather,storm*,,",
            "weather,fog,,no",
            "weather,white out,1,",
            "weather,Gale,3,TRUE",
            "weather / snow,snow,,",
            "weather/snow,fresh snow,,",
            "weather/snow,!snow goose,,",
            "animals,*goose*,,",
            "animals,snow goose,,",
            "animals,dog?,,",
            "way,way out,,",
            "way,out of the hut,,",
        ]
        self.write("d.csv", "\n".join(rows))
        self.write("d.tsv", "\n".join(rows).replace(",", "\t"))
        self.write("s.toml", DICTIONARY.partition("[scores]")[0])
        wanted = [
            self.succeeds("categories", "huts", "--dictionary", "s.toml", "--scale", s).out
            for s in ("count", "weighted")
        ]
        for name in ("d.csv", "d.tsv"):
            found = [
                self.succeeds("categories", "huts", "--dictionary", name, "--scale", s).out
                for s in ("count", "weighted")
            ]
            self.assertEqual(found, wanted)

    def test_parts_of_speech(self) -> None:
        rows = [("leaves", "NOUN"), ("leaves", "VERB"), ("dark", "ADJ"), ("leaves", "NOUN")]
        lines = [f"{n}\t{form}\t_\t{tag}" + "\t_" * 6 for n, (form, tag) in enumerate(rows, 1)]
        self.write("t.conllu", "# sent_id = 1\n" + "\n".join(lines) + "\n\n")
        self.write(
            "t.toml",
            '[categories]\ntree = [{ entry = "leaves", pos = "noun" }]\ngo = [{ entry = "leav*", pos = "VERB" }]\n'
            'pair = [{ entry = "dark leaves", pos = "* NOUN" }]\n',
        )
        row = self.succeeds("categories", "t.conllu", "--dictionary", "t.toml", "--scale", "count").rows()[0]
        self.assertEqual((row["tree"], row["go"], row["pair"]), ("2", "1", "1"))

    def test_what_is_odd_about_a_dictionary(self) -> None:
        self.write(
            "odd.toml",
            '[categories]\nweather = [\n  "storm*", "storms",\n  "snow",\n  "snow", "sn*", "zebra", "!fog", "fog",\n'
            '  "!snow goose", { entry = "stormy", weight = 2 }\n]\nanimals = ["snow", "*o*"]\ntokens = ["x"]\n',
        )
        wanted = {
            ("odd.toml, line 3", "storms"): "storm* (odd.toml, line 3) counts it already",
            ("odd.toml, line 5", "snow"): "stands twice in weather, first in odd.toml, line 4",
            ("odd.toml, line 4", "snow"): "sn* (odd.toml, line 5) counts it already",
            ("odd.toml, line 5", "sn*"): "a star with 2 letters catches words of all kinds",
            ("odd.toml, line 5", "fog"): "an entry and an exception at once (odd.toml, line 5): the exception wins",
            ("odd.toml, line 8", "snow"): "is in weather, too (odd.toml, line 4): it counts for both",
            ("odd.toml, line 8", "*o*"): "a star with 1 letter catches words of all kinds",
            ("odd.toml, line 9", ""): "has the name of a column of the result: rename it",
        }
        run = self.succeeds("categories", "--validate", "odd.toml")
        found = {(row["where"], row["entry"]): row["finding"] for row in run.rows()}
        self.assertEqual(found.keys(), wanted.keys())
        for place, text in wanted.items():
            self.assertIn(text, found[place])
        self.assertIn("13 entries in 3 categories: 8 are odd", run.err)
        rows = self.succeeds("categories", "--validate", "odd.toml", "huts").rows()
        hits = {(row["category"], row["entry"]): row["hits"] for row in rows if row["category"] == "weather"}
        expected = {
            "storm*": 0,
            "storms": 1,
            "sn*": 1,
            "zebra": 0,
            "!fog": 1,
            "fog": 0,
            "!snow goose": 1,
            "stormy": 0,
        }
        for entry, number in expected.items():
            self.assertEqual(hits["weather", entry], str(number), entry)
        self.assertEqual(
            sum(int(row["hits"]) for row in rows if row["entry"] == "snow" and row["category"] == "weather"), 2
        )
        self.assertTrue(any(row["finding"].startswith("no hit: no word fits zebra") for row in rows))
        missed = [row["entry"] for row in rows if row["finding"] == "counted by no category"]
        self.assertEqual(missed[0], "a")
        self.assertNotIn("snow", missed)
        self.fails(
            1,
            "odd.toml, line 9: tokens: has the name",
            "--strict",
            "categories",
            "--validate",
            "odd.toml",
            "--strict",
        )
        clean = self.succeeds("categories", "--validate", "d.toml", "--strict")
        self.assertIn("none is odd", clean.err)

    def test_names_that_differ_in_case_only(self) -> None:
        self.write("one.toml", '[categories]\nWeather = ["snow"]\nfire = ["stove"]\n')
        self.write("two.toml", '[categories]\nweather = ["fog"]\n')
        rules = '[corpus]\ninput = ["huts"]\n[corpus.fields.kind]\nsource = "file"\nrules = [{ match = "a*", value = "Hut" }, '
        self.write("case.toml", rules + '{ match = "b*", value = "hut" }]\n')
        self.write("regex.toml", rules + '{ pattern = "(", value = "x" }]\n')
        self.each_fails(
            [
                (1, "two.toml, line 2: the name 'weather' differs in case only from 'Weather' (one.toml, line 2)", "two names", "categories", "huts", "--dictionary=one.toml", "--dictionary=two.toml"),
                (1, "the values 'Hut' and 'hut' differ in case only", "value of fields", "freq", "--study", "case.toml"),
                (1, "pattern '(' is not a valid regular expression", "value of fields", "freq", "--study", "regex.toml"),
            ]
        )  # fmt: skip

    def test_wrong_dictionaries(self) -> None:
        wrong = {
            'title = "x"\n': ("wrong.toml: there are no categories", "[categories]"),
            "[categories]\n": ("wrong.toml: there are no categories", "[categories]"),
            '[categories]\nw = "snow"\n': ("line 2: category 'w' is not a list", "write w = ["),
            '[categories]\n\nw = []\n': ("line 3: category 'w' has no entries", "add entries"),
            '[categories.w]\nb = ["x"]\n': ("line 1: category 'w' is a table, not a list", '"w/b" = [...]'),
            '[categories]\n"w/" = ["x"]\n': ("line 2: category 'w/': a name is missing", "parent/child"),
            '[categories]\nw = ["x", 3]\n': ("line 2: category 'w': 3 is not an entry", "weight = 2"),
            '[categories]\nw = [\n  "x",\n  "",\n]\n': ("line 4: category 'w', entry '' has no word in it", "or remove it"),
            '[categories]\nw = [\n  "x",\n  "...",\n]\n': ("line 4: the entry '...' is punctuation, and categories drops it", "--punctuation keep"),
            '[categories]\nw = ["*"]\n': ("the entry * alone would count every word", "add letters to it"),
            '[categories]\nw = ["!!x"]\n': ("begins with two exclamation marks", "one of them"),
            '[categories]\nw = [\n{ entry = "x", wight = 2 }]\n': ("line 3: category 'w', entry 'x' has an unknown key 'wight'; did you mean 'weight'?", "known keys"),
            '[categories]\nw = [{ entry = "x", weight = "2" }]\n': ("weight is '2'", "write a number"),
            '[categories]\nw = [{ entry = "x", case = 1 }]\n': ("case is 1", "true or false"),
            '[categories]\nw = [{ entry = "two words", pos = "NOUN" }]\n': ("pos has 1 tags for 2 words", "a tag for each"),
            '[catgories]\nw = ["x"]\n': ("line 1: unknown key 'catgories'; did you mean 'categories'?", "[scores]"),
            '[categories]\ntokens = ["x"]\n': ("line 2: a category is named 'tokens'", "another name"),
            '[categories]\nweather = ["x"]\n[scores]\ns = "{weathr} + 1"\n': ("line 4: score 's': there is no category 'weathr'; did you mean 'weather'?", "they are weather"),
            '[categories]\nw = ["x"]\n[scores]\ns = "w + 1"\n': ("the formula 'w + 1' names no category", "{category}"),
            '[categories]\nw = ["x"]\n[scores]\ns = "{w} ** 2"\n': ("'{w} ** 2' is not a formula", "+ - * /"),
            '[categories]\nw = ["x"]\n[scores]\ns = "abs({w})"\n': ("is not a formula", "+ - * /"),
            '[categories]\nw = ["x"]\n[scores]\nw = "{w}"\n': ("line 4: score 'w' has the name of a category", "another name"),
            '[categories]\nw = ["x", "y"\n': ("end of document: unclosed array", "fix the TOML"),
        }  # fmt: skip
        self.write("marks.toml", '[categories]\nw = ["x", ";", "!"]\n')
        self.write("m.txt", "x; x! ; y")
        kept = ("m.txt", "--dictionary", "marks.toml", "--punctuation", "keep", "--scale", "count")
        self.assertEqual(self.succeeds("categories", *kept, "-o", "m.csv", "--quiet").out, "")
        self.assertTrue((self.folder / "m.csv").read_text("utf-8").endswith(",5\n"))
        self.each_fails(
            [
                (1, "entry ';' is punctuation, and concordance looks at words only", "categories and contrast", "concordance", *kept[:5]),
                (2, "'w' counts punctuation (;, !), of which no lines are made", "--marked", "concordance", "--from", "m.csv", "--row", "1", "--select", "w"),
            ]
        )  # fmt: skip
        tables = {
            "category,entri,note\nw,x,y\n": ("which column holds the entries?", "--entry-column"),
            "category,entry,wieght\nw,x,2\n": ("a column 'wieght'; did you mean 'weight'?", "fix its name"),
            "category,entry\nw,snow\nw,\n": ("row 3: the entry is empty", "fill it in"),
            "category,entry,weight\nw,snow,heavy\n": ("row 2: weight is 'heavy'", "a number"),
            "category,entry,case\nw,snow,maybe\n": ("row 2: case is 'maybe'", "true or false"),
            "category,entry\n": ("has no entries", "one row per entry"),
        }
        each = []
        for number, (content, (what, remedy)) in enumerate({**wrong, **tables}.items()):
            name = f"wrong{number}/wrong.{'toml' if content in wrong else 'csv'}"
            self.write(name, content)
            each.append((1, what, remedy, "categories", "huts", "--dictionary", name, "-o", "c.csv"))
        each.append((1, "--select: there is no category 'wether'; did you mean 'weather'?", "they are", "categories", "huts", "--dictionary", "d.toml", "--select", "wether"))  # fmt: skip
        each.append(
            (
                2,
                "--words: no output format",
                ".csv",
                "categories",
                "huts",
                "--dictionary",
                "d.toml",
                "--words",
                "w.pdf",
            )
        )
        self.each_fails(each)


if __name__ == "__main__":
    unittest.main()
