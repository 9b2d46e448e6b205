"""Coding sheets: which units are drawn and with what weight, how sheets look, what is refused."""

import base64
import json
import unittest
import zlib

import numpy as np
import openpyxl

from millstone.analyses.code.sample import coders_of, drawn_units, hits_of, strata_of
from millstone.core.corpus.corpus_units import cut_corpus
from millstone.core.dictionary.matches import find_matches
from millstone.texts.inputs.lists.dictionaries import read_dictionaries
from tests.cli.program import ProgramTest
from tests.core.builders import corpus_of

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
        strata, hits = strata_of(matches, names, starts, 80), hits_of(matches, names, starts)
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
        sealed = json.loads(zlib.decompress(base64.b85decode(notes["sealed"])))
        self.assertEqual({row["unit_id"] for row in rows}, set(sealed["units"]))
        for row in rows:
            group, stratum, (fear, food) = sealed["units"][row["unit_id"]]
            words = {word.strip(".,").lower() for word in row["text"].split()}
            self.assertEqual(fear, int(bool(words & {"afraid", "scared", "dreadful"})), row)
            self.assertEqual(food, int(bool(words & {"soup", "bread"})), row)
            self.assertEqual(stratum == 0, not (fear or food))
            self.assertTrue(row["document"].startswith(f"{group}/"))
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
        known = json.loads(zlib.decompress(base64.b85decode(sealed)))["units"]
        self.assertEqual(ids[0] | ids[1], set(known))
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


if __name__ == "__main__":
    unittest.main()
