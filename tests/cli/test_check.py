"""check: what is in the texts, what looks wrong, documents whole, words explained; word lists of users."""

import unittest

from tests.cli.program import ProgramTest


class Check(ProgramTest):
    def test_sizes_and_what_looks_wrong(self):
        plain = "Snow fell in the night and the path was gone by noon.\n"
        for n in range(4):
            self.write(f"huts/Ostrel/{n}.txt", f"Hut book page {n}\n{plain * (n + 1)}")
        self.write("huts/Ostrel/long.txt", f"Hut book page 9\n{plain * 40}")
        self.write("huts/Ostrel/again.txt", f"Hut book page 0\n{plain}")
        self.write("huts/Ostrel/blank.txt", "\n")
        self.write("huts/Haskgate/web.txt", "<p>see https://hut.example/ &amp; rest-\ning at Ã¼ Ã¼ Ã¼ � " + "x" * 40)
        self.write("huts/Haskgate/lines.txt", "\n".join(f"{n} word" for n in range(12)))
        self.write("huts/Haskgate/cover.jpg", b"\xff")
        run = self.succeeds("check", "huts", "--all")
        rows = {row["group"]: row for row in run.rows()}
        self.assertEqual(
            {name: rows["Ostrel"][name] for name in ("documents", "tokens", "shortest", "median", "longest", "longest_document", "empty", "repeated")},
            {"documents": "7", "tokens": "636", "shortest": "16", "median": "34.0", "longest": "484", "longest_document": "Ostrel/long.txt", "empty": "1", "repeated": "1"},
        )  # fmt: skip
        for what, remedy in (
            ("1 character lost (U+FFFD) in 1 document: Haskgate/web.txt", "get fresh copies"),
            ("3 pairs of characters such as Ã© in 1 document", "get fresh copies"),
            ("Ostrel has 17 times the tokens of Haskgate", "--where"),
            (
                "Ostrel/long.txt has 76 % of the tokens of Ostrel, where an even share is 17 %",
                "--where 'document != Ostrel/long.txt'",
            ),
            ("1 document without words", "--min-tokens 1"),
            (
                "1 document with the text of another in the same group, such as document Ostrel/again.txt",
                "--drop-repeats",
            ),
            ("2 lines that recur, such as 'Hut book page #' 6 times", "--drop-running"),
            ("1 piece of markup in 1 document", "--cut markup"),
            ("1 link in 1 document", "--cut links"),
            ("1 undecoded entity in 1 document", "--mend entities"),
            ("1 word broken at a line end in 1 document", "--mend hyphens"),
            ("nearly every line begins or ends with a number in 1 document: Haskgate/lines.txt", "--cut 'pattern:"),
            ("1 token of over 30 letters", "--length ..30"),
        ):
            with self.subTest(what):
                self.assertRegex(
                    run.err, rf"looks wrong: {_literal(what)}[^\n]*\n  to fix it: [^\n]*{_literal(remedy)}"
                )
        self.assertIn("skipped 1 file (unsupported file type): Haskgate/cover.jpg", run.err)
        repaired = (
            "--min-tokens=1",
            "--drop-repeats",
            "--drop-running=5",
            "--cut=markup",
            "--cut=links",
            "--mend=entities,hyphens",
        )
        run = self.succeeds("check", "huts", *repaired, "--cut=pattern:(?m)^\\d+ ")
        for word in (
            "--drop-repeats",
            "recur",
            "--cut markup",
            "--cut links",
            "--mend entities",
            "--mend hyphens",
            "nearly every",
        ):
            self.assertNotIn(f"to fix it: {word}", run.err)
        self.assertIn("left out 1 document with a text that occurred before: Ostrel/again.txt", run.err)
        self.assertIn("dropped 55 running lines", run.err)
        self.assertIn("  5 times: Hut book page #", run.err)

    def test_strict_ends_with_status_1_only_when_something_looks_wrong(self):
        self.three_huts()
        self.assertIn("nothing looks wrong", self.succeeds("check", "huts", "--strict").err)
        self.write("huts/Fallowmere/2.txt", "see <b>this</b>")
        run = self.millstone("check", "huts", "--strict")
        self.assertEqual((run.code, run.err.splitlines()[-2:]), (1, ["millstone check: error: 1 thing looks wrong", "  what to do: fix them as the lines above say"]))  # fmt: skip

    def test_an_id_column_taken_for_the_text(self):
        self.write("t.csv", "id,entry\n" + "".join(f"x{n}y,the hut\n" for n in range(50)))
        self.assertIn("the text column looks like an id", self.succeeds("check", "t.csv", "--text=id").err)

    def test_documents_are_shown_whole_and_words_explained(self):
        self.write("t.csv", 'id,hut,entry\n1,Ostrel,"Hers,\n\nnot <b>mine</b>"\n2,Haskgate,we went\n')
        out = self.succeeds(
            "check", "t.csv", "--text=entry", "--group=hut", "--where=hut != Haskgate", "--show=5", "--cut=markup"
        ).out
        self.assertEqual(out, "== 2, group Ostrel; id: 1\n\nHers,\n\nnot  mine\n\n")
        for word, expected in (
            ("hers", '"Hers" -> case "hers" -> lemma "she" (lemmas en) -> left out (stop list en:pronouns), once\n'),
            ("go", '"went" -> lemma "go" (lemmas en) -> counted as "go", once\n'),
            ("not", '"not" -> counted as "not" (spared), once\n'),
        ):
            arguments = ("check", "t.csv", "--text=entry", "--lemmas=en", "--stop=en", "--spare=not", "--explain")
            self.assertEqual(self.succeeds(*arguments, word).out, expected)
        self.fails(
            1, "'yeti' does not occur in the texts", "spelling", "check", "t.csv", "--text=entry", "--explain=yeti"
        )


