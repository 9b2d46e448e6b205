"""Counting in blocks of text: what is in each document, and in which order."""

from collections.abc import Collection
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np

from millstone.core.base.arrays import begins
from millstone.core.corpus.corpus import Token
from millstone.core.matrix.on_disk import NO_LIMIT, forget, put_on_disk
from millstone.core.scan.chunk_tokens import Numbering
from millstone.core.scan.numbering import CompiledNumbering, new_numbering
from millstone.core.scan.vocabulary import SortedStrings, in_order
from millstone.core.tokenise.runs import find_runs
from millstone.core.tokenise.sentences import SentenceEnds

_WAITING = 1 << 22
# bytes of a string in a numbering
_STRING = 120


class Block(NamedTuple):
    """Some text of one document or of several.

    `data` is UTF-8 between white space, and ends in PADDING; `ends`, (documents,), says where each one's text ends.
    """

    number: int
    documents: np.ndarray
    data: bytes
    ends: np.ndarray


class BlockCells(NamedTuple):
    """How often each number occurs in the documents of a block: `rows` have `different` numbers each."""

    block: int
    rows: np.ndarray
    different: np.ndarray
    numbers: np.ndarray
    times: np.ndarray


class Sequence(NamedTuple):
    """The numbers of a block in text order: where in them each document ends, and before which a sentence does."""

    documents: np.ndarray
    ends: np.ndarray
    numbers: np.ndarray
    breaks: np.ndarray


@dataclass
class Tally:
    """The counts of some blocks.

    Attributes
    ----------
    ordered : bool
        Keep the order too.
    cells : list of BlockCells
    sequences : mapping
        Number of the block -> Sequence.
    most : int
        From so many bytes of cells on, they are put on disk.
    """

    ordered: bool
    most: int = NO_LIMIT
    cells: list[BlockCells] = field(default_factory=list)
    sequences: dict[int, Sequence] = field(default_factory=dict)
    _long: tuple[int, int] = (-1, -1)
    _waiting: list[np.ndarray] = field(default_factory=list)
    _dense: np.ndarray = field(default_factory=lambda: np.array([], dtype=np.int64))
    _put_away: int = 0
    _in_memory: int = 0
    _numbers_waiting: list[int] = field(default_factory=list)
    _numbers_in_memory: int = 0

    def count(self, block: int, documents: np.ndarray, ends: np.ndarray, numbers: np.ndarray) -> None:
        """Count the `numbers`, (tokens,) int32, of a block; those of document d end at ``ends[d]``."""
        if len(documents) == 1:
            self._count_long(block, int(documents[0]), numbers)
            return
        self._finish_long()
        rows = np.repeat(documents, np.diff(ends, prepend=0))
        keys = np.sort(rows << 32 | numbers)
        first = np.flatnonzero(begins(keys))
        keys = keys[first]
        times = np.diff(first, append=len(numbers))
        rows, different = _runs_of(keys >> 32)
        self.add(BlockCells(block, rows, different, keys.astype(np.int32), times.astype(np.int32)))

    def add(self, cells: BlockCells) -> None:
        """Take over the cells of a block."""
        self.cells.append(cells)
        self._in_memory += cells.numbers.nbytes + cells.times.nbytes
        if self._in_memory > self.most:
            self._put_cells_on_disk()

    def keep_order(self, block: int, sequence: Sequence) -> None:
        """Take over the order of a block."""
        self.sequences[block] = sequence
        self._numbers_waiting.append(block)
        self._numbers_in_memory += sequence.numbers.nbytes
        if self._numbers_in_memory > self.most:
            self._put_order_on_disk()

    def put_on_disk(self) -> None:
        """Put on disk what is in memory of cells, and of their order."""
        self._put_cells_on_disk()
        self._put_order_on_disk()

    def _put_cells_on_disk(self) -> None:
        waiting = self.cells[self._put_away :]
        numbers = put_on_disk([cells.numbers for cells in waiting], np.int32)
        times = put_on_disk([cells.times for cells in waiting], np.int32)
        for at, (some, often) in enumerate(zip(numbers, times, strict=True), self._put_away):
            self.cells[at] = self.cells[at]._replace(numbers=some, times=often)
        self._put_away, self._in_memory = len(self.cells), 0

    def _put_order_on_disk(self) -> None:
        waiting = self._numbers_waiting
        numbers = put_on_disk([self.sequences[one].numbers for one in waiting], np.int32)
        for one, some in zip(waiting, numbers, strict=True):
            self.sequences[one] = self.sequences[one]._replace(numbers=some)
        self._numbers_waiting, self._numbers_in_memory = [], 0

    def _count_long(self, block: int, document: int, numbers: np.ndarray) -> None:
        # blocks of one long document are added up: most of their words are the same
        if document != self._long[0]:
            self._finish_long()
        self._long = (document, block)
        self._waiting.append(numbers)
        if sum(map(len, self._waiting)) >= _WAITING:
            self._add_waiting()

    def _add_waiting(self) -> None:
        if not self._waiting:
            return
        counted = np.bincount(np.concatenate(self._waiting), minlength=len(self._dense))
        counted[: len(self._dense)] += self._dense
        self._dense, self._waiting = counted, []

    def _finish_long(self) -> None:
        document, block = self._long
        if document < 0:
            return
        self._add_waiting()
        numbers = np.flatnonzero(self._dense)
        self.add_long(block, document, numbers, self._dense[numbers])
        self._long, self._dense = (-1, -1), self._dense[:0]

    def add_long(self, block: int, document: int, numbers: np.ndarray, times: np.ndarray) -> None:
        """Take over the counts of a document whose last block this is."""
        row, different = np.array([document]), np.array([len(numbers)])
        self.add(BlockCells(block, row, different, numbers.astype(np.int32, copy=False), times.astype(np.int32)))

    def finish(self) -> None:
        """Take account of what is still waiting; call it once, after the last block."""
        self._finish_long()


