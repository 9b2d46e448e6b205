"""Scores by hand, marked texts piece by piece, patterns against a plain rule, tables of words."""

import random
import re
import unittest

import numpy as np

from millstone.core.base.errors import DataError
from millstone.core.corpus.corpus import Document, Token
from millstone.core.dictionary.dictionary import dictionary_from
from millstone.core.dictionary.marked_text import marked_texts
from millstone.core.dictionary.matches import find_matches, needs_order
from millstone.core.dictionary.scores import score_from
from millstone.core.dictionary.traces import category_sets, in_order, word_table
from millstone.core.dictionary.vocabulary import Vocabulary
from millstone.core.scan.scan import scan
from millstone.core.tokenise.words import fold_case
from tests.core.builders import corpus_of

NAMES = ["a", "b", "c/d"]
VALUES = {"a": np.array([1.0, 0.0, 4.0]), "b": np.array([2.0, 0.0, np.nan]), "c/d": np.array([3.0, 5.0, 0.0])}


class Scores(unittest.TestCase):
    def test_by_hand(self) -> None:
        nan = np.nan
        for formula, wanted in {
            "{a}": [1, 0, 4],
            "{a} + 2 * {c/d}": [7, 10, 4],
            "({a} + {b}) / {c/d}": [1, 0, nan],
            "-{a} - -1": [0, 1, -3],
            "{a} / {b}": [0.5, nan, nan],
            "100 * {a} / ({a} + {c/d})": [25, 0, 100],
            "1e2 * { a }": [100, 0, 400],
            "2 * {a} + {a} * .5": [2.5, 0, 10],
            "1e400 * {a}": [nan, nan, nan],
        }.items():
            with self.subTest(formula):
                np.testing.assert_allclose(score_from("s", formula, NAMES, "d.toml").of(VALUES), wanted)

    def test_what_is_no_formula(self) -> None:
        for formula in (
            "",
            "2",
            "{a",
            "{a} +",
            "{a} {b}",
            "{a} % 2",
            "{a} // 2",
            "f({a})",
            "{a} if 1 else 2",
            "a",
            3,
        ):
            with self.subTest(formula), self.assertRaises(DataError) as caught:
                score_from("s", formula, NAMES, "d.toml, line 9")
            self.assertTrue(caught.exception.what.startswith("d.toml, line 9: score 's'"))


class Marked(unittest.TestCase):
    CATEGORIES = {"w": ["snow", "white out"], "w/ice": ["ice"], "v": ["out of"]}

    def pieces(self, text: str, rule: str = "words", annotated: tuple[Token | None, ...] | None = None) -> list:
        document = Document("1", "g", text, annotated=annotated)
        corpus = scan([document], True, rule=rule)
        matches = find_matches(corpus, dictionary_from({"categories": self.CATEGORIES}, "d.toml"))
        (found,) = marked_texts(matches, ["w", "w/ice", "v"], [document])
        return list(found.pieces)

    def test_pieces_are_the_text(self) -> None:
        w, ice, v = ("w",), ("w/ice",), ("v",)
        for text, wanted in (
            ("", []),
            ("no hit, here.", [("no hit, here.", ())]),
            ("Snow", [("Snow", w)]),
            ("a SNOW!", [("a ", ()), ("SNOW", w), ("!", ())]),
            ("snow snow", [("snow", w), (" ", ()), ("snow", w)]),
            ("white  out", [("white  out", w)]),
            ("white\nout of", [("white", w), ("\n", ()), ("out", ("w", "v")), (" ", ()), ("of", v)]),
            ("so out of ice.", [("so ", ()), ("out of", v), (" ", ()), ("ice", ice), (".", ())]),
            (
                "\u201cIce\u201d \u2019tis <ice>",
                [("\u201c", ()), ("Ice", ice), ("\u201d \u2019tis <", ()), ("ice", ice), (">", ())],
            ),
            ("sno\u00adw on", [("snow", w), (" on", ())]),
            ("e\u0301t\u00e9 snow", [("\u00e9t\u00e9 ", ()), ("snow", w)]),
        ):
            with self.subTest(text):
                self.assertEqual(self.pieces(text), wanted)

    def test_other_tokens(self) -> None:
        self.assertEqual(self.pieces("snow, ice", "spaces"), [("snow, ", ()), ("ice", ("w/ice",))])
        self.assertEqual(self.pieces("a-ice-b", "pattern:[a-z]{3}"), [("a-", ()), ("ice", ("w/ice",)), ("-b", ())])
        tokens = (Token("Snow", "snow", "NOUN"), Token("fell", "fall", "VERB"), None, Token("ice", "ice", "NOUN"))
        wanted = [("Snow", ("w",)), (" fell ", ()), ("ice", ("w/ice",))]
        self.assertEqual(self.pieces("Snow fell. ice", annotated=tokens), wanted)

    def test_random_texts_lose_nothing(self) -> None:
        chance = random.Random(4)
        for _ in range(200):
            words = chance.choices(
                ("snow", "white", "out", "of", "ice", "x", "\u2019", "\u00e9", "-", ".", "\n"), k=12
            )
            text = chance.choice(("", " ")).join(words)
            self.assertEqual("".join(piece for piece, _ in self.pieces(text)), text)


