"""Keyness over sampling units: against a plain rule, as a property, and by shuffling where nothing differs."""

import math
import tomllib
import unittest

import numpy as np
from scipy import optimize, stats

from millstone.analyses.contrast.compute import Observations, contrast
from millstone.analyses.keyness.compute import keyness
from millstone.analyses.keyness.settings import KeynessSettings
from millstone.core.base.errors import MillstoneError
from millstone.core.corpus.corpus import Document
from millstone.core.evidence.quasi_likelihood import BOUND90, BOUND95, UnitSums, dispersion, ends, likelihood
from millstone.core.evidence.sampling import sampling_units
from millstone.core.evidence.unit_sums import UnitsOfSides, smallest_p, unit_sums
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.scan.scan import scan
from millstone.core.tables.table import Table
from millstone.core.terms.counts import Counts, count
from millstone.core.terms.term_map import map_terms
from tests.core.builders import counts_of
from tests.test_sample import DEMO, guestbook

FARTHEST = 64 * math.log(2)
Units = tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]
"""y and n of each unit in the target, then in the reference."""


def plain_dispersion(rho: float, y1: np.ndarray, n1: np.ndarray, y2: np.ndarray, n2: np.ndarray) -> float:
    """The formula, unit by unit."""
    r2 = (y1.sum() + y2.sum()) / (rho * n1.sum() + n2.sum())
    r1 = rho * r2
    w1, w2 = n2.sum() * r2 / (y1.sum() + y2.sum()), n1.sum() * r1 / (y1.sum() + y2.sum())
    found = expected = 0.0
    for yt, nt, yr, nr in zip(y1, n1, y2, n2, strict=True):
        h = (nt + nr) / (n1.sum() + n2.sum())
        in_target, in_reference = yt - nt * r1, yr - nr * r2
        if nt and nr:
            found += (in_target * w1 - in_reference * w2) ** 2 / (w1 * w2) / (1 - h)
            expected += yt * w1 / w2 + yr * w2 / w1
        else:
            found += (in_target**2 + in_reference**2) / (1 - h)
            expected += yt + yr
    return max(1, found / expected)


def plain_ll(rho: float, y1: np.ndarray, n1: np.ndarray, y2: np.ndarray, n2: np.ndarray) -> float:
    a, b = y1.sum(), y2.sum()
    r2 = (a + b) / (rho * n1.sum() + n2.sum())
    r1 = rho * r2
    return 2 * sum(x * math.log(x / (n.sum() * r)) for x, n, r in ((a, n1, r1), (b, n2, r2)) if x)


def plain_end(side: int, bound: float, units: Units) -> float:
    """The first crossing outward, found step by step and with SciPy; NaN for none."""
    y1, n1, y2, n2 = units
    here, there = (y2, y1) if side > 0 else (y1, y2)
    if not here.sum():
        return math.nan

    def beyond(log_rho: float) -> float:
        rho = math.exp(log_rho)
        return plain_ll(rho, *units) - bound * plain_dispersion(rho, *units)

    start = -side * FARTHEST
    if there.sum():
        start = math.log(y1.sum() / n1.sum()) - math.log(y2.sum() / n2.sum())
    if side * start < 0 and beyond(0) <= 0:
        start = 0.0
    while side * start < FARTHEST:
        if beyond(start + side * 0.05) > 0:
            return float(optimize.brentq(beyond, start, start + side * 0.05, xtol=1e-12)) / math.log(2)
        start += side * 0.05
    return math.nan


