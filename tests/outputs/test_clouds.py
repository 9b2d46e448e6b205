"""Word clouds: shapes packed, words drawn, and what their captions and colours say."""

import io
import itertools
import unittest
from unittest import mock

import numpy as np
import pandas as pd
from matplotlib.figure import Figure
from matplotlib.patches import PathPatch
from PIL import Image

from millstone.analyses.categories.schema import schema as categories_schema
from millstone.analyses.contrast import figures as contrast
from millstone.analyses.freq import figures as frequency
from millstone.analyses.keyness import figures as keyness
from millstone.analyses.logodds import figures as logodds
from millstone.core.base.errors import DataError
from millstone.core.corpus.corpus import GroupSize
from millstone.core.tables.columns import RATE
from millstone.core.tables.result import Result
from millstone.outputs.charts import draw as drawing
from millstone.outputs.charts.clouds.outlines import outline_of
from millstone.outputs.charts.clouds.packing import Area, packed, spaced
from millstone.outputs.charts.colours import GroupLook, contrast_on_white, difference, notes_on
from millstone.outputs.charts.draw import chart_bytes
from millstone.outputs.charts.settings import (
    ContrastChartSettings,
    FrequencyChartSettings,
    KeynessChartSettings,
    LogOddsChartSettings,
)
from tests.core.builders import as_table, result_of

SCRIPTS = {
    "latin": "abcdefghijklmnopqrstuvwxyzäöü",
    "greek": "αβγδεζηθικλμνξοπρστυφχψω",
    "arabic": "ابتثجحخدذرزسشصضطظعغفقكلمنهوي",
    "hebrew": "אבגדהוזחטיכלמנסעפצקרשת",
}


def lists_of(groups: dict[str, dict[str, float]]) -> Result:
    """Frequency lists of groups: words with their rates."""
    rows = [(group, word, rate) for group, words in groups.items() for word, rate in words.items()]
    frame = pd.DataFrame(rows, columns=["group", "term", "per_million"])
    return result_of("freq", frame, {"per_million": RATE}, tuple(GroupSize(g, 1, 9) for g in groups))


def words_in(figure: Figure) -> dict[str, list[PathPatch]]:
    """The words of each panel as they are drawn, largest first."""
    return {axes.get_title(): [one for one in axes.get_children() if type(one) is PathPatch] for axes in figure.axes}


def captions(figure: Figure) -> str:
    return " ".join(figure.get_supxlabel().split())


class Packing(unittest.TestCase):
    def test_each_shape_lies_at_the_free_place_nearest_to_the_middle(self):
        chance = np.random.default_rng(4)
        for _ in range(6):
            rows, columns = chance.integers(15, 40, 2)
            shapes = [chance.random(chance.integers(2, 12, 2)) < 0.6 for _ in range(25)]
            gaps = [int(gap) for gap in chance.integers(1, 4, len(shapes))]
            taken = np.zeros((rows + 20, columns + 20), dtype=int)
            places = packed(Area(rows, columns, seed=3), zip(shapes, gaps, strict=True))
            aims = 0.5 + 0.03 * np.random.default_rng(3).standard_normal((len(shapes), 2))
            for shape, gap, place, aim in zip(shapes, gaps, places, aims, strict=True):
                around = spaced(shape, gap)
                high, wide = shape.shape
                free = {
                    (row, column): abs((row + high / 2) / rows - aim[0]) ** 3
                    + abs((column + wide / 2) / columns - aim[1]) ** 3
                    for row, column in itertools.product(range(rows - high + 1), range(columns - wide + 1))
                    if not (taken[row : row + high + 1, column : column + wide + gap] & around).any()
                }
                if place is None:
                    self.assertEqual(free, {})
                    continue
                self.assertAlmostEqual(free[place], min(free.values()), places=6)
                taken[place[0] : place[0] + high + 1, place[1] : place[1] + wide + gap] |= around

    def test_what_must_stay_free_around_a_shape(self):
        shape = np.array([[1, 0], [0, 1]], dtype=bool)
        np.testing.assert_array_equal(spaced(shape, 2), [[1, 1, 1, 0], [1, 1, 1, 1], [0, 1, 1, 1]])

    def test_all_or_none_ends_at_the_first_without_a_place(self):
        full, dot = np.ones((5, 5), dtype=bool), np.ones((1, 1), dtype=bool)
        shapes = [(full, 1), (dot, 1), (dot, 1)]
        self.assertEqual(packed(Area(5, 5), shapes), [(0, 0), None, None])
        self.assertEqual(packed(Area(5, 5), shapes, all_or_none=True), [(0, 0), None])


