"""Trees of elements that are pruned while they are read: the same texts as of whole trees, in little memory."""

import random
import re
import tempfile
import tracemalloc
import unittest
import zipfile
from pathlib import Path
from typing import Any
from unittest import mock

from lxml import etree

from millstone.core.base.errors import DataError
from millstone.core.settings.inputs import InputOptions
from millstone.texts.inputs.documents.html_page import read_html
from millstone.texts.inputs.documents.office import read_docx, read_odt
from millstone.texts.inputs.documents.trees import parse_html, parse_xml
from millstone.texts.inputs.documents.xml_text import read_xml
from millstone.texts.inputs.provenance import Provenance

W = 'xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"'
DOCX = (
    *("<w:p>", "<w:r>", "<w:tbl>", "<w:tc>", "<w:t>", "<w:del>", "<w:p/>", "<w:t/>", "<w:tab/>", "<w:br/>"),
    *('<w:br w:type="page"/>', "<w:noBreakHyphen/>", "<w:softHyphen/>", "<w:pPr/>"),
)
ODT = ("<p>", "<h>", "<note>", "<tracked-changes>", "<p/>", "<s/>", "<tab/>", "<soft-page-break/>", "<span/>")
TEI = ("<p>", "<q>", "<hi>", "<note>", "<del>", "<cell>", "<lb/>", "<pb/>", "<hi/>", "<p/>", "<note/>", "&eacute;")
HTML = ("<p>", "<b>", "<div>", "<td>", "<b/>", "<br>", "<wbr>", "<p hidden>", "<script>", "<i style='display: none'>")
ANY = ("<a>", "<b>", "<c>", "<d>", "<a/>", "<b/>", "<c/>", "<d/>")


def made_up(chance: random.Random, pieces: tuple[str, ...]) -> str:
    """Elements one in the other, many of them empty, with a word here and there."""
    out, opened = [], []
    for _ in range(chance.randrange(60)):
        piece = chance.choice((*pieces, *pieces, " ", "\n", "ice", "snow "))
        closing = chance.random() < 0.45 and opened
        if closing:
            out.append(opened.pop())
        else:
            out.append(piece)
            if piece.startswith("<") and not piece.endswith("/>") and piece not in ("<br>", "<wbr>"):
                opened.append(f"</{piece[1:].split()[0].strip('>')}>")
    return "".join(out + opened[::-1])


class Trees(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def texts(self, read: Any, name: str, content: str) -> list[str]:
        """The texts of a file, blanks in a row counted as one."""
        path = self.folder / name
        if name.endswith((".docx", ".odt")):
            with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
                archive.writestr("word/document.xml" if name.endswith("docx") else "content.xml", content)
        else:
            path.write_text(content, "utf-8")
        found = read(path, "x", InputOptions(), Provenance())
        return [re.sub(" +", " ", document.text) for document in found]

    def test_the_text_is_that_of_the_whole_tree(self) -> None:
        chance = random.Random(5)
        kinds = (
            (read_docx, "a.docx", DOCX, f"<w:document {W}><w:body>%s</w:body></w:document>", "office.parse_xml"),
            (read_odt, "a.odt", ODT, "<document><body>%s</body></document>", "office.parse_xml"),
            (read_xml, "a.xml", TEI, '<!DOCTYPE TEI SYSTEM "x"><TEI><teiHeader><date/><date when="1"/></teiHeader><text><body>%s</body></text></TEI>', "xml_text.parse_xml"),
            (read_xml, "a.xml", ANY, "<any>%s</any>", "xml_text.parse_xml"),
            (read_html, "a.html", HTML, "<html><title></title><title>x</title><body>%s</body></html>", "html_page.parse_html"),
        )  # fmt: skip
        for read, name, pieces, around, parser in kinds:
            for number in range(100):
                content = around % made_up(chance, pieces)
                with self.subTest(name, number=number, content=content):
                    pruned = self.texts(read, name, content)
                    with mock.patch(f"millstone.texts.inputs.documents.{parser}", _whole):
                        self.assertEqual(pruned, self.texts(read, name, content))

    def test_empty_elements_do_not_stay(self) -> None:
        path = Path("x.xml")
        rows = ("<b/>", "<b><i/></b>", "<b/> ", "<b/><i/>", '<b n="1"></b>', "<b><b/><i><b/></i></b>\n")
        for row in rows:
            for parse in (parse_xml, parse_html):
                with self.subTest(row, parse=parse.__name__):
                    content = f"<a>ice{row * 20_000}snow{row * 20_000}</a>"
                    tracemalloc.start()
                    root = parse(content if parse is parse_html else content.encode(), path)  # type: ignore[arg-type]
                    peak = tracemalloc.get_traced_memory()[1]
                    tracemalloc.stop()
                    self.assertLess(len(list(root.iter())), 40)
                    self.assertLess(peak, 8 * len(content))
        many = "".join(f"<a{number}/>" for number in range(10_001))
        with self.assertRaisesRegex(DataError, "x.xml has elements of more than 10,000 names"):
            parse_xml(f"<a>{many}</a>".encode(), path)


def _whole(data: Any, path: Path, *_: Any) -> Any:
    if isinstance(data, str):
        return etree.fromstring(data.encode(), etree.HTMLParser(encoding="utf-8", huge_tree=True))
    options = {"no_network": True, "load_dtd": False, "remove_comments": True, "remove_pis": True}
    return etree.fromstring(data, etree.XMLParser(resolve_entities=False, **options))


if __name__ == "__main__":
    unittest.main()
