"""Groups held against lists: the same as against a group with those counts; backgrounds, priors, wide tables."""

import unittest
from dataclasses import replace

import numpy as np
import pandas as pd

from millstone.analyses.base.groups.pairs import sides_of
from millstone.analyses.keyness.comparing.table import comparisons_beside, key_terms
from millstone.analyses.keyness.compute import keyness
from millstone.analyses.keyness.settings import KeynessSettings
from millstone.analyses.logodds.compute import log_odds, prior
from millstone.analyses.logodds.settings import LogOddsSettings
from millstone.core.base.errors import DataError
from millstone.core.corpus.corpus import Corpus
from millstone.core.terms.background import LACKING, Background
from millstone.core.terms.counts import Counts, count
from millstone.core.terms.frequency_lists import added_up, aligned, corpus_of_lists, together, with_listed
from millstone.core.terms.term_map import map_terms
from tests.core.builders import counts_of, framed

keyness, log_odds, comparisons_beside, key_terms = map(framed, (keyness, log_odds, comparisons_beside, key_terms))

A = [(f"a{number}", "A", f"ice ice snow rope{' fog' * (number % 2)}") for number in range(8)]
GENERAL = {"ice": 30, "fire": 12, "snow": 5, "zither": 1}


def counts_of_list(name: str, freq: dict[str, int], documents: dict[str, int] | None = None) -> Counts:
    docs = np.array([(documents or {}).get(term, np.nan) for term in freq], dtype=float)
    one = added_up(list(freq), list(freq.values()), docs if documents else None)
    corpus: Corpus = corpus_of_lists({name: one})
    term_map = map_terms(corpus)
    return with_listed(count(corpus, term_map), corpus, term_map, {name: one})


def both_ways(**settings: object) -> tuple[pd.DataFrame, pd.DataFrame]:
    """Keyness against a list, and against a group that has the words of the list as its only document."""
    texts, listed = aligned(counts_of(A), counts_of_list("general", GENERAL))
    against = keyness(texts, KeynessSettings(**settings), listed=listed)
    words = " ".join(f"{term} " * number for term, number in GENERAL.items())
    group = keyness(counts_of([*A, ("general", "general", words)]), KeynessSettings(**settings))
    return against, group


class Lists(unittest.TestCase):
    def test_a_list_is_as_good_as_its_text(self):
        for settings in (
            {},
            {"measures": ("all",), "zeros": "smooth"},
            {"test": "fisher"},
            {"shared": True, "margin": 3.0},
        ):
            with self.subTest(settings):
                against, group = both_ways(**settings)
                # of documents a list says nothing
                columns = against.columns.drop(["docs_percent_reference", "note"])
                pd.testing.assert_frame_equal(against[columns], group[columns])
                self.assertTrue(against["docs_percent_reference"].isna().all())

    def test_lists_of_one_group_are_added_up(self):
        known = replace(added_up(["ice", "fog"], [3, 2], np.array([2.0, 1.0])), tokens=9, documents=4)
        other = replace(
            added_up(["fog", "ash", "ash"], [1, 5, 1], np.array([1.0, 3.0, 1.0])), tokens=11, documents=None
        )
        found = together([known, other])
        self.assertEqual(dict(zip(found.terms, found.freq.tolist(), strict=True)), {"ice": 3, "fog": 3, "ash": 6})
        np.testing.assert_array_equal(found.docs, [2, np.nan, np.nan], "not known of a term in several rows")
        self.assertEqual((found.tokens, found.documents, found.size), (20, None, 20))
        self.assertEqual(
            together([known, added_up(["ice"], [1])]).size, 6, "of a size that is not known, what is listed"
        )

    def test_both_have_all_terms_and_keep_their_counts(self):
        one, two = counts_of(A), counts_of_list("general", GENERAL, {"ice": 7})
        texts, listed = aligned(one, two)
        self.assertEqual(texts.terms.tolist(), sorted({*one.terms, *two.terms}))
        self.assertEqual(texts.terms.tolist(), listed.terms.tolist())
        for before, after in ((one, texts), (two, listed)):
            freq = dict(zip(after.terms, after.part(after.groups).freq.tolist(), strict=True))
            known = dict(zip(before.terms, before.part(before.groups).freq.tolist(), strict=True))
            self.assertEqual({term: number for term, number in freq.items() if number}, known)
        docs = dict(zip(listed.terms, listed.part(("general",)).docs.tolist(), strict=True))
        self.assertEqual(docs["ice"], 7)
        self.assertTrue(np.isnan(docs["rope"]))

    def test_every_group_is_held_against_the_list(self):
        texts, listed = aligned(counts_of([*A, ("b", "B", "ice fire")]), counts_of_list("general", GENERAL))
        found = [(one.target, one.reference) for one, _, _ in sides_of(texts, "rest", listed)]
        self.assertEqual(found, [("A", "general"), ("B", "general")])
        clash = counts_of_list("A", GENERAL)
        with self.assertRaisesRegex(DataError, "the list is called 'A' like a group"):
            sides_of(*(aligned(counts_of(A), clash)[:1]), "rest", clash)

    def test_log_odds_against_a_list_are_those_against_its_text(self):
        texts, listed = aligned(counts_of(A), counts_of_list("general", GENERAL))
        words = " ".join(f"{term} " * number for term, number in GENERAL.items())
        group = counts_of([*A, ("general", "general", words)])
        for settings in (LogOddsSettings(), LogOddsSettings(prior="uniform"), LogOddsSettings(prior="none")):
            found = log_odds(texts, settings, listed=listed)
            wanted = log_odds(group, settings)
            wanted = wanted[wanted["target"] == "A"].reset_index(drop=True)
            pd.testing.assert_frame_equal(found, wanted)


