"""Rules at their edges: what holds just at a limit, and what rounding must not decide."""

import math
import unittest
from collections import Counter
from decimal import Decimal, getcontext
from fractions import Fraction
from itertools import combinations

import numpy as np

from millstone.analyses.collocates.compute import collocates
from millstone.analyses.collocates.measures import MEASURES, Cooccurrence
from millstone.analyses.collocates.settings import CollocatesSettings
from millstone.analyses.contrast.trends import trends
from millstone.analyses.freq.compute import frequency_list
from millstone.analyses.keyness.comparing.selection import KeyRule
from millstone.analyses.keyness.compute import keyness
from millstone.analyses.keyness.settings import KeynessSettings
from millstone.analyses.logodds.compute import FEW_COUNTS, log_odds, prior
from millstone.analyses.logodds.settings import LogOddsSettings
from millstone.analyses.network.compute import networks
from millstone.analyses.network.occurrences import Occurrences
from millstone.analyses.network.settings import NetworkSettings
from millstone.core.corpus.corpus_units import cut_corpus
from millstone.core.evidence.document_tests import Rates, permutation
from millstone.core.matches.expressions import expression_from
from millstone.core.matches.matches import NamedWords, find_expression
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.statistics.contingency import convex, fisher_p, pearson_chi2
from millstone.core.tables.table import Table
from millstone.core.terms.counts import count
from millstone.core.terms.term_map import map_terms
from millstone.core.tokenise.words import words_and_ends
from tests.core.builders import corpus_of, counts_of, framed

getcontext().prec = 60


class Statistics(unittest.TestCase):
    def test_the_series_keeps_all_digits(self):
        for x in (9.9e-5, -9.9e-5, 5e-5, -3e-5, 1e-7, 1.1e-4):
            exact = (1 + Decimal(x)) * (1 + Decimal(x)).ln() - Decimal(x)
            found = float(convex(np.array([x]))[0])
            self.assertLess(abs(found / float(exact) - 1), 1e-15 if abs(x) < 1e-4 else 1e-11, x)

    def test_an_empty_margin_has_no_chi_squared(self):
        self.assertTrue(np.isnan(pearson_chi2(np.array([0, 10]), np.array([0, 20]), 10, 20)).all())

    def test_a_table_a_little_likelier_is_not_as_likely(self):
        # of sides of nearly one size, a table and its mirror image are almost as likely
        n1, n2, draws = 100_000, 100_002, 200
        ways = [math.comb(n1, x) * math.comb(n2, draws - x) for x in range(draws + 1)]
        for seen in (98, 99, 101, 102):
            exact = Fraction(sum(one for one in ways if one <= ways[seen]), sum(ways))
            p = fisher_p(np.array([seen]), np.array([draws - seen]), n1, n2)[0]
            np.testing.assert_allclose(p, float(exact), rtol=1e-9)

    def test_equal_distances_are_counted_whatever_rounding_says(self):
        chance = np.random.default_rng(3)
        for _ in range(60):
            values = chance.integers(0, 4, 7) / 7
            n1 = 3
            found = permutation(Rates(SparseMatrix.of_dense(values[:, np.newaxis]), n1, 4), 10_000, 1)[0]
            if values.any():
                self.assertAlmostEqual(found, float(_exact([Fraction(round(v * 7), 7) for v in values], n1)), 12)


def _exact(values: list[Fraction], n1: int) -> Fraction:
    """The share of relabellings whose studentised difference is as far, in exact fractions."""

    def square(chosen: tuple[int, ...]) -> Fraction | float:
        sides = [values[i] for i in chosen], [one for i, one in enumerate(values) if i not in chosen]
        means = [sum(side, Fraction()) / len(side) for side in sides]
        error = sum(
            sum((one - mean) ** 2 for one in side) / (len(side) - 1) / len(side)
            for side, mean in zip(sides, means, strict=True)
        )
        away = (means[0] - means[1]) ** 2
        return away / error if error else (math.inf if away else Fraction())

    every = [square(chosen) for chosen in combinations(range(len(values)), n1)]
    return Fraction(sum(one >= every[0] for one in every), len(every))


