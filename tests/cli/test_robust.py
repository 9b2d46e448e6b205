"""What is read can neither break the program nor run in it: damaged, odd and hostile files, and made-up cases."""

import contextlib
import gzip
import json
import os
import random
import re
import shutil
import sys
import tempfile
import time
import unittest
import zipfile
from collections.abc import Callable
from pathlib import Path
from unittest import mock

import pyarrow
from pyarrow import parquet

from millstone.core.base import patterns
from millstone.core.base.errors import DataError
from millstone.core.base.wildcards import wildcard_test
from millstone.core.corpus.cleaning import Cleaned, clean, find_broken, find_cuts
from millstone.core.corpus.corpus import Document
from millstone.core.settings.inputs import InputOptions
from millstone.core.settings.preparation import Preparation
from millstone.texts.inputs.documents.conllu import read_conllu
from millstone.texts.inputs.provenance import Provenance
from tests.cli.corpus_files import write_tables, write_texts
from tests.cli.program import ProgramTest

ROOT = Path(__file__).parents[2]
sys.path.insert(0, str(ROOT / "tools"))
import fuzz  # noqa: E402

CASES, SEED = 500, 755355
STUDY = '[corpus]\ninput = ["one.txt"]\n[prepare]\nmin_tokens = {}\n[[step]]\ncommand = "freq"\n'