class Priors(unittest.TestCase):
    def test_a_background_has_its_own_proportions_and_the_size_of_the_pool(self):
        pool = np.array([30.0, 10.0, 60.0])
        background = Background("list", {"ice": 4, "snow": 1}, 100)
        of_list = background.freq_of(np.array(["ice", "rope", "snow"], dtype=object))
        self.assertEqual(of_list.tolist(), [4, LACKING, 1])
        alpha = prior(pool, LogOddsSettings(prior_weight=2.0), of_list)
        np.testing.assert_allclose(alpha, 200 * of_list / of_list.sum())
        np.testing.assert_allclose(background.per_million(np.array(["ice", "rope"], dtype=object)), [40_000, 5_000])

    def test_a_background_like_the_pool_is_the_pooled_prior(self):
        counts = counts_of([*A, ("b", "B", "ice fire fire")])
        pool = counts.part(counts.groups).freq
        background = Background("pool", dict(zip(counts.terms, pool.tolist(), strict=True)), int(pool.sum()))
        pd.testing.assert_frame_equal(log_odds(counts, background=background), log_odds(counts))

    def test_terms_that_no_document_has_any_more_are_no_part_of_the_vocabulary(self):
        counts = counts_of([*A, ("b", "B", "ice fire fire")])
        wider = Counts(
            replace(counts.matrix, shape=(len(counts.base), len(counts.terms) + 1)),
            counts.terms,
            counts.base,
            counts.documents,
            counts.groups,
            counts.left_out,
        )
        padded = Counts(
            wider.matrix,
            np.append(counts.terms, "zzz"),
            counts.base,
            counts.documents,
            counts.groups,
            counts.left_out,
        )
        uniform = LogOddsSettings(prior="uniform")
        pd.testing.assert_frame_equal(log_odds(padded, uniform), log_odds(counts, uniform))


SIDES = ("target", "reference")


class SideBySide(unittest.TestCase):
    def test_a_row_a_term_with_all_comparisons(self):
        counts = counts_of([*A, ("b", "B", "ice fire"), ("c", "C", "rope rope fire")])
        frame = keyness(counts, KeynessSettings(measures=("expected",)))
        wide = comparisons_beside(frame, counts)
        self.assertEqual(sorted(wide["term"]), sorted(set(frame["term"])))
        for target, rows in frame.groupby("target"):
            for one in rows.to_dict("records"):
                row = wide[wide["term"] == one["term"]].iloc[0]
                for name in ("rank", "expected_target", "expected_reference", "log_ratio", "ll", "higher_in"):
                    self.assertEqual(row[f"{name}_{target}"], one[name])
                self.assertEqual(row[f"freq_{target}"], one["freq_target"])
                self.assertEqual(row[f"docs_percent_{target}"], one["docs_percent_target"])
                both = one["expected_target"] + one["expected_reference"]
                self.assertAlmostEqual(both, one["freq_target"] + one["freq_reference"])
                sizes = [
                    1e6 * one[f"freq_{side}"] / one[f"per_million_{side}"] for side in SIDES if one[f"freq_{side}"]
                ]
                if len(sizes) == 2:
                    self.assertAlmostEqual(one["expected_target"], both * sizes[0] / sum(sizes))
        best = frame.groupby("term")["rank"].min()
        self.assertTrue(best[wide["term"]].is_monotonic_increasing)
        pairs = comparisons_beside(
            keyness(counts_of([*A, ("b", "B", "ice"), ("c", "C", "fire")]), KeynessSettings(against="pairs")),
            counts_of([*A, ("b", "B", "ice"), ("c", "C", "fire")]),
        )
        self.assertIn("ll_A_C", pairs.columns)
        self.assertTrue(pd.isna(pairs.loc[pairs["term"] == "rope", "ll_B_C"].iloc[0]), "absent from both")

    def test_key_terms_by_group(self):
        frame = pd.DataFrame(
            {
                "term": ["ice", "fire", "snow", "ice"],
                "higher_in": ["A", "B", "rest", "A"],
                "p_adjusted": [0.01, 0.001, 0.001, 0.02],
            }
        )
        self.assertEqual(key_terms(frame, ("A", "B", "C"), 0.05), {"A": ["ice"], "B": ["fire"]})
        self.assertEqual(key_terms(frame, ("A", "B"), 0.005), {"B": ["fire"]})


if __name__ == "__main__":
    unittest.main()
