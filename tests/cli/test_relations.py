"""Networks and words used alike on the command line and in study files."""

import csv
import io
import os
import subprocess
import sys

import networkx as nx
from lxml import etree

from tests.cli.program import ProgramTest

STEMS = ("The path to the hut is steep. ", "Snow fell on the hut and the path. ", "The stove smoked. ")


class Relations(ProgramTest):
    def texts(self) -> None:
        for group, times in (("a", 3), ("b", 2)):
            for number in range(3):
                text = "".join(STEMS[: number + 1]) * times + f"Soup {'and bread ' * number}again."
                self.write(f"t/{group}/{number}.txt", text)
        self.write("p.txt", "the hut\n")
        self.write("m.csv", "term,as\nsoup,food\nbread,food\n")
        self.write("d.toml", '[categories]\nfood = ["soup", "bread"]\nplace = ["the hut", "path*"]\nice = ["snow"]\n')

    def saved(self, name: str) -> list[dict[str, str]]:
        return list(csv.DictReader(io.StringIO((self.folder / name).read_text("utf-8"))))

    def test_the_lines_behind_a_link_are_as_many_as_it_says(self):
        self.texts()
        asked = [
            ("--unit", "sentence"),
            ("--group", "folder"),
            ("--group", "folder", "--together", "--span", "3"),
            ("--span", "2", "--stop", "en", "--group", "folder"),
            ("--phrases", "p.txt", "--span", "4"),
            ("--merge", "m.csv", "--unit", "paragraph", "--lemmas", "en"),
            ("--ngram", "2", "--unit", "sentence"),
            ("--around", "hut", "--unit", "sentence"),
            ("--around", "hut", "--span", "2", "--phrases", "p.txt"),
            ("--dictionary", "d.toml", "--unit", "sentence"),
            ("--dictionary", "d.toml", "--span", "6"),
        ]
        made = [
            ("network", "t", *one, "--min-together", "1", "-o", f"{n}.csv", "--quiet") for n, one in enumerate(asked)
        ]
        for run in self.several(made):
            self.assertEqual(run.code, 0, run.err)
        for number, settings in enumerate(asked):
            rows = self.saved(f"{number}.csv")
            self.assertTrue(rows, settings)
            chosen = range(1, len(rows) + 1, max(len(rows) // 3, 1))
            runs = self.several([("concordance", "--from", f"{number}.csv", "--row", str(one)) for one in chosen])
            for one, run in zip(chosen, runs, strict=True):
                with self.subTest(settings=settings, row=rows[one - 1]):
                    self.assertEqual(run.code, 0, run.err)
                    self.assertEqual(len(run.rows()), int(rows[one - 1]["together"]))
        self.assertIn("and", self.succeeds("concordance", "--from", "0.csv", "--row", "1").err)

    def test_nodes_graphs_and_studies(self):
        self.texts()
        self.succeeds(
            "network",
            "t",
            "--group",
            "folder",
            "--unit",
            "sentence",
            "--nodes",
            "n.csv",
            "--graph",
            "g.graphml",
            "-o",
            "l.csv",
            "--quiet",
        )
        nodes, links = self.saved("n.csv"), self.saved("l.csv")
        graph = nx.read_graphml(self.folder / "g.graphml")
        self.assertEqual((len(graph), graph.number_of_edges()), (len(nodes), len(links)))
        self.assertEqual(
            graph.nodes["a: hut"]["docs"],
            int(next(row["docs"] for row in nodes if row["group"] == "a" and row["term"] == "hut")),
        )
        for row in nodes:
            own = [
                one for one in links if one["group"] == row["group"] and row["term"] in (one["term_a"], one["term_b"])
            ]
            self.assertEqual(int(row["degree"]), len(own))
            self.assertAlmostEqual(float(row["strength"]), sum(float(one["association"]) for one in own))
        # what XML cannot hold stands as a sign, and terms that differ in it alone stay two
        self.write("odd.csv", "hut,text\n" + "a\ufffe,ro\x07pe ice\uffff ro\u2407pe\n" * 4)
        typed = ("network", "odd.csv", "--text", "text", "--group", "hut", "--tokens", "spaces", "--quiet")
        for ending in ("graphml", "gexf", "dot"):
            self.succeeds(*typed, "--graph", f"odd.{ending}", "-o", f"odd.{ending}.csv")
            content = (self.folder / f"odd.{ending}").read_text("utf-8")
            self.assertNotRegex(content, "[\x00-\x08\x0b-\x1f\ufffe\uffff]")
            if ending != "dot":
                etree.fromstring(content.encode("utf-8"))
                read = nx.read_graphml if ending == "graphml" else nx.read_gexf
                self.assertEqual(
                    set(read(self.folder / f"odd.{ending}")), {"ro\u2407pe", "ro\u2407pe\ufffd", "ice\ufffd"}
                )
        self.assertEqual([row["freq_rank"] for row in nodes if row["group"] == "a"][:1], ["1"])
        by_degree = self.succeeds("network", "t", "--unit", "sentence", "--nodes", "-", "--sort", "degree").rows()
        self.assertEqual(
            [int(row["degree_rank"]) for row in by_degree], sorted(int(row["degree_rank"]) for row in by_degree)
        )
        shown = self.succeeds("network", "t", "--group", "folder", "--unit", "sentence", "--nodes", "-").rows()
        self.assertEqual(shown, nodes)
        matched = self.succeeds("network", "t", "--unit", "sentence", "--match", "hut,sn*", "--quiet").rows()
        self.assertTrue(matched)
        self.assertTrue(all({row["term_a"], row["term_b"]} & {"hut", "snow"} for row in matched))
        self.write(
            "s.toml",
            '[study]\noutput = "out"\n[corpus]\ninput = ["t"]\nunit = "sentence"\n[[step]]\ncommand = "network"\noutput = "l.csv"\n'
            'chart = "m.png"\n[[step]]\ncommand = "concordance"\nfrom = "out/l.csv"\nrow = 1\noutput = "c.csv"\n'
            '[[step]]\ncommand = "alike"\nfind = ["hut"]\nmin_freq = 2\noutput = "a.csv"\n',
        )
        self.succeeds("run", "s.toml")
        self.assertEqual(
            self.saved("out/a.csv"),
            self.succeeds("alike", "t", "--unit", "sentence", "--find", "hut", "--min-freq", "2").rows(),
        )
        self.assertEqual(len(self.saved("out/c.csv")), int(self.saved("out/l.csv")[0]["together"]))

    def test_a_network_drawn_again_and_the_lines_of_a_community(self):
        self.texts()
        typed = ("network", "t", "--unit", "sentence", "--most-links", "0", "--quiet")
        saving = ("-o", "l.csv", "--nodes", "n.csv", "--communities", "c.csv", "--chart", "m.png")
        self.succeeds(*typed, *saving)
        self.succeeds("chart", "l.csv", "--chart", "again.png")
        self.assertEqual((self.folder / "m.png").read_bytes(), (self.folder / "again.png").read_bytes())
        self.succeeds("chart", "l.csv", "--chart", "degree.png", "--chart-marks", "degree")
        self.assertNotEqual((self.folder / "m.png").read_bytes(), (self.folder / "degree.png").read_bytes())
        (self.folder / "n.csv").unlink()
        self.fails(1, "no table of nodes of this network", "--nodes FILE", "chart", "l.csv", "--chart", "no.png")
        matrix = self.succeeds("matrix", "t", "--unit", "sentence").rows()
        for number, row in enumerate(self.saved("c.csv"), 1):
            terms = row["terms"].split("; ")
            several = [one for one in matrix if sum(one[term] != "0" for term in terms) > 1]
            lines = self.succeeds("concordance", "--from", "c.csv", "--row", str(number)).rows()
            self.assertEqual([line["document"] for line in lines], [one["document"] for one in several])
            self.assertEqual({line["found"].lower() for line in lines} - set(terms), set())
        alone = self.succeeds("network", "t", "--unit", "sentence", "--min-together", "999", "--communities", "-")
        self.assertEqual(alone.rows(), [])

    def test_the_same_bytes_whatever_the_run(self):
        self.texts()
        made = []
        for number, seed in enumerate(("1", "2", "77")):
            names = [f"{number}.csv", f"{number}.png", f"{number}.gexf", f"{number}-n.csv"]
            arguments = ["network", "t", "--unit", "sentence", "--jobs", str(number % 2 + 1), "--no-cache", "--quiet"]
            arguments += ["-o", names[0], "--chart", names[1], "--graph", names[2], "--nodes", names[3]]
            # sets come in another order under another seed
            environment = {**os.environ, "PYTHONHASHSEED": seed}
            subprocess.run(
                [sys.executable, "-m", "millstone", *arguments],
                cwd=self.folder,
                env=environment,
                check=True,
                capture_output=True,
            )
            made.append([(self.folder / name).read_bytes() for name in names])
        self.assertEqual(made[0], made[1])
        self.assertEqual(made[0], made[2])

    def test_alike_in_groups_and_too_rare(self):
        self.texts()
        run = self.succeeds(
            "alike", "t", "--group", "folder", "--find", "hut", "--find", "hutt", "--find", "bread", "--min-freq", "4"
        )
        self.assertIn("hut: of the", run.err)
        self.assertIn("no 'hutt' in the texts; nearest: 'hut'", run.err)
        self.assertIn("'bread' is too rare in a, b for words used alike: 6 places in all, --min-freq 4", run.err)
        self.assertEqual({row["group"] for row in run.rows()}, {"a", "b"})
        self.assertNotIn("hut", {row["term"] for row in run.rows()})
        stopped = self.succeeds("alike", "t", "--find", "hut", "--min-freq", "2", "--stop", "en")
        self.assertNotIn("the", {row["term"] for row in stopped.rows()})
        self.assertIn("the _", " ".join(row["contexts"] for row in stopped.rows()), "left-out words are contexts")

    def test_difference_in_use_and_the_lines_behind_it(self):
        for number in range(8):
            said = ("of the river is wet", "with my money is shut")[number % 2]
            self.write(
                f"u/{'ab'[number % 2]}/{number}.txt",
                f"The bank {said}. A tree by the bank. With my river, of my money. Only{number % 2} here.",
            )
        use = ("alike", "u", "--group", "folder", "--min-freq", "2")
        run = self.succeeds(*use, "--find", "bank", "--difference", "d.csv", "--say")
        (row,) = self.table("d.csv")
        self.assertEqual((row["freq_target"], row["freq_reference"]), ("8", "8"))
        self.assertLess(float(row["chance"]), float(row["difference"]))
        self.assertEqual(float(row["p"]), 2 / 70)
        lines = self.succeeds("concordance", "--from", "d.csv", "--row", "1").rows()
        self.assertEqual({line["context"] for line in lines if line["group"] == "b"}, {"_ with my"})
        self.assertEqual(len(self.succeeds("concordance", "--from", "d.csv", "--term", "bank").rows()), len(lines))
        here = self.succeeds(*use, "--terms", "20", "--say")
        self.assertEqual([one["node"] for one in here.rows() if one["node"] == "bank"], ["bank"])
        self.assertIn("note: in a, and not in b: 'only0', 'wet'", here.err)
        self.assertIn("note: without a context that a and b both have the words of: 'here'", here.err)
        self.assertIn("a compared with b: ", here.err)
        self.assertIn("are used differently", here.err)
        self.assertIn("of the 2 terms most alike", run.err.replace("of the 1 terms", "of the 2 terms"))
        self.each_fails(
            [
                (2, "--terms and --find", "leave one", *use, "--terms", "9", "--find", "bank"),
                (2, "--draws: nothing is compared", "--difference", *use, "--find", "bank", "--draws", "9"),
                (1, "a difference in use needs two groups", "--group", "alike", "u/a/0.txt", "--terms", "9"),
                (
                    1,
                    "in b, and not in a: 'only1'",
                    "two groups have",
                    *use,
                    "--find",
                    "only1",
                    "--difference",
                    "-",
                ),
            ]
        )

    def test_wrong_questions(self):
        self.texts()
        self.write("one.txt", "The stove smoked and the hut was cold.")
        self.each_fails(
            [
                (1, "there is one unit only", "--unit sentence", "network", "one.txt"),
                (2, "--most-links: must be 0 or more, not -1", "", "network", "t", "--most-links", "-1"),
                (2, "--graph: no output format has the ending of 'x.foo'", ".graphml, .gexf, .dot", "network", "t", "--graph", "x.foo"),
                (2, "only single terms are near each other", "leave one", "network", "t", "--span", "2", "--ngram", "2"),
                (2, "n-grams of one length", "--ngram 2", "network", "t", "--ngram", "1..2"),
                (2, "--select chooses categories", "leave it out", "network", "t", "--select", "food"),
                (1, "there is no dictionary x.toml", "check", "network", "t", "--dictionary", "x.toml"),
                (2, "alike needs something to look for", "--find", "alike", "t"),
                (2, "only wildcards", "add a word", "alike", "t", "--find", "*"),
                (2, "alike shows texts as they stand", "--near", "alike", "t", "--find", "hut", "--around", "path"),
            ]
        )  # fmt: skip
        self.succeeds("network", "one.txt", "--span", "3", "--min-together", "1")
        empty = self.succeeds("network", "t", "--min-together", "999", "--chart", "m.png", "--only", "hut,path,yeti")
        self.assertEqual(empty.rows(), [])
        self.assertIn("2 terms, none of them linked", empty.err)
        self.assertIn("1 entry fits no word of the texts: 'yeti'", empty.err)
        self.assertIn("m.png was not drawn", empty.err)
        self.assertFalse((self.folder / "m.png").exists())
