"""Blocks counted in several processes at once."""

import multiprocessing
import signal
import sys
from collections.abc import Iterator, Sequence
from multiprocessing.connection import wait
from multiprocessing.process import BaseProcess
from typing import Any

from millstone.core.base.errors import MillstoneError
from millstone.core.scan.tally import Block, RunTally

_AHEAD = 2


class WorkerPool:
    """Processes that each keep a tally of the blocks they are given; `close` ends them.

    Raises
    ------
    MillstoneError
        From its methods, when a process was ended from outside.
    """

    def __init__(self, jobs: int, ordered: bool) -> None:
        # a forked process starts at once; where forking is not safe it is started anew
        forks = sys.platform == "linux"
        context: Any = multiprocessing.get_context("fork" if forks else "spawn")
        self._processes: list[BaseProcess] = []
        self._busy: dict[Any, int] = {}
        for _ in range(jobs):
            here, there = context.Pipe()
            self._busy[here] = 0
            inherited = list(self._busy) if forks else []
            process = context.Process(target=_work, args=(there, inherited, ordered), daemon=True)
            process.start()
            there.close()
            self._processes.append(process)

    def add(self, block: Block) -> int:
        """Give a block to the process that has least to do; waits while all have enough.

        The result says how many tokens were counted in blocks that were finished meanwhile.
        """
        counted = 0
        while min(self._busy.values()) >= _AHEAD:
            for one in wait(list(self._busy)):
                counted += self._receive(one)
                self._busy[one] -= 1
        free = min(self._busy, key=self._busy.__getitem__)
        self._send(free, block)
        self._busy[free] += 1
        return counted

    def tallies(self) -> Iterator[RunTally]:
        """The tally of each process, once everything is counted."""
        for one in self._busy:
            self._send(one, None)
        for one, waiting in self._busy.items():
            for _ in range(waiting):
                self._receive(one)
            yield self._receive(one)

    def close(self) -> None:
        """End the processes."""
        for process in self._processes:
            process.terminate()
            process.join()

    def _send(self, one: Any, block: Block | None) -> None:
        try:
            one.send(block)
        except OSError:
            self._receive(one)
            raise

    def _receive(self, one: Any) -> Any:
        try:
            found = one.recv()
        except (EOFError, OSError) as error:
            raise MillstoneError(
                "a counting process was ended from outside", "the memory may be full: try again with --jobs 1"
            ) from error
        if isinstance(found, Exception):
            raise found
        return found


def _work(connection: Any, inherited: Sequence[Any], ordered: bool) -> None:
    # an interruption is the business of the process that started this one
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    signal.signal(signal.SIGTERM, signal.SIG_DFL)
    for one in inherited:
        one.close()
    tally = RunTally(ordered)
    try:
        while (block := connection.recv()) is not None:
            connection.send(tally.add(block))
        tally.finish()
        connection.send(tally)
    except (EOFError, BrokenPipeError):
        return
    except Exception as error:
        connection.send(error)
