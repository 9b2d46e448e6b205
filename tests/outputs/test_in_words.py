"""Findings in words: against fixed tables, with hostile names, and never more than the table has."""

import re
import unittest

import numpy as np

from millstone.analyses.base.analysis import analysis_named
from millstone.core.corpus.corpus import GroupSize
from millstone.core.tables.result import Result
from millstone.core.tables.table import Table
from millstone.study.record.in_words import in_words
from millstone.study.record.in_words.sentence import plain, times
from tests.cli.program import ProgramTest

SIZES = (GroupSize("A", 10, 1000), GroupSize("B", 30, 4000), GroupSize("C", 5, 500))
NAN = np.nan
OWNERS = {"contexts": "collocates"}
HOSTILE = "<b>\"x\" & 'y'</b>"


def result_of(command: str, rows: list[tuple], names: str, **settings: object) -> Result:
    table = Table.of_rows(rows, names.split())
    owner = analysis_named(OWNERS.get(command, command))
    schema = next(one for one in (owner.schema(), *owner.further_schemas()) if one.name == command)
    return Result(command, table, schema.of_table(table.names), SIZES, settings, schema=schema)


KEYNESS = "target reference term freq_target freq_reference log_ratio log_ratio_low log_ratio_high ll ll_documents p_adjusted"
CONTRAST = "value group_a group_b mean_a mean_b hedges_g ci_low ci_high p_adjusted"
TABLES = {
    "keyness": (
        KEYNESS,
        [
            ("A", "rest", "rope", 20, 9, 3.0, 1.0, 5.0, 50.0, 40.0, 0.001),
            ("A", "rest", "ice", 30, 0, 6.0, 4.0, NAN, 60.0, 30.0, 0.002),
            ("A", "rest", "tea", 1, 44, -2.0, -4.0, -1.0, 30.0, 20.0, 0.01),
            ("A", "rest", "door", 9, 30, 0.5, -1.0, 2.0, 30.0, 1.0, 0.6),
            ("A", "rest", "wall", 9, 36, 0.0, -1.0, 1.0, 0.0, 0.0, 1.0),
        ],
        [
            "A (10 documents, 1,000 tokens) was compared with the rest (35 documents, 4,500 tokens).",
            "3 terms of the 5 listed pass (p adjusted below 0.05, over documents); 1 more would pass over tokens, but it "
            "does not hold over documents.",
            "More frequent in A, by the least difference that the interval allows: ice (30 there, none in the rest, at "
            "least 16 times as frequent); rope (8.0 times as frequent, 95 % interval 2.0 to 32).",
            "More frequent in the rest, by the least difference that the interval allows: tea (4.0 times as frequent, 95 % "
            "interval 2.0 to 16).",
        ],
    ),
    "contexts": (
        KEYNESS.replace("target", "group target", 1).replace("term", "collocate").replace("freq_", "together_"),
        [
            ("A", "hut", "inn", "rope", 20, 9, 3.0, 1.0, 5.0, 50.0, 40.0, 0.001),
            ("A", "hut", "inn", "beer", 0, 30, -6.0, NAN, -4.0, 60.0, 30.0, 0.002),
            ("A", "hut", "inn", "door", 9, 30, 0.5, -1.0, 2.0, 30.0, 1.0, 0.6),
        ],
        [
            "What is near hut was compared with what is near inn in A (10 documents, 1,000 tokens).",
            "2 terms of the 3 listed pass (p adjusted below 0.05, over documents); 1 more would pass over tokens, but it "
            "does not hold over documents.",
            "More frequent near hut, by the least difference that the interval allows: rope (8.0 times as frequent, 95 % "
            "interval 2.0 to 32).",
            "More frequent near inn, by the least difference that the interval allows: beer (30 there, none near hut, at "
            "least 16 times as frequent).",
        ],
    ),
    "logodds": (
        "target against rank term freq freq_against z",
        [("A", "B", 1, "rope", 20, 9, 4.25), ("A", "B", 2, "tea", 1, 44, -2.0)],
        [
            "A (10 documents, 1,000 tokens) against B (30 documents, 4,000 tokens).",
            "The highest z: rope (z 4.2, 20 against 9); z orders terms and is not a test.",
        ],
    ),
    "freq": (
        "group rank term freq per_million",
        [("A", 1, "the", 90, 90000.0), ("A", 2, "ice", 9, 9000.0)],
        [
            "In A (10 documents, 1,000 tokens) the commonest of the 2 terms listed: the (90,000 per million tokens); ice "
            "(9,000 per million tokens).",
        ],
    ),
    "contrast": (
        CONTRAST,
        [
            ("fear", "A", "B", 0.5, 1.5, -0.8, -1.5, -0.5, 0.01),
            ("food", "A", "B", 2.0, 2.0, 0.0, -1.0, 1.0, 0.9),
        ],
        [
            "A (10 documents, 1,000 tokens) was compared with B (30 documents, 4,000 tokens).",
            "They differ in 1 of 2 values (p adjusted below 0.05, over documents).",
            "The largest in standard deviations: fear (means 0.50 and 1.5, g -0.80, 95 % interval of the difference -1.5 "
            "to -0.50).",
        ],
    ),
    "concordance": (
        "line document group left found right",
        [(1, "d1", "A", "the", "rope", "froze"), (2, "d1", "A", "a", "rope", "."), (3, "d2", "B", "", "rope", "")],
        ["3 lines of 2 documents: A 2, B 1."],
    ),
    "alike": (
        "node term similarity",
        [("stove", "fire", 0.42)],
        ["Used most like stove (similarity of contexts, 1 at most): fire (0.42)."],
    ),
    "network": (
        "term_a term_b together association",
        [("ice", "rope", 12, 0.5)],
        ["1 link; the strongest: ice and rope (0.50, together 12)."],
    ),
}


