"""Coding sheets: which units are drawn and with what weight, how sheets look, what is refused."""

import csv
import io
import json
import runpy
import shutil
import unittest
import zipfile
from collections.abc import Callable, Mapping
from pathlib import Path

import numpy as np
import openpyxl

import millstone
from millstone.analyses.code.sample import coders_of, drawn_units, entries_of, strata_of
from millstone.core.coding.sealed import Sealed
from millstone.core.corpus.corpus_units import cut_corpus
from millstone.core.dictionary.matches import find_matches
from millstone.outputs.files.sealing import unpacked
from millstone.texts.inputs.lists.dictionaries import read_dictionaries
from tests.cli.program import ProgramTest
from tests.core.builders import corpus_of

ROOT = Path(__file__).parent.parent.parent
DICTIONARY = """[categories]
fear = ["afraid", "scared", "dread*", "terror"]
food = ["soup", "bread"]
"""


def texts(number: int) -> list[tuple[str, str, str]]:
    chance = np.random.default_rng(3)
    words = ["afraid", "soup", "bread", *["stone", "path", "rain", "wood"] * 12]
    found = []
    for one in range(number):
        sentences = [" ".join(chance.choice(words, 6)) for _ in range(12)]
        if one % 7 == 0:
            sentences.append(f"We were scared of rain {one}")
        if one % 19 == 0:
            sentences.append("dreadful soup")
        found.append((str(one), "ab"[one % 2], ". ".join(sentences) + "."))
    return found


class Sample(ProgramTest):
    def test_weights_bring_back_how_many_units_have_a_hit(self) -> None:
        corpus = corpus_of(texts(60), ordered=True)
        starts = cut_corpus(corpus, "sentence").sequence[1]
        dictionary = read_dictionaries((str(self.write("d.toml", DICTIONARY)),), ())
        matches = find_matches(corpus, dictionary)
        names = dictionary.shown_categories
        strata = strata_of(matches, names, starts, 80)
        entries = entries_of(matches, names, starts, np.arange(len(starts) - 1))
        hits = np.array([[one is not None for one in row] for row in entries])
        self.assertEqual(int(strata.sizes.sum()), len(starts) - 1)
        self.assertEqual((strata.of == 0).tolist(), (~hits.any(axis=1)).tolist())
        self.assertLessEqual(abs(int(strata.drawn.sum()) - 80), 2)
        self.assertTrue((strata.drawn <= strata.sizes).all())
        self.assertTrue((strata.drawn[strata.sizes > 1] >= 2).all())
        weight = (strata.sizes / np.maximum(strata.drawn, 1))[strata.of]
        # what is no stratum of its own is estimated without bias: units whose sixth word is rain
        odd = np.arange(len(starts) - 1) % 5 == 0
        seen = [float((weight[one] * odd[one]).sum()) for one in (drawn_units(strata, seed) for seed in range(300))]
        self.assertLess(abs(np.mean(seen) - odd.sum()), 4 * np.std(seen) / np.sqrt(300))
        again = drawn_units(strata, 1)
        self.assertEqual(again.tolist(), drawn_units(strata, 1).tolist())
        self.assertEqual(len(set(again.tolist())), len(again))

    def test_units_are_shared_among_coders(self) -> None:
        for coders, overlap, shared in ((1, 0.3, 10), (2, 0.3, 3), (3, 0.0, 0), (2, 1.0, 10)):
            found = coders_of(10, coders, overlap)
            self.assertEqual(sum(len(one) == coders for one in found), shared if coders > 1 else 10)
            self.assertEqual({coder for one in found for coder in one}, set(range(coders)))


