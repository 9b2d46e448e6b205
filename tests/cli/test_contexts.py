"""Contexts of two nodes from the command line: what is said, drawn, saved and refused."""

import csv
import io
import unittest

from tests.cli.program import ProgramTest

HUTS = ["warm", "dry", "small", "old"]
INNS = ["loud", "dear", "full", "old"]


class Contexts(ProgramTest):
    def texts(self) -> None:
        for number in range(12):
            words = [
                f"The {HUTS[(number + at) % 4]} hut stands here. A {INNS[(number * at) % 4]} inn too."
                for at in range(5)
            ]
            self.write(f"t/{'ab'[number % 2]}/{number}.txt", " ".join(words))
        self.write("d.toml", '[categories]\nhouse = ["hut", "inn"]\nhouse_loud = ["loud", "inn"]\nroof = ["tile"]\n')

    def saved(self, name: str) -> list[dict[str, str]]:
        return list(csv.DictReader(io.StringIO((self.folder / name).read_text("utf-8"))))

    def test_two_nodes_and_two_groups(self) -> None:
        self.texts()
        two = ("collocates", "t", "--find", "hut", "--against", "inn", "--span", "2")
        run = self.succeeds(*two, "-o", "c.csv", "--chart", "c.png", "--say")
        self.assertRegex(run.err, r"note: \d+ tokens near both hut and inn: counted on either side")
        self.assertIn("6 documents lie on both sides, and are compared within themselves", run.err)
        rows = self.saved("c.csv")
        self.assertEqual({row["group"] for row in rows}, {"a", "b"})
        self.assertEqual([row["rank"] for row in rows if row["group"] == "a"][:1], ["1"])
        warm = next(row for row in rows if row["collocate"] == "warm" and row["group"] == "a")
        self.assertEqual((warm["higher_in"], warm["together_reference"], warm["log_ratio_high"]), ("hut", "0", ""))
        self.assertIn("never near inn", warm["note"])
        self.succeeds("chart", "c.csv", "--chart", "again.png")
        self.assertEqual((self.folder / "c.png").read_bytes(), (self.folder / "again.png").read_bytes())
        lines = self.succeeds("concordance", "--from", "c.csv", "--term", "old").rows()
        both = sum(
            int(row[f"together_{side}"])
            for row in rows
            if row["collocate"] == "old"
            for side in ("target", "reference")
        )
        self.assertEqual((len(lines), {row["near"] for row in lines}), (both, {"hut", "inn"}))
        groups = self.succeeds("collocates", "t", "--find", "hut", "--against-group", "pairs", "--min-together", "1")
        self.assertEqual(
            {(row["node"], row["target"], row["reference"]) for row in groups.rows()}, {("hut", "a", "b")}
        )
        self.assertIn("0 of", groups.err)
        units = self.succeeds(*two, "--sampling-unit", "group", "--group", "folder")
        self.assertIn("1 unit by group", units.err)
        self.write(
            "s.toml",
            '[study]\noutput = "out"\n[corpus]\ninput = ["t"]\n[[step]]\ncommand = "collocates"\nfind = ["hut"]\n'
            'against = "inn"\nspan = "2"\noutput = "c.csv"\nchart = "c.svg"\n[[step]]\ncommand = "concordance"\n'
            'from = "out/c.csv"\nterm = "old"\noutput = "l.csv"\n',
        )
        self.succeeds("run", "s.toml")
        self.assertEqual(self.saved("out/c.csv"), rows)
        self.assertEqual(len(self.saved("out/l.csv")), both)

    def test_categories_and_places_that_overlap(self) -> None:
        self.texts()
        by = ("collocates", "t", "--dictionary", "d.toml", "--select", "house", "--against")
        run = self.succeeds(*by, "house_loud", "--min-together", "1")
        self.assertIn("60 places of house overlap with places of house_loud: counted in neither", run.err)
        self.assertEqual({row["reference"] for row in run.rows()}, {"house_loud"})
        self.fails(1, "no category 'hose'; did you mean 'house'", "house_loud, roof", *by, "hose")
        self.fails(1, "no 'roof' in the texts; nothing is near it", "--match", *by, "roof")

    def test_wrong_questions(self) -> None:
        self.texts()
        find = ("collocates", "t", "--find", "hut")
        self.each_fails(
            [
                (1, "no 'huut' in the texts; nearest: 'hut'; nothing is near it", "fix its spelling", *find, "--against", "huut"),
                (1, "no 'inm' in the texts", "fix its spelling", "collocates", "t", "--find", "inm", "--against", "hut"),
                (1, "all places of hut* overlap with places of hut", "two expressions that differ", "collocates", "t", "--find", "hut*", "--against", "hut"),
                (2, "--against: 'hut' is what --find looks for", "another expression", *find, "--against", "hut"),
                (2, "--against and --against-group", "leave one of the two out", *find, "--against", "inn", "--against-group", "a"),
                (1, "--against-group: there is no group 'c'", "rest or pairs", *find, "--against-group", "c"),
                (2, "--by-side: not with --against", "leave --by-side out", *find, "--against", "inn", "--by-side"),
                (2, "--measures: not with --against-group", "leave --measures out", *find, "--against-group", "a", "--measures", "delta_p_collocate_given_node"),
                (2, "--adjust: nothing is compared", "--against-group", *find, "--adjust", "holm"),
                (2, "'...' has no word in it", "word", *find, "--against", "..."),
                (1, "a comparison needs two groups", "--group", "collocates", "t/a", "--find", "hut", "--against-group", "rest"),
                (1, "the table has no column 'mi'", "log_dice_target", *find, "--against", "inn", "--sort", "mi"),
            ]
        )  # fmt: skip


if __name__ == "__main__":
    unittest.main()
