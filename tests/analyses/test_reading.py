"""Expressions and what stands near them, token by token beside the fast way; dispersion by hand."""

import itertools
import math
import random
import re
import sys
import unicodedata
import unittest
from collections import Counter
from dataclasses import replace

import numpy as np
import pandas as pd
from scipy import stats

from millstone.analyses.collocates.compute import collocates
from millstone.analyses.collocates.settings import CollocatesSettings
from millstone.analyses.concordance.joined_texts import joined
from millstone.analyses.concordance.lines import cut_out
from millstone.analyses.dispersion.compute import dispersion_of_nodes, dispersion_of_terms
from millstone.analyses.wordtree.compute import word_tree
from millstone.analyses.wordtree.settings import WordTreeSettings
from millstone.core.base.errors import UsageError
from millstone.core.base.wildcards import wildcard_test
from millstone.core.corpus.corpus import Corpus, Document, Token
from millstone.core.matches.contexts import beside
from millstone.core.matches.expressions import expression_from
from millstone.core.matches.matches import Matches, NamedWords, find_expression, has_near, reach
from millstone.core.matches.term_matches import CountedTokens
from millstone.core.matches.token_offsets import token_spans, with_single_blanks
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.scan.scan import scan
from millstone.core.settings.preparation import Preparation
from millstone.core.statistics.dispersion import juilland_d
from millstone.core.terms.counts import count
from millstone.core.terms.term_map import map_terms
from millstone.core.terms.word_lists import WordList, WordLists
from millstone.core.tokenise.words import normalise
from tests.core.builders import MINI, corpus_of, framed

collocates, dispersion_of_nodes, dispersion_of_terms, word_tree = map(
    framed, (collocates, dispersion_of_nodes, dispersion_of_terms, word_tree)
)

WORDS = ["ice", "Ice", "snow", "snows", "hut", "huts", "a1", "the"]
ROWS = ["ice", "snow*", "hut ice", "the * snow", "h?t", "ice ice", "snow hut the", "*s", "a? the", "frost"]
NAMES = {"snows": "snow", "huts": "hut"}


def plain_places(sentences: list[list[str]], rows: list[list[str]], gap: int, case: bool) -> list[tuple[int, int]]:
    """The rule as it is written: every chain of words, then most words, fewest between, leftmost."""

    def fold(word: str) -> str:
        return word if case else word.lower()

    def fits(pattern: str, word: str) -> bool:
        return any(wildcard_test(fold(pattern))(fold(one)) for one in (word, NAMES.get(word.lower(), word)))

    found = set()
    first = 0
    for sentence in sentences:
        for row in rows:
            for chain in itertools.combinations(range(len(sentence)), len(row)):
                steps = [after - before - 1 for before, after in itertools.pairwise(chain)]
                if all(step <= gap for step in steps) and all(map(fits, row, (sentence[at] for at in chain))):
                    found.add((-len(row), sum(steps), first + chain[0], chain[-1] - chain[0] + 1))
        first += len(sentence)
    taken: set[int] = set()
    places = []
    for _, _, start, length in sorted(found):
        tokens = set(range(start, start + length))
        if not tokens & taken:
            taken |= tokens
            places.append((start, length))
    return sorted(places)


def corpus_from(documents: list[list[list[str]]]) -> Corpus:
    texts = [". ".join(" ".join(sentence) for sentence in document) + "." for document in documents]
    return corpus_of([(str(n), "ab"[n % 2], text) for n, text in enumerate(texts)], ordered=True)


