"""Comparisons with fields of the texts held equal: what is told of them, and by hand where that can be done."""

import unittest

import numpy as np
from scipy import optimize

from millstone.analyses.base.groups.held_equal import disagreement
from millstone.analyses.contrast.compute import Observations, contrast
from millstone.analyses.contrast.settings import ContrastSettings
from millstone.analyses.keyness.compute import keyness
from millstone.analyses.keyness.settings import KeynessSettings
from millstone.core.base.errors import DataError
from millstone.core.corpus.corpus import Document
from millstone.core.evidence.adjusting import adjusting_of
from millstone.core.evidence.sampling import sampling_units
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.scan.scan import scan
from millstone.core.tables.table import Table
from millstone.core.terms.counts import Counts


def counted(rows, terms=("tea", "bread"), **fields):
    """Counts of documents from rows of group, tokens and occurrences; `fields` have a value for each."""
    names = np.array([f"d{at}" for at in range(len(rows))], dtype=object)
    table = Table(
        {
            "document": names,
            "group": np.array([row[0] for row in rows], dtype=object),
            **{name: np.array(values, dtype=object) for name, values in fields.items()},
        }
    )
    matrix = SparseMatrix.of_dense(np.array([row[2:] for row in rows], dtype=np.int32))
    base = np.array([row[1] for row in rows], dtype=np.int64)
    groups = tuple(dict.fromkeys(row[0] for row in rows))
    return Counts(matrix, np.array(terms, dtype=object), base, table, groups, {})


def rows_of(table):
    return {(row["target"], row["term"]): row for row in table.rows()}


WINTER = [("a", 100, 12, 1), ("a", 120, 10, 0), ("b", 100, 6, 1), ("b", 90, 7, 1), ("b", 110, 5, 2)]
SUMMER = [("a", 100, 2, 1), ("a", 80, 3, 2), ("a", 150, 4, 1), ("b", 100, 1, 0), ("b", 120, 1, 1)]
SEASONS = ["winter"] * 5 + ["summer"] * 5


class ByHand(unittest.TestCase):
    def test_two_seasons(self):
        """Of two levels the ratio is the root of one equation: the occurrences of the target are those expected."""
        counts = counted(WINTER + SUMMER, season=SEASONS)
        found = rows_of(keyness(counts, KeynessSettings(adjust_for=("season",))))
        for column, term in ((2, "tea"), (3, "bread")):
            levels = []
            for rows in (WINTER, SUMMER):
                n1, n2 = (sum(row[1] for row in rows if row[0] == group) for group in "ab")
                levels.append((n1, n2, sum(row[column] for row in rows)))
            seen = sum(row[column] for row in WINTER + SUMMER if row[0] == "a")

            def short(log_ratio, levels=levels, seen=seen):
                ratio = 2**log_ratio
                return sum(y * ratio * n1 / (ratio * n1 + n2) for n1, n2, y in levels) - seen

            row = found["a", term]
            self.assertAlmostEqual(row["log_ratio_conditional"], optimize.brentq(short, -9, 9), places=6)
            self.assertTrue(row["log_ratio_conditional_low"] < row["log_ratio_conditional"])
            self.assertTrue(row["log_ratio_conditional"] < row["log_ratio_conditional_high"])

    def test_p_and_interval_agree(self):
        counts = counted(WINTER + SUMMER, season=SEASONS)
        for row in keyness(counts, KeynessSettings(adjust_for=("season",))).rows():
            outside = row["log_ratio_conditional_low"] > 0 or row["log_ratio_conditional_high"] < 0
            self.assertEqual(row["p_conditional"] < 0.05, outside)
            self.assertGreaterEqual(row["p_conditional_adjusted"], row["p_conditional"])

    def test_a_field_with_one_level_changes_little(self):
        """Nothing is held equal then; only the interval is made in another way, and the dispersion counts no field."""
        counts = counted(WINTER + SUMMER, land=["here"] * 10)
        for row in keyness(counts, KeynessSettings(adjust_for=("land",))).rows():
            self.assertAlmostEqual(row["log_ratio_conditional"], row["log_ratio"], places=7)
            self.assertLess(abs(row["log_ratio_conditional_low"] - row["log_ratio_low"]), 0.6)
        adjusted = keyness(counts, KeynessSettings(adjust_for=("land",), measures=("p",)))
        np.testing.assert_allclose(adjusted["p_conditional"], adjusted["p"], rtol=1e-6)

    def test_categories_are_counted_alike(self):
        counts = counted(WINTER + SUMMER, terms=("drinks", "food"), season=SEASONS)
        values = Table({name: np.ones(10) for name in ("drinks", "food")})
        seen = Observations(
            values,
            counts.documents["group"],
            ("a", "b"),
            counts.documents["document"],
            places=counts,
            sampling=sampling_units(counts.documents),
        )
        notes = []
        table = contrast(seen, ContrastSettings(adjust_for=("season",)), notes.append)
        wanted = rows_of(keyness(counts, KeynessSettings(adjust_for=("season",))))
        for row in table.rows():
            for name in ("log_ratio_conditional", "log_ratio_conditional_high", "p_conditional"):
                self.assertAlmostEqual(row[name], wanted["a", row["value"]][name], places=12)
        self.assertTrue(any("with season held equal" in note for note in notes))


