"""What counts as a term: token rules, decisions on words, phrases, units, cleaning of texts."""

import fnmatch
import random
import tempfile
import unittest
from collections import Counter
from pathlib import Path

import numpy as np

from millstone.analyses.freq.compute import frequency_list
from millstone.core.base.errors import DataError
from millstone.core.corpus.cleaning import Cleaned, clean, mend_hyphens
from millstone.core.corpus.corpus import Document, Token
from millstone.core.corpus.corpus_units import cut_corpus, with_positions
from millstone.core.corpus.text_units import cut_text
from millstone.core.matrix.totals import column_sums
from millstone.core.scan.scan import scan
from millstone.core.settings.inputs import InputOptions
from millstone.core.settings.preparation import Preparation
from millstone.core.terms.counts import count
from millstone.core.terms.explanation import explained
from millstone.core.terms.phrases import with_phrases
from millstone.core.terms.term_map import map_terms
from millstone.core.terms.word_lists import Lemmas, WordList, WordLists
from millstone.core.tokenise.token_rules import cutter
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.inputs.tables.texts import read_table
from tests.core.builders import corpus_of, rows_of

TEXT = "The geese left. We saw 3 geese, and a goose saw us! Geese honk; Rose honked at Rose 12 times."
LEMMA = {"geese": "goose", "saw": "see", "honked": "honk", "rose": "rise", "left": "leave"}
ENGLISH = Lemmas("en", lambda form: LEMMA.get(form.lower(), form.lower()), spare_names=True)


def kept(preparation: Preparation | None = None, lists: WordLists | None = None, text: str = TEXT) -> dict[str, int]:
    """Term -> frequency."""
    corpus = corpus_of([("1", "g", text)], ordered=True)
    counts = count(corpus, map_terms(corpus, preparation, lists))
    return dict(rows_of(frequency_list(counts), "term", "freq"))