def random_units(chance: np.random.Generator, on_both: bool, terms: int = 3) -> tuple[Units, Counts]:
    """Bursty counts in a few units, and a corpus in which each unit is one or two documents of a group."""
    number = int(chance.integers(2, 12))
    n1, n2 = chance.integers(20, 2000, (2, number)).astype(float)
    lies = chance.random(number)
    if on_both:
        n1 *= lies < 0.7
    else:
        n1, n2 = n1 * (lies < 0.5), n2 * (lies >= 0.5)
    rate = 10 ** chance.uniform(-4, -1, terms)
    y1, y2 = (
        chance.poisson(n[:, np.newaxis] * rate * chance.gamma(0.5, 2, (number, terms)) * factor)
        for n, factor in ((n1, 1), (n2, chance.choice([0, 1, 4], terms)))
    )
    rows = []
    for unit in range(number):
        for group, y, n in (("A", y1[unit], n1[unit]), ("B", y2[unit], n2[unit])):
            for part in range(2 if n > 1000 else 1):
                halves = (y // 2, y - y // 2)[part] if n > 1000 else y
                rows.append((f"author {unit}", group, halves, n // 2 + (n % 2) * part if n > 1000 else n))
    rows = [rows[at] for at in chance.permutation(len(rows)) if rows[at][3]]
    authors, groups, counted, sizes = zip(*rows, strict=True)
    names = [str(at) for at in range(len(rows))]
    documents = Table({"document": names, "group": list(groups), "author": list(authors)})
    matrix = SparseMatrix.of_dense(np.array(counted, dtype=np.int32))
    terms_named = np.array([f"t{at}" for at in range(terms)], dtype=object)
    return (y1, n1, y2, n2), Counts(matrix, terms_named, np.array(sizes, dtype=np.int64), documents, ("A", "B"), {})


def sums_of(counts: Counts) -> tuple[np.ndarray, UnitSums]:
    target, reference = counts.part(("A",)), counts.part(("B",))
    wanted = np.flatnonzero(target.freq + reference.freq)
    units = UnitsOfSides.of(target, reference, sampling_units(counts.documents, "author"))
    return wanted, unit_sums(target, reference, wanted, units)


class PlainRule(unittest.TestCase):
    def test_dispersion_and_ends(self):
        chance, tried, both_ends = np.random.default_rng(5), 0, 0
        while tried < 200:
            (y1, n1, y2, n2), counts = random_units(chance, on_both=tried % 2 == 1)
            if (n1 > 0).sum() < 2 or (n2 > 0).sum() < 2:
                continue
            tried += 1
            wanted, sums = sums_of(counts)
            bound = BOUND95 if tried % 3 else BOUND90
            effect, (low, high) = dispersion(sums, np.zeros(len(wanted))), ends(sums, bound)
            for place, term in enumerate(wanted):
                units = (y1[:, term], n1, y2[:, term], n2)
                expected = plain_dispersion(1.0, *units)
                np.testing.assert_allclose(effect[place], expected, rtol=1e-9)
                np.testing.assert_allclose(
                    likelihood(sums, np.zeros(len(wanted)))[place], plain_ll(1.0, *units), atol=1e-7
                )
                for side, found in ((-1, low[place]), (1, high[place])):
                    np.testing.assert_allclose(found, plain_end(side, bound, units), atol=1e-6, err_msg=str(units))
                is_kept = plain_ll(1.0, *units) / expected <= bound
                self.assertEqual(is_kept, not (low[place] > 0 or high[place] < 0), "p and interval agree")
                both_ends += not np.isnan(low[place] + high[place])
        self.assertGreater(both_ends, 200)

    def test_columns_and_their_agreement(self):
        chance = np.random.default_rng(8)
        for on_both in (False, True) * 10:
            (_, n1, _, n2), counts = random_units(chance, on_both, 8)
            if min((n1 > 0).sum(), (n2 > 0).sum()) < 2:
                continue
            settings = KeynessSettings(sampling_unit="author", adjust="none", measures=("p",))
            table = keyness(counts, settings).to_frame()
            np.testing.assert_allclose(table["p"], stats.chi2.sf(table["ll"] / table["design_effect"], 1), rtol=1e-6)
            np.testing.assert_allclose(table["ll_documents"] * table["design_effect"], table["ll"], rtol=1e-12)
            self.assertTrue(table["ll_documents"].is_monotonic_decreasing, "ranked by it")
            outside = (table["log_ratio_low"] > 0) | (table["log_ratio_high"] < 0)
            self.assertEqual((table["p"] < 0.05).tolist(), outside.tolist())
            np.testing.assert_array_equal(table["log_ratio_low"].isna(), table["freq_target"] == 0)
            for name in ("log_ratio_low", "log_ratio_high"):
                within = table[name].isna() | (
                    (table["log_ratio"] - table[name]) * (-1 if "low" in name else 1) <= 1e-9
                )
                self.assertTrue(within.all(), "the estimate lies in its interval")

    def test_no_term_falls_below_the_smallest_p(self):
        chance = np.random.default_rng(3)
        for sizes in ((2, 2), (3, 3), (3, 8), (5, 40)):
            n = chance.integers(500, 1500, sum(sizes)).astype(np.int64)
            in_a = np.arange(len(n)) < sizes[0]
            documents = Table({"document": list(map(str, n)), "group": np.where(in_a, "A", "B").tolist()})
            one_sided = np.stack([in_a, ~in_a])[chance.integers(0, 2, 2000)].T * n[:, np.newaxis]
            counted = one_sided * 900 * chance.uniform(0.7, 1.3, one_sided.shape)
            names = np.array([f"{at:04}" for at in range(2000)], dtype=object)
            matrix = SparseMatrix.of_dense(counted.astype(np.int32))
            counts = Counts(matrix, names, n * 1000, documents, ("A", "B"), {})
            table = keyness(counts, KeynessSettings(adjust="none")).to_frame()
            both = UnitsOfSides.of(counts.part(("A",)), counts.part(("B",)), sampling_units(documents))
            least, reached = smallest_p(both), table["p_adjusted"].min()
            self.assertTrue(0.99 * least <= reached, f"{sizes}: {reached} below {least}")
            self.assertLess(reached, {(5, 40): 1e6}.get(sizes, 1.5) * least)


class Categories(unittest.TestCase):
    def test_rates_of_categories_are_those_of_keyness(self):
        for on_both in (False, True):
            _, counts = random_units(np.random.default_rng(4), on_both, 5)
            by_term = (
                keyness(counts, KeynessSettings(sampling_unit="author", adjust="none")).to_frame().set_index("term")
            )
            values = Table({str(term): np.zeros(len(counts.base)) for term in counts.terms})
            group = np.array(counts.documents["group"].tolist(), dtype=object)
            sampling = sampling_units(counts.documents, "author")
            seen = Observations(values, group, ("A", "B"), group, places=counts, sampling=sampling)
            found = contrast(seen).to_frame().set_index("value")
            for term, row in by_term.iterrows():
                for name in ("log_ratio", "log_ratio_low", "log_ratio_high", "design_effect"):
                    np.testing.assert_allclose(found.loc[term, name], row[name], rtol=1e-12)
                np.testing.assert_allclose(found.loc[term, "p_rate"], row["p_adjusted"], rtol=1e-9)


class Calibration(unittest.TestCase):
    """Where nothing differs, p < 0.05 comes up in 5 of 100 terms, and no term stands after adjustment."""

    @staticmethod
    def halved(counts: Counts, chance: np.random.Generator) -> Counts:
        number = len(counts.base)
        groups = np.where(chance.permutation(number) < number // 2, "A", "B")
        return Counts(
            counts.matrix, counts.terms, counts.base, counts.documents.with_columns({"group": groups}), ("A", "B"), {}
        )

    def check(self, counts: Counts, tokens_at_least: float) -> None:
        chance, found, runs = np.random.default_rng(11), {"documents": [], "ll": []}, []
        for _ in range(20):
            half = self.halved(counts, chance)
            for test, shares in found.items():
                table = keyness(half, KeynessSettings(test=test, min_freq=5, measures=("p",))).to_frame()
                shares.append((table["p"] < 0.05).mean())
                if test == "documents":
                    runs.append(int((table["p_adjusted"] < 0.05).sum()))
        self.assertLessEqual(np.mean(found["documents"]), 0.065)
        self.assertGreater(np.mean(found["ll"]), tokens_at_least)
        self.assertLessEqual(max(runs), 1)

    def test_halves_of_the_guest_book(self):
        rows = [row["entry"] for row in guestbook() if row["entry"] and row["hut"] == "Ostrel"]
        corpus = scan(Document(str(at), "", text) for at, text in enumerate(rows))
        self.check(count(corpus, map_terms(corpus)), 0.05)

    def test_halves_of_bursty_documents(self):
        chance = np.random.default_rng(3)
        base = chance.integers(150, 1500, 60)
        rates = 0.2 / (np.arange(400) + 3) * chance.gamma(0.4, 2.5, (60, 400))
        matrix = SparseMatrix.of_dense(chance.poisson(rates * base[:, np.newaxis]).astype(np.int32))
        documents = Table({"document": [str(at) for at in range(60)], "group": "A"})
        names = np.array([f"t{at:03}" for at in range(400)], dtype=object)
        self.check(Counts(matrix, names, base.astype(np.int64), documents, ("A",), {}), 0.2)

    def test_the_interval_covers_the_true_ratio(self):
        chance, covered = np.random.default_rng(6), {"documents": [], "tokens": []}
        base = chance.integers(200, 3000, 24).astype(np.int64)
        groups = ["A"] * 10 + ["B"] * 14
        rate = np.where(np.arange(24)[:, np.newaxis] < 10, 4, 1) * chance.uniform(0.002, 0.01, 300)
        documents = Table({"document": [str(at) for at in range(24)], "group": groups})
        names = np.array([f"t{at:03}" for at in range(300)], dtype=object)
        for _ in range(8):
            varied = rate * chance.gamma(2, 0.5, (24, 300)) * base[:, np.newaxis]
            matrix = SparseMatrix.of_dense(chance.poisson(varied).astype(np.int32))
            counts = Counts(matrix, names, base, documents, ("A", "B"), {})
            for over, shares in covered.items():
                table = keyness(counts, KeynessSettings(interval=over)).to_frame()
                shares.append(((table["log_ratio_low"] <= 2) & (table["log_ratio_high"] >= 2)).mean())
        self.assertAlmostEqual(np.mean(covered["documents"]), 0.95, delta=0.04)
        self.assertLess(np.mean(covered["tokens"]), 0.6)

    def test_what_is_planted_still_passes(self):
        rows = [row for row in guestbook() if row["entry"]]
        corpus = scan(Document(row["entry_id"], row["hut"], row["entry"]) for row in rows)
        counts = count(corpus, map_terms(corpus))
        passing = {}
        for test in ("documents", "ll"):
            table = keyness(counts, KeynessSettings(test=test, min_freq=5)).to_frame()
            sure = table[table["p_adjusted"] < 0.05]
            passing[test] = set(zip(sure["term"], sure["target"], strict=True))
        planted = tomllib.loads((DEMO / "truth.toml").read_text("utf-8"))["planted"]
        named = {(one["name"], one["hut"]) for one in planted if one["kind"] == "term" and one["hut"] != "all"}
        self.assertGreaterEqual(len(named & passing["documents"]), 0.9 * len(named & passing["ll"]))
        self.assertGreater(len(named & passing["ll"]), 8)


class Units(unittest.TestCase):
    def test_which_documents_are_one_unit(self):
        given = Table({"document": list("abcde"), "group": list("AABBB"), "author": ["x", "", "x", "", "y"]})
        parts = given.with_columns({"part_of": ["t", "t", "t", "u", "u"], "part": [1, 2, 1, 1, 2]})
        table = (
            ((given,), [0, 1, 2, 3, 4], "document", 0),
            ((given, "author"), [0, 1, 0, 2, 3], "author", 2),
            ((parts,), [0, 0, 1, 2, 2], "text", 0),
            ((parts, "", True), [0, 1, 2, 3, 4], "part", 0),
            ((parts, "author"), [0, 1, 0, 2, 3], "author", 2),
        )
        for asked, units, noun, without in table:
            with self.subTest(asked[1:]):
                found = sampling_units(*asked)
                first = {unit: place for place, unit in reversed(list(enumerate(found.of.tolist())))}
                order = {unit: number for number, unit in enumerate(sorted(first, key=first.__getitem__))}
                self.assertEqual([order[unit] for unit in found.of.tolist()], units)
                self.assertEqual((found.noun, found.without), (noun, without))

    def test_what_is_said(self):
        texts = [(f"a{at}", "A", "ice snow " * 9 + "rock " * at) for at in range(1, 4)]
        texts += [(f"b{at}", "B", "fire snow " * 9 + "rock " * at) for at in range(1, 4)]
        lone = texts[:4]
        longer = [(f"a{at}", "A", "ice snow") for at in range(4)] + [
            (f"b{at}", "B", "ice fire " * 4) for at in range(4)
        ]
        few = [("a", "A", "ice " * 90), ("b", "A", "ice"), ("c", "B", "fire " * 90), ("d", "B", "fire")]
        table = (
            (texts, {}, "2 of 4 terms pass over documents (", "3 documents against 3: only large and steady"),
            (
                lone,
                {},
                "2 of 4 terms pass over tokens (p adjusted < 0.05, ll)",
                "one document in B: p and intervals say",
            ),
            ([*texts[:2], *texts[3:5]], {}, "; 2 more differ by tokens alone", "2 documents against 2: only large"),
            (few, {}, "2 documents against 2: no term can reach p < 0.05, whatever its counts", ""),
            (longer, {"test": "rank"}, "documents of B are 4.0 times as long: --test rank then measures length", ""),
            (longer, {"count": "documents"}, "B are 4.0 times as long: --count documents then measures length", ""),
            (
                texts,
                {"test": "permutation"},
                "all 20 ways to put the units",
                "smallest p that can be reached is 0.1, adj",
            ),
            (
                texts,
                {"test": "permutation", "draws": 9},
                "9 draws, seed 1; the smallest p that can be reached is 0.1",
                "",
            ),
            (texts, {"shared": True, "margin": 0.01}, "0 of 4 terms pass: 90 %", "smallest --margin that would find"),
            (
                texts,
                {"test": "ll", "alpha": 0.01},
                "terms pass over tokens (p adjusted < 0.01, ll); 2 of them by",
                "",
            ),
        )
        for rows, asked, *wanted in table:
            notes: list[str] = []
            keyness(counts_of(rows), KeynessSettings(**asked), note=notes.append)
            for text in wanted:
                with self.subTest(asked, text=text):
                    self.assertIn(text, " | ".join(notes))

    def test_settings_that_cannot_be_met(self):
        texts = [("a", "A", "ice snow"), ("b", "A", "ice"), ("c", "B", "fire snow"), ("d", "B", "fire")]
        counts = counts_of(texts)
        authors = counts.documents.with_columns({"author": ["x"] * 4})
        same = Counts(counts.matrix, counts.terms, counts.base, authors, counts.groups, {})
        table = (
            (counts, {"sampling_unit": "autor"}, "no field 'autor'"),
            (same, {"sampling_unit": "autor"}, "did you mean 'author'"),
            (same, {"sampling_unit": "author"}, "all documents of A and B are one unit"),
            (counts, {"interval": "resample"}, "the number of samples is missing"),
            (counts, {"test": "documents", "count": "documents"}, "--sampling-unit"),
        )
        for given, asked, message in table:
            with self.subTest(asked), self.assertRaises(MillstoneError) as caught:
                keyness(given, KeynessSettings(**asked))
            self.assertIn(message, f"{caught.exception.what} {caught.exception.remedy}")

    def test_documents_that_have_a_term_by_author(self):
        _, counts = random_units(np.random.default_rng(1), on_both=False, terms=6)
        found = (
            keyness(counts, KeynessSettings(count="documents", sampling_unit="author")).to_frame().set_index("term")
        )
        has = counts.matrix.toarray() > 0
        author = counts.documents["author"].tolist()
        names = sorted(set(author))
        by = np.array([[one == name for one in author] for name in names])
        in_a = np.array(counts.documents["group"].tolist()) == "A"
        for at, term in enumerate(counts.terms):
            if term not in found.index:
                continue
            units = (
                [by @ (has[:, at] * rows) for rows in (in_a, ~in_a)],
                [by @ rows.astype(float) for rows in (in_a, ~in_a)],
            )
            expected = plain_dispersion(1.0, units[0][0], units[1][0], units[0][1], units[1][1])
            self.assertAlmostEqual(found.loc[term, "design_effect"], expected, 9)


if __name__ == "__main__":
    unittest.main()
