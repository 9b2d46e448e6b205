"""Keyness and log odds by the installed program: lists to compare with, choices of rows, dictionaries, bad input."""

import json
import tomllib
import unittest

from millstone.outputs.files.toml import as_dictionary
from tests.cli.program import ProgramTest

SHARED = "the boat was on the lake"


class Keyness(ProgramTest):
    def setUp(self):
        super().setUp()
        for number in range(9):
            self.write(f"huts/A/{number}.txt", f"{SHARED} ice ice snow number{number}")
            self.write(
                f"huts/B/{number}.txt", f"{SHARED} fire rock number{number} {'ash ' * (12 if number == 3 else 0)}"
            )

    def terms(self, *arguments: object) -> list[str]:
        return [row["term"] for row in self.succeeds(*arguments).rows()]

    def test_against_a_list_that_somebody_made(self):
        self.write("general.csv", "word;count\nthe;600\nice;3\nboat;5\nThe;20\nzither;2\n")
        run = self.succeeds("keyness", "huts", "--against", "general.csv")
        self.assertIn("corpus sizes: general 630 tokens (the sum of its list)", run.err)
        rows = {(row["target"], row["term"]): row for row in run.rows()}
        self.assertEqual({row["reference"] for row in run.rows()}, {"general"})
        self.assertEqual((rows["A", "the"]["freq_target"], rows["A", "the"]["freq_reference"]), ("18", "620"))
        self.assertEqual(rows["B", "zither"]["higher_in"], "general")
        self.assertEqual(rows["A", "ice"]["docs_percent_reference"], "")
        lists = self.succeeds("freq", "huts", "-o", "huts.csv")
        self.assertEqual(lists.code, 0)
        again = self.succeeds("keyness", "--lists", "huts.csv", "--against", "general.csv")
        columns = ("target", "term", "freq_target", "freq_reference", "log_ratio", "ll", "p_adjusted")
        self.assertEqual(
            [[row[name] for name in columns] for row in again.rows()],
            [[row[name] for name in columns] for row in run.rows()],
        )
        odds = self.succeeds("logodds", "huts", "--against", "general.csv").rows()
        self.assertEqual({(row["target"], row["against"]) for row in odds}, {("A", "general"), ("B", "general")})
        prior = self.succeeds("logodds", "huts", "--prior", "general.csv", "--prior-weight", "0.5").rows()
        self.assertGreater(float(next(row["z"] for row in prior if row["term"] == "ice" and row["target"] == "A")), 1)
        rare = self.terms("keyness", "huts", "--shared", "--background", "general.csv", "--below", "5000")
        self.assertEqual(rare[:2], ["lake", "on"])

    def test_what_is_shown(self):
        run = self.succeeds("keyness", "huts", "--measures", "all", "--test", "permutation", "--draws", "99")
        self.assertIn("99 draws, seed 1; the smallest p that can be reached is 0.01, adjusted 0.19", run.err)
        self.assertIn("terms pass over documents (p adjusted < 0.05, permutation)", run.err)
        self.assertEqual(
            run.out,
            self.succeeds("keyness", "huts", "--measures", "all", "--test", "permutation", "--draws", "99").out,
            "the same seed, the same draws",
        )
        self.assertEqual(self.terms("keyness", "huts", "--direction", "target", "--alpha", "0.01"), ["ice", "snow"])
        self.assertNotIn("ash", self.terms("keyness", "huts", "--max-share", "0.4"))
        self.assertEqual(set(self.terms("keyness", "huts", "--shared", "--min-freq", "30", "--margin", "1")), {"the"})
        wide = self.succeeds("keyness", "huts", "--wide").rows()
        self.assertEqual(len(wide), len({row["term"] for row in wide}))
        self.assertIn("log_ratio_A", wide[0])
        ranks = ("-o", "k.csv", "--chart", "k.png", "--chart-kind", "ranks")
        self.succeeds("keyness", "huts", "--resample", "20", *ranks)
        self.assertIn("rank_low", (self.folder / "k.csv").read_text().partition("\n")[0])
        drawn = [
            self.succeeds("keyness", "huts", *some, "--chart", "all.svg", "--chart-kind", "evidence", "--force")
            and (self.folder / "all.svg").read_text().count("<use ")
            for some in ((), ("--alpha", "0.01"))
        ]
        self.assertEqual(*drawn, "a figure of points shows what does not pass, too")
        for kind in ("intervals", "evidence", "frequencies", "ranks", "cloud"):
            self.succeeds("chart", "k.csv", "--chart", f"{kind}.png", "--chart-kind", kind)

    def test_sampling_units(self):
        """Writers of several entries: by option, study file and library name; whatever the run, the same bytes."""
        lines = ["hut,writer,entry"]
        for number in range(40):
            writer = f"w{number // 4}" if number % 7 else ""
            words = f"{SHARED} " + ("ice " * (number // 4 % 3 + 1) if number % 8 < 4 else "fire ")
            lines.append(f"{'AB'[number % 8 < 4]},{writer},{words}")
        self.write("book.csv", "\n".join(lines) + "\n")
        typed = ("book.csv", "--text", "entry", "--group", "hut")
        alone = self.succeeds("keyness", *typed)
        run = self.succeeds("keyness", *typed, "--sampling-unit", "writer", "-o", "k.csv")
        self.assertIn("terms pass over units by writer (p adjusted < 0.05)", run.err)
        self.assertIn("6 documents without a value of writer: each is a sampling unit of its own", run.err)
        self.assertNotIn("on both sides", run.err)
        effects = [
            {row["term"]: float(row["design_effect"]) for row in rows} for rows in (alone.rows(), self.table("k.csv"))
        ]
        self.assertGreater(effects[1]["ice"], effects[0]["ice"])
        self.assertEqual(self.notes("k.csv")["settings"]["sampling_unit"], "writer")
        self.write(
            "s.toml",
            '[corpus]\ninput = ["book.csv"]\ntext = "entry"\ngroup = "hut"\n[prepare]\nsampling_unit = "writer"\n'
            '[[step]]\ncommand = "keyness"\noutput = "s.csv"\n[[step]]\ncommand = "freq"\noutput = "f.csv"\n',
        )
        self.succeeds("run", "s.toml", "--no-report")
        self.assertEqual((self.folder / "s.csv").read_bytes(), (self.folder / "k.csv").read_bytes())
        for more in (("--jobs", "2"), ("--memory", "100M"), ("--no-cache",)):
            again = self.succeeds("keyness", *typed, "--sampling-unit", "writer", *more, "--resample", "9")
            first = self.succeeds("keyness", *typed, "--sampling-unit", "writer", "--resample", "9")
            self.assertEqual(again.out, first.out, more)
        checked = self.succeeds("check", *typed, "--sampling-unit", "writer").err
        self.assertIn("sampling units: A 9 units by writer, B 7 units by writer", checked)
        named = self.succeeds("check", *typed).err
        self.assertIn("writer has 10 values for 40 documents: where those of one writer are alike", named)
        self.assertIn("sampling units: A 20 documents, B 20 documents", named)
        both = self.succeeds("keyness", "book.csv", "--text", "entry", "--group", "hut", "--sampling-unit", "group")
        self.assertIn("one unit by group in A, B: p and intervals say what differs in these texts", both.err)
        rates = self.succeeds("logodds", *typed, "--sampling-unit", "writer").rows()
        self.assertAlmostEqual(
            {row["term"]: float(row["design_effect"]) for row in rates if row["target"] == "A"}["ice"],
            effects[1]["ice"],
            9,
        )
        self.succeeds("freq", *typed, "-o", "l.csv")
        self.each_fails(
            [
                (1, "--sampling-unit: there is no field 'wirter'; did you mean 'writer'", "fields are", "keyness", *typed, "--sampling-unit", "wirter"),
                (1, "--sampling-unit writer needs documents", "give the texts", "keyness", "--lists", "l.csv", "--sampling-unit", "writer"),
                (2, "--interval resample: the number of samples is missing", "--resample 2000", "keyness", *typed, "--interval", "resample"),
            ]
        )  # fmt: skip

    def test_prepared_terms_are_compared_as_texts_that_have_them(self):
        lines = {
            "A": "NOUN:huts:hut VERB:left:leave NOUN:leaves:leaf",
            "B": "VERB:leaves:leave NOUN:hut:hut NOUN:ice:ice",
        }
        self.write("x.txt", "x\n")
        self.write("merge.csv", "term,as\nhuts,shelter\nhut,shelter\n")
        for group, line in lines.items():
            words = [word.split(":") for word in line.split()] * 4
            rows = [f"{n}\t{form}\t{lemma}\t{tag}" + "\t_" * 6 for n, (tag, form, lemma) in enumerate(words, 1)]
            self.write(f"tagged/{group}/1.conllu", "# sent_id = 1\n" + "\n".join(rows) + "\n\n")
            self.write(f"plain/{group}/1.txt", " ".join(form for _, form, _ in words))
            self.write(f"lemmas/{group}/1.txt", " ".join(lemma for _, _, lemma in words))
            self.write(f"nouns/{group}/1.txt", " ".join(form if tag == "NOUN" else "-x-" for tag, form, _ in words))
            merged = {"hut": "shelter", "huts": "shelter"}
            self.write(f"merged/{group}/1.txt", " ".join(merged.get(form, form) for _, form, _ in words))
        for name, *typed in (
            ("lemmas", "tagged", "--lemmas", "given"),
            ("nouns", "tagged", "--pos", "noun"),
            ("merged", "plain", "--merge", "merge.csv"),
        ):
            for command in ("keyness", "logodds"):
                with self.subTest(name, command=command):
                    by_hand = self.succeeds(command, name, "--stop", "x.txt")
                    self.assertEqual(self.succeeds(command, *typed, "--stop", "x.txt").out, by_hand.out)

    def test_a_list_is_taken_as_it_stands(self):
        self.write("general.csv", "lemma,freq\nice,5\nsee,9\nseen,2\n")
        self.write("one/A/1.txt", "We see ice and have seen snow. " * 9)
        run = self.succeeds("keyness", "one", "--lemmas", "en", "--against", "general.csv")
        freq = {row["term"]: (row["freq_target"], row["freq_reference"]) for row in run.rows()}
        self.assertEqual((freq["see"], freq["seen"]), (("18", "9"), ("0", "2")))
        self.assertIn(
            "the terms of general.csv are taken as they stand: --lemmas made those of the texts only", run.err
        )

    def test_key_terms_become_a_dictionary(self):
        study = {"input": ["huts"]}
        self.write(
            "study.toml",
            f'[study]\noutput = "results"\n[corpus]\ninput = {json.dumps(study["input"])}\n'
            '[[step]]\ncommand = "keyness"\nkeys_to = "keys.toml"\n',
        )
        self.succeeds("run", "study.toml")
        self.assertIn("results/keys.toml", self.files())
        rows = self.succeeds("categories", "huts", "--dictionary", "results/keys.toml", "--scale", "count").rows()
        self.assertEqual({(row["group"], row["A"]) for row in rows}, {("A", "3"), ("B", "0")})

    def test_any_term_can_be_an_entry_but_for_wildcards(self):
        terms = {
            'a "quoted" hut': ['say "ice"', "back\\slash", "caf\u00e9", "two words", "st*r", "!not", "why?"],
            "b": ["ice"],
        }
        content, passed_over = as_dictionary(terms, "key\tterms")
        found = tomllib.loads(content.decode("utf-8"))
        self.assertEqual(found["title"], "key\tterms")
        self.assertEqual(found["categories"], {'a "quoted" hut': terms['a "quoted" hut'][:4], "b": ["ice"]})
        self.assertEqual(passed_over, 3)
        self.write("d.toml", content)
        self.write("t.txt", "two words, caf\u00e9 ice")
        row = self.succeeds("categories", "t.txt", "--dictionary", "d.toml", "--scale", "count").rows()[0]
        self.assertEqual((row['a "quoted" hut'], row["b"]), ("2", "1"))

    def test_words_of_others_and_what_all_measures_are(self):
        self.three_huts()
        run = self.succeeds("keyness", "huts", "--measures", "all")
        self.assertIn("--measures all leaves out fisher, which is slow: --measures all,fisher adds it", run.err)
        self.assertNotIn("leaves out fisher", self.succeeds("keyness", "huts", "--measures", "all,fisher").err)
        self.write("b.csv", "hut,kind,entry\nA,club,ice\nB,family,ice\n")
        lines, _ = self.on_a_terminal(120, "logodds", "b.csv", "--text=entry", "--group=hut", "--count-field=kind")
        self.assertRegex("\n".join(lines), r"\nrank +value +log odds")
        for typed, meant in (
            ("wordlist", "freq"),
            ("stopwords", "words"),
            ("keywords", "keyness"),
            ("kwic", "concordance"),
        ):
            self.fails(2, f"there is no command {typed!r}; did you mean {meant!r}?", "the commands are", typed)
        self.fails(
            2,
            "--ngram: must be a size such as 2, or a range such as 2..4, up to 12, not 'two'",
            "--help",
            "freq",
            "huts",
            "--ngram",
            "two",
        )
        self.assertRegex(
            self.succeeds("chart", "--help").out,
            "freq, dispersion, profile, keyness, logodds, categories, contrast",
        )

    def test_bad_input(self):
        self.write("one/1.txt", "ice")
        self.write("twice.csv", "term,freq\nice,3\nice,4\nrope,2\n")
        self.write("broken.csv", "term,freq\nice,3.5\n")
        self.write("minus.csv", "term,freq\nice,-3\n")
        before = self.files()
        self.each_fails(
            [
                (1, "a comparison needs two groups", "--group", "keyness", "one", "-o", "k.csv"),
                (
                    1,
                    "no term is left to compare",
                    "--min-freq",
                    "keyness",
                    "huts",
                    "--min-freq",
                    "999",
                    "-o",
                    "k.csv",
                ),
                (
                    1,
                    "no term is left to compare",
                    "--min-freq",
                    "logodds",
                    "huts",
                    "--min-freq",
                    "999",
                    "-o",
                    "k.csv",
                ),
                (
                    1,
                    "row 2: freq is '3.5', which is not a whole",
                    "--freq",
                    "keyness",
                    "huts",
                    "--against",
                    "broken.csv",
                ),
                (
                    1,
                    "row 2: freq is '-3', which is not a whole",
                    "--freq",
                    "keyness",
                    "huts",
                    "--against",
                    "minus.csv",
                ),
                (1, "there is no group 'C'", "A, B", "keyness", "huts", "--against", "C", "-o", "k.csv"),
                (
                    1,
                    "more than its corpus size 5",
                    "--base-size",
                    "keyness",
                    "--lists",
                    "twice.csv",
                    "--against",
                    "twice.csv",
                    "--base-size",
                    "twice=5",
                ),
                (
                    2,
                    "there is no measure 'bick'; did you mean 'bic'?",
                    "the measures",
                    "keyness",
                    "huts",
                    "--measures",
                    "bick",
                ),
                (2, "--background and --below belong together", "--shared", "keyness", "huts", "--below", "3"),
                (2, "must be a share between 0 and 1", "--help", "keyness", "huts", "--alpha", "5"),
                (
                    1,
                    "--test rank needs documents",
                    "the texts",
                    "keyness",
                    "--lists",
                    "twice.csv",
                    "--against",
                    "twice.csv",
                    "--test",
                    "rank",
                ),
                (
                    1,
                    "--chart-kind ranks: the table has no ranks",
                    "--resample",
                    "keyness",
                    "huts",
                    "--chart",
                    "k.png",
                    "--chart-kind",
                    "ranks",
                ),
                (
                    2,
                    "no output format has the ending of 'keys.csv'",
                    ".toml",
                    "keyness",
                    "huts",
                    "--keys-to",
                    "keys.csv",
                ),
            ]
        )
        self.assertEqual(self.files(), before, "nothing was written")
        run = self.succeeds("freq", "--lists", "twice.csv")
        self.assertIn("twice.csv: 1 row with a term that occurred before, added up", run.err)
        self.assertEqual(run.rows()[0]["freq"], "7")


if __name__ == "__main__":
    unittest.main()