class Patterns(unittest.TestCase):
    def test_against_a_plain_rule(self) -> None:
        chance = random.Random(9)
        forms = sorted({"".join(chance.choices("abAB\u00e9-'1", k=chance.randint(1, 5))) for _ in range(300)})
        tags = chance.choices(("NOUN", "verb", ""), k=len(forms))
        vocabulary = Vocabulary(forms, tags)
        for _ in range(300):
            pattern = "".join(chance.choices("ab\u00e91**?", k=chance.randint(1, 4)))
            case, tag = chance.random() < 0.3, chance.choice(("", "noun", "verb", "adj"))
            rule = "".join({"*": ".*", "?": r"[^\W_]"}.get(sign, re.escape(sign)) for sign in pattern)
            wanted = [
                number
                for number, form in enumerate(forms)
                if re.fullmatch(rule, form if case else fold_case(form)) and tag in ("", tags[number].lower())
            ]
            self.assertEqual(vocabulary.matches(pattern, case, tag).tolist(), wanted, (pattern, case, tag))
            self.assertEqual(np.flatnonzero(vocabulary.mask(pattern, case, tag)).tolist(), wanted)


class Words(unittest.TestCase):
    ROWS = (("1", "A", "Snow, snow. A white out"), ("2", "B", "WHITE snow out"), ("3", "B", ""))

    def test_words_of_groups_by_hand(self) -> None:
        dictionary = dictionary_from({"categories": {"w": ["snow", "white out"], "e": ["white"]}}, "d.toml")
        self.assertTrue(needs_order(dictionary))
        matches = find_matches(corpus_of(self.ROWS, True), dictionary)
        rows = [list(row.values()) for row in word_table(matches, ["w", "e"]).rows()]
        wanted = [
            ["A", "snow", 2, 1, 0],
            ["A", "a", 1, 0, 0],
            ["A", "white", 1, 0, 1],
            ["A", "white out", 1, 1, 0],
            *(["B", word, 1, *counted] for word, counted in (("out", (0, 0)), ("snow", (1, 0)), ("white", (0, 1)))),
        ]
        self.assertEqual(rows, wanted)
        order = in_order(matches, ["w", "e"])
        self.assertEqual(order["categories"].tolist(), ["w", "w", "", "w; e", "w", "e", "w", ""])
        sets, of_token = category_sets(matches, ["w", "e"])
        self.assertFalse(sets[0].any())
        self.assertEqual(len(of_token), 8)

    def test_without_rows_of_words_no_order_is_needed(self) -> None:
        dictionary = dictionary_from({"categories": {"w": ["snow", "!snowy"], "w/x": ["wh*"]}}, "d.toml")
        self.assertFalse(needs_order(dictionary))
        plain, ordered = (find_matches(corpus_of(self.ROWS, kept), dictionary) for kept in (False, True))
        names = dictionary.names()
        np.testing.assert_array_equal(plain.numbers(names), ordered.numbers(names))
        np.testing.assert_array_equal(plain.covered(names), ordered.covered(names))
        self.assertEqual(*(list(word_table(one, names).rows()) for one in (plain, ordered)))
        with self.assertRaisesRegex(ValueError, "the order of words is needed"):
            plain.places("w")


if __name__ == "__main__":
    unittest.main()