class Expressions(unittest.TestCase):
    def test_against_the_plain_rule(self):
        chance = random.Random(3)
        for trial in range(500):
            documents = [
                [chance.choices(WORDS, k=chance.randint(1, 7)) for _ in range(chance.randint(1, 3))]
                for _ in range(chance.randint(1, 3))
            ]
            corpus = corpus_from(documents)
            typed = ", ".join(chance.sample(ROWS, chance.randint(1, 3)))
            gap, case = chance.choice((0, 0, 1, 2)), chance.random() < 0.3
            names = [NAMES.get(form.lower(), form) for form in corpus.forms]
            expression = expression_from(typed)
            found = find_expression(corpus, expression, NamedWords(corpus, names, case), gap)
            wanted = plain_places([one for d in documents for one in d], list(map(list, expression.rows)), gap, case)
            got = list(zip(found.start.tolist(), found.length.tolist(), strict=True))
            self.assertEqual(got, wanted, (trial, typed, gap, case, documents))

    def test_how_they_are_typed(self):
        for typed, name, rows in (
            ("hut, huts", "hut, huts", (("hut",), ("huts",))),
            ("roof = mountain  hut*", "roof", (("mountain", "hut*"),)),
            ("1,000 steps", "1,000 steps", (("1,000", "steps"),)),
            ("and/or,", "and/or,", (("and", "or"),)),
            ("don’t", "don’t", (("don't",),)),
        ):
            with self.subTest(typed):
                found = expression_from(typed)
                self.assertEqual((found.name, found.rows), (name, rows))
        for typed, message in (
            ("", "--find: the expression is empty"),
            (" , ", "the expression is empty"),
            ("x=", "the expression is empty"),
            ("=x", "no name before the ="),
            ("*", "only wildcards"),
            ("hut, ? *", "only wildcards"),
            ("!hut", "no exceptions"),
            ("^hut", r"\^ has no meaning"),
            ("hut|huts", "not a regular expression"),
            ("...", "no word in it"),
        ):
            with self.subTest(typed), self.assertRaisesRegex(UsageError, message):
                expression_from(typed)

    def test_merged_names_of_several_words(self):
        corpus = corpus_of([("1", "a", "the cabin and the hut")], ordered=True)
        names = ["mountain hut" if form in ("cabin", "hut") else form for form in corpus.forms]
        found = find_expression(corpus, expression_from("mountain hut"), NamedWords(corpus, names))
        self.assertEqual(found.start.tolist(), [1, 4])


