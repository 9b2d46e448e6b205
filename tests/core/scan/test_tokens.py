"""The token rule, character by character, and where a sentence ends."""

import random
import unicodedata
import unittest
from contextlib import ExitStack
from itertools import pairwise
from unittest import mock

import numpy as np

from millstone.core.corpus.corpus import Document
from millstone.core.scan import blocks
from millstone.core.scan import scan as scan_module
from millstone.core.scan.scan import scan
from millstone.core.tokenise.words import SENTENCE_END, paragraphs, words, words_and_ends

# text -> its tokens under the rule `words`, derived by hand from the definition
TOKENS = {
    "plain words": ("a whole Day", ["a", "whole", "Day"]),
    "apostrophe inside": ("don't rock'n'roll", ["don't", "rock'n'roll"]),
    "apostrophe at the edges": ("'tis the guests' 'quoted'", ["tis", "the", "guests", "quoted"]),
    "three apostrophes are one": ("don’t donʼt don＇t", ["don't"] * 3),
    "two apostrophes in a row": ("rock''roll", ["rock", "roll"]),
    "hyphen inside and at the edge": ("well-kept rock- -and -", ["well-kept", "rock", "and"]),
    "U+2010 and U+2011 are hyphens": ("well‐kept well‑kept", ["well-kept", "well-kept"]),
    "dashes are not": ("one–two three—four", ["one", "two", "three", "four"]),
    "point and comma between digits": ("3.5 1,000 1.2.3 10,5.", ["3.5", "1,000", "1.2.3", "10,5"]),
    "point and comma elsewhere": ("ab.b 3.a a,3 .5 5. a,b", ["ab", "b", "3", "a", "a", "3", "5", "5", "a", "b"]),
    "point between single letters": ("U.S. (e.g.) J.R.R. A.S.-led", ["U.S", "e.g", "J.R.R", "A.S", "led"]),
    "and beyond ASCII": ("А.С.Пушкин é.à", ["А.С", "Пушкин", "é.à"]),
    "a letter with another beside it is not single": (
        "end.A p.Ex a.b1 a.q̃",
        ["end", "A", "p", "Ex", "a", "b1", "a", "q̃"],
    ),
    "digits and letters together": ("4ever 2nd A4 17:20", ["4ever", "2nd", "A4", "17", "20"]),
    "superscript two is not a digit": ("x² ²x ½", ["x", "x"]),
    "roman numeral sign is not a letter": ("Ⅷ ⅷ", []),
    "underscore is not a letter": ("snake_case _x_", ["snake", "case", "x"]),
    "composed by NFC": ("cafe\u0301 Å", ["caf\u00e9", "\u00c5"]),
    "marks that stay apart": ("q\u0303uando", ["q\u0303uando"]),
    "a mark starts no token": ("\u0301abc", ["abc"]),
    "apostrophe after a mark": ("q\u0303'a", ["q\u0303'a"]),
    "soft hyphen goes": ("co\u00adoperate \u00ad", ["cooperate"]),
    "variation selectors go": ("a\ufe0fb ☀\ufe0f", ["ab"]),
    "ligatures resolve": ("ﬁnd o\ufb00er ﬅ", ["find", "offer", "st"]),
    "other compatibility forms stay": ("ｗｉｄｅ", ["ｗｉｄｅ"]),
    "emoji are not words": ("😀 yes👍🏽no 👩‍👩‍👧", ["yes", "no"]),
    "joiners between letters": ("نمی\u200cخواهم क्\u200dष", ["نمی\u200cخواهم", "क्\u200dष"]),
    "joiners at the edges": ("\u200cab\u200d", ["ab"]),
    "Devanagari with its signs": ("हिन्दी भाषा", ["हिन्दी", "भाषा"]),
    "Arabic with harakat and digits": ("كِتَابٌ ١٢٫٣ ٣", ["كِتَابٌ", "١٢", "٣", "٣"]),
    "Greek and Cyrillic": ("Ἀθῆναι Ёлка", ["Ἀθῆναι", "Ёлка"]),
    "CJK without spaces is one run": ("山小屋。雪", ["山小屋", "雪"]),
    "a link falls apart": ("https://huts.example/a?b=2", ["https", "huts", "example", "a", "b", "2"]),
    "no token spans white space": ("ice\u00a0axe a\u2003b c\u3000d", ["ice", "axe", "a", "b", "c", "d"]),
    "nothing": (" \n\t ... !? — ", []),
}

