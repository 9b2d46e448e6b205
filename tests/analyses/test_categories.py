"""Dictionaries: which places an entry takes, counted by hand, and the messages about a wrong one."""

import fnmatch
import random
import unittest
from itertools import pairwise

import numpy as np
import pandas as pd
from scipy import stats

from millstone.analyses.categories.compute import categories, taken_names
from millstone.analyses.categories.settings import CategorySettings
from millstone.core.base.errors import DataError
from millstone.core.corpus.corpus import Document
from millstone.core.dictionary.dictionary import Dictionary, dictionary_from
from millstone.core.dictionary.matches import find_matches, find_places
from millstone.core.dictionary.traces import in_order, word_table
from millstone.core.dictionary.vocabulary import Vocabulary
from millstone.core.scan.scan import scan
from millstone.core.statistics.means import group_means
from millstone.core.tables.columns import renamed
from tests.core.builders import corpus_of, framed

categories, in_order, word_table, group_means = map(framed, (categories, in_order, word_table, group_means))

# what it shows: categories, text, places of each category counted by hand
PLACES = {
    "a word, case-blind": ({"w": ["snow"]}, "Snow and SNOW, snowy", {"w": 2}),
    "a star at the end, none too": ({"w": ["storm*"]}, "storm stormy thunderstorm storm's", {"w": 3}),
    "a star elsewhere": ({"w": ["*storm", "b*t"]}, "thunderstorm storms boat bt bet-at-it", {"w": 4}),
    "a question mark is one letter": ({"w": ["gr?y"]}, "gray grey groy gry gr-y", {"w": 3}),
    "a star alone among others": ({"w": ["no * snow"]}, "no more snow, no snow, no! more snow", {"w": 1}),
    "words in a row": ({"w": ["white out"]}, "A white out. White-out. White, out! white. Out", {"w": 2}),
    "not over a sentence's end": ({"w": ["white out"]}, "white. Out", {"w": 0}),
    "not over a blank line": ({"w": ["white out"]}, "white\n\nout white\nout", {"w": 1}),
    "an entry cut by the token rule": ({"w": ["and/or"]}, "and/or, and or, and-or", {"w": 2}),
    "apostrophes and hyphens of all kinds": ({"w": ["don’t", "well‑kept"]}, "don't well-kept DON’T", {"w": 3}),
    "accents": ({"w": ["cr\u00eape*"]}, "cre\u0302pes Crêpe crepe", {"w": 2}),
    "as written": ({"w": [{"entry": "Cramp", "case": True}]}, "Cramp cramp CRAMP", {"w": 1}),
    "an exception": ({"w": ["snow", "!snow goose"]}, "snow goose snow the snow. Goose", {"w": 2}),
    "an exception of one word": ({"w": ["cramp*", "!crampons"]}, "cramp crampons cramps", {"w": 2}),
    "an entry longer than the exception": ({"w": ["big snow goose", "!snow goose"]}, "big snow goose", {"w": 1}),
    "the longest first": ({"w": ["three cheers", "cheers", "three"]}, "three cheers cheers three", {"w": 3}),
    "the leftmost of equal length": ({"w": ["snow storm", "storm day", "day"]}, "snow storm day", {"w": 2}),
    "a row of overlaps": ({"w": ["a a"]}, "a a a a a", {"w": 2}),
    "the same entry twice": ({"w": ["snow", "snow", "sn*"]}, "snow", {"w": 1}),
    "two categories at one place": ({"w": ["snow"], "c": ["snow", "goose"]}, "snow goose", {"w": 1, "c": 2}),
    "a sub-category counts for its parent": (
        {"a": ["rain"], "a/b": ["snow"], "a/b/c": ["ice"]},
        "rain snow ice",
        {"a": 3, "a/b": 2, "a/b/c": 1},
    ),
    "a parent without entries": ({"a/b": ["snow"], "a/c": ["ice", "snow"]}, "snow ice", {"a": 2, "a/b": 1, "a/c": 2}),
    "a place counts once in the parent": (
        {"a": ["snow", "snow storm"], "a/b": ["snow"]},
        "snow storm",
        {"a": 1, "a/b": 1},
    ),
    "an exception of the parent stays there": (
        {"a": ["snow", "!snow goose"], "a/b": ["goose"]},
        "snow goose",
        {"a": 1, "a/b": 1},
    ),
    "an exception of the child stays there": (
        {"a": ["snow"], "a/b": ["goose", "!goose"]},
        "snow goose",
        {"a": 1, "a/b": 0},
    ),
}