class Clouds(unittest.TestCase):
    takes_long = True

    def test_no_two_words_overlap_and_none_leaves_its_panel(self):
        chance = np.random.default_rng(11)
        for number in range(20):
            letters = SCRIPTS[list(SCRIPTS)[number % len(SCRIPTS)]]
            words = {
                "".join(chance.choice(list(letters), chance.integers(1, 12))): float(chance.zipf(1.6))
                for _ in range(chance.integers(5, 60))
            }
            settings = FrequencyChartSettings(chart_upright=float(chance.random()), seed=number)
            figure = frequency.draw_cloud(lists_of({"a": words, "b": dict(list(words.items())[:9])}), settings)
            with self.subTest(number=number):
                for axes in figure.axes:
                    axes.title.set_visible(False)
                    box = axes.get_window_extent()
                    for patch in axes.patches:
                        patch.set(facecolor="black", alpha=0.5, antialiased=False)
                        inside = patch.get_window_extent()
                        self.assertTrue(box.x0 - 0.1 <= inside.x0 and inside.x1 <= box.x1 + 0.1)
                        self.assertTrue(box.y0 - 0.1 <= inside.y0 and inside.y1 <= box.y1 + 0.1)
                figure.suptitle("")
                figure.supxlabel("")
                ink = self.pixels(figure)
                self.assertLess(ink.min(), 200, "no word is drawn")
                self.assertGreater(ink.min(), 100, "two words lie on one another")

    def pixels(self, figure: Figure) -> np.ndarray:
        file = io.BytesIO()
        figure.savefig(file, format="png", dpi=200)
        return np.asarray(Image.open(file).convert("L"))

    def test_areas_follow_the_values_on_one_scale_for_all_panels(self):
        rates = {"a": {"stove": 900.0, "rope": 400.0, "fog": 100.0}, "b": {"boat": 225.0, "sun": 36.0}}
        figure = frequency.draw_cloud(lists_of(rates), FrequencyChartSettings())
        size = {}
        for group, patches in words_in(figure).items():
            self.assertEqual([patch.get_label() for patch in patches], list(rates[group]))
            for patch in patches:
                height = np.ptp(patch.get_path().vertices[:, 1])
                size[patch.get_label()] = height / outline_of(patch.get_label()).height
        of_all = {word: rate for words in rates.values() for word, rate in words.items()}
        for word, rate in of_all.items():
            self.assertAlmostEqual(size[word] / size["stove"], (rate / 900) ** 0.5, places=6)

    def test_words_too_small_for_their_share_and_words_without_a_place_are_counted(self):
        many = {f"{'word' * 3}{n}": 1000.0 / (n + 1) ** 2 for n in range(90)}
        settings = FrequencyChartSettings(chart_sizes=(40, 90), chart_top=90)
        figure = frequency.draw_cloud(lists_of({"a": many}), settings)
        drawn = len(words_in(figure)["a"])
        self.assertLess(drawn, 90)
        said = captions(figure)
        self.assertIn(f"a {drawn} of 90", said)
        self.assertIn(f"{90 - drawn} words found no place", said)
        self.assertRegex(said, r"\d+ words at the smallest size, larger than the share")
        few = frequency.draw_cloud(lists_of({"a": {"ice": 2.0, "fog": 1.0}}), FrequencyChartSettings())
        self.assertNotRegex(captions(few), "no place|smallest size")
        self.assertIn("--chart-kind terms", captions(few))

    def test_the_same_seed_gives_the_same_bytes_and_another_one_does_not(self):
        result = lists_of({"a": {f"word{n}": 100.0 / (n + 1) for n in range(30)}})
        figures = {"terms": frequency.draw_cloud}
        for ending in (".png", ".svg", ".pdf"):
            once, again, other = (
                chart_bytes(result, FrequencyChartSettings(chart=f"x{ending}", seed=seed), figures, [])
                for seed in (1, 1, 2)
            )
            self.assertEqual(once, again)
            self.assertNotEqual(once, other)

    def test_the_share_of_upright_words(self):
        result = lists_of({"a": {f"mountain{n}": 50.0 - n for n in range(20)}})
        for share, turned in ((1.0, 0), (0.7, 6), (0.0, 20)):
            figure = frequency.draw_cloud(result, FrequencyChartSettings(chart_upright=share))
            boxes = [np.ptp(one.get_path().vertices, axis=0) for one in words_in(figure)["a"]]
            self.assertEqual(sum(high > wide for wide, high in boxes), turned)

    def test_key_terms_by_their_least_difference_and_terms_by_z(self):
        frame = pd.DataFrame(
            {
                "target": "A",
                "reference": "B",
                "term": ["ice", "fog", "sun", "hat"],
                "higher_in": ["A", "B", "A", "A"],
                "log_ratio_low": [1.0, -5.0, -0.2, 4.0],
                "log_ratio_high": [3.0, -2.0, 2.0, 6.0],
                "note": ["", "", "", "one document (7) has 80 % of it"],
            }
        )
        groups = (GroupSize("A", 1, 9), GroupSize("B", 1, 9))
        figure = keyness.draw_cloud(result_of("keyness", frame, {}, groups), KeynessChartSettings())
        found = {group: [one.get_label() for one in patches] for group, patches in words_in(figure).items()}
        self.assertEqual(found, {"A": ["hat", "ice"], "B": ["fog"]})
        faces = {one.get_label(): one.get_facecolor()[:3] for patches in words_in(figure).values() for one in patches}
        self.assertEqual([word for word, face in faces.items() if face == (1.0, 1.0, 1.0)], ["hat"])
        self.assertIn("Hollow: the table's note warns", captions(figure))
        unsure = frame.assign(log_ratio_low=-1.0, log_ratio_high=1.0)
        figure = keyness.draw_cloud(result_of("keyness", unsure, {}, groups), KeynessChartSettings())
        self.assertIn("no term is surely more frequent", figure.axes[0].texts[0].get_text())
        odds = pd.DataFrame({"target": "A", "term": ["ice", "fog", "sun"], "z": [1.0, -2.0, 3.0]})
        figure = logodds.draw_cloud(result_of("logodds", odds, {}, groups), LogOddsChartSettings(chart_top=1))
        self.assertEqual([one.get_label() for one in words_in(figure)["A"]], ["sun"])
        self.assertIn("A 1 of 2", captions(figure))

    def test_right_to_left_words_are_noted_where_they_are_not_shaped(self):
        figures = {"terms": frequency.draw_cloud}
        for words, wanted in (({"ثلج": 1.0}, 1), ({"snow": 1.0}, 0)):
            for module, fails in ((mock.Mock(spec=["x"]), True), (mock.Mock(__libraqm_version__="1"), False)):
                notes: list[str] = []
                with mock.patch.object(drawing, "ft2font", module):
                    chart_bytes(lists_of({"a": words}), FrequencyChartSettings(chart="x.png"), figures, notes)
                self.assertEqual(sum("right-to-left" in note for note in notes), wanted * fails)