class Damaged(ProgramTest):
    def setUp(self):
        super().setUp()
        self.write("one.txt", "The rope froze. The rope held.\n")

    def test_files_that_libraries_choke_on(self):
        write_tables(self.folder)
        write_texts(self.folder)
        broken = gzip.compress(b"ice and snow " * 500)
        self.write("cut.txt.gz", broken[:30] + b"\xff" * 20 + broken[50:])
        parquet = (self.folder / "book.parquet").read_bytes()
        self.write("bad.parquet", parquet[:60] + b"\x00\xff" * 40 + parquet[140:])
        for name, source in (
            ("bad.docx", "docx/Ostrel/one.docx"),
            ("bad.odt", "odt/Ostrel/one.odt"),
            ("bad.xlsx", "book.xlsx"),
        ):
            data = bytearray((self.folder / source).read_bytes())
            with zipfile.ZipFile(self.folder / source) as archive:
                part = next(
                    one
                    for one in archive.infolist()
                    if one.filename in ("word/document.xml", "content.xml", "xl/worksheets/sheet1.xml")
                )
            at = part.header_offset + 80
            data[at : at + 40] = b"\x55" * 40
            self.write(name, bytes(data))
        self.write("lies.docx", self.lying((self.folder / "docx/Ostrel/one.docx").read_bytes()))
        self.write("deep.jsonl", '{"a":' * 50_000 + "1" + "}" * 50_000 + "\n")
        self.each_fails(
            [
                (1, f"{name}", remedy, "freq", name, "--text", "entry")
                for name, remedy in (
                    *(
                        ("cut.txt.gz", "damaged"),
                        ("bad.parquet", ""),
                        ("bad.docx", "save it again"),
                        ("bad.odt", "save it again"),
                        ("lies.docx", "save it again"),
                    ),
                    *(("bad.xlsx", "save it again"), ("deep.jsonl", "")),
                )
            ]
        )

    def lying(self, archive: bytes) -> bytes:
        """An archive that says of its parts that they are of ten bytes."""
        data = bytearray(archive)
        for sign, offset in ((b"PK\x03\x04", 22), (b"PK\x01\x02", 24)):
            at = data.find(sign)
            while at >= 0:
                data[at + offset : at + offset + 4] = (10).to_bytes(4, "little")
                at = data.find(sign, at + 4)
        return bytes(data)

    def test_what_unfolds_to_more_than_any_text(self):
        column = pyarrow.DictionaryArray.from_arrays(pyarrow.array([0] * 9000, pyarrow.int32()), ["snow " * 10_000])
        parquet.write_table(pyarrow.table({"term": column, "n": [1] * 9000}), self.folder / "fold.parquet")
        self.each_fails(
            [
                (1, "fold.parquet unpacks to more than 200 times", "unpack it yourself", "freq", "fold.parquet", "--text", "term"),
                (1, "fold.parquet is not a result of millstone", "", "chart", "fold.parquet"),
            ]
        )  # fmt: skip

    def test_rows_and_documents_are_counted_while_they_are_read(self):
        write_tables(self.folder)
        with zipfile.ZipFile(self.folder / "book.xlsx") as book:
            parts = {one.filename: book.read(one) for one in book.infolist()}
        sheet = "xl/worksheets/sheet1.xml"
        for name, row in (
            ("far", '<row r="999999999"><c r="A999999999"><v>1</v></c></row>'),
            ("wide", '<row><c r="XFD1"><v>1</v></c></row>' * 5000),
        ):
            with zipfile.ZipFile(self.folder / f"{name}.xlsx", "w", zipfile.ZIP_DEFLATED) as book:
                for part, content in parts.items():
                    more = row.encode() if part == sheet else b""
                    book.writestr(part, content.replace(b"</sheetData>", more + b"</sheetData>"))
        # both unpack to less than is too much, and would fill the memory
        parquet.write_table(
            pyarrow.table({"text": pyarrow.nulls(70_000_000, pyarrow.string())}), self.folder / "n.parquet"
        )
        self.write("rows.csv.gz", gzip.compress(b"text,hut\n" + b"a b,c\n" * 600_000))
        self.write("twice.jsonl", json.dumps({f"c{n}": 1 for n in range(20_000)}).replace("}", ', "c9": 2}'))
        self.each_fails([
            (1, "far.xlsx: the sheet 'Sheet' has a row after row 1,048,576", "save it again", "freq", "far.xlsx", "--text", "entry"),
            (1, "wide.xlsx, row 9: 16384 cells, but the header has 3", "name the column", "freq", "wide.xlsx", "--text", "entry"),
            (1, "n.parquet unpacks to more than 200 times", "save it as .csv", "freq", "n.parquet", "--text", "text"),
            (1, "more than 534,987 documents: they take about 196 bytes", "allow more with --memory", "freq", "rows.csv.gz", "--text", "text", "--memory", "100M", "--no-cache"),
            (1, "twice.jsonl, line 1: the key 'c9' stands twice", "JSON object", "freq", "twice.jsonl", "--text", "c1"),
        ])  # fmt: skip
        # rows of nothing pass without leaving anything, or being looked at one by one
        self.write("blank.csv", "text,hut\nice,a\n" + ",\n" * 50_000 + " ,a\n" * 50_000 + " , \n" * 1000)
        parquet.write_table(pyarrow.table({"text": ["ice", *[None] * 50_000]}), self.folder / "few.parquet")
        for name, empty in (("blank.csv", "left out 50,000 rows without text"), ("few.parquet", "rows without text")):
            run = self.succeeds("freq", name, "--text", "text")
            self.assertIn("read 1 document, 1 token", run.err)
            self.assertIn(empty, run.err)

    def test_standard_input_is_read_as_a_file_is(self):
        text = "ice and snow\n" * 400_000
        self.write("long.txt", text)
        for command in ("freq", "check"):
            given, named = self.succeeds(command, "-", input=text), self.succeeds(command, "long.txt")
            self.assertEqual(given.out.replace("standard input", "long"), named.out.replace("long.txt", "long"))
        self.fails(1, "standard input is not plain text", "utf-16", "freq", "-", input=text + "a\0b")

    def test_too_many_groups(self):
        self.write("g.csv", "text,g\n" + "".join(f"ice w{n},g{n}\n" for n in range(5100)))
        self.assertEqual(len(self.succeeds("freq", "g.csv", "--text", "text", "--group", "g").rows()), 10_200)
        table = ("g.csv", "--text", "text", "--group", "g")
        self.each_fails(
            [
                (1, "5,100 groups make 5,100 comparisons", "--where", "keyness", *table),
                (1, "make 13,002,450 comparisons", "--where", "contrast", *table, "--values", "tokens"),
                (1, "at most 1,000 groups", "leave --chart out", "freq", *table, "--chart", "c.png"),
            ]
        )

    def test_study_files_and_dictionaries_that_no_one_writes_by_hand(self):
        for number, value in enumerate(
            ("9" * 5000, "9999-99-99", "2020-01-01T00:00:00+99:99", "25:61:61", "1e99999")
        ):
            self.write(f"s{number}.toml", STUDY.format(value))
        self.write("deep.toml", "a = " + "[" * 20_000 + "]" * 20_000)
        self.write("dots.toml", ".".join("a" * 50_000) + " = 1\n")
        self.write("long.toml", "# " + "a" * (17 << 20))
        table = [(1, f"s{number}.toml", "", "run", f"s{number}.toml") for number in range(5)]
        table += [(1, f"{name}.toml", "", "run", f"{name}.toml") for name in ("deep", "dots", "long")]
        table += [(1, "deep.toml", "brackets", "categories", "one.txt", "--dictionary", "deep.toml")]
        self.each_fails(table)

    def test_encodings_homes_and_numbers_that_are_none(self):
        names = ("zlib", "hex", "base64", "rot13", "bz2", "nonsense", "\udcff")
        table = [
            (1, f"{name!r} is not a known encoding", "utf-8", "freq", "one.txt", "--encoding", name) for name in names
        ]
        table += [(1, "~nosuchuser/x", "", "freq", "~nosuchuser/x"), (1, "~nosuchuser", "", "init", "~nosuchuser")]
        self.each_fails(table)
        self.succeeds("check", "one.txt", "--show", 10**15)
        self.write("none.txt", "... !!!\n")
        self.succeeds("profile", "one.txt", "none.txt", "--only", "nothing")
        self.succeeds("contrast", "one.txt", "none.txt", "--values", "mattr,mean_word_length", "--only", "nothing")

    def test_names_and_texts_that_are_not_utf_8_are_written_as_escapes(self):
        self.write("half.jsonl", '{"text": "ice \\ud800 ice", "hut": "x\\udfff"}\n{"text": "snow", "hut": "y"}\n')
        place = os.fsencode(self.folder) + b"/bad\xff"
        os.mkdir(place)  # noqa: PTH102
        shutil.copy(self.folder / "one.txt", os.fsdecode(place + b"/a\xfe.txt"))
        bad = os.fsdecode(b"bad\xff")
        for ending in ("csv", "tsv", "json", "xlsx", "parquet", "html", "md"):
            self.succeeds(
                "freq", "half.jsonl", "--text", "text", "--group", "hut", "-o", f"half.{ending}", "--chart", "h.svg"
            )
            self.succeeds("freq", bad, "-o", f"bad.{ending}", "--force")
        self.assertEqual({row["group"] for row in self.table("half.csv")}, {"x\\udfff", "y"})
        self.assertEqual({row["group"] for row in self.table("bad.csv")}, {"bad\\xff"})
        self.assertEqual(self.notes("bad.csv")["inputs"][0]["path"], "bad\\xff/a\\xfe.txt")
        self.succeeds("concordance", bad, "--find", "rope", "-o", "lines.html")
        self.succeeds("check", bad)
        before = {path.name for path in self.folder.iterdir()}
        run = self.millstone("init", bad, "-o", "s.toml")
        self.check_failure(run, 1, "its name is not in UTF-8", "rename")
        self.assertEqual({path.name for path in self.folder.iterdir()}, before)

    def test_saved_tables_and_companions_that_were_edited(self):
        self.write("b/1.txt", "Snow and rope and rope.\n")
        self.write("a/1.txt", "Ice and the stove.\n")
        self.succeeds("keyness", "a", "b", "-o", "k.csv")
        self.succeeds("network", "a", "b", "--unit", "sentence", "-o", "n.csv")
        good, companion = (
            (self.folder / "k.csv").read_text("utf-8"),
            json.loads((self.folder / "k.csv-metadata.json").read_text("utf-8")),
        )
        head, first, *rest = good.splitlines()
        cells = first.split(",")
        at = head.split(",").index("log_ratio")
        odd = ",".join([*cells[:at], "many", *cells[at + 1 :]])
        self.write("word.csv", "\n".join([head, odd, *rest]))
        self.write("empty.csv", head + "\n")
        self.write("less.csv", "\n".join(line.partition(",")[2] for line in good.splitlines()))
        table = [
            (1, "word.csv, row 1 of data: log_ratio cannot be 'many'", "make the table again", "chart", "word.csv"),
            (1, "there is nothing to draw", "", "chart", "empty.csv"),
            (1, "less.csv is not a result of millstone", "", "chart", "less.csv"),
        ]
        for number, (name, value) in enumerate(
            (
                ("groups", [{"name": "a", "documents": "x", "tokens": 1}]),
                ("groups", [{"name": "a", "documents": -1, "tokens": 1}]),
                ("groups", [{"name": 3, "documents": 1, "tokens": 1}]),
                ("settings", []),
                ("inputs", [{"path": 3}]),
                ("input", [1]),
                ("left_out", {"stop": "x"}),
            )
        ):
            notes = {**companion["notes"][0], name: value}
            self.write(f"c{number}.csv", good)
            self.write(f"c{number}.csv-metadata.json", json.dumps({**companion, "notes": [notes]}))
            table.append(
                (1, f"c{number}.csv-metadata.json cannot be understood", "remove it", "chart", f"c{number}.csv")
            )
        self.write("links.csv", (self.folder / "n.csv").read_text("utf-8").replace("term_a", "term_x"))
        shutil.copy(self.folder / "n.csv-metadata.json", self.folder / "links.csv-metadata.json")
        table.append(
            (
                1,
                "links.csv lacks what names a row of network: the column term_a",
                "again",
                "concordance",
                "--from",
                "links.csv",
                "--row",
                "1",
            )
        )
        self.succeeds("wordtree", "a", "b", "--find", "rope", "-o", "w.csv")
        self.write("tree.csv", (self.folder / "w.csv").read_text("utf-8").replace(",rope,", ",stove,"))
        shutil.copy(self.folder / "w.csv-metadata.json", self.folder / "tree.csv-metadata.json")
        typed = ("concordance", "--from", "tree.csv", "--row", "1")
        table.append((1, "the table has 'stove' in its column node, and was made of rope", "again", *typed))
        self.each_fails(table)

    def test_cells_that_a_spreadsheet_would_run_stay_data_and_are_noted(self):
        self.write("odd.csv", "text\n=1+1 @home -x ice <b>*snow*</b>\n")
        typed = ("freq", "odd.csv", "--text", "text", "--tokens", "spaces")
        run = self.succeeds(*typed, "-o", "f.csv")
        self.assertIn("3 cells of f.csv begin with =, +, - or @", run.err)
        self.assertIn("=1+1", {row["term"] for row in self.table("f.csv")})
        self.assertNotIn("begin with", self.succeeds(*typed, "-o", "f.xlsx").err)
        self.succeeds(*typed, "-o", "f.md")
        self.assertIn(r"\<b\>\*snow\*\</b\>", (self.folder / "f.md").read_text("utf-8"))

    def test_what_is_no_file_and_links_that_go_round(self):
        self.write("folder/a.txt", "ice and snow\n")
        os.mkfifo(self.folder / "folder" / "pipe.txt")
        (self.folder / "folder" / "zero.txt").symlink_to("/dev/zero")
        run = self.succeeds("freq", "folder")
        self.assertEqual([row["term"] for row in run.rows()], ["and", "ice", "snow"])
        self.assertIn("skipped 2 files (not a regular file): pipe.txt, zero.txt", run.err)
        self.write("round/x0/t.txt", "ice\n")
        for number in range(22):
            place = self.folder / "round" / f"x{number + 1}"
            place.mkdir()
            for name in ("one", "other"):
                (place / name).symlink_to(f"../x{number}")
        self.assertEqual([row["freq"] for row in self.succeeds("freq", "round/x22").rows()], ["1"])
        self.fails(1, "folder/pipe.txt is not a regular file", "a pipe is read as -", "freq", "folder/pipe.txt")
        given = self.succeeds("freq", "/dev/stdin", input="snow\n")
        self.assertEqual([row["term"] for row in given.rows()], ["snow"])

    def test_nothing_that_is_read_does_anything_on_a_terminal(self):
        evil = "".join(map(chr, (27, 93, 56, 59, 59, 120, 7, 27, 91, 51, 49, 109, 0x9B, 0x202E, 8, 127)))
        self.write("evil.csv", f'name,hut,text\n"n{evil}","h{evil}","ice{evil}ice snow rope"\nb,k,ice rope\n')
        self.write("d.toml", '[categories]\n"c\\u001b[31m" = ["ice"]\n')
        self.write(f"dir/g{evil[:1]}[31m/a.txt", "ice and snow\n")
        table = ("evil.csv", "--text", "text", "--id", "name", "--group", "hut")
        for command in (
            ("freq", *table, "--tokens", "spaces", "--legend"),
            ("keyness", *table, "--tokens", "spaces"),
            ("logodds", *table, "--tokens", "spaces"),
            ("categories", *table, "--dictionary", "d.toml"),
            ("categories", *table, "--dictionary", "d.toml", "--marked", "-"),
            ("concordance", *table, "--find", "ice"),
            ("wordtree", *table, "--find", "ice"),
            ("profile", *table),
            ("check", *table),
            ("check", *table, "--show", "3"),
            ("freq", "dir"),
            ("freq", "dir", "--stop", f"x{evil}/y.txt"),
            ("freq", *table, f"--where=name = {evil}{'z' * 300}"),
        ):
            with self.subTest(command):
                lines, said = self.on_a_terminal(100, *command)
                shown = re.sub(r"\x1b\[[\d;]*m", "", "\n".join(lines))
                for text in (shown, said):
                    self.assertEqual(re.findall("[\x00-\x08\x0b-\x1f\x7f-\x9f\u202a-\u202e]", text), [], text[:500])
                    self.assertNotIn("\x1b]8", text)
                self.assertTrue(all(len(word) <= 90 for word in said.split()))

    def test_expressions_that_try_for_ever_end(self):
        for option, text in (("--cut", "a" * 40 + "b"), ("--where", "a" * 40 + "b")):
            with (
                mock.patch.object(patterns, "SECONDS", 0.2),
                self.assertRaisesRegex(DataError, f"{option}: .* takes more") as caught,
            ):
                patterns.Pattern(option, "(?:a|aa)+$").search(text, "document 7")
            self.assertIn("on document 7", caught.exception.what)
        # many short texts take as long as a single one
        with (
            mock.patch.object(patterns, "SECONDS", 0.2),
            self.assertRaisesRegex(DataError, "the last of them on row"),
        ):
            several = patterns.Pattern("--cut", "(?:a|aa)+$")
            for row in range(10_000):
                several.search("a" * 18 + "b", f"row {row}")
        deep = "(" * 1000 + "a" + ")" * 1000
        fields = '[corpus.fields.k]\nsource = "document"\nrules = [{pattern = "%s", value = "x"}]\n'
        self.write("s.toml", STUDY.format(0).replace("[prepare]", fields % deep + "[prepare]"))
        self.each_fails([
            *((2, "is too deeply nested", "--help", "freq", "one.txt", option, f"{before}{deep}") for option, before in (
                ("--cut", "pattern:"), ("--tokens", "pattern:"), ("--path-pattern", ""), ("--where", "document ~ "))),
            (1, "s.toml, line 3, column 1, [corpus]: fields k: pattern", "fix the value", "run", "s.toml"),
        ])  # fmt: skip
        own = patterns.Pattern("--tokens", "[a-z]+")
        self.assertEqual(own.spans("ab 3 c"), [(0, 2), (5, 6)])
        self.assertEqual(own.replaced(lambda found: found[0].upper(), "ab 3"), "AB 3")


