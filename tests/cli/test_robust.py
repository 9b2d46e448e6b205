"""What is read can neither break the program nor run in it: damaged, odd and hostile files, and made-up cases."""

import gzip
import json
import os
import random
import shutil
import sys
import unittest
import zipfile
from pathlib import Path

from tests.cli.corpus_files import write_tables, write_texts
from tests.cli.program import ProgramTest

ROOT = Path(__file__).parents[2]
sys.path.insert(0, str(ROOT / "tools"))
import fuzz  # noqa: E402

CASES = 500
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
                    ),
                    *(("bad.xlsx", "save it again"), ("deep.jsonl", "")),
                )
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
        names = ("zlib", "hex", "base64", "rot13", "bz2", "nonsense")
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
                "links.csv lacks columns of a table of network: term_a",
                "again",
                "concordance",
                "--from",
                "links.csv",
                "--row",
                "1",
            )
        )
        self.each_fails(table)


class MadeUp(unittest.TestCase):
    @unittest.skipUnless(hasattr(os, "fork"), "no fork here: made-up cases were not run")
    def test_made_up_cases(self):
        seed = random.SystemRandom().randrange(10**6)
        found = fuzz.tried(CASES, seed)
        self.assertEqual(dict(found), {}, f"python tools/fuzz.py --cases {CASES} --seed {seed}")
