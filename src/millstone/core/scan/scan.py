"""From documents to a Corpus: texts are counted in blocks, and each different piece is read once."""

from collections.abc import Callable, Iterable
from typing import TYPE_CHECKING

from millstone.core.base.arrays import compiled
from millstone.core.corpus.corpus import Corpus, Document, natural_key
from millstone.core.corpus.documents import DocumentBlock, DocumentTableBuilder
from millstone.core.matrix.on_disk import NO_LIMIT, SHARE
from millstone.core.scan.blocks import Packer
from millstone.core.scan.chunk_tokens import pieces_of, text_blocks
from millstone.core.scan.merge_tallies import Merged
from millstone.core.scan.rare_terms import Rare
from millstone.core.scan.tally import Block, PieceTally, RunTally
from millstone.core.tokenise.token_rules import are_words, cutter

if TYPE_CHECKING:
    from millstone.core.scan.threads import Threads

    # worker processes take 40 ms to import
    from millstone.core.scan.workers import WorkerPool

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
    rare: Rare | None = None,
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
        How many bytes to be content with: words and counts of documents, and what is made of these, lie on disk
        beyond their part of it.
    rare : Rare, optional
        Which terms are not wanted, where there are so many different words that they do not fit. In an ordered scan
        all of them are.

    Returns
    -------
    Corpus

    Raises
    ------
    MillstoneError
        When a process that counts is ended from outside, memory is too small for the different words or for what is
        known of the documents, or the disk for what is put there.

    Notes
    -----
    Under the rule ``words`` texts are cut into runs of bytes by array operations, so that time in Python
    grows only with the number of different words; under other rules each piece between white space is
    looked up. Memory does not grow with the length of a text, the order of its tokens aside.
    """
    described = DocumentTableBuilder(memory)
    counting = _Counting(ordered, progress, jobs, rule == _BY_RUNS and not marks, memory // SHARE)
    try:
        for document in documents:
            if isinstance(document, DocumentBlock):
                counting.add_block(described.number, document)
                described.add_block(document)
            else:
                counting.add(described.number, document)
                described.add(document)
        merged = Merged(
            counting.tallies(), counting.pieces, cutter(rule, marks), marks, memory, None if ordered else rare
        )
    finally:
        counting.close()
    table = merged.table
    form_counts = table.form_counts(merged.matrix(described.number))
    tokens = form_counts @ are_words(table.forms) if counting.may_have_marks else form_counts.row_sums()
    corpus = Corpus(
        forms=table.forms,
        form_counts=form_counts,
        tokens=tokens + merged.tokens_left_out,
        documents=described.table(),
        groups=tuple(sorted(described.groups, key=natural_key)),
        annotation=table.annotation,
        least=merged.least,
    )
    return merged.with_order(corpus) if ordered else corpus


def _crew(jobs: int, ordered: bool, most: int) -> "WorkerPool | Threads":
    """Worker threads if the compiled extension (which releases the GIL) is there, otherwise processes."""
    if compiled is not None:
        # small corpora are scanned in this thread
        from millstone.core.scan.threads import Threads

        return Threads(jobs, ordered, most)
    # worker processes take 40 ms to import
    from millstone.core.scan.workers import WorkerPool

    return WorkerPool(jobs, ordered)


class _Counting:
    """Routes each text to the run counter or the piece counter."""

    def __init__(self, ordered: bool, progress: Progress, jobs: int, by_runs: bool, most: int) -> None:
        # each has its part
        self._most = most // (jobs + 1)
        self.pieces = PieceTally(ordered, self._most)
        self._ordered, self._progress, self._jobs, self._by_runs = ordered, progress, jobs, by_runs
        self._packer = Packer()
        self._runs = RunTally(ordered, self._most)
        self._crew: WorkerPool | Threads | None = None
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
