"""Blocks counted in several threads at once: the compiled part lets go of the interpreter while it counts."""

from collections.abc import Iterator
from queue import Queue
from threading import Thread

from millstone.core.matrix.on_disk import NO_LIMIT
from millstone.core.scan.tally import Block, RunTally

_AHEAD = 2


class Threads:
    """Threads that each keep a tally of the blocks they are given; `close` ends them."""

    def __init__(self, jobs: int, ordered: bool, most: int = NO_LIMIT) -> None:
        self._blocks: Queue[Block | None] = Queue(_AHEAD * jobs)
        self._counted: Queue[int | BaseException] = Queue()
        self._tallies = [RunTally(ordered, most) for _ in range(jobs)]
        self._ended = False
        self._threads = [Thread(target=self._work, args=(one,), daemon=True) for one in self._tallies]
        for thread in self._threads:
            thread.start()

    def add(self, block: Block) -> int:
        """Give a block to whoever is free; waits while enough of them wait.

        The result says how many tokens were counted in blocks that were finished meanwhile.
        """
        self._blocks.put(block)
        return self._finished()

    def tallies(self) -> Iterator[RunTally]:
        """The tally of each thread, once everything is counted."""
        for _ in self._threads:
            self._blocks.put(None)
        for thread in self._threads:
            thread.join()
        self._finished()
        yield from self._tallies

    def close(self) -> None:
        """End the threads; what still waits is passed over."""
        self._ended = True
        while any(thread.is_alive() for thread in self._threads):
            while not self._blocks.empty():
                self._blocks.get()
            for _ in self._threads:
                self._blocks.put(None)
            for thread in self._threads:
                thread.join(0.1)

    def _finished(self) -> int:
        tokens = 0
        while not self._counted.empty():
            found = self._counted.get()
            if isinstance(found, BaseException):
                raise found
            tokens += found
        return tokens

    def _work(self, tally: RunTally) -> None:
        block: Block | None = None
        try:
            while (block := self._blocks.get()) is not None:
                if not self._ended:
                    self._counted.put(tally.add(block))
            tally.finish()
        except BaseException as error:
            self._counted.put(error)
            # the blocks are still taken, so that nobody waits
            while block is not None:
                block = self._blocks.get()