class Colours(unittest.TestCase):
    GROUPS = tuple(GroupSize(name, 1, 1) for name in "abc")

    def test_groups_have_the_colours_that_are_named(self):
        look = GroupLook(self.GROUPS, ("navy", "#ffdd00", "teal"))
        self.assertEqual([look.colour(one) for one in "abc"], ["#000080", "#ffdd00", "#008080"])
        self.assertGreaterEqual(
            contrast_on_white([int(look.text_colour("b")[at : at + 2], 16) / 255 for at in (1, 3, 5)]), 4.5
        )
        shades = GroupLook(self.GROUPS, ("viridis",)).text_shades("a", 5)
        self.assertEqual(len(set(shades)), 5)
        with self.assertRaisesRegex(DataError, "2 colours for 3 groups"):
            GroupLook(self.GROUPS, ("navy", "teal"))

    def test_contrast_and_difference_of_known_colours(self):
        self.assertAlmostEqual(contrast_on_white((0, 0, 0)), 21)
        self.assertAlmostEqual(contrast_on_white((1, 1, 1)), 1)
        self.assertAlmostEqual(contrast_on_white((0x76 / 255,) * 3), 4.54, places=2)  # a grey known to pass
        self.assertAlmostEqual(difference("black", "white"), 1, places=3)
        self.assertEqual(difference("red", "red"), 0)

    def test_colours_that_mislead_are_noted(self):
        for colours, wanted in (
            (("navy", "teal", "crimson"), []),
            (("navy", "#000085", "crimson"), ["navy and #000085 are hard to distinguish"]),
            (("navy", "navy", "crimson"), ["a, b have the same colour"]),
            (("navy", "yellow", "crimson"), ["yellow as #"]),
            (("viridis",), []),
            ((), []),
        ):
            notes = list(notes_on(colours, "abc"))
            self.assertEqual(len(notes), len(wanted), notes)
            for note, part in zip(notes, wanted, strict=True):
                self.assertIn(part, note)


