"""Figures: what is drawn, read off the figure itself."""

import dataclasses
import itertools
import unittest

import numpy as np
import pandas as pd
from matplotlib.figure import Figure

from millstone.analyses.alike import figures as alike
from millstone.analyses.base.analysis import analysis_named
from millstone.analyses.base.groups.notes import is_carried_by_few
from millstone.analyses.categories import figures as categories
from millstone.analyses.categories.schema import schema as categories_schema
from millstone.analyses.collocates import compute as collocates_core
from millstone.analyses.collocates import figures as collocates
from millstone.analyses.collocates.settings import CollocatesSettings
from millstone.analyses.contrast import compute as contrast_core
from millstone.analyses.contrast import figures as contrast
from millstone.analyses.dispersion import figures as dispersion
from millstone.analyses.dispersion.compute import along_groups, dispersion_of_nodes, dispersion_of_terms
from millstone.analyses.freq import figures as frequency
from millstone.analyses.freq.compute import frequency_list
from millstone.analyses.freq.growth import vocabulary_growth
from millstone.analyses.keyness import compute as keyness_core
from millstone.analyses.keyness import figures as keyness
from millstone.analyses.keyness import points
from millstone.analyses.keyness.settings import KeynessSettings
from millstone.analyses.logodds import compute as logodds_core
from millstone.analyses.logodds import figures as logodds
from millstone.analyses.network import figures as network
from millstone.analyses.network.compute import networks
from millstone.analyses.network.occurrences import Occurrences
from millstone.analyses.network.settings import NetworkSettings
from millstone.analyses.profile import compute as profile_core
from millstone.analyses.profile import figures as profile
from millstone.analyses.profile.settings import ProfileSettings
from millstone.analyses.wordtree import compute as word_tree_core
from millstone.analyses.wordtree import figures as word_tree
from millstone.analyses.wordtree.settings import WordTreeSettings
from millstone.core.base.errors import DataError
from millstone.core.corpus.corpus import GroupSize
from millstone.core.matches.expressions import expression_from
from millstone.core.matches.matches import NamedWords, find_expression
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.statistics.means import group_means
from millstone.core.tables.result import Result
from millstone.core.tables.table import Table
from millstone.core.terms.term_map import map_terms
from millstone.outputs.charts.colours import GroupLook
from millstone.outputs.charts.draw import chart_bytes
from millstone.outputs.charts.settings import (
    ChartSettings,
    ContrastChartSettings,
    DispersionChartSettings,
    FrequencyChartSettings,
    KeynessChartSettings,
    LogOddsChartSettings,
    NetworkChartSettings,
    ProfileChartSettings,
)
from millstone.outputs.charts.theme import sizes_line
from tests.core.builders import MINI, as_table, corpus_of, counts_of, framed, result_of


def texts_of(figure: Figure) -> list[str]:
    """All text of a figure, panel by panel."""
    found = [text.get_text() for axes in figure.axes for text in (*axes.texts, *axes.get_yticklabels())]
    return [
        *found,
        *(axes.get_title() for axes in figure.axes),
        *(text.get_text() for text in figure.texts),
    ]


def intervals_of(figure: Figure) -> np.ndarray:
    """The ends of all lying lines, (lines, 2)."""
    segments = [
        segment
        for axes in figure.axes
        for lines in axes.collections
        if hasattr(lines, "get_segments")
        for segment in lines.get_segments()
    ]
    return np.array([segment[:, 0] for segment in segments if segment[0, 1] == segment[1, 1]])