class Words(unittest.TestCase):
    def test_each_rule_and_their_order(self):
        everything = kept()
        self.assertEqual(everything["geese"], 3)
        goose = WordList("goose", ["goose"])
        table = [
            ("lemmas", {"goose": 4, "see": 2, "honk": 2, "rose": 2, "leave": 1}, Preparation(), WordLists(lemmas=[ENGLISH])),
            ("case kept", {"Geese": 1, "geese": 2, "Rose": 2}, Preparation(case="keep"), WordLists()),
            ("a table before a language", {"gander": 3, "goose": 1}, Preparation(), WordLists(lemmas=[Lemmas("mine", lambda form: "gander" if form.lower() == "geese" else None), ENGLISH])),
            ("merge wins over form and lemma", {"bird": 4, "geese": None, "goose": None}, Preparation(), WordLists(lemmas=[ENGLISH], merge={"goose": "bird"})),
            ("merge by form", {"bird": 3, "goose": 1}, Preparation(), WordLists(merge={"GEESE": "Bird"})),
            ("merge, case kept", {"Bird": 3}, Preparation(case="keep"), WordLists(merge={"GEESE": "Bird"})),
            ("stop by resulting term", {"goose": None, "geese": None}, Preparation(), WordLists(lemmas=[ENGLISH], stop=[goose])),
            ("stop by written form", {"geese": 3, "goose": None}, Preparation(), WordLists(lemmas=[Lemmas("m", {"goose": "geese"}.get)], stop=[goose])),
            ("spared words stay and are not changed", {"geese": 3, "goose": None}, Preparation(drop=("g*",)), WordLists(lemmas=[ENGLISH], spare=WordList("s", ["Geese"]))),
            ("spared resulting terms stay", {"goose": 4}, Preparation(drop=("goose",)), WordLists(lemmas=[ENGLISH], spare=WordList("s", ["goose"]))),
            ("only", {"geese": 3, "rose": 2, "we": None}, Preparation(), WordLists(only=WordList("o", ["GEESE", "rose"]))),
            ("only and spare by pattern", {"geese": 3, "goose": 1, "rose": None}, Preparation(drop=("go*",)), WordLists(only=WordList("o", ["g*"]), spare=WordList("s", ["GOO?E"]))),
            ("drop by glob", {"geese": None, "goose": 1, "saw": None}, Preparation(drop=("*eese", "?aw")), WordLists()),
            ("numbers", {"3": None, "12": None, "geese": 3}, Preparation(numbers="drop"), WordLists()),
            ("length is that of the result", {"goose": 4, "times": 1, "see": None, "left": None, "leave": 1}, Preparation(length=(5, 5)), WordLists(lemmas=[ENGLISH])),
            ("stems are shown as their commonest word", {"geese": 3, "honk": 2}, Preparation(), WordLists(stem=lambda word: word.removesuffix("ed"))),
        ]  # fmt: skip
        for name, expected, preparation, lists in table:
            with self.subTest(name):
                found = kept(preparation, lists)
                self.assertEqual({term: found.get(term) for term in expected}, expected)

    def test_names_are_not_bent(self):
        lemma = WordLists(
            lemmas=[Lemmas("en", lambda form: {"banks": "bank", "walks": "walk"}.get(form.lower()), True)]
        )
        found = kept(None, lemma, "We met Banks. Walks are long. He walks with Banks. Banks left. The BANKS broke.")
        self.assertEqual((found["banks"], found["walk"], found["bank"]), (3, 2, 1))

    def test_what_was_merged_is_seen_and_explained(self):
        corpus = corpus_of([("1", "g", TEXT)], ordered=True)
        lists = WordLists(lemmas=[ENGLISH], stop=[WordList("en", ["we", "us"], {"we": "pronouns"})])
        term_map = map_terms(corpus, None, lists)
        rows = dict(rows_of(frequency_list(count(corpus, term_map)), "term", "forms"))
        self.assertEqual(rows["goose"], "geese: 3; goose: 1")
        self.assertEqual(
            explained("goose", corpus, term_map, lists),
            [
                '"geese" -> lemma "goose" (lemmas en) -> counted as "goose", 2 times',
                '"Geese" -> case "geese" -> lemma "goose" (lemmas en) -> counted as "goose", once',
                '"goose" -> counted as "goose", once',
            ],
        )
        self.assertEqual(
            explained("WE", corpus, term_map, lists), ['"We" -> case "we" -> left out (stop list en:pronouns), once']
        )
        self.assertEqual(explained("us", corpus, term_map, lists), ['"us" -> left out (stop list en), once'])
        self.assertEqual(explained("yeti", corpus, term_map, lists), [])

    def test_entries_that_fit_nothing_are_told(self):
        corpus = corpus_of([("1", "g", "Don’t walk")])
        lists = WordLists(
            stop=[WordList("mine", ["don't", "wlak", "ice axe", "wa*", "xa*"]), WordList("en", ["the"], shipped=True)]
        )
        self.assertEqual(map_terms(corpus, None, lists).idle, {"mine": ["wlak", "xa*"]})

    def test_rates_of_all_or_of_kept_tokens(self):
        corpus = corpus_of([("1", "g", "a a b c")])
        term_map = map_terms(corpus, None, WordLists(stop=[WordList("s", ["a"])]))
        for base, expected in (("all", 250_000), ("kept", 500_000)):
            self.assertEqual(
                rows_of(frequency_list(count(corpus, term_map, base)), "term", "per_million")[0], ("b", expected)
            )

    def test_annotated_texts(self):
        tokens = [
            Token("They", "they", "PRON"),
            Token("leaves", "leave", "VERB"),
            Token("leaves", "leaf", "NOUN"),
            Token(".", ".", "PUNCT"),
            None,
        ]
        corpus = scan([Document("1", "g", "", annotated=tokens), Document("2", "g", "leaves")], ordered=True)
        self.assertEqual(corpus.tokens.tolist(), [3, 1])
        self.assertEqual(corpus.breaks.tolist(), [0, 3, 4])

        def of(preparation: Preparation, lists: WordLists) -> dict[str, int]:
            return dict(rows_of(frequency_list(count(corpus, map_terms(corpus, preparation, lists))), "term", "freq"))

        given = WordLists(lemmas=[Lemmas("given", lambda form: None)])
        self.assertEqual(of(Preparation(lemmas=("given",)), given), {"they": 1, "leave": 1, "leaf": 1, "leaves": 1})
        self.assertEqual(of(Preparation(pos=("noun",)), WordLists()), {"leaves": 1})
        plain = corpus_of([("1", "g", "leaves")])
        for preparation, what in (
            (Preparation(pos=("NOUN",)), "--pos"),
            (Preparation(lemmas=("given",)), "--lemmas given"),
        ):
            with self.assertRaisesRegex(DataError, f"{what} needs annotated texts"):
                map_terms(plain, preparation)
        with self.assertRaisesRegex(DataError, "no token has the tag NOWN"):
            map_terms(corpus, Preparation(pos=("NOWN",)))


