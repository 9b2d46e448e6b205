"""Networks and words used alike, against plain rules and hand calculations."""

import itertools
import math
import random
import re
import tempfile
import unittest
from collections import Counter, defaultdict
from collections.abc import Callable
from pathlib import Path
from typing import Any

import networkx as nx
import numpy as np
import pandas as pd

from millstone.analyses.alike.compute import alike
from millstone.analyses.alike.settings import AlikeSettings
from millstone.analyses.alike.space import Space
from millstone.analyses.network.boxes import spread_out
from millstone.analyses.network.compute import chosen_terms, networks
from millstone.analyses.network.graph import adjusted_rand, graph_file, map_places
from millstone.analyses.network.measures import MEASURES, TermLinks
from millstone.analyses.network.occurrences import Occurrences, Positions, near
from millstone.analyses.network.settings import NetworkSettings
from millstone.core.matches.expressions import expression_from
from millstone.core.matches.matches import NamedWords, find_expression
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.terms.term_map import map_terms
from tests.core.builders import corpus_of, framed

alike, graph_file = map(framed, (alike, graph_file))

TERMS = np.array(list("abcde"), dtype=object)
BY_HAND = {
    "dice": lambda a, b, c, of: 2 * c / (a + b),
    "jaccard": lambda a, b, c, of: c / (a + b - c),
    "cosine": lambda a, b, c, of: c / math.sqrt(a * b),
    "npmi": lambda a, b, c, of: 1.0 if c == of else math.log(c * of / (a * b)) / -math.log(c / of),
}


def occurrences_in(units: list[list[str]]) -> Occurrences:
    """Units of words in a row, leaving aside those that are not terms."""
    known, starts = list(TERMS), np.cumsum([0, *map(len, units)])
    words = [
        (starts[unit] + at, known.index(word), unit)
        for unit, row in enumerate(units)
        for at, word in enumerate(row)
        if word in known
    ]
    at, term, unit = (np.array(column, dtype=np.int64) for column in zip(*words, strict=True))
    counts = SparseMatrix.of_cells(np.ones(len(at), dtype=np.int32), unit, term, (len(units), len(known)))
    return Occurrences(TERMS, counts, np.diff(starts), Positions(at, at, term, unit))  # fmt: skip


def _measured(*links: Any, **settings: int) -> dict[str, np.ndarray]:
    """Measure -> its value for each term of a network."""
    linked = TermLinks(*links, **settings)
    return {name: one.of(linked) for name, one in MEASURES.items()}