class Company(unittest.TestCase):
    def counted(self, corpus: Corpus, *stop: str):
        term_map = map_terms(corpus, Preparation(), WordLists(stop=[WordList("s", stop)] if stop else []))
        return term_map, count(corpus, term_map)

    def test_against_the_plain_rule(self):
        chance = random.Random(9)
        for trial in range(60):
            documents = [
                [chance.choices(WORDS, k=chance.randint(1, 6)) for _ in range(chance.randint(1, 3))] for _ in range(4)
            ]
            corpus = corpus_from(documents)
            tokens = CountedTokens.all_of(corpus).with_phrases(
                ["hut the", "snow the snow"] if trial % 4 > 1 else [], "lower"
            )
            term_map, counts = self.counted(tokens.corpus, *(["the"] if trial % 2 else []))
            span, within = (chance.randint(0, 3), chance.randint(0, 3)), chance.choice(("document", "sentence"))
            places = find_expression(corpus, expression_from("ice, snow* hut"), NamedWords(corpus))
            settings = CollocatesSettings(
                span=span,
                within=within,
                min_together=1,
                by_side=trial % 3 == 0,
                measures=("delta_p_collocate_given_node",),
            )
            found = collocates(corpus, term_map, counts, {"n": places}, settings, tokens if trial % 4 > 1 else None)
            together: Counter[tuple[str, str, str]] = Counter()
            windows: Counter[tuple[str, str]] = Counter()
            _, starts, breaks = corpus.sequence
            ends = {"document": starts, "sentence": breaks}[within].tolist()
            near: set[tuple[int, str]] = set()
            for start, length in zip(places.start.tolist(), places.length.tolist(), strict=True):
                low = max(end for end in ends if end <= start)
                high = min(end for end in ends if end >= start + length)
                for at in range(max(start - span[0], low), min(start + length + span[1], high)):
                    if not start <= at < start + length:
                        near.add((at, ("left" if at < start else "right") if settings.by_side else "both"))
            group_of = ["ab"[number % 2] for number, size in enumerate(np.diff(starts)) for _ in range(size)]
            windows.update((group_of[at], side) for at, side in near)
            for first, after, number in zip(tokens.first, tokens.after, tokens.corpus.sequence[0], strict=True):
                form = tokens.corpus.forms[number].lower()
                for side in ("left", "right", "both") if trial % 2 == 0 or form != "the" else ():
                    together[group_of[first], form, side] += {(at, side) for at in range(first, after)} <= near
            together = +together
            few = replace(settings, repelled=True)
            fewer = collocates(corpus, term_map, counts, {"n": places}, few, tokens if trial % 4 > 1 else None)
            self.assertTrue((found["together"] > found["expected"]).all())
            self.assertTrue((fewer["together"] < fewer["expected"]).all())
            found = pd.concat([found, fewer])
            # neither more nor less often than expected
            even = {
                key for key in together if key not in {(r.group, r.collocate, r.side) for r in found.itertuples()}
            }
            for group, form, side in even:
                freq, size = counts.part((group,)).freq[list(counts.terms).index(form)], counts.part((group,)).tokens
                self.assertAlmostEqual(together[group, form, side], freq * windows[group, side] / size)
            got = {(r.group, r.collocate, r.side): r.together for r in found.itertuples()}
            self.assertEqual(
                got, {k: v for k, v in together.items() if k not in even}, (trial, documents, span, within)
            )
            for row in found.itertuples():
                size = counts.part((row.group,)).tokens
                window = windows[row.group, row.side]
                self.assertAlmostEqual(row.expected, row.freq * window / size)
                if window < size:
                    elsewhere = (row.freq - row.together) / (size - window)
                    self.assertAlmostEqual(row.delta_p_collocate_given_node, row.together / window - elsewhere)
                else:
                    self.assertTrue(math.isnan(row.delta_p_collocate_given_node) and row.ll == 0)

    def test_a_span_as_long_as_the_document_counts_every_other_word(self):
        corpus = corpus_of([("1", "a", "snow on the hut. Ice on the hut and snow.")], ordered=True)
        places = find_expression(corpus, expression_from("ice"), NamedWords(corpus))
        found = collocates(
            corpus, *self.counted(corpus), {"ice": places}, CollocatesSettings(span=(99, 99), min_together=1)
        )
        self.assertEqual(found["together"].tolist(), found["freq"].tolist())
        self.assertEqual(found["together"].sum(), 9, "all tokens but the node")
        self.assertTrue((found["together"] > found["expected"]).all())

    def test_measures_against_scipy_and_by_hand(self):
        chance = random.Random(12)
        documents = [[chance.choices(WORDS, k=9) for _ in range(3)] for _ in range(6)]
        corpus = corpus_from(documents)
        term_map, counts = self.counted(corpus)
        places = find_expression(corpus, expression_from("ice"), NamedWords(corpus))
        settings = CollocatesSettings(
            span=(2, 1), min_together=1, measures=("delta_p_collocate_given_node", "delta_p_node_given_collocate")
        )
        found = collocates(corpus, term_map, counts, {"ice": places}, settings)
        every = pd.concat(
            [found, collocates(corpus, term_map, counts, {"ice": places}, replace(settings, repelled=True))]
        )
        found = every
        self.assertGreater(len(found), 8)
        for row in found.itertuples():
            size = counts.part((row.group,)).tokens
            window = every.loc[every["group"] == row.group, "together"].sum()
            node = sum(form.lower() == "ice" for form in self.words_of(corpus, row.group))
            elsewhere = row.freq - row.together
            table = [[row.together, window - row.together], [elsewhere, size - window - elsewhere]]
            wanted = stats.chi2_contingency(table, correction=False, lambda_="log-likelihood").statistic
            self.assertAlmostEqual(abs(row.ll), wanted, places=9)
            self.assertAlmostEqual(row.mi, math.log2(row.together / row.expected))
            self.assertAlmostEqual(row.t_score, (row.together - row.expected) / math.sqrt(row.together))
            both = min(row.together, node, row.freq)
            self.assertAlmostEqual(row.log_dice, 14 + math.log2(2 * both / (node + row.freq)))
            not_near = (window - row.together) / (size - row.freq)
            self.assertAlmostEqual(row.delta_p_node_given_collocate, row.together / row.freq - not_near)

    def words_of(self, corpus: Corpus, group: str) -> list[str]:
        ids, starts, _ = corpus.sequence
        rows = np.flatnonzero(corpus.documents["group"] == group)
        return [corpus.forms[number] for row in rows for number in ids[starts[row] : starts[row + 1]].tolist()]

    def test_a_text_read_backwards_has_its_sides_swapped(self):
        chance = random.Random(5)
        documents = [[chance.choices(WORDS, k=12)] for _ in range(8)]
        backwards = [[sentence[::-1] for sentence in document] for document in documents]
        tables = []
        for texts, span in ((documents, (3, 1)), (backwards, (1, 3))):
            corpus = corpus_from(texts)
            places = find_expression(corpus, expression_from("snow*"), NamedWords(corpus))
            settings = CollocatesSettings(span=span, min_together=1, by_side=True)
            tables.append(collocates(corpus, *self.counted(corpus), {"snow": places}, settings))
        swapped = tables[1].assign(side=tables[1]["side"].map({"left": "right", "right": "left"}).astype(object))
        keys = ["group", "side", "collocate"]
        both = [one.sort_values(keys).reset_index(drop=True).drop(columns="note") for one in (tables[0], swapped)]
        pd.testing.assert_frame_equal(*both)

    def test_near_means_wholly_on_one_side(self):
        corpus = corpus_of([("1", "a", "ice snow hut snow ice the hut")], ordered=True)
        hut, ice = (
            find_expression(corpus, expression_from(one), NamedWords(corpus)) for one in ("hut", "ice snow, ice")
        )
        for span, wanted in (((2, 0), [True, True]), ((1, 1), [False, False]), ((0, 2), [True, False])):
            left, right = reach(corpus, hut, span)
            self.assertEqual(has_near(left, right, hut, ice).tolist(), wanted, span)