class Drawing(unittest.TestCase):
    takes_long = True

    def result(self, command: str, rows=MINI, **settings: str) -> Result:
        counts = counts_of(rows)
        if command == "keyness":
            frame = keyness_core.keyness(counts, KeynessSettings(**settings))
        else:
            frame = logodds_core.log_odds(counts)
        return result_of(command, frame, analysis_named(command).schema().of_table(frame.names), counts.sizes)

    def test_keyness_names_both_ends_and_prints_frequencies(self):
        result = self.result("keyness", against="A")
        figure = keyness.draw(result, ChartSettings())
        self.assertEqual(len(figure.axes), 2)
        axes = figure.axes[0]
        labels = [label.get_text() for label in axes.get_yticklabels()]
        frame = result.frame[(result.frame["target"] == "B") & (result.frame["higher_in"] != "")]
        self.assertEqual(labels, frame.sort_values("log_ratio", ascending=False, kind="stable")["term"].tolist())
        self.assertEqual([text.get_text() for text in axes.texts], ["◂ A", "B ▸", "1 : 3", "0 : 1", "3 : 0", "freq"])
        low, high = axes.get_xlim()
        self.assertAlmostEqual(low, -high)
        self.assertLess(low, frame["log_ratio_low"].min())
        drawn, frame = intervals_of(figure), result.frame[result.frame["higher_in"] != ""]
        # an interval without an end goes on to the edge, in an arrow
        edge = np.array(
            [low_high for axes in figure.axes for low_high in [axes.get_xlim()] for _ in axes.get_yticks()]
        )
        expected = frame[["log_ratio_low", "log_ratio_high"]].to_numpy()
        expected = np.where(np.isnan(expected), 0.98 * edge, expected)
        np.testing.assert_allclose(np.sort(drawn, axis=0), np.sort(expected, axis=0))
        arrows = [line.get_marker() for axes in figure.axes for line in axes.lines if line.get_marker() in ("<", ">")]
        self.assertEqual(len(arrows), int(frame[["log_ratio_low", "log_ratio_high"]].isna().to_numpy().sum()))
        self.assertTrue(any("C 1 document, 5 tokens" in text for text in texts_of(figure)))

    def test_captions_say_what_terms_are_ranked_by(self):
        result = self.result("keyness", measures=("odds_ratio",))
        for settings, wanted in (
            ({}, "each side with the highest log-likelihood over documents, by log ratio"),
            ({"test": "ll"}, "each side with the highest log-likelihood, by log ratio"),
            ({"test": "rank"}, "with the highest log-likelihood over documents, "),
            ({"test": "chi2"}, "with the highest chi-squared, "),
            ({"rank_by": "odds_ratio", "test": "chi2"}, "with the largest odds ratio, either way, "),
            ({"rank_by": "p"}, "with the lowest p, "),
            ({"shared": True}, "with the smallest difference, "),
        ):
            with self.subTest(settings):
                figure = keyness.draw(dataclasses.replace(result, settings=settings), ChartSettings())
                self.assertTrue(any(wanted in " ".join(text.split()) for text in texts_of(figure)))

    def test_hollow_is_what_few_documents_carry(self):
        notes = {
            "one document (entry 212) has 80 % of it": True,
            "one part (1.txt part 3) has 51 % of it; absent from B": True,
            "absent from A; by tokens only": True,
            "absent from all documents": False,
            "": False,
        }
        self.assertEqual(is_carried_by_few(pd.DataFrame({"note": list(notes)})).tolist(), list(notes.values()))
        result = self.result("keyness", against="A")
        noted = result.frame.assign(note="one document (x) has 60 % of it")
        figure = keyness.draw(dataclasses.replace(result, table=as_table(noted)), ChartSettings())
        dots = [
            line for axes in figure.axes for line in axes.lines if line.get_marker() not in ("", "None", "<", ">")
        ]
        self.assertEqual({line.get_markerfacecolor() for line in dots if len(line.get_xdata())}, {"white"})

    def test_keyness_takes_the_strongest_of_each_side(self):
        result = self.result("keyness")
        for _, frame in result.frame.groupby("target"):
            found = keyness.strongest(frame, 1)
            for side, rows in frame[frame["higher_in"] != ""].groupby("higher_in"):
                self.assertEqual(
                    found[found["higher_in"] == side]["term"].tolist(), rows.nsmallest(1, "rank")["term"].tolist()
                )

    def test_evidence_shows_the_threshold_and_names_without_overlap(self):
        rows = [
            (f"{group}{n}", group, f"{'ice snow ' * 3 if group == 'A' else 'fire rock '} a b{n} c{n % 3}")
            for group in "AB"
            for n in range(20)
        ]
        result = self.result("keyness", rows)
        figure = points.draw_evidence(result, KeynessChartSettings())
        axes, frame = figure.axes[0], result.frame
        passes = frame["p_adjusted"] < 0.05
        lines = [line.get_ydata()[0] for line in axes.lines if len(set(line.get_ydata())) == 1]
        evidence = frame["ll_documents"]
        self.assertTrue(evidence[~passes].max() <= lines[0] <= evidence[passes].min())
        ends, names = axes.texts[:2], axes.texts[2:]
        self.assertEqual([text.get_text() for text in ends], ["◂ B", "A ▸"])
        self.assertLessEqual({text.get_text() for text in names}, set(frame.loc[passes, "term"]))
        self.assertGreaterEqual(len(names), 3)
        boxes = [text.get_window_extent() for text in names]
        self.assertFalse(any(one.overlaps(two) for one, two in itertools.combinations(boxes, 2)))

    def test_the_rule_that_points_pass_by(self):
        result = self.result("keyness")
        every = dataclasses.replace(result, table=result.table.first(1)).with_table(
            "compared", as_table(result.frame)
        )
        for settings, wanted, passes in (
            ({}, "adjusted p (documents) below 0.05", result.frame["p_adjusted"] < 0.05),
            ({"alpha": 0.9}, "below 0.9.", result.frame["p_adjusted"] < 0.9),
            ({"min_log_ratio": 1}, "with a log ratio of 1 or more", result.frame["log_ratio"].abs() >= 1),
            (
                {"min_log_ratio": 1, "alpha": 1, "direction": "reference"},
                "below 1 and a log ratio of 1 or more either way and a higher rate in the reference",
                (result.frame["log_ratio"] <= -1) & (result.frame["p_adjusted"] < 1),
            ),
        ):
            with self.subTest(settings):
                figure = points.draw_evidence(dataclasses.replace(every, settings=settings), KeynessChartSettings())
                self.assertTrue(any(wanted in " ".join(text.split()) for text in texts_of(figure)))
                sizes = [cloud.get_sizes()[0] for axes in figure.axes for cloud in axes.collections]
                numbers = [len(cloud.get_offsets()) for axes in figure.axes for cloud in axes.collections]
                self.assertEqual(sum(numbers), len(result.frame))
                large = sum(number for size, number in zip(sizes, numbers, strict=True) if size > 20)
                self.assertEqual(large, (passes & (result.frame["higher_in"] != "")).sum())

    def test_rates_of_both_sides_and_scores(self):
        result = self.result("keyness")
        axes = points.draw_frequencies(result, KeynessChartSettings()).axes[0]
        drawn = np.concatenate([cloud.get_offsets() for cloud in axes.collections])
        frame = result.frame[result.frame["target"] == "A"]
        present = frame[(frame["freq_target"] > 0) & (frame["freq_reference"] > 0)]
        for point in present[["per_million_reference", "per_million_target"]].to_numpy():
            self.assertTrue(np.isclose(drawn, point).all(axis=1).any())
        self.assertTrue((drawn > 0).all(), "an absent term has a place on a logarithmic axis")
        scores = logodds.draw_scores(self.result("logodds"), LogOddsChartSettings()).axes
        self.assertEqual([axes.get_title() for axes in scores], [f"{g} against rest" for g in "ABC"])

    def test_log_odds_panels(self):
        result = self.result("logodds")
        by_group = logodds.draw(result, LogOddsChartSettings(chart_top=2))
        self.assertEqual([axes.get_title() for axes in by_group.axes], [f"{g} against rest" for g in "ABC"])
        first = [label.get_text() for label in by_group.axes[0].get_yticklabels()]
        self.assertEqual(first, result.frame[result.frame["target"] == "A"].nsmallest(2, "rank")["term"].tolist())
        by_term = logodds.draw(result, LogOddsChartSettings(panels="term", chart_top=3))
        self.assertEqual(len(by_term.axes), result.frame["term"].nunique())
        for axes in by_term.axes:
            self.assertEqual([label.get_text() for label in axes.get_yticklabels()], ["A", "B", "C"])

    def test_a_panel_a_value_and_the_strongest_groups_in_each(self):
        chance = np.random.default_rng(2)
        kinds = [f"kind{k}" for k in range(7)]
        rows = [(str(n), f"g{n:02}", " ".join(chance.choice(kinds, 60))) for n in range(14)]
        figure = logodds.draw(self.result("logodds", rows), LogOddsChartSettings(panels="term", chart_top=5))
        self.assertEqual(sorted(axes.get_title() for axes in figure.axes), kinds)
        self.assertEqual({len(axes.get_yticks()) for axes in figure.axes}, {5})
        self.assertTrue(
            any(
                "A panel for each term, the 5 groups with the largest |z| in each" in text
                for text in texts_of(figure)
            )
        )

    def test_many_groups_are_drawn_by_term_and_all_sizes_told(self):
        rows = [(str(n), f"g{n:02}", f"snow ice rope word{n} {'boat ' * n}") for n in range(20)]
        figure = logodds.draw(self.result("logodds", rows), LogOddsChartSettings())
        self.assertEqual(len(figure.axes), 12)
        self.assertTrue(
            any("20 groups, 20 documents, 270 tokens; from 4 (g00) to 23 (g19)" in text for text in texts_of(figure))
        )

    def test_categories_show_means_with_intervals(self):
        frame = pd.DataFrame(
            {
                "document": list("abcde"),
                "group": list("AAABB"),
                "note": list("vwxyz"),
                "tokens": 9,
                "matched_percent": 1.0,
            }
        ).assign(snow=[1.0, 2, 6, 4, 4], ice=[0.5, np.nan, 0, 0, 1])
        sizes = (GroupSize("A", 3, 27), GroupSize("B", 2, 18))
        result = result_of("categories", frame, categories_schema(["snow", "ice"], "percent").by_name, sizes)
        figure = categories.draw(result, ChartSettings())
        axes = figure.axes[0]
        self.assertEqual([label.get_text() for label in axes.get_yticklabels()], ["snow", "ice"])
        dots = [line.get_xdata() for line in axes.lines if line.get_marker() not in ("", "None")]
        np.testing.assert_allclose(dots, [[3, 0.25], [4, 0.5]])
        self.assertIn("places per 100 tokens", axes.get_xlabel())
        self.assertEqual([text.get_text() for text in figure.legends[0].texts], ["A", "B"])

    def test_contrasts(self):
        chance = np.random.default_rng(7)
        values = pd.DataFrame({name: chance.normal(at, 1, 30) for at, name in enumerate(("calm", "loud", "flat"))})
        values.loc[:9, "loud"] += 3
        values["flat"] = 2.0
        group = np.repeat(["A", "B", "C"], 10).astype(object)
        names = np.array([f"d{number}" for number in range(30)], dtype=object)
        table = framed(contrast_core.contrast)(
            contrast_core.Observations(as_table(values), group, ("A", "B", "C"), names)
        )
        frame = pd.DataFrame({"document": names, "group": group, "part": np.tile(np.arange(1, 6), 6)}).join(values)
        sizes = tuple(GroupSize(name, 10, 100) for name in "ABC")
        result = result_of("contrast", table, {}, sizes, {"values": ["calm"]}).with_table(
            "documents", as_table(frame)
        )
        settings = ContrastChartSettings()
        figure = contrast.draw(result, settings)
        self.assertEqual([axes.get_title() for axes in figure.axes], ["loud", "calm"], "by effect; flat has none")
        self.assertTrue(any("1 without an effect size" in " ".join(text.split()) for text in texts_of(figure)))
        means = framed(group_means)(frame, ["loud", "calm"], ["A", "B", "C"])
        np.testing.assert_allclose(intervals_of(figure), means[["low", "high"]].to_numpy())
        together = contrast.draw(dataclasses.replace(result, settings={"dictionary": ["d"]}), settings).axes
        self.assertEqual(len(together), 1, "categories share a scale")
        dots = contrast.draw_documents(result, settings).axes[0]
        self.assertEqual(sum(len(one.get_offsets()) for one in dots.collections if hasattr(one, "get_sizes")), 30)
        effects = contrast.draw_effects(result, settings)
        self.assertEqual(len(effects.axes), 3, "one panel per pair")
        wanted = table.set_index(["group_a", "group_b", "value"])[["hedges_g_low", "hedges_g_high"]]
        order = [(a, b, value) for a, b in (("A", "B"), ("A", "C"), ("B", "C")) for value in ("loud", "calm")]
        np.testing.assert_allclose(intervals_of(effects), wanted.loc[order].to_numpy())
        course = contrast.draw_development(result, settings).axes[0]
        self.assertEqual([len(line.get_xdata()) for line in course.lines], [5, 5, 5])
        np.testing.assert_allclose(
            course.lines[0].get_ydata(), frame[frame["group"] == "A"].groupby("part")["loud"].mean()
        )
        heat = contrast.draw_heat(result, settings)
        self.assertEqual([label.get_text() for label in heat.axes[0].get_yticklabels()][:2], ["d0 (A)", "d1 (A)"])
        shown = np.asarray(heat.axes[0].images[0].get_array())
        np.testing.assert_allclose(shown.mean(axis=0), 0, atol=1e-12)
        np.testing.assert_allclose(shown.std(axis=0, ddof=1), 1)
        many = result.with_table("documents", as_table(pd.concat([frame] * 3, ignore_index=True)))
        rows = contrast.draw_heat(many, settings).axes[0].get_yticklabels()
        self.assertEqual([label.get_text() for label in rows], ["A", "B", "C"])
        for draw in (contrast.draw, contrast.draw_documents, contrast.draw_development, contrast.draw_heat):
            with self.assertRaisesRegex(DataError, "needs the values of the documents"):
                draw(dataclasses.replace(result, tables={}), settings)

    def test_frequency_lists(self):
        frame = framed(frequency_list)(counts_of(MINI))
        counts = counts_of(MINI)
        result = result_of("freq", frame, analysis_named("freq").schema().of_table(frame.columns), counts.sizes)
        figure = frequency.draw_lists(result, FrequencyChartSettings(chart_top=2))
        for axes, (group, rows) in zip(figure.axes, frame.groupby("group", sort=False), strict=True):
            self.assertEqual(axes.get_title(), group)
            self.assertEqual([label.get_text() for label in axes.get_yticklabels()], rows["term"].head(2).tolist())
            self.assertGreater(axes.get_xlim()[1], frame["per_million"].max())
        for draw, last in (
            (frequency.draw_ranks, {"A": 2e5, "B": 2e5, "C": 2e5}),
            (frequency.draw_shares, {"A": 100, "B": 100, "C": 100}),
        ):
            (axes,) = draw(result, FrequencyChartSettings()).axes
            drawn = {line.get_label(): line.get_ydata()[-1] for line in axes.get_lines()}
            self.assertEqual({group: round(value, 6) for group, value in drawn.items()}, last)

    def test_the_growth_of_the_vocabulary(self):
        corpus = corpus_of(MINI, ordered=True)
        growth = framed(vocabulary_growth)(corpus, map_terms(corpus))
        met = {group: rows["types"].tolist() for group, rows in growth.groupby("group")}
        # red red blue red green; blue blue blue green yellow; red blue yellow yellow blue
        self.assertEqual(met, {"A": [0, 1, 1, 2, 2, 3], "B": [0, 1, 1, 1, 2, 3], "C": [0, 1, 2, 3, 3, 3]})
        result = result_of("freq", pd.DataFrame(), {}, ()).with_table("growth", as_table(growth))
        (axes,) = frequency.draw_growth(result, FrequencyChartSettings()).axes
        self.assertEqual([line.get_ydata().tolist() for line in axes.get_lines()], list(met.values()))
        with self.assertRaisesRegex(DataError, "cannot be drawn from a frequency list"):
            frequency.draw_growth(result_of("freq", pd.DataFrame(), {}, ()), FrequencyChartSettings())

    def test_profiles(self):
        corpus = corpus_of(MINI, ordered=True)
        frame = framed(profile_core.profile)(corpus, map_terms(corpus), ProfileSettings(per_document=True, window=2))
        result = result_of(
            "profile", frame, analysis_named("profile").schema().of_table(frame), counts_of(MINI).sizes
        )
        figure = profile.draw(result, ProfileChartSettings(chart_measures=("mattr", "types")))
        self.assertEqual([axes.get_title() for axes in figure.axes], ["mattr", "types"])
        strokes = figure.axes[1].get_lines()[0]
        self.assertEqual(strokes.get_xdata().tolist(), frame[frame["group"] == "A"]["types"].tolist())
        with self.assertRaisesRegex(DataError, "has no measure 'typs'; did you mean 'types'"):
            profile.draw(result, ProfileChartSettings(chart_measures=("typs",)))

    def test_places_of_nodes_and_uneven_terms(self):
        corpus = corpus_of(MINI, ordered=True)
        nodes = {one: find_expression(corpus, expression_from(one), NamedWords(corpus)) for one in ("red", "frost")}
        places, borders = (one.to_frame() for one in along_groups(corpus, nodes))
        table = dispersion_of_nodes(corpus, nodes)
        result = result_of("dispersion", table, {}, counts_of(MINI).sizes)
        result = result.with_table("places", as_table(places)).with_table("borders", as_table(borders))
        figure = dispersion.draw_places(result, DispersionChartSettings())
        self.assertEqual([axes.get_title() for axes in figure.axes], ["A", "B", "C"])
        strokes = [s[0, 0] for lines in figure.axes[0].collections for s in lines.get_segments()]
        self.assertEqual(strokes, [0, 1, 3], "red red blue, red green")
        self.assertEqual(
            [borders.loc[borders["group"] == group, "begins"].tolist() for group in "AB"], [[0, 3], [0, 4]]
        )
        self.assertIn("3 in 2", texts_of(figure))
        with self.assertRaisesRegex(DataError, "the table has no places"):
            dispersion.draw_places(dataclasses.replace(result, tables={}), DispersionChartSettings())
        rows = [(f"A{n}", "A", f"the hut {'ice ' * 9 if n == 0 else ''}snow") for n in range(9)]
        even = dispersion_of_terms(counts_of(rows))
        drawn = dispersion.draw_evenness(
            result_of("dispersion", even, {}, counts_of(rows).sizes), DispersionChartSettings()
        )
        self.assertEqual([text.get_text() for text in drawn.axes[0].texts], ["ice"])

    def test_the_word_tree_never_writes_over_itself(self):
        chance = np.random.default_rng(3)
        words = [f"word{n}" for n in range(6)]
        texts = [" ".join(["hut", *chance.choice(words, 5)]) + "." for _ in range(300)]
        corpus = corpus_of([(str(n), "g", text) for n, text in enumerate(texts)], ordered=True)
        nodes = {"hut": find_expression(corpus, expression_from("hut"), NamedWords(corpus))}
        for depth, leaves in ((1, 6), (2, 36), (4, 90)):
            frame = word_tree_core.word_tree(corpus, nodes, WordTreeSettings(depth=depth, min_places=1), pooled=True)
            figure = word_tree.draw(result_of("wordtree", frame, {}, (GroupSize("g", 300, 1800),)), ChartSettings())
            texts = figure.axes[0].texts
            self.assertLessEqual(len(texts), 2.2 * leaves)
            boxes = [text.get_window_extent() for text in texts]
            self.assertFalse(any(one.overlaps(two) for one, two in itertools.combinations(boxes, 2)), depth)
            self.assertTrue(all(box.x1 <= figure.bbox.x1 and box.x0 >= 0 for box in boxes))
            said = " ".join(" ".join(text.get_text() for text in figure.texts).split())
            self.assertEqual("branches are left out" in said, depth == 4)

    def test_collocates_are_marked_by_their_side(self):
        texts = [
            (str(n), "g", "warm stove smokes and the cat sleeps" if n % 2 else "the stove smokes") for n in range(8)
        ]
        corpus = corpus_of(texts, ordered=True)
        counts, term_map = counts_of(texts), map_terms(corpus)
        nodes = {"stove": find_expression(corpus, expression_from("stove"), NamedWords(corpus))}
        tables = [
            collocates_core.collocates(
                corpus, term_map, counts, nodes, CollocatesSettings(by_side=by_side), every=True
            )
            for by_side in (False, True)
        ]
        result = result_of("collocates", tables[0], {}, counts.sizes, {"span": "5,5"}).with_table("sides", tables[1])
        axes = collocates.draw(result, ChartSettings()).axes[0]
        marks = [line.get_marker() for line in axes.lines]
        shown = dict(zip([label.get_text() for label in axes.get_yticklabels()], marks, strict=True))
        self.assertEqual((shown["warm"], shown["smokes"], shown["the"]), ("<", ">", "o"))

    def network(self, terms: int, links: int, groups: tuple[str, ...] = ("all",), seed: int = 3) -> Result:
        """A network of random units, in which two terms always stand together."""
        chance = np.random.default_rng(seed)
        units = chance.random((400, terms)) < chance.uniform(0.02, 0.12, terms)
        units[:, 1] = units[:, 0]
        units[:, -1] = False
        units[0, -1] = True
        names = np.array([f"term{number}{'x' * int(chance.integers(0, 9))}" for number in range(terms)], dtype=object)
        occurrences = Occurrences(names, SparseMatrix.of_dense(units.astype(np.int32)), np.full(400, 50))
        number = np.arange(400) % len(groups)
        found = networks(
            occurrences, {group: number == at for at, group in enumerate(groups)}, NetworkSettings(most_links=links)
        )
        sizes = tuple(GroupSize(group, 400 // len(groups), 20_000) for group in groups)
        result = result_of("network", found.links, {}, sizes, {"most_links": links}).with_table(
            "nodes", as_table(found.nodes)
        )
        return result.with_table("cut", Table({"group": list(found.cut), "links": list(found.cut.values())}))

    def test_the_map_of_a_network(self):
        for terms, links, groups in ((60, 120, ("all",)), (150, 300, ("all",)), (40, 60, ("a", "b", "c"))):
            result = self.network(terms, links, groups)
            figure = network.draw_map(result, NetworkChartSettings())
            nodes = result.tables["nodes"].frame
            places = []
            for group, axes in zip(groups, figure.axes, strict=True):
                with self.subTest(terms, group=group):
                    own = nodes[(nodes["group"] == group) & (nodes["degree"] > 0)]
                    self.assertEqual(sorted(text.get_text() for text in axes.texts), sorted(own["term"]))
                    self.assertEqual(len(axes.collections), (result.frame["group"] == group).sum())
                    names = [text.get_window_extent() for text in axes.texts]
                    marks = [axes.transData.transform(line.get_xydata()[0]) for line in axes.lines]
                    self.assertFalse(any(one.overlaps(two) for one, two in itertools.combinations(names, 2)))
                    self.assertFalse(any(box.contains(*mark) for box in names for mark in marks))
                    here = {text.get_text(): text.get_position() for text in axes.texts}
                    places.append(here)
                    # as large as they have units, up to what colour and form leave
                    sizes = dict(zip(own["term"], [line.get_markersize() for line in axes.lines], strict=True))
                    looks = {line.get_marker() for line in axes.lines}
                    self.assertEqual(len(looks), min(own["community"].max(), 8))
                    if len(groups) == 1:
                        order = own.sort_values("docs")["term"].map(sizes)
                        self.assertTrue(order.is_monotonic_increasing)
                        pair = own["term"].isin([name for name in own["term"] if name.startswith(("term0", "term1"))])
                        twins = own[pair & own["term"].str.fullmatch("term[01]x*")]["term"].tolist()
                        away = np.hypot(*np.subtract(here[twins[0]], here[twins[1]]))
                        every = [np.hypot(*np.subtract(a, b)) for a, b in itertools.combinations(here.values(), 2)]
                        self.assertLess(away, np.quantile(every, 0.05), "what is always together stands together")
            for one, other in itertools.combinations(places, 2):
                self.assertTrue(all(one[term] == other[term] for term in one.keys() & other.keys()))
            said = " ".join(" ".join(text.get_text() for text in figure.texts).split())
            self.assertIn(f"{(nodes['degree'] == 0).sum()} of {len(nodes)} terms, without a link", said)
            self.assertIn(f"{result.tables['cut'].frame['links'].sum():,} weaker links are left out", said)
        with self.assertRaisesRegex(DataError, "needs the communities"):
            network.draw_map(dataclasses.replace(result, tables={}), NetworkChartSettings())

    def test_links_and_words_used_alike_as_bars(self):
        result = self.network(30, 50, ("a", "b"))
        figure = network.draw_links(result, ChartSettings(chart_top=5))
        for group, axes in zip(("a", "b"), figure.axes, strict=True):
            rows = result.frame[result.frame["group"] == group].head(5)
            np.testing.assert_allclose([bar.get_width() for bar in axes.patches], rows["association"])
            labels = [label.get_text() for label in axes.get_yticklabels()]
            self.assertEqual(
                labels, [f"{one} – {other}" for one, other in zip(rows["term_a"], rows["term_b"], strict=True)]
            )
            self.assertEqual(axes.get_title(), group)
        frame = pd.DataFrame(
            {
                "group": "all",
                "node": ["n", "n", "m"],
                "term": list("xyz"),
                "similarity": [0.5, 0.2, 0.9],
                "shared_contexts": [3, 2, 1],
            }
        )
        figure = alike.draw_alike(result_of("alike", frame, {}, (GroupSize("g", 2, 9),)), ChartSettings())
        self.assertEqual([axes.get_title() for axes in figure.axes], ["n", "m"])
        self.assertEqual([[bar.get_width() for bar in axes.patches] for axes in figure.axes], [[0.5, 0.2], [0.9]])  # fmt: skip

    def test_a_group_looks_the_same_in_every_figure_and_unlike_all_others(self):
        look = GroupLook([GroupSize(f"g{n}", 1, 1) for n in range(64)])
        looks = {(look.colour(f"g{n}"), look.mark(f"g{n}")) for n in range(64)}
        self.assertEqual(len(looks), 64)
        result = self.result("keyness", against="pairs")
        colours = {
            (text.get_text().strip("◂▸ "), text.get_color())
            for axes in keyness.draw(result, ChartSettings()).axes
            for text in axes.texts[:2]
        }
        self.assertEqual(len(colours), 3)

    def test_labels_are_never_read_as_formulas(self):
        rows = [("1", "$a_1$ & co", "ice snow snow"), ("2", "b^2$", "snow boat")]
        figure = keyness.draw(self.result("keyness", rows), ChartSettings())
        self.assertIn(r"\$a_1\$ & co ▸", texts_of(figure))
        figure.canvas.draw()

    def test_bytes_of_each_format_and_signs_without_a_font(self):
        result = self.result("keyness")
        figures = {"intervals": keyness.draw}
        for ending, start in ((".png", b"\x89PNG"), (".svg", b"<?xml"), (".pdf", b"%PDF")):
            notes: list[str] = []
            self.assertTrue(chart_bytes(result, ChartSettings(chart=f"x{ending}"), figures, notes).startswith(start))
            self.assertEqual(notes, [])
        rows = [("1", "a", "\U00016f00 ice"), ("2", "b", "ice")]
        chart_bytes(self.result("keyness", rows), ChartSettings(chart="x.png"), figures, notes)
        self.assertRegex(notes[0], "1 characters of the figure are in no installed font")

    def test_nothing_to_draw(self):
        result = self.result("keyness")
        empty = result_of("keyness", result.table.first(0), result.columns, result.groups)
        with self.assertRaisesRegex(DataError, "nothing to draw"):
            chart_bytes(empty, ChartSettings(chart="x.png"), {"intervals": keyness.draw}, [])
        for settings, figures, message in (
            (ChartSettings(), {}, "no chart of keyness"),
            (KeynessChartSettings(chart_kind="ranks"), {"intervals": keyness.draw}, "ranks: there is no such figure"),
        ):
            with self.assertRaisesRegex(DataError, message):
                chart_bytes(result, settings, figures, [])
        self.assertEqual(sizes_line([GroupSize("a", 0, 0)]), "Corpus sizes unknown: the table has no companion.")


if __name__ == "__main__":
    unittest.main()
