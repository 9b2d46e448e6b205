"""Lists one can see and bring: words, named lists, dictionaries of every kind, typed merges, fields by rules."""

import os
import unittest
from pathlib import Path

from tests.cli.program import ProgramTest

PLACES = ("north/inn_4", "north/school_3", "south/cemetery_2", "south/school_1")
TEXT = "The wind was at the door of the hut. The stove and the tea were warm; we had tea twice."


class Lists(ProgramTest):
    def setUp(self):
        super().setUp()
        self.write("t.txt", TEXT)
        self.own = {"XDG_CONFIG_HOME": str(self.folder / "config")}

    def terms(self, *arguments: str, **settings: object) -> dict[str, str]:
        return {row["term"]: row["freq"] for row in self.succeeds("freq", "t.txt", *arguments, **settings).rows()}

    def test_words_prints_and_writes_what_ships(self):
        shown = self.succeeds("words").out
        for kind in ("stop lists: ", "classes: en:articles", "lemmas: ", "stems: ", "of your own: "):
            self.assertIn(kind, shown)
        self.assertEqual(self.succeeds("words", "en:articles").out, "a\tarticles\nan\tarticles\nthe\tarticles\n")
        self.assertIn("\ndoch\n", self.succeeds("words", "stop", "de").out)
        every = dict(line.split("\t") for line in self.succeeds("words", "en").out.splitlines())
        self.assertEqual((every["the"], every["we"]), ("articles", "pronouns"))
        forms = dict(
            line.split("\t") for line in self.succeeds("words", "lemmas", "en", "--for", "go,axes").out.splitlines()
        )
        self.assertLessEqual({"goes": "go", "went": "go", "gone": "go", "axes": "axe"}.items(), forms.items())
        self.assertIn("Häuser\tHaus\n", self.succeeds("words", "lemmas", "de", "--for", "Haus").out)
        self.succeeds("words", "en:articles", "-o", "mine.txt")
        self.assertNotIn("the", self.terms("--stop", "mine.txt"))
        self.each_fails(
            [
                (1, "there is no stop list 'xx'", "there are", "words", "stop", "xx"),
                (2, "words lemmas: which language?", "words lemmas en", "words", "lemmas"),
                (2, "words lemmas: of which word?", "--for WORD", "words", "lemmas", "en"),
                (2, "--for is of lemmas", "words lemmas CODE", "words", "en", "--for", "go"),
                (2, "-o mine.csv: a list is a text file", "mine.txt", "words", "en", "-o", "mine.csv"),
                (2, "words takes one list, not 2", "words stop CODE", "words", "en", "de"),
            ]
        )

    def test_a_list_of_ones_own_is_found_by_its_name(self):
        # with the mark that some editors write, and a comment
        self.write("config/millstone/lists/ours.txt", b"\xef\xbb\xbfwind\nhut # ours\n")
        run = self.succeeds("freq", "t.txt", "--stop", "ours", own=self.own)
        self.assertNotIn("wind", [row["term"] for row in run.rows()])
        self.assertIn(
            f"note: the list ours is {Path('config/millstone/lists/ours.txt')}",
            run.err.replace(f"{self.folder}{os.sep}", ""),
        )
        self.assertIn("left out 2 of 20 tokens: stop list ours 2", run.err)
        self.assertEqual(self.succeeds("words", "ours", own=self.own).out, "wind\nhut\n")
        self.assertIn("of your own: ours", self.succeeds("words", own=self.own).out)
        self.assertEqual(list(self.terms("--only", "ours", own=self.own)), ["hut", "wind"])
        self.assertNotIn("ours", self.terms("--stop", "ours"), "a word where there is no such list")
        self.write("config/millstone/lists/empty.txt", "# nothing\n")
        self.fails(
            1, "empty.txt has no entries", "one word per line", "freq", "t.txt", "--stop", "empty", own=self.own
        )

    def test_dictionaries_of_every_kind(self):
        self.write("warm.txt", b"\xef\xbb\xbftea\nstove\n")
        self.write("two.csv", "word,theme\ntea,warm\nstove,warm\n")
        self.write("semi.csv", "topic;pattern;remark\nwarm;tea;x\nwarm;stove;y\n")
        self.write("any.csv", "a,b,c\ntea,warm,x\nstove,warm,y\n")
        table = {
            ("warm.txt",): ("warm", 3),
            ("two.csv",): ("warm", 3),
            ("semi.csv",): ("warm", 3),
            ("any.csv", "--category-column", "b", "--entry-column", "a"): ("warm", 3),
            ("en:articles",): ("articles", 5),
            ("de",): ("de", 1),
            ("warm.txt", "--dictionary", "two.csv"): ("warm", 3),
        }
        for arguments, (name, places) in table.items():
            with self.subTest(arguments):
                run = self.succeeds("categories", "t.txt", "--scale", "count", "--dictionary", *arguments)
                self.assertEqual(float(run.rows()[0][name]), places)
        lines = self.succeeds("concordance", "t.txt", "--dictionary", "warm.txt").rows()
        self.assertEqual([row["found"] for row in lines], ["stove", "tea", "tea"])
        self.write("one.csv", "category\nwarm\n")
        self.write("other.lst", "warm: tea, stove\n")
        self.write("empty.txt", "# nothing\n")
        self.write("x/Warm.txt", "tea\n")
        self.each_fails(
            [
                (1, "any.csv: which column holds the categories?", "--category-column", "categories", "t.txt", "--dictionary", "any.csv"),
                (1, "one.csv: which column holds the entries?", "--entry-column", "categories", "t.txt", "--dictionary", "one.csv"),
                (1, "any.csv has no column 'z'", "--entry-column", "categories", "t.txt", "--dictionary", "any.csv", "--entry-column", "z"),
                (1, "other.lst, line 1", "a dictionary is TOML, a table", "categories", "t.txt", "--dictionary", "other.lst"),
                (1, "empty.txt has no entries", "one word per line", "categories", "t.txt", "--dictionary", "empty.txt"),
                (1, "the stop list 'en' has no class 'verbs'", "articles", "categories", "t.txt", "--dictionary", "en:verbs"),
                (1, "differs in case only", "one way", "categories", "t.txt", "--dictionary", "warm.txt", "--dictionary", "x/Warm.txt"),
            ]
        )  # fmt: skip
        self.write("odd.txt", "tea\nyurt*\nstove\n")
        found = [row["finding"] for row in self.succeeds("categories", "t.txt", "--validate", "odd.txt").rows()]
        self.assertIn("no hit", found[0])
        self.assertEqual(found[-2:], ["", ""], "the inventory comes last")

    def test_merges_and_signs_that_are_typed(self):
        self.assertEqual(
            self.terms("--merge", "fire=stove,tea;place=hut", "--only", "fire,place"), {"fire": "3", "place": "1"}
        )
        self.each_fails(
            [
                (1, "'warm=' is not NAME=WORD,WORD", "kin=son,wife", "freq", "t.txt", "--merge", "warm="),
                (1, "'tea' becomes 'a' and 'b'", "remove one", "freq", "t.txt", "--merge", "a=tea;b=tea"),
            ]
        )
        self.write("q.txt", "how? why? what* is it how")
        for typed, expected in (("how\\?", ["how?"]), ("*\\?", ["how?", "why?"]), ("what\\*", ["what*"])):
            for option in ("--only", "--match"):
                run = self.succeeds("freq", "q.txt", "--tokens", "spaces", option, typed)
                self.assertEqual([row["term"] for row in run.rows()], expected, (option, typed))
        self.assertIn("( ) | are taken as written", self.succeeds("freq", "t.txt", "--match", "(hut|tea)").err)
        self.assertIn("[ ] are taken as written", self.succeeds("freq", "t.txt", "--stop", "[th]ut").err)


