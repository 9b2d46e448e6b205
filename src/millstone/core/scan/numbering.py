"""Numbers for byte strings, many at once: an exact hash table made of arrays."""

from typing import Any

import numpy as np

from millstone.core.base.arrays import compiled, unique
from millstone.core.tokenise.runs import RUN_TABLES

_WORD = 8
PADDING = bytes(_WORD)
"""The padding that must follow the bytes that strings are taken from."""

_LOW_BYTES = np.array([(1 << 8 * length) - 1 for length in range(_WORD + 1)], dtype="<u8")
_FACTORS = (np.uint64(0x9E3779B97F4A7C15), np.uint64(0xC2B2AE3D27D4EB4F))
_FIRST_BITS = 16
# longer strings are looked up one by one
_CHAINED = 256
_ALONE = 1 << 15


class ByteNumbering:
    """Gives each different byte string a number, from 0 on.

    A string is a chain of pairs of eight-byte words: the first pair holds its first sixteen bytes, each
    further pair the number of what comes before, moved up by a byte, and the next eight bytes. Whole pairs
    are compared wherever hashes agree, so that strings are never confused. They must be free of zero bytes:
    so the first word of less than eight bytes is that of no longer string, nor of a further pair.

    Notes
    -----
    Open addressing with linear probing (Knuth 1998, 6.4), all strings of a block at the same time. The
    beginnings of long strings have numbers too, which may stand for no string that was asked for. Very
    long ones are in no chain, and are looked up as a whole.
    """

    def __init__(self) -> None:
        self._bits = _FIRST_BITS
        self._table = np.full(1 << self._bits, -1, dtype=np.int32)
        self._size = 0
        self._alone: dict[bytes, int] = {}
        # of each number: its pair of words, and how many pairs come before; _ALONE where it is in no chain
        self._first = np.zeros(len(self._table) // 2, dtype="<u8")
        self._second = np.zeros(len(self._table) // 2, dtype="<u8")
        self._depth = np.zeros(len(self._table) // 2, dtype=np.uint16)

    def __len__(self) -> int:
        return self._size

    def numbers(self, data: bytes, starts: np.ndarray, lengths: np.ndarray) -> np.ndarray:
        """The numbers of the strings ``data[start:start + length]``, new ones where they are new.

        Parameters
        ----------
        data : bytes
            Ends in PADDING.
        starts, lengths : ndarray
            (strings,) int64; lengths above 0.

        Returns
        -------
        ndarray
            (strings,) int32.
        """
        words = np.ndarray((len(data) - _WORD + 1,), dtype="<u8", buffer=data, strides=(1,))

        def word_at(which: np.ndarray, at: int) -> np.ndarray:
            found: np.ndarray = words[starts[which] + at] & _LOW_BYTES.take(lengths[which] - at, mode="clip")
            return found

        first = words[starts]
        first &= _LOW_BYTES.take(lengths, mode="clip")
        second = np.zeros(len(starts), dtype="<u8")
        wide = np.flatnonzero(lengths >= _WORD)
        second[wide] = word_at(wide, _WORD)
        found = self._of_pairs(first, second, 0, wide)
        longer = wide[lengths[wide] > 2 * _WORD]
        alone = longer[lengths[longer] > _CHAINED]
        for one in alone.tolist():
            found[one] = self._of_lone(data[starts[one] : starts[one] + lengths[one]], first[one], second[one])
        longer = longer[lengths[longer] <= _CHAINED]
        depth, at = 1, 2 * _WORD
        while len(longer := longer[lengths[longer] > at]):
            found[longer] = self._of_pairs(_as_word(found[longer]), word_at(longer, at), depth)
            depth, at = depth + 1, at + _WORD
        return found

    def add(self, other: "ByteNumbering") -> np.ndarray:
        """Take over all strings of `other`; the result maps its numbers to those here, int32."""
        mapped = np.zeros(len(other), dtype=np.int32)
        depths = other._depth[: len(other)]
        for string, number in other._alone.items():
            mapped[number] = self._of_lone(string, other._first[number], other._second[number])
        for depth in range(int(depths[depths < _ALONE].max(initial=0)) + 1):
            here = np.flatnonzero(depths == depth)
            first = other._first[here]
            before = _as_word(mapped[_as_number(first)]) if depth else first
            mapped[here] = self._of_pairs(before, other._second[here], depth)
        return mapped

    def strings(self, numbers: np.ndarray) -> tuple[bytes, np.ndarray]:
        """The strings of some numbers, one after the other with a line feed after each; their lengths.

        Parameters
        ----------
        numbers : ndarray
            (strings,) integers.

        Returns
        -------
        bytes, ndarray
            The lengths are (strings,) int64.
        """
        depths = self._depth[numbers]
        spelled = []
        lengths = np.zeros(len(numbers), dtype=np.int64)
        # few strings are long: the others need no wide array
        for depth in unique(depths).tolist():
            here = np.flatnonzero(depths == depth)
            characters = self._spelled(numbers[here], depth) if depth < _ALONE else self._lone(numbers[here])
            lengths[here] = np.count_nonzero(characters, axis=1)
            spelled.append((here, characters))
        joined = np.zeros(int(lengths.sum()) + len(lengths), dtype=np.uint8)
        for here, characters in spelled:
            # what is left without the zeros stands one after the other
            lines = np.pad(characters, ((0, 0), (0, 1)), constant_values=ord("\n")).ravel()
            own = np.zeros(len(lengths), dtype=bool)
            own[here] = True
            joined[np.repeat(own, lengths + 1)] = lines[lines != 0]
        return joined.tobytes(), lengths

    def ordered(self, numbers: np.ndarray) -> np.ndarray:
        """The `numbers` in the order of their strings' bytes, which in UTF-8 is that of code points."""
        roots = numbers.astype(np.int64)
        while len(deep := np.flatnonzero(self._depth[roots] % _ALONE)):
            roots[deep] = _as_number(self._first[roots[deep]])
        first, second = self._first[roots].byteswap(), self._second[roots].byteswap()
        order = np.argsort(first)
        # only those with the same first word need a look at the second
        equal = np.diff(first[order]) == 0
        some = np.flatnonzero(np.append(equal, False) | np.append(False, equal)) if len(order) else order
        alike = order[some]
        order[some] = alike[np.lexsort((second[alike], first[alike]))]
        same = np.flatnonzero((np.diff(first[order]) == 0) & (np.diff(second[order]) == 0))
        for run in np.split(same, np.flatnonzero(np.diff(same) > 1) + 1) if len(same) else ():
            # these have their first sixteen bytes in common
            some = order[run[0] : run[-1] + 2]
            spelled = self.strings(numbers[some])[0].split(b"\n")[:-1]
            order[run[0] : run[-1] + 2] = some[sorted(range(len(some)), key=spelled.__getitem__)]
        return numbers[order]

    def _spelled(self, numbers: np.ndarray, depth: int) -> np.ndarray:
        """(strings, bytes) uint8: the strings of one depth, zeros at the end."""
        columns = []
        for _ in range(depth):
            columns.append(self._second[numbers])
            numbers = _as_number(self._first[numbers])
        columns += [self._second[numbers], self._first[numbers]]
        return np.ascontiguousarray(np.stack(columns[::-1], axis=1)).view(np.uint8)

    def _lone(self, numbers: np.ndarray) -> np.ndarray:
        """(strings, bytes) uint8: strings that are in no chain, zeros at the end."""
        string_of = {number: string for string, number in self._alone.items()}
        return np.array([string_of[number] for number in numbers.tolist()])[:, np.newaxis].view(np.uint8)

    def _of_lone(self, string: bytes, first: np.ndarray, second: np.ndarray) -> int:
        if string not in self._alone:
            self._make_room(1)
            self._alone[string] = self._size
            self._first[self._size], self._second[self._size], self._depth[self._size] = first, second, _ALONE
            self._size += 1
        return self._alone[string]

    def _of_pairs(
        self, first: np.ndarray, second: np.ndarray, depth: int, wide: np.ndarray | slice = slice(None)
    ) -> np.ndarray:
        """The numbers of pairs; the first words of those that are not `wide` have less than eight bytes."""
        place = self._places(first, second, wide)
        found = self._table.take(place, mode="clip")
        # wider numbers are looked up faster
        places = found.astype(np.int64)
        same = self._first.take(places, mode="clip") == first
        same &= found >= 0
        same[wide] &= self._second.take(places[wide], mode="clip") == second[wide]
        missing = np.flatnonzero(~same)
        if len(missing):
            if self._make_room(len(missing)):
                place = self._places(first, second, wide)
            found[missing] = self._probed(first[missing], second[missing], depth, place[missing])
        return found

    def _places(self, first: np.ndarray, second: np.ndarray, wide: np.ndarray | slice = slice(None)) -> np.ndarray:
        # the second word of the others is zero
        mixed = first.copy()
        mixed[wide] ^= second[wide] * _FACTORS[1]
        mixed *= _FACTORS[0]
        mixed >>= np.uint64(64 - self._bits)
        return mixed.view(np.int64)

    def _probed(self, first: np.ndarray, second: np.ndarray, depth: int, place: np.ndarray) -> np.ndarray:
        """Numbers found by going from place to place; at an empty one a string is new, and gets the place."""
        found = np.full(len(first), -1, dtype=np.int32)
        waiting = np.arange(len(first))
        while len(waiting):
            here = self._table[place]
            empty = np.flatnonzero(here < 0)
            if len(empty):
                # of several strings for one place the first one gets it: common words come early
                self._table[place[empty[::-1]]] = empty[::-1]
                winners = empty[self._table[place[empty]] == empty]
                self._insert(first[winners], second[winners], depth, place[winners])
                here = self._table[place]
            same = (self._first[here] == first) & (self._second[here] == second)
            found[waiting[same]] = here[same]
            other = np.flatnonzero(~same)
            waiting, first, second = waiting[other], first[other], second[other]
            place = (place[other] + 1) & (len(self._table) - 1)
        return found

    def _insert(self, first: np.ndarray, second: np.ndarray, depth: int, place: np.ndarray) -> None:
        new = slice(self._size, self._size + len(first))
        self._table[place] = np.arange(new.start, new.stop)
        self._first[new], self._second[new], self._depth[new] = first, second, depth
        self._size += len(first)

    def _make_room(self, new: int) -> bool:
        """Make room for so many more strings; whether the table became larger."""
        wanted = self._size + new
        if wanted <= len(self._table) // 2:
            return False
        while len(self._table) // 2 < wanted:
            self._bits += 1
            self._table = np.full(1 << self._bits, -1, dtype=np.int32)
        for name in ("_first", "_second", "_depth"):
            old = getattr(self, name)[: self._size]
            larger = np.zeros(len(self._table) // 2, dtype=old.dtype)
            larger[: self._size] = old
            setattr(self, name, larger)
        some = slice(0, self._size)
        # lower numbers first, for they are the commoner
        numbers = np.arange(self._size, dtype=np.int32)[::-1]
        place = self._places(self._first[some], self._second[some])[::-1]
        while len(numbers):
            free = self._table[place] < 0
            self._table[place[free]] = numbers[free]
            waiting = self._table[place] != numbers
            numbers, place = numbers[waiting], (place[waiting] + 1) & (len(self._table) - 1)
        return True


def _as_word(numbers: np.ndarray) -> np.ndarray:
    return numbers.astype("<u8") << np.uint64(8)


def _as_number(words: np.ndarray) -> np.ndarray:
    return (words >> np.uint64(8)).astype(np.int64)


class CompiledNumbering:
    """Same interface, backed by the C hash table; the numbers it assigns differ."""

    def __init__(self) -> None:
        assert compiled is not None
        self._table = compiled.Table()

    def __len__(self) -> int:
        return len(self._table)

    def __getstate__(self) -> tuple[bytes, np.ndarray]:
        return self.strings(np.arange(len(self)))

    def __setstate__(self, state: tuple[bytes, np.ndarray]) -> None:
        self.__init__()  # type: ignore[misc]
        self._number_all(*state)

    def _number_all(self, spelled: bytes, lengths: np.ndarray) -> np.ndarray:
        """The numbers of strings that stand one after the other with a byte after each."""
        return self.numbers(spelled + PADDING, np.cumsum(lengths + 1) - lengths - 1, lengths)

    def numbers(self, data: bytes, starts: np.ndarray, lengths: np.ndarray) -> np.ndarray:
        """As in `ByteNumbering`; the data need not end in PADDING."""
        found = np.empty(len(starts), dtype=np.int32)
        starts, lengths = (np.ascontiguousarray(one, dtype=np.int64) for one in (starts, lengths))
        self._table.number(data, starts, lengths, found)
        return found

    def count(self, data: bytes) -> int:
        """Add up how often each run stands in a text as `find_runs` takes it; how many runs it has."""
        assert compiled is not None
        return self._table.count(data, *RUN_TABLES)

    def count_each(self, data: bytes, ends: np.ndarray) -> tuple[int, np.ndarray, np.ndarray, np.ndarray]:
        """Count the runs of each of some texts that stand one after the other, and end at `ends`.

        Returns
        -------
        int
            How many runs there are.
        different, numbers, times : ndarray
            (texts,) int64 how many different ones each text has; these, int32, and how often each stands there.
        """
        assert compiled is not None
        different = np.zeros(len(ends), dtype=np.int64)
        found, cells = self._table.count_each(
            data, *RUN_TABLES, np.ascontiguousarray(ends, dtype=np.int64), different
        )
        numbers, times = np.frombuffer(cells, dtype=np.int32).reshape(-1, 2).T
        return found, different, numbers, times

    def take(self) -> tuple[np.ndarray, np.ndarray]:
        """The numbers of the runs that were counted since this was last asked, int32, and how often, int64."""
        numbers = np.empty(self._table.met(), dtype=np.int32)
        times = np.empty(len(numbers), dtype=np.int64)
        self._table.take(numbers, times)
        return numbers, times

    def add(self, other: "CompiledNumbering") -> np.ndarray:
        """Take over all strings of `other`; the result maps its numbers to those here, int32."""
        return self._number_all(*other.strings(np.arange(len(other))))

    def strings(self, numbers: np.ndarray) -> tuple[bytes, np.ndarray]:
        """The strings of some numbers, one after the other with a line feed after each; their lengths."""
        lengths = np.empty(len(numbers), dtype=np.int64)
        return self._table.spelled(np.ascontiguousarray(numbers, dtype=np.int64), lengths), lengths

    def ordered(self, numbers: np.ndarray) -> np.ndarray:
        """The `numbers` in the order of their strings' bytes."""
        found = np.array(numbers, dtype=np.int64)
        self._table.ordered(found)
        return found


AnyNumbering = Any
"""One of the two; those of one run are of one kind."""


def new_numbering() -> AnyNumbering:
    """The quicker of the two that are there.

    Returns
    -------
    AnyNumbering
    """
    return ByteNumbering() if compiled is None else CompiledNumbering()
