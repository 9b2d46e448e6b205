"""Tables, frozen classes and special functions, each held against the library that has more of them."""

import dataclasses
import random
import unittest

import numpy as np
import pandas as pd
from scipy import sparse, special

from millstone.core.base.arrays import dense_rank, in_sorted, unique, unique_counts, unique_inverse
from millstone.core.base.light_dataclass import frozen
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.statistics.contingency import Z90, Z95, convex
from millstone.core.statistics.significance import chi2_upper_tail, normal_tails
from millstone.core.tables.table import Table, WholeNumbers, distinct_rows, is_missing, spread_out, values_of


def random_table(chance: random.Random, rows: int) -> Table:
    """A table with a column of each kind, some of whose cells are missing."""
    whole = [chance.choice((None, *range(4))) for _ in range(rows)]
    numbers = np.array([np.nan if one is None else float(one) for one in whole])
    return Table(
        {
            "text": [chance.choice(("a", "b", "c c")) for _ in range(rows)],
            "some": [chance.choice(("x", None)) for _ in range(rows)],
            "whole": WholeNumbers.of(numbers),
            "number": numbers / 3,
            "count": np.arange(rows) % 3,
            "same": "one",
        }
    )


def plain(frame: pd.DataFrame) -> dict[str, list[object]]:
    """The columns of a frame, None where a cell is missing."""
    return {name: [None if pd.isna(one) else one for one in cells] for name, cells in frame.items()}


class Tables(unittest.TestCase):
    def test_rows_columns_and_blocks_as_a_dataframe_gives_them(self):
        chance = random.Random(7)
        for rows in (0, 1, 2, 50):
            table = random_table(chance, rows)
            frame = table.to_frame()
            which = np.array([chance.randrange(max(rows, 1)) for _ in range(rows and 9)], dtype=np.int64)
            with self.subTest(rows):
                self.assertEqual((len(table), table.names), (len(frame), list(frame.columns)))
                pd.testing.assert_frame_equal(Table.of_frame(frame).to_frame(), frame)
                pd.testing.assert_frame_equal(table.at(which).to_frame(), frame.iloc[which].reset_index(drop=True))
                kept = np.asarray(table["count"] == 1)
                pd.testing.assert_frame_equal(table.at(kept).to_frame(), frame[kept].reset_index(drop=True))
                twice = Table.joined([table, table.without("whole", "some")])
                wanted = pd.concat([frame, frame.drop(columns=["whole", "some"])], ignore_index=True)
                self.assertEqual({name: values_of(cells) for name, cells in twice.items()}, plain(wanted))
                for name, cells in table.items():
                    self.assertEqual(is_missing(cells).tolist(), frame[name].isna().tolist())
                self.assertEqual({name: values_of(cells) for name, cells in table.items()}, plain(frame))
                blocks = list(table.by(["text", "count"]))
                groups = list(frame.groupby(["text", "count"], sort=False))
                self.assertEqual([key for key, _ in blocks], [key for key, _ in groups])
                for (_, found), (_, group) in zip(blocks, groups, strict=True):
                    pd.testing.assert_frame_equal(found.to_frame(), group.reset_index(drop=True))
                number, first = distinct_rows([table["text"], table["whole"]])
                self.assertEqual(number.tolist(), number[first[number]].tolist(), "a row is as its first one")

    def test_columns_are_put_in_named_and_spread_out(self):
        table = Table({"a": [1, 2], "b": ["x", "y"]})
        put = table.with_columns({"c": [0.5, 1.5], "a": [3, 4]}, 1)
        self.assertEqual(put.names, ["b", "c", "a"])
        self.assertEqual(table.with_columns({"a": [5, 6]}).names, ["a", "b"])
        self.assertEqual(put.renamed({"c": "d"}).only(["d", "b"]).names, ["d", "b"])
        self.assertEqual(next(table.rows()), {"a": 1, "b": "x"})
        at = np.array([2, 0])
        spread = [values_of(spread_out(cells, at, 3, "")) for _, cells in table.items()]
        self.assertEqual(spread, [[2, None, 1], ["y", "", "x"]])
        with self.assertRaisesRegex(ValueError, "different lengths"):
            Table({"a": [1, 2], "b": [1]})


