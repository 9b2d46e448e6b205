"""What goes in: folders, files, tables, names, encodings; and the messages about bad input."""

import codecs
import unittest

from tests.cli.program import ProgramTest

TABLE = 'id,hut,entry,nights\n1,Ostrel,"Rope, ice",2\n2,Haskgate,"said ""no""\nand left",1\n3,Ostrel,,3\n4,Haskgate,wet,\n'


class Inputs(ProgramTest):
    def groups(self, *arguments: object, **settings: object) -> dict[str, dict[str, str]]:
        """Group -> term -> frequency."""
        found: dict[str, dict[str, str]] = {}
        for row in self.succeeds("freq", *arguments, "--quiet", **settings).rows():
            found.setdefault(row["group"], {})[row["term"]] = row["freq"]
        return found

    def test_groups_of_a_folder_are_its_subfolders(self):
        self.three_huts()
        self.write("huts/lone.txt", "lone")
        self.write("huts/Ostrel/deep/er/3.txt", "deep")
        self.write("huts/Ostrel/.hidden.txt", "hidden")
        self.write("huts/Ostrel/cover.jpg", b"\xff\xd8")
        run = self.succeeds("freq", "huts")
        terms = {(row["group"], row["term"]) for row in run.rows()}
        self.assertEqual({group for group, _ in terms}, {"Ostrel", "Fallowmere", "Haskgate", "huts"})
        self.assertIn(("Ostrel", "deep"), terms)
        self.assertIn(("huts", "lone"), terms)
        self.assertNotIn("hidden", run.out)
        self.assertIn("skipped 2 files that are not text: Ostrel/.hidden.txt, Ostrel/cover.jpg", run.err)

    def test_other_ways_to_name_groups(self):
        self.three_huts()
        self.write("odd=name.txt", "odd")
        self.write("a b/2.txt", "two")
        cases = [
            (("huts/Ostrel/1.txt", "huts/Ostrel/2.txt"), ["1", "2"]),
            (("late=huts/Ostrel/2.txt", "early=huts/Ostrel/1.txt", "late=huts/Haskgate"), ["late", "early"]),
            (("odd=name.txt",), ["odd=name"]),
            (("a b",), ["a b"]),
            (("huts", "--group", "file"), ["1", "2"]),
            (("huts/Ostrel/1.txt", "--group", "folder"), ["Ostrel"]),
            (("huts", "--order", "Ostrel,Fallowmere"), ["Ostrel", "Fallowmere", "Haskgate"]),
            (("huts/*/1.txt", "--group=folder"), ["Fallowmere", "Haskgate", "Ostrel"]),
        ]
        for arguments, expected in cases:
            with self.subTest(arguments):
                self.assertEqual(list(self.groups(*arguments)), expected)

    def test_tables(self):
        self.write("book.csv", TABLE)
        self.write("book.tsv", TABLE.replace(",", "\t").replace("Rope\t ice", "Rope, ice"))
        self.write(
            "semicolon.csv",
            "\ufeff" + TABLE.replace(",", ";").replace("Rope; ice", "Rope, ice").replace("\n", "\r\n"),
        )
        expected = {
            "Haskgate": {"and": "1", "left": "1", "no": "1", "said": "1", "wet": "1"},
            "Ostrel": {"ice": "1", "rope": "1"},
        }
        for name in ("book.csv", "book.tsv", "semicolon.csv"):
            with self.subTest(name):
                self.assertEqual(self.groups(name, "--text", "entry", "--group", "hut"), expected)
        self.assertEqual(list(self.groups("book.csv", "--text", "entry")), ["book"])
        self.assertEqual(list(self.groups("all=book.csv", "--text", "entry", "--group", "hut")), ["all"])
        run = self.succeeds("freq", "book.csv", "--text", "entry")
        self.assertIn("left out 1 row without text", run.err)

    def test_tables_in_a_folder_are_read_when_they_have_the_column(self):
        self.three_huts()
        self.write("huts/Ostrel/book.csv", TABLE)
        self.write("huts/Ostrel/other.csv", "a,b\n1,2\n")
        run = self.succeeds("freq", "huts", "--text", "entry")
        self.assertIn("Ostrel 5 (16 tokens)", run.err)
        self.assertIn("skipped 1 file (a table without the column entry): Ostrel/other.csv", run.err)
        self.assertIn("skipped 2 files", self.succeeds("freq", "huts").err)

    def test_the_column_that_names_documents_may_make_the_groups(self):
        self.write("book.csv", TABLE)
        groups = self.groups("book.csv", "--text", "entry", "--id", "id", "--group", "id")
        self.assertEqual({group: len(terms) for group, terms in groups.items()}, {"1": 2, "2": 4, "4": 1})

    def test_a_file_is_read_once_for_a_group(self):
        self.write("huts/A/1.txt", "ice ice")
        self.write("huts/B/2.txt", "snow")
        (self.folder / "huts/A/l.txt").symlink_to("1.txt")
        (self.folder / "huts/B/h.txt").hardlink_to(self.folder / "huts/A/1.txt")
        run = self.succeeds("freq", "huts", "huts/A", "A=huts/A/*.txt", "--columns", "group,term,freq")
        self.assertEqual(
            [tuple(row.values()) for row in run.rows()], [("A", "ice", "2"), ("B", "ice", "2"), ("B", "snow", "1")]
        )
        self.assertRegex(
            run.err, "note: named more than once, read once in its group: huts/A/l.txt, .* and 2 more|huts/A/l.txt"
        )
        self.assertIn("one file in several groups (A, B), read for each: huts/B/h.txt", run.err)
        self.succeeds("freq", "huts/A", "-o", "l.csv")
        run = self.succeeds("freq", "--lists", "l.csv", "./l.csv")
        self.assertEqual(run.rows()[0]["freq"], "2", "a list is not added to itself")
        self.assertIn("named more than once, read once in its group: l.csv", run.err)

    def test_results_are_never_texts(self):
        self.write("1.txt", "ice")
        first = self.succeeds("freq", ".", "--group", "folder").out
        for name in ("r.md", "r.html", "r.csv", "results/deep.json"):
            (self.folder / name).parent.mkdir(exist_ok=True)
            self.succeeds("freq", ".", "--group", "folder", "-o", name, "--chart", f"{name}.pdf")
        run = self.succeeds("freq", ".", "--group", "folder")
        self.assertEqual(run.out, first)
        self.assertIn("(written by millstone)", run.err)

    def test_tables_that_are_parted_by_other_signs(self):
        rows = [f"{n},{'AB'[n % 2]},rope; ice; snow; word{n}" for n in range(30)]
        self.write("semi.csv", "\n".join(["id,hut,entry", *rows, ""]))
        self.write("pipe.csv", "\n".join(["id,hut,entry", *(row.replace("; ", " | ") for row in rows), ""]))
        for name in ("semi.csv", "pipe.csv"):
            self.assertEqual(self.groups(name, "--text=entry", "--group=hut")["A"]["rope"], "15")
        self.write("caret.csv", "id^entry\n1^rope, ice and more words\n")
        self.assertEqual(self.groups("caret.csv", "--delimiter", "^")["caret"]["rope"], "1")
        self.fails(1, "which column is the text?", "--delimiter", "freq", "caret.csv")
        self.write(
            "comma.csv", "hut;score;entry\n" + "".join(f"{hut};{n},{n};rope\n" for hut in "AB" for n in range(3))
        )
        run = self.succeeds("contrast", "comma.csv", "--text=entry", "--group=hut", "--values=score")
        self.assertAlmostEqual(float(run.rows()[0]["mean_a"]), 1.1)
        self.assertIn("took the comma in score of comma.csv for a decimal comma", run.err)

    def test_what_could_be_meant_in_two_ways_is_noted_or_refused(self):
        self.write("twice.csv", "hut,entry,hut\nA,ice,B\n")
        run = self.succeeds("freq", "twice.csv", "--text=entry", "--group=hut")
        self.assertIn(
            "twice.csv has several columns of one name: the first keeps it, a later 'hut' is called 'hut_3'", run.err
        )
        self.write("huts/A/2016.txt", "ice")
        self.write("huts/B/2016.txt", "snow")
        self.write("meta.csv", "file,warden\n2016,Rhona\n")
        run = self.succeeds("freq", "huts", "--metadata", "meta.csv")
        self.assertIn("the row '2016' of meta.csv joins files of several folders: A/2016.txt, B/2016.txt", run.err)
        self.write("twice.jsonl", '{"hut": "A", "entry": "ice", "hut": "B"}\n')
        self.write("twice.json", '[{"hut": "A", "entry": "ice"},\n {"entry": "a", "entry": "b"}]')
        self.write("late.csv", "entry\n" + "ice\n" * 100_000 + "i\0ce\n")
        self.write("late.txt", "ice " * 2_000_000 + "i\0ce")
        self.write("broken.json", '[{"entry": "ice"},\n oops]')
        self.each_fails(
            [
                (1, "twice.jsonl, line 1: the key 'hut' stands twice", "JSON object", "freq", "twice.jsonl", "--text=entry"),
                (1, "twice.json: the key 'entry' stands twice", "list of objects", "freq", "twice.json", "--text=entry"),
                (1, "broken.json, line 2, column 2", "list of objects", "freq", "broken.json", "--text=entry"),
                (1, "late.csv is not plain text: there is a zero character at line 100,002", "damaged", "freq", "late.csv", "--text=entry", "--encoding=utf-8"),
                (1, "late.txt is not plain text: there is a zero character at offset 8,000,001", "convert it", "freq", "late.txt"),
            ]
        )  # fmt: skip

    def test_standard_input(self):
        self.assertEqual(self.groups("-", input="Ice and ice"), {"standard input": {"ice": "2", "and": "1"}})
        self.write("study.toml", '[corpus]\ninput = ["early=-"]')
        self.assertEqual(self.groups("--study=study.toml", input="ice"), {"early": {"ice": "1"}})

    def test_documents_of_a_table_and_their_metadata(self):
        self.write("book.csv", TABLE.replace("nights", "tokens"))
        self.write("d.toml", '[categories]\nwet = ["wet", "ice"]')
        rows = self.succeeds("categories", "book.csv", "--text=entry", "--group=hut", "--dictionary=d.toml").rows()
        self.assertEqual([row["document"] for row in rows], ["2", "3", "5"], "rows as a spreadsheet numbers them")
        self.assertEqual(
            list(rows[0]), ["document", "group", "id", "tokens_given", "tokens", "matched_percent", "wet"]
        )
        self.assertEqual([row["wet"] for row in rows], ["50.0", "0.0", "100.0"])
        rows = self.succeeds(
            "categories", "book.csv", "--text=entry", "--id=id", "--dictionary=d.toml", "--scale=count"
        ).rows()
        self.assertEqual(
            [(row["document"], row["hut"], row["wet"]) for row in rows][1:],
            [("2", "Haskgate", "0"), ("4", "Haskgate", "1")],
        )

    def test_the_text_column_is_guessed_when_only_one_looks_like_text(self):
        self.write("one.csv", "id,words\n1,this row holds some running text\n2,and this one too I think\n")
        run = self.succeeds("freq", "one.csv")
        self.assertIn("took the column 'words' of one.csv as the text", run.err)

    def test_encodings_and_line_ends(self):
        text = "Café naïve\r\nzwölf\rÅse"
        expected = {"g": {"café": "1", "naïve": "1", "zwölf": "1", "åse": "1"}}
        utf16 = codecs.BOM_UTF16_LE + text.encode("utf-16-le")
        for name, data, option in (
            ("plain", text.encode(), ()),
            ("marked", codecs.BOM_UTF8 + text.encode(), ()),
            ("utf16", utf16, ()),
            ("cp1252", text.encode("cp1252"), ("--encoding", "cp1252")),
        ):
            with self.subTest(name):
                self.write("g.txt", data)
                self.assertEqual(self.groups("g.txt", *option), expected)

    def test_many_short_documents_and_one_in_another_script(self):
        lines = "".join(f"{n},g{n % 3},snow {n}\n" for n in range(3000))
        self.write("many.csv", "id,group,text\n" + lines)
        rows = self.succeeds("freq", "many.csv", "--text=text", "--group=group", "--top=1", "--quiet").rows()
        self.assertEqual(
            [(row["group"], row["term"], row["freq"], row["docs_percent"]) for row in rows],
            [(f"g{n}", "snow", "1000", "100.0") for n in range(3)],
        )
        self.write("घर/पहला.txt", "हिन्दी भाषा हिन्दी")
        self.assertEqual(self.groups("घर"), {"घर": {"हिन्दी": "2", "भाषा": "1"}})


