"""Merges several tallies, in memory or on disk, under one numbering of pieces."""

from dataclasses import replace

import numpy as np

from millstone.core.base.arrays import begins
from millstone.core.base.errors import DataError
from millstone.core.base.wording import of_memory
from millstone.core.corpus.corpus import Corpus
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.matrix.on_disk import SHARE, Growing, forget
from millstone.core.matrix.totals import added_times
from millstone.core.scan.chunk_tokens import PieceTable, are_ascii
from millstone.core.scan.rare_terms import Rare, wanted_runs
from millstone.core.scan.tally import PieceTally, RunTally, Tally
from millstone.core.scan.vocabulary import SortedStrings, merge
from millstone.core.tokenise.token_rules import Cutter

_FORM = 200
"""Bytes of a different word in memory, with what it becomes."""


class _Numbers:
    """The piece of each number of a tally that was put on disk, -1 where it is not wanted."""

    def __init__(self, place: np.ndarray, run_of_place: np.ndarray, piece_of_run: np.ndarray) -> None:
        self._place, self._run_of_place, self._piece_of_run = place, run_of_place, piece_of_run

    def runs(self, numbers: np.ndarray) -> np.ndarray:
        found: np.ndarray = self._run_of_place[self._place[numbers]]
        forget(self._place, self._run_of_place)
        return found

    def __getitem__(self, numbers: np.ndarray) -> np.ndarray:
        found: np.ndarray = self._piece_of_run[self.runs(numbers)]
        return found

    def whole(self) -> np.ndarray:
        return self[np.arange(len(self._place))]