class OneTokenAtATime(unittest.TestCase):
    """Decisions on the vocabulary give what going through the text token by token would give."""

    LEMMAS = {"geese": "goose", "ran": "run", "runs": "run", "b2": "b", "axes": "axe"}
    WORDS = ("geese", "Goose", "ran", "runs", "RUN", "42", "b2", "axe", "axes", "Ostrel", "the", "The", "of")

    def settings(self, chance: random.Random) -> tuple[Preparation, WordLists]:
        def some(most: int) -> list[str]:
            return chance.sample(self.WORDS, chance.randrange(most + 1))

        preparation = Preparation(
            case=chance.choice(["lower", "keep"]),
            numbers=chance.choice(["keep", "drop"]),
            length=chance.choice([(0, None), (3, None), (2, 4)]),
            drop=tuple(chance.sample(["g*", "*s", "?he", "O*"], chance.randrange(3))),
        )
        lists = WordLists(
            stop=[WordList("s", some(3))],
            only=WordList("o", [*some(9), "axe", "r*"]) if chance.random() < 0.3 else None,
            spare=WordList("p", some(2)),
            lemmas=[Lemmas("l", lambda form: self.LEMMAS.get(form.lower()))] if chance.random() < 0.6 else [],
            merge={one: chance.choice(["x", "Goose"]) for one in some(3)},
        )
        return preparation, lists

    def counted(self, tokens: list[str], preparation: Preparation, lists: WordLists) -> Counter[str]:
        def fold(word: str) -> str:
            return word.lower() if preparation.case == "lower" else word

        def stands_in(word_list: WordList | None, *words: str) -> bool:
            entries = [
                entry if word_list is lists.spare and entry.isupper() else fold(entry)
                for entry in (word_list.entries if word_list else ())
            ]
            return any(fnmatch.fnmatchcase(word, entry) for word in words for entry in entries)

        found: Counter[str] = Counter()
        for token in tokens:
            apart = token.isupper() and stands_in(lists.spare, token)
            form = term = token if apart else fold(token)
            if not stands_in(lists.spare, form):
                term = fold(self.LEMMAS.get(token.lower(), token)) if lists.lemmas else form
                merged = {one.lower(): fold(name) for one, name in lists.merge.items()}
                term = merged.get(form.lower(), merged.get(term.lower(), term))
                least, most = preparation.length
                if not stands_in(lists.spare, term) and (
                    (preparation.numbers == "drop" and term.isdecimal())
                    or stands_in(WordList("", preparation.drop), form, term)
                    or stands_in(lists.stop[0], form, term)
                    or not least <= len(term) <= (most or 99)
                    or (lists.only and not stands_in(lists.only, form, term))
                ):
                    continue
            found[term] += 1
        return found

    def test_random_texts_and_settings(self):
        chance = random.Random(11)
        for _ in range(300):
            preparation, lists = self.settings(chance)
            tokens = chance.choices(self.WORDS, k=60)
            corpus = corpus_of([("1", "g", " ".join(tokens))])
            term_map = map_terms(corpus, preparation, lists)
            counts = count(corpus, term_map)
            frequencies = dict(rows_of(frequency_list(counts), "term", "freq"))
            self.assertEqual(frequencies, self.counted(tokens, preparation, lists), (preparation, lists))
            self.assertEqual(sum(counts.left_out.values()) + sum(frequencies.values()), len(tokens))
            if term_map.merged:
                forms = dict(rows_of(frequency_list(counts), "term", "forms"))
                added = {
                    term: sum(int(one.split(": ")[1]) for one in line.split("; ")) for term, line in forms.items()
                }
                self.assertEqual(added, frequencies)