def _runs_of(values: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Unique values of an ascending array, and their counts."""
    first = np.flatnonzero(begins(values))
    return values[first], np.diff(first, append=len(values))


@dataclass(frozen=True)
class Parked:
    """Counts under a vocabulary that was put on disk: `place` is that of each number in its `strings`."""

    strings: SortedStrings
    place: np.ndarray
    tally: Tally


class RunTally:
    """Counts the runs in blocks of bytes; each process has its own.

    Where its vocabulary takes more than `most` bytes, that is `parked` on disk, and it begins with another one.
    """

    def __init__(self, ordered: bool, most: int = NO_LIMIT) -> None:
        self.numbering = new_numbering()
        self.tally = Tally(ordered, most)
        self.parked: list[Parked] = []
        self._sentence_ends = SentenceEnds()
        # what is counted where the order does not matter: a document, and its last block
        self._whole = (-1, -1)

    def add(self, block: Block) -> int:
        """Count a block; how many tokens it has, nearly."""
        if len(self.numbering) * _STRING > self.tally.most:
            self.park()
        if not self.tally.ordered and isinstance(self.numbering, CompiledNumbering):
            return self._count(block, self.numbering)
        starts, lengths = find_runs(block.data)
        numbers = self.numbering.numbers(block.data, starts, lengths)
        ends = np.searchsorted(starts, block.ends)
        self.tally.count(block.number, block.documents, ends, numbers)
        if self.tally.ordered:
            breaks = self._sentence_ends.find(block.data, starts)
            self.tally.keep_order(block.number, Sequence(block.documents, ends, numbers, breaks))
        return len(numbers)

    def _count(self, block: Block, numbering: CompiledNumbering) -> int:
        """Count a block where the order does not matter; blocks of one long document are added up."""
        document = int(block.documents[0])
        if len(block.documents) > 1 or document != self._whole[0]:
            self._finish_whole()
        if len(block.documents) == 1:
            self._whole = (document, block.number)
            return numbering.count(block.data)
        tokens, different, numbers, times = numbering.count_each(block.data, block.ends)
        self.tally.add(BlockCells(block.number, block.documents, different, numbers, times))
        return tokens

    def finish(self) -> None:
        """Take account of what is still waiting; call it once, after the last block."""
        self._finish_whole()
        self.tally.finish()

    def park(self) -> None:
        """Put what was counted, and its vocabulary, on disk."""
        self.finish()
        present = np.zeros(len(self.numbering), dtype=bool)
        for cells in self.tally.cells:
            present[cells.numbers] = True
            forget(cells.numbers)
        strings, place = in_order(self.numbering, np.flatnonzero(present))
        self.tally.put_on_disk()
        self.parked.append(Parked(strings, place, self.tally))
        self.numbering, self.tally = new_numbering(), Tally(self.tally.ordered, self.tally.most)

    def all_parked(self) -> list[Parked]:
        """All that was counted, on disk."""
        self.park()
        return self.parked

    def _finish_whole(self) -> None:
        document, block = self._whole
        if document >= 0:
            self.tally.add_long(block, document, *self.numbering.take())
        self._whole = (-1, -1)


class PieceTally:
    """Counts pieces between white space, or annotated tokens, that are looked up one by one."""

    def __init__(self, ordered: bool, most: int = NO_LIMIT) -> None:
        self.numbering = Numbering()
        self.tally = Tally(ordered, most)
        self._waiting: list[str | Token] = []
        self._documents: list[int] = []
        self._ends: list[int] = []

    def add(self, document: int, pieces: Collection[str | Token]) -> bool:
        """Add some pieces of a document; whether so many are waiting that they should be counted."""
        self._waiting += pieces
        self._documents.append(document)
        self._ends.append(len(self._waiting))
        return max(len(self._waiting), len(self._ends)) >= _WAITING // 4

    @property
    def waiting(self) -> bool:
        """Whether there is something to count."""
        return bool(self._documents)

    def count(self, block: int) -> None:
        """Count what is waiting, as the block with this number."""
        found = map(self.numbering.__getitem__, self._waiting)
        numbers = np.fromiter(found, dtype=np.int32, count=len(self._waiting))
        documents, ends = np.array(self._documents), np.array(self._ends)
        self.tally.count(block, documents, ends, numbers)
        if self.tally.ordered:
            # a separate piece stands for the end of a paragraph
            self.tally.keep_order(block, Sequence(documents, ends, numbers, np.array([], dtype=np.int64)))
        self._waiting, self._documents, self._ends = [], [], []
