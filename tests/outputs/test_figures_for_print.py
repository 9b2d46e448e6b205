"""Figures as a journal takes them: text and descriptions in SVG, sizes, fonts, highlights, a folder of figures."""

import re
import unittest
from pathlib import Path

import pypdfium2
from lxml import etree
from PIL import Image

from tests.cli.program import ProgramTest

_SVG = "{http://www.w3.org/2000/svg}"
_WORDS = ("rope", "tea", "stove", "lamp", "soup", "wind")


class Print(ProgramTest):
    def setUp(self) -> None:
        super().setUp()
        rows = [
            f"{'ABC'[n % 3]},{' '.join(_WORDS[: n % 5 + 2])} {'rope ' * (n % 3)}{'wind ' * (3 - n % 3)}"
            for n in range(36)
        ]
        self.write("t.csv", "\n".join(["hut,entry", *rows]))
        self.texts = ("t.csv", "--text", "entry", "--group", "hut")

    def drawn(self, command: str, name: str, *options: str) -> str:
        return self.succeeds(command, *self.texts, "--chart", name, "--quiet", *options).err

    def root(self, name: str) -> etree._Element:
        return etree.fromstring((self.folder / name).read_bytes())

    def colours(self, name: str) -> dict[str, str]:
        """Text of an SVG file -> its colour."""
        found = {}
        for one in self.root(name).iter(f"{_SVG}text"):
            fill = re.search(r"fill: (#\w+)", one.get("style", ""))
            found["".join(one.itertext()).strip()] = fill[1] if fill else ""
        return found

    def test_svg_has_text_and_says_what_it_is(self) -> None:
        for command, options in (("keyness", ()), ("freq", ("--chart-kind", "cloud", "--chart-upright", "0.5"))):
            with self.subTest(command):
                self.drawn(command, "f.svg", *options)
                root = self.root("f.svg")
                self.assertEqual((root.get("role"), root.get("aria-labelledby")), ("img", "title desc"))
                title, said = (root.find(f"{_SVG}{name}") for name in ("title", "desc"))
                self.assertEqual((title.get("id"), said.get("id")), ("title", "desc"))
                self.assertIn("documents", said.text)
                texts = {"".join(one.itertext()).strip() for one in root.iter(f"{_SVG}text")}
                self.assertLessEqual({"rope", "wind"}, texts, "terms can be searched")
                families = {
                    found
                    for one in root.iter(f"{_SVG}text")
                    for found in re.findall(r"'DejaVu Sans'(.*?)[;\"]", one.get("style") + ";")
                }
                self.assertTrue(all("sans-serif" in one for one in families), families)
                self.drawn(command, "o.svg", *options, "--chart-outlines")
                root = self.root("o.svg")
                self.assertEqual(list(root.iter(f"{_SVG}text")), [])
                self.assertEqual(root.get("role"), "img")
        lengths = [
            float(one.get("textLength")) for one in self.root("f.svg").iter(f"{_SVG}text") if one.get("textLength")
        ]
        self.assertGreaterEqual(len(lengths), 12)
        turned = [one for one in self.root("f.svg").iter(f"{_SVG}text") if "rotate(-90)" in one.get("transform", "")]
        self.assertTrue(0 < len(turned) < len(lengths))

    def test_sizes_and_resolution(self) -> None:
        for typed, inches in (("6x4", (6, 4)), ("152.4x101.6mm", (6, 4)), ("1200x800px", (6, 4))):
            self.drawn("keyness", "f.png", "--chart-size", typed, "--chart-dpi", "200", "--chart-top", "3")
            with Image.open(self.folder / "f.png") as image:
                for side, wanted in zip(image.size, inches, strict=True):
                    self.assertAlmostEqual(side, 200 * wanted, delta=2)
        self.drawn("keyness", "f.svg", "--chart-size", "6x4in")
        self.assertEqual((self.root("f.svg").get("width"), self.root("f.svg").get("height")), ("432pt", "288pt"))
        written = []
        for _ in range(2):
            self.drawn("keyness", "f.pdf", "--chart-size", "6x4in")
            written.append((self.folder / "f.pdf").read_bytes())
        self.assertEqual(*written, "the same figure is the same file")
        page = pypdfium2.PdfDocument(written[0])[0]
        for side, wanted in zip(page.get_size(), (432, 288), strict=True):
            self.assertAlmostEqual(side, wanted, places=2)
        self.assertIn("rope", page.get_textpage().get_text_range(), "PDF keeps text")
        said = self.succeeds("keyness", *self.texts, "--chart", "f.png", "--chart-size", "1.5x1in").err
        self.assertRegex(said, r"note: --chart-size: letters are \d\.\d points large")

    def test_fonts_highlights_tops_and_colour_maps(self) -> None:
        said = self.succeeds("keyness", *self.texts, "--chart", "f.svg", "--chart-font", "Dejavu Serf").err
        self.assertIn("--chart-font: no font 'Dejavu Serf' is installed; drawn in DejaVu Serif", said)
        self.assertIn("'DejaVu Serif'", (self.folder / "f.svg").read_text("utf-8"))
        for command, options in (("keyness", ()), ("freq", ("--chart-kind", "cloud"))):
            said = self.succeeds(
                command, *self.texts, *options, "--chart", "h.svg", "--chart-highlight", "ROPE,yurt"
            ).err
            self.assertIn("--chart-highlight: not in the figure: yurt", said)
            colours = self.colours("h.svg")
            self.assertEqual(colours["wind"], "#b4babf")
            self.assertNotEqual(colours["rope"], "#b4babf")
        self.drawn("freq", "top.svg", "--top", "2")
        self.assertEqual(set(_WORDS) & set(self.colours("top.svg")), set(self.colours("top.svg")) & set(_WORDS))
        few = len(set(_WORDS) & set(self.colours("top.svg")))
        self.drawn("freq", "all.svg", "--top", "2", "--chart-top", "9")
        self.assertLess(few, len(set(_WORDS) & set(self.colours("all.svg"))), "the figure follows the table")
        for colours in ("tab10", "Set2", "turbo"):
            self.drawn("keyness", "c.svg", "--chart-colors", colours)

    def test_a_folder_of_figures_and_wrong_input(self) -> None:
        self.drawn("keyness", "figures/")
        found = sorted(path.name for path in Path(self.folder / "figures").glob("*.png"))
        self.assertEqual(found, [f"{hut} against rest.png" for hut in "ABC"])
        asked = ("keyness", *self.texts, "--chart", "f.png")
        self.each_fails(
            [
                (2, "--chart-size: must be a width and a height", "--help", *asked, "--chart-size", "0x5"),
                (2, "--chart-size: must be a width and a height", "--help", *asked, "--chart-size", "6in"),
                (2, "--chart-size: must be a width and a height", "--help", *asked, "--chart-size", "9999x9999in"),
                (2, "--chart-dpi", "--help", *asked, "--chart-dpi", "5"),
                (2, "the others of the plotting library", "--help", *asked, "--chart-colors", "nosuch"),
            ]
        )
        self.fails(2, "this table has no groups to split", "name a file", "categories", *self.texts, "--dictionary", "en:articles", "--chart", "f/")  # fmt: skip


if __name__ == "__main__":
    unittest.main()
