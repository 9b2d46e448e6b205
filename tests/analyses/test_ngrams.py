"""N-grams against a plain rule, and the measures of association by hand and by identities."""

import math
import random
import unittest
from collections import Counter
from unittest import mock

import numpy as np
import pandas as pd

from millstone.analyses.freq.compute import frequency_list
from millstone.analyses.freq.settings import FrequencySettings
from millstone.core.settings.preparation import Preparation
from millstone.core.terms import ngrams
from millstone.core.terms.counts import Counts
from millstone.core.terms.ngrams import count_ngrams
from millstone.core.terms.term_map import map_terms
from millstone.core.terms.word_lists import WordList, WordLists
from tests.core.builders import corpus_of, framed, rows_of

frequency_list = framed(frequency_list)

WORDS = ("ice", "Ice", "snow", "a", "the", "rock", "of")
STOP = ("a", "the")


def random_text(chance: random.Random) -> str:
    return " ".join(
        chance.choice(WORDS) + chance.choice(("", "", "", ".", "\n\n")) for _ in range(chance.randrange(40))
    )


def plain(text: str, n: int, bridge: bool) -> tuple[Counter[str], int]:
    """N-grams and their places, sentence by sentence."""
    found: Counter[str] = Counter()
    places = 0
    for sentence in text.replace("\n\n", ".").split("."):
        words = sentence.lower().split()
        places += max(0, len(words) - n + 1)
        words = [word for word in words if not (bridge and word in STOP)]
        for at in range(len(words) - n + 1):
            if not set(words[at : at + n]) & set(STOP):
                found[" ".join(words[at : at + n])] += 1
    return found, places


def counted(texts: list[str], n: int, bridge: bool = False, stop: tuple[str, ...] = STOP) -> Counts:
    corpus = corpus_of([(str(number), "AB"[number % 2], text) for number, text in enumerate(texts)], ordered=True)
    lists = WordLists(stop=[WordList("own", stop)])
    return count_ngrams(corpus, map_terms(corpus, Preparation(), lists), n, bridge, lists)


class Counting(unittest.TestCase):
    def test_as_the_plain_rule(self):
        chance = random.Random(5)
        # with little room numbers must be made small again before each word
        for most in (2**63 - 1, 100):
            for n, bridge in ((2, False), (2, True), (3, False), (3, True), (5, False)):
                texts = [random_text(chance) for _ in range(30)]
                with self.subTest(n=n, bridge=bridge, most=most), mock.patch.object(ngrams, "_MOST", most):
                    counts = counted(texts, n, bridge)
                    names = counts.terms[:].tolist()
                    self.assertEqual(names, sorted(names))
                    for row, text in enumerate(texts):
                        expected, places = plain(text, n, bridge)
                        here = counts.matrix.rows([row]).toarray().ravel()
                        self.assertEqual({names[i]: int(here[i]) for i in np.flatnonzero(here)}, expected, text)
                        self.assertEqual(counts.base[row], places)

    def test_the_words_behind_ngrams_of_merged_terms(self):
        chance = random.Random(6)
        merged = {"ice": "cold", "snow": "cold", "rock": "hard", "of": "of"}
        lists = WordLists(merge=merged, stop=[WordList("own", STOP)])
        for n, bridge in ((2, False), (3, True)):
            texts = [random_text(chance) for _ in range(12)]
            corpus = corpus_of([(str(at), "g", text) for at, text in enumerate(texts)], ordered=True)
            counts = count_ngrams(corpus, map_terms(corpus, Preparation(), lists), n, bridge, lists)
            forms: dict[str, Counter[str]] = {}
            for text in texts:
                for words, times in plain(text, n, bridge)[0].items():
                    term = " ".join(merged[word] for word in words.split())
                    forms.setdefault(term, Counter())[words] += times
            rows = frequency_list(counts).itertuples()
            found = {row.term: dict(one.rsplit(": ", 1) for one in row.forms.split("; ")) for row in rows}
            expected = {term: {word: str(times) for word, times in own.items()} for term, own in forms.items()}
            self.assertEqual(found, expected)

    def test_an_entry_of_several_words_leaves_that_ngram_out(self):
        counts = counted(["snow on ice. On ice snow."], 2, stop=("On Ice",))
        self.assertEqual(counts.terms[:].tolist(), ["ice snow", "snow on"])
        self.assertEqual((counts.left_out_ngrams, counts.base.tolist()), ({"own": 2}, [4]))

    def test_nothing_to_count(self):
        for texts in ([""], ["one. two."], []):
            self.assertEqual(len(counted(texts, 2).terms), 0)


class Association(unittest.TestCase):
    # "ice on" twice, "on rock" once, "on ice" once, "rock ice" once: five places
    TEXT = "ice on rock ice on ice"

    def test_bigrams_by_hand(self):
        frame = frequency_list(counted([self.TEXT], 2, stop=()))
        # f12, f1, f2
        expected = {"ice on": (2, 2, 2), "on ice": (1, 2, 2), "on rock": (1, 2, 1), "rock ice": (1, 1, 2)}
        for term, mi, t, dice in rows_of(frame, "term", "mi", "t_score", "log_dice"):
            f12, f1, f2 = expected[term]
            by_chance = f1 * f2 / 5
            self.assertAlmostEqual(mi, math.log2(f12 / by_chance), places=12)
            self.assertAlmostEqual(t, (f12 - by_chance) / math.sqrt(f12), places=12)
            self.assertAlmostEqual(dice, 14 + math.log2(2 * f12 / (f1 + f2)), places=12)

    def test_trigrams_by_the_rates_of_their_words(self):
        chance = random.Random(3)
        text = " ".join(chance.choice("abc") for _ in range(400))
        words = text.split()
        grams = Counter(zip(words, words[1:], words[2:], strict=False))
        frame = frequency_list(counted([text], 3, stop=()))
        self.assertEqual(len(frame), len(grams))
        times = Counter(words)
        for term, freq, mi, t, dice in rows_of(frame, "term", "freq", "mi", "t_score", "log_dice"):
            each = [times[word] for word in term.split()]
            expected = 400 * math.prod(number / 400 for number in each)
            self.assertEqual(freq, grams[tuple(term.split())])
            self.assertAlmostEqual(mi, math.log2(freq / expected), places=12)
            self.assertAlmostEqual(t, (freq - expected) / math.sqrt(freq), places=12)
            self.assertAlmostEqual(dice, 14 + math.log2(3 * freq / sum(each)), places=12)
        # words that never stand apart are as firm as can be, however many there are
        firm = frequency_list(counted(["by and large we went", "it was by and large so"], 3, stop=()))
        self.assertEqual(dict(rows_of(firm, "term", "log_dice"))["by and large"], 14)

    def test_bands_choose_rows_and_change_neither_rank_nor_measure(self):
        counts = counted([self.TEXT, "ice on snow", self.TEXT], 2, stop=())
        whole = frequency_list(counts)
        for settings, wanted in (
            (FrequencySettings(max_freq=1), whole["freq"] <= 1),
            (FrequencySettings(min_freq=2, max_freq=2), whole["freq"] == 2),
            (FrequencySettings(min_docs=2), whole["docs"] >= 2),
            (FrequencySettings(min_log_dice=13.2), whole["log_dice"] >= 13.2),
        ):
            self.assertTrue(0 < wanted.sum() < len(whole))
            found = frequency_list(counts, settings)
            pd.testing.assert_frame_equal(found, whole[wanted].reset_index(drop=True), check_dtype=False)


if __name__ == "__main__":
    unittest.main()