class Slow(unittest.TestCase):
    """Our patterns take twice as long for twice as much, and find what they found."""

    def test_markup_is_cut_as_one_expression_would(self):
        chance = random.Random(5)
        whole = re.compile(r"<!--.*?-->|</?[a-zA-Z][^<>]{0,2000}>|<[!?][^<>]{0,2000}>", re.DOTALL)
        for _ in range(3000):
            text = "".join(
                chance.choices(("<!--", "-->", "<b>", "</b>", "a", " ", "<", ">", "!", "--", "<!x>", "\n"), k=14)
            )
            document = Document("1", "g", text)
            (cut,) = clean(lambda one=document: iter([one]), Preparation(cut=("markup",)), Cleaned())
            self.assertEqual(cut.text, whole.sub(" ", text))

    def test_words_broken_at_line_ends_and_links_are_found_as_plain_expressions_would(self):
        chance = random.Random(3)
        broken = re.compile(r"(\w+)([-\u2010\u00ad])[ \t]*(?:\r\n|[\n\r\x85\u2028])[ \t]*(\f?)\s*?(\w+)")
        link = re.compile(r"(?:\b[a-z][a-z0-9+.-]*://|\bwww\.)[^\s<>\"]*[^\s<>\".,;:!?)\]}'…»”’]", re.IGNORECASE)
        signs = (
            "a",
            "B",
            "é",
            "-",
            "\u2010",
            "\xad",
            " ",
            "\t",
            "\n",
            "\r\n",
            "\x85",
            "\f",
            "_",
            "中",
            "://",
            "www.",
            "<",
        )
        for _ in range(4000):
            text = "".join(chance.choices(signs, k=16))
            self.assertEqual(
                find_broken(text), sum(found[4][0].islower() for found in broken.finditer(text)), repr(text)
            )
            self.assertEqual(find_cuts(text, "links"), len(link.findall(text)), repr(text))

    def test_stars_fit_as_one_expression_would(self):
        chance = random.Random(4)
        for _ in range(6000):
            pattern, word = "".join(chance.choices("ab*?", k=6)), "".join(chance.choices("ab_", k=8))
            plain = "".join({"*": ".*", "?": r"[^\W_]"}.get(sign, sign) for sign in pattern)
            fits = re.fullmatch(plain, word) is not None
            self.assertEqual(wildcard_test(pattern)(word), fits, (pattern, word))

    def test_twice_as_much_takes_about_twice_as_long(self):
        cuts = {what: Preparation(cut=(what,)) for what in ("markup", "links", "mentions", "hashtags")}
        mends = {what: Preparation(mend=(what,)) for what in ("hyphens", "entities")}

        def cleaned(how: Preparation) -> Callable[[str], object]:
            return lambda text: list(clean(lambda: iter([Document("1", "g", text)]), how, Cleaned()))

        def conllu(text: str) -> object:
            path = self.enterContext(tempfile.NamedTemporaryFile(suffix=".conllu"))
            path.write(text.encode())
            path.flush()
            return list(read_conllu(Path(path.name), "x", InputOptions(), Provenance()))

        table = [
            ("comments in markup", lambda size: "<!--" * size, cleaned(cuts["markup"])),
            ("links", lambda size: "a-" * size + "://", cleaned(cuts["links"])),
            ("dots", lambda size: "www.!" * size, cleaned(cuts["links"])),
            ("mentions", lambda size: "@a-" * size, cleaned(cuts["mentions"])),
            ("entities", lambda size: "&a" * size, cleaned(mends["entities"])),
            ("base64", lambda size: "ABcd01" * size + "-\nx", cleaned(mends["hyphens"])),
            ("no spaces", lambda size: "中" * size + "\n-\nab", cleaned(mends["hyphens"])),
            ("blanks", lambda size: "a-\n" + " " * size, cleaned(mends["hyphens"])),
            ("broken", lambda size: "".join(f"ab{n}-\ncd " for n in range(size // 4)), cleaned(mends["hyphens"])),
            ("comments of words", lambda size: "# a" + " " * size + "x\n", conllu),
            ("stars", lambda size: "a" * size, wildcard_test("*a" * 9 + "b")),
        ]
        for name, made, use in table:

            def seconds(size: int, made: Callable = made, use: Callable = use) -> float:
                text = made(size)
                start = time.process_time()
                use(text)
                return time.process_time() - start

            with self.subTest(name):
                self.assertLess(
                    seconds(40_000), 8 * seconds(10_000) + 0.2, "its square would be sixteen times as much"
                )


class MadeUp(unittest.TestCase):
    takes_long = True

    @unittest.skipUnless(hasattr(os, "fork"), "no fork here: made-up cases were not run")
    def test_made_up_cases(self):
        # beside the rest of the suite a case may have to wait
        with mock.patch("fuzzing.runner.SECONDS", 90), contextlib.redirect_stdout(sys.stderr):
            found = fuzz.tried(CASES, SEED)
        self.assertEqual(dict(found), {}, f"python tools/fuzz.py --cases {CASES} --seed {SEED}")
