"""The report of a study and the other pages: parsed, typed back, and in a real browser where there is one."""

import base64
import hashlib
import itertools
import json
import os
import re
import shlex
import shutil
import unittest
import zipfile
from pathlib import Path
from urllib.parse import unquote

import lxml.html

import millstone
from millstone.core.settings.declare import declared
from millstone.core.settings.inputs import InputOptions
from millstone.core.settings.preparation import Preparation
from millstone.outputs.charts.colours import contrast_on_white
from millstone.outputs.pages import page as pages
from millstone.study.record.methods import CLAUSES, methods
from tests import browser
from tests.cli.program import ProgramTest, Run

ENTRIES = (
    "id,hut,entry\n"
    + "".join(f"a{n},Ostrel,The rope froze and the rope held. Ice {n}.\n" for n in range(9))
    + "".join(f"b{n},Haskgate,Wet socks on a long stage. Snow {n} snow.\n" for n in range(9))
)
STUDY = """
[study]
title = "Two huts"
output = "out"
authors = ["A. Warden", { name = "B. Guest", orcid = "0000-0000-0000-0000" }]

[corpus]
input = ["entries.csv"]
text = "entry"
id = "id"
group = "hut"

[prepare]
stop = ["en"]

[[step]]
command = "freq"
output = "freq.csv"
chart = "freq.png"
chart_kind = "cloud"
chart_title = "What they say"

[[step]]
command = "keyness"
name = "key terms"
output = "key.csv"
chart = "key.svg"
measures = "odds_ratio,bic"

[[step]]
command = "categories"
dictionary = ["words.toml"]
stop = []
output = "cat.csv"

[[step]]
command = "concordance"
from = "out/key.csv"
term = "rope"
output = "rope.csv"
"""
HOSTILE = (
    "<script>alert(1)</script>",
    '"><img src=x onerror=alert(2)>',
    "javascript:alert(3)",
    "]]></style></svg>--><!--",
    "{{7*7}}{%if%}",
    "x" * 10_000,
    "\u202eright\u202c \u200fto\u200e",
    "a\x01b\x1bc",
    "&amp;&#60;",
)


def parsed(path: Path) -> lxml.html.HtmlElement:
    return lxml.html.fromstring(path.read_text("utf-8"))


class StudyTest(ProgramTest):
    def study(self, text: str = STUDY) -> Path:
        self.write("entries.csv", ENTRIES)
        self.write("words.toml", '[categories]\ncold = ["ice", "snow", "froze"]\n')
        self.write("study.toml", text)
        return self.folder / "out" / "report.html"

    def check_page(self, path: Path) -> lxml.html.HtmlElement:
        """A page is one file, each id once, headings in order, nothing that runs but its own script."""
        text, page = path.read_text("utf-8"), parsed(path)
        ids = page.xpath("//@id")
        self.assertEqual(len(ids), len(set(ids)))
        levels = [int(one.tag[1]) for one in page.iter("h1", "h2", "h3", "h4")]
        self.assertEqual(levels[0], 1)
        self.assertEqual(levels.count(1), 1)
        self.assertTrue(all(after <= before + 1 for before, after in itertools.pairwise(levels)))
        for table in page.iter("table"):
            self.assertTrue(table.findtext("caption"))
            self.assertEqual({cell.get("scope") for cell in table.xpath("./thead//th")}, {"col"})
            self.assertLessEqual({cell.get("scope") for cell in table.xpath("./tbody//th")}, {"rowgroup"})
            self.assertEqual(table.getparent().get("tabindex"), "0")
            width = len(table.xpath("./thead//th"))
            self.assertEqual({len(row) for row in table.xpath("./tbody/tr[not(th)]")} - {width}, set())
        for drawing in page.iter("svg"):
            named = drawing.get("aria-labelledby").split()
            self.assertEqual([one.tag for one in map(page.get_element_by_id, named)], ["title", "desc"])
        policy = page.xpath("//meta[@http-equiv='Content-Security-Policy']/@content")[0]
        self.assertTrue(policy.startswith("default-src 'none';"), policy)
        for tag in ("style", "script"):
            for content in re.findall(rf"<{tag}>(.*?)</{tag}>", text, re.DOTALL):
                digest = base64.b64encode(hashlib.sha256(content.encode()).digest()).decode()
                self.assertIn(f"{tag}-src 'sha256-{digest}'", policy)
        self.assertEqual(page.xpath("//@src|//@style|//link|//iframe|//object|//base|//form"), [])
        self.assertEqual([name for one in page.iter() for name in one.attrib if name.startswith("on")], [])
        self.assertLessEqual(len(page.xpath("//script")), 1)
        for target in page.xpath("//@href"):
            if target.startswith("#"):
                self.assertIn(target[1:], ids)
            else:
                self.assertTrue((path.parent / unquote(target)).is_file(), target)
        return page


