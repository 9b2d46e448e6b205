"""What looks wrong with texts and dictionaries, direct; the table of pieces beside the plain rule."""

import itertools
import random
import unittest
from collections import Counter

import numpy as np

from millstone.analyses.categories.validation import HUNDREDS, checked
from millstone.analyses.check.findings import findings, times_in_capitals
from millstone.analyses.check.inspector import Inspector
from millstone.analyses.check.overview import overview
from millstone.core.corpus.corpus import Document
from millstone.core.dictionary.dictionary import Dictionary, dictionary_from
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.scan.chunk_tokens import BREAK, PARAGRAPH_END, PieceTable
from millstone.core.scan.scan import scan
from millstone.core.tokenise.token_rules import cutter
from millstone.core.tokenise.words import SENTENCE_END
from tests.core.builders import as_table, corpus_of, framed

overview, checked = map(framed, (overview, checked))

TEN = "snow ice rope boat hut path stove lamp bread soup"


def dictionary_of(categories: dict[str, list[str]]) -> Dictionary:
    return dictionary_from({"categories": categories}, "d")


class Texts(unittest.TestCase):
    def found(self, texts: dict[str, list[str]], function_words: dict[str, str] | None = None) -> list[str]:
        """What is found in the texts of groups; and that each finding says what to do."""
        inspector = Inspector()
        documents = (
            Document(f"{group}{number}", group, text)
            for group, own in texts.items()
            for number, text in enumerate(own)
        )
        corpus = scan(inspector.watch(documents), ordered=True)
        table = overview(corpus, inspector, {})
        made = findings(corpus, inspector, as_table(table), None, True, function_words)
        self.assertTrue(all(one.remedy.strip() for one in made))
        self.assertEqual(table["tokens"].sum(), corpus.tokens.sum())
        return [one.what for one in made]

    def test_each_limit_from_both_sides(self):
        many = [f"word{n} {TEN}" for n in range(30)]
        for wrong, right, what in (
            (
                {"a": [f"{TEN} {TEN}"], "b": ["ice snow"]},
                {"a": [TEN], "b": ["ice snow"]},
                "a has 10 times the tokens",
            ),
            (
                {"a": [TEN, "ice", "snow"]},
                {"a": [TEN, f"{TEN} x", f"{TEN} y"]},
                "a0 has 83 % of the tokens of a, where an even share is 33 %",
            ),
            # twice the even share, but not twenty points more; twenty points more, but not twice
            ({"a": [TEN, *["ice"] * 6]}, {"a": [TEN, *["ice snow rope hut"] * 9]}, "a0 has"),
            ({"a": [TEN, "ice", "snow"]}, {"a": [f"{TEN} {TEN}", TEN, f"{TEN} x"]}, "a0 has"),
            ({"a": [TEN, ""]}, {"a": [TEN, "x"]}, "1 document without words"),
            ({"a": [TEN, TEN]}, {"a": [TEN, "x"]}, "1 document with the text of another"),
            ({"a": [TEN], "b": [TEN]}, {"a": [TEN], "b": ["x"]}, "a text that another group has too"),
            ({"Hut": [TEN], "hut": ["x y"]}, {"Hut": [TEN], "shed": ["x y"]}, "differ only in"),
            ({"a": [f"id{n}" for n in range(30)]}, {"a": many}, "the text column looks like an id"),
            ({"a": ["x" * 31]}, {"a": ["x" * 30]}, "1 token of over 30 letters"),
            ({"a": ["Ã¼ Ã¼ Ã¼ ice"]}, {"a": ["Ã¼ Ã¼ ice"]}, "3 pairs of characters such as"),
            ({"a": [" . "]}, {"a": ["ice"]}, "there is no text to count"),
        ):
            with self.subTest(what):
                self.assertTrue(any(what in one for one in self.found(wrong)), self.found(wrong))
                self.assertFalse(any(what in one for one in self.found(right)), self.found(right))

    def test_capitals_within_sentences_that_are_not(self):
        text = "They flew to the US by night. We saw US planes. The US is far. GO HOME US NOW. I like us."
        corpus = corpus_of([("1", "g", text)], ordered=True)
        self.assertEqual(times_in_capitals(corpus), {"US": 3})
        (what,) = self.found({"g": [text]}, {"us": "stop list en"})
        self.assertIn("'US' is in capitals 3 times", what)
        self.assertEqual(self.found({"g": [text]}, {"we": "stop list en"}), [])