class Trees(unittest.TestCase):
    def test_forks_add_up_and_branches_are_what_the_places_say(self):
        chance = random.Random(4)
        for trial in range(60):
            documents = [
                [chance.choices(WORDS[:5], k=chance.randint(1, 8)) for _ in range(chance.randint(1, 5))]
                for _ in range(4)
            ]
            corpus = corpus_from(documents)
            places = find_expression(corpus, expression_from("ice"), NamedWords(corpus))
            side = chance.choice(("left", "right"))
            settings = WordTreeSettings(
                side=side, depth=chance.randint(1, 4), min_places=chance.randint(1, 3), branches=chance.randint(1, 4)
            )
            tree = word_tree(corpus, {"n": places}, settings, pooled=True)
            ids, _, breaks = corpus.sequence
            runs = []
            for start, end in zip(places.start.tolist(), places.end.tolist(), strict=True):
                at = int(np.searchsorted(breaks, start, "right"))
                beside = ids[int(breaks[at - 1]) : start][::-1] if side == "left" else ids[end : int(breaks[at])]
                runs.append([corpus.forms[number].lower() for number in beside.tolist()])
            for parent, rows in tree.groupby("parent", sort=False):
                path = parent.split()[::-1] if side == "left" else parent.split()
                through = [run for run in runs if run[: len(path)] == path]
                self.assertEqual(rows["places"].sum(), len(through), (trial, parent))
                for row in rows.itertuples():
                    words = row.branch.split()[::-1] if side == "left" else row.branch.split()
                    if row.branch == "(end)":
                        self.assertEqual(row.places, sum(len(run) == len(path) for run in through))
                    elif not row.branch.startswith("("):
                        own = [run for run in through if run[len(path) : len(path) + len(words)] == words]
                        self.assertEqual(row.places, len(own))
                        self.assertGreaterEqual(row.places, settings.min_places)
                        after = {tuple(run[len(path) + len(words) :][:1]) for run in own}
                        self.assertTrue(len(after) > 1 or after == {()}, "a level is a fork")