class Reports(StudyTest):
    def test_a_study_ends_with_one_page_that_holds_all_of_it(self):
        path = self.study()
        run = self.succeeds("run", "study.toml")
        self.assertIn("wrote out/report.html", run.err)
        page = self.check_page(path)
        text = " ".join(" ".join(one.text_content() for one in page.xpath("//header|//main|//footer")).split())
        for part in (
            *("Two huts", "A. Warden, B. Guest", "2. keyness (key terms): which terms set groups apart"),
            *("read 18 documents, 162 tokens in 2 groups", "left out 45 of 162 tokens: stop list en 45"),
            *(hashlib.sha256(ENTRIES.encode()).hexdigest(), "9 of 18 terms pass", "log-likelihood"),
            *("numpy", "@software{millstone", "millstone run study.toml", "What they say"),
        ):
            self.assertIn(part, text)
        self.assertEqual(len(page.xpath("//svg")), 2)
        link = page.xpath("//table//a[text()='rope']/@href")
        self.assertEqual(set(link), {"#step-4"})
        rows = page.xpath("//section[contains(., 'concordance')]//td[@class='f']/text()")
        self.assertEqual([row.strip() for row in rows], ["rope"] * 18)
        once = path.read_bytes()
        self.succeeds("run", self.folder / "study.toml", inside=self.folder.parent)
        self.assertEqual(path.read_bytes(), once, "the same texts give the same page, from wherever it is made")

    def test_each_command_of_the_page_gives_the_table_of_its_step(self):
        rule = 'source = "id"\nrules = [{ match = "a*", value = "first" }]\notherwise = "it\'s"'
        with_rule = STUDY.replace("[prepare]", f"[corpus.fields.half]\n{rule}\n[prepare]")
        for text, wanted in ((STUDY, "millstone freq entries.csv"), (with_rule, "millstone run study.toml --step 1")):
            path = self.study(text)
            self.succeeds("run", "study.toml")
            commands = parsed(path).xpath("//pre[@aria-label]/text()")
            self.assertTrue(commands[0].startswith(wanted), commands[0])
            for command in commands:
                before = self.files()
                self.succeeds(*shlex.split(command.replace("\\\n", " "))[1:])
                after = self.files()
                self.assertEqual({name for name in before if before[name] != after[name]}, set(), command)

    def test_names_cells_and_titles_stay_text(self):
        rows = "".join(
            f'"{one.replace(chr(34), chr(34) * 2)}","{one.replace(chr(34), chr(34) * 2)}"\n' for one in HOSTILE
        )
        self.write("odd <b>.csv", "name,text\n" + rows)
        self.write("d.toml", '[categories]\n"<i>cold" = ["alert"]\n')
        title = json.dumps(HOSTILE[0] + HOSTILE[1])
        self.write(
            "s.toml",
            f'[study]\ntitle = {title}\nauthors = ["<u>A</u>"]\n[corpus]\ninput = ["odd <b>.csv"]\ntext = "text"\n'
            'id = "name"\ngroup = "name"\n[prepare]\ntokens = "spaces"\n'
            '[[step]]\ncommand = "freq"\nname = "<em>n"\noutput = "a&b.csv"\nchart = "f.svg"\n'
            '[[step]]\ncommand = "concordance"\nfind = ["alert*"]\noutput = "l.html"\n'
            '[[step]]\ncommand = "categories"\ndictionary = ["d.toml"]\nmarked = "m.html"\noutput = "t.html"\n',
        )
        self.succeeds("run", "s.toml")
        for name in ("report.html", "l.html", "m.html", "t.html"):
            with self.subTest(name):
                page = self.check_page(self.folder / name)
                self.assertEqual(page.xpath("//img|//i|//em|//u|//script[contains(., 'alert')]"), [])
        page = parsed(self.folder / "report.html")
        shown = {str(cell.text_content()).strip() for cell in page.xpath("//td")}
        for one in HOSTILE:
            self.assertIn(pages.visible(one.casefold()), shown | {cell.casefold() for cell in shown})
        self.assertEqual(page.findtext(".//title"), HOSTILE[0] + HOSTILE[1])
        self.assertIn("a\u2401b\u241bc", page.text_content())

    def test_which_reports_are_written_and_where(self):
        path = self.study()
        self.succeeds("run", "study.toml", "--no-report")
        self.assertFalse(path.exists())
        self.succeeds("run", "study.toml", "--step", "freq")
        self.assertFalse(path.exists(), "a report of some steps would be half of one")
        self.assertIn("would write out/report.html", self.succeeds("run", "study.toml", "--dry-run").out)
        self.succeeds("run", "study.toml")
        other = self.write("other.toml", STUDY)
        self.fails(1, "report.html is the report of another study, study.toml", "report =", "run", other.name)
        self.succeeds("run", other.name, "--force")
        self.study(STUDY.replace("[corpus]", 'report = "two huts.html"\ndate = "2020-02-29"\n[corpus]', 1))
        self.succeeds("run", "study.toml")
        page = parsed(path.with_name("two huts.html"))
        self.assertEqual(page.xpath("//time/@datetime"), ["2020-02-29"])
        for wrong, what in (
            ('report = "r.csv"', "report is not the name of a page: 'r.csv'"),
            ('report = "a/r.html"', "report is not the name of a page"),
            ('date = "yesterday"', "'yesterday' is not a date"),
            ("authors = [3]", "an author is a name"),
        ):
            self.write(
                "study.toml",
                STUDY.replace('authors = ["A.', f'{wrong}\nauthors_ = ["A.')
                if "authors" not in wrong
                else re.sub(r"authors = .*", wrong, STUDY),
            )
            text = (self.folder / "study.toml").read_text("utf-8")
            self.write("study.toml", re.sub(r"authors_ = .*\n", "", text))
            self.fails(1, what, "write", "run", "study.toml")

    def test_the_same_study_elsewhere_gives_the_same_page(self):
        path = self.study()
        self.succeeds("run", "study.toml")
        other = self.folder / "copy" / "of it"
        shutil.copytree(self.folder, other, ignore=shutil.ignore_patterns("copy", "out"))
        self.succeeds("run", "study.toml", inside=other)
        self.assertEqual((other / "out" / "report.html").read_bytes(), path.read_bytes())