class Tokens(unittest.TestCase):
    def test_rules(self):
        table = [
            ("characters", False, "雪山に。登る", ["雪", "山", "に", None, "登", "る"]),
            ("characters", False, "👩🏽‍🚒é!", ["👩🏽‍🚒", "é", None]),
            ("characters", True, "雪！", ["雪", "！", None]),
            ("words", False, "👩🏽‍🚒é", ["é"]),
            ("words", True, "(don’t)…", ["(", "don't", ")", "…", None]),
            ("words", True, "3.5%", ["3.5", "%"]),
            ("spaces", False, "can", ["can"]),
            ("spaces", False, "'m", ["'m"]),
            ("spaces", False, "...", [None]),
            ("spaces", True, "...", ["...", None]),
            ("pattern:[a-z]+", False, "rock-and-roll2", ["rock", "and", "roll"]),
            ("pattern:[a-z]+", True, "rock-on.", ["rock", "-", "on", ".", None]),
            ("words", False, "می\u200cروند", ["می\u200cروند"]),
            ("words", False, "हिन्दी", ["हिन्दी"]),
            ("words", False, "Μαΐου", ["Μαΐου"]),
            ("words", False, "כתבי", ["כתבי"]),
            ("words", False, "школа,", ["школа"]),
        ]  # fmt: skip
        for rule, marks, piece, expected in table:
            with self.subTest((rule, piece)):
                self.assertEqual(cutter(rule, marks)(piece), expected)

    def test_marks_are_terms_but_no_part_of_the_base(self):
        corpus = scan([Document("1", "g", "Ice, ice. Snow!")], marks=True)
        self.assertEqual(corpus.tokens.tolist(), [3])
        counts = count(corpus, map_terms(corpus))
        self.assertEqual(dict(rows_of(frequency_list(counts), "term", "per_million"))[","], 1e6 / 3)
        without_ice = map_terms(corpus, None, WordLists(stop=[WordList("s", ["ice"])]))
        self.assertEqual(count(corpus, without_ice, "kept").base.tolist(), [1])
        none = map_terms(corpus, Preparation(length=(9, None)))
        self.assertEqual(count(corpus, none).left_out, {"length": 3})


class Phrases(unittest.TestCase):
    def test_longest_first_leftmost_first_within_sentences(self):
        text = "White out on the ridge. A white-out. White out now. In the white. Out there white OUT white out now"
        corpus = corpus_of([("1", "g", text)], ordered=True)
        joined = with_phrases(corpus, ["white out", "White out now", "on the"])
        found = dict(rows_of(frequency_list(count(joined, map_terms(joined))), "term", "freq"))
        self.assertEqual({term: found.get(term) for term in ("white out", "white out now", "on the", "white", "white-out")},
                         {"white out": 2, "white out now": 2, "on the": 1, "white": 1, "white-out": 1})  # fmt: skip
        self.assertEqual(joined.tokens.tolist(), corpus.tokens.tolist(), "rates stay")
        as_written = with_phrases(corpus, ["white OUT"], "keep")
        sums = [column_sums(one.form_counts).sum() for one in (as_written, corpus)]
        self.assertEqual(sums[0], sums[1] - 1)
        self.assertIs(with_phrases(corpus, ["no such"]), corpus)


class Files(unittest.TestCase):
    def test_a_file_that_changes_while_it_is_read_is_an_error(self):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder, "a.csv")
            path.write_text("id,entry\n1,ice\n2,snow\n", "utf-8")
            rows = read_table(path, InputOptions(text="entry"), Provenance())
            self.assertEqual(next(rows).text, "ice")
            path.write_text("id,entry\n1,ice\n2,snow and more\n", "utf-8")
            with self.assertRaisesRegex(DataError, "a.csv was changed while it was being read"):
                list(rows)
            path.unlink()
            with self.assertRaisesRegex(DataError, "a.csv cannot be read: no such file"):
                list(read_table(path, InputOptions(text="entry"), Provenance()))


