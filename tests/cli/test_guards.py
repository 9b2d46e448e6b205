"""Guards: mistakes with texts and options that are seen and said, and change no number."""

import json
import re
import shlex
import unittest

from tests.cli.program import ProgramTest

ENGLISH = (
    "The wind woke us in the night and we did not sleep any more. In the morning the hut was cold, but the stove was "
    "soon burning and there was tea for all of us. We thank the warden, who was so patient with us."
)
GERMAN = (
    "Der Wind hat uns in der Nacht geweckt und wir haben nicht mehr geschlafen. Am Morgen war die Hütte kalt, aber der "
    "Ofen brannte bald, und es gab Tee für alle. Wir danken der Wirtin, die uns mit so viel Geduld empfangen hat."
)


class Languages(ProgramTest):
    def test_a_list_of_another_language_is_noted_and_changes_nothing(self):
        self.write("t/en/1.txt", ENGLISH)
        self.write("t/de/1.txt", GERMAN)
        table = {
            ("t/de", "--stop", "en"): "--stop en: the texts look German",
            ("t/en", "--stop", "de"): "--stop de: the texts look English",
            ("t/de", "--lemmas", "en"): "--lemmas en: the texts look German",
            ("t/en", "--stem", "de"): "--stem de: the texts look English",
            ("t", "--stop", "en:articles"): "--stop en: de looks German",
            ("t/en", "--stop", "en"): "",
            ("t", "--stop", "en,de"): "",
            ("t", "--stop", "hut,wind"): "",
        }
        for arguments, expected in table.items():
            with self.subTest(arguments):
                run = self.succeeds("freq", *arguments)
                if expected:
                    self.assertIn(f"note: {expected}", run.err)
                    self.assertRegex(run.err, r"did you mean --(stop|lemmas|stem) (de|en)\?")
                else:
                    self.assertNotIn("function words", run.err)
        self.assertEqual(self.succeeds("freq", "t/de").err.count("look German"), 0, "no list, no note")
        run = self.succeeds("check", "t", "--stop", "en")
        self.assertRegex(run.err, r"language: de in de \(\d+ % function words\); en in en \(\d+ % function words\)")
        self.assertIn("de looks German", run.err)
        rows = {row["group"]: row for row in run.rows()}
        self.assertEqual((rows["de"]["language"], rows["en"]["language"]), ("de", "en"))
        self.write("odd.txt", "xyzzy plugh " * 30)
        self.assertIn("language: not told by function words", self.succeeds("check", "odd.txt").err)