class Names(ProgramTest):
    def test_documents_folders_parts_and_fields_make_groups_and_conditions(self):
        for place in PLACES:
            self.write(f"t/{place}.txt", f"{TEXT} {place.partition('_')[0].rpartition('/')[2]}")
        rule = "kind from document: *cemetery* = cemetery, *school* = school, else other"
        table = {
            ("--group", "document"): [f"{one}.txt" for one in PLACES],
            ("--group", "folder", "--where", "folder = north"): ["north"],
            ("--field", rule, "--group", "kind"): ["cemetery", "other", "school"],
            ("--field", rule, "--group", "kind", "--where", "kind != other"): ["cemetery", "school"],
            ("--field", "side from folder: /^n/ = up, else down", "--group", "side"): ["down", "up"],
            ("--unit", "parts:4", "--group", "part", "--where", "part > 2"): ["3", "4"],
        }
        for arguments, groups in table.items():
            with self.subTest(arguments):
                rows = self.succeeds("freq", "t", *arguments).rows()
                self.assertEqual(sorted({row["group"] for row in rows}), groups)
        self.each_fails(
            [
                (2, "--field: must be written", "--help", "freq", "t", "--field", "kind from"),
                (2, "'school' is not a rule", "--help", "freq", "t", "--field", "kind from file: school, else x"),
                (1, "made from 'place', which no document has", "the fields are", "freq", "t", "--field", "k from place: a = b"),
                (1, "--where leaves no part of 8 parts", "loosen", "freq", "t", "--unit", "parts:2", "--where", "part = 9"),
                (1, "no document has a field 'part'", "the fields are", "freq", "t", "--where", "part = 9"),
            ]
        )  # fmt: skip

    def test_columns_are_listed_whole_and_understood_under_one_name(self):
        self.three_huts()
        run = self.fails(
            1,
            "the table has no column 'a'",
            "its columns: target, reference, rank, term",
            "keyness",
            "huts",
            "--columns",
            "a",
        )
        self.assertIn("ll_documents", run.err.splitlines()[1])
        for command in ("keyness", "logodds"):
            rows = self.succeeds(command, "huts", "--columns", "group,term", "--sort", "group:desc").rows()
            self.assertEqual(list(rows[0]), ["target", "term"])
        columns = self.succeeds(
            "matrix", "a=huts/Ostrel/1.txt", "b=huts/Fallowmere/1.txt", "--transpose"
        ).out.splitlines()[0]
        self.assertEqual(columns.split("\t"), ["term", "a", "b"])


if __name__ == "__main__":
    unittest.main()
