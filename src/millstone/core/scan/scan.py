"""From documents to a Corpus: texts are counted in blocks, and each different piece is read once."""

from collections.abc import Callable, Iterable
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from millstone.core.arrays import begins, compiled
from millstone.core.corpus.corpus import Corpus, Document, natural_key
from millstone.core.corpus.documents import Described, DocumentBlock
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.matrix.on_disk import NO_LIMIT, Growing, forget
from millstone.core.scan.blocks import Packer
from millstone.core.scan.pieces import PieceTable, pieces_of, text_blocks
from millstone.core.scan.tally import Block, PieceTally, RunTally, Tally
from millstone.core.tokenise.token_rules import Cutter, are_words, cutter

if TYPE_CHECKING:
    from millstone.core.scan.threads import Threads
    from millstone.core.scan.workers import Crew

_BY_RUNS = "words"
# starting processes pays for itself from so many bytes on
LONG = 4 << 20

Progress = Callable[[int, int], None]


def scan(
    documents: Iterable[Document | DocumentBlock],
    ordered: bool = False,
    progress: Progress = lambda size, tokens: None,
    rule: str = "words",
    marks: bool = False,
    jobs: int = 1,
    memory: int = NO_LIMIT,
) -> Corpus:
    """Scan documents into a Corpus.

    Parameters
    ----------
    documents : iterable of Document or DocumentBlock
        Taken one at a time, so that only one text need be in memory.
    ordered : bool
        Keep the order of tokens and the sentence bounds, for what needs more than counts.
    progress : callable
        Called with the bytes of each block that was read, and how many tokens were counted meanwhile.
    rule : str
        The token rule, as in `token_rules.cutter`.
    marks : bool
        Marks of punctuation are counted too; they are not part of ``tokens``.
    jobs : int
        In how many processes to count, once the texts prove to be long; the result is the same.
    memory : int
        How many bytes the counts of documents may take; beyond that they, and what is made of them, lie on disk.

    Returns
    -------
    Corpus

    Raises
    ------
    MillstoneError
        When a process that counts is ended from outside.

    Notes
    -----
    Under the rule ``words`` texts are cut into runs of bytes by array operations, so that time in Python
    grows only with the number of different words; under other rules each piece between white space is
    looked up. Memory does not grow with the length of a text, the order of its tokens aside.
    """
    described = Described()
    counting = _Counting(ordered, progress, jobs, rule == _BY_RUNS and not marks, memory)
    try:
        for document in documents:
            if isinstance(document, DocumentBlock):
                counting.add_block(described.number, document)
                described.add_block(document)
            else:
                counting.add(described.number, document)
                described.add(document)
        merged = _Merged(counting.tallies(), counting.pieces, cutter(rule, marks), marks)
    finally:
        counting.close()
    table = merged.table
    form_counts = table.form_counts(merged.matrix(described.number, memory))
    corpus = Corpus(
        forms=table.forms,
        form_counts=form_counts,
        tokens=form_counts @ are_words(table.forms) if counting.may_have_marks else form_counts.row_sums(),
        documents=described.table(),
        groups=tuple(sorted(described.groups, key=natural_key)),
        annotation=table.annotation,
    )
    return merged.with_order(corpus, memory) if ordered else corpus


def _crew(jobs: int, ordered: bool, most: int) -> "Crew | Threads":
    """Several at work: threads where most of it is done without the interpreter, else processes."""
    if compiled is not None:
        from millstone.core.scan.threads import Threads

        return Threads(jobs, ordered, most)
    from millstone.core.scan.workers import Crew

    return Crew(jobs, ordered)