WRONG = [
    ({"category": {}}, "unknown key 'category'; did you mean 'categories'?"),
    ({"title": "x"}, "there are no categories"),
    ({"categories": {"w": "snow"}}, "category 'w' is not a list"),
    ({"categories": {"w": []}}, "category 'w' has no entries"),
    ({"categories": {"a/": ["snow"]}}, "a name is missing"),
    ({"categories": {"w": [3]}}, "3 is not an entry"),
    ({"categories": {"w": [{"case": True}]}}, "is not an entry"),
    ({"categories": {"w": [{"entry": "x", "wight": 2}]}}, "unknown key 'wight'; did you mean 'weight'?"),
    ({"categories": {"w": [{"entry": "x", "weight": "2"}]}}, "weight is '2'"),
    ({"categories": {"w": [{"entry": "x", "case": 1}]}}, "case is 1"),
    ({"categories": {"w": [" "]}}, "entry '' has no word in it"),
    ({"categories": {"w": ["*"]}}, "the entry * alone would count every word"),
]


def dictionary_of(given: dict) -> Dictionary:
    return dictionary_from({"categories": given}, "huts.toml")


class Places(unittest.TestCase):
    def test_table(self):
        for what, (given, text, expected) in PLACES.items():
            with self.subTest(what):
                # a document before and after, so that nothing is found across their borders
                corpus = corpus_of(
                    [("0", "g", "goose white"), ("1", "g", text), ("2", "g", "out rain a")], ordered=True
                )
                dictionary = dictionary_of({**given, "z": ["goose", "rain"]})
                frame = categories(corpus, dictionary, CategorySettings(scale="count"))
                self.assertEqual({name: frame[name][1] for name in expected}, expected)

    def test_order_in_the_file_decides_between_equals(self):
        for first, second, weight in (("sn*", "s*", 2), ("s*", "sn*", 2), ("s*", "snow", 3)):
            given = [{"entry": first, "weight": 2}, {"entry": second, "weight": 3}]
            frame = categories(
                corpus_of([("1", "g", "snow")], True), dictionary_of({"w": given}), CategorySettings(scale="weighted")
            )
            self.assertEqual(frame["w"].tolist(), [weight])

    def test_wildcards_against_the_plain_rule(self):
        forms = ["snow", "Snows", "sno", "nows", "s.w", "s", "", "ßnow"]
        for pattern, expected in {"s*": [0, 1, 2, 4, 5], "s*w": [0, 4], "*ow*": [0, 1, 3, 7], "s?o": [2]}.items():
            with self.subTest(pattern):
                self.assertEqual(Vocabulary(forms).matches(pattern, False).tolist(), expected)


def plain_places(sentences: list[list[str]], entries: list[str], barred: set[int]) -> list[tuple[int, int]]:
    """The rule as it is written, token by token: (first token, number of tokens) of each place."""
    tokens = [(number, token) for number, sentence in enumerate(sentences) for token in sentence]
    taken: set[int] = set()
    found = []
    longest = max(len(entry.removeprefix("!").split()) for entry in entries)
    for length in range(longest, 0, -1):
        for start in range(len(tokens) - length + 1):
            place = range(start, start + length)
            if len({tokens[at][0] for at in place}) > 1 or taken & set(place):
                continue
            written = [tokens[at][1] for at in place]
            rivals = [
                (not entry.startswith("!"), "*" in entry or "?" in entry, order)
                for order, entry in enumerate(entries)
                if fits(entry.removeprefix("!").split(), written)
                and (entry.startswith("!") or not barred & set(place))
            ]
            if rivals:
                taken |= set(place)
                found += [(start, length)] if min(rivals)[0] else []
    return found


def fits(patterns: list[str], written: list[str]) -> bool:
    same_length = len(patterns) == len(written)
    return same_length and all(
        fnmatch.fnmatchcase(one, pattern) for one, pattern in zip(written, patterns, strict=True)
    )