class Texts(ProgramTest):
    def test_tokens_that_were_parted_before(self):
        self.write("p.txt", "I do n't know , he said -LRB- twice -RRB- , and they ca n't , we wo n't . " * 3)
        self.write("w.txt", "I don't know, he said (twice), and they can't, we won't. They'll re-read it. " * 3)
        for command in ("freq", "check"):
            self.assertIn("--tokens spaces", self.succeeds(command, "p.txt").err)
            self.assertNotIn("--tokens spaces", self.succeeds(command, "w.txt").err)
        self.assertNotIn("parted", self.succeeds("freq", "p.txt", "--tokens", "spaces").err)

    def test_one_text_with_something_between_its_pieces(self):
        piece = "We walked to the hut in the rain and we were glad of the stove and of the soup that evening. "
        table = {
            "\n***\n": "--unit 'between:***'",
            "\n\n* * *\n\n": "--unit 'between:* * *'",
            "\n# {n}\n": "--unit 'between:# '",
            "\nCHAPTER {n}.\n\n": "--unit 'between:CHAPTER '",
            " | ": "--unit 'between:|'",
            "\n": "",
            "\n\n": "",
        }
        for between, expected in table.items():
            with self.subTest(between):
                text = "".join(piece * 3 + between.replace("{n}", str(n)) for n in range(1, 9))
                self.write("one.txt", text)
                said = self.succeeds("freq", "one.txt").err
                self.assertEqual(re.findall(r"--unit '[^']*'", said), [expected] if expected else [])
                said = self.succeeds("check", "one.txt").err
                self.assertEqual(re.findall(r"--unit '[^']*'", said), [expected] if expected else [])
                if expected:
                    unit = shlex.split(expected)
                    self.assertEqual(self.succeeds("freq", "one.txt", *unit, "--columns", "term,docs", "--top", "1").rows()[0]["docs"], "8")  # fmt: skip

    def test_running_lines_are_noted_once_and_cutting_much_is_said(self):
        page = "The snow fell all day and nobody came up to the hut, so we played cards. " * 2
        for n in range(12):
            self.write(
                f"d/A/{n}.txt",
                f"Journal of the wardens of the upper hut, page {n}\n{page.replace('day', 'x' * n + 'day')}\n",
            )
        run = self.succeeds("freq", "d")
        self.assertEqual(run.err.count("lines that recur"), 1)
        self.assertIn("--drop-running", run.err)
        self.assertNotIn("lines that recur", self.succeeds("freq", "d", "--drop-running", "5").err)
        said = self.succeeds("check", "d").err
        found = re.search(r"--drop-running (\d+), which would remove ([\d,]+) of ([\d,]+) tokens", said)
        kept = self.succeeds("check", "d", "--drop-running", found[1]).rows()[0]["tokens"]
        removed, of = (int(one.replace(",", "")) for one in found.groups()[1:])
        self.assertEqual(of - removed, int(kept), "as it was said")
        self.assertNotIn("--drop-running", said.partition("to apply")[2])

    def test_an_abbreviation_is_one_word_wherever_it_is_typed(self):
        self.write("t.txt", "The U.S. army. In the U.S. we met J.R.R. Moss, e.g. at 5 p.m.; А.С.Пушкин. end.A")
        terms = {row["term"]: row["freq"] for row in self.succeeds("freq", "t.txt").rows()}
        for term in ("u.s", "j.r.r", "e.g", "p.m", "а.с", "end", "a"):
            self.assertIn(term, terms)
        self.assertEqual(terms["u.s"], "2")
        lines = self.succeeds("concordance", "t.txt", "--find", "the U.S.").rows()
        self.assertEqual([row["found"] for row in lines], ["The U.S", "the U.S"])
        self.write("d.toml", '[categories]\nland = ["U.S.", "J.R.R."]\n')
        self.write("p.txt", "the U.S.\n")
        rows = self.succeeds("categories", "t.txt", "--dictionary", "d.toml", "--scale", "count").rows()
        self.assertEqual(float(rows[0]["land"]), 3)
        terms = {row["term"]: row["freq"] for row in self.succeeds("freq", "t.txt", "--phrases", "p.txt").rows()}
        self.assertEqual(terms["the u.s"], "2")
        for typed in ("U.S.", "u.s", "u.s*"):
            terms = [row["term"] for row in self.succeeds("freq", "t.txt", "--stop", typed).rows()]
            self.assertNotIn("u.s", terms)

    def test_words_are_explained_one_by_one_and_single_values_typed_once(self):
        self.write("t.txt", "Snow and ice, snow_ice; the U.S. again.")
        out = self.succeeds("check", "t.txt", "--explain", "U.S.,ice", "--explain", "snow_ice").out
        self.assertEqual(
            out.splitlines(),
            [
                '"U.S" -> case "u.s" -> counted as "u.s", once',
                '"ice" -> counted as "ice", 2 times',
                '"snow_ice" is cut into 2 words: snow, ice',
                '  "Snow" -> case "snow" -> counted as "snow", once',
                '  "snow" -> counted as "snow", once',
                '  "ice" -> counted as "ice", 2 times',
            ],
        )
        self.each_fails(
            [
                (2, "--top is typed twice", "leave one of the two out", "freq", "t.txt", "--top", "3", "--top", "4"),
                (2, "-o is typed twice", "leave one of the two out", "freq", "t.txt", "-o", "a.csv", "-o", "b.csv"),
                (1, "'owl' does not occur", "spelling", "check", "t.txt", "--explain", "snow,owl"),
                (2, "must be a number, not 't.txt'", "alone after the inputs", "freq", "--drop-near-duplicates", "t.txt"),
            ]
        )  # fmt: skip
        rows = self.succeeds("freq", "t.txt", "--columns", "term", "--columns", "freq", "--top", "1").rows()
        self.assertEqual(list(rows[0]), ["term", "freq"])


class Results(ProgramTest):
    def test_a_result_that_replaces_another_kind_or_other_inputs_is_noted(self):
        self.three_huts()
        self.write("more/A/1.txt", "snow and ice")
        self.write("more/B/1.txt", "soup and tea")
        for chart in ("f.png", "f.svg", "f.pdf"):
            with self.subTest(chart):
                self.succeeds("freq", "more", "-o", "t.csv", "--chart", chart)
                again = self.succeeds("freq", "more", "--top", "2", "-o", "t.csv", "--chart", chart)
                self.assertNotIn("replaced", again.err, "of the same kind and inputs")
                for command, was in (("freq", "freq more"), ("keyness", "freq huts")):
                    run = self.succeeds(command, "huts", "-o", "t.csv", "--chart", chart)
                    for name in ("t.csv", chart):
                        self.assertRegex(run.err, rf"note: replaced {name} \(was: {was}, \d+ \w+\)")

    def test_two_preparations_of_the_same_texts_are_compared_without_p(self):
        self.three_huts()
        self.succeeds("freq", "huts/Ostrel", "-o", "plain.csv")
        self.succeeds("freq", "huts/Ostrel", "--lemmas", "en", "-o", "lemmas.csv")
        self.succeeds("freq", "huts/Haskgate", "-o", "other.csv")
        asked = ("keyness", "--lists", "a=plain.csv", "--measures", "p")
        run = self.succeeds(*asked, "b=lemmas.csv")
        self.assertIn("lists of the same texts, prepared in two ways: p and intervals are empty", run.err)
        self.assertNotIn("pass over", run.err)
        for row in run.rows():
            self.assertEqual([row[name] for name in ("p", "p_adjusted", "log_ratio_low", "log_ratio_high")], [""] * 4)
            self.assertNotEqual(row["log_ratio"], "")
        other = self.succeeds(*asked, "b=other.csv")
        self.assertNotIn("same texts", other.err)
        self.assertTrue(all(row["p_adjusted"] for row in other.rows()))

    def test_init_sees_all_groups_where_the_first_has_hundreds_of_files(self):
        for n in range(250):
            self.write(f"big/A/{n}.txt", "the wind and the rain were at the door of the hut")
        for group in "BC":
            self.write(f"big/{group}/1.txt", "the snow and the ice")
        self.succeeds("init", "big")
        study = (self.folder / "study.toml").read_text("utf-8")
        for group in "ABC":
            self.assertRegex(study, rf"\b{group}\b")


