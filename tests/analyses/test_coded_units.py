"""Coded units: how a sample is shared out, what a companion keeps of it, coders with gaps, shares over clusters."""

import itertools
import unittest

import numpy as np

from millstone.analyses.agreement.compute import agreement, cases, settled
from millstone.analyses.agreement.sheets import NO_CODE, CodedSheets
from millstone.analyses.code.sample import _allotted
from millstone.core.coding.prevalence import share_of
from millstone.core.coding.sealed import Sealed, SealedUnit, names_of_units
from millstone.outputs.files.sealing import packed, unpacked


def sealed_of(hits: list[bool], strata: list[int], sizes: list[int]) -> Sealed:
    """A draw with one category of one entry."""
    units = {
        f"u{number:09x}": SealedUnit("a", stratum, 5, ((0,) if hit else None,))
        for number, (hit, stratum) in enumerate(zip(hits, strata, strict=True))
    }
    drawn = np.bincount(strata, minlength=len(sizes)).tolist()
    of_strata = tuple(("fear" if number else "", size, drawn[number]) for number, size in enumerate(sizes))
    return Sealed("sentence", ("fear",), (("afraid",),), of_strata, units)


def sheets_of(sealed: Sealed, codes: np.ndarray, coders: str) -> CodedSheets:
    """Sheets with (units, coders) codes of the one category."""
    names = tuple(sealed.units)
    texts = tuple(f"text {number}" for number in range(len(names)))
    return CodedSheets(sealed, names, ("d",) * len(names), texts, tuple(coders), codes[None].astype(np.int8), "s.csv")


class Sharing(unittest.TestCase):
    def test_what_one_cannot_take_goes_to_the_others(self) -> None:
        chance = np.random.default_rng(5)
        for _ in range(400):
            number = int(chance.integers(1, 9))
            weights = chance.random(number) + 0.01
            sizes = chance.integers(0, 40, number).tolist()
            total = int(chance.integers(0, sum(sizes) + 20))
            found = _allotted(total, weights.tolist(), sizes)
            self.assertEqual(sum(found), min(total, sum(sizes)), (total, weights, sizes, found))
            self.assertTrue(all(0 <= one <= size for one, size in zip(found, sizes, strict=True)))
            # of two that could take more, the heavier has no less, but for a rounded unit
            free = [one for one in range(number) if found[one] < sizes[one]]
            for one, other in itertools.permutations(free, 2):
                if weights[one] >= weights[other]:
                    self.assertGreaterEqual(found[one] + 1, found[other])

    def test_by_hand(self) -> None:
        for total, weights, sizes, expected in (
            (10, [1, 1], [100, 100], [5, 5]),
            (10, [1, 1], [3, 100], [3, 7]),
            (10, [3, 1, 1], [100, 1, 100], [7, 1, 2]),
            (9, [1, 1], [2, 3], [2, 3]),
            (0, [1, 1], [2, 3], [0, 0]),
            (5, [], [], []),
        ):
            self.assertEqual(_allotted(total, [float(one) for one in weights], sizes), expected)


class Sealing(unittest.TestCase):
    def test_a_draw_is_read_back_and_never_read_wrong(self) -> None:
        chance = np.random.default_rng(8)
        entry = ("grau*", 'a "b"', "боюсь", "怖い", "\ud800")
        units = {
            name: SealedUnit("gr\u00fcn", number % 2, number, ((0, 3) if number % 3 else None, ()))
            for number, name in enumerate(names_of_units([f"d#{at}" for at in range(30)]))
        }
        sealed = Sealed("parts:3", ("a", "a/b"), (entry, ()), (("", 90, 15), ("a", 30, 15)), units)
        text = packed(sealed)
        self.assertEqual(unpacked(text), sealed)
        self.assertNotIn("\n", text)
        self.assertEqual(packed(unpacked(text)), text)
        for _ in range(300):
            at, sign = int(chance.integers(len(text))), chr(int(chance.integers(33, 126)))
            changed = text[:at] + sign + text[at + 1 :]
            if changed != text:
                self.refuses_or_agrees(changed, sealed)
        for wrong in ("", "no", text[:-1], text + "0", text[::-1], packed(sealed)[:40]):
            self.assertRaises(ValueError, unpacked, wrong)

    def refuses_or_agrees(self, text: str, sealed: Sealed) -> None:
        try:
            found = unpacked(text)
        except ValueError:
            return
        self.assertEqual(found, sealed)

    def test_units_of_one_name_are_told_apart_and_keep_their_names(self) -> None:
        names = names_of_units(["a#1", "a#2", "b", "a#1"])
        self.assertEqual(len(set(names)), 4)
        self.assertEqual(names_of_units(["b", "a#1"]), [names[2], names[0]])
        self.assertTrue(all(name[0] == "u" and len(name) == 10 for name in names))


