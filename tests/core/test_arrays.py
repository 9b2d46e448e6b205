"""Array operations on cells, ranks, words and rows, each held against the plain way to do the same."""

import codecs
import csv
import errno
import io
import itertools
import random
import tempfile
import unicodedata
import unittest
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from unittest import mock

import numpy as np
import pandas as pd
from scipy import stats

from millstone.core.base import arrays
from millstone.core.base.arrays import begins, chunks, merged, stable_order, unique_pairs
from millstone.core.base.errors import DataError, MillstoneError
from millstone.core.corpus import form_words
from millstone.core.corpus.corpus import Corpus, Document
from millstone.core.matrix import cells
from millstone.core.matrix.cells import SparseMatrix, batches, remap_columns
from millstone.core.matrix.on_disk import Growing, forget, lies_on_disk
from millstone.core.matrix.totals import column_sums, document_frequency
from millstone.core.scan import merge_tallies as merged_tallies
from millstone.core.scan import vocabulary
from millstone.core.scan.blocks import Packer
from millstone.core.scan.rare_terms import Rare
from millstone.core.scan.scan import scan
from millstone.core.scan.tally import RunTally
from millstone.core.statistics.dispersion import deviation_of_proportions, juilland_d
from millstone.core.statistics.ranks import competition_ranks
from millstone.core.tables.result import Result
from millstone.core.tables.table import Table
from millstone.outputs.files.formats.table import as_tsv, content_of
from tests.core.builders import corpus_of


def random_matrix(chance: np.random.Generator, rows: int, columns: int, most: int = 6) -> SparseMatrix:
    """Counts in no order, some columns several times in a row; fewer cells in each row than `most`."""
    lengths = chance.integers(0, most, rows)
    ends = np.concatenate(([0], np.cumsum(lengths)))
    places, counts = chance.integers(0, columns, ends[-1]), chance.integers(1, 9, ends[-1])
    return SparseMatrix(counts.astype(np.int32), places.astype(np.int32), ends, (rows, columns))


def put_on_disk(matrix: SparseMatrix) -> SparseMatrix:
    arrays_of = []
    for array in (matrix.data, matrix.indices):
        growing = Growing(array.dtype, 0)
        for part in np.array_split(array, 3):
            growing.add(part)
        arrays_of.append(growing.array())
    return SparseMatrix(*arrays_of, matrix.indptr, matrix.shape)


def spans(matrix: SparseMatrix) -> list[slice]:
    """Where the cells of each row are."""
    return [slice(one, two) for one, two in itertools.pairwise(matrix.indptr.tolist())]


