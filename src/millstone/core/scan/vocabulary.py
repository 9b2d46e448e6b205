"""Different strings in order, many more than memory has room for: put on disk in runs, and merged range by range."""

from bisect import bisect_left
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from millstone.core.base.arrays import unique
from millstone.core.matrix.on_disk import Growing, forget
from millstone.core.scan.numbering import PADDING, AnyNumbering, new_numbering

_PIVOT = 1 << 12
_RANGE = 128
AT_ONCE = 1 << 18
"""So many strings are looked at together."""


@dataclass(frozen=True)
class SortedStrings(Sequence[bytes]):
    """Different strings in the order of their bytes, which in UTF-8 is that of code points.

    Attributes
    ----------
    data : ndarray
        uint8: one after the other, a line feed after each.
    ends : ndarray
        (strings,) int64: where each one's line feed is.
    """

    data: np.ndarray
    ends: np.ndarray

    def __len__(self) -> int:
        return len(self.ends)

    def __getitem__(self, which):  # type: ignore[no-untyped-def]
        """The bytes of one of them."""
        return self.data[self.start(which) : self.ends[which]].tobytes()

    def start(self, which: int) -> int:
        """Where one of them begins; after the last one, where the data end."""
        return int(self.ends[which - 1]) + 1 if which else 0

    def spelled(self, first: int, after: int) -> tuple[bytes, np.ndarray]:
        """Some of them one after the other, with a line feed after each; their lengths."""
        start = self.start(first)
        ends = self.ends[first:after] - start
        return self.data[start : self.start(after)].tobytes(), np.diff(ends, prepend=-1) - 1

    def blocks(self) -> Iterator[tuple[slice, bytes, np.ndarray]]:
        """All of them, many at a time: which, and what `spelled` gives."""
        for first in range(0, len(self), AT_ONCE):
            after = min(first + AT_ONCE, len(self))
            yield slice(first, after), *self.spelled(first, after)
            self.forget()

    def forget(self) -> None:
        """Give back the memory of what was read."""
        forget(self.data, self.ends)


class _Writer:
    """Puts strings down that come in order."""

    def __init__(self) -> None:
        self._data, self._ends = Growing(np.uint8, 0), Growing(np.int64, 0)
        self._size = 0

    def add(self, spelled: bytes, lengths: np.ndarray) -> None:
        self._data.add(np.frombuffer(spelled, dtype=np.uint8))
        self._ends.add(np.cumsum(lengths + 1) - 1 + self._size)
        self._size += len(spelled)

    def strings(self) -> SortedStrings:
        return SortedStrings(self._data.array(), self._ends.array())


def in_order(numbering: AnyNumbering, present: np.ndarray) -> tuple[SortedStrings, np.ndarray]:
    """Some strings of a numbering, and where each of its numbers has its string, int32, -1 for others; all on disk.

    Parameters
    ----------
    numbering : AnyNumbering
    present : ndarray
        The numbers of the strings, rising.

    Returns
    -------
    tuple[SortedStrings, ndarray]
        The strings, and (numbers,) int32.
    """
    order = numbering.ordered(present)
    place = np.full(len(numbering), -1, dtype=np.int32)
    place[order] = np.arange(len(order), dtype=np.int32)
    writer = _Writer()
    for first in range(0, len(order), AT_ONCE):
        writer.add(*numbering.strings(order[first : first + AT_ONCE]))
    on_disk = Growing(np.int32, 0)
    on_disk.add(place)
    return writer.strings(), on_disk.array()


def merge(parts: Sequence[SortedStrings]) -> tuple[SortedStrings, list[np.ndarray]]:
    """Unique strings of all parts in order, and the index of each string of a part among them (int32); on disk.

    Parameters
    ----------
    parts : sequence of SortedStrings
        The sorted strings of each part.

    Returns
    -------
    tuple[SortedStrings, list of ndarray]
        The strings, and (strings,) int32 for each part.
    """
    writer, places = _Writer(), [Growing(np.int32, 0) for _ in parts]
    done = 0
    before = [0] * len(parts)
    for after in _ranges(parts):
        numbering = new_numbering()
        numbers = [
            _numbers(numbering, *part.spelled(*here)) for part, *here in zip(parts, before, after, strict=True)
        ]
        order = numbering.ordered(unique(np.concatenate(numbers)))
        place = np.zeros(len(numbering), dtype=np.int32)
        place[order] = np.arange(done, done + len(order), dtype=np.int32)
        for growing, some in zip(places, numbers, strict=True):
            growing.add(place[some])
        writer.add(*numbering.strings(order))
        done, before = done + len(order), after
        for part in parts:
            part.forget()
    return writer.strings(), [growing.array() for growing in places]


def _numbers(numbering: AnyNumbering, spelled: bytes, lengths: np.ndarray) -> np.ndarray:
    starts = np.cumsum(lengths + 1) - lengths - 1
    found: np.ndarray = numbering.numbers(spelled + PADDING, starts, lengths)
    return found


def _ranges(parts: Sequence[SortedStrings]) -> Iterator[list[int]]:
    """Where ranges of about half a million strings end in each of the parts, one range after the other."""
    pivots: list[bytes] = []
    for part in parts:
        pivots += [part[number] for number in range(_PIVOT, len(part), _PIVOT)]
        part.forget()
    for pivot in dict.fromkeys(sorted(pivots)[_RANGE - 1 :: _RANGE]):
        after = []
        for part in parts:
            after.append(bisect_left(part, pivot))
            # what lies around each place that is looked at comes into memory, too
            part.forget()
        yield after
    yield [len(part) for part in parts]