class Coders(unittest.TestCase):
    def test_gaps_ties_and_an_arbiter(self) -> None:
        hits = [True, True, True, False, False, False]
        sealed = sealed_of(hits, [1, 1, 1, 0, 0, 0], [60, 9])
        gap = NO_CODE
        codes = np.array([[1, 1, gap], [1, 0, gap], [0, gap, 0], [0, 0, 0], [1, gap, gap], [gap, gap, gap]])
        sheets = sheets_of(sealed, codes, "ABC")
        found = settled(sheets, 0)
        self.assertEqual((found.which.tolist(), found.tied, found.uncoded), ([0, 2, 3, 4], 1, 0))
        # 9 units with a hit stand behind two, 60 without behind two
        self.assertEqual(found.coded.weight.tolist(), [4.5, 4.5, 30, 30])
        notes: list[str] = []
        row = next(agreement(sheets, "", 1, notes.append).rows())
        self.assertEqual((row["units"], row["hits"], row["coded_1"], row["shared"]), (4, 2, 2, 4))
        self.assertAlmostEqual(row["precision"], 0.5)
        self.assertAlmostEqual(row["recall"], 4.5 / 34.5)
        # pairs of codes: A and B agree in 2 of 3, A and C in 2 of 2, B and C in 1 of 1
        self.assertAlmostEqual(row["percent_agreement"], 100 * 5 / 6)
        self.assertIn("fear: 1 unit on which as many coders say 1 as 0 is left out", notes[0])
        by_arbiter = settled(sheets_of(sealed, np.column_stack([codes, [gap, 1, gap, 1, gap, 0]]), "ABCZ"), 0, "Z")
        self.assertEqual(by_arbiter.which.tolist(), [0, 1, 2, 3, 4, 5])
        self.assertEqual(by_arbiter.coded.code.tolist(), [True, True, False, True, True, False])
        self.assertEqual(
            [(one["case"], one["unit_id"][-1]) for one in cases(sheets, "").rows()],
            [("wrong hit", "2"), ("missed", "4"), ("coders differ", "1")],
        )

    def test_kappa_of_three_is_the_mean_of_pairs_on_what_both_coded(self) -> None:
        chance = np.random.default_rng(4)
        codes = np.where(chance.random((80, 3)) < 0.25, NO_CODE, chance.random((80, 3)) < 0.4).astype(int)
        sheets = sheets_of(
            sealed_of([at % 2 == 1 for at in range(80)], [at % 2 for at in range(80)], [400, 90]), codes, "ABC"
        )
        row = next(agreement(sheets, "", 1, lambda text: None).rows())
        kappas = []
        for one, other in itertools.combinations(range(3), 2):
            pairs = [(a, b) for a, b in codes[:, [one, other]].tolist() if NO_CODE not in (a, b)]
            seen = sum(a == b for a, b in pairs) / len(pairs)
            p, q = (sum(pair[at] for pair in pairs) / len(pairs) for at in (0, 1))
            chance_of = p * q + (1 - p) * (1 - q)
            kappas.append((seen - chance_of) / (1 - chance_of))
        self.assertAlmostEqual(row["kappa"], sum(kappas) / 3)
        self.assertTrue(row["kappa_low"] < row["kappa"] < row["kappa_high"])


class Clusters(unittest.TestCase):
    def test_variances_are_those_of_drawing_texts_anew(self) -> None:
        chance = np.random.default_rng(9)
        sizes = np.ceil(chance.lognormal(2.5, 0.7, 60)).astype(int)
        cluster = np.repeat(np.arange(60), sizes)
        # 20 texts have units of both groups
        first = np.where(cluster < 20, chance.random(len(cluster)) < 0.5, cluster % 2 == 0)
        hit = chance.random(len(cluster)) < chance.beta(1, 4, 60)[cluster]
        one, other = share_of(hit, first, cluster), share_of(hit, ~first, cluster)
        self.assertAlmostEqual(one.value, hit[first].mean())
        drawn = []
        table = np.array(
            [
                [(inside & at).sum() for inside in (first & hit, first, ~first & hit, ~first)]
                for at in (cluster == n for n in range(60))
            ]
        )
        for _ in range(6000):
            total = table[chance.integers(0, 60, 60)].sum(axis=0)
            drawn.append((total[0] / total[1], total[2] / total[3]))
        seen = np.cov(np.array(drawn).T)
        for found, expected in ((one.variance, seen[0, 0]), (other.variance, seen[1, 1])):
            self.assertLess(abs(found / expected - 1), 0.15)
        self.assertLess(abs(one.covariance(other) - seen[0, 1]), 0.15 * np.sqrt(seen[0, 0] * seen[1, 1]))
        self.assertAlmostEqual(one.covariance(other), other.covariance(one))


if __name__ == "__main__":
    unittest.main()