class Possible(unittest.TestCase):
    def test_no_band_or_interval_of_a_share_reaches_beyond_what_is_possible(self):
        # one text of three has all of a category: the interval of the mean is wider than the scale
        rows = [(g, part, value) for g in "AB" for part in (1, 2) for value in (0.0, 0.0, 100.0)]
        frame = pd.DataFrame(rows, columns=["group", "part", "snow"]).assign(cold=lambda one: one["snow"] - 50)
        groups = (GroupSize("A", 6, 60), GroupSize("B", 6, 60))
        columns = categories_schema(["snow"], "percent", {"cold": "{snow} - 50"}).by_name
        table = pd.DataFrame({"value": ["snow", "cold"], "hedges_g": [0.1, 0.1]})
        result = result_of("contrast", table, {}, groups, {"dictionary": ["d.toml"], "values": ["snow", "cold"]})
        result = result.with_table("documents", as_table(frame), columns)
        limits = {"snow": (0.0, 100.0), "cold": (-np.inf, np.inf)}
        reach = {"snow": [], "cold": []}
        bands = contrast.draw_development(result, ContrastChartSettings())
        for axes in bands.axes:
            reach[axes.get_title()] += [band.get_paths()[0].vertices[:, 1] for band in axes.collections]
        for draw in (contrast.draw, contrast.draw_documents):
            figure = draw(result, ContrastChartSettings())
            self.assertIn("end where values do", captions(figure))
            for axes in figure.axes:
                lines = [one for one in axes.collections if hasattr(one, "get_segments")]
                reach[axes.get_title()] += [part[:, 0] for one in lines for part in one.get_segments()]
        for name, found in reach.items():
            ends = np.concatenate(found)
            self.assertGreaterEqual(ends.min(), limits[name][0])
            self.assertLessEqual(ends.max(), limits[name][1])
        self.assertLess(np.concatenate(reach["cold"]).min(), -50, "a score may be anything")
        self.assertEqual(np.concatenate(reach["snow"]).min(), 0)