class WordLists(ProgramTest):
    def test_lists_by_name_class_file_and_saved_table(self):
        self.three_huts()
        self.write("stop.txt", "# our own\nrope  # twice\r\nThe\nSnwo\n")
        self.write("lemmas.csv", "form,lemma\nleaks,leak\nfroze,freeze\n")
        self.write("merge.csv", "term,as\nrope,gear\nharness,gear\n")
        self.write("phrases.txt", "wet socks\n")
        self.succeeds("freq", "huts", "--only=boat,stove", "-o", "kept.csv")
        table = [
            (("--stop=stop.txt",), (), ("rope", "the")),
            (("--stop=en:articles,en:conjunctions",), (), ("the", "a", "and")),
            (("--stop=de",), ("the", "rope"), ()),
            (("--stop=kept.csv",), ("rope",), ("boat", "stove")),
            (("--only=kept.csv",), ("boat", "stove"), ("rope",)),
            (("--lemmas=lemmas.csv",), ("leak", "freeze", "socks"), ("leaks", "froze")),
            (("--lemmas=lemmas.csv,en",), ("leak", "child", "sock"), ("children",)),
            (("--stem=en",), ("children", "laugh"), ()),
            (("--merge=merge.csv",), ("gear",), ("rope", "harness")),
            (("--phrases=phrases.txt",), ("wet socks",), ("wet", "socks")),
            (("--stop=en", "--spare=the"), ("the",), ("and", "a")),
            (("--tokens=characters", "--length=1"), ("r", "o"), ("rope",)),
        ]  # fmt: skip
        runs = self.several([("freq", "huts", *arguments, "--quiet") for arguments, _, _ in table])
        for (arguments, present, absent), run in zip(table, runs, strict=True):
            with self.subTest(arguments):
                found = {row["term"] for row in run.rows()}
                self.assertEqual((set(present) - found, set(absent) & found), (set(), set()))
        err = self.succeeds("freq", "huts", "--stop=stop.txt").err
        self.assertIn("note: stop.txt: 1 entry fits no word of the texts: 'Snwo'", err)
        rows = {row["term"]: row for row in self.succeeds("freq", "huts", "--merge=merge.csv", "--quiet").rows()}
        self.assertEqual(rows["gear"]["forms"], "rope: 4; harness: 1")

    def test_lemmas_of_several_languages(self):
        table = {
            "en": ("The mice went home. His data and media were there; she left, felt gone, don't ask.", "mouse go home he data media be there she left feel go don't ask"),
            "de": ("Wir sahen die Häuser der Kinder.", "haus kind sehen"),
            "fr": ("Elle aime les chevaux blancs.", "cheval blanc"),
            "es": ("Los niños comieron manzanas.", "niño comer manzana"),
            "it": ("Le ragazze mangiano mele rosse.", "ragazza mangiare mela"),
            "ru": ("Дети читали книги в домах.", "читать книга дом"),
        }  # fmt: skip
        for code, (text, expected) in table.items():
            with self.subTest(code):
                self.write("t.txt", text)
                found = {row["term"] for row in self.succeeds("freq", "t.txt", "--lemmas", code, "--quiet").rows()}
                self.assertEqual(set(expected.split()) - found, set())

    def test_a_lemma_is_a_word_that_exists(self):
        text = (
            "Playing, growing, fixing and singing they swore; the bloke had gone for a cola, better-looking since the 1960s. "
            "It ended 3-1, not 6-7; know thyself. Used things, lower huts, coming wolves, two taxes. Three cairns, one cairn; choughs."
        )
        kept = "bloke cola better-looking 1960s 3-1 6-7 thyself cairn choughs play grow fix sing swear go use thing low hut come wolf tax"
        self.write("t.txt", text)
        rows = {row["term"]: row for row in self.succeeds("freq", "t.txt", "--lemmas", "en", "--quiet").rows()}
        self.assertEqual(set(kept.split()) - rows.keys(), set())
        self.assertEqual(rows["cairn"]["forms"], "cairn: 1; cairns: 1")
        self.write("de.txt", "Im Jahr 2016 sah man abgethane 3er 1960er.")
        found = {row["term"] for row in self.succeeds("freq", "de.txt", "--lemmas", "de", "--quiet").rows()}
        self.assertLessEqual({"2016", "3er", "1960er"}, found, "numbers have no lemma")
        self.write("l.csv", "form,lemma\nice,xylophone\n")
        self.write("o.txt", "The worse of it.")
        self.assertNotIn(
            "looks little like it", self.succeeds("check", "o.txt", "--lemmas", "en").err, "known irregular ones"
        )
        self.write("i.txt", "Ice on ice.")
        run = self.succeeds("check", "i.txt", "--lemmas", "l.csv,en")
        self.assertIn("1 form counted under a lemma that looks little like it: ice as xylophone (2 times)", run.err)

    def test_words_in_capitals_are_not_function_words(self):
        self.write(
            "t.txt",
            "The US army gave us maps. The US sent us home; the US is large.\n\nLET US GO, US! US! US!\n\nI and us.",
        )
        for case, term in (("lower", "us"), ("keep", "US")):
            rows = {
                row["term"]: row["freq"]
                for row in self.succeeds("freq", "t.txt", "--case", case, "--spare", "US", "--stop", "en").rows()
            }
            self.assertEqual((rows["US"], rows.get("us")), ("7", None), "as typed, and us is left out")
            rows = {
                row["term"]: row["freq"]
                for row in self.succeeds("freq", "t.txt", "--case", case, "--lemmas", "en").rows()
            }
            self.assertEqual((rows[term], rows["we"], rows["i"]), ("7", "3", "1"))
        self.assertNotIn("in capitals", self.succeeds("check", "t.txt").err, "nothing takes it for a function word")
        run = self.succeeds("check", "t.txt", "--stop", "en")
        self.assertIn(
            "'US' is in capitals 3 times within sentences that are not, and stop list en takes it for 'us'",
            run.err,
        )
        self.assertIn("--spare US", run.err)
        self.assertNotIn("'GO'", run.err)
        self.assertNotIn("in capitals", self.succeeds("check", "t.txt", "--stop", "en", "--spare", "US").err)
        out = self.succeeds("check", "t.txt", "--lemmas", "en", "--explain", "us").out
        self.assertIn('"US" -> case "us" -> lemma "us" (in capitals, so no pronoun) -> counted as "us", 7 times', out)
        self.assertIn(
            '"US" -> counted as "US" (spared)', self.succeeds("check", "t.txt", "--spare=US", "--explain=us").out
        )

    def test_what_fits_no_word_is_noted_and_typed_words_are_words(self):
        self.write("t.txt", "Cephas is Peter. Lord and god made 3.5 miles, 1,000 steps; don’t ask.")
        self.write("m.csv", "term,as\ncephas,Peter\ndon’t,do not\nzorp,x\nbig house,villa\n")
        run = self.succeeds("freq", "t.txt", "--merge", "m.csv", "--stop", "lord,god,lrod")
        rows = {row["term"]: row["freq"] for row in run.rows()}
        self.assertEqual((rows["peter"], rows["do not"], rows.get("Peter"), rows.get("lord")), ("2", "1", None, None))
        self.assertIn("--merge: 2 entries fit no word of the texts: 'zorp', 'big house'", run.err)
        self.assertIn("--stop: 1 entry fits no word of the texts: 'lrod'", run.err)
        self.assertIn("words of --stop 2", run.err)
        run = self.succeeds("freq", "t.txt", "--only", "god,gdo,mountain hut")
        self.assertIn("--only: 2 entries fit no word of the texts: 'gdo', 'mountain hut'", run.err)
        for typed, kept in (("3.5", ["3.5"]), ("1,000", ["1,000"]), ("miles,3.5", ["3.5", "miles"])):
            run = self.succeeds("freq", "t.txt", "--drop", "*", "--spare", typed)
            self.assertEqual(sorted(row["term"] for row in run.rows()), kept)
        self.write("case.csv", "term,as\ncephas,Peter\nlord,peter\n")
        self.write("p.txt", "Big House\nlong stage\nbig house\n")
        self.each_fails(
            [
                (
                    1,
                    "case.csv, row 3: 'peter' differs in case only from 'Peter' in row 2",
                    "two names",
                    "freq",
                    "t.txt",
                    "--merge",
                    "case.csv",
                ),
                (
                    1,
                    "p.txt, line 3: 'big house' differs in case only from 'Big House' in line 1",
                    "--case keep",
                    "freq",
                    "t.txt",
                    "--phrases",
                    "p.txt",
                ),
                (1, "'english' is the name of a language", "--stop en", "freq", "t.txt", "--stop", "english"),
                (1, "'german' is the name of a language", "--lemmas de", "freq", "t.txt", "--lemmas", "german"),
                (1, "'Dutch' is the name of a language", "--stem nl", "freq", "t.txt", "--stem", "Dutch"),
            ]
        )

    def test_groups_that_are_hardly_told_apart_are_noted(self):
        rows = [
            "hut,entry",
            "Ostrel,ice",
            "ostrel ,ice",
            "Hask  gate,ice",
            "Hask gate,ice",
            "Me\u0301da,ice",
            "M\u00e9da,ice",
            "Vair,ice",
        ]
        self.write("t.csv", "\n".join([*rows, ""]))
        asked = ("t.csv", "--text", "entry", "--group", "hut")
        for run in (self.succeeds("check", *asked), self.succeeds("freq", *asked)):
            for what in ("upper and lower case", "white space", "the way accents are encoded"):
                self.assertRegex(run.err, rf"groups '\S.*' differ only in {what}")
            self.assertIn('rules = [{ match = "ostrel", value = "Ostrel" }]', run.err)
            self.assertIn("blanks at the ends of 'hut' in 1 document left out", run.err)
            self.assertNotIn("'Vair'", run.err)
        # the rule joins them, and leaves the other groups as they are
        rule = '[corpus]\ninput = ["t.csv"]\ntext = "entry"\ngroup = "place"\n[corpus.fields.place]\nsource = "hut"\n'
        self.write(
            "s.toml",
            rule + 'rules = [{ match = "ostrel", value = "Ostrel" }, { pattern = "^hask", value = "Haskgate" }]\n',
        )
        groups = [row["group"] for row in self.succeeds("freq", "--study", "s.toml").rows()]
        self.assertEqual(set(groups), {"Ostrel", "Haskgate", "Me\u0301da", "M\u00e9da", "Vair"})

    def test_bad_lists(self):
        self.three_huts()
        self.write("twice.csv", "term,as\nsnow,ice\nrope,gear\nSnow,weather\n")
        self.write("same.csv", "form,lemma\nsaw,see\nsaw,saw\n")
        self.write("gap.csv", "form,lemma\nsaw,\n")
        self.write("other.csv", "a,b\nx,y\n")
        self.write("single.txt", "snow\n")
        table = [
            (1, "twice.csv, row 4: 'Snow' becomes 'weather', but 'ice' in row 2 of twice.csv", "one of the rows", "--merge=twice.csv"),
            (1, "same.csv: 'saw' becomes 'see' in row 2 and 'saw' in row 3", "one of the rows", "--lemmas=same.csv"),
            (1, "gap.csv, row 2: lemma is empty", "fill it in", "--lemmas=gap.csv"),
            (1, "other.csv has no columns 'term' and 'as' (its columns: a, b)", "write term,as", "--merge=other.csv"),
            (1, "other.csv has no column 'term'", "one word per line", "--only=other.csv"),
            (1, "single.txt, line 1: 'snow' is a single word", "several words", "--phrases=single.txt"),
            (1, "there is no list of phrases gone.txt", "spelling", "--phrases=gone.txt"),
            (1, "no lemmas for 'xx'", "./xx", "--lemmas=xx"),
            (1, "no stemmer for 'xx'", "en", "--stem=xx"),
            (1, "the stop list 'en' has no class 'pronoun'; did you mean 'pronouns'?", "articles", "--stop=en:pronoun"),
            (1, "--pos needs annotated texts, and these are plain", "CoNLL-U", "--pos=NOUN"),
            (2, "--tokens: must be one of words, spaces, characters, pattern:REGEX, not 'word'; did you mean 'words'?", "--help", "--tokens=word"),
            (2, "--tokens: '[' is not a valid regular expression", "--help", "--tokens=pattern:["),
            (2, "--cut: must be one of links, mentions, hashtags, markup, pattern:REGEX, not 'link'", "--help", "--cut=link"),
            (2, "--mend: must be one of entities, hyphens", "--help", "--mend=entitys"),
            (2, "--drop-running: must be 2 or more, not 1", "--help", "--drop-running=1"),
            (2, "--unit: must be one of whole, page, paragraph", "--help", "--unit=parts:0"),
            (2, "--where: must be FIELD, one of = != < <= > >= ~, and a value, not 'hut'", "--help", "--where=hut"),
            (2, "--where: '(' is not a valid regular expression", "--help", "--where=hut ~ ("),
            (2, "--path-pattern: '(?P<a' is not a valid regular expression", "--help", "--path-pattern=(?P<a"),
        ]  # fmt: skip
        self.each_fails([(*row[:3], "freq", "huts", row[3]) for row in table])


def _literal(text: str) -> str:
    return "".join(f"\\{character}" if character in r"\.^$*+?{}[]|()" else character for character in text)


if __name__ == "__main__":
    unittest.main()