SENTENCES = {
    "full stop": ("One. Two", [["One"], ["Two"]]),
    "question and exclamation marks": ("One? Two! Three… Four", [["One"], ["Two"], ["Three"], ["Four"]]),
    "closing quotes and brackets after it": (
        "(One.) 'Two.' \"Three!\" «Four.» “Five?” Six",
        [["One"], ["Two"], ["Three"], ["Four"], ["Five"], ["Six"]],
    ),
    "an initial does not end it": ("J. Moss and I. Nobody", [["J", "Moss", "and", "I"], ["Nobody"]]),
    "an accented initial in two parts": ("E\u0301. Moss", [["É", "Moss"]]),
    "a bracketed initial": ("(J. Moss", [["J", "Moss"]]),
    "small letters do": ("point a. Then", [["point", "a"], ["Then"]]),
    "known abbreviations": ("Mr. Moss vs. (e.g. Dr. Ash)", [["Mr", "Moss", "vs", "e.g", "Dr", "Ash"]]),
    "only as written": ("the mr. Then", [["the", "mr"], ["Then"]]),
    "mark on its own": ("Bonjour ! Merci", [["Bonjour"], ["Merci"]]),
    "comma and colon do not": ("one, two: three; four", [["one", "two", "three", "four"]]),
    "ideographic marks anywhere": ("雪。風！雨？晴", [["雪"], ["風"], ["雨"], ["晴"]]),
    "blank line": ("a title\n \t\nthe text", [["a", "title"], ["the", "text"]]),
    "blank line with carriage returns": (
        "one\r\rtwo\r\n\r\nthree\u2028\u2028four",
        [["one"], ["two"], ["three"], ["four"]],
    ),
    "a single line break does not": ("one\ntwo\r\nthree\rfour", [["one", "two", "three", "four"]]),
}


def sentences(text: str) -> list[list[str]]:
    """The plain rule: piece after piece, paragraph after paragraph."""
    found: list[list[str]] = [[]]
    for paragraph in paragraphs(text):
        for piece in paragraph.split():
            for token in words_and_ends(piece):
                if token is SENTENCE_END:
                    found.append([])
                else:
                    found[-1].append(token)
        found.append([])
    return [sentence for sentence in found if sentence]


class TokenRule(unittest.TestCase):
    def test_table(self):
        for what, (text, expected) in TOKENS.items():
            with self.subTest(what):
                self.assertEqual([token for piece in text.split() for token in words(piece)], expected)

    def test_a_stop_joins_single_letters_and_digits(self):
        """The rule of the stop, character by character, on random pieces."""
        chance = random.Random(5)

        def in_word(piece: str, at: int) -> bool:
            return 0 <= at < len(piece) and piece[at].isalnum()

        def joins(piece: str, at: int) -> bool:
            sides = [piece[at - 1 : at], piece[at + 1 : at + 2]]
            single = not in_word(piece, at - 2) and not in_word(piece, at + 2)
            return all(map(str.isdigit, sides)) or (all(map(str.isalpha, sides)) and single)

        for _ in range(3000):
            piece = "".join(chance.choices("aZж雪17..../", k=chance.randrange(1, 9)))
            marked = "".join("_" if one == "." and joins(piece, at) else one for at, one in enumerate(piece))
            expected = [token.replace("_", ".") for token in marked.replace("/", " ").replace(".", " ").split()]
            self.assertEqual(words(piece), expected, piece)

    def test_sentences(self):
        for what, (text, expected) in SENTENCES.items():
            with self.subTest(what):
                self.assertEqual(sentences(text), expected)

    def test_the_rule_on_every_character(self):
        """Between letters, a character joins, is joined or parts; its general category decides."""
        special = {
            0x27: 1,
            0x2D: 1,
            0x2019: 1,
            0x02BC: 1,
            0xFF07: 1,
            0x2010: 1,
            0x2011: 1,
            0xAD: 1,
            0x200C: 1,
            0x200D: 1,
        }
        for code in range(0x110000):
            character = chr(code)
            category = unicodedata.category(character)
            if category == "Cs" or character.isspace():
                continue
            joins = category[0] in "LM" or category == "Nd" or code in special
            normal = unicodedata.normalize("NFC", character)
            if unicodedata.category(normal[0]) != category:
                continue
            self.assertEqual(len(words(f"aa{character}bb")), 1 if joins else 2, f"U+{code:04X} {category}")