class Limits(unittest.TestCase):
    def test_a_log_ratio_at_the_limit_passes(self):
        passes = KeyRule(None, 1.0, "both").chooses([0.5] * 4, [1.0, -1.0, 0.999, -1.001], [1, -1, 1, -1])
        self.assertEqual(passes.tolist(), [True, True, False, True])

    def test_a_share_at_the_limit_is_kept_and_noted(self):
        # three of six occurrences of rope are in one document
        rows = [
            ("1", "a", "rope rope rope " + "x " * 20),
            *((str(n), "a", "rope y " + "x " * 20) for n in (2, 3, 4)),
            *((str(n), "b", "z " * 20) for n in (5, 6)),
        ]
        for share, kept in ((0.5, True), (0.49, False)):
            table = framed(keyness)(counts_of(rows), KeynessSettings(max_share=share))
            self.assertEqual("rope" in set(table["term"]), kept, share)
        table = framed(keyness)(counts_of(rows), KeynessSettings())
        (note,) = set(table.loc[(table["term"] == "rope") & (table["target"] == "a"), "note"])
        self.assertIn("one document (1) has 50 % of it", note)

    def test_few_counts_are_fewer_than_the_limit(self):
        rows = [
            ("1", "a", "rope " * (FEW_COUNTS - 2) + "ice " * (FEW_COUNTS - 3) + "x " * 40),
            ("2", "b", "rope rope ice ice " + "x " * 40),
        ]
        table = framed(log_odds)(counts_of(rows), LogOddsSettings())
        noted = dict(zip(table["term"], table["note"].str.contains("few counts"), strict=True))
        self.assertEqual(noted, {"rope": False, "ice": True, "x": False})

    def test_the_prior_of_a_list_has_the_size_of_the_pool(self):
        pool = np.array([30.0, 10.0, 60.0])
        alpha = prior(pool, LogOddsSettings(prior_weight=0.5), np.array([1.0, 1.0, 2.0]))
        self.assertEqual(alpha.tolist(), [12.5, 12.5, 25.0])

    def test_the_note_on_a_heavy_prior_names_the_smallest_group(self):
        rows = [("1", "small", "rope ice"), ("2", "large", "rope ice " * 400), ("3", "larger", "rope ice " * 500)]
        said: list[str] = []
        log_odds(counts_of(rows), LogOddsSettings(), note=said.append)
        self.assertTrue(any("(small has 2;" in one for one in said), said)

    def test_equal_frequencies_of_many_terms_stay_in_order(self):
        names = [f"w{number:03}" for number in range(300)]
        twice = names[::3] + names[1::7]
        table = frequency_list(counts_of([("1", "a", " ".join(names + twice))]))
        of = Counter(names + twice)
        self.assertEqual(table["term"].tolist(), sorted(names, key=lambda name: (-of[name], name)))

    def test_half_a_window_stands_alone(self):
        for tokens, sizes in ((14, [14]), (15, [10, 5]), (16, [10, 6])):
            cut = cut_corpus(corpus_of([("1", "a", "w " * tokens)], ordered=True), "words", 10)
            self.assertEqual(cut.tokens.tolist(), sizes)

    def test_a_slope_is_the_change_from_beginning_to_end(self):
        parts = np.arange(1, 6)
        table = Table(
            {"part_of": ["t"] * 5, "part": parts, "group": ["a"] * 5, "value": parts * 2.0 + [0, 1e-6, 0, -1e-6, 0]}
        )
        self.assertAlmostEqual(trends(table, ["value"], ["a"])["slope"][0], 10.0, 4)

    def test_no_abbreviation_ends_a_sentence(self):
        for short in ("Mr.", "Mrs.", "Ms.", "Dr.", "Prof.", "St.", "vs.", "cf.", "e.g.", "i.e."):
            self.assertNotIn(None, words_and_ends(short), short)
        self.assertIn(None, words_and_ends("hut."))


class Neighbours(unittest.TestCase):
    def test_a_collocate_oftener_near_than_the_node_occurs(self):
        data = Cooccurrence(np.array([3]), np.array([4]), window=6, places=1, size=60)
        self.assertAlmostEqual(MEASURES["log_dice"].of(data)[0], 14 + math.log2(2 * 1 / 5), 12)

    def test_half_of_a_collocate_in_one_document_is_noted(self):
        rows = [("1", "a", "rope ice rope ice " + "x " * 30), ("2", "a", "rope ice " + "x " * 30)]
        rows += [("3", "a", "rope ice " + "x " * 30)]
        corpus = corpus_of(rows, ordered=True)
        terms = map_terms(corpus)
        node = find_expression(corpus, expression_from("rope"), NamedWords(corpus))
        settings = CollocatesSettings(span=(0, 1), min_together=1)
        table = collocates(corpus, terms, count(corpus, terms), {"rope": node}, settings)
        notes = dict(zip(table["collocate"].tolist(), table["note"].tolist(), strict=True))
        self.assertEqual(notes["ice"], "one document (1) has 50 % of it")

    def test_links_as_strong_but_for_rounding_go_by_how_many_there_are(self):
        # 1 / sqrt(2 x 5) and 3 / sqrt(9 x 10): equal, and a digit apart as they are computed
        pairs = [(x, y, k) for x in range(1, 30) for y in range(x, 30) for k in range(1, x + 1)]
        of: dict[Fraction, list[tuple[int, int, int]]] = {}
        for x, y, k in pairs:
            of.setdefault(Fraction(k * k, x * y), []).append((x, y, k))
        few, many = next(
            (one, other)
            for same in of.values()
            for one in same
            for other in same
            if one[2] < other[2] and one[2] / math.sqrt(one[0] * one[1]) > other[2] / math.sqrt(other[0] * other[1])
        )
        units, rows = 80, []
        for number, (x, y, both) in enumerate((few, many)):
            one, other = np.zeros(units, dtype=int), np.zeros(units, dtype=int)
            one[:x], other[x - both : x - both + y] = 1, 1
            rows += [one, other]
            self.assertEqual(int((one & other).sum()), both, number)
        matrix = SparseMatrix.of_dense(np.array(rows, dtype=np.int32).T)
        terms = np.array(["a", "b", "c", "d"], dtype=object)
        found = networks(
            Occurrences(terms, matrix, np.full(units, 9), None),
            {"all": np.ones(units, dtype=bool)},
            NetworkSettings(association="cosine", min_together=1),
        ).links
        wanted = [row for row in found.rows() if {row["term_a"], row["term_b"]} in ({"a", "b"}, {"c", "d"})]
        self.assertEqual([row["together"] for row in wanted], [many[2], few[2]])


if __name__ == "__main__":
    unittest.main()