class Networks(unittest.TestCase):
    def test_links_against_the_plain_rule(self):
        chance = random.Random(3)
        for trial in range(80):
            units = [chance.choices("abcdexyz", k=chance.randint(1, 9)) for _ in range(chance.randint(2, 7))]
            units[0] += ["a", "b"]
            association, span = chance.choice(list(BY_HAND)), chance.choice((0, 1, 3))
            settings = NetworkSettings(association=association, span=span, min_together=1, most_links=0)
            found = networks(occurrences_in(units), {"all": np.ones(len(units), dtype=bool)}, settings)
            expected = {}
            for a, b in itertools.combinations("abcde", 2):
                if span:
                    each = [sum(row.count(one) for row in units) for one in (a, b)]
                    both = min(
                        sum(
                            other in row[max(at - span, 0) : at + span + 1]
                            for row in units
                            for at, word in enumerate(row)
                            if word == one
                        )
                        for one, other in ((a, b), (b, a))
                    )
                    of = sum(map(len, units))
                else:
                    each, of = [sum(one in row for row in units) for one in (a, b)], len(units)
                    both = sum(a in row and b in row for row in units)
                if both and (value := BY_HAND[association](*each, both, of)) > 0:
                    expected[a, b] = (*each, both, value)
            got = {
                (row.term_a, row.term_b): (row.docs_a, row.docs_b, row.together, row.association)
                for row in found.links.to_frame().itertuples()
            }
            with self.subTest(trial, units=units, association=association, span=span):
                self.assertEqual(got.keys(), expected.keys())
                for pair, values in expected.items():
                    np.testing.assert_allclose(got[pair], values)
                ordered = found.links["association"].round(9).tolist()
                self.assertEqual(ordered, sorted(ordered, reverse=True))
                freq = dict(zip(found.nodes["term"], found.nodes["freq"], strict=True))
                self.assertEqual(freq, {term: sum(row.count(term) for row in units) for term in TERMS})  # fmt: skip

    def test_places_of_several_tokens_and_within_each_other(self):
        chance = random.Random(5)
        for trial in range(60):
            tokens, span = 20, chance.randint(1, 4)
            rows = sorted(
                (first, first + chance.randint(0, 3), chance.randrange(5), int(first >= 10))
                for first in chance.choices(range(17), k=chance.randint(2, 12))
                if first < 7 or first >= 10
            )
            if not rows:
                continue
            first, last, term, unit = (np.array(column, dtype=np.int64) for column in zip(*rows, strict=True))
            counts = SparseMatrix.of_cells(np.ones(len(rows), dtype=np.int32), unit, term, (2, 5))
            together = near(Occurrences(TERMS, counts, np.array([10, 10]), Positions(first, last, term, unit)), span)
            expected = {}
            for a, b in itertools.combinations(range(5), 2):
                both = min(
                    sum(
                        any(
                            other[2] == two
                            and other[3] == here[3]
                            and max(other[0] - here[1], here[0] - other[1]) <= span
                            for other in rows
                        )
                        for here in rows
                        if here[2] == one
                    )
                    for one, two in ((a, b), (b, a))
                )
                if both:
                    expected[a, b] = both
            with self.subTest(trial, rows=rows, span=span):
                pairs = zip(together.a.tolist(), together.b.tolist(), strict=True)
                self.assertEqual(dict(zip(pairs, together.both.tolist(), strict=True)), expected)
                self.assertEqual(
                    (together.of, together.each.tolist()), (tokens, np.bincount(term, minlength=5).tolist())
                )

    def test_categories_are_not_linked_with_their_own_parts(self):
        units = np.array([[1, 1, 1], [1, 1, 0], [1, 0, 1]], dtype=np.int32)
        names = np.array(["food", "food/sweet", "foods"], dtype=object)
        for are_categories, pairs in ((False, 3), (True, 2)):
            occurrences = Occurrences(
                names, SparseMatrix.of_dense(units), np.full(3, 9), are_categories=are_categories
            )
            links = networks(occurrences, {"all": np.ones(3, dtype=bool)}, NetworkSettings(min_together=1)).links
            self.assertEqual(len(links), pairs)
            nested = (links["term_a"] == "food") & (links["term_b"] == "food/sweet")
            self.assertEqual(bool(nested.any()), not are_categories)

    def test_which_terms_and_links_are_kept(self):
        docs = np.array([5, 9, 2, 9, 0])
        for settings, listed, expected in (
            ({"terms": 2}, False, [1, 3]),
            ({"min_docs": 5}, False, [0, 1, 3]),
            # two terms are as common as each other: both or none
            ({"terms": 1, "min_docs": 5}, True, [1, 3]),
            ({"terms": 3}, False, [0, 1, 3]),
            ({}, True, [0, 1, 2, 3]),
        ):
            self.assertEqual(chosen_terms(docs, NetworkSettings(**settings), listed).tolist(), expected)
        tied = np.array([9, 8, 3, 3, 3, 3])
        for asked, kept in ((3, 2), (4, 2), (5, 6), (6, 6)):
            self.assertEqual(len(chosen_terms(tied, NetworkSettings(terms=asked), False)), kept, asked)
        units = [list("ab")] * 4 + [list("abc")] * 2 + [list("cd")] * 3 + [list("e")]
        everything = {"all": np.ones(len(units), dtype=bool)}
        for settings, pairs, cut in (
            ({}, ["ab", "cd", "ac", "bc"], 0),
            ({"most_links": 2}, ["ab", "cd"], 2),
            ({"min_together": 3}, ["ab", "cd"], 0),
            ({"min_association": 0.5}, ["ab", "cd"], 0),
        ):
            found = networks(occurrences_in(units), everything, NetworkSettings(**settings))
            self.assertEqual((found.links["term_a"] + found.links["term_b"]).tolist(), pairs)
            self.assertEqual(found.cut["all"], cut)
        most = networks(occurrences_in(units), everything, NetworkSettings(most_links=3), "together").links
        self.assertEqual((most["term_a"] + most["term_b"]).tolist(), ["ab", "cd", "ac"])
        most = networks(
            occurrences_in(units[:6] + units[8:]),
            everything | {"all": np.ones(8, dtype=bool)},
            NetworkSettings(min_together=1, most_links=2),
            "together",
        ).links
        self.assertEqual(
            (most["together"].tolist(), most["term_a"][1]), ([6, 2], "a"), "a strong rare pair comes after"
        )
        lone = found.nodes.to_frame().set_index("term").loc["e"]
        self.assertEqual(lone[["degree", "strength", "betweenness", "community"]].tolist(), [0, 0, 0, 0])
        by_group = networks(occurrences_in(units), {"x": np.arange(10) < 6, "y": np.arange(10) >= 6})
        together = by_group.links.to_frame().set_index(["group", "term_a", "term_b"])["together"]
        self.assertEqual(together.to_dict(), {("x", "a", "b"): 6, ("x", "a", "c"): 2, ("x", "b", "c"): 2, ("y", "c", "d"): 3})  # fmt: skip

    def test_communities_by_hand(self):
        units = [list("abc")] * 5 + [list("de")] * 4 + [list("cd")] * 2
        found = networks(occurrences_in(units), {"all": np.ones(len(units), dtype=bool)})
        (one, two), nodes = found.communities.rows(), found.nodes.to_frame().set_index("term")
        self.assertEqual((one["terms"], two["terms"]), ("a; b; c", "d; e"))
        self.assertEqual(
            [(row["size"], row["links"], row["stability"]) for row in (one, two)], [(3, 3, 1), (2, 1, 1)]
        )
        # of the seven ends of links of a, b and c six are among themselves, of the three of d and e two
        np.testing.assert_allclose([one["within_percent"], two["within_percent"]], [600 / 7, 200 / 3])
        self.assertEqual(nodes.loc[list("abcde"), "freq_rank"].tolist(), [3, 3, 1, 2, 5])
        self.assertEqual(nodes.loc[list("abcde"), "degree_rank"].tolist(), [2, 2, 1, 2, 5])