class _Counting:
    """Sends each text the way that its kind and the token rule ask for."""

    def __init__(self, ordered: bool, progress: Progress, jobs: int, by_runs: bool, memory: int) -> None:
        # each keeps its part of what memory has room for
        self._most = memory // (jobs + 1)
        self.pieces = PieceTally(ordered, self._most)
        self._ordered, self._progress, self._jobs, self._by_runs = ordered, progress, jobs, by_runs
        self._packer = Packer()
        self._runs = RunTally(ordered, self._most)
        self._crew: Crew | Threads | None = None
        self._size = 0

    @property
    def may_have_marks(self) -> bool:
        return len(self.pieces.numbering) > 0

    def add(self, number: int, document: Document) -> None:
        """Count a document."""
        if document.annotated is not None or not self._by_runs:
            self._count(self._packer.rest())
            for text in text_blocks(document.whole()):
                if self.pieces.add(number, pieces_of(text, self._ordered)):
                    self._count_pieces()
                self._progress(len(text), 0)
            return
        self._count_pieces()
        if document.chunks is None:
            self._count(self._packer.text(number, document.text))
        else:
            self._count(self._packer.stream(number, document.chunks()))

    def add_block(self, first: int, block: DocumentBlock) -> None:
        """Count many documents, numbered from `first` on."""
        if not self._by_runs:
            for number, document in enumerate(block.documents(), first):
                self.add(number, document)
            return
        self._count_pieces()
        self._count(self._packer.texts(first, block.texts, block.ends))

    def _count_pieces(self) -> None:
        if self.pieces.waiting:
            self._packer.number += 1
            self.pieces.count(self._packer.number)

    def _count(self, blocks: Iterable[Block]) -> None:
        for block in blocks:
            self._size += len(block.data)
            if self._crew is None and self._jobs > 1 and self._size > LONG:
                self._crew = _crew(self._jobs, self._ordered, self._most)
            counted = (self._crew or self._runs).add(block)
            self._progress(len(block.data), counted)

    def tallies(self) -> list[RunTally]:
        """All that was counted in runs."""
        self._count(self._packer.rest())
        self._count_pieces()
        self._runs.finish()
        self.pieces.tally.finish()
        return [self._runs, *(self._crew.tallies() if self._crew else ())]

    def close(self) -> None:
        """End the processes, if there are any."""
        if self._crew:
            self._crew.close()


class _Merged:
    """The tallies of several processes under one numbering: runs in code-point order, then pieces."""

    def __init__(self, runs: list[RunTally], pieces: PieceTally, cut: Cutter, marks: bool) -> None:
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
        spelled, lengths = numbering.strings(order)
        strings = spelled.decode("utf-8", "surrogatepass").split("\n")[:-1]
        self.table = PieceTable(strings, _are_ascii(spelled, lengths), pieces.numbering, cut, marks)
        after_runs = np.arange(len(order), len(self.table), dtype=np.int32)
        self._tallies: list[tuple[Tally, np.ndarray]] = [(pieces.tally, after_runs)]
        self._tallies += [(one.tally, number_of[mapped]) for one, mapped in zip(runs, numbers, strict=True)]

    def matrix(self, documents: int, memory: int) -> SparseMatrix:
        """(documents, pieces) int32; of a document in several blocks, a piece may have several cells."""
        every = [(cells, mapped) for tally, mapped in self._tallies for cells in tally.cells]
        every.sort(key=lambda one: one[0].block)
        for tally, _ in self._tallies:
            tally.cells.clear()
        ends = np.zeros(documents + 1, dtype=np.int64)
        # values and columns take half of it each
        size = sum(len(cells.numbers) for cells, _ in every)
        pieces, times = (Growing(np.int32, memory // 2, size) for _ in range(2))
        for cells, mapped in every:
            ends[cells.rows + 1] += cells.different
            pieces.add(mapped[cells.numbers])
            times.add(cells.times)
            forget(cells.numbers, cells.times)
        ends = np.cumsum(ends)
        # numbers of four bytes where they suffice, which takes half the memory
        ends = ends.astype(np.int32) if ends[-1] < 2**31 else ends
        return SparseMatrix(times.array(), pieces.array(), ends, (documents, len(self.table)))

    def with_order(self, corpus: Corpus, memory: int) -> Corpus:
        """The corpus with the order of its tokens."""
        every = []
        for tally, mapped in self._tallies:
            expansion = self.table.expansion(mapped)
            every += [(number, tally, expansion) for number in tally.sequences]
        ids = Growing(np.int32, memory, int(corpus.form_counts.row_sums().sum()))
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


def _are_ascii(spelled: bytes, lengths: np.ndarray) -> np.ndarray:
    """(strings,) bool, of strings of so many bytes with one byte between them."""
    found = np.ones(len(lengths), dtype=bool)
    beyond = np.flatnonzero(np.frombuffer(spelled, dtype=np.uint8) >= 0x80)
    found[np.searchsorted(np.cumsum(lengths + 1), beyond, side="right")] = False
    return found
