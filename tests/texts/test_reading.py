"""Readers on their own: trees of elements, pages, numbers of a sheet, headers of tables, files that lie about themselves."""

import datetime
import itertools
import json
import random
import tempfile
import unittest
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any
from unittest import mock

import numpy as np
from lxml import etree

from millstone.core.base import arrays
from millstone.core.base.errors import DataError
from millstone.core.corpus.documents import DocumentBlock
from millstone.core.scan.scan import scan
from millstone.core.settings.conditions import condition_from
from millstone.core.settings.inputs import FrequencyListOptions, InputOptions
from millstone.core.terms.frequency_lists import FrequencyList
from millstone.texts.inputs.documents.html_page import read_html
from millstone.texts.inputs.documents.markup import LINE, PAGE, PARAGRAPH, TAB, Layout, text_of
from millstone.texts.inputs.documents.office import read_docx, read_odt
from millstone.texts.inputs.documents.trees import parse_xml
from millstone.texts.inputs.documents.xml_text import read_xml
from millstone.texts.inputs.finding import stretches
from millstone.texts.inputs.finding.finding import files_to_read
from millstone.texts.inputs.finding.folders import files_below
from millstone.texts.inputs.lists import frequency_lists
from millstone.texts.inputs.lists.frequency_lists import read_lists
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.inputs.reader import Files, read_documents, read_in_blocks
from millstone.texts.inputs.tables import cell_blocks, texts
from millstone.texts.inputs.tables.table import open_table
from millstone.texts.inputs.tables.workbook import _date, _number

W = 'xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"'
ODF = (
    'xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" '
    'xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0"'
)