class Offsets(unittest.TestCase):
    SIGNS = [
        "ice",
        "snow,",
        "“don’t”",
        "e\u0301te\u0301",
        "of\ufb01ce",
        "soft\u00adhyphen",
        "\u00adlead",
        "a\u200db",
        "x😀y",
    ]
    SIGNS += [
        "na\ufe0fme",
        "한\u1100\u1161\u11a8국",
        "雪。山",
        "（雪）",
        "3.5km",
        "well\u2010kept",
        "...",
        "нова\u0306",
        "tab\tcell",
        "\u05e9\u05dc\u05d5\u05dd",
    ]

    def test_what_is_cut_out_of_the_text_is_the_token(self):
        chance = random.Random(8)
        for rule in ("words", "spaces", "characters", "pattern:[a-z]+|雪"):
            for trial in range(60):
                text = "".join(
                    chance.choice(self.SIGNS) + chance.choice((" ", "  ", "\r\n", "\n\n", "\u00a0")) for _ in range(9)
                )
                text = unicodedata.normalize("NFC", text) if trial % 2 else text
                document = Document("d", "g", text)
                corpus = scan([document], ordered=True, rule=rule)
                forms = [corpus.forms[number] for number in corpus.sequence[0].tolist()]
                cut = [text[start:end] for start, end in token_spans(document, rule).tolist()]
                if rule == "characters":
                    # a ligature is written once for two letters
                    cut = [
                        "".join(char for char in normalise(one) if one != "\ufb01" or char == form)
                        for one, form in zip(cut, forms, strict=True)
                    ]
                self.assertEqual([normalise(one) for one in cut], forms, (rule, trial, text))

    WHITE = ("  ", "\r\n", "\n\n", "\u2003 ", *filter(str.isspace, map(chr, range(sys.maxunicode + 1))))

    def test_one_blank_for_white_space_leaves_the_tokens_as_they_are(self):
        chance = random.Random(6)
        for _ in range(200):
            parts = [chance.choice(self.SIGNS) + chance.choice(self.WHITE) for _ in range(chance.randint(0, 8))]
            text = chance.choice(("", " ", "\n\n")) + "".join(parts)
            folded = with_single_blanks(text)
            self.assertEqual(folded, re.sub(r"\s+", " ", text))
            tokens = [
                [one[start:end] for start, end in token_spans(Document("d", "g", one)).tolist()]
                for one in (text, folded)
            ]
            self.assertEqual(tokens[0], tokens[1])

    def test_contexts_against_the_plain_rule(self):
        chance = random.Random(7)
        for trial in range(100):
            words = [chance.choice(("ice", "snow", "hut")) + chance.choice(("", ",", "!")) for _ in range(12)]
            gaps = [chance.choice((" ", "  ", "\n", "\n\n")) for _ in words]
            text = "".join(word + gap for word, gap in zip(words, gaps, strict=True))
            # texts beside it change nothing
            texts = joined([Document("d", "g", one) for one in ("", "Snow! ", text, "hut")])
            at, size, number = chance.randrange(11), chance.randint(1, 2), chance.randint(0, 4)
            places = Matches(np.array([at + 1]), np.array([size]))
            bounds = np.array([1]), np.array([13])
            middle = " ".join(words[at : at + size])[: -1 if words[at + size - 1][-1] in ",!" else None]
            blank = [place for place, gap in enumerate(gaps) if gap == "\n\n" and place < 11]
            first = max((place + 1 for place in blank if place < at), default=0)
            after = min((place + 1 for place in blank if place >= at + size - 1), default=12)
            for context, low, high in (
                ("document", 0, 12),
                ("paragraph", first, after),
                (str(number), max(at - number, 0), at + size + number),
            ):
                left, found, right = cut_out(texts, np.array([2]), places, context, bounds)[0]
                with self.subTest(trial, context=context, text=text):
                    self.assertEqual(found, middle)
                    self.assertEqual(left.split(), words[low:at])
                    rest = words[at + size - 1 : high]
                    wanted = " ".join(rest)[len(middle.split()[-1]) :].strip()
                    ends_early = context.isdigit() and high < 12
                    self.assertEqual(right, wanted.rstrip(",!") if ends_early else wanted)

    def test_where_a_collocate_stands_in_a_context(self):
        for text, word, distance, expected in (
            ("the hut, and the hut", "hut", 2, "4"),
            ("the hut, and the hut", "hut", 5, "17"),
            ("the hut, and the hut", "hut", -1, "17"),
            ("the hut, and the hut", "hut", -4, "4"),
            ("huts; a hut-keeper (hut)", "hut", 4, "20"),
            ("don’t look at the old stove of theirs", "old stove", 5, "18"),
            ("no such word", "hut", 1, ""),
            ("hut", "hut", 0, ""),
        ):
            with self.subTest(text=text, word=word, distance=distance):
                found = beside(text, word, distance)
                self.assertEqual(str(found[0]) if found else "", expected)
                self.assertEqual(text[slice(*found)] if found else word, word)

    def test_annotated_tokens(self):
        tokens = (Token("Do"), Token("n't"), Token("go"), Token("."), None, Token("«"), Token("Ice"))
        document = Document("d", "g", "Don't go.\n« Ice", annotated=tokens)
        cut = [document.text[start:end] for start, end in token_spans(document).tolist()]
        self.assertEqual(cut, ["Do", "n't", "go", "Ice"])