class Units(unittest.TestCase):
    ROWS = (("1", "A", "one two three. Four! five six seven"), ("2", "A", ""), ("3", "B", "eight nine"))

    def cut(self, unit: str, size: int = 0) -> list[tuple[object, ...]]:
        corpus = with_positions(cut_corpus(corpus_of(self.ROWS, ordered=True), unit, size))
        self.assertEqual(corpus.tokens.tolist(), np.diff(corpus.starts).tolist())
        table = corpus.documents.to_frame().assign(tokens=corpus.tokens).fillna({"position": -1.0})
        return rows_of(table, "document", "part", "position", "tokens")

    def test_parts_windows_and_sentences(self):
        self.assertEqual(
            self.cut("parts", 2),
            [("1#1", 1, 0, 3), ("1#2", 2, 100 * 3 / 7, 4), ("2#1", 1, -1, 0), ("3#1", 1, 0, 1), ("3#2", 2, 50, 1)],
        )
        self.assertEqual([row[3] for row in self.cut("words", 3)], [3, 4, 0, 2], "a last 1 of 3 joins the one before")
        self.assertEqual(
            [row[3] for row in self.cut("words", 2)], [2, 2, 2, 1, 0, 2], "a last 1 of 2 is half, and stays"
        )
        self.assertEqual([row[3] for row in self.cut("sentence")], [3, 1, 3, 0, 2])
        with self.assertRaisesRegex(DataError, "3 in group B has 2 tokens, too few for 3 parts"):
            self.cut("parts", 3)

    def test_parts_add_up(self):
        rng = np.random.default_rng(5)
        rows = [(str(n), "g", " ".join(rng.choice(["a", "b", "c.", "d"], size=n))) for n in range(7, 40)]
        corpus = corpus_of(rows, ordered=True)
        for unit, size in (("parts", 7), ("words", 5), ("sentence", 0)):
            cut = cut_corpus(corpus, unit, size)
            whole = cut.documents.to_frame().groupby("part_of", sort=False).indices
            for number, (name, _, _) in enumerate(rows):
                added = column_sums(cut.form_counts.rows(whole[name]))
                np.testing.assert_array_equal(added, column_sums(corpus.form_counts.rows([number])))
        ends = np.cumsum(cut_corpus(corpus, "parts", 7).tokens.reshape(-1, 7), axis=1)
        totals = np.arange(7, 40)[:, None]
        np.testing.assert_array_equal(ends, np.arange(1, 8) * totals // 7)

    def test_pieces_of_the_text(self):
        text = "first page\n\nstill\ffirst\r\n \r\nsecond\f\fthird ~ end"
        table = [
            ("page", "", [(1, "first page\n\nstill"), (2, "first\r\n \r\nsecond"), (4, "third ~ end")]),
            ("paragraph", "", [(1, "first page"), (2, "still\ffirst"), (3, "second\f\fthird ~ end")]),
            ("line", "", [(1, "first page"), (2, "still"), (3, "first"), (4, "second"), (5, "third ~ end")]),
            ("between", "~", [(1, text.split("~", maxsplit=1)[0].strip()), (2, "end")]),
        ]
        for unit, between, expected in table:
            with self.subTest(unit):
                found = list(cut_text(Document("d", "g", text), unit, between))
                self.assertEqual([(one.part, one.text.strip()) for one in found], expected)
                self.assertEqual({one.part_of for one in found}, {"d"})


class Cleaning(unittest.TestCase):
    def cleaned(self, preparation: Preparation, *texts: str) -> tuple[list[str], Cleaned]:
        cleaned = Cleaned()
        documents = [Document(str(n), "ab"[n % 2], text) for n, text in enumerate(texts)]
        return [one.text for one in clean(lambda: documents, preparation, cleaned)], cleaned

    def test_cut_and_mend(self):
        table = [
            (("links",), (), "see (https://hut.example/a?b=1). or www.hut.example, now", "see ( ). or  , now"),
            (("mentions",), (), "@rhona wrote to a@b.example, @x", "  wrote to a@b.example,  "),
            (("hashtags",), (), "#snow and &#39; a#b", "  and &#39; a#b"),
            (("markup",), (), "a<br/>b <!-- c\nd --> 1 < 2 > 1 </p>", "a b   1 < 2 > 1  "),
            (("pattern:\\[\\d+\\]",), (), "ice[12] axe", "ice  axe"),
            ((), ("entities",), "fog &amp; ice &#8217; &nosuch; AT&T", "fog & ice ’ &nosuch; AT&T"),
            ((), ("hyphens",), "weath-\ner Haskgate-\nOstrel well-\n  kept 12-\n13", "weather Haskgate-\nOstrel wellkept 12-\n13"),
            ((), ("hyphens",), "a well-kept, well-\nkept, ill-kept, ill-\nkept illkept", "a well-kept, well-kept, ill-kept, illkept illkept"),
            ((), ("hyphens",), "weath-\n\fer was", "weather\f was"),
            ((), ("hyphens",), "snow\u00ad\nfield snow-field", "snowfield snow-field"),
            (("markup", "links"), ("entities",), "<a href='http://x.example'>&lt;</a>", " < "),
        ]  # fmt: skip
        for cut, mend, text, expected in table:
            with self.subTest(text):
                self.assertEqual(self.cleaned(Preparation(cut=cut, mend=mend), text)[0], [expected])
        _, cleaned = self.cleaned(
            Preparation(cut=("links",), mend=("hyphens",)), "http://a.example b-\nc", "www.d.example"
        )
        self.assertEqual((cleaned.cut["links"], cleaned.fixed["hyphens"]), (2, 1))
        self.assertEqual(mend_hyphens("nothing", Cleaned()), "nothing")

    def test_repeats_within_a_group_only(self):
        found, cleaned = self.cleaned(
            Preparation(drop_repeats=True), "ice  axe", "rope", "ice\naxe", "ice axe", "", "", ""
        )
        self.assertEqual(found, ["ice  axe", "rope", "ice axe", "", "", ""])
        self.assertEqual((cleaned.repeats, cleaned.repeats_across), (["2"], ["3"]))

    def test_pages_are_cleaned_before_they_are_documents(self):
        text = "\f".join(
            f"Log {n}\na\nb\nc\nsame\nd\ne\n{word}\np. {n}" for n, word in enumerate(("ice-\nax", "ice", "ice"))
        )
        preparation = Preparation(drop_running=3, drop_repeats=True, mend=("hyphens",))
        cleaned = Cleaned()
        found = list(
            clean(lambda: [Document("d", "g", text)], preparation, cleaned, lambda one: cut_text(one, "page"))
        )
        self.assertEqual(
            [one.text.split() for one in found], [["c", "same", *"de", "iceax"], ["c", "same", *"de", "ice"]]
        )
        self.assertEqual((cleaned.repeats, [one.part for one in found]), (["d#3"], [1, 2]))

    def test_running_lines(self):
        pages = "Journal 1\n\nfirst\nsame\nsame2\nx\ny\nz\nw\n- 1 -\fJournal 2\nsecond\na\nb\nsame\nc\nd\ne\n- 2 -"
        found, cleaned = self.cleaned(Preparation(drop_running=2), pages)
        self.assertEqual(found[0], "\n\nfirst\nsame\nsame2\nx\ny\nz\nw\n\f\nsecond\na\nb\nsame\nc\nd\ne\n")
        self.assertEqual(cleaned.running, {"Journal #": 2, "- # -": 2})
        lines = ("Hut book\r\nwet\r\nwet", "Hut  book\nice", "Hut book 7")
        found, _ = self.cleaned(Preparation(drop_running=2), *lines)
        self.assertEqual(
            found, ["\r\nwet\r\nwet", "\nice", "Hut book 7"], "a line twice in one document does not recur"
        )


if __name__ == "__main__":
    unittest.main()