class Merged:
    """The tallies of several processes under one numbering: runs in code-point order, then pieces.

    Attributes
    ----------
    table : PieceTable
    least : int
        Terms with fewer occurrences in all are not among its forms.
    tokens_left_out : ndarray or int
        (documents,) int64: the tokens of these in each document, once the matrix was asked for.
    """

    def __init__(
        self, runs: list[RunTally], pieces: PieceTally, cut: Cutter, marks: bool, memory: int, rare: Rare | None
    ) -> None:
        self.least = 1
        self.tokens_left_out: np.ndarray | int = 0
        self._memory = memory
        self._cut = cut
        self._tokens_of_run = np.array([], dtype=np.int32)
        self._runs: list[tuple[Tally, np.ndarray | _Numbers]] = []
        strings, is_ascii = (
            self._from_disk(runs, rare) if any(one.parked for one in runs) else self._from_memory(runs)
        )
        self.table = PieceTable(strings, is_ascii, pieces.numbering, cut, marks)
        after_runs = np.arange(len(strings), len(self.table), dtype=np.int32)
        self._tallies = [(pieces.tally, after_runs), *self._runs]

    def _from_memory(self, runs: list[RunTally]) -> tuple[list[str], np.ndarray]:
        """Unique runs in order, and which of them are ASCII."""
        runs.sort(key=lambda one: -len(one.numbering))
        numbering = runs[0].numbering
        numbers = [np.arange(len(numbering), dtype=np.int32), *(numbering.add(one.numbering) for one in runs[1:])]
        present = np.zeros(len(numbering), dtype=bool)
        for one, mapped in zip(runs, numbers, strict=True):
            for cells in one.tally.cells:
                present[mapped[cells.numbers]] = True
                forget(cells.numbers)
        order = numbering.ordered(np.flatnonzero(present))
        number_of = np.zeros(len(numbering), dtype=np.int32)
        number_of[order] = np.arange(len(order))
        self._check_room(len(order))
        spelled, lengths = numbering.strings(order)
        self._runs = [(one.tally, number_of[mapped]) for one, mapped in zip(runs, numbers, strict=True)]
        return spelled.decode("utf-8", "surrogatepass").split("\n")[:-1], are_ascii(spelled, lengths)

    def _from_disk(self, runs: list[RunTally], rare: Rare | None) -> tuple[list[str], np.ndarray]:
        """Merge where vocabularies were put on disk."""
        parked = [some for one in runs for some in one.all_parked()]
        whole, places = merge([one.strings for one in parked])
        piece_of_run = np.arange(len(whole), dtype=np.int32)
        numbers = [_Numbers(one.place, place, piece_of_run) for one, place in zip(parked, places, strict=True)]
        if rare is not None and rare.least > 1:
            times = np.zeros(len(whole), dtype=np.int64)
            for some, mapped in zip(parked, numbers, strict=True):
                for cells in some.tally.cells:
                    added_times(cells.times, mapped.runs(cells.numbers), times)
                    forget(cells.numbers, cells.times)
            wanted, self._tokens_of_run = wanted_runs(whole, times, self._cut, rare)
            piece_of_run[:] = np.where(wanted, np.cumsum(wanted) - 1, -1)
            self.least = rare.least
        else:
            wanted = np.ones(len(whole), dtype=bool)
        self._check_room(int(wanted.sum()))
        self._runs = [(one.tally, mapped) for one, mapped in zip(parked, numbers, strict=True)]
        return _strings(whole, wanted)

    def _check_room(self, different: int) -> None:
        if different * _FORM > self._memory:
            need, room = of_memory(different * _FORM), of_memory(self._memory)
            raise DataError(
                f"{different:,} different words take about {need} of memory, and {room} are allowed",
                "allow more with --memory; freq needs less when rare words are left out with --min-freq 5",
            )

    def matrix(self, documents: int) -> SparseMatrix:
        """(documents, pieces) int32; of a document in several blocks, a piece may have several cells."""
        every = [(cells, mapped) for tally, mapped in self._tallies for cells in tally.cells]
        every.sort(key=lambda one: one[0].block)
        for tally, _ in self._tallies:
            tally.cells.clear()
        ends = np.zeros(documents + 1, dtype=np.int64)
        # values and columns take half of it each
        size = sum(len(cells.numbers) for cells, _ in every)
        most = self._memory // SHARE // 2
        pieces, times = (Growing(np.int32, most, size) for _ in range(2))
        left_out = np.zeros(documents, dtype=np.int64)
        for cells, mapped in every:
            found, often, different = mapped[cells.numbers], cells.times, cells.different
            if self.least > 1 and isinstance(mapped, _Numbers):
                row, is_wanted = np.repeat(np.arange(len(cells.rows)), different), found >= 0
                tokens = self._tokens_of_run[mapped.runs(cells.numbers[~is_wanted])] * often[~is_wanted]
                left_out[cells.rows] += np.bincount(row[~is_wanted], tokens, len(cells.rows)).astype(np.int64)
                found, often = found[is_wanted], often[is_wanted]
                different = np.bincount(row[is_wanted], minlength=len(cells.rows))
            ends[cells.rows + 1] += different
            pieces.add(found)
            times.add(often)
            forget(cells.numbers, cells.times)
        if self.least > 1:
            self.tokens_left_out = left_out
        ends = np.cumsum(ends)
        # numbers of four bytes where they suffice, which takes half the memory
        ends = ends.astype(np.int32) if ends[-1] < 2**31 else ends
        return SparseMatrix(times.array(), pieces.array(), ends, (documents, len(self.table)))

    def with_order(self, corpus: Corpus) -> Corpus:
        """The corpus with the order of its tokens."""
        every = []
        for tally, mapped in self._tallies:
            expansion = self.table.expansion(mapped.whole() if isinstance(mapped, _Numbers) else mapped)
            every += [(number, tally, expansion) for number in tally.sequences]
        ids = Growing(np.int32, self._memory // SHARE, int(corpus.form_counts.row_sums().sum()))
        lengths = np.zeros(len(corpus.tokens), dtype=np.int64)
        breaks = []
        filled = 0
        for number, tally, expansion in sorted(every, key=lambda one: one[0]):
            sequence = tally.sequences.pop(number)
            tokens, between, ends = expansion.tokens(sequence.numbers, sequence.breaks, sequence.ends)
            np.add.at(lengths, sequence.documents, np.diff(ends, prepend=0))
            ids.add(tokens)
            forget(sequence.numbers)
            breaks.append(filled + between)
            filled += len(tokens)
        starts = np.concatenate(([0], np.cumsum(lengths)))
        bounds = np.sort(np.concatenate([*breaks, starts]))
        return replace(corpus, ids=ids.array(), starts=starts, breaks=bounds[begins(bounds)])


def _strings(whole: SortedStrings, wanted: np.ndarray) -> tuple[list[str], np.ndarray]:
    """The strings that are wanted, and which of them are ASCII."""
    found: list[str] = []
    ascii_ones = []
    for here, spelled, lengths in whole.blocks():
        strings = spelled.decode("utf-8", "surrogatepass").split("\n")[:-1]
        found += [strings[number] for number in np.flatnonzero(wanted[here]).tolist()]
        ascii_ones.append(are_ascii(spelled, lengths)[wanted[here]])
    return found, np.concatenate([np.array([], dtype=bool), *ascii_ones])
