"""Near-duplicates against the exact Jaccard similarity of every pair, on random corpora."""

import random
import unittest
from itertools import combinations

import numpy as np

from millstone.core.corpus.corpus import Document
from millstone.core.corpus.near_duplicates import SHINGLE, near_duplicates, rows_for
from millstone.core.scan.scan import scan


def shingles(text: str) -> set[tuple[str, ...]]:
    """The plain rule: the different runs of five words, a shorter text as one."""
    words = text.lower().split()
    return {tuple(words[at : at + SHINGLE]) for at in range(max(len(words) - SHINGLE + 1, min(len(words), 1)))}


def similarity(one: str, other: str) -> float:
    first, second = shingles(one), shingles(other)
    return len(first & second) / len(first | second) if first | second else 0.0


class NearDuplicates(unittest.TestCase):
    def corpus(self, chance: random.Random, size: int) -> list[Document]:
        texts = [
            " ".join(f"w{int(200 * chance.random() ** 2)}" for _ in range(chance.randrange(0, 60)))
            for _ in range(size)
        ]
        for _ in range(size):
            words = chance.choice(texts).split()
            for _ in range(chance.randrange(0, 9)):
                if words:
                    words[chance.randrange(len(words))] = chance.choice(("X", "Y", "w1"))
            texts.append(" ".join(words[chance.randrange(0, 4) :]))
        return [Document(f"d{at}", chance.choice("AB"), text) for at, text in enumerate(texts)]

    def test_against_every_pair(self) -> None:
        met = of = 0
        for seed in range(8):
            chance = random.Random(seed)
            documents = self.corpus(chance, 60)
            least = chance.choice((0.3, 0.5, 0.8))
            corpus = scan(documents, ordered=True)
            found = near_duplicates(corpus, least)
            for one, other in combinations(range(len(documents)), 2):
                if documents[one].group != documents[other].group:
                    continue
                alike = similarity(documents[one].text, documents[other].text) >= least
                of += alike
                met += alike and found.cluster[one] == found.cluster[other] >= 0
            for at, document in enumerate(documents):
                likest = [
                    similarity(document.text, other.text)
                    for number, other in enumerate(documents)
                    if number != at and other.group == document.group and found.kept[number]
                ]
                if not found.kept[at]:
                    self.assertAlmostEqual(found.in_common[at], max(likest), 12, "of the most alike that stays")
                    self.assertGreaterEqual(found.in_common[at], least)
                else:
                    self.assertTrue(np.isnan(found.in_common[at]))
        self.assertGreater(of, 100)
        self.assertGreaterEqual(met, 0.99 * of, "99 in 100 pairs are met")

    def test_the_longest_stays_or_the_first_in_order(self) -> None:
        base = " ".join(f"w{n}" for n in range(40))
        documents = [
            Document("short", "g", base),
            Document("long", "g", f"{base} x y"),
            Document("other", "g", "a b c"),
        ]
        corpus = scan(documents, ordered=True)
        self.assertEqual(near_duplicates(corpus).kept.tolist(), [False, True, True])
        self.assertEqual(near_duplicates(corpus, order=np.array([2, 1, 0])).kept.tolist(), [True, False, True])

    def test_many_of_one_text_and_texts_without_words(self) -> None:
        chance, base = random.Random(1), [f"w{n}" for n in range(60)]
        documents = [Document(f"e{n}", "g", "") for n in range(3)]
        for number in range(1500):
            words = list(base)
            words[chance.randrange(60)] = f"x{number}"
            documents.append(Document(f"d{number}", "g", " ".join(words)))
        found = near_duplicates(scan(documents, ordered=True))
        self.assertEqual(found.kept[:3].tolist(), [True] * 3)
        self.assertLess(found.kept.sum(), 30)
        self.assertEqual(len(set(found.cluster[3:].tolist())), 1)

    def test_as_many_values_agree_as_find_ninety_nine_in_a_hundred(self) -> None:
        for least in (0.2, 0.5, 0.9, 1.0):
            rows = rows_for(least)
            bands = 128 // rows
            self.assertGreaterEqual(1 - (1 - least**rows) ** bands, 0.99 if rows > 1 else 0.9)


if __name__ == "__main__":
    unittest.main()