class RandomPlaces(unittest.TestCase):
    """Random texts over a tiny alphabet, where everything overlaps with everything."""

    WORDS = ("a", "b", "ab", "ba", "bb")
    PATTERNS = (*WORDS, "a*", "*b", "?b", "b?", "*")

    def entries(self, chance: random.Random) -> list[str]:
        rows = [" ".join(chance.choices(self.PATTERNS, k=chance.randint(1, 3))) for _ in range(chance.randint(1, 5))]
        return [chance.choice(("", "", "!")) + row for row in rows if row != "*"] or ["a"]

    def test_against_the_plain_rule(self):
        chance = random.Random(11)
        for trial in range(400):
            sentences = [chance.choices(self.WORDS, k=chance.randint(1, 9)) for _ in range(chance.randint(1, 4))]
            given = {"c": self.entries(chance), "c/d": self.entries(chance)}
            text = ". ".join(" ".join(sentence) for sentence in sentences)
            found = find_places(corpus_of([("1", "g", text)], ordered=True), dictionary_of(given))
            inner = plain_places(sentences, given["c/d"], set())
            covered = {at for start, length in inner for at in range(start, start + length)}
            outer = plain_places(sentences, given["c"], covered)
            for name, expected in (("c/d", inner), ("c", sorted(inner + outer))):
                places = sorted(zip(found[name].start.tolist(), found[name].length.tolist(), strict=True))
                self.assertEqual(places, sorted(expected), (trial, name, text, given))

    def test_marks_do_not_part_words_and_are_counted_as_written(self):
        chance = random.Random(13)
        marks = (";", "...", "?", "*", "--")
        for trial in range(200):
            pieces = [chance.choice((*self.WORDS, *self.WORDS, *(f"{one}a" for one in marks))) for _ in range(30)]
            text = " ".join(chance.choice((one, one, f"({one};")) for one in pieces)
            given = {"c": self.entries(chance), "c/d": self.entries(chance)}
            rows = [("1", "g", text), ("2", "g", "a;"), ("3", "g", text)]
            words = find_matches(corpus_of(rows, ordered=True), dictionary_of(given))
            marked = {**given, "c": [*given["c"], ";"], "e": ["...", "\\?", "--"], "f": ["\\*", "."]}
            dictionary = dictionary_of(marked)
            kept = find_matches(scan((Document(*row) for row in rows), ordered=True, marks=True), dictionary)
            names = ["c", "c/d", "e", "f"]
            dots = text.count(".")
            of_marks = [text.count(";"), 0, sum(map(text.count, ("...", "?", "--"))), text.count("*") + dots]
            numbers = words.numbers(["c", "c/d"])
            expected = [*(numbers[0] + of_marks[:2]).tolist(), *of_marks[2:]]
            self.assertEqual(kept.numbers(names)[0].tolist(), expected, (trial, text, marked))
            self.assertEqual(kept.numbers(names)[2].tolist(), expected, "after another document")
            np.testing.assert_array_equal(kept.covered(names), words.covered(["c", "c/d"]))
            self.assertEqual(
                [len(kept.places(name).start) for name in names], kept.numbers(names).sum(axis=0).tolist()
            )

    def test_documents_words_and_places_agree(self):
        """What is counted on the vocabulary and in spans is what the places say."""
        chance = random.Random(12)
        for trial in range(60):
            rows = [
                (
                    str(number),
                    "AB"[number % 2],
                    " ".join(chance.choices((*self.WORDS, "c.", "D"), k=chance.randint(0, 12))),
                )
                for number in range(5)
            ]
            corpus = corpus_of(rows, ordered=True)
            weighted = [{"entry": entry, "weight": 0.5 + number} for number, entry in enumerate(self.entries(chance))]
            dictionary = dictionary_of({"c": weighted, "c/d": self.entries(chance), "e": self.entries(chance)})
            matches, names = find_matches(corpus, dictionary), dictionary.names()
            places = {name: matches.places(name) for name in names}
            document = {
                name: np.searchsorted(corpus.starts, one.start, side="right") - 1 for name, one in places.items()
            }
            numbers = np.stack([np.bincount(document[name], minlength=5) for name in names], axis=1)
            np.testing.assert_array_equal(matches.numbers(names), numbers, str(trial))
            weights = [np.bincount(document[name], places[name].weight, minlength=5) for name in names]
            np.testing.assert_allclose(matches.weights(names), np.stack(weights, axis=1), atol=1e-12)
            covered = np.zeros(len(corpus.ids), dtype=bool)
            for one in places.values():
                covered[one.tokens()] = True
            by_document = [covered[start:end].sum() for start, end in pairwise(corpus.starts.tolist())]
            np.testing.assert_array_equal(matches.covered(names), by_document)
            table, order = word_table(matches, names), in_order(matches, names)
            np.testing.assert_array_equal(
                [(table[name] * table["freq"]).sum() for name in names], numbers.sum(axis=0)
            )
            np.testing.assert_array_equal((order["categories"] != "").to_numpy(), covered)
            uncounted = np.bincount(corpus.ids[~covered], minlength=len(corpus.forms))
            np.testing.assert_array_equal(matches.uncounted(), uncounted)
            hits = [matches.entry_hits(name, len(dictionary.categories[name])) for name in ("c/d", "e")]
            own = [[not entry.is_exception for entry in dictionary.categories[name]] for name in ("c/d", "e")]
            sums = [int(found[which].sum()) for found, which in zip(hits, own, strict=True)]
            self.assertEqual(sums, numbers.sum(axis=0)[1:].tolist())