class InWords(unittest.TestCase):
    def test_fixed_tables(self) -> None:
        for command, (names, rows, expected) in TABLES.items():
            with self.subTest(command):
                said = list(map(str, in_words(result_of(command, rows, names))))
                self.assertEqual(
                    said,
                    expected,
                )

    def test_every_number_is_of_its_row(self) -> None:
        for command, (names, rows, _) in TABLES.items():
            result = result_of(command, rows, names)
            known = {str(cell) for row in rows for cell in row}
            for one in in_words(result):
                for part in one.parts:
                    if not isinstance(part, str):
                        self.assertLessEqual(set(part.row), known, command)
                        rows_of = [one for one in result.row_names(result.table) if part.row[-len(one) :] == one]
                        self.assertEqual(len(rows_of), 1, f"{command}: one row, and no other")

    def test_what_the_table_lacks_is_not_said(self) -> None:
        _, rows, _ = TABLES["keyness"]
        untested = [(*row[:-1], NAN) for row in rows]
        said = " ".join(map(str, in_words(result_of("keyness", untested, KEYNESS))))
        self.assertIn("No p is given", said)
        self.assertNotIn("More frequent", said)
        over_tokens = [(*row[:-2], NAN, row[-1]) for row in rows]
        said = " ".join(map(str, in_words(result_of("keyness", over_tokens, KEYNESS))))
        self.assertIn("over tokens, which says nothing of other texts", said)
        self.assertNotIn("documents)", said.partition("compared with")[2].partition(".")[2])
        nothing = [(*row[:-1], 0.9) for row in rows]
        said = " ".join(map(str, in_words(result_of("keyness", nothing, KEYNESS))))
        self.assertIn("0 terms of the 5 listed pass", said)
        self.assertNotIn("More frequent", said)
        self.assertEqual(in_words(result_of("keyness", [], KEYNESS)), [])
        self.assertEqual(in_words(result_of("keyness", [("ice",)], "term")), [], "--columns term")
        for adjective in ("significant", "strong ", "important", "clearly", "remarkable", "much "):
            for command, (names, rows, _) in TABLES.items():
                self.assertNotIn(adjective, " ".join(map(str, in_words(result_of(command, rows, names)))))

    def test_many_lists_are_not_all_told(self) -> None:
        rows = [(f"g{n}", "rest", "ice", 3, 4, 1.0, 0.5, 2.0, 9.0, 9.0, 0.01) for n in range(9)]
        said = list(map(str, in_words(result_of("keyness", rows, KEYNESS))))
        self.assertEqual(sum("was compared" in one for one in said), 3)
        self.assertEqual(said[-1], "6 more lists are in the table.")

    def test_numbers_as_they_are_read(self) -> None:
        for value, expected in (
            (0.0, "0"),
            (0.0684, "0.068"),
            (12.34, "12"),
            (1234.5, "1,234"),
            (-0.5, "-0.50"),
            (2e-7, "2e-07"),
        ):
            self.assertEqual(plain(value), expected)
        self.assertEqual((times(3), times(-1), times(99)), ("8.0", "0.50", "over 1,073,741,824"))


class Typed(ProgramTest):
    def test_say_and_the_report_with_hostile_names(self) -> None:
        self.write(
            "t.csv",
            "hut,entry\n"
            + "".join(
                f"{hut},ice ice rope {n}\n"
                for n, hut in enumerate([f'"{HOSTILE.replace(chr(34), chr(34) * 2)}"', "B"] * 6)
            ),
        )
        run = self.succeeds("keyness", "t.csv", "--text", "entry", "--group", "hut", "--say")
        self.assertIn(f"{HOSTILE} (6 documents, 24 tokens) was compared with B (6 documents, 24 tokens).", run.err)
        self.write(
            "study.toml",
            '[study]\ntitle = "x"\n[corpus]\ninput = "t.csv"\ntext = "entry"\ngroup = "hut"\n[[step]]\ncommand = "keyness"\noutput = "k.csv"\n'
            '[[step]]\ncommand = "freq"\nsay = true\noutput = "f.csv"\n',
        )  # fmt: skip
        self.succeeds("run", "study.toml")
        page = (self.folder / "report.html").read_text("utf-8")
        findings = page.partition('id="findings"')[2].partition("</section>")[0]
        self.assertIn("&lt;b&gt;", findings)
        self.assertNotIn("<b>", findings)
        links = re.findall(r'href="#(row-[\d-]+)"', findings)
        self.assertGreater(len(links), 3)
        for link in links:
            self.assertEqual(page.count(f"<tr id={link}>"), 1, "each number leads to its row")


if __name__ == "__main__":
    unittest.main()