class Words(unittest.TestCase):
    def test_each_setting_of_preparation_has_its_sentence(self):
        self.assertEqual(set(CLAUSES), set(declared(Preparation)))
        said = methods(
            ["t.csv"], InputOptions(text="entry"), Preparation(stop=("en", "x/own.txt"), ngram=(2, 3)), (), Path()
        )
        self.assertEqual(
            said,
            "The texts were read from t.csv (column entry). A token is a word: letters and digits with the apostrophes "
            "and hyphens inside it. The words of the stop lists en and own.txt were left out. What was counted are "
            "n-grams of 2 to 3 words within a sentence. Capital and small letters were counted alike. "
            f"All results were computed with millstone {millstone.__version__}.",
        )

    def test_text_can_be_read_in_both_modes(self):
        style = pages._part("style.css")
        modes = re.findall(r":root \{([^}]*)\}", style)[:2]
        for mode in modes:
            colour = dict(re.findall(r"--(\w+): #([0-9a-f]{6})", mode))
            light = {
                name: 1.05 / contrast_on_white([int(value[at : at + 2], 16) / 255 for at in (0, 2, 4)]) - 0.05
                for name, value in colour.items()
            }
            for ink in ("ink", "soft", "link", "strong"):
                for ground in ("paper", "band", *(["chosen"] if ink == "ink" else [])):
                    low, high = sorted((light[ink], light[ground]))
                    self.assertGreaterEqual((high + 0.05) / (low + 0.05), 4.5, f"{ink} on {ground}")
        self.assertEqual(len(modes), 2)