class NearDuplicates(ProgramTest):
    def setUp(self):
        super().setUp()
        words = [f"w{n * n % 97}x{n}" for n in range(240)]
        self.texts = {n: " ".join(words[60 * n : 60 * n + 60]) for n in range(4)}
        for n, text in self.texts.items():
            self.write(f"t/A/{n}.txt", f"{text}\n")
        self.write("t/A/new.txt", f"{self.texts[1]} and some more words of one's own about the rope\n")
        self.write("t/B/1.txt", f"{self.texts[1]} here\n")

    def test_they_are_listed_and_left_out_within_groups(self):
        rows = self.succeeds("check", "t", "--duplicates").rows()
        self.assertEqual([(row["document"], row["kept"]) for row in rows], [("A/new.txt", "yes"), ("A/1.txt", "no")])
        self.assertAlmostEqual(float(rows[1]["in_common"]), 56 / 66)
        run = self.succeeds("check", "t", "--all")
        self.assertIn("1 document nearly the text of another in the same group, such as document A/1.txt", run.err)
        self.assertIn("3 documents nearly the text of one in another group", run.err)
        run = self.succeeds("freq", "t", "--drop-near-duplicates", "-o", "f.csv")
        self.assertIn("left out 1 document with nearly the text of another", run.err)
        about = json.loads((self.folder / "f.csv-metadata.json").read_text("utf-8"))["notes"][0]
        self.assertEqual(about["settings"]["drop_near_duplicates"], "0.5")
        self.assertNotIn("nearly", self.succeeds("freq", "t", "--drop-near-duplicates", "0.95").err)
        for keep, left in (("newest:document", "A/1.txt"), ("oldest:document", "A/new.txt")):
            out = self.succeeds(
                "concordance", "t/A", "--find", "w1x1,w4x60", "--drop-near-duplicates", "--keep", keep
            )
            self.succeeds("check", "t", "--drop-near-duplicates", "--keep", keep)
            self.assertNotIn(left.removeprefix("A/"), [row["document"].rpartition("/")[2] for row in out.rows()])
        self.fails(1, "--keep: the documents have no field 'year'", "name one of", "freq", "t", "--drop-near-duplicates", "--keep", "newest:year")  # fmt: skip
        self.fails(2, "--keep", "--help", "freq", "t", "--keep", "biggest")

    def test_of_two_of_one_name_the_right_one_is_read_again(self):
        more = " with a rope and a stove"
        cells = [f"g,{self.texts[1]}", f"g,{self.texts[1]}{more}", f"g,{self.texts[2]}{more}"]
        self.write("t.csv", "\n".join(["name,entry", *cells]))
        asked = ("t.csv", "--text", "entry", "--id", "name", "--drop-near-duplicates")
        rows = self.succeeds("concordance", *asked, "--find", "stove", "--context", "document").rows()
        self.assertEqual([row["left"].split()[0] for row in rows], [self.texts[n].split()[0] for n in (1, 2)])
        self.write("d.toml", '[categories]\nfire = ["stove"]\n')
        marked = self.succeeds("categories", *asked, "--dictionary", "d.toml", "--marked", "-").out
        self.assertEqual(marked.count("stove"), 2)

    def test_what_can_be_pasted_leaves_nothing_of_it(self):
        filler = " ".join(f"word{n}" for n in range(900))
        for n in range(9):
            self.write(f"p/A/{n}.txt", f"Old book {n}\n{filler.replace('word', f'w{n}o')}\n")
        self.write("p/A/web.txt", f"see https://hut.example/ &amp; a rest-\ning place <b>x</b>\n{filler}")
        self.write("p/A/again.txt", f"Old book 1\n{filler.replace('word', 'w1o')}\n")
        self.write("p/A/blank.txt", "\n")
        said = self.succeeds("check", "p").err
        line = said.partition("to apply all of it: ")[2].splitlines()[0]
        for option in ("--drop-repeats", "--cut", "--mend entities,hyphens", "--drop-running 10", "--min-tokens 1"):
            self.assertIn(option, line)
        again = self.succeeds("check", "p", *shlex.split(line)).err
        self.assertNotIn("to apply", again)
        self.assertIn("nothing looks wrong", again)


if __name__ == "__main__":
    unittest.main()
