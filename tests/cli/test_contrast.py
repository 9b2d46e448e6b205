"""The program with contrasts: the same from texts and from a saved table, parts of texts, figures, wrong input."""

import unittest

import numpy as np
from scipy import stats

from tests.cli.program import ProgramTest

WORDS = {"A": ("ice", "rope"), "B": ("ice", "boat"), "C": ("boat", "boat")}


class Contrasts(ProgramTest):
    def setUp(self) -> None:
        super().setUp()
        self.write(
            "d.toml",
            '[categories]\ncold = ["ice"]\nwater = ["boat", "icy water"]\n[scores]\nboth = "{cold} - {water}"\n',
        )
        for group, (one, other) in WORDS.items():
            for number in range(1, 6):
                words = [one] * number + [other] * (7 - number) + ["hut"] * (number % 3 + 2)
                self.write(f"huts/{group}/{number}.txt", " ".join(words * 3))

    def contrast(self, *arguments: object) -> list[dict[str, str]]:
        return self.succeeds("contrast", *arguments).rows()

    def test_texts_and_saved_tables_agree(self) -> None:
        rows = self.contrast("huts", "--dictionary", "d.toml")
        self.assertEqual([row["value"] for row in rows], [one for one in ("cold", "water", "both") for _ in range(3)])
        self.succeeds("categories", "huts", "--dictionary", "d.toml", "-o", "c.csv")
        table = self.contrast("--table", "c.csv", "--values", "cold,water,both")
        # a saved table has no places, and so no rates
        of_rates = [name for name in rows[0] if name.startswith(("log_ratio", "p_rate", "design"))]
        self.assertEqual(len(of_rates), 6)
        self.assertEqual(table, [{name: row[name] for name in row if name not in of_rates} for row in rows])
        values = {
            group: [float(row["cold"]) for row in self.table("c.csv") if row["group"] == group] for group in WORDS
        }
        wanted = stats.ttest_ind(values["A"], values["B"], equal_var=False)
        self.assertAlmostEqual(float(rows[0]["p"]), wanted.pvalue, 12)
        against = self.contrast("--table", "c.csv", "--values", "cold", "--against", "B", "--order", "B,C")
        self.assertEqual([(row["group_a"], row["group_b"]) for row in against], [("C", "B"), ("A", "B")])
        adjusted = stats.false_discovery_control([float(row["p"]) for row in rows if row["p"]])
        np.testing.assert_allclose([float(row["p_adjusted"]) for row in rows if row["p"]], adjusted)
        self.write("v.csv", "hut;v\nA;1,5\nA;2\nB;4\nB;5,25\n")
        run = self.succeeds("contrast", "--table", "v.csv", "--values", "v", "--group", "hut", "--decimal-comma")
        self.assertEqual(run.rows()[0]["mean_b"], "4.625")
        self.assertIn("read 4 documents in 2 groups: A 2; B 2", run.err)
        some = self.contrast("huts", "--dictionary", "d.toml", "--select", "both")
        self.assertEqual({row["value"] for row in some}, {"both"})

    def test_groups_keep_their_order_in_saved_tables(self) -> None:
        inputs = ("old=huts/B", "new=huts/A")
        rows = self.contrast(*inputs, "--dictionary", "d.toml")
        self.assertEqual((rows[0]["group_a"], rows[0]["group_b"]), ("old", "new"))
        for ending in ("csv", "json", "xlsx", "parquet"):
            self.succeeds("categories", *inputs, "--dictionary", "d.toml", "-o", f"dc.{ending}")
            table = self.contrast("--table", f"dc.{ending}", "--values", "cold,water,both")
            self.assertEqual(table, [{name: row[name] for name in table[0]} for row in rows], ending)

    def test_one_text_or_group_has_a_course(self) -> None:
        one = ("huts/A/5.txt", "--dictionary", "d.toml", "--unit", "parts:4")
        run = self.succeeds("contrast", *one, "--trend", "t.csv", "--chart", "d.png", "--chart-kind", "development")
        self.assertEqual([row["value"] for row in run.rows()], ["cold", "water", "both"])
        self.assertEqual([row["slope"] for row in run.rows()], [row["slope"] for row in self.table("t.csv")])
        self.assertIn("read 4 parts of 1 text, 33 tokens, group 5", run.err)
        self.assertIn("one group, 5: nothing to compare", run.err)
        self.assertTrue((self.folder / "d.png").read_bytes().startswith(b"\x89PNG"))
        run = self.succeeds("contrast", "a=huts/A/5.txt", "b=huts/B/5.txt", *one[1:])
        self.assertEqual(run.err.count("no standard deviation"), 1, "once, not in each row")
        self.assertIn("--independent-units takes its parts as observations", run.err)
        self.assertEqual({row["note"] for row in run.rows()}, {"few texts: p of all 2 relabellings, no interval"})
        run = self.succeeds("contrast", "huts/A", "--group", "part", *one[1:])
        self.assertEqual(
            [(row["group_a"], row["group_b"]) for row in run.rows()[:3]], [("1", "2"), ("1", "3"), ("1", "4")]
        )
        self.assertIn("read 20 parts of 5 texts", run.err)
        self.assertNotIn("document", run.err)
        self.each_fails(
            [
                (1, "there is one: '5'", "--chart-kind development", "contrast", *one),
                (1, "--trend: the texts are not cut into parts", "--unit parts:12", "contrast", *one[:3], "--trend", "x.csv"),
                (1, "has no column or field 'part'", "--unit parts:10", "freq", "huts", "--group", "part"),
            ]
        )  # fmt: skip

    def test_measures_and_fields(self) -> None:
        lines = ["entry,hut,nights"] + [f"{'snow ' * n} and ice {n},{'AB'[n % 2]},{n}" for n in range(2, 18)]
        self.write("book.csv", "\n".join([*lines, "no nights here at all,A,"]))
        shared = ("book.csv", "--text", "entry", "--group", "hut")
        rows = {row["value"]: row for row in self.contrast(*shared, "--values", "tokens,ttr,nights")}
        self.assertEqual((rows["tokens"]["n_a"], rows["nights"]["n_a"], rows["nights"]["mean_a"]), ("9", "8", "9.0"))
        self.assertEqual(float(rows["nights"]["difference"]), -1)
        profile = self.succeeds("profile", *shared, "--per-document").rows()
        ttr = [float(row["ttr"]) for row in profile if row["group"] == "B"]
        self.assertAlmostEqual(float(rows["ttr"]["mean_b"]), np.mean(ttr), 12)
        drawn = self.contrast(*shared, "--values", "nights", "--interval", "bootstrap", "--draws", "500")
        self.assertNotEqual(drawn[0]["ci_low"], rows["nights"]["ci_low"])
        self.write("d2.toml", '[categories]\nsnow = ["snow"]\n')
        self.write(
            "long.csv",
            "entry,hut\n" + "".join(f"{'ice snow rope ' * (8 if n % 2 else 2)},{'AB'[n % 2]}\n" for n in range(12)),
        )
        for asked, said in (
            (
                ("--values", "ttr"),
                "observations of B are 4.0 times as long as those of A: ttr depends on length, --values mattr",
            ),
            (("--values", "types,ttr"), "types, ttr depend on length"),
            (
                ("--dictionary", "d2.toml"),
                "4.0 times as long as those of A: p_rank of a rare category then measures length",
            ),
        ):
            err = self.succeeds("contrast", "long.csv", "--text", "entry", "--group", "hut", *asked).err
            self.assertEqual([said in line for line in err.splitlines() if "times as long" in line], [True])
        rows = [f"ice snow,{'AB'[n > 9]},w{n // 2},{90 if n < 2 else n % 5 + 9 * (n > 9)}" for n in range(20)]
        self.write("w.csv", "\n".join(["entry,hut,writer,nights", *rows, "rope,A,,3"]))
        writers = ("w.csv", "--text", "entry", "--group", "hut", "--values", "nights", "--sampling-unit", "writer")
        run = self.succeeds("contrast", *writers)
        self.assertEqual((run.rows()[0]["n_a"], run.rows()[0]["n_b"]), ("6", "5"))
        self.assertIn("without w0 the difference", run.rows()[0]["note"])
        self.assertIn("21 documents averaged within groups: n counts 11 units by writer", run.err)
        self.assertIn("1 document without a value of writer", run.err)
        weighted = self.contrast(*shared, "--values", "nights", "--by-length")
        self.assertGreater(float(weighted[0]["mean_a"]), 9)

    def test_parts_of_texts(self) -> None:
        typed = ("huts", "--dictionary", "d.toml", "--unit", "parts:3", "--trend", "t.csv", "--omnibus", "o.csv")
        run = self.succeeds("contrast", *typed)
        self.assertEqual({row["n_a"] for row in run.rows()}, {"5"})
        self.assertIn("45 parts averaged within groups: n counts 15 texts (--independent-units: parts)", run.err)
        parts = self.contrast(*typed[:5], "--independent-units")
        self.assertEqual({row["n_a"] for row in parts}, {"15"})
        trends = self.table("t.csv")
        self.assertEqual([(row["texts"], row["parts"]) for row in trends], [("5", "3")] * 9)
        self.assertEqual([row["value"] for row in self.table("o.csv")], ["cold", "water", "both"])
        kinds = ("means", "documents", "effects", "development", "heat")
        runs = self.several(
            [("contrast", *typed[:5], "--chart", f"{kind}.svg", "--chart-kind", kind) for kind in kinds]
        )
        for kind, run in zip(kinds, runs, strict=True):
            self.assertEqual(run.code, 0, run.err)
            self.assertIn("<svg", (self.folder / f"{kind}.svg").read_text("utf-8"))
        self.succeeds("contrast", "huts", "--dictionary", "d.toml", "-o", "k.csv")
        self.succeeds("chart", "k.csv", "--chart", "again.svg", "--chart-kind", "effects")
        self.fails(
            1, "needs the values of the documents", "--chart-kind effects", "chart", "k.csv", "--chart", "x.svg"
        )

    def test_steps_of_a_study(self) -> None:
        """Every file that is written lies with the results; a table is one that an earlier step wrote."""
        self.write(
            "s.toml",
            '[study]\noutput = "results"\n[corpus]\ninput = ["huts"]\ngroup = "folder"\n'
            '[[step]]\ncommand = "categories"\ndictionary = ["d.toml"]\noutput = "c.csv"\nwords = "w.csv"\n'
            'in_order = "o.csv"\nby_group = "g.csv"\nmarked = "m.html"\n'
            '[[step]]\ncommand = "contrast"\ndictionary = ["d.toml"]\nomnibus = "om.csv"\nchart = "e.svg"\n'
            '[[step]]\ncommand = "contrast"\ntable = "results/c.csv"\nvalues = ["cold"]\noutput = "t.csv"\n',
        )
        before = set(self.files())
        self.succeeds("run", "s.toml")
        made = {name for name in set(self.files()) - before if not name.endswith((".json", ".csv-metadata.json"))}
        names = ("c.csv", "w.csv", "o.csv", "g.csv", "m.html", "om.csv", "e.svg", "t.csv", "report.html")
        self.assertEqual(made, {f"results/{name}" for name in names})
        rows = self.contrast("huts", "--dictionary", "d.toml", "--select", "cold")
        self.assertEqual(
            [row["difference"] for row in self.table("results/t.csv")], [row["difference"] for row in rows]
        )

    def test_wrong_input(self) -> None:
        self.write("one/A/1.txt", "ice")
        self.write("t.csv", "group,v,w\nA,1,2\nB,many,3\nA,,4\n")
        self.write("empty.csv", "group,v\n")
        self.each_fails(
            [
                (2, "contrast needs values", "--dictionary", "contrast", "huts"),
                (2, "contrast needs an input", "name a folder", "contrast", "--values", "tokens"),
                (2, "--table and an input", "leave one", "contrast", "huts", "--table", "t.csv", "--values", "v"),
                (2, "--select chooses categories", "leave it", "contrast", "huts", "--values", "ttr", "--select", "a"),
                (1, "the columns of values are not named", "--values", "contrast", "--table", "t.csv"),
                (1, "row 3: v has 'many', which is not a number", "--values", "contrast", "--table", "t.csv", "--values", "v"),
                (1, "has no column 'x'", "--values", "contrast", "--table", "t.csv", "--values", "x"),
                (1, "has no column 'hut'", "--group", "contrast", "--table", "t.csv", "--values", "w", "--group", "hut"),
                (1, "there is no table no.csv", "spelling", "contrast", "--table", "no.csv", "--values", "w"),
                (1, "empty.csv has no rows", "one row per document", "contrast", "--table", "empty.csv", "--values", "v"),
                (1, "no measure and no field 'tokns'; did you mean 'tokens'?", "ttr", "contrast", "huts", "--values", "tokns"),
                (1, "needs two groups, and there is one: 'A'", "--group", "contrast", "one", "--values", "tokens"),
                (1, "there is no group 'D'", "A, B, C, or type rest or pairs", "contrast", "huts", "--values", "ttr", "--against", "D"),
                (1, "--omnibus: there are 2 groups", "three", "contrast", "--table", "t.csv", "--values", "w", "--omnibus", "o.csv"),
                (1, "the texts are not cut into parts", "--unit parts:12", "contrast", "huts", "--values", "ttr", "--trend", "x.csv"),
                (1, "--by-length: the table has no column tokens", "leave", "contrast", "--table", "t.csv", "--values", "w", "--by-length"),
            ]
        )  # fmt: skip


if __name__ == "__main__":
    unittest.main()
