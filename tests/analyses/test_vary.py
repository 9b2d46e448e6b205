"""One analysis under many settings: what moved and why, what holds, against runs one by one and by chance."""

import itertools
import tempfile
import unittest
from pathlib import Path

import numpy as np
import pandas as pd
from scipy import stats

import millstone

# what each setting does to these words, and why, is known by hand
ONE = ["the wife came and the son came", "the hut is cold and the stove is cold", "the Hut came down 12 times"]
TWO = ["the son is coming, coming to the cabin", "a hut, a hut and a stove", "rare words come once to the hut"]
LEMMAS = "form,lemma\ncame,come\ncoming,come\ntimes,time\nis,be\n"
OVER = {
    "stop": "stop: none | the,and,a",
    "lemmas": "lemmas: none | lemmas.csv",
    "merge": "merge: none | kin=son,wife",
    "min_freq": "min-freq: 1 | 2",
    "numbers": "numbers: keep | drop",
    "case": "case: keep | lower",
}
# setting -> group, term -> change, why
WHY = {
    "stop": {
        ("one", "the"): ("leaves", "words of --stop"),
        ("two", "stove"): ("up", "others before it came or left"),
    },
    "lemmas": {
        ("one", "come"): ("enters", "lemma: came -> come"),
        ("one", "came"): ("leaves", "lemma: came -> come"),
        ("two", "come"): ("up", "lemma: coming -> come"),
        ("two", "coming"): ("leaves", "lemma: coming -> come"),
    },
    "merge": {
        ("one", "kin"): ("enters", "merge: son, wife -> kin"),
        ("one", "wife"): ("leaves", "merge: wife -> kin"),
        ("two", "son"): ("leaves", "merge: son -> kin"),
    },
    "min_freq": {("two", "rare"): ("leaves", "below --min-freq 2"), ("one", "12"): ("leaves", "below --min-freq 2")},
    "numbers": {("one", "12"): ("leaves", "numbers")},
    "case": {("one", "hut"): ("up", "case: Hut -> hut"), ("one", "Hut"): ("leaves", "case: Hut -> hut")},
}