class Graphs(unittest.TestCase):
    def test_a_chain_of_seven_by_hand(self):
        a = np.arange(6)
        found = _measured(7, a, a + 1, np.full(6, 0.5), starts=1, seed=1)
        # of the 15 pairs of others, those with one on each side
        np.testing.assert_allclose(found["betweenness"], [at * (6 - at) / 15 for at in range(7)])
        self.assertEqual(found["degree"].tolist(), [1, 2, 2, 2, 2, 2, 1])
        self.assertEqual(found["strength"].tolist(), [0.5, 1, 1, 1, 1, 1, 0.5])
        # a way over two strong links is shorter than one weak link
        short = _measured(3, np.array([0, 0, 1]), np.array([1, 2, 2]), np.array([0.9, 0.2, 0.9]), starts=1, seed=1)
        self.assertEqual(short["betweenness"].tolist(), [0, 1, 0])

    def test_communities_are_numbered_by_size_and_the_same_each_time(self):
        three, four = (list(itertools.combinations(some, 2)) for some in ((0, 1, 2), (3, 4, 5, 6)))
        a, b = np.array([*three, *four, (2, 3)]).T
        weight = np.array([0.9] * (len(three) + len(four)) + [0.05])
        for seed in (1, 2, 7):
            linked = TermLinks(8, a, b, weight, 5, seed)
            columns, divided = _measured(8, a, b, weight, 5, seed), linked.communities
            self.assertEqual(columns["community"].tolist(), [2, 2, 2, 1, 1, 1, 1, 0])
            self.assertEqual((divided.agreement, divided.stability.tolist()), (1, [1, 1]))
            # within less what chance gives, by the shares of the ends of links
            total, ends = weight.sum(), np.array([2 * 0.9 * 6 + 0.05, 2 * 0.9 * 3 + 0.05])
            within = (total - 0.05) / total - ((ends / (2 * total)) ** 2).sum()
            self.assertAlmostEqual(divided.modularity, within, 9)

    def test_the_best_of_many_starts_and_how_far_the_others_agree(self):
        chance = np.random.default_rng(4)
        a, b = np.array([pair for pair in itertools.combinations(range(40), 2) if chance.random() < 0.3]).T
        weight = chance.random(len(a)) + 0.1
        one, many = (TermLinks(40, a, b, weight, starts, 1).communities for starts in (1, 30))
        self.assertTrue(math.isnan(one.agreement))
        self.assertGreaterEqual(many.modularity, one.modularity)
        self.assertLess(many.agreement, 0.6, "a graph at random has no communities")
        self.assertLess(many.stability.min(), 0.7)
        self.assertTrue(np.isnan(one.stability).all())
        labels = [chance.integers(0, 4, 60) for _ in range(2)]
        pairs = list(itertools.combinations(range(60), 2))
        same = [np.array([labels[side][x] == labels[side][y] for x, y in pairs]) for side in range(2)]
        expected = same[0].sum() * same[1].sum() / len(pairs)
        most = (same[0].sum() + same[1].sum()) / 2
        self.assertAlmostEqual(adjusted_rand(*labels), ((same[0] & same[1]).sum() - expected) / (most - expected), 12)

    def test_files_hold_everything(self):
        links = pd.DataFrame(
            {"group": "all", "term_a": ['a "b"'], "term_b": ["ü\\"], "together": [3], "association": [0.25]}
        )
        nodes = pd.DataFrame(
            {"group": "all", "term": ['a "b"', "ü\\", "lone"], "docs": [4, 5, 6], "community": [1, 1, 0]}
        )
        with tempfile.TemporaryDirectory() as folder:
            for ending, read in ((".graphml", nx.read_graphml), (".gexf", nx.read_gexf)):
                content = graph_file(links, nodes, ending)
                self.assertEqual(content, graph_file(links, nodes, ending))
                path = Path(folder, f"g{ending}")
                path.write_bytes(content)
                graph = read(path)
                self.assertEqual(set(graph), {'a "b"', "ü\\", "lone"})
                self.assertEqual(graph.nodes["lone"]["docs"], 6)
                edge = graph.edges['a "b"', "ü\\"]
                self.assertEqual((edge["together"], edge["weight"], edge["association"]), (3, 0.25, 0.25))
        self.assertEqual(graph_file(links, nodes, ".csv").decode(), 'source,target,weight\n"a ""b""",ü\\,0.25\n')
        self.assertIn(b"<creator>millstone</creator>", graph_file(links, nodes, ".gexf"))
        self.assertIn(b">millstone</data>", graph_file(links, nodes, ".graphml"))
        text = graph_file(links, nodes, ".dot").decode()
        colours = re.findall('fillcolor="(#......)"', text)
        self.assertEqual((colours[0] == colours[1], colours[2]), (True, "#ffffff"))
        self.assertIn('penwidth="4.0"', text)
        self.assertIn('"a \\"b\\"" -- "ü\\\\" [weight="0.25"', text)
        both = pd.concat([nodes, nodes.assign(group="x")])
        self.assertIn('"x: lone" [label="lone", subcorpus="x"', graph_file(links, both, ".dot").decode())  # fmt: skip

    def test_boxes_part_and_strong_pairs_stay_together(self):
        chance = np.random.default_rng(4)
        for boxes in (2, 40, 120):
            sizes = chance.uniform(0.1, 0.7, (boxes, 2))
            found = spread_out(chance.uniform(3, 5, (boxes, 2)), sizes, (12, 9))
            apart, reach = (np.abs(found[:, None] - found[None]), (sizes[:, None] + sizes[None]) / 2)
            overlap = ((reach - apart) > 1e-6).all(axis=2) & ~np.eye(boxes, dtype=bool)
            self.assertFalse(overlap.any())
            self.assertTrue(
                (found >= sizes / 2 - 1e-9).all() and (found <= np.array([12, 9]) - sizes / 2 + 1e-9).all()
            )
        self.assertIsNone(spread_out(np.zeros((9, 2)), np.ones((9, 2)), (3, 2.9)))
        a, b = np.array(list(itertools.combinations(range(12), 2))).T
        weight = np.where((a == 3) & (b == 8), 1.0, chance.uniform(0.02, 0.3, len(a)))
        places = map_places(12, a, b, weight)
        np.testing.assert_array_equal(places, map_places(12, a, b, weight))
        away = np.linalg.norm(places[a] - places[b], axis=1)
        self.assertEqual(away.argmin(), np.flatnonzero(weight == 1.0)[0])