@unittest.skipUnless(browser.found(), "no Chromium here: pages were parsed, but not opened in a browser")
class InABrowser(StudyTest):
    """Sorting, filtering and the rest, with mouse and keyboard."""

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        try:
            cls.browser = browser.Browser()
        except (OSError, RuntimeError) as error:
            raise unittest.SkipTest(f"Chromium does not start here: {error}") from error
        cls.addClassCleanup(cls.browser.close)

    def column(self, number: int) -> list[str]:
        cells = f"#step-2 ~ .scroll tbody:first-of-type tr:not([data-heading]):not([hidden]) td:nth-child({number})"
        return self.browser.run(
            f"Array.from(document.querySelectorAll({cells!r})).map((one) => one.textContent.trim())"
        )

    def test_tables_sort_filter_hide_and_copy(self):
        path, page = self.study(), self.browser
        self.succeeds("run", "study.toml")
        page.open(path)
        heads = page.run(
            "Array.from(document.querySelectorAll('#step-2 ~ .scroll thead th')).map((one) => one.textContent)"
        )
        at = heads.index("log ratio") + 1
        head = f"#step-2 ~ .scroll thead th:nth-child({at})"
        page.click(f"{head} button")
        down = [float(one) for one in self.column(at)]
        self.assertEqual(down, sorted(down, reverse=True))
        self.assertEqual(page.run(f"document.querySelector('{head}').getAttribute('aria-sort')"), "descending")
        page.press("Enter", 13)
        self.assertEqual([float(one) for one in self.column(at)], sorted(down), "by key, the other way round")
        self.assertEqual(page.run(f"document.querySelector('{head}').getAttribute('aria-sort')"), "ascending")
        terms = heads.index("term") + 1
        page.click(f"#step-2 ~ .scroll thead th:nth-child({terms}) button")
        self.assertEqual(self.column(terms), sorted(self.column(terms), key=str.lower))
        for typed, wanted in (
            ("ro?e", {"rope", "froze"} & {"rope"}),
            ("ice", {"ice"}),
            ("s*", {"snow", "socks", "stage"}),
        ):
            page.run(
                "(() => { const one = document.querySelector('#step-2 ~ .tools input');"
                f" one.value = {json.dumps(typed)}; one.dispatchEvent(new Event('input')); }})()"
            )
            self.assertEqual({*self.column(terms)} & {"rope", "ice", "snow", "socks", "stage", "froze"}, wanted)
        page.run(
            "(() => { const one = document.querySelector('#step-1 ~ .tools'); one.querySelectorAll('button')[0].click(); })()"
        )
        self.assertTrue(page.run("document.querySelector('#step-1 ~ .scroll tbody').hidden"))
        page.call("Browser.grantPermissions", permissions=["clipboardReadWrite", "clipboardSanitizedWrite"])
        page.run("document.querySelector('#step-1 ~ .tools button:last-of-type').click()")
        copied = page.run("new Promise((done) => setTimeout(done, 100)).then(() => navigator.clipboard.readText())")
        lines = copied.splitlines()
        self.assertEqual(lines[0].split("\t")[:3], ["list", "rank", "term"])
        self.assertEqual({line.split("\t")[0] for line in lines[1:]}, {"Ostrel"})
        self.check_quiet(path)

    def check_quiet(self, path: Path) -> None:
        """Nothing was asked of any host, and nothing went wrong."""
        self.assertEqual(set(self.browser.requests), {path.resolve().as_uri()})
        self.assertEqual(self.browser.errors, [])
        self.browser.requests.clear()

    def test_pages_fit_narrow_windows_and_dark_ones(self):
        path, page = self.study(), self.browser
        self.succeeds("run", "study.toml")
        self.succeeds("concordance", "entries.csv", "--text", "entry", "--find", "rope", "-o", "lines.html")
        self.succeeds(
            "categories",
            "entries.csv",
            "--text",
            "entry",
            "--dictionary",
            "words.toml",
            "--marked",
            "m.html",
            "-o",
            "t.html",
        )
        for one in (path, *(self.folder / name for name in ("lines.html", "m.html", "t.html"))):
            for width, height, dark in ((1280, 800, False), (360, 740, False), (320, 256, True)):
                with self.subTest(page=one.name, width=width):
                    page.open(one, width, height, dark)
                    self.assertLessEqual(page.run("document.documentElement.scrollWidth"), width)
                    ground = page.run("getComputedStyle(document.body).backgroundColor")
                    self.assertEqual(ground, "rgb(21, 25, 29)" if dark else "rgb(255, 255, 255)")
            self.check_quiet(one)
        page.call("Emulation.setScriptExecutionDisabled", value=True)
        page.call("Page.navigate", url=path.resolve().as_uri())
        page.call("Emulation.setScriptExecutionDisabled", value=False)
        page.requests.clear()

    def test_lines_sort_by_their_contexts(self):
        self.study()
        self.succeeds("concordance", "entries.csv", "--text", "entry", "--find", "rope", "-o", "lines.html")
        self.browser.open(self.folder / "lines.html")
        self.browser.click("button[data-by=right]")
        right = self.browser.run(
            "Array.from(document.querySelectorAll('summary .t')).map((one) => one.textContent.trim())"
        )
        self.assertEqual([one.split()[0] for one in right], ["froze"] * 9 + ["held."] * 9)
        self.browser.requests.clear()

    def test_hostile_text_does_not_run(self):
        self.write(
            "t.csv", "name,text\n" + "".join(f'"{one.replace(chr(34), chr(34) * 2)}",rope\n' for one in HOSTILE)
        )
        self.write(
            "s.toml", '[corpus]\ninput = ["t.csv"]\ntext = "text"\ngroup = "name"\n[[step]]\ncommand = "freq"\n'
        )
        self.succeeds("run", "s.toml")
        self.browser.open(self.folder / "report.html", 360, 740)
        self.assertLessEqual(self.browser.run("document.documentElement.scrollWidth"), 360)
        self.check_quiet(self.folder / "report.html")


