"""Numbers for byte strings against a dictionary, and the places where texts are cut."""

import random
import sys
import threading
import unittest
from unittest import mock

import numpy as np

from millstone.core.base import arrays
from millstone.core.base.arrays import compiled
from millstone.core.scan.blocks import Packer
from millstone.core.scan.numbering import PADDING, ByteNumbering, CompiledNumbering
from millstone.core.tokenise.runs import RUN_TABLES, find_runs
from millstone.core.tokenise.sentences import WHITE_SPACE


def laid_out(strings: list[bytes]) -> tuple[bytes, np.ndarray, np.ndarray]:
    """Strings one after the other, where they start, and how long they are."""
    lengths = np.array([len(one) for one in strings], dtype=np.int64)
    starts = np.cumsum(lengths + 1) - lengths - 1
    return b"\x01".join(strings) + b"\x01" + PADDING, starts, lengths


def random_strings(chance: random.Random, number: int) -> list[bytes]:
    """Many that share beginnings, of all lengths around the bounds of words and chains."""
    sizes = [1, 2, 7, 8, 9, 15, 16, 17, 23, 24, 25, 40, 255, 256, 257, 700]
    beginnings = [bytes([letter]) * chance.choice(sizes) for letter in b"abc\xff"]
    return [
        (chance.choice(beginnings) + bytes(chance.choices(b"ab\xfe", k=chance.randrange(1, 5))))[
            : chance.choice(sizes)
        ]
        for _ in range(number)
    ]


class Numbering(unittest.TestCase):
    kind = ByteNumbering

    def test_as_a_dictionary_does(self):
        chance = random.Random(1)
        numbering = self.kind()
        known: dict[bytes, int] = {}
        for number in (1, 3, 400, 5000, 2):
            strings = random_strings(chance, number)
            found = numbering.numbers(*laid_out(strings)).tolist()
            for string, at in zip(strings, found, strict=True):
                self.assertEqual(known.setdefault(string, at), at, string[:40])
        self.assertEqual(len(set(known.values())), len(known), "no two strings have one number")
        self.assertGreaterEqual(len(numbering), len(known))

    def test_strings_come_back_and_in_order(self):
        strings = sorted(set(random_strings(random.Random(2), 3000)))
        numbering = self.kind()
        numbers = numbering.numbers(*laid_out(strings[::-1]))
        ordered = numbering.ordered(numbers)
        spelled, lengths = numbering.strings(ordered)
        self.assertEqual(spelled, b"".join(one + b"\n" for one in strings))
        self.assertEqual(lengths.tolist(), list(map(len, strings)))
        self.assertEqual(numbering.strings(ordered[:0])[0], b"")

    def test_growing_keeps_all_numbers(self):
        numbering = self.kind()
        strings = [str(number).encode() * (number % 7 + 1) for number in range(120_000)]
        first = numbering.numbers(*laid_out(strings[:1000]))
        numbering.numbers(*laid_out(strings))
        self.assertEqual(numbering.numbers(*laid_out(strings[:1000])).tolist(), first.tolist())

    def test_taking_over_another(self):
        chance = random.Random(3)
        one, other = self.kind(), self.kind()
        here, there = random_strings(chance, 2000), random_strings(chance, 2000)
        one.numbers(*laid_out(here))
        theirs = other.numbers(*laid_out(there))
        mapped = one.add(other)
        self.assertEqual(one.numbers(*laid_out(there)).tolist(), mapped[theirs].tolist())
        self.assertEqual(len(mapped), len(other))


@unittest.skipIf(compiled is None, "no C compiler was present")
class Compiled(Numbering):
    kind = CompiledNumbering

    def test_what_is_asked_wrongly_is_refused(self):
        table = compiled.Table()
        one, many = np.zeros(1, dtype=np.int64), np.zeros(20, dtype=np.int64)
        askew = np.zeros(9, dtype=np.uint8)[1:].view(np.int64)
        for wrong in (
            lambda: table.number(b"ab", one + 1, one + 2, np.zeros(1, dtype=np.int32)),
            lambda: table.number(b"ab", one - 1, one, np.zeros(1, dtype=np.int32)),
            lambda: table.number(b"ab", one, one, np.zeros(2, dtype=np.int32)),
            lambda: table.spelled(one, one.copy()),
            lambda: table.ordered(one),
            lambda: compiled.runs(b"a b", b"", b"", b"", one, one),
            # eight bytes are read at a time, so that what follows a text has to be there
            lambda: compiled.runs(b" ice and snow", *RUN_TABLES, many, many.copy()),
            lambda: table.count(b" ice and snow", *RUN_TABLES),
            lambda: table.count(b" ice" + PADDING, bytes([1]) * 256, *RUN_TABLES[1:]),
            lambda: table.count_each(b" ice and snow", *RUN_TABLES, one, one.copy()),
            # numbers that lie between two places, and half numbers
            lambda: table.number(b" ice" + PADDING, askew, one, np.zeros(1, dtype=np.int32)),
            lambda: table.ordered(askew),
            lambda: compiled.sums(one.view(np.int32), one.view(np.int32), askew),
            lambda: compiled.joined(b"ice", 34, askew, one, one.copy()),
            lambda: compiled.sums(b"123", b"123", one),
        ):
            self.assertRaises((IndexError, ValueError), wrong)
        big = np.array([2**31 - 1, 1], dtype=np.int32)
        same = np.zeros(2, dtype=np.int32)
        ends = np.array([0, 2], dtype=np.int64)
        given = (big, same, ends, np.zeros(1, dtype=np.int32), big.copy(), same.copy(), ends.copy())
        self.assertRaises(OverflowError, compiled.moved, *given)

    def test_a_table_is_used_by_one_thread_at_a_time(self):
        table, kinds = compiled.Table(), sys.getrefcount(compiled.Table)
        for _ in range(100):
            compiled.Table()
        self.assertEqual(sys.getrefcount(compiled.Table), kinds)
        text = " " + "ice and snow on the hut " * 400_000 + "x"
        data = text.encode() + PADDING
        refused = []

        def use():
            while counting.is_alive():
                for asked in (
                    table.met,
                    lambda: table.ordered(np.zeros(0, dtype=np.int64)),
                    lambda: table.count(b" a" + PADDING, *RUN_TABLES),
                ):
                    try:
                        asked()
                    except RuntimeError as error:
                        refused.append(str(error))

        counting = threading.Thread(target=table.count, args=(data, *RUN_TABLES))
        using = threading.Thread(target=use)
        counting.start()
        using.start()
        counting.join()
        using.join()
        self.assertEqual(set(refused), {"the table is in use in another thread"})
        numbers, times = np.empty(table.met(), dtype=np.int32), np.empty(table.met(), dtype=np.int64)
        table.take(numbers, times)
        self.assertEqual(sorted(times.tolist())[-1], 400_000)

    def test_another_one_is_not_used(self):
        with mock.patch.object(compiled, "INTERFACE", 1):
            self.assertIsNone(arrays._load_compiled())
        with mock.patch.dict("os.environ", {"MILLSTONE_PURE": "1"}):
            self.assertIsNone(arrays._load_compiled())
        self.assertIs(arrays._load_compiled(), compiled)


