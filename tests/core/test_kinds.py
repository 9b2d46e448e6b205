"""How settings are read: what each kind takes, what it refuses, and which values are paths."""

import unittest
from pathlib import Path

from millstone.core.base.wording import nearest
from millstone.core.settings.declare import written
from millstone.core.settings.kinds import (
    choice,
    choice_or_path,
    group_or_table,
    integer,
    number,
    positive,
    share,
    sizes,
    span,
)


class Kinds(unittest.TestCase):
    def test_what_is_taken(self):
        rows = (
            (share("X"), "0.05", 0.05),
            (share("X"), "1", 1),
            (number("X"), "-2.5", -2.5),
            (positive("X"), "1e3", 1000),
            (integer("N", 2, or_zero=True), "0", 0),
            (span("MIN..MAX"), "..12", (0, 12)),
            (span("MIN..MAX"), "4", (4, 4)),
            (sizes("N", 12), "2..4", (2, 4)),
            (choice("bh", "holm"), "holm", "holm"),
        )
        for kind, typed, value in rows:
            with self.subTest(typed):
                self.assertEqual(kind.read(typed), value)
                self.assertEqual(kind.read(written(kind, kind.read(typed))), value, "as it is shown it can be typed")

    def test_what_is_refused(self):
        rows = (
            (share("X"), "1.5", "a share between 0 and 1"),
            (share("X"), "0", "a number above 0"),
            (share("X"), "nan", "a number above 0"),
            (positive("X"), "inf", "a number above 0"),
            (number("X"), "much", "must be a number"),
            (integer("N", 2, or_zero=True), "1", "must be 2 or more"),
            (span("MIN..MAX"), "9..3", "runs backwards"),
            (sizes("N", 12), "2..", "a size such as 2"),
            (choice("bh", "holm"), "home", "did you mean 'holm'"),
        )
        for kind, typed, message in rows:
            with self.subTest(typed), self.assertRaisesRegex(ValueError, message):
                kind.read(typed)

    def test_what_is_a_path_lies_beside_the_study(self):
        prior = choice_or_path("pooled|FILE", "pooled")
        against = group_or_table("rest|GROUP|FILE", (".csv", ".txt"))
        rows = (
            (prior, "pooled", "pooled"),
            (prior, "list.csv", str(Path("study", "list.csv"))),
            (against, "rest", "rest"),
            (against, "Ostrel/winter", "Ostrel/winter"),
            (against, "General.CSV", str(Path("study", "General.CSV"))),
        )
        for kind, typed, placed in rows:
            self.assertEqual(kind.placed(kind.read(typed), Path("study")), placed)

    def test_the_nearest_name(self):
        self.assertEqual(nearest("Ostrell", ["Haskgate", "Ostrel"]), "; did you mean 'Ostrel'?")
        self.assertEqual(nearest("zzz", ["Haskgate", "Ostrel"]), "")


if __name__ == "__main__":
    unittest.main()