class Arrays(unittest.TestCase):
    def test_what_numpy_finds_with_more_work(self):
        chance = np.random.default_rng(11)
        for values in (np.zeros(0, dtype=np.int64), chance.integers(0, 9, 40), chance.integers(-5, 10**12, 60) // 7):
            different, place, times = np.unique(values, return_inverse=True, return_counts=True)
            some = different[::2]
            with self.subTest(size=len(values)):
                self.assertEqual(unique(values).tolist(), different.tolist())
                self.assertEqual(
                    [one.tolist() for one in unique_counts(values)], [different.tolist(), times.tolist()]
                )
                self.assertEqual(
                    [one.tolist() for one in unique_inverse(values)], [different.tolist(), place.tolist()]
                )
                self.assertEqual(dense_rank(values).tolist(), place.tolist())
                self.assertEqual(in_sorted(values, some).tolist(), np.isin(values, some).tolist())

    def test_sparse_matrices_as_scipy_has_them(self):
        chance = np.random.default_rng(12)
        for rows, columns, cells in ((0, 3, 0), (4, 5, 0), (1, 6, 30), (30, 4, 90), (9, 300, 50)):
            row, column = chance.integers(0, max(rows, 1), cells), chance.integers(0, columns, cells)
            # halves are added up without rounding, in whatever order
            for values in (chance.integers(1, 9, cells).astype(np.int32), chance.integers(1, 9, cells) / 2):
                wanted = sparse.coo_array((values, (row, column)), shape=(rows, columns)).tocsr()
                found = SparseMatrix.of_cells(values, row, column, (rows, columns))
                dense, vector = wanted.toarray(), chance.random(columns)
                some = chance.permutation(columns)[: columns // 2]
                other = SparseMatrix.of_dense(chance.integers(0, 3, (columns, 3)))
                with self.subTest(shape=(rows, columns), kind=values.dtype.kind):
                    np.testing.assert_array_equal(found.toarray(), dense)
                    np.testing.assert_array_equal(found.to_sparse().toarray(), dense)
                    np.testing.assert_array_equal(found.transposed().toarray(), dense.T)
                    np.testing.assert_array_equal(found.columns(some).toarray(), dense[:, some])
                    np.testing.assert_array_equal(found @ vector, wanted @ vector, "to the last digit")
                    np.testing.assert_array_equal(found @ np.arange(columns), wanted @ np.arange(columns))
                    np.testing.assert_array_equal(found.product(other), wanted @ other.toarray())
                    for which in (slice(1, 3), np.arange(rows)[::-1], np.arange(rows) % 2 == 0):
                        np.testing.assert_array_equal(found.rows(which).toarray(), dense[which])
                    np.testing.assert_array_equal(
                        SparseMatrix.stacked([found, found]).toarray(), np.concatenate((dense, dense))
                    )


class SpecialFunctions(unittest.TestCase):
    def test_tails_and_logarithms_are_those_of_scipy(self):
        chance = np.random.default_rng(13)
        z = np.concatenate([chance.uniform(0, 37, 20_000), chance.random(20_000), [0, 1, 8, 36, 40, np.inf, np.nan]])
        np.testing.assert_allclose(normal_tails(z), 2 * special.ndtr(-z), rtol=1e-12)
        np.testing.assert_allclose(chi2_upper_tail(z**2), special.chdtrc(1, z**2), rtol=1e-12)
        self.assertEqual(normal_tails(np.ones((2, 3))).shape, (2, 3))
        x = np.concatenate([chance.uniform(-1, 3, 20_000), [-1, 0, 1]])
        np.testing.assert_allclose(convex(x), special.xlog1py(1 + x, x) - x, rtol=1e-9, atol=1e-12)
        self.assertEqual([Z95, Z90], [special.ndtri(0.975), special.ndtri(0.95)])


@frozen
class Made:
    """Of two values, and its own list."""

    one: int
    two: str = "x"
    more: list[int] = dataclasses.field(default_factory=list)


@frozen
class Further(Made):
    """The same with a third."""

    three: float = 0.5


class Frozen(unittest.TestCase):
    def test_they_are_as_dataclasses_are(self):
        plain = dataclasses.make_dataclass(
            "Made", [("one", int), ("two", str, "x"), ("more", list, dataclasses.field(default_factory=list))]
        )
        for given, named in (((1,), {}), ((1, "y"), {}), ((), {"two": "z", "one": 3, "more": [4]})):
            self.assertEqual(dataclasses.astuple(Made(*given, **named)), dataclasses.astuple(plain(*given, **named)))
            self.assertEqual(repr(Made(*given, **named)), repr(plain(*given, **named)))
        self.assertEqual(Further(1, three=2.0), dataclasses.replace(Further(1), three=2.0))
        self.assertNotEqual(Made(1), Further(1))
        self.assertEqual(len({hash(Made(1, "y", ())), hash(Made(1, "y", ()))}), 1)
        self.assertIsNot(Made(1).more, Made(1).more)
        for wrong in (Made, lambda: Made(1, "x", [], 2), lambda: Made(1, one=2), lambda: Made(1, four=4)):
            with self.assertRaises(TypeError):
                wrong()
        with self.assertRaises(dataclasses.FrozenInstanceError):
            Made(1).one = 2


if __name__ == "__main__":
    unittest.main()
