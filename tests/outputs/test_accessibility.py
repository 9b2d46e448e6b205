"""Every kind of page held against a general accessibility checker, where it and a browser can be had."""

import importlib.util
import json
import unittest
from pathlib import Path

from tests import browser
from tests.cli.program import ProgramTest

_PACKAGE = "axe_core_python"
_STUDY = """
[study]
title = "Huts"
[corpus]
input = "t.csv"
text = "entry"
group = "hut"
[[step]]
command = "keyness"
output = "k.csv"
chart = "k.png"
[[step]]
command = "freq"
output = "f.csv"
chart = "f.svg"
chart_kind = "cloud"
"""


@unittest.skipUnless(browser.found() and importlib.util.find_spec(_PACKAGE), f"no browser, or no {_PACKAGE}")
class Accessibility(ProgramTest):
    def test_no_page_has_a_fault(self) -> None:
        rows = [
            f"{'AB'[n % 2]},the rope froze and the stove {'rope' if n % 2 else 'tea'} was warm {n}" for n in range(40)
        ]
        self.write("t.csv", "\n".join(["hut,entry", *rows]))
        self.write("d.toml", '[categories]\nwarm = ["tea", "stove"]\n')
        self.write("study.toml", _STUDY)
        texts = ("t.csv", "--text", "entry", "--group", "hut")
        self.succeeds("run", "study.toml")
        self.succeeds("keyness", *texts, "-o", "table.html")
        self.succeeds("concordance", *texts, "--find", "rope", "-o", "lines.html")
        self.succeeds("categories", *texts, "--dictionary", "d.toml", "--marked", "marked.html")
        package = Path(str(importlib.util.find_spec(_PACKAGE).origin)).parent
        checker = (package / "axe.min.js").read_text("utf-8")
        one = browser.Browser()
        self.addCleanup(one.close)
        for name in ("report.html", "table.html", "lines.html", "marked.html"):
            for dark in (False, True):
                with self.subTest(name, dark=dark):
                    one.open(self.folder / name, dark=dark)
                    while one.run("location.pathname").rpartition("/")[2] != name or not one.run(
                        "!!document.querySelector('main')"
                    ):
                        pass
                    # the page allows no scripts but its own; the protocol may run any
                    one.run(checker)
                    found = json.loads(one.run("axe.run().then(one => JSON.stringify(one.violations))"))
                    self.assertEqual([(fault["id"], fault["nodes"][0]["html"][:200]) for fault in found], [])


if __name__ == "__main__":
    unittest.main()