class Moved(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        (self.folder / "lemmas.csv").write_text(LEMMAS, "utf-8")

    def moved(self, *names: str, of: str = "freq", **further: object) -> pd.DataFrame:
        over = [OVER[name].replace("lemmas.csv", str(self.folder / "lemmas.csv")) for name in names]
        given = {"one": ONE, "two": TWO}
        return millstone.vary(given, of=of, over=over, **{"paired": len(over) > 1, **further}).frame

    def test_why_is_right_for_each_setting_and_turned_round(self) -> None:
        for name, wanted in WHY.items():
            frame = self.moved(name).set_index(["group", "term"])
            for key, (change, why) in wanted.items():
                with self.subTest(setting=name, row=key):
                    row = frame.loc[key]
                    self.assertEqual(row["change"], change)
                    self.assertIn(why, row["why"])
        backwards = {name: " | ".join(reversed(typed.split(": ")[1].split(" | "))) for name, typed in OVER.items()}
        for name, term, why in (
            ("stop", "the", "without words of --stop"),
            ("merge", "wife", "without merge: wife -> kin"),
            ("min_freq", "times", "no longer below --min-freq 2"),
        ):
            over = f"{name}: {backwards[name]}"
            frame = millstone.vary({"one": ONE, "two": TWO}, of="freq", over=over).frame.set_index(["group", "term"])
            with self.subTest(backwards=name):
                self.assertEqual(frame.loc[("one", term), "change"], "enters")
                self.assertIn(why, frame.loc[("one", term), "why"])

    def test_why_names_all_settings_that_changed_at_once(self) -> None:
        frame = self.moved("stop", "lemmas", "merge", "min_freq").set_index(["group", "term"])
        for key, change, parts in (
            (("one", "kin"), "enters", ["merge: son, wife -> kin"]),
            (("two", "son"), "leaves", ["merge: son -> kin"]),
            (("two", "come"), "up", ["lemma: coming -> come"]),
            (("one", "times"), "leaves", ["lemma: times -> time"]),
            (("two", "a"), "leaves", ["words of --stop"]),
            (("two", "rare"), "leaves", ["below --min-freq 2"]),
        ):
            with self.subTest(row=key):
                self.assertEqual(frame.loc[key, "change"], change)
                for part in parts:
                    self.assertIn(part, frame.loc[key, "why"])
        self.assertNotIn(("one", "hut"), frame.index[frame["change"] == "leaves"])

    def test_another_base_changes_effects_and_no_counts(self) -> None:
        given = {"one": ONE, "two": TWO}
        found = millstone.vary(given, of="keyness", over="base: all | kept", stop="the", test="ll").frame
        self.assertEqual(set(found["why"]), {"other base"})
        self.assertTrue((found["freq_1"] == found["freq_2"]).all())
        tests = millstone.vary(given, of="keyness", over="against: rest | two").frame
        self.assertTrue(tests.empty, "two groups: the rest is the other one")
        other = millstone.vary(given, of="freq", over="min-tokens: 0 | 7").frame.set_index(["group", "term"])
        self.assertEqual(other.loc[("one", "down"), "why"], "other texts: min-tokens")

    def test_words_are_matched_with_lemmas_by_a_form_both_know(self) -> None:
        texts = {"one": ["children sang", "children ran"], "two": ["a child sang", "a bird sang"]}
        (self.folder / "l.csv").write_text("form,lemma\nchildren,child\nsang,sing\n", "utf-8")
        over = f"lemmas: none | {self.folder / 'l.csv'}"
        frame = millstone.vary(texts, of="freq", over=over).frame
        changes = {(row.group, row.term): row.change for row in frame.itertuples()}
        # "sing" is written "sang" wherever it stands; "child" is a word of its own in the other group
        self.assertFalse(
            [key for key in changes if key[1] in ("sang", "sing") and changes[key] in ("enters", "leaves")]
        )
        self.assertEqual((changes["one", "children"], changes["one", "child"]), ("leaves", "enters"))

    def test_agreement_is_spearmans(self) -> None:
        result = millstone.vary({"one": ONE, "two": TWO}, of="freq", over=OVER["stop"], first=5)
        ranks = [millstone.freq({"one": ONE, "two": TWO}, **more).frame for more in ({}, {"stop": "the,and,a"})]
        both = ranks[0].merge(ranks[1], on=["group", "term"])
        both = both[both["group"] == "one"]
        rho = stats.spearmanr(both["rank_x"], both["rank_y"])[0]
        tops = [set(one[one["group"] == "one"]["term"].head(5)) for one in ranks]
        line = next(note for note in result.notes if note.startswith("one: "))
        self.assertIn(f"{100 * len(tops[0] & tops[1]) / 5:.0f} % of the first 5 rows in common", line)
        self.assertIn(f"of {len(both)} rows in both {rho:.2f}", line)


def clustered(chance: np.random.Generator, effect: float = 1.0, documents: int = 14) -> dict[str, list[str]]:
    """Texts of two groups in which words come in bursts, and one word is more frequent in one of them."""
    words = np.array([f"w{n}" for n in range(8)])
    found: dict[str, list[str]] = {"a": [], "b": []}
    for group, number in itertools.product(found, range(documents)):
        rates = chance.gamma(0.7, 1 / np.arange(1, 9))
        rates[0] *= effect if group == "a" else 1
        size = int(chance.integers(15, 60))
        found[group].append(" ".join([*chance.choice(words, size, p=rates / rates.sum()), f"only{number}"]))
    return found


class Across(unittest.TestCase):
    OVER = ("min-freq: 1 | 4 | 30", "test: documents | ll", "drop: none | w7")

    def test_against_runs_one_by_one(self) -> None:
        texts = clustered(np.random.default_rng(5), 3.0)
        found = millstone.vary(texts, of="keyness", over=self.OVER).frame.set_index("term")
        runs = []
        for least, test, drop in itertools.product((1, 4, 30), ("documents", "ll"), ("", "w7")):
            options = {"min_freq": least, "test": test, **({"drop": drop} if drop else {})}
            one = millstone.keyness(texts, **options).frame
            runs.append(one.assign(**{"min-freq": least, "test": test, "drop": drop}))
        every = pd.concat(runs)
        for term, rows in every.groupby("term"):
            row, median = found.loc[term], rows["log_ratio"].median()
            along = (rows["p_adjusted"] < 0.05) & (np.sign(rows["log_ratio"]) == np.sign(median))
            with self.subTest(term=term):
                self.assertEqual(row["settings"], len(rows))
                self.assertAlmostEqual(row["passes"], along.mean())
                self.assertAlmostEqual(row["median"], median)
                self.assertAlmostEqual(row["lowest"], rows["log_ratio"].min())
                self.assertAlmostEqual(row["highest"], rows["log_ratio"].max())
                counts = {
                    name: along.groupby(rows[name]).sum().reindex(every[name].unique(), fill_value=0)
                    for name in ("min-freq", "test", "drop")
                }
                number = {name: len(runs) / len(own) for name, own in counts.items()}
                spread = {name: (own.max() - own.min()) / number[name] for name, own in counts.items()}
                if max(spread.values()):
                    self.assertAlmostEqual(row["depends_by"], max(spread.values()))
                    self.assertAlmostEqual(spread[row["depends_on"]], max(spread.values()))
                else:
                    self.assertEqual(row["depends_on"], "")

    def test_each_row_is_the_row_of_its_run(self) -> None:
        texts = clustered(np.random.default_rng(6), 3.0)
        each = millstone.vary(texts, of="keyness", over=self.OVER, each=True).tables["each"]
        own = each[(each["min_freq"] == "4") & (each["test"] == "ll") & (each["drop"] == "none")].set_index("term")
        alone = millstone.keyness(texts, min_freq=4, test="ll").frame.set_index("term").reindex(own.index)
        np.testing.assert_allclose(own["effect"], alone["log_ratio"])
        np.testing.assert_allclose(own["low"], alone["log_ratio_low"])
        np.testing.assert_allclose(own["p_adjusted"], alone["p_adjusted"])
        self.assertEqual(own["rank"].tolist(), alone["rank"].tolist())


class Permuted(unittest.TestCase):
    def test_every_way_is_counted_where_there_are_few(self) -> None:
        texts = {"a": ["x x x y", "x x y y", "x x x x y"], "b": ["x y y y", "y y y", "x x y y y"]}
        options = {"test": "ll", "zeros": "smooth"}
        found = millstone.vary(
            texts, of="keyness", over=["drop: none | q | r"], permute=1000, level=0.99, **options
        ).frame.set_index("term")
        every = texts["a"] + texts["b"]
        effects = []
        for first in itertools.combinations(range(6), 3):
            sides = {"a": [every[n] for n in first], "b": [every[n] for n in range(6) if n not in first]}
            frame = millstone.keyness(sides, **options).frame.set_index("term")
            effects.append(abs(frame.loc["x", "log_ratio"]))
        # the first way is the one that is seen
        self.assertAlmostEqual(found.loc["x", "p_median"], np.mean(np.array(effects) >= effects[0] - 1e-9))

    def test_p_is_uniform_where_nothing_differs_and_finds_what_is_planted(self) -> None:
        options = {"of": "keyness", "over": "min-freq: 2 | 4 | 6", "test": "ll", "permute": 9, "level": 0.999}
        p = []
        for seed in range(24):
            frame = millstone.vary(clustered(np.random.default_rng(seed), documents=7), **options, seed=seed).frame
            p.append(frame.set_index("term").loc["w1", "p_median"])
        # nine draws give p of 0.1, 0.2, ... 1, with a mean of 0.55 and a standard error of 0.06
        self.assertLess(abs(np.mean(p) - 0.55), 0.18)
        planted = millstone.vary(clustered(np.random.default_rng(1), 6.0), **options).frame.set_index("term")
        self.assertLessEqual(planted.loc["w0", "p_median"], 0.1)
