"""The sample corpus: large and varied enough, awkward as real data are, and true to what is planted in it."""

import csv
import re
import subprocess
import sys
import tempfile
import tomllib
import unittest
from collections import Counter, defaultdict
from dataclasses import replace
from pathlib import Path

import numpy as np

from millstone.analyses.categories.compute import categories
from millstone.analyses.categories.settings import CategorySettings
from millstone.analyses.contrast.compute import Observations, contrast
from millstone.analyses.keyness.compute import keyness
from millstone.analyses.keyness.settings import KeynessSettings
from millstone.analyses.trend.compute import trends
from millstone.core.corpus.corpus import Document
from millstone.core.corpus.documents import as_objects
from millstone.core.corpus.periods import periods_of
from millstone.core.scan.scan import scan
from millstone.core.statistics.effect_sizes import log_ratio
from millstone.core.tables.table import Table
from millstone.core.terms.counts import count
from millstone.core.terms.term_map import map_terms
from millstone.core.tokenise.words import words
from millstone.texts.inputs.lists.dictionaries import read_dictionaries

ROOT = Path(__file__).parent.parent
DEMO = ROOT / "src" / "millstone" / "data" / "demo"


def guestbook() -> list[dict[str, str]]:
    with (DEMO / "guestbook.csv").open(encoding="utf-8", newline="") as file:
        return list(csv.DictReader(file))


def tokens(text: str) -> list[str]:
    return [token.lower() for piece in text.split() for token in words(piece)]