class Table(unittest.TestCase):
    ROWS = (("1", "A", "Snow, snow and a bad cramp"), ("2", "A", "sun"), ("3", "B", "..."))
    GIVEN = {"weather": ["sun"], "weather/snow": ["snow"], "body": [{"entry": "bad cramp", "weight": -3}, "cramp"]}

    def frame(self, scale: str):
        return categories(corpus_of(self.ROWS, True), dictionary_of(self.GIVEN), CategorySettings(scale=scale))

    def test_scales_by_hand(self):
        nan = np.nan
        expected = {
            "count": [[3 - 1, 1, 0], [2, 0, 0], [1, 0, 0]],
            "percent": [[100 * 2 / 6, 100, nan], [100 * 2 / 6, 0, nan], [100 / 6, 0, nan]],
            "per_thousand": [[1000 * 2 / 6, 1000, nan], [1000 * 2 / 6, 0, nan], [1000 / 6, 0, nan]],
            "weighted": [[1, 1, nan], [1, nan, nan], [-3, nan, nan]],
        }
        for scale, columns in expected.items():
            frame = self.frame(scale)
            for name, values in zip(("weather", "weather/snow", "body"), columns, strict=True):
                with self.subTest(scale=scale, category=name):
                    np.testing.assert_allclose(frame[name].to_numpy(float), values)
            np.testing.assert_allclose(frame["matched_percent"], [100 * 4 / 6, 100, nan])
            self.assertEqual(frame["tokens"].tolist(), [6, 1, 0])
            self.assertEqual(list(frame.columns[:4]), ["document", "group", "tokens", "matched_percent"])

    def test_a_corpus_without_a_hit_has_zeros(self):
        frame = categories(corpus_of(self.ROWS, True), dictionary_of({"w": ["zebra"]}))
        np.testing.assert_array_equal(frame["w"].to_numpy(float)[:2], [0, 0])

    def test_names_of_columns(self):
        with self.assertRaisesRegex(DataError, "category is named 'tokens'"):
            categories(corpus_of(self.ROWS, True), dictionary_of({"tokens": ["snow"]}))
        taken = taken_names(dictionary_of({"body": ["snow"]}))
        self.assertEqual(renamed(["tokens", "body", "date"], taken), {"tokens": "tokens_given", "body": "body_given"})

    def test_wrong_dictionaries(self):
        for content, message in WRONG:
            with self.subTest(message), self.assertRaises(DataError) as caught:
                dictionary_from(content, "huts.toml")
            self.assertTrue(caught.exception.what.startswith("huts.toml: "))
            self.assertIn(message, caught.exception.what)

    def test_two_files_with_one_category(self):
        joined = dictionary_of({"w": ["snow"], "a": ["x"]}).joined(dictionary_of({"w": ["ice"], "b": ["y"]}))
        self.assertEqual(joined.names(), ["w", "a", "b"])
        self.assertEqual([entry.patterns for entry in joined.categories["w"]], [("snow",), ("ice",)])


class GroupMeans(unittest.TestCase):
    def test_against_scipy(self):
        rows = [("A", 1.0), ("A", 4.0), ("A", np.nan), ("A", 2.5), ("B", 3.0), ("C", np.nan)]
        frame = pd.DataFrame(rows, columns=["group", "v"])
        means = group_means(frame, ["v"], ["A", "B", "C", "D"]).set_index("group")
        expected = stats.ttest_1samp([1, 4, 2.5], 0).confidence_interval(0.95)
        np.testing.assert_allclose(means.loc["A", ["n", "mean", "low", "high"]].tolist(), [3, 2.5, *expected])
        np.testing.assert_array_equal(means.loc["B", ["n", "mean", "low"]].tolist(), [1, 3, np.nan])
        np.testing.assert_array_equal(means.loc[["C", "D"], "mean"], [np.nan, np.nan])


if __name__ == "__main__":
    unittest.main()
