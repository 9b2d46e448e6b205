"""The same corpus in every format gives the same counts; what each format adds or hides."""

import datetime
import gzip
import unittest
import zipfile

import openpyxl

from tests.cli.corpus_files import counted_by_hand, write_tables, write_texts
from tests.cli.program import ProgramTest, Run

MEND = "--mend=hyphens,entities"
DICTIONARY = '[categories]\nany = ["*e*", "*a*", "*o*"]'


def frequencies(run: Run) -> dict[str, dict[str, int]]:
    """Group -> term -> frequency."""
    found: dict[str, dict[str, int]] = {}
    for row in run.rows():
        found.setdefault(row["group"], {})[row["term"]] = int(row["freq"])
    return found


class Formats(ProgramTest):
    def counts(self, *arguments: object) -> dict[str, dict[str, int]]:
        return frequencies(self.succeeds("freq", *arguments, MEND))

    def test_workbooks_hold_what_xml_cannot_as_signs_and_no_escape_becomes_a_letter(self):
        self.write("t.csv", "hut,text\na\ufffe,ro\x07pe ice\uffff _x0041_ _xD800_ snow\nb_x0041_,snow\n")
        typed = ("t.csv", "--text", "text", "--group", "hut", "--tokens", "spaces", "--case", "keep")
        self.succeeds("freq", *typed, "-o", "f.xlsx")
        self.succeeds("matrix", *typed, "-o", "m.xlsx")
        book = openpyxl.load_workbook(self.folder / "f.xlsx")
        self.assertEqual(book.sheetnames, ["a_", "b_x0041_", "about"])
        held = {cell.value for row in book["a_"].iter_rows() for cell in row}
        self.assertLessEqual({"a\ufffd", "ro\u2407pe", "ice\ufffd", "_x005F_x0041_", "_xD800_"}, held)
        # read back by the program, too
        self.succeeds("freq", "f.xlsx", "--lists", "--sheet", "a_", "--case", "keep", "-o", "again.csv")
        self.assertLessEqual({"_x0041_", "_xD800_", "snow"}, {row["term"] for row in self.table("again.csv")})
        self.succeeds("chart", "f.xlsx", "--chart", "f.svg")

    def test_every_format_gives_the_same_frequencies(self):
        wanted = counted_by_hand()
        endings = write_texts(self.folder)
        for ending, run in zip(endings, self.several([("freq", one, MEND) for one in endings]), strict=True):
            with self.subTest(ending):
                self.assertEqual(frequencies(run), wanted)
        write_tables(self.folder)
        names = sorted(path.name for path in self.folder.glob("*.*") if path.is_file())
        self.assertEqual(len(names), 8)
        runs = self.several([("freq", name, "--text=entry", "--group=hut", MEND) for name in names])
        for name, run in zip(names, runs, strict=True):
            with self.subTest(name):
                self.assertEqual(frequencies(run), wanted)
        self.assertEqual(len({run.out for run in runs}), 1, "docs and dp too, where rows are documents")

    def documents(self, *arguments: object) -> list[dict[str, str]]:
        """The documents with their metadata, as a result table shows them."""
        self.write("d.toml", DICTIONARY)
        return self.succeeds("categories", *arguments, "--dictionary=d.toml", "--scale=count").rows()

    def test_header_fields_become_metadata(self):
        write_texts(self.folder)
        self.assertEqual(self.documents("html")[0]["title"], "Unseen title")
        tei = self.documents("xml")[0]
        self.assertEqual((tei["title"], tei["author"]), ("Unseen", "A. Warden"))
        conllu = self.documents("conllu")[0]
        self.assertEqual((conllu["document"], conllu["warden"]), ("one", "Rhona"))
        self.assertEqual(self.documents("docx")[0]["author"], "python-docx")

    def test_annotation(self):
        words = [
            "1\tThey\tthey\tPRON",
            "2\tdon't\t_\tVERB",
            "2-3\tdon't\t_\t_",
            "3\tleaves\tleaf\tNOUN",
            "4\t.\t.\tPUNCT",
        ]
        self.write("a.conllu", "# sent_id = 1\n" + "".join(f"{line}\t_\t_\t_\t_\t_\t_\n" for line in words) + "\n")
        found = [row["term"] for row in self.succeeds("freq", "a.conllu", "--lemmas=given", "--pos=noun,pron").rows()]
        self.assertEqual(found, ["leaf", "they"])
        found = self.succeeds("freq", "a.conllu", "--lemmas=given").rows()
        self.assertEqual({row["forms"] for row in found}, {"don't: 1", "leaves: 1", "they: 1"})

    def test_pages_and_parts_of_documents(self):
        write_texts(self.folder)
        rows = self.documents("pdf", "--unit=page")
        self.assertEqual([(row["document"], row["part_of"], row["part"]) for row in rows][:2],
                         [("Fallowmere/one.pdf#1", "Fallowmere/one.pdf", "1"), ("Fallowmere/one.pdf#2", "Fallowmere/one.pdf", "2")])  # fmt: skip
        self.assertEqual([row["position"] for row in rows[::2]], ["0.0"] * 3)
        self.assertEqual(len(self.documents("docx", "--unit=paragraph")), 3 * 7)
        run = self.succeeds("check", "txt", "--unit=parts:26", "--min-tokens=26")
        self.assertEqual(
            [(row["group"], row["documents"], row["longest"]) for row in run.rows()],
            [("Fallowmere", "0", "0"), ("Haskgate", "26", "1"), ("Ostrel", "26", "2")],
        )
        self.assertIn("left out 1 document under 26 tokens", run.err)
        self.assertIn(
            "left out 1 document under 26 tokens",
            self.succeeds("freq", "txt", "--unit=parts:26", "--min-tokens=26").err,
        )
        self.assertEqual(
            {row["tokens"] for row in self.documents("txt", "--unit=sentence", "--min-tokens=9")} & set("12345678"),
            set(),
        )
        rows = self.documents("txt", "--unit=parts:4")
        self.assertEqual([row["part"] for row in rows], ["1", "2", "3", "4"] * 3)

    def test_what_a_page_or_an_element_hides(self):
        page = "<html><body><nav>menu</nav><main>Ice<br>axe<p>snow</p></main><footer style='display: none'>foot</footer></body></html>"
        self.write("page.html", page)
        self.assertEqual(self.counts("page.html")["page"], {"axe": 1, "ice": 1, "menu": 1, "snow": 1})
        self.assertEqual(self.counts("page.html", "--no-navigation")["page"], {"axe": 1, "ice": 1, "snow": 1})
        old = "<html><head><meta charset=iso-8859-1></head><body>Café ’ naïve</body></html>"
        self.write("old.html", old.encode("cp1252"))
        self.assertEqual(self.counts("old.html")["old"], {"café": 1, "naïve": 1})
        self.write(
            "x.xml", "<log year='1987'><entry>wet <b>so</b>cks</entry><entry>ice</entry><note>hid</note></log>"
        )
        self.assertEqual(self.counts("x.xml")["x"], {"hid": 1, "ice": 1, "socks": 1, "wet": 1})
        self.assertEqual(self.counts("x.xml", "--xml-element=entry")["x"], {"ice": 1, "socks": 1, "wet": 1})
        self.assertEqual(self.documents("x.xml", "--group=year")[0]["group"], "1987")
        tei = "<TEI xmlns='http://www.tei-c.org/ns/1.0'><text><body><p>the <choice><sic>snwo</sic><corr>snow</corr></choice> fell<pb/></p></body></text></TEI>"
        self.write("c.xml", f"<teiCorpus xmlns='http://www.tei-c.org/ns/1.0'>{tei}{tei}</teiCorpus>")
        rows = self.succeeds("freq", "c.xml").rows()
        self.assertEqual({row["term"]: row["docs"] for row in rows}, {"fell": "2", "snwo": "2", "the": "2"})

    def workbook(self) -> None:
        book = openpyxl.Workbook()
        book.active.title = "cover"
        sheet = book.create_sheet("entries")
        sheet.append(["entry", "when", "share", "no", "year", "nights"])
        sheet.append(["wet snow", datetime.datetime(2018, 5, 3), 0.25, 7, datetime.datetime(2018, 1, 1), 1.5])
        sheet.append(["ice_x000D_", datetime.datetime(2019, 5, 3, 14, 30), 0.5, 12, datetime.datetime(2019, 1, 1), 2])
        sheet["C2"].number_format = sheet["C3"].number_format = "0.0%"
        sheet["D2"].number_format = sheet["D3"].number_format = "0000"
        sheet["E2"].number_format = sheet["E3"].number_format = "yyyy"
        sheet["F2"].number_format = "0.00"
        book.save(self.folder / "b.xlsx")

    def test_workbooks(self):
        self.workbook()
        rows = self.documents("b.xlsx", "--text=A", "--group=year")
        self.assertEqual([(row["document"], row["group"], row["when"], row["share"], row["no"], row["nights"]) for row in rows],
                         [("2", "2018", "2018-05-03", "25.0%", "0007", "1.50"), ("3", "2019", "2019-05-03 14:30:00", "50.0%", "0012", "2")])  # fmt: skip
        run = self.succeeds("freq", "b.xlsx", "--text=entry", "--where=when >= 2019")
        self.assertIn("took the sheet 'entries' of b.xlsx (--sheet names another: cover)", run.err)
        self.assertEqual([row["term"] for row in run.rows()], ["ice"])

    def test_tables_of_other_programs(self):
        text = "The guests of the hut ate soup, and the warden ate soup too."
        table = [
            ("semicolons in cells", "a,b\n1,x;y;z\n2,p;q;r\n", ("--text=b",), {"p", "q", "r", "x", "y", "z"}),
            ("no header", f"1,{text.replace(',', '')}\n2,ice\n", ("--text=B",), {"ice", "guests"}),
            ("other quotation marks", "'id','entry'\n'1','ice, \"axe\"'\n", ("--text=entry",), {"ice", "axe"}),
            ("UTF-16", "\ufeffid\tentry\n1\tice, snœw\n".encode("utf-16-le"), ("--text=entry",), {"ice", "snœw"}),
            ("years as names", "n,words,2016\n1,ice axe,3\n2,snow,4\n", ("--text=words",), {"ice", "axe"}),
            ("years as names, guessed", f"n,words,2016\n1,{text.replace(',', '')},3\n", (), {"guests"}),
            ("a title above", "Guest book\n\nid,entry,n\n1,ice,2\n", ("--text=entry",), {"ice"}),
            ("a bar", "id|entry\n1|ice, axe\n", ("--text=entry",), {"ice", "axe"}),
            ("breaks and control characters in cells", 'id,entry\n1,"ice\n\naxe\x07\x0bsnow"\n', ("--text=entry",), {"ice", "axe", "snow"}),
            ("a nameless column", "id,,entry\n1,x,ice\n", ("--text=entry",), {"ice"}),
            ("short rows", "id,entry,n\n1,ice\n2\n", ("--text=entry",), {"ice"}),
        ]  # fmt: skip
        for name, content, options, expected in table:
            with self.subTest(name):
                self.write("t.csv", content)
                self.assertLessEqual(expected, set(self.counts("t.csv", *options)["t"]))

    def test_a_decimal_comma_goes_in_and_comes_out(self):
        self.write("k.csv", "hut;nights;entry\nOstrel;1,5;ice, snow\nOstrel;3;snow\n")
        run = self.succeeds("freq", "k.csv", "--text=entry", "--decimal-comma", "--where=nights < 2", "-o", "out.csv")
        self.assertIn("left out 1 document that --where excludes", run.err)
        lines = (self.folder / "out.csv").read_text("utf-8").splitlines()
        self.assertEqual(lines[1], "k;1;ice;1;500000,0;1;100,0;;;")
        self.write("k.tsv", "nights\tentry\n1,5\tice; snow\n3\tsnow\n")
        rows = self.succeeds("freq", "k.tsv", "--text=entry", "--decimal-comma", "--where=nights = 1.5").rows()
        self.assertEqual([row["term"] for row in rows], ["ice", "snow"])
        self.succeeds("logodds", "a=k.csv", "b=k.csv", "--text=entry", "--decimal-comma", "-o", "lo.csv")
        self.succeeds("chart", "lo.csv", "--chart", "lo.png")

    def test_fields_from_paths_tables_and_rules(self):
        for name in ("2016_Ostrel", "2017_Ostrel", "2017_Haskgate"):
            self.write(f"logs/{name}.txt", f"ice {name}")
        self.write(
            "meta.csv",
            "file,warden,party\n2016_Ostrel,Rhona,Climbing Club 7\n2017_Ostrel.txt,Wilf,family of 4\n2015_x,No,one\n",
        )
        pattern = "--path-pattern=(?P<year>[0-9]{4})_(?P<hut>[A-Z][a-z]+)"
        rows = self.documents("logs", pattern, "--metadata=meta.csv", "--group=hut")
        self.assertEqual([(row["document"], row["group"], row["year"], row["warden"]) for row in rows],
                         [("2016_Ostrel.txt", "Ostrel", "2016", "Rhona"), ("2017_Haskgate.txt", "Haskgate", "2017", ""), ("2017_Ostrel.txt", "Ostrel", "2017", "Wilf")])  # fmt: skip
        err = self.succeeds("freq", "logs", pattern, "--metadata=meta.csv", "--where=year > 2016").err
        self.assertIn("1 document of the texts has no row in meta.csv: 2017_Haskgate.txt", err)
        self.assertIn("1 row of meta.csv has no document: 2015_x", err)
        self.assertIn("left out 1 document that --where excludes", err)
        self.write(
            "study.toml",
            """
[corpus]
input = ["logs"]
metadata = "meta.csv"
group = "kind"
where = ["party != ''"]
[corpus.fields.kind]
source = "party"
rules = [{ match = "*FAMIL*", value = "family" }, { match = "*club*", value = "club" }]
otherwise = "other"
""",
        )
        run = self.succeeds("freq", "--study=study.toml", "-o", "f.csv")
        self.assertIn("in 2 groups: club 1 (3 tokens); family 1 (3 tokens)", run.err)
        self.assertIn("[corpus.fields.kind]", run.err)
        self.assertEqual(self.notes("f.csv")["settings"]["fields"][0]["source"], "party")

    def test_conditions(self):
        self.write(
            "t.csv",
            "id,entry,n,when,hut\na,ice,9,2018-05-03,Ostrel\nb,axe,10,2018-06-01,\nc,snow,,2019-01-01,Haskgate\n",
        )
        table = (
            ("n > 9", "b"), ("n <= 9.0", "a"), ("n = 9.00", "a"), ("n != 9", "b"), ("n = ''", "c"), ("n=", "c"),
            ("hut != ''", "ac"), ("hut ~ ^Os", "a"), ("when >= 2018-06", "bc"), ("when = 2018", "ab"), ("when < 2018-06-01", "a"),
            ("document != b", "ac"), ("id = b", "b"), ("group = t", "abc"), ("file ~ csv$", "abc"), ("hut > A", "ac"),
        )  # fmt: skip
        self.write("d.toml", DICTIONARY)
        shared = ("categories", "t.csv", "--text=entry", "--id=id", "--dictionary=d.toml", "--where")
        runs = self.several([(*shared, condition) for condition, _ in table])
        for (condition, expected), run in zip(table, runs, strict=True):
            with self.subTest(condition):
                self.assertEqual("".join(row["document"] for row in run.rows()), expected, run.err)

    def test_conditions_that_no_value_can_hold_by_chance(self):
        years = ["2018", "n.d.", "ca. 2017", "2018?", "2016-5-1", "2_018", "Nan", "Inf", "2019", "007", ""]
        self.write("y.csv", "year,t\n" + "".join(f"{year},w{n}\n" for n, year in enumerate(years)))
        table = {
            "year >= 2018": ["2018", "2019"],
            "year <= 2016-05-01": ["2016-5-1"],
            "year = 2016-05-01": ["2016-5-1"],
            "year < 8": ["007"],
            "year = 7": [],
            "year = 007": ["007"],
            "year = 2018.0": ["2018"],
            "year == 2019": ["2019"],
            "year = Nan": ["Nan"],
            "year != 2018": [year for year in years if year not in ("2018", "")],
            "year = ''": [""],
        }
        for condition, kept in table.items():
            with self.subTest(condition):
                run = self.millstone("freq", "y.csv", "--text=t", "--where", condition)
                found = [years[int(row["term"][1:])] for row in run.rows()] if run.code == 0 else []
                self.assertEqual(sorted(found), sorted(kept), run.err)
                if condition == "year >= 2018":
                    self.assertIn("left out 6 documents whose year is not a number, such as 'n.d.'", run.err)
                if "==" in condition:
                    self.assertIn("== is read as =", run.err)
        self.fails(
            1,
            "no document has a field 'yaer'; did you mean 'year'?",
            "the fields are year,",
            "freq",
            "y.csv",
            "--text=t",
            "--where=yaer = 1",
        )
        self.fails(
            1,
            "--where leaves no document",
            "year is 2018, n.d., ca. 2017, 2018?, 2016-5-1 and 5 more",
            "freq",
            "y.csv",
            "--text=t",
            "--where=year = 7",
        )

    def test_folders_that_link_in_circles_and_lie_deep(self):
        deep = "/".join(["d"] * 60)
        self.write(f"huts/Ostrel/{deep}/a b='c'.txt", "ice")
        self.write("huts/Ostrel/1.txt", "snow")
        self.write("elsewhere/2.txt", "rope")
        (self.folder / "huts/Ostrel/back").symlink_to("..", target_is_directory=True)
        (self.folder / "huts/Haskgate").symlink_to("../elsewhere", target_is_directory=True)
        run = self.succeeds("freq", "huts")
        self.assertEqual(
            [(row["group"], row["term"]) for row in run.rows()],
            [("Haskgate", "rope"), ("Ostrel", "ice"), ("Ostrel", "snow")],
        )
        self.assertIn("skipped 1 file (a link back to a folder above it): Ostrel/back", run.err)
        self.assertNotIn("ice", self.succeeds("freq", "huts", "--no-recursive").out)

    def test_sources_that_are_not_what_they_seem(self):
        write_texts(self.folder)
        self.write("bomb.txt.gz", gzip.compress(b"a " * (40 << 20)))
        self.write("cut.txt.gz", gzip.compress(b"ice " * 9999)[:-30])
        self.write("plain.txt.gz", b"ice")
        self.write("old.docx", b"\xd0\xcf\x11\xe0 an older format")
        with zipfile.ZipFile(self.folder / "empty.odt", "w") as archive:
            archive.writestr("mimetype", "x")
        with zipfile.ZipFile(self.folder / "bomb.docx", "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("word/document.xml", b" " * (100 << 20))
        self.write("cut.pdf", (self.folder / "pdf/Ostrel/one.pdf").read_bytes()[:300])
        laughs = '<!DOCTYPE a [<!ENTITY b "ha"><!ENTITY c "&b;&b;"><!ENTITY f SYSTEM "file:///etc/hostname">]>'
        self.write("laugh.xml", f"{laughs}<a>\n&c;</a>")
        self.write("file.xml", f"{laughs}<a>&f;</a>")
        self.write("open.xml", "<a>\n<b></a>")
        self.write("bad.jsonl", '{"entry": "ice"}\n{"entry": ice}\n')
        self.write("list.jsonl", '["ice"]\n')
        self.write("bad.parquet", b"PAR1 ice")
        self.write("bad.xlsx", b"PK ice")
        self.workbook()
        self.write("bad.conllu", "1\tice\tice\n")
        self.write("late.csv", b"entry\nice\n" + b"x\n" * 70_000 + "süß\n".encode("cp1252"))
        self.write("wide.csv", "id,entry\n1,ice\n".encode("utf-16-le"))
        self.write("two.csv", "file,x\none,1\none,2\n")
        self.write("none.csv", "file,x\nzzz,1\n")
        self.write("t.csv", "id,entry,hut\n1,ice,\n")
        table = [
            ("bomb.txt.gz unpacks to more than 200 times its", "unpack it yourself", "bomb.txt.gz"),
            ("cut.txt.gz is cut off in the middle", "compress it again", "cut.txt.gz"),
            ("plain.txt.gz is not a gzip file", "remove .gz from its name", "plain.txt.gz"),
            ("old.docx is not a valid DOCX file", "save it again as DOCX", "old.docx"),
            ("empty.odt is not a valid ODT file: its part content.xml", "save it again as ODT", "empty.odt"),
            ("bomb.docx unpacks to more than 200 times", "if you trust it", "bomb.docx"),
            ("cut.pdf is not a PDF that can be read", "print it again as a PDF", "cut.pdf"),
            ("laugh.xml, line 2: the entity &c; is not expanded", "replace it by its text", "laugh.xml"),
            ("file.xml, line 1: the entity &f; is not expanded", "replace it by its text", "file.xml"),
            ("open.xml, line 2, column 8: opening and ending tag mismatch", "fix the XML", "open.xml"),
            ("xml has no element 'w'", "name one of its elements: ", "xml/Ostrel/one.xml", "--xml-element=w"),
            ("bad.jsonl, line 2: expecting value", "one JSON object", "bad.jsonl", "--text=entry"),
            ("list.jsonl, line 1: not an object, but list", "one JSON object", "list.jsonl", "--text=entry"),
            ("bad.parquet is not a Parquet file", "as .csv", "bad.parquet", "--text=entry"),
            ("bad.xlsx is not a valid XLSX file", "save it again as XLSX", "bad.xlsx", "--text=entry"),
            ("b.xlsx has no sheet 'entrys'; did you mean 'entries'?", "cover, entries", "b.xlsx", "--sheet=entrys", "--text=A"),
            ("b.xlsx has no column 'Z'", "--text", "b.xlsx", "--text=Z"),
            ("bad.conllu, line 1: 3 columns, where CoNLL-U has 10", "tabs", "bad.conllu"),
            ("late.csv is not UTF-8: byte 0xFC at offset 140,011, line 70,003", "--encoding cp1252", "late.csv", "--text=entry"),
            ("wide.csv is not plain text: there is a zero", "utf-16-le", "wide.csv", "--text=entry"),
            ("two.csv, row 3: 'one' is in the column 'file' twice", "one row", "txt", "--metadata=two.csv"),
            ("none.csv: its column 'file' names no document", "--id", "txt", "--metadata=none.csv"),
            ("--path-pattern (?P<y>zzz): no path of the input fits it", "/ between", "txt", "--path-pattern=(?P<y>zzz)"),
            ("no document has a field 'hat'; did you mean 'hut'?", "hut, ", "t.csv", "--text=entry", "--where=hat = 1"),
            ("--where leaves no document of 1 document", "loosen", "t.csv", "--text=entry", "--where=hut = x"),
            ("t.csv, row 2: the group column 'hut' is empty", "--where \"hut != ''\"", "t.csv", "--text=entry", "--group=hut"),
            *(
                ("--min-tokens 999 leaves no document", "smaller number", "txt", f"--unit={unit}", "--min-tokens=999")
                for unit in ("parts:2", "words:5", "sentence")
            ),
            ("one.txt in group Fallowmere has 24 tokens, too few for 99 parts", "--min-tokens 99", "txt", "--unit=parts:99"),
            ("annotated texts cannot be cut by the unit page", "--unit sentence", "conllu", "--unit=page"),
        ]  # fmt: skip
        self.each_fails([(1, what, remedy, "freq", *arguments) for what, remedy, *arguments in table])
        self.write("scan.pdf", _blank_pdf())
        self.fails(1, "there are no words in scan.pdf", "text recognition (OCR)", "freq", "scan.pdf")


def _blank_pdf() -> bytes:
    from fpdf import FPDF

    pdf = FPDF()
    pdf.add_page()
    pdf.rect(10, 10, 50, 50)
    return bytes(pdf.output())


if __name__ == "__main__":
    unittest.main()