class Sheets(ProgramTest):
    def setUp(self) -> None:
        super().setUp()
        self.write("d.toml", DICTIONARY)
        for name, group, text in texts(60):
            self.write(f"t/{group}/{name}.txt", text)
        self.code = ("code", "t", "--dictionary", "d.toml", "--unit", "sentence", "--sample", "40")

    def test_a_sheet_says_nothing_of_hits_and_its_companion_does(self) -> None:
        run = self.succeeds(*self.code, "-o", "sheet.csv")
        self.assertRegex(run.err, r"note: \d+ units drawn of \d+: \d+ with a hit, in \d+ strata of entries")
        rows = self.table("sheet.csv")
        self.assertEqual(list(rows[0]), ["coder", "unit_id", "document", "text", "before", "after", "fear", "food"])
        self.assertEqual({row["fear"] + row["food"] for row in rows}, {""})
        notes = json.loads((self.folder / "sheet.csv-metadata.json").read_text("utf-8"))["notes"][0]
        self.assertNotIn("afraid", json.dumps(notes))
        sealed = unpacked(notes["sealed"])
        self.assertEqual({row["unit_id"] for row in rows}, set(sealed.units))
        self.assertEqual(sealed.entries, (("afraid", "scared", "dread*", "terror"), ("soup", "bread")))
        for row in rows:
            unit = sealed.units[row["unit_id"]]
            words = {word.strip(".,").lower() for word in row["text"].split()}
            for hits, known in zip(
                unit.hits, ({"afraid": 0, "scared": 1, "dreadful": 2}, {"soup": 0, "bread": 1}), strict=True
            ):
                self.assertEqual(hits, tuple(sorted(known[word] for word in words & set(known))) or None, row)
            self.assertEqual(unit.stratum == 0, unit.hits == (None, None))
            self.assertTrue(row["document"].startswith(f"{unit.group}/"))
        self.assertTrue(all(row["text"].endswith(".") for row in rows))
        self.succeeds(*self.code, "-o", "again.csv")
        self.assertEqual((self.folder / "again.csv").read_bytes(), (self.folder / "sheet.csv").read_bytes())
        other = self.succeeds(*self.code, "--seed", "2", "-o", "other.csv")
        self.assertIn("units drawn", other.err)
        both = {row["unit_id"]: row["text"] for row in rows}
        self.assertTrue(all(both.get(row["unit_id"], row["text"]) == row["text"] for row in self.table("other.csv")))

    def test_a_workbook_offers_1_and_0_to_each_coder(self) -> None:
        self.succeeds(*self.code, "--coders", "2", "--overlap", "0.5", "-o", "sheets.xlsx")
        book = openpyxl.load_workbook(self.folder / "sheets.xlsx")
        self.assertEqual(book.sheetnames, ["A", "B", "about"])
        for name in ("A", "B"):
            offered = book[name].data_validations.dataValidation
            self.assertEqual([str(one.sqref)[0] for one in offered], ["G", "H"])
            self.assertEqual({one.formula1 for one in offered}, {'"1,0"'})
            self.assertTrue(all(one.allow_blank for one in offered))
        ids = [{row[1].value for row in book[name].iter_rows(min_row=2)} for name in ("A", "B")]
        self.assertGreater(len(ids[0] & ids[1]), 10)
        sealed = "".join(str(row[1].value)[1:] for row in book["about"].iter_rows() if row[0].value == "sealed")
        self.assertEqual(ids[0] | ids[1], set(unpacked(sealed).units))
        self.succeeds(*self.code, "--coders", "2", "-o", "sheets/")
        self.assertEqual({path.name for path in (self.folder / "sheets").glob("*.csv")}, {"A.csv", "B.csv"})

    def test_what_cannot_be_coded(self) -> None:
        self.write("odd.toml", '[categories]\ntext = ["soup"]\n')
        self.write("long.txt", "soup and bread here " * 100)
        self.write("none.toml", '[categories]\nawe = ["sublime"]\n')
        self.each_fails(
            [
                (2, "code needs a dictionary", "--dictionary", "code", "t"),
                (1, "a category is called text, as a column of the sheet is", "rename", "code", "t", "--dictionary", "odd.toml"),
                (2, "--sample: must be 4 or more, not 1", "", *self.code, "--sample", "1"),
                (2, "--overlap", "", *self.code, "--coders", "2", "--overlap", "3"),
                (1, "there is no dictionary no.toml", "check", "code", "t", "--dictionary", "no.toml"),
            ]
        )  # fmt: skip
        run = self.succeeds(
            "code", "t", "--dictionary", "none.toml", "--sample", "10", "-o", "none.csv", "--unit", "sentence"
        )
        self.assertIn("no unit is drawn for awe", run.err)
        self.assertEqual(len(self.table("none.csv")), 10)
        whole = self.succeeds("code", "t", "--dictionary", "d.toml", "--sample", "8", "-o", "whole.csv")
        self.assertIn("rain", self.table("whole.csv")[0]["text"] + self.table("whole.csv")[1]["text"])
        self.assertNotIn("--unit sentence draws", whole.err)
        long = self.succeeds("code", "long.txt", "--dictionary", "d.toml", "--sample", "8")
        self.assertIn("units are whole documents, of 400 words in the middle: --unit sentence", long.err)
        few = self.succeeds(
            "code", "t/a/0.txt", "--dictionary", "d.toml", "--sample", "200", "-o", "few.csv", "--unit", "sentence"
        )
        self.assertIn("units drawn of", few.err)
        self.assertEqual(len(self.table("few.csv")), 14)