class Scanning(unittest.TestCase):
    ALPHABET = "abcXYZ  \n\n\r.!?'’-‑3,é\u0301\u00ad\u200d\u0085\u2028\u3000雪。ﬁ(«»)\t👍“”…—\u1680\u00a0\u200b<\u0338_²ж½０\x1f\ufe0f"
    PARTS = (
        *ALPHABET,
        "Mr.",
        "e.g.",
        "Prof.",
        "A.",
        "wanderungsstrecke",
        "неподражаемейший",
        "x" * 300,
        "3.5",
        "end.” ",
    )

    def random_text(self, chance: random.Random) -> str:
        return "".join(chance.choices(self.PARTS, k=chance.randrange(0, 400)))

    def document(self, name: str, text: str, chance: random.Random) -> Document:
        """Sometimes with its text in chunks, cut anywhere in its bytes."""
        data = text.encode()
        if chance.random() < 0.5:
            return Document(name, "g", text)
        cuts = [0, *sorted(chance.randrange(len(data) + 1) for _ in range(9)), len(data)]
        return Document(name, "g", "", chunks=lambda: (data[a:b] for a, b in pairwise(cuts)))

    def assert_scans_as_the_plain_rule(self, texts: list[str], chance: random.Random, jobs: int):
        documents = [self.document(str(n), text, chance) for n, text in enumerate(texts)]
        corpus = scan(documents, ordered=True, jobs=jobs)
        self.assertEqual(corpus.forms, sorted(corpus.forms))
        counts = corpus.form_counts.toarray()
        for number, text in enumerate(texts):
            tokens = [token for sentence in sentences(text) for token in sentence]
            start, end = corpus.starts[number : number + 2]
            self.assertEqual([corpus.forms[i] for i in corpus.ids[start:end]], tokens, repr(text))
            self.assertEqual({corpus.forms[f]: n for f, n in enumerate(counts[number]) if n}, count(tokens))
            bounds = [0, *np.cumsum([len(sentence) for sentence in sentences(text)])]
            here = corpus.breaks[(corpus.breaks >= start) & (corpus.breaks < end)] - start
            self.assertEqual(here.tolist(), [bound for bound in bounds if bound < len(tokens)], repr(text))

    def test_random_texts_in_blocks_of_all_sizes(self):
        chance = random.Random(7)
        for size, jobs in ((1, 1), (7, 3), (50, 1), (400, 2), (1 << 20, 1)):
            sizes = mock.patch.object(blocks, "SIZE", size), mock.patch.object(scan_module, "LONG", 0)
            with sizes[0], sizes[1], self.subTest(size=size, jobs=jobs):
                self.assert_scans_as_the_plain_rule([self.random_text(chance) for _ in range(60)], chance, jobs)

    def test_compiled_or_not_the_scan_is_the_same(self):
        chance = random.Random(9)
        texts = [Document(str(n), "g", self.random_text(chance) * chance.choice((1, 1, 9))) for n in range(60)]
        modules = ("scan.scan", "scan.numbering", "tokenise.runs")
        for ordered, size, jobs in ((False, 64, 1), (False, 300, 2), (True, 300, 1)):
            with ExitStack() as stack:
                stack.enter_context(mock.patch.object(blocks, "SIZE", size))
                stack.enter_context(mock.patch.object(scan_module, "LONG", 0))
                found = scan(texts, ordered, jobs=jobs)
                for name in modules:
                    stack.enter_context(mock.patch(f"millstone.core.{name}.compiled", None))
                plain = scan(texts, ordered, jobs=jobs)
            with self.subTest(ordered=ordered, size=size, jobs=jobs):
                self.assertEqual(found.forms, plain.forms)
                self.assertEqual(found.form_counts.toarray().tolist(), plain.form_counts.toarray().tolist())
                for one, other in zip(
                    found.sequence if ordered else (), plain.sequence if ordered else (), strict=True
                ):
                    self.assertEqual(one.tolist(), other.tolist())

    def test_one_long_line_and_one_long_word(self):
        text = "word " * 300_000 + "x" * 1_500_000 + " end"
        corpus = scan([Document("one", "g", text)])
        self.assertEqual(corpus.tokens.tolist(), [300_002])

    def test_without_order_the_same_counts(self):
        texts = [Document(str(n), "g", self.random_text(random.Random(n))) for n in range(20)]
        plain, ordered = scan(texts), scan(texts, ordered=True)
        self.assertIsNone(plain.ids)
        self.assertEqual(plain.forms, ordered.forms)
        self.assertEqual(plain.form_counts.toarray().tolist(), ordered.form_counts.toarray().tolist())

    def test_leaving_documents_out_keeps_the_order_of_the_rest(self):
        texts = ["One two. Three", "four", "", "Five. Six seven."]
        documents = [Document(str(n), "g", text) for n, text in enumerate(texts)]
        wanted = np.array([True, False, True, True])
        kept = scan(documents, ordered=True).keep(wanted)
        again = scan([one for one, yes in zip(documents, wanted, strict=True) if yes], ordered=True)
        self.assertEqual([kept.forms[i] for i in kept.ids], [again.forms[i] for i in again.ids])
        self.assertEqual(kept.starts.tolist(), again.starts.tolist())
        self.assertEqual(kept.breaks.tolist(), again.breaks.tolist())
        self.assertEqual(kept.tokens.tolist(), [3, 0, 3])

    def test_no_documents(self):
        corpus = scan([], ordered=True)
        self.assertEqual((corpus.tokens.tolist(), corpus.groups, corpus.starts.tolist()), ([], (), [0]))


def count(tokens: list[str]) -> dict[str, int]:
    return {token: tokens.count(token) for token in set(tokens)}


if __name__ == "__main__":
    unittest.main()