class Folder(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def file(self, name: str, content: str | bytes | dict[str, str]) -> Path:
        path = self.folder / name
        if isinstance(content, dict):
            with zipfile.ZipFile(path, "w") as archive:
                for part, text in content.items():
                    archive.writestr(part, text)
        else:
            path.write_bytes(content.encode("utf-8") if isinstance(content, str) else content)
        return path


class Markup(Folder):
    LAYOUT = Layout(
        breaks={"p": PARAGRAPH, "c": TAB}, marks={"br": LINE, "pb": PAGE, "sp": " "}, skipped=frozenset(("no",)), deferred=frozenset(("note",))
    )  # fmt: skip

    def text(self, xml: str, layout: Layout | None = None) -> str:
        return text_of(parse_xml(xml.encode(), Path("x.xml")), layout or self.LAYOUT, Path("x.xml"))

    def test_breaks_marks_and_notes(self):
        table = [
            ("<a><p>one <b>t</b>wo</p><p>three</p></a>", "one two\n\nthree"),
            ("<a>\n  <p>\n one\n two </p>\n</a>", "one two"),
            ("<a><c>1</c><c>2</c><p/>3</a>", "1\t2\n\n3"),
            ("<a>x<br/>y<pb/>z<br/><p/>w</a>", "x\ny\fz\n\nw"),
            ("<a>x<sp/>y<no>hidden</no>z</a>", "x yz"),
            ("<a><p>a<note>n1<note>n2</note></note> b</p><p>c</p></a>", "a b\n\nc\n\nn1\n\nn2"),
            ("<a>x<!-- c -->y<?pi z?>w &amp; &#233;</a>", "xyw & é"),
            ("<a/>", ""),
        ]
        for xml, expected in table:
            with self.subTest(xml):
                self.assertEqual(self.text(xml), expected)
        only = Layout(breaks={"p": PARAGRAPH}, only=frozenset(("t",)))
        self.assertEqual(self.text("<a>\n<p>x<r><t>ice </t>y<t>axe</t></r></p></a>", only), "ice axe")

    def test_no_word_of_a_tree_is_lost_or_made(self):
        chance = random.Random(7)
        names = ["p", "b", "c", "i"]

        def tree(depth: int) -> etree._Element:
            element = etree.Element(chance.choice(names))
            element.text = chance.choice(["", " ", "ice", " wet snow ", "\n x \n"])
            for _ in range(chance.randrange(4) if depth else 0):
                child = tree(depth - 1)
                child.tail = chance.choice(["", " ", "tail", "\n"])
                element.append(child)
            return element

        for _ in range(300):
            root = tree(4)
            found = text_of(root, self.LAYOUT, Path("x"))
            self.assertEqual("".join(found.split()), "".join("".join(root.itertext()).split()))
            self.assertNotIn("  \n", found)

    def test_deep_trees(self):
        root = etree.Element("p")
        here = root
        for _ in range(20_000):
            here = etree.SubElement(here, "b")
        here.text = "deep"
        self.assertEqual(text_of(root, self.LAYOUT, Path("x")), "deep")

    def test_tei_takes_the_reading_of_the_source_and_puts_notes_after(self):
        path = self.file(
            "t.xml",
            "<TEI xmlns='http://www.tei-c.org/ns/1.0'><teiHeader><fileDesc><titleStmt><title>Log</title></titleStmt><sourceDesc>"
            "<bibl><date when='1987-05-01'>May</date></bibl></sourceDesc></fileDesc><profileDesc><langUsage><language ident='en'>"
            "E</language></langUsage><textClass><keywords><term>snow</term><term>ice</term></keywords></textClass></profileDesc>"
            "</teiHeader><text><body><div><head>May</head><p>Wet <abbr>Mt</abbr><choice><orig>olde</orig><reg>old</reg></choice>"
            "<note>n</note>, <del>x</del>end<fw>9</fw>.</p></div></body></text></TEI>",
        )
        (document,) = read_xml(path, "t.xml", InputOptions(), Provenance())
        self.assertEqual(document.text, "May\n\nWet Mtolde, end.\n\nn")
        self.assertEqual(
            document.metadata,
            {"title": "Log", "date": "1987-05-01", "language": "en", "keywords": "snow; ice"},
        )

    def test_pages_that_are_no_pages(self):
        for content, expected in (
            ("", ""),
            ("just text", "just text"),
            ("<p>a<p>b<li>c", "a\n\nb\n\nc"),
            ('<?xml version="1.0" encoding="latin-1"?><html><body>é</body></html>', "é"),
            ("<body>a&nbsp;b &lt;i&gt;</body>", "a b <i>"),
            ("<body><textarea>t</textarea><template>u</template><details hidden>v</details></body>", "t"),
        ):
            with self.subTest(content):
                (document,) = read_html(self.file("p.html", content), "p.html", InputOptions(), Provenance())
                self.assertEqual(document.text, expected)


class Office(Folder):
    def test_docx(self):
        body = (
            '<w:p><w:r><w:t>One </w:t></w:r><w:ins><w:r><w:t xml:space="preserve">two</w:t></w:r></w:ins><w:del><w:r><w:delText>x'
            '</w:delText></w:r></w:del></w:p><w:p><w:r><w:t>co</w:t><w:noBreakHyphen/><w:t>op</w:t><w:br w:type="page"/><w:t>next'
            "</w:t><w:tab/><w:t>tab</w:t><w:br/><w:t>line</w:t></w:r></w:p><w:p><w:r><w:instrText>PAGE</w:instrText></w:r></w:p>"
        )
        path = self.file("a.docx", {"word/document.xml": f"<w:document {W}><w:body>{body}</w:body></w:document>"})
        (document,) = read_docx(path, "a.docx", InputOptions(), Provenance())
        self.assertEqual(document.text, "One two\n\nco\u2011op\fnext\ttab\nline")

    def test_odt(self):
        body = (
            "<text:tracked-changes><text:p>gone</text:p></text:tracked-changes><text:h>Head</text:h><text:p>One<text:s/>two"
            "<text:note><text:note-citation>1</text:note-citation><text:note-body><text:p>foot</text:p></text:note-body>"
            "</text:note>three<text:soft-page-break/>four<office:annotation><text:p>aside</text:p></office:annotation></text:p>"
        )
        content = f"<office:document-content {ODF}><office:body><office:text>{body}</office:text></office:body></office:document-content>"
        (document,) = read_odt(self.file("a.odt", {"content.xml": content}), "a.odt", InputOptions(), Provenance())
        self.assertEqual(document.text, "Head\n\nOne twothree\ffour\n\nfoot")

    def test_numbers_and_dates_as_the_sheet_has_them(self):
        numbers = [
            (5, "General", "5"), (0.1 + 0.2, "General", "0.3"), (1234.5, "#,##0.00", "1234.50"), (7, "0000", "0007"), (-0.001, "0.00", "0.00"),
            (0.255, "0%", "26%"), (0.255, "0.0%", "25.5%"), (12.0, '0.0" km"', "12.0"), (1e20, "General", "1e+20"), (3, "@", "3"), (-2.5, "0.0;[Red]-0.0", "-2.5"),
        ]  # fmt: skip
        for value, shown_as, expected in numbers:
            with self.subTest(shown_as):
                self.assertEqual(_number(value, shown_as), expected)
        day = datetime.datetime(2018, 5, 3)
        for value, shown_as, expected in (
            (day, "dd/mm/yyyy", "2018-05-03"),
            (day, "yyyy", "2018"),
            (day, "mmm yyyy", "2018-05"),
            (day.replace(hour=9), "dd/mm/yy hh:mm", "2018-05-03 09:00:00"),
            (datetime.time(9, 30), "hh:mm", "09:30:00"),
        ):
            with self.subTest(shown_as):
                self.assertEqual(_date(value, shown_as), expected)


class Tables(Folder):
    def header(self, content: str, reading: InputOptions | None = None) -> list[str]:
        return open_table(self.file("t.csv", content), reading or InputOptions(), Provenance()).header

    def test_headers(self):
        table = [
            ("id,entry\n1,ice\n", ["id", "entry"]),
            ("1,ice\n2,axe\n", ["A", "B"]),
            ("id,2016,2017\n1,2,3\n", ["id", "2016", "2017"]),
            ("name,2016\nx,y\n", ["A", "B"]),
            ("a,,a\n1,2,3\n", ["a", "column_2", "a_3"]),
            ("Title,,,\nmade 2019,,,\nid,entry,hut,n\n1,x,y,2\n", ["id", "entry", "hut", "n"]),
            ('"two\nlines",b\n1,2\n', ["two lines", "b"]),
        ]
        for content, expected in table:
            with self.subTest(content):
                self.assertEqual(self.header(content), expected)
        self.assertEqual(self.header("name,2016\nx,y\n", InputOptions(text="name")), ["name", "2016"])
        with self.assertRaisesRegex(DataError, "row 2: 4 cells, but the header has 2"):
            self.header("a,a,,\n1,2,3,4\n")

    def test_columns_beyond_z_have_letters(self):
        names = [f"n{number}" for number in range(60)]
        table = open_table(
            self.file("w.csv", ",".join(names) + "\n" + ",".join("x" * 60) + "\n"), InputOptions(), Provenance()
        )
        from millstone.texts.inputs.tables.table import column_of

        for letter, name in (("A", "n0"), ("Z", "n25"), ("AA", "n26"), ("AZ", "n51"), ("BH", "n59"), ("n7", "n7")):
            self.assertEqual(column_of(table, letter, "text"), name)

    def test_conditions_are_split_at_the_first_operator(self):
        for typed, expected in (
            ("a=b=c", ("a", "=", "b=c")), ("a != ''", ("a", "!=", "")), ("a<=3", ("a", "<=", "3")), (" long name ~ ^x|y ", ("long name", "~", "^x|y")),
            ('a = "it\'s"', ("a", "=", "it's")), ("a>-1", ("a", ">", "-1")),
        ):  # fmt: skip
            found = condition_from(typed)
            self.assertEqual((found.field, found.operator, found.value), expected)

    def test_files_below_a_folder(self):
        for name in ("b/10.txt", "b/9.txt", "a.txt", "b/c/d.txt"):
            (self.folder / name).parent.mkdir(parents=True, exist_ok=True)
            (self.folder / name).touch()
        (self.folder / "b" / "loop").symlink_to(self.folder, target_is_directory=True)
        passed_over = []
        for recursive, expected in (
            (True, ["a.txt", "b/9.txt", "b/10.txt", "b/c/d.txt"]),
            (False, ["a.txt", "b/9.txt", "b/10.txt"]),
        ):
            found = files_below(self.folder, recursive, lambda path, why: passed_over.append((path, why)))
            self.assertEqual(found, [f"{self.folder}/{path}" for path in expected])
        self.assertEqual(passed_over, [(f"{self.folder}/b/loop", "a link back to a folder above it")])

    def test_files_that_hold_nothing_wanted_are_not_opened(self):
        (self.folder / "in").mkdir()
        tei = "<TEI xmlns='http://www.tei-c.org/ns/1.0'><text><body><p>{}</p></body></text></TEI>"
        for name, content in (
            ("in/1.txt", "one"),
            ("in/2.txt", "two"),
            ("in/3.md", "three"),
            ("in/4.xml", tei.format("four")),
            ("in/5.html", "<p>five</p>"),
            ("in/6.csv", "id,text\na,six\nb,seven\n"),
        ):
            self.file(name, content)
        for wanted, opened in (
            (None, ["1.txt", "2.txt", "3.md", "4.xml", "5.html", "6.csv"]),
            # of a table or a collection of texts only reading shows what it holds
            ({"2.txt"}, ["2.txt", "4.xml", "6.csv"]),
            ({"5.html", "b"}, ["4.xml", "5.html", "6.csv"]),
            (set(), ["4.xml", "6.csv"]),
        ):
            with self.subTest(wanted):
                provenance = Provenance()
                found = list(
                    read_documents([str(self.folder / "in")], InputOptions(text="text", id="id"), provenance, wanted)
                )
                self.assertEqual([Path(one.path).name for one in provenance.files], opened)
                names = {document.name for document in found}
                self.assertLessEqual((wanted or set()) - {"b"}, names)
                self.assertLessEqual({"a", "b", "4.xml"}, names)


def read_in_stretches(inputs: list[str], reading: InputOptions, provenance: Provenance) -> Iterator[Any]:
    """As several would read the inputs, one after the other."""
    files = Files(reading, provenance)
    for found in files_to_read(inputs, reading, provenance):
        for number, one in enumerate(found.cut(reading, 70)):
            yield from (files.documents if number % 3 == 1 else files.blocks)(one)
    files.finish()


class RowsInBlocks(Folder):
    """Rows that are read many at a time give what they give one by one, and the same errors."""

    HEADER = "id,text,group\n"

    def read(self, path: Path, read: Callable[..., Any], **asked: Any) -> tuple[list[Any], Provenance] | str:
        provenance = Provenance()
        found = []
        try:
            for one in read([str(path)], InputOptions(text="text", **asked), provenance):
                groups = one.groups if isinstance(one, DocumentBlock) else (one.group,)
                documents = one.documents() if isinstance(one, DocumentBlock) else (one,)
                for document, group in zip(documents, groups, strict=True):
                    found.append((document.name, group, document.text, document.metadata, document.source))
        except DataError as error:
            return error.what
        return found, provenance

    def test_as_one_by_one(self):
        chance = random.Random(11)
        cells = [
            "ice",
            "",
            " ",
            "\u00e9t\u00e9 d'hiver",
            '"a, b"',
            '"say ""no"" \r\n twice"',
            "\u3000",
            'o"clock',
            "\u96ea\u0085",
        ]
        odd = ["\n", ",,\n", "short\n", "a,b,c,d\n", 'x,"open,g\n', 'x,"a"b,g\n', "x,old\ry,z\n", "x,\0,g\n", ",,,\n"]
        in_blocks = 0
        for trial in range(400):
            rows = [
                ",".join((chance.choice(("", f"d{number}")), chance.choice(cells), chance.choice("ab "))) + "\n"
                for number in range(chance.randrange(30))
            ]
            if trial % 2:
                rows.insert(chance.randrange(len(rows) + 1), chance.choice(odd))
            content = "".join((self.HEADER, *rows)).replace("\n", chance.choice(("\n", "\r\n"))).encode()
            content = content.removesuffix(b"\n") if trial % 5 == 0 else content
            content += chance.choice((b"", b"", b"", b"d,\xff,a\n", b"d,\xc3"))
            path = self.file("t.csv", content)
            asked = {
                "id": chance.choice(("", "id", "text")),
                "group": chance.choice(("", "group", "id", "text", "none")),
            }
            with (
                mock.patch.object(cell_blocks, "_AT_ONCE", chance.choice((5, 60, 1 << 21))),
                mock.patch("millstone.texts.inputs.tables.table._ROWS_TRIED", chance.randrange(9)),
                mock.patch("millstone.texts.inputs.tables.table._HEADER_ROWS_TRIED", 3),
                mock.patch.object(texts, "DocumentBlock", side_effect=DocumentBlock) as made,
            ):
                plain = self.read(path, read_documents, **asked)
                self.assertEqual(self.read(path, read_in_blocks, **asked), plain, (content, asked))
                in_blocks += made.called
                with mock.patch.object(stretches, "_AT_ONCE", chance.choice((5, 60))):
                    self.assertEqual(self.read(path, read_in_stretches, **asked), plain, (content, asked))
        self.assertTrue(in_blocks > 50 or arrays.compiled is None, in_blocks)

    def test_annotated_documents_in_stretches(self):
        word = "1\t{0}\t{0}\tNOUN\t_\t_\t0\troot\t_\tSpaceAfter=No\n\n"
        chance = random.Random(3)
        heads = [
            "# newdoc id = d{0}\n# hut = \u00e9\n",
            "#newdoc\n",
            "# newdoc id =\n",
            "# sent_id = {0}\n",
            "# newdocs\n",
        ]
        odd = ["", "1\tshort\n", "# a\u2028b\n", "\0", "\udcff"]
        cut = 0
        for trial in range(150):
            parts = [(chance.choice(heads) + word * chance.randrange(3)).format(number) for number in range(20)]
            parts.insert(chance.randrange(20), odd[trial % 5])
            content = "".join(parts).replace("\n", chance.choice(("\n", "\r\n"))).encode("utf-8", "surrogateescape")
            path = self.file("t.conllu", chance.choice((b"", b"\xef\xbb\xbf")) + content)
            with mock.patch.object(stretches, "_AT_ONCE", chance.choice((9, 70))):
                whole, some = (self.read(path, read) for read in (read_documents, read_in_stretches))
                # the first fault of a stretch is not always that of the file
                self.assertEqual(*((whole, some) if odd[trial % 5] != "\0" else (type(whole), type(some))), content)
                (found,) = files_to_read([str(path)], InputOptions(), Provenance())
                cut += len(list(found.cut(InputOptions(), 70))) > 3
        self.assertGreater(cut, 50)

    def test_lines_of_json_in_stretches(self):
        lines = [json.dumps({"text": f"snow {number}", "\u00e9t\u00e9": "a"}) for number in range(20)]
        for end, odd in itertools.product(("\n", "\r\n", "\r"), (lines[3], "", "[1]", '{"text": \udcff}', "{")):
            content = end.join([*lines[:15], odd, *lines[15:]]).encode("utf-8", "surrogateescape")
            path = self.file("t.jsonl", content)
            with (
                mock.patch.object(stretches, "_AT_ONCE", 50),
                mock.patch("millstone.texts.inputs.tables.table._ROWS_TRIED", 5),
            ):
                self.assertEqual(self.read(path, read_in_stretches), self.read(path, read_documents), content)
                (found,) = files_to_read([str(path)], InputOptions(text="text"), Provenance())
                self.assertEqual(len(list(found.cut(InputOptions(), 100))) > 5, end != "\r")

    def test_they_are_counted_as_one_by_one(self):
        rows = [f'"ice \u2014 fog, number {number}. Snow"' for number in range(500)]
        content = "text\n" + "\n".join(rows) + "\n"
        for ordered in (False, True):
            scanned = [
                scan(read([str(self.file("t.csv", content))], InputOptions(text="text"), Provenance()), ordered)
                for read in (read_in_blocks, read_documents)
            ]
            for one, other in itertools.pairwise(scanned):
                self.assertEqual(one.form_counts.toarray().tolist(), other.form_counts.toarray().tolist())
                self.assertEqual(one.documents["document"].tolist(), other.documents["document"].tolist())
                for name in ("forms", "ids", "starts", "breaks")[: 4 if ordered else 1]:
                    self.assertEqual(list(getattr(one, name)), list(getattr(other, name)))


if __name__ == "__main__":
    unittest.main()


class ListsOfTerms(Folder):
    """Plain lists are read column by column, others row by row, and both say the same."""

    ROWS = (
        ("ice", "12", "3"),
        ("Don\u2019t", "7", "2"),
        ("\u00e9tude", "5", "1"),
        ("ice", "1", "1"),
        ("007", "0", "0"),
    )
    WANTED = (["ice", "Don't", "\u00e9tude", "007"], [13, 7, 5, 0], [np.nan, 2, 1, 0])

    def read(self, name: str, content: str | bytes) -> tuple[FrequencyList, bool]:
        """The list, and whether it was read column by column."""
        path = self.file(name, content)
        with mock.patch.object(frequency_lists, "one_by_one", side_effect=frequency_lists.one_by_one) as slow:
            (found,) = read_lists([str(path)], InputOptions(), FrequencyListOptions(), Provenance())
        (one,) = found.lists.values()
        return one, not slow.called

    def test_both_ways_give_the_same(self):
        lines = [("term", "freq", "docs"), *self.ROWS]
        plain = "".join(",".join(cells) + "\n" for cells in lines)
        of_rows = {
            "last line without its end": plain[:-1],
            "line ends of other machines": plain.replace("\n", "\r\n"),
            "with a mark": "\ufeff" + plain,
            "tabs": plain.replace(",", "\t"),
            "a title above": "Ice and snow,,\n" + plain,
        }
        row_by_row = {
            "a quotation mark": plain.replace("ice,12", '"ice",12'),
            "an empty line": plain.replace("007", "\n007"),
            "a short row": plain + "\n,,\n",
            "a number with a point": plain.replace(",12,", ",12.0,"),
            "a number with a space": plain.replace(",7,", ", 7,"),
            "old line ends": plain.replace("\n", "\r"),
        }
        for name, content in {**of_rows, **row_by_row}.items():
            with self.subTest(name):
                one, at_once = self.read("list.tsv" if name == "tabs" else "list.csv", content)
                self.assertEqual(at_once, name in of_rows)
                self.assertEqual(one.terms.tolist(), self.WANTED[0])
                self.assertEqual(one.freq.tolist(), self.WANTED[1])
                np.testing.assert_array_equal(one.docs, self.WANTED[2])

    def test_what_is_no_count_is_told_with_its_row(self):
        for cell in ("-3", "2.5", "", "many", "9" * 16, "1e300", "nan", "inf"):
            with self.subTest(cell), self.assertRaisesRegex(DataError, f"row 3: freq is {cell!r}"):
                self.read("list.csv", f"term,freq\nice,3\nsnow,{cell}\n")
        with self.assertRaisesRegex(DataError, "row 3: 3 cells, but the header has 2"):
            self.read("list.csv", "term,freq\nice,3\nsnow,4,9\nrope\n")