class Dictionaries(unittest.TestCase):
    def test_what_is_odd(self):
        dictionary = dictionary_of(
            {
                "snow": ["snow*", "snowy", "ice", "ice", "w*"],
                "play": ["ice", "!rope", "rope", "den*"],
                "play/water": ["den*", "boat"],
                "tokens": ["many"],
            }
        )
        table = checked(dictionary)
        found = {(row.category, row.entry): row.finding for row in table.itertuples()}
        self.assertEqual(list(table.columns), ["where", "category", "entry", "finding"])
        for key, wanted in {
            ("tokens", ""): "has the name of a column of the result",
            ("snow", "snowy"): "snow* (d) counts it already",
            ("snow", "ice"): "stands twice in snow",
            ("snow", "w*"): "a star with 1 letter catches words of all kinds",
            ("play", "ice"): "is in snow, too",
            ("play", "rope"): "an entry and an exception at once",
        }.items():
            with self.subTest(key):
                self.assertIn(wanted, found.pop(key))
        self.assertEqual(found, {}, "a sub-category may repeat what its parent has")

    def test_with_texts_hits_and_what_was_missed(self):
        words = " ".join(f"sun{chr(97 + n // 26)}{chr(97 + n % 26)}" for n in range(HUNDREDS))
        corpus = corpus_of([("1", "g", f"ice ice rope lamp lamp the {words}")])
        table = checked(dictionary_of({"a": ["ice", "boat", "sun*"]}), corpus, ["the"])
        rows = {row.entry: (row.hits, row.finding) for row in table.itertuples()}
        self.assertEqual(rows["ice"], (2, ""))
        self.assertEqual(rows["boat"], (0, "no hit: no word fits boat"))
        self.assertEqual(rows["sun*"][0], HUNDREDS)
        self.assertIn(f"catches {HUNDREDS} different words", rows["sun*"][1])
        missed = [(row.entry, row.hits) for row in table.itertuples() if not row.category]
        self.assertEqual(missed, [("lamp", 2), ("rope", 1)])


class Pieces(unittest.TestCase):
    def test_the_table_says_what_the_rule_says_of_each_piece(self):
        """Runs of words, pieces cut by a rule, ends of sentences: in counts and in order as piece by piece."""
        chance, cut = random.Random(5), cutter("words")
        signs = ["ice", "snow.", "don't", "a-b", "rope,boat", "...", "l’été", "zoë。zoo", "3.5", "x/y!", "—"]
        for trial in range(60):
            pieces = list(dict.fromkeys(chance.choices(signs, k=chance.randint(1, 8))))
            table = PieceTable([], np.zeros(0, dtype=bool), pieces, cut, False)
            order = [chance.randrange(len(pieces)) for _ in range(12)]
            wanted = list(itertools.chain.from_iterable(cut(pieces[number]) for number in order))
            # a document ends after each piece
            expansion = table.expansion(np.arange(len(pieces)))
            found, breaks, ends = expansion.tokens(np.array(order), np.array([], dtype=int), np.arange(1, 13))
            words = [token for token in wanted if token is not SENTENCE_END]
            self.assertEqual([table.forms[number] for number in found.tolist()], words, (trial, pieces))
            before = [wanted[:at].count(SENTENCE_END) for at in range(len(wanted)) if wanted[at] is SENTENCE_END]
            places = [at for at, token in enumerate(wanted) if token is SENTENCE_END]
            self.assertEqual(breaks.tolist(), [at - less for at, less in zip(places, before, strict=True)])
            sizes = [len([one for one in cut(pieces[number]) if one is not SENTENCE_END]) for number in order]
            self.assertEqual(ends.tolist(), np.cumsum(sizes).tolist())
            self.assertEqual(table.forms, sorted(set(table.forms)))
            cells = SparseMatrix.of_cells(
                np.ones(12, dtype=np.int32), np.zeros(12, dtype=int), np.array(order), (1, len(table))
            )
            counted = Counter(one for one in wanted if one is not SENTENCE_END)
            row = table.form_counts(cells).toarray()[0].tolist()
            self.assertEqual(row, [counted[form] for form in table.forms])
        self.assertEqual(table.content[table.first[-2]], BREAK, "the last piece is an end of a paragraph")
        self.assertEqual(PARAGRAPH_END, "")


if __name__ == "__main__":
    unittest.main()