class Dispersion(unittest.TestCase):
    def test_by_hand_and_the_same_for_terms_and_nodes(self):
        corpus = corpus_of(MINI, ordered=True)
        counts = count(corpus, map_terms(corpus))
        terms = dispersion_of_terms(counts).set_index(["group", "term"])
        row = terms.loc["A", "red"]
        # 2 of 3 tokens and 1 of 2
        rates = np.array([2 / 3, 1 / 2])
        self.assertAlmostEqual(row["juilland_d"], 1 - rates.std() / rates.mean())
        self.assertAlmostEqual(row["dp"], (abs(2 / 3 - 3 / 5) + abs(1 / 3 - 2 / 5)) / 2)
        self.assertAlmostEqual(row["dp_norm"], row["dp"] / (1 - 2 / 5))
        words = NamedWords(corpus)
        nodes = {name: find_expression(corpus, expression_from(name), words) for name in ("red", "yellow")}
        of_nodes = dispersion_of_nodes(corpus, nodes).set_index(["group", "term"])
        for key in terms.index.intersection(of_nodes.index):
            for column in ("freq", "per_million", "docs", "dp", "dp_norm", "juilland_d"):
                self.assertTrue(np.isclose(of_nodes.loc[key, column], terms.loc[key, column], equal_nan=True), key)
        self.assertEqual(of_nodes.loc["A", "yellow"]["freq"], 0)
        self.assertTrue(pd.isna(of_nodes.loc["A", "yellow"]["dp"]))

    def test_random_parts_against_numpy(self):
        chance = np.random.default_rng(2)
        dense = chance.poisson(0.7, (9, 40))
        base = dense.sum(axis=1) + 5
        rates = dense / base[:, None]
        with np.errstate(invalid="ignore"):
            wanted = np.maximum(1 - rates.std(axis=0) / rates.mean(axis=0) / np.sqrt(8), 0)
        np.testing.assert_allclose(juilland_d(SparseMatrix.of_dense(dense), base), wanted, rtol=1e-12, atol=1e-12)


if __name__ == "__main__":
    unittest.main()