class Bundles(StudyTest):
    """A study as one archive."""

    def unpacked(self, name: str) -> Path:
        place = self.folder / f"unpacked {name}"
        with zipfile.ZipFile(self.folder / name) as archive:
            archive.extractall(place)
        return place

    def test_unpacked_elsewhere_it_gives_the_same_bytes(self):
        self.study(STUDY.replace("[corpus]", 'licence = "CC-BY-4.0"\n[corpus]', 1))
        # made from another folder than it will be run in
        self.succeeds(
            "run",
            f"{self.folder.name}/study.toml",
            "--bundle",
            self.folder / "b.zip",
            "--with-inputs",
            inside=self.folder.parent,
        )
        place = self.unpacked("b.zip")
        packed = {str(one.relative_to(place)): one.read_bytes() for one in place.rglob("*") if one.is_file()}
        for path in place.rglob("*"):
            os.utime(path, (0, 0))
        self.succeeds("run", "study.toml", "--bundle", "again.zip", "--with-inputs", inside=place)
        self.assertEqual((place / "again.zip").read_bytes(), (self.folder / "b.zip").read_bytes())
        after = {name: (place / name).read_bytes() for name in packed}
        self.assertEqual({name for name in packed if after[name] != packed[name]}, set())
        for name, content in packed.items():
            if name not in ("study.toml", "ro-crate-metadata.json") and not name.endswith("ledger.json"):
                self.assertEqual((self.folder / name).read_bytes(), content)

    def test_the_description_names_each_part_with_its_checksum(self):
        self.study(STUDY.replace("[corpus]", 'licence = "see the hut"\n[corpus]', 1))
        self.succeeds("run", "study.toml", "--bundle", "b.zip")
        place = self.unpacked("b.zip")
        self.assertFalse((place / "entries.csv").exists(), "texts are packed only where that is asked for")
        described = json.loads((place / "ro-crate-metadata.json").read_text("utf-8"))
        graph = {one["@id"]: one for one in described["@graph"]}
        self.assertEqual(len(graph), len(described["@graph"]))
        self.assertEqual(graph["ro-crate-metadata.json"]["conformsTo"], {"@id": "https://w3id.org/ro/crate/1.1"})
        root = graph["./"]
        self.assertEqual((root["@type"], root["name"], root["license"]), ("Dataset", "Two huts", {"@id": "#licence"}))
        self.assertEqual([graph[one["@id"]]["name"] for one in root["author"]], ["A. Warden", "B. Guest"])
        self.assertIn({"@id": "https://orcid.org/0000-0000-0000-0000"}, root["author"])
        parts = {one["@id"] for one in root["hasPart"]}
        files = {str(one.relative_to(place)) for one in place.rglob("*") if one.is_file()}
        self.assertEqual(parts, {name for name in files if "ledger" not in name} - {"ro-crate-metadata.json"})
        for name in parts:
            data = (place / name).read_bytes()
            self.assertEqual(
                (graph[name]["sha256"], graph[name]["contentSize"]),
                (hashlib.sha256(data).hexdigest(), str(len(data))),
            )
        self.assertEqual(graph["#text-1"]["sha256"], hashlib.sha256(ENTRIES.encode()).hexdigest())
        run = graph["#run"]
        self.assertEqual({one["@id"] for one in run["object"]}, {"study.toml", "words.toml", "#text-1"})
        referred = [
            one
            for value in (*run.values(), *root.values())
            if isinstance(value, list | dict)
            for one in (value if isinstance(value, list) else [value])
        ]
        self.assertLessEqual({one["@id"] for one in referred}, set(graph))

    def test_what_cannot_be_packed(self):
        self.study()
        self.fails(
            2, "--bundle holds a whole study", "leave one", "run", "study.toml", "--bundle", "b.zip", "--step", "1"
        )
        self.fails(2, "there is no --bundle", "add --bundle", "run", "study.toml", "--with-inputs")
        self.fails(2, "b.tar does not end in .zip", "FILE.zip", "run", "study.toml", "--bundle", "b.tar")
        self.write(
            "in/study.toml", STUDY.replace("entries.csv", "../entries.csv").replace("words.toml", "../words.toml")
        )
        run = self.millstone("run", "in/study.toml", "--bundle", "b.zip", "--trust")
        self.check_failure(
            Run(run.code, run.out, "\n".join(run.err.splitlines()[-2:])),
            1,
            "../words.toml lies outside the folder of the study",
            "move it into that folder",
        )
        self.assertFalse((self.folder / "b.zip").exists())