class Runs(unittest.TestCase):
    def runs_of(self, text: str) -> list[str]:
        data = f" {text} ".encode() + PADDING
        starts, lengths = find_runs(data)
        return [data[one : one + size].decode() for one, size in zip(starts, lengths, strict=True)]

    def test_what_a_run_is(self):
        table = {
            "don't well-kept 3.5 1,000": ["don't", "well-kept", "3.5", "1,000"],
            "'tis rock- -and ab.b 3.a .5 5.": ["tis", "rock", "and", "ab", "b", "3", "a", "5", "5"],
            "U.S. e.g., J.R.R.Smith a.b1 1.a.b a..b": [
                "U.S",
                "e.g",
                "J.R.R",
                "Smith",
                "a",
                "b1",
                "1",
                "a.b",
                "a",
                "b",
            ],
            "«А.С.Пушкин» o'a.b-c→a.b": ["А.С.Пушкин", "o'a.b-c→a.b"],
            "a--b a''b 1..2": ["a", "b", "a", "b", "1", "2"],
            "“Guten Tag”, sagte… — »so« \u00a0und\u3000da": ["Guten", "Tag", "sagte", "so", "und", "da"],
            # what may be part of a word is left to the token rule
            "rock’n’roll ªµº a\u00adb x\u200dy": ["rock’n’roll", "ªµº", "a\u00adb", "x\u200dy"],
            "é.é é-é snake_case a/b": ["é.é", "é-é", "snake", "case", "a", "b"],
            "": [],
            "... !?": [],
        }
        for text, expected in table.items():
            with self.subTest(text):
                self.assertEqual(self.runs_of(text), expected)
                with mock.patch("millstone.core.tokenise.runs.compiled", None):
                    self.assertEqual(self.runs_of(text), expected)

    def test_compiled_or_not_they_are_the_same(self):
        chance = random.Random(6)
        signs = "ab1...,'- \n\u00a0\u00aa\u00e9\u2019\u2014\u2029\u1680\u3000\u200d\u96ea\U0001f600"
        for _ in range(500):
            data = f" {''.join(chance.choices(signs, k=chance.randrange(40)))} ".encode() + PADDING
            with mock.patch("millstone.core.tokenise.runs.compiled", None):
                plain = find_runs(data)
            for one, other in zip(find_runs(data), plain, strict=True):
                self.assertEqual(one.tolist(), other.tolist(), data)


class Blocks(unittest.TestCase):
    def test_nothing_is_lost_and_no_word_is_cut(self):
        chance = random.Random(4)
        spaces = [white.decode() for white in WHITE_SPACE] + [" ", "\n"] * 8
        for _ in range(200):
            words = ["".join(chance.choices("abéж雪", k=chance.randrange(1, 9))) for _ in range(chance.randrange(30))]
            text = "".join(word + chance.choice(spaces) * chance.randrange(1, 4) for word in words)
            packer = Packer()
            data = text.encode()
            cuts = sorted(chance.randrange(len(data) + 1) for _ in range(3))
            chunks = [data[one:two] for one, two in zip([0, *cuts], [*cuts, len(data)], strict=True)]
            with mock.patch("millstone.core.scan.blocks.SIZE", 16):
                blocks = [*packer.text(0, text), *packer.stream(1, chunks), *packer.text(2, "end"), *packer.rest()]
            of_each: dict[int, list[str]] = {0: [], 1: [], 2: []}
            for block in blocks:
                start = 0
                for document, end in zip(block.documents.tolist(), block.ends.tolist(), strict=True):
                    of_each[document] += block.data[start:end].decode().split()
                    start = end
            self.assertEqual(of_each, {0: text.split(), 1: text.split(), 2: ["end"]})
            self.assertEqual([block.number for block in blocks], list(range(1, len(blocks) + 1)))


if __name__ == "__main__":
    unittest.main()