class Alike(unittest.TestCase):
    def plain(
        self, sentences: list[list[str]], node: Callable[[list[str], int], int]
    ) -> dict[str, tuple[float, int]]:
        """Similarity and number of shared contexts of each word; `node` says how long the place at a position is."""
        times: dict[object, Counter] = defaultdict(Counter)
        for words in sentences:
            for at, word in enumerate(words):
                for name, size in ((word, 1), (None, node(words, at))):
                    for distance in (-2, -1, 1, 2) if size else ():
                        where = at + distance + (size - 1) * (distance > 0)
                        if 0 <= where < len(words):
                            times[name][distance, words[where]] += 1
        of_node = times.pop(None, Counter())
        of_context = sum(times.values(), Counter())
        total = sum(of_context.values())
        raised = {one: number**0.75 for one, number in of_context.items()}
        scale = total / sum(raised.values())

        def weights(counts: Counter) -> dict:
            found = {
                one: math.log(number * total / (counts.total() * raised[one] * scale))
                for one, number in counts.items()
            }
            return {one: value for one, value in found.items() if value > 0}

        own = weights(of_node)
        found = {}
        for word, counts in times.items():
            other = weights(counts)
            shared = own.keys() & other.keys()
            length = math.sqrt(sum(v**2 for v in own.values()) * sum(v**2 for v in other.values()))
            found[word] = (sum(own[one] * other[one] for one in shared) / length if length else 0.0, len(shared))
        return found

    def test_against_the_plain_rule(self):
        chance = random.Random(8)
        for trial in range(40):
            sentences = [
                chance.choices(("ice", "snow", "hut", "path", "the", "of"), k=chance.randint(1, 7)) for _ in range(12)
            ]
            sentences += [["ice", "of"], ["the", "ice"]] * 3
            text = " ".join(" ".join(words).capitalize() + "." for words in sentences)
            corpus = corpus_of([("1", "a", text)], ordered=True)
            term_map = map_terms(corpus)
            expression, size = (
                ("ice", lambda words, at: int(words[at] == "ice")),
                ("ice, snow", lambda words, at: int(words[at] in ("ice", "snow"))),
                ("the ice", lambda words, at: 2 * (words[at : at + 2] == ["the", "ice"])),
            )[trial % 3]
            nodes = {"n": find_expression(corpus, expression_from(expression), NamedWords(corpus))}
            everything = {"all": np.ones(1, dtype=bool)}
            found = alike(corpus, term_map, nodes, everything, AlikeSettings(min_freq=1))
            wanted = {word: pair for word, pair in self.plain(sentences, size).items() if pair[0] > 0}
            for word in expression.split(", ") if trial % 3 < 2 else ():
                wanted.pop(word)
            got = {row.term: (row.similarity, row.shared_contexts) for row in found.itertuples()}
            with self.subTest(trial, text=text, expression=expression):
                self.assertEqual(got.keys(), wanted.keys())
                for word, pair in wanted.items():
                    np.testing.assert_allclose(got[word], pair, atol=1e-12)
                self.assertEqual(found["rank"].tolist(), list(range(1, len(found) + 1)))
            if trial % 3 == 0:
                space = Space(corpus, term_map, np.ones(1, dtype=bool))
                similarity, _ = space.similarities(space.weights(space.contexts_of(nodes["n"])))
                self.assertAlmostEqual(similarity[list(space.words).index("ice")], 1)  # fmt: skip

    def test_contexts_are_readable_and_rare_nodes_have_no_rows(self):
        text = "At the end of the day. At the end of the way. At the foot of the hill. At the foot of the wall. One more hut. Two huts."
        corpus = corpus_of([("1", "a", text), ("2", "b", "the end")], ordered=True)
        nodes = {one: find_expression(corpus, expression_from(one), NamedWords(corpus)) for one in ("end", "hut")}
        groups = {"a": np.array([True, False]), "b": np.array([False, True])}
        found = alike(corpus, map_terms(corpus), nodes, groups, AlikeSettings(min_freq=2))
        self.assertEqual(set(found["node"] + found["group"]), {"enda"})
        self.assertEqual((found["term"].iloc[0], found["contexts"].iloc[0]), ("foot", "_ of the; at the _"))


if __name__ == "__main__":
    unittest.main()