DEMO = Path(millstone.__file__).parent / "data" / "demo"
DRAWN = ("guestbook.csv", "--text", "entry", "--id", "entry_id", "--group", "hut", "--unit", "sentence")
Code = Callable[[Mapping[str, str], str], str]


def is_of(row: Mapping[str, str], name: str) -> bool:
    """Of fear by words that the dictionary has and one that it has not; of food by soup alone."""
    return bool(
        {"fear": {"afraid", "scared", "rain"}, "food": {"soup"}}[name]
        & set(row["text"].lower().replace(".", "").split())
    )


class OfSheets(ProgramTest):
    """Sheets of 120 of some 780 sentences, filled in by rules."""

    def setUp(self) -> None:
        super().setUp()
        self.write("d.toml", DICTIONARY)
        for name, group, text in texts(60):
            self.write(f"t/{group}/{name}.txt", text)
        self.code = ("code", "t", "--dictionary", "d.toml", "--unit", "sentence")
        self.succeeds(*self.code, "--sample", "120", "-o", "sheet.csv")
        self.sealed = self.seal_of("sheet.csv")

    def seal_of(self, name: str) -> Sealed:
        notes = json.loads((self.folder / f"{name}-metadata.json").read_text("utf-8"))["notes"][0]
        return unpacked(notes["sealed"])

    def fill(self, name: str, code: Code, source: str = "sheet.csv", **written: str) -> list[dict[str, str]]:
        """A copy of a sheet with codes; the companion stays with the original."""
        rows = [{**row, **{one: code(row, one) for one in ("fear", "food")}} for row in self.table(source)]
        self.put(name, rows, **written)
        return rows

    def put(
        self, name: str, rows: list[dict[str, str]], delimiter: str = ",", mark: str = "", coder: str = ""
    ) -> None:
        file = io.StringIO()
        writer = csv.DictWriter(file, list(rows[0]), delimiter=delimiter)
        writer.writeheader()
        writer.writerows([{**row, "coder": coder or row["coder"]} for row in rows])
        self.write(name, mark + file.getvalue())