class NoTemplate(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.rows = guestbook()
        cls.entries = [row["entry"] for row in cls.rows]
        cls.journals = {path: path.read_text("utf-8") for path in sorted(DEMO.glob("journals/*/*.txt"))}

    def test_size(self):
        self.assertGreaterEqual(len(self.rows), 900)
        self.assertTrue(40_000 <= sum(len(tokens(entry)) for entry in self.entries) <= 80_000)
        self.assertEqual(len(self.journals), 12)
        for path, text in self.journals.items():
            self.assertTrue(1500 <= len(tokens(text)) <= 4000, path)
            self.assertGreater(len(re.findall(r"Warden's journal · \w+ · \d{4} · page \d+", text)), 3)

    def test_share_of_types_that_occur_once(self):
        for texts in (self.entries, self.journals.values()):
            types = Counter(token for text in texts for token in tokens(text))
            share = sum(number == 1 for number in types.values()) / len(types)
            self.assertTrue(0.4 <= share <= 0.6, share)

    def test_few_sentences_repeat(self):
        planted = Counter(self.entries)
        entries = [entry for entry in planted if entry]
        for texts in (entries, self.journals.values()):
            sentences = Counter(s for text in texts for s in re.split(r"(?<=[.!?])\s+", text) if s)
            again = sum(number - 1 for number in sentences.values())
            self.assertLess(again / sentences.total(), 0.02)

    def test_no_run_of_eight_words_in_more_than_three_entries(self):
        found = defaultdict(set)
        for number, entry in enumerate(self.entries):
            run = tokens(entry)
            for at in range(len(run) - 7):
                found[tuple(run[at : at + 8])].add(number)
        most = max(found.values(), key=len)
        self.assertLessEqual(len(most), 3)

    def test_the_awkward_things_of_real_data(self):
        text = "\n".join(self.entries)
        repeated = [entry for entry, number in Counter(self.entries).items() if entry and number > 1]
        self.assertGreaterEqual(len(repeated), 8)
        self.assertTrue(any(tokens(entry).count("ahoy") == 40 for entry in self.entries))
        for field in ("party", "nights", "entry"):
            self.assertTrue(any(not row[field] for row in self.rows), f"no {field} is missing")
        for mark in ('"', ",", "\n", "é", "'", "’", "https://", "Hütte", "!!", "17:20"):
            self.assertIn(mark, text)
        self.assertTrue(any(row["party"] == "climbing club, 7 people" for row in self.rows))
        lengths = [len(tokens(entry)) for entry in self.entries if entry]
        self.assertLess(min(lengths), 5)
        self.assertGreater(max(lengths), 200)

    def test_the_script_in_the_repository_makes_these_very_files(self):
        with tempfile.TemporaryDirectory() as folder:
            subprocess.run(
                [sys.executable, ROOT / "tools" / "make_sample.py", folder], check=True, capture_output=True
            )
            for path in Path(folder).rglob("*.*"):
                kept = DEMO / path.relative_to(folder)
                self.assertEqual(path.read_bytes(), kept.read_bytes(), kept)


class Truth(unittest.TestCase):
    """Every planted ratio lies within the 95 % interval of what is measured."""

    @classmethod
    def setUpClass(cls):
        rows = [row for row in guestbook() if row["entry"]]
        cls.corpus = scan([Document(row["entry_id"], row["hut"], row["entry"]) for row in rows], ordered=True)
        cls.truth = tomllib.loads((DEMO / "truth.toml").read_text("utf-8"))
        cls.planted = cls.truth["planted"]

    def cases(self, kind: str):
        for one in self.planted:
            if one["kind"] == kind:
                huts = self.corpus.groups if one["hut"] == "all" else [one["hut"]]
                yield from ((one["name"], hut, float(np.log2(one["ratio"]))) for hut in huts)

    def test_terms(self):
        counts = count(self.corpus, map_terms(self.corpus))
        frame = keyness(counts, KeynessSettings()).to_frame().set_index(["term", "target"])
        cases = list(self.cases("term"))
        self.assertGreaterEqual(len(cases), 15)
        for term, hut, ratio in cases:
            with self.subTest(term=term, hut=hut):
                row = frame.loc[term, hut]
                self.assertLessEqual(row["log_ratio_low"], ratio)
                self.assertGreaterEqual(row["log_ratio_high"], ratio)

    def test_changes_over_time_and_a_loud_month(self):
        dates = [row["date"] for row in guestbook() if row["entry"]]
        documents = self.corpus.documents.with_columns({"group": "book", "date": as_objects(dates)})
        counts = replace(count(self.corpus, map_terms(self.corpus)), documents=documents, groups=("book",))
        periods = periods_of(dates, "quarter", "date", documents["document"].tolist())
        found = {row["term"]: row for row in trends(counts, periods).rows()}
        self.assertGreaterEqual(len(self.truth["change"]), 4)
        for one in self.truth["change"]:
            with self.subTest(one["name"]):
                row = found[one["name"]]
                self.assertTrue(row["change_low"] <= 100 * (one["per_year"] - 1) <= row["change_high"])
                self.assertLess(row["p_adjusted"], 0.05)
        for one in self.truth["loud"]:
            row = found[one["name"]]
            self.assertEqual(row["loudest"], f"{one['month'][:4]}-Q{(int(one['month'][5:]) + 2) // 3}")
            self.assertGreater(row["p_adjusted"], 0.05)
        by_chance = [row for term, row in found.items() if term not in {one["name"] for one in self.truth["change"]}]
        self.assertFalse([row["term"] for row in by_chance if row["p_adjusted"] < 0.05])

    def test_a_sign_that_turns_with_the_season(self):
        seasons = as_objects([row["season"] for row in guestbook() if row["entry"]])
        documents = self.corpus.documents.with_columns({"season": seasons})
        counts = replace(count(self.corpus, map_terms(self.corpus)), documents=documents)
        table = keyness(counts, KeynessSettings(adjust_for=("season",), min_freq=5))
        for one in self.truth["season"]:
            row = next(row for row in table.rows() if (row["term"], row["target"]) == (one["name"], one["hut"]))
            self.assertGreater(row["log_ratio_low"], 0)
            self.assertLess(row["log_ratio_conditional_high"], 0)
            planted = np.log2(one["ratio_within_seasons"])
            self.assertTrue(row["log_ratio_conditional_low"] <= planted <= row["log_ratio_conditional_high"])
            self.assertIn("with season held equal the difference turns round", row["note"])

    def test_categories(self):
        dictionary = read_dictionaries([str(DEMO / "dictionary.toml")])
        self.assertTrue(8 <= len([name for name in dictionary.names() if "/" not in name]) <= 10)
        frame = categories(self.corpus, dictionary, CategorySettings(scale="count")).to_frame()
        cases = list(self.cases("category"))
        self.assertGreaterEqual(len(cases), 6)
        for name, hut, ratio in cases:
            here = frame["group"] == hut
            a, b = ([frame.loc[rows, name].sum()] for rows in (here, ~here))
            sizes = [frame.loc[rows, "tokens"].sum() for rows in (here, ~here)]
            with self.subTest(category=name, hut=hut):
                _, low, high = log_ratio(np.array(a), np.array(b), *sizes)
                self.assertLessEqual(low[0], ratio)
                self.assertGreaterEqual(high[0], ratio)

    def test_categories_of_documents(self):
        """The same over documents: r times the mean of the others is the mean of the hut, within the interval."""
        dictionary = read_dictionaries([str(DEMO / "dictionary.toml")])
        found = categories(self.corpus, dictionary, CategorySettings())
        for name, hut, ratio in self.cases("category"):
            here = found["group"] == hut
            group = np.where(here, "hut", "others").astype(object)
            values = [Table({name: found[name] * factor}) for factor in (1, np.where(here, 1, 2**ratio))]
            seen, planted = (
                next(contrast(Observations(one, group, ("hut", "others"), found["document"])).rows())
                for one in values
            )
            with self.subTest(category=name, hut=hut):
                self.assertTrue(planted["ci_low"] <= 0 <= planted["ci_high"])
                if ratio > 0.5:
                    self.assertEqual(seen["higher_in"], "hut")
                    self.assertLess(seen["p_adjusted"], 0.05)


if __name__ == "__main__":
    unittest.main()
