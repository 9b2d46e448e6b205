"""Schemas and registries: what is declared once is found everywhere."""

import contextlib
import io
import json
import os
import re
import tempfile
import unittest
from pathlib import Path
from unittest import mock

import numpy as np

from millstone.analyses import STEPS
from millstone.analyses.base.analysis import analysis_named
from millstone.analyses.collocates import measures as of_collocates
from millstone.analyses.keyness import measures as of_keyness
from millstone.analyses.network import measures as of_nodes
from millstone.cli.main import main
from millstone.cli.manual.tables import measures_of, tables_page
from millstone.core.tables.columns import number
from millstone.core.tables.measures import Measure

TEXTS = {
    "a/1.txt": "rope rope ice stove the rope. the stove and ice. rope near the stove.",
    "a/2.txt": "rope and ice and the stove; ice near rope, rope near ice.",
    "b/1.txt": "boat and soup near the stove, boat near the soup, soup and boat.",
    "b/2.txt": "soup near boat, the boat and the stove, soup soup.",
}
# a measure for each kind, the command that shows it, and how it is asked for
ADDED = {
    "keyness": (
        of_keyness.MEASURES,
        of_keyness.KeynessMeasure(number("gap", "the gap", "a less b"), lambda s: s.a - s.b, "a - b", "Warden 2024"),
        ("--measures", "gap"),
    ),
    "collocates": (
        of_collocates.MEASURES,
        Measure(
            number("gap", "the gap", "f2 less f12"), lambda one: one.freq - one.together, "f2 - f12", "Warden 2024"
        ),
        ("--find", "stove", "--min-together", "1"),
    ),
    "network": (
        of_nodes.MEASURES,
        Measure(
            number("gap", "the gap", "its number"), lambda one: np.arange(one.number), "0, 1, ...", "Warden 2024"
        ),
        ("--min-together", "1"),
    ),
}


class Screen(io.StringIO):
    """A terminal that keeps what it shows."""

    def isatty(self) -> bool:
        return True


class Added(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        for name, text in TEXTS.items():
            path = self.folder / "texts" / name
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_text(text, "utf-8")
        self.enterContext(mock.patch.dict(os.environ, {"COLUMNS": "220"}))

    def shown(self, *arguments: str) -> str:
        with contextlib.redirect_stdout(Screen()) as out, contextlib.redirect_stderr(io.StringIO()) as err:
            status = main([*arguments, "--quiet"] if "--help-all" not in arguments else list(arguments))
        self.assertEqual(status, 0, err.getvalue())
        return out.getvalue()

    def test_a_measure_of_a_registry_is_found_everywhere(self):
        for command, (registry, measure, asked) in ADDED.items():
            registry.add(measure)
            self.addCleanup(registry.remove, "gap")
            typed = (command, str(self.folder / "texts"), *asked)
            file = self.folder / f"{command}.csv"
            with self.subTest(command):
                option = "--nodes" if command == "network" else "-o"
                self.shown(*typed, option, str(file))
                self.assertIn("gap", file.read_text("utf-8").splitlines()[0].split(","))
                known = json.loads(file.with_name(f"{file.name}-metadata.json").read_text("utf-8"))
                said = {one["name"]: one for one in known["tableSchema"]["columns"]}["gap"]
                self.assertIn(measure.column.meaning, json.dumps(said))
                shown = self.shown(*typed, "--legend", *(("--nodes", "-") if command == "network" else ()))
                self.assertIn("the gap", " ".join(shown.split()))
                self.assertIn(f"gap: {measure.column.meaning}", shown)
                self.assertRegex(self.shown(command, "--help-all"), r"\bgap\b")
                self.assertIn(f"| `gap` | {measure.formula} | Warden 2024 |", tables_page())
            if command == "network":
                continue
            with self.subTest(command, what="columns and sort"):
                blocks = self.shown(*typed, "--columns", "gap", "--sort", "gap").split("\n\n")
                found = [[float(one) for one in re.findall(r"^ *(-?[\d.]+) *$", block, re.M)] for block in blocks]
                self.assertGreater(max(map(len, found)), 3)
                for values in found:
                    self.assertEqual(values, sorted(values, reverse=True))


class Declared(unittest.TestCase):
    def test_columns_are_declared_once_and_say_what_they_mean(self):
        for command in STEPS:
            analysis = analysis_named(command)
            for schema in (analysis.schema(), *analysis.further_schemas()):
                with self.subTest(schema.name):
                    self.assertEqual(len(schema.names), len(set(schema.names)))
                    for one in schema.columns:
                        self.assertTrue(one.title and one.meaning, one.name)
                        self.assertIn(one.partner or one.name, schema.names)
                    self.assertLessEqual({*schema.blocks, *schema.largest_first}, set(schema.names))

    def test_measures_have_a_formula_and_their_column_is_in_the_table(self):
        for command in STEPS:
            for name, one in (measures_of(command) or {}).items():
                with self.subTest(command, measure=name):
                    self.assertTrue(one.formula)
                    every = [analysis_named(command).schema(), *analysis_named(command).further_schemas()]
                    self.assertTrue(any(name in schema.names for schema in every))


if __name__ == "__main__":
    unittest.main()