class Agreement(OfSheets):
    def test_precision_and_recall_are_those_of_weights_by_hand(self) -> None:
        rows = self.fill("sheet.csv", lambda row, name: str(int(is_of(row, name))))
        run = self.succeeds("agreement", "sheet.csv", "--entries", "e.csv", "--cases", "c.csv", "-o", "a.csv")
        self.assertRegex(run.err, r"note: (\d+) units of \1 coded, by A \1")
        drawn = {row["unit_id"]: row for row in rows}
        number = np.bincount([self.sealed.units[name].stratum for name in drawn], minlength=len(self.sealed.strata))
        cases = {(row["category"], row["case"]): 0 for row in self.table("c.csv")}
        for column, found in enumerate(self.table("a.csv")):
            name = found["category"]
            sums = {(hit, code): 0.0 for hit in (True, False) for code in (True, False)}
            for unit, row in drawn.items():
                one = self.sealed.units[unit]
                weight = self.sealed.strata[one.stratum][1] / number[one.stratum]
                sums[one.hits[column] is not None, is_of(row, name)] += weight
            right, wrong, missed = sums[True, True], sums[True, False], sums[False, True]
            for measure, value in (
                ("precision", right / (right + wrong)),
                ("recall", right / (right + missed)),
                ("f1", 2 * right / (2 * right + wrong + missed)),
            ):
                self.assertAlmostEqual(float(found[measure]), value, 12, (name, measure))
                self.assertLessEqual(float(found[f"{measure}_low"]), value)
                self.assertGreaterEqual(float(found[f"{measure}_high"]), value)
            self.assertEqual((found["coders"], found["shared"], found["alpha"]), ("1", "0", ""))
        self.assertEqual(set(cases), {("fear", "wrong hit"), ("fear", "missed"), ("food", "wrong hit")})
        by_entry = {row["entry"]: row for row in self.table("e.csv")}
        # dreadful soup frightens nobody, and bread is no food by the rule
        self.assertEqual((float(by_entry["dread*"]["precision"]), float(by_entry["afraid"]["precision"])), (0, 1))
        self.assertIn("bread", by_entry["bread"]["wrong"])
        order = [(row["category"], float(row["precision"])) for row in self.table("e.csv")]
        self.assertEqual(order, sorted(order))

    def test_coders_are_compared_and_an_arbiter_settles(self) -> None:
        truth: Code = lambda row, name: str(int(is_of(row, name)))  # noqa: E731
        rows = self.fill("one.csv", truth)
        self.fill("other.csv", lambda row, name: truth(row, name) if len(row["text"]) % 3 else "1", coder="B")
        run = self.succeeds("agreement", "sheet.csv", "one.csv", "other.csv", "-o", "a.csv")
        ones = [(truth(row, "fear"), "1" if len(row["text"]) % 3 == 0 else truth(row, "fear")) for row in rows]
        same = sum(a == b for a, b in ones) / len(ones)
        first, second = (sum(pair[at] == "1" for pair in ones) / len(ones) for at in (0, 1))
        chance = first * second + (1 - first) * (1 - second)
        found = self.table("a.csv")[0]
        self.assertAlmostEqual(float(found["percent_agreement"]), 100 * same)
        self.assertAlmostEqual(float(found["kappa"]), (same - chance) / (1 - chance))
        self.assertEqual(int(found["units"]), sum(a == b for a, b in ones))
        tied = len(ones) - int(found["units"])
        self.assertIn(f"fear: {tied} units on which as many coders say 1 as 0 are left out", run.err)
        self.fill("third.csv", truth, coder="C")
        run = self.succeeds(
            "agreement", "sheet.csv", "one.csv", "other.csv", "third.csv", "--arbiter", "C", "-o", "b.csv"
        )
        settled = self.table("b.csv")[0]
        self.assertEqual((settled["units"], settled["kappa"]), (str(len(rows)), found["kappa"]))
        self.assertNotIn("left out", run.err)
        # three coders: the mean of the kappas of pairs
        self.succeeds("agreement", "sheet.csv", "one.csv", "other.csv", "third.csv", "-o", "c.csv")
        self.assertAlmostEqual(float(self.table("c.csv")[0]["kappa"]), (2 * float(found["kappa"]) + 1) / 3)
        settling = [row for row, (a, b) in zip(self.table("third.csv"), ones, strict=True) if a != b]
        self.put("settling.csv", settling, coder="D")
        run = self.succeeds("agreement", "sheet.csv", "one.csv", "other.csv", "settling.csv")
        self.assertIn("D codes only where others differ, as one does who settles: --arbiter D", run.err)

    def test_sheets_come_back_in_many_forms(self) -> None:
        truth: Code = lambda row, name: str(int(is_of(row, name)))  # noqa: E731
        self.fill("plain.csv", truth)
        expected = self.succeeds("agreement", "plain.csv", "sheet.csv").out
        self.fill("semicolons.csv", truth, delimiter=";", mark="\ufeff")
        self.fill("floats.csv", lambda row, name: f" {truth(row, name)}.0 ")
        for name in ("semicolons.csv", "floats.csv"):
            self.assertEqual(self.succeeds("agreement", name, "sheet.csv").out, expected, name)
        self.succeeds(*self.code, "--sample", "120", "--coders", "2", "--overlap", "1", "-o", "sheets.xlsx")
        book = openpyxl.load_workbook(self.folder / "sheets.xlsx")
        for sheet in (book["A"], book["B"]):
            for row in sheet.iter_rows(min_row=2):
                cells = dict(
                    zip(("coder", "unit_id", "document", "text"), (cell.value for cell in row), strict=False)
                )
                row[6].value, row[7].value = int(is_of(cells, "fear")), truth(cells, "food")
        book.save(self.folder / "filled.xlsx")
        found = self.succeeds("agreement", "filled.xlsx").rows()
        self.assertEqual([row["alpha"] for row in found], ["1.0", "1.0"])
        self.assertEqual(
            [row["precision"] for row in found], [line.split("\t")[4] for line in expected.splitlines()[1:]]
        )
        # one sheet filled in twice under one name of a coder
        self.fill("again.csv", truth)
        run = self.succeeds("agreement", "sheet.csv", "plain.csv", "again.csv")
        self.assertIn("A coded units in several files: taken for as many coders, by their names", run.err)
        self.assertRegex(run.err, "by again (\\d+), plain \\1")
        halves = self.table("plain.csv")
        self.put("first.csv", halves[:60])
        self.put("second.csv", halves[60:], coder="B")
        run = self.succeeds("agreement", "sheet.csv", "first.csv", "second.csv")
        self.assertIn("no unit was coded by two coders: how far they agree is not known", run.err)
        self.put("narrow.csv", [{key: cell for key, cell in row.items() if key != "food"} for row in halves])
        run = self.succeeds("agreement", "sheet.csv", "narrow.csv")
        self.assertIn("narrow.csv has no column food: not coded there", run.err)
        self.assertIn("food is not coded in any unit", run.err)
        self.put("none.csv", [{**row, "fear": "0"} for row in halves])
        self.assertIn(
            "no unit is coded 1 for fear: no recall", self.succeeds("agreement", "sheet.csv", "none.csv").err
        )
        few = [row for row in halves if self.sealed.units[row["unit_id"]].stratum]
        self.put("hits.csv", few)
        self.assertRegex(
            self.succeeds("agreement", "sheet.csv", "hits.csv").err, r"fear: \d+ units of the texts are in"
        )

    def test_a_narrow_screen_has_what_was_asked_for(self) -> None:
        self.fill("sheet.csv", lambda row, name: str(int(is_of(row, name))))
        by = ("contrast", "t", "--dictionary", "d.toml", "--unit", "sentence", "--corrected-by", "sheet.csv")
        for asked, columns in (
            (("agreement", "sheet.csv"), ("category", "precision", "recall", "F1", "alpha")),
            (("agreement", "sheet.csv", "--entries", "-"), ("entry", "hits", "right", "precision", "wrong, such as")),
            (("agreement", "sheet.csv", "--cases", "-"), ("case", "entries", "codes", "text")),
            (by, ("category", "share", "difference", "corrected")),
        ):
            lines, _ = self.on_a_terminal(80, *asked)
            self.assertLessEqual(max(map(len, lines)), 80)
            head = " ".join(lines[: next(at for at, line in enumerate(lines) if line.startswith("\u2500"))])
            for name in columns:
                self.assertIn(name, head, asked)
            self.assertNotIn("\ufffd", head)

    def test_a_study_and_its_bundle_have_the_sheet_and_its_companion(self) -> None:
        self.fill("sheet.csv", lambda row, name: str(int(is_of(row, name))))
        by = 'dictionary = ["d.toml"]\nunit = "sentence"\ncorrected_by = ["sheet.csv"]\n'
        self.write(
            "s.toml",
            '[study]\noutput = "r"\n[corpus]\ninput = ["t"]\n[[step]]\ncommand = "agreement"\ninput = ["sheet.csv"]\n'
            f'output = "a.csv"\ncases = "c.csv"\n[[step]]\ncommand = "contrast"\n{by}output = "b.csv"\n',
        )
        run = self.succeeds("run", "s.toml", "--bundle", "b.zip", "--with-inputs")
        self.assertNotIn("replaced", run.err)
        with zipfile.ZipFile(self.folder / "b.zip") as bundle:
            bundle.extractall(self.folder / "x")
        self.succeeds("run", "s.toml", inside=self.folder / "x")
        for name in ("a.csv", "b.csv", "c.csv"):
            self.assertEqual((self.folder / "x/r" / name).read_bytes(), (self.folder / "r" / name).read_bytes())
        report = (self.folder / "r/report.html").read_text("utf-8")
        self.assertRegex(report, "of what coders count it finds")
        self.assertRegex(report, "as counted and corrected for what coders found wrong or missed")
        self.write("t.toml", '[corpus]\ninput = ["t"]\n[[step]]\ncommand = "agreement"\n')
        self.fails(1, "agreement needs a coding sheet", "code", "run", "t.toml")

    def test_sheets_that_are_refused(self) -> None:
        rows = self.fill("good.csv", lambda row, name: "1")
        self.write("lonely/good.csv", (self.folder / "good.csv").read_bytes())
        self.put("codes.csv", [{**rows[0], "fear": "2"}, {**rows[1], "food": "yes"}, *rows[2:]])
        self.put("twice.csv", [*rows, rows[3]])
        self.put("edited.csv", [{**rows[0], "unit_id": "0123456789"}, *rows[1:]])
        self.put("empty.csv", [{**rows[0], "unit_id": ""}, *rows[1:]])
        self.put(
            "renamed.csv",
            [
                {"angst" if key == "fear" else "essen" if key == "food" else key: cell for key, cell in row.items()}
                for row in rows
            ],
        )
        self.succeeds(*self.code, "--sample", "20", "--seed", "5", "-o", "later.csv")
        companion = json.loads((self.folder / "later.csv-metadata.json").read_text("utf-8"))
        companion["notes"][0]["sealed"] = companion["notes"][0]["sealed"][:-20]
        self.write("broken.csv", (self.folder / "later.csv").read_bytes())
        self.write("broken.csv-metadata.json", json.dumps(companion))
        self.write("other.csv", "term,freq\nsoup,3\n")
        said = ("agreement", "sheet.csv")
        self.each_fails(
            [
                (2, "agreement needs a coding sheet", "code", "agreement"),
                (1, "there is no file or folder no.csv", "spelling", "agreement", "no.csv"),
                (1, "other.csv is no coding sheet: it has no column unit_id", "code", "agreement", "other.csv"),
                (1, "nothing is coded in sheet.csv", "fill in 1 or 0 in the columns fear, food", *said),
                (1, "lonely/good.csv: nothing says how its units were drawn", "name the sheet", "agreement", "lonely/good.csv"),
                (1, "codes.csv, row 2: fear is '2'; row 3: food is 'yes'", "1, 0, or nothing", *said, "codes.csv"),
                (1, "twice.csv, row 122: A coded the unit", "leave one of the two rows", *said, "twice.csv"),
                (1, "edited.csv, row 2: there is no unit '0123456789' in this draw", "stay", *said, "edited.csv"),
                (1, "empty.csv, row 2: unit_id is empty", "stay as code wrote it", *said, "empty.csv"),
                (1, "renamed.csv has no column of a category", "they are called fear, food", *said, "renamed.csv"),
                (1, "have units of two draws", "one draw at a time", *said, "later.csv"),
                (1, "broken.csv: what its companion keeps of the draw cannot be read", "as code wrote it", "agreement", "broken.csv"),
                (1, "--arbiter: there is no coder 'Z'", "the coders are A", *said, "good.csv", "--arbiter", "Z"),
            ]
        )  # fmt: skip


