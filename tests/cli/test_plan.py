"""Plans from the command line: with texts and without, in a study, and what is refused."""

import unittest

from tests.cli.program import ProgramTest


class Plan(ProgramTest):
    def test_without_texts(self) -> None:
        run = self.succeeds("plan", "--sizes", "old=20x5000,new=40x2000", "--design-effect", "2", "--say")
        self.assertIn("planned 60 documents, 180,000 tokens in 2 groups: old 20 (100,000 tokens)", run.err)
        self.assertIn("settings: --sizes old=20x5000,new=40x2000 --design-effect 2", run.err)
        self.assertRegex(run.err, r"would show with a power of 0.8: a term of 100 per million that is \d")
        rows = run.rows()
        self.assertEqual({(row["target"], row["reference"]) for row in rows}, {("old", "new"), ("new", "old")})
        apart = self.succeeds("plan", "--sizes", "old=20x5000", "new=40x2000", "--design-effect", "2")
        self.assertEqual(apart.out, run.out, "further sizes may follow as they are")
        lines, said = self.on_a_terminal(80, "plan", "--sizes", "old=4x500,new=5x200")
        self.assertTrue(all(len(line) <= 80 for line in lines))
        self.assertIn("old (4 documents, 2,000 tokens) compared with new (5 documents, 1,000 tokens)", lines[0])
        self.assertRegex(" ".join(said.split()), "4 documents: only large and steady|4 against 5 documents: only")

    def test_of_texts_and_in_a_study(self) -> None:
        rows = ["hut,who,entry"]
        for number in range(40):
            rows.append(f"{'ab'[number % 2]},w{number % 9},{'tea ' * (number % 4)}{'the hut stood ' * (20 + number)}")
        rows.append("alone,x,the hut")
        self.write("book.csv", "\n".join(rows))
        book = ("plan", "book.csv", "--text", "entry", "--group", "hut")
        run = self.succeeds(*book, "-o", "p.csv")
        self.assertIn("one document in alone: how much words vary between documents is not known", run.err)
        first = self.table("p.csv")
        self.assertTrue(all(float(row["design_effect_90"]) >= float(row["design_effect"]) >= 1 for row in first))
        self.succeeds(*book, "--sampling-unit", "who", "--ngram", "1..2", "--power", "0.9", "-o", "q.csv")
        self.assertEqual({row["n"] for row in self.table("q.csv")}, {"1", "2"})
        self.write(
            "study.toml",
            '[corpus]\ninput = ["book.csv"]\ntext = "entry"\ngroup = "hut"\n[[step]]\ncommand = "plan"\n'
            'output = "here.csv"\n[[step]]\ncommand = "plan"\nsizes = ["x=8x900", "y=9x900"]\noutput = "there.csv"\n',
        )
        self.succeeds("run", "study.toml")
        self.assertEqual(self.table("here.csv"), first)
        self.assertEqual({row["target"] for row in self.table("there.csv")}, {"x", "y"})
        self.assertIn("To find a doubling of a term of", next(self.folder.rglob("report.html")).read_text("utf-8"))

    def test_what_is_refused(self) -> None:
        self.write("one.txt", "some words")
        self.each_fails(
            [
                (2, "--power 1: no test is so sure", "such as 0.8", "plan", "one.txt", "--power", "1"),
                (2, "--alpha: must be a number above 0", "--help", "plan", "one.txt", "--alpha", "0"),
                (2, "'old=0x5' has 0 documents", "--help", "plan", "--sizes", "old=0x5"),
                (2, "must be NAME=DOCUMENTSxTOKENS", "--help", "plan", "--sizes", "old=5"),
                (2, "two groups of different names", "old=20x5000,new", "plan", "--sizes", "a=5x9,a=4x9"),
                (2, "and one.txt is an input", "give one of the two", "plan", "--sizes", "a=5x9,b=4x9", "one.txt"),
                (
                    2,
                    "--design-effect 0.5: words never",
                    "1 or more",
                    *["plan", "--sizes", "a=5x9,b=4x9"],
                    "--design-effect",
                    "0.5",
                ),
                (2, "--design-effect and --terms are for --sizes", "leave", "plan", "one.txt", "--terms", "5"),
                (1, "a plan needs two groups", "name what makes", "plan", "one.txt"),
                (1, "no two groups have two documents", "--sizes", "plan", "a=one.txt", "b=one.txt"),
                (2, "plan needs an input", "name a folder", "plan"),
            ]
        )


if __name__ == "__main__":
    unittest.main()