class Told(unittest.TestCase):
    def notes(self, counts, *fields, **settings):
        said = []
        table = keyness(counts, KeynessSettings(adjust_for=fields, **settings), note=said.append)
        return table, said

    def test_levels_numbers_and_lone_units(self):
        rows = WINTER + SUMMER
        lands = ["here", "there", "here", "there", "", "here", "there", "far", "here", "there"]
        _, said = self.notes(counted(rows, land=lands), "land")
        self.assertTrue(any("in a only: land far (27 % of its tokens)" in note for note in said), said)
        self.assertTrue(any("in b only: land (none) (21 % of its tokens)" in note for note in said), said)
        years = ["1990", "1991", "1990", "1992", "", "1993", "1990", "1995", "1994", "1991"]
        table, said = self.notes(counted(rows, year=years), "year:number")
        self.assertTrue(any("1 document without a value of year: left out" in note for note in said), said)
        self.assertFalse(np.isnan(table["p_conditional"]).any())
        self.assertEqual(table["freq_reference"].sum(), sum(row[2] + row[3] for row in rows if row[0] == "b"))
        alone = [*rows, ("c", 100, 1, 1)]
        table, said = self.notes(counted(alone, season=[*SEASONS, "winter"]), "season", against="pairs")
        self.assertTrue(any("a against c, b against c: one sampling unit on a side" in note for note in said), said)
        for row in table.rows():
            self.assertEqual(np.isnan(row["p_conditional"]), "c" in (row["target"], row["reference"]))

    def test_what_separates_the_groups(self):
        rows = WINTER + SUMMER
        with self.assertRaisesRegex(DataError, "code sets all texts of a from b apart"):
            self.notes(counted(rows, code=[row[0] + "1" for row in rows]), "code")
        first = ["x" if row[0] == "a" or at % 2 else "y" for at, row in enumerate(rows)]
        second = ["u" if row[0] == "a" or not at % 2 else "v" for at, row in enumerate(rows)]
        # each alone leaves something to compare, and together they leave nothing
        together = counted(rows, first=first, second=second)
        self.notes(together, "first")
        with self.assertRaisesRegex(DataError, "first and second together set all texts of a from b apart"):
            self.notes(together, "first", "second")
        land = [str(at % 5) for at in range(10)]
        writers = ["v", "w", "v", "w", "v", "w", "v", "w", "v", "w"]
        with self.assertRaisesRegex(DataError, "values of land for the 2 units by writer of a and b"):
            self.notes(counted(rows, land=land, writer=writers), "land", sampling_unit="writer")

    def test_when_the_ratios_disagree(self):
        ratio = np.array([1.0, 1.0, 1.0, -1.0, 1.0, 1.0])
        held = np.array([-0.2, 0.4, 1.6, -1.2, np.nan, -3.0])
        told = np.array([True, True, True, True, True, False])
        found = {note: which.tolist() for note, which in disagreement(ratio, held, told, "genre").items()}
        self.assertEqual(
            found,
            {
                "with genre held equal the difference turns round": [True, *[False] * 5],
                "over half of it goes with genre": [False, True, *[False] * 4],
                "with genre held equal it is over half as large again": [False, False, True, *[False] * 3],
            },
        )

    def test_names_of_fields(self):
        """A field may be called as a number is asked for; one named twice, or unknown, is refused."""
        table = counted(WINTER + SUMMER, **{"year:number": SEASONS, "year": ["1"] * 10}).documents
        (field,) = adjusting_of(table, ["year:number"]).fields
        self.assertEqual((field.name, field.levels), ("year:number", ("summer", "winter")))
        self.assertEqual(adjusting_of(table, ["year", "year:number"]).named, "year and year:number")
        for asked, said in ((["year", "year"], "'year' is named twice"), (["yaer"], "did you mean 'year'")):
            with self.subTest(asked), self.assertRaisesRegex(DataError, said):
                adjusting_of(table, asked)


class OfTexts(unittest.TestCase):
    def test_a_unit_on_both_sides(self):
        """Writers in both groups are compared within themselves: a habit of a writer is no difference of groups."""
        texts, writers, seasons = [], [], []
        for number in range(24):
            words = ["tea"] * (9 if number % 4 < 2 else 1) + ["the"] * 90
            texts.append(Document(f"d{number}", "ab"[number % 2], " ".join(words)))
            writers.append(f"w{number % 12 // 2}")
            seasons.append(["winter", "summer"][number // 12])
        corpus = scan(texts, ordered=False)
        documents = corpus.documents.with_columns(
            {"writer": np.array(writers, dtype=object), "season": np.array(seasons, dtype=object)}
        )
        counts = Counts(
            corpus.form_counts, np.array(corpus.forms, dtype=object), corpus.tokens, documents, ("a", "b"), {}
        )
        table = keyness(counts, KeynessSettings(adjust_for=("season",), sampling_unit="writer"))
        tea = rows_of(table)["a", "tea"]
        self.assertAlmostEqual(tea["log_ratio_conditional"], 0, places=7)
        self.assertAlmostEqual(tea["p_conditional"], 1, places=5)


if __name__ == "__main__":
    unittest.main()