class Corrected(OfSheets):
    def test_the_sheet_that_ships_follows_its_rule_and_tells_the_truth(self) -> None:
        for name in ("guestbook.csv", "dictionary.toml", "coding.csv", "coding.csv-metadata.json"):
            shutil.copy(DEMO / name, self.folder)
        shipped = self.table("coding.csv")
        rules = runpy.run_path(str(ROOT / "tools" / "make_coding.py"))
        again = rules["coded"]([{**row, "animals": "", "fear": ""} for row in shipped if row["coder"] != "C"])
        self.assertEqual(again, shipped)
        dictionary = ("--dictionary", "dictionary.toml", "--select", "animals,fear")
        drawn = ("--sample", "240", "--context", "12", "--coders", "2", "--overlap", "1", "--seed", "7")
        self.succeeds("code", *DRAWN, *dictionary, *drawn, "-o", "drawn.csv")
        self.assertEqual(self.seal_of("drawn.csv"), self.seal_of("coding.csv"))
        # every sentence there is, so that the truth is known
        self.succeeds("code", *DRAWN, *dictionary, "--sample", "9000", "-o", "all.csv")
        sealed, every = self.seal_of("all.csv"), self.table("all.csv")
        self.succeeds("agreement", "coding.csv", "--arbiter", "C", "-o", "a.csv")
        found = self.succeeds(
            "contrast", *DRAWN, *dictionary, "--corrected-by", "coding.csv", "--arbiter", "C", "--same-rates"
        ).rows()
        for column, rates in enumerate(self.table("a.csv")):
            name = rates["category"]
            truth = np.array([rules["RULES"][name](row["text"]) for row in every])
            hit = np.array([sealed.units[row["unit_id"]].hits[column] is not None for row in every])
            group = np.array([sealed.units[row["unit_id"]].group for row in every])
            for measure, value in (("precision", truth[hit].mean()), ("recall", hit[truth].mean())):
                low, high = float(rates[f"{measure}_low"]), float(rates[f"{measure}_high"])
                self.assertTrue(low <= value <= high, (name, measure, low, value, high))
            for row in (row for row in found if row["category"] == name):
                one, other = (
                    {
                        key: float(row[f"{key}_{end}"])
                        for key in ("share", "corrected", "sensitivity", "specificity", "units")
                    }
                    for end in "ab"
                )
                true = 100 * (truth[group == row["group_a"]].mean() - truth[group == row["group_b"]].mean())
                self.assertTrue(float(row["corrected_low"]) <= true <= float(row["corrected_high"]), row)
                for end, values in (("a", one), ("b", other)):
                    hits = hit[group == row[f"group_{end}"]].sum()
                    self.assertAlmostEqual(values["share"], 100 * hits / values["units"])
                    self.assertAlmostEqual(values["sensitivity"], float(rates["recall"]), 12)
                    plain = (values["share"] / 100 + values["specificity"] - 1) / (
                        values["sensitivity"] + values["specificity"] - 1
                    )
                    self.assertAlmostEqual(values["corrected"], 100 * plain)
                self.assertAlmostEqual(float(row["corrected_difference"]), one["corrected"] - other["corrected"])

    def test_what_cannot_be_corrected(self) -> None:
        self.fill("sheet.csv", lambda row, name: str(int(is_of(row, name))))
        self.write("other.toml", '[categories]\nawe = ["stone"]\n')
        self.write("wider.toml", DICTIONARY.replace("]\nfood", ', "rain"]\nfood'))
        by = ("contrast", "t", "--dictionary", "d.toml", "--corrected-by", "sheet.csv", "--unit")
        run = self.succeeds(*by, "sentence", "-o", "before.csv")
        self.assertNotIn("counts otherwise", run.err)
        # a dictionary that was mended since is judged as it counts now
        mended = [*by[:3], "wider.toml", *by[4:], "sentence", "-o", "after.csv"]
        self.assertRegex(
            self.succeeds(*mended).err, r"fear counts otherwise in \d+ coded units than when the sheet was drawn"
        )
        before, after = self.table("before.csv")[0], self.table("after.csv")[0]
        self.put("few.csv", self.table("sheet.csv")[:40])
        self.write("few.csv-metadata.json", (self.folder / "sheet.csv-metadata.json").read_bytes())
        few = self.succeeds(*by[:4], "--corrected-by", "few.csv", "--unit", "sentence")
        self.assertIn(
            "2 of 2 rows corrected with one rate for both groups: fewer than 30 coded units of a group", few.err
        )
        self.assertEqual(
            {row["note"] for row in few.rows()}, {"one rate for both: too few coded units of each group"}
        )
        self.assertGreater(float(after["sensitivity_a"]), float(before["sensitivity_a"]) + 0.3)
        self.fill("guess.csv", lambda row, name: str(int("soup" not in row["text"] and "bread" not in row["text"])))
        self.write("guess.csv-metadata.json", (self.folder / "sheet.csv-metadata.json").read_bytes())
        self.succeeds("agreement", "sheet.csv", "-o", "a.csv")
        self.write("u/a/1.txt", "soup")
        self.write("u/b/1.txt", "rain")
        guess = (
            "contrast",
            "t",
            "--dictionary",
            "d.toml",
            "--select",
            "food",
            "--unit",
            "sentence",
            "--corrected-by",
        )
        self.each_fails(
            [
                (2, "the units of the sheets are of --unit sentence, here they are of --unit whole", "type --unit sentence", *by, "whole"),
                (2, "corrects the categories of a dictionary, and there is none", "--dictionary", "contrast", "t", "--values", "ttr", "--corrected-by", "sheet.csv"),
                (2, "compares shares of units, which have no --omnibus", "leave", *by, "sentence", "--omnibus", "o.csv"),
                (2, "--arbiter is about coding sheets, and there is no --corrected-by", "leave", *by[:4], "--arbiter", "A"),
                (1, "coded units of 120 are not in these texts as when the sheet was drawn, such as", "--unit sentence", by[0], "u", *by[2:], "sentence"),
                (1, "the sheets have codes of fear, food, and the dictionary has awe", "--select", *by[:3], "other.toml", *by[4:], "sentence"),
                (1, "food cannot be corrected, since sensitivity + specificity - 1 is ", "mend the dictionary", *guess, "guess.csv"),
                (1, "--arbiter: there is no coder 'Z'", "A", *by, "sentence", "--arbiter", "Z"),
                (2, "--corrected-by: corrected shares have intervals and no test", "contrast", "vary", *by[:4], "--over", "corrected-by: sheet.csv | none"),
                (1, "there is no chart of corrected", "contrast", "chart", "before.csv"),
                (1, "there is no chart of agreement", "contrast", "chart", "a.csv"),
                (1, "the rows of corrected have no lines behind them", "freq", "concordance", "--from", "before.csv", "--term", "fear"),
            ]
        )  # fmt: skip


if __name__ == "__main__":
    unittest.main()