class BadInput(ProgramTest):
    def test_each_is_told_what_and_what_to_do(self):
        self.three_huts()
        self.write("book.csv", TABLE)
        self.write("pictures/a.jpg", b"\xff\xd8")
        (self.folder / "empty").mkdir()
        self.write("blank.txt", " \n")
        self.write("marks.csv", "entry\n...\n!!\n")
        self.write("empty.csv", "")
        self.write("old.txt", "Zuerst kam der Schnee, später die Flöße über den Fluß.".encode("cp1252"))
        self.write("wide.txt", "ice".encode("utf-16-le"))
        self.write("ragged.csv", "id,entry\n1,ice\n2,ice, snow\n")
        self.write("open.csv", 'id,entry\n1,"ice\n2,snow\n')
        self.write("nogroup.csv", "hut,entry\nOstrel,ice and snow\n,rope\n")
        self.write("slides.pptx", b"PK")
        self.write("broken.toml", '[categories]\nweather = ["snow", "ice"\nfood = ["soup"]\n')
        self.write("nothing.txt.list", "# only a comment\n")
        table = [
            (1, "no file or folder hutz; did you mean 'huts'?", "check the spelling", "freq", "hutz"),
            (1, "no file or folder nowhere/x.txt", "folder nowhere is missing", "freq", "nowhere/x.txt"),
            (1, "no texts in the folder empty: no files at all", ".txt .text .md", "freq", "empty"),
            (1, "only files of other kinds, such as a.jpg", "--text names its column", "freq", "pictures"),
            (1, "slides.pptx: unsupported file type", ".txt", "freq", "slides.pptx"),
            (1, "has no column 'entri'; did you mean 'entry'? (its columns: id, hut, entry", "--text", "freq", "book.csv", "--text", "entri"),
            (1, "book.csv has no column or field 'place' (it has id, hut, nights)", "--group", "freq", "book.csv", "--text=entry", "--group=place"),
            (1, "which column is the text?", "--text COLUMN", "freq", "book.csv"),
            (1, "huts/Fallowmere/1.txt has no column or field 'hut' (it has none)", "--group folder", "freq", "huts", "--group", "hut"),
            (1, "there are no words in blank.txt", "check the files", "freq", "blank.txt"),
            (1, "there are no words in marks.csv", "text column", "freq", "marks.csv", "--text", "entry"),
            (1, "empty.csv is empty", "a header row", "freq", "empty.csv", "--text", "entry"),
            (1, "old.txt is not UTF-8: byte 0xE4 at offset 25, line 1", "--encoding cp1252", "freq", "old.txt"),
            (1, "wide.txt is not plain text: there is a zero character at offset 1", "utf-16-le", "freq", "wide.txt"),
            (1, "'utf8000' is not a known encoding", "utf-8", "freq", "huts", "--encoding", "utf8000"),
            (1, "ragged.csv, row 3: 3 cells, but the header has 2", "quotation marks", "freq", "ragged.csv", "--text=entry"),
            (1, "open.csv, row 2 (line 2): unexpected end of data", "each mark is closed", "freq", "open.csv", "--text=entry"),
            (1, "nogroup.csv, row 3: the group column 'hut' is empty", "fill it in", "freq", "nogroup.csv", "--text=entry", "--group=hut"),
            (1, "needs two groups, and there is one: '1'", "--group COLUMN", "keyness", "huts/Ostrel/1.txt"),
            (1, "a group is named 'rest'", "another name", "freq", "rest=huts"),
            (1, "no group 'Ostrell'; did you mean 'Ostrel'?", "Fallowmere, Haskgate, Ostrel", "logodds", "huts", "--against=Ostrell"),
            (1, "--order names no group of the texts: Nowhere", "the groups are", "freq", "huts", "--order", "Nowhere"),
            (1, "--min-tokens 99 leaves no document: the longest has 7 tokens", "smaller number", "freq", "huts", "--min-tokens", 99),
            (1, "no stop list 'e'; did", "./e", "freq", "huts", "--stop", "e"),
            (1, "there is no stop list mine.txt", "check the spelling", "freq", "huts", "--stop", "mine.txt"),
            (1, "nothing.txt.list has no entries", "one word per line", "freq", "huts", "--stop", "nothing.txt.list"),
            (1, "broken.toml, line 3, column 1: unclosed array", "fix the TOML", "categories", "huts", "--dictionary=broken.toml"),
            (1, "there is no dictionary no.toml", "check the spelling", "categories", "huts", "--dictionary=no.toml"),
            (2, "categories needs a dictionary", "--dictionary FILE.toml", "categories", "huts"),
            (2, "freq needs an input", "--study", "freq"),
            (2, "no command 'frequ'; did you mean 'freq'?", "check, words, run, freq", "frequ"),
            (1, "an input is empty", "the folder you are in is .", "freq", ""),
            (1, "an input is empty: 'a='", "NAME=PATH", "freq", "a="),
            (2, "--study cannot be '--'", "another", "freq", "huts", "--study=--"),
            (2, "--stop cannot be '--'", "another", "freq", "huts", "--stop=--", "--stop=en"),
            (2, "millstone cache takes no 'x'", "--help", "cache", "x"),
            (2, "there is no option --topp; did you mean '--top'?", "--help-all", "freq", "huts", "--topp", "3"),
            (2, "there is no option --min", "--help-all", "freq", "huts", "--min=3"),
            (2, "--top: must be a whole number, not 'many'", "--help", "freq", "huts", "--top", "many"),
            (2, "--top: must be 0 or more, not -1", "--help", "freq", "huts", "--top=-1"),
            (2, "--stop is not followed by a value", "--stop=-value", "freq", "huts", "--stop", "-x"),
            (2, "--length: must be a range such as 4..12", "--help", "freq", "huts", "--length", "4-12"),
            (2, "--length: the range 5..3 runs backwards", "--help", "freq", "huts", "--length", "5..3"),
            (2, "--case: must be one of lower, keep, not 'upper'", "--help", "freq", "huts", "--case", "upper"),
            (2, "--prior-weight: must be a number above 0", "--help", "logodds", "huts", "--prior-weight", "0"),
            (2, "--force takes no value", "leave out", "freq", "huts", "--force=yes"),
            (1, "no column 'frq'; did you mean 'freq'?", ":asc", "freq", "huts", "--sort", "frq"),
        ]  # fmt: skip
        self.each_fails(table)

    def test_a_file_that_cannot_be_read(self):
        self.write("huts/a.txt", "ice")
        (self.folder / "huts" / "b.txt").symlink_to("gone.txt")
        self.fails(1, "b.txt cannot be read: no such file", "still there", "freq", "huts")

    def test_an_empty_document_among_others_is_noted(self):
        self.write("huts/a/1.txt", "ice")
        self.write("huts/a/2.txt", "")
        run = self.succeeds("freq", "huts")
        self.assertIn("note: 1 document (a/2.txt) without words", run.err)
        self.assertEqual(run.rows()[0]["docs_percent"], "50.0")

    def test_a_group_of_one_document_works_with_a_note(self):
        self.three_huts()
        run = self.succeeds("keyness", "huts", "--against", "pairs")
        self.assertIn(
            "note: one document in Fallowmere, Haskgate: p and intervals say what differs in these texts, not in others",
            run.err,
        )
        lone = [row for row in self.succeeds("freq", "huts").rows() if row["group"] == "Haskgate"]
        self.assertEqual({row["dp"] for row in lone}, {""})


if __name__ == "__main__":
    unittest.main()