class Cells(unittest.TestCase):
    def test_other_columns_and_sums_as_dense_arrays_give_them(self):
        chance = np.random.default_rng(1)
        for rows, columns, most in ((0, 3, 6), (1, 1, 6), (1, 40, 6), (30, 4, 6), (200, 50, 6), (9, 70_000, 300)):
            matrix = random_matrix(chance, rows, columns, most)
            before = matrix.toarray().copy()
            column_of = chance.integers(-1, 5, columns).astype(np.int32)
            wanted = np.zeros((rows, 5), dtype=np.int64)
            for old, new in enumerate(column_of.tolist()):
                if new >= 0:
                    wanted[:, new] += before[:, old]
            for compiled, given in itertools.product({arrays.compiled, None}, (matrix, put_on_disk(matrix))):
                with (
                    self.subTest(rows=rows, columns=columns, compiled=compiled, on_disk=given.on_disk),
                    mock.patch.object(cells, "AT_ONCE", 7),
                    mock.patch.object(cells, "compiled", compiled),
                ):
                    found = remap_columns(given, column_of, 5)
                    self.assertEqual(found.on_disk, given.on_disk and found.nnz > 0)
                    some = chance.permutation(rows)[: rows // 2]
                    np.testing.assert_array_equal(found.rows(some).toarray(), wanted[some])
                    twice = SparseMatrix.stacked([found.rows(some), found])
                    np.testing.assert_array_equal(twice.toarray(), np.concatenate((wanted[some], wanted)))
                    np.testing.assert_array_equal(found.toarray(), wanted)
                    self.assertEqual(found.nnz, np.count_nonzero(wanted))
                    np.testing.assert_array_equal(column_sums(found), wanted.sum(axis=0))
                    np.testing.assert_array_equal(found.row_sums(), wanted.sum(axis=1))
                    np.testing.assert_array_equal(document_frequency(found), (wanted > 0).sum(axis=0))
                    self.assertTrue(all((np.diff(found.indices[here]) > 0).all() for here in spans(found)))
                    np.testing.assert_array_equal(matrix.toarray(), before, "what was given stays as it was")
                    met = [(found.indices[here], row) for here, row in batches(found)]
                    self.assertEqual(sum(len(row) for _, row in met), found.nnz)
                    for places, row in met:
                        self.assertTrue((found.toarray()[row, places] > 0).all())

    def test_dispersion_is_the_same_in_batches_of_all_sizes(self):
        matrix = remap_columns(random_matrix(np.random.default_rng(2), 60, 9), np.arange(9, dtype=np.int32), 9)
        base = np.arange(60) % 7 + 50
        dense, share = matrix.toarray(), base / base.sum()
        wanted = np.abs(dense / dense.sum(axis=0) - share[:, np.newaxis]).sum(axis=0) / 2
        for measure in (deviation_of_proportions, juilland_d):
            found = []
            for size in (1, 5, 1 << 20):
                with mock.patch.object(cells, "AT_ONCE", size):
                    found.append(measure(matrix, base).tolist())
            self.assertEqual(found, [found[0]] * 3, "to the last digit")
        np.testing.assert_allclose(deviation_of_proportions(matrix, base), wanted, rtol=1e-12)


class OnDisk(unittest.TestCase):
    def test_what_grows_is_in_memory_up_to_a_size_and_whole_wherever_it_is(self):
        for most, size in itertools.product((0, 80, 1000), (0, 30)):
            growing = Growing(np.int32, most, size)
            for number in range(3):
                growing.add(np.arange(10, dtype=np.int64) + number)
            found = growing.array()
            forget(found, np.arange(3))
            with self.subTest(most=most, size=size):
                self.assertEqual(found.tolist(), [*range(10), *range(1, 11), *range(2, 12)])
                self.assertEqual((lies_on_disk(found), lies_on_disk(found[2:9])), (most < 120, most < 120))
                self.assertFalse(lies_on_disk(found[[1, 2]]))
        self.assertEqual([Growing(np.int8, most).array().tolist() for most in (0, 9)], [[], []])

    def test_no_room_is_a_message(self):
        with tempfile.TemporaryDirectory() as folder, mock.patch.dict("os.environ", TMPDIR=f"{folder}/gone"):
            with self.assertRaisesRegex(MillstoneError, "cannot be written to .*/gone: no such file") as caught:
                Growing(np.int8, 0).add(np.arange(5))
            self.assertIn("TMPDIR", caught.exception.remedy)
        full = mock.Mock(**{"write.side_effect": OSError(errno.ENOSPC, "No space left on device")})
        with mock.patch("tempfile.TemporaryFile", return_value=full), self.assertRaisesRegex(MillstoneError, "no space left"):  # fmt: skip
            Growing(np.int8, 0).add(np.arange(5))

    def scans(self, **given: Any) -> Iterator[tuple[Corpus, Corpus]]:
        """Scans of the same texts in memory and, vocabulary and all, on disk."""
        chance = random.Random(8)
        words = ["ice", "Don't", "\u00e9t\u00e9.", "re-do", "7", "\n\n", "snow-\u2014fog", "Fog!", "\u96ea", "x" * 40]
        words += ["".join(chance.choices("abcde\u00e9F", k=chance.randrange(1, 30))) for _ in range(300)]
        texts = [" ".join(chance.choices(words, k=chance.randrange(60))) for _ in range(40)]
        documents = [Document(str(number), "ab"[number % 2], text) for number, text in enumerate(texts)]
        documents.append(Document("long", "a", "", chunks=lambda: iter([" ".join(words * 3).encode()] * 3)))
        for rule, ordered, jobs, compiled in itertools.product(("words", "spaces"), (False, True), (1, 2), {arrays.compiled, None}):  # fmt: skip
            with (
                mock.patch("millstone.core.scan.blocks.SIZE", 500),
                mock.patch("millstone.core.scan.scan.LONG", 900),
                mock.patch("millstone.core.scan.scan.compiled", compiled),
                mock.patch("millstone.core.scan.numbering.compiled", compiled),
                mock.patch.multiple(vocabulary, _PIVOT=20, _RANGE=3, AT_ONCE=50),
                mock.patch.object(merged_tallies, "_FORM", 0),
            ):
                plain, found = (scan(documents, ordered, rule=rule, jobs=jobs, memory=memory, **given) for memory in (1 << 40, 30_000))  # fmt: skip
            yield plain, found

    def test_a_scan_on_disk_is_the_same(self):
        for plain, found in self.scans():
            self.assertTrue(found.form_counts.on_disk and not plain.form_counts.on_disk)
            self.assertEqual(found.forms, plain.forms)
            np.testing.assert_array_equal(found.form_counts.toarray(), plain.form_counts.toarray())
            np.testing.assert_array_equal(found.tokens, plain.tokens)
            if found.ids is not None:
                self.assertTrue(lies_on_disk(found.sequence[0]))
                for one, other in zip(found.sequence, plain.sequence, strict=True):
                    np.testing.assert_array_equal(one, other)
                wanted = np.arange(41) % 3 > 0
                np.testing.assert_array_equal(found.keep(wanted).sequence[0], plain.keep(wanted).sequence[0])

    def test_what_is_parked_holds_no_memory(self):
        tally = RunTally(ordered=True, most=1 << 20)
        packer = Packer()
        for block in (*packer.text(0, "ice snow ice"), *packer.text(1, "fog"), *packer.rest()):
            tally.add(block)
        (parked,) = tally.all_parked()
        (cells,), (sequence,) = parked.tally.cells, parked.tally.sequences.values()
        arrays_of = (cells.numbers, cells.times, sequence.numbers, parked.place, parked.strings.data)
        self.assertTrue(all(map(lies_on_disk, arrays_of)))
        self.assertEqual([*parked.strings], [b"fog", b"ice", b"snow"])
        self.assertEqual(len(tally.numbering), 0)

    def test_rare_words_are_left_out_where_there_are_too_many(self):
        def terms(forms: list[str]) -> tuple[list[str], np.ndarray]:
            return list(map(str.lower, forms)), np.array([len(form) == 1 for form in forms], dtype=bool)

        left_out = 0
        for plain, found in self.scans(rare=Rare(14, terms)):
            np.testing.assert_array_equal(found.tokens, plain.tokens)
            if found.least == 1:
                self.assertEqual(found.forms, plain.forms)
                continue
            self.assertIsNone(found.ids)
            times = Counter()
            for form, number in zip(plain.forms, column_sums(plain.form_counts).tolist(), strict=True):
                times[form.lower()] += number
            wanted = [len(form) == 1 or times[form.lower()] >= 14 for form in plain.forms]
            needed = {form for form, is_wanted in zip(plain.forms, wanted, strict=True) if is_wanted}
            self.assertLessEqual(needed, set(found.forms))
            left_out += len(plain.forms) - len(found.forms)
            columns = [plain.forms.index(form) for form in found.forms]
            of_needed = [form in needed for form in found.forms]
            dense = plain.form_counts.toarray()[:, columns][:, of_needed]
            np.testing.assert_array_equal(found.form_counts.toarray()[:, of_needed], dense)
        self.assertGreater(left_out, 100)

    def test_too_many_different_words_are_a_message(self):
        with self.assertRaisesRegex(DataError, "3 different words take about 0 MB of memory, and 0 MB are allowed"):
            scan([Document("1", "a", "ice snow fog")], memory=500)


class Pairs(unittest.TestCase):
    def test_pairs_of_counts_and_their_order(self):
        chance = np.random.default_rng(5)
        for most in (1, 3, 40, 2**40):
            first, second = (chance.integers(0, most, 500) for _ in range(2))
            with self.subTest(most=most):
                one, other, number = unique_pairs(first, second)
                np.testing.assert_array_equal(one[number], first)
                np.testing.assert_array_equal(other[number], second)
                if most**2 < 2**62:
                    self.assertEqual(len(one), len(set(zip(first.tolist(), second.tolist(), strict=True))))
                np.testing.assert_array_equal(stable_order(number), np.argsort(number, kind="stable"))
        self.assertEqual([len(part) for part in unique_pairs(first[:0], second[:0])], [0, 0, 0])


class Order(unittest.TestCase):
    def test_ranks_as_scipy_gives_them(self):
        among = np.random.default_rng(3).integers(0, 12, 300)
        some = among[::7]
        wanted = stats.rankdata(-among, method="min").astype(int)[::7]
        self.assertEqual(competition_ranks(some, among).tolist(), wanted.tolist())

    def test_where_values_begin_and_two_arrays_in_one(self):
        for some, others in (([], []), ([0], []), ([1, 4, 4, 9], [0, 4, 10]), ([2, 2], [2])):
            one, two = np.array(some, dtype=np.int64), np.array(others, dtype=np.int64)
            self.assertEqual(merged(one, two).tolist(), sorted({*some, *others}))
            wanted = [at == 0 or some[at - 1] != value for at, value in enumerate(some)]
            self.assertEqual(begins(one).tolist(), wanted)
        with mock.patch.object(arrays, "STRETCH", 3):
            self.assertEqual([(one.start, one.stop) for one in chunks(7)], [(0, 3), (3, 6), (6, 7)])

    @unittest.skipIf(arrays.compiled is None, "no compiled part")
    def test_characters_as_a_decoder_sees_them(self):
        chance = random.Random(5)
        whole = ["ice" * 3, "\u00e9\u07ff\u0080", "\u0800\uffff\ud7ff\ue000", "\U00010000\U0010ffff", "\u20ac"]
        for _ in range(3000):
            parts = [chance.choice(whole)[: chance.randrange(10)].encode() for _ in range(chance.randrange(6))]
            data = bytearray(b"".join(parts))[: chance.randrange(60)]
            if data and chance.random() < 0.4:
                data[chance.randrange(len(data))] = chance.randrange(256)
            try:
                wanted = codecs.utf_8_decode(data)[1]
            except UnicodeDecodeError:
                wanted = -1
            # a decoder waits for the third byte where the second one is that of no character
            is_wrong = data[wanted : wanted + 1] == b"\xed" and data[-1] >= 0xA0 and wanted == len(data) - 2
            self.assertEqual(arrays.compiled.whole(bytes(data)), -1 if is_wrong else wanted, bytes(data))

    def test_small_letters_as_a_dictionary_gives_them(self):
        chance = random.Random(4)
        letters = "abAB\u00c4\u00e4\u0130\u03a3\u1e9e\u01c5'-"
        words = {"".join(chance.choices(letters, k=chance.randrange(1, 5))) for _ in range(900)}
        corpus = corpus_of([("d", "g", " ".join(words))])
        for at_once in (1, 10, 1 << 16):
            with mock.patch.object(form_words, "AT_ONCE", at_once):
                found = corpus.lowered
            small = [unicodedata.normalize("NFC", form.lower()) for form in corpus.forms]
            self.assertEqual(found.words, sorted(set(small)))
            self.assertEqual([found.words[number] for number in found.number.tolist()], small)

    def test_words_that_stand_alone_and_in_longer_runs_are_one_form(self):
        # a run with a typographic apostrophe or an ideographic stop is cut by the rule; its words may be known
        text = (
            "ami l\u2019ami L\u2019Ami zoo zo\u00eb\u3002zoo ami \u00ab\u00e9t\u00e9\u00bb \u00e9t\u00e9\u3002ami aa"
        )
        corpus = corpus_of([("d", "g", text)], ordered=True)
        ids, _, _ = corpus.sequence
        self.assertEqual(corpus.forms, sorted(set(corpus.forms)))
        spelled = [corpus.forms[number] for number in ids.tolist()]
        wanted = ["ami", "l'ami", "L'Ami", "zoo", "zoë", "zoo", "ami", "été", "été", "ami", "aa"]
        self.assertEqual([one.replace("\u2019", "'") for one in spelled], wanted)


class Rows(unittest.TestCase):
    def test_a_saved_table_reads_back_as_it_was(self):
        chance = random.Random(6)
        cells = ("a", "b,c", 'q"x', '"', "l\nm", "c\rd", "", " s ", "\u00e9;", "x")
        for columns, decimal_comma in ((1, False), (3, False), (4, True)):
            header = [chance.choice(("", '"', ",", "\n")) + f"c{number}" for number in range(columns)]
            rows = [[chance.choice(cells) for _ in header] for _ in range(60)]
            table = Table.of_rows(rows, header)
            written = io.BytesIO()
            with mock.patch("millstone.outputs.files.formats.table._BLOCK", chance.choice((7, 60, 100))):
                content_of(Result("freq", table, {}, ()), Path("t.csv"), {}, decimal_comma)(written)
            content = written.getvalue().decode("utf-8")
            read = csv.reader(io.StringIO(content, newline=""), delimiter=";" if decimal_comma else ",", strict=True)
            self.assertEqual(list(read), [header, *rows])

    def test_tables_with_many_rows_alike_are_written_as_others(self):
        chance = np.random.default_rng(5)
        for rows, kinds in ((0, 1), (1, 1), (400, 2), (400, 300)):
            freq = np.sort(chance.integers(0, kinds, rows))[::-1]
            frame = pd.DataFrame(
                {
                    "group": np.where(freq > kinds // 2, "A\tB", "C"),
                    "term": [f"t{number}\n" for number in range(rows)],
                    "freq": freq,
                    "rank": pd.array(np.where(freq == 0, None, freq).tolist(), dtype="Int64"),
                    "dp": np.where(freq == 1, np.nan, freq / 7),
                }
            )
            if kinds == 2:
                frame["forms"] = [f"u\t{number}" for number in range(rows)]
            with mock.patch("millstone.outputs.files.formats.table._BLOCK", 150):
                found = "".join(as_tsv(Table.of_frame(frame))).split("\n")
            self.assertEqual(found[0], "\t".join(frame.columns))
            self.assertEqual(len(found), rows + 2)
            for line, row in zip(found[1:-1], frame.itertuples(index=False), strict=True):
                group, term, *numbers = ("" if pd.isna(value) else value for value in row)
                texts = [repr(one) if isinstance(one, float) else str(one).replace("\t", " ") for one in numbers]
                self.assertEqual(line.split("\t"), [group.replace("\t", " "), term.replace("\n", " "), *texts])
