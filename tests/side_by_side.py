"""Test classes run side by side, each in its own process, on all cores."""

import multiprocessing
import os
import unittest
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor, as_completed

from tests.cli.fork_server import fork_server
from tests.cli.program import environment

_Reported = list[tuple[str, str, str]]
"""What became of each test: kind of end, name, traceback or reason."""


class _Ended:
    """A test that ran elsewhere, as a result names it."""

    def __init__(self, name: str) -> None:
        self._name = name

    def __str__(self) -> str:
        return self._name

    def id(self) -> str:
        """Its name."""
        return self._name

    def shortDescription(self) -> None:  # noqa: N802
        """Its name says enough."""


class _Record(unittest.TestResult):
    """A result that can be sent to another process."""

    def __init__(self) -> None:
        super().__init__()
        self.reported: _Reported = []

    def startTest(self, test: unittest.TestCase) -> None:  # noqa: N802
        super().startTest(test)
        self.reported.append(("run", str(test), ""))

    def addSuccess(self, test: unittest.TestCase) -> None:  # noqa: N802
        self.reported.append(("passed", str(test), ""))

    def finished(self) -> _Reported:
        """What became of all tests."""
        ends = (("failures", self.failures), ("errors", self.errors), ("skipped", self.skipped))
        return [*self.reported, *((kind, str(test), text) for kind, found in ends for test, text in found)]


class SideBySide(unittest.TestSuite):
    """Runs the classes of its tests in as many processes as there are cores, those of the program first."""

    def run(self, result: unittest.TestResult, debug: bool = False) -> unittest.TestResult:
        classes = list(_classes(self))
        if debug or len(classes) < 2 or not hasattr(os, "fork"):
            return super().run(result, debug)
        # what takes long is begun first
        classes.sort(key=lambda suite: (not _takes_long(suite), ".cli." not in _first(suite).id()))
        _WAITING[:] = classes
        # all processes share the one that has imported millstone
        fork_server(tuple(environment().items()))
        with ProcessPoolExecutor(mp_context=multiprocessing.get_context("fork")) as pool:
            for run in as_completed([pool.submit(_run, number) for number in range(len(classes))]):
                _hand_over(run.result(), result)
        if stream := getattr(result, "stream", None):
            stream.write("".join(f"\nleft out: {reason}" for reason in sorted({text for _, text in result.skipped})))
        return result


def _first(suite: unittest.TestSuite) -> unittest.TestCase:
    return next(_each(suite))


def _takes_long(suite: unittest.TestSuite) -> bool:
    """Whether the class of some tests says that it takes a tenth of the whole time, or nearly so."""
    return getattr(type(_first(suite)), "takes_long", False)


_WAITING: list[unittest.TestSuite] = []
"""The suites, where the forked processes find them."""


def _run(number: int) -> _Reported:
    record = _Record()
    _WAITING[number].run(record)
    return record.finished()


def _classes(suite: unittest.TestSuite) -> Iterator[unittest.TestSuite]:
    """A suite for each class of tests."""
    by_class: dict[type, unittest.TestSuite] = {}
    for test in _each(suite):
        by_class.setdefault(type(test), unittest.TestSuite()).addTest(test)
    yield from by_class.values()


def _each(suite: unittest.TestSuite) -> Iterator[unittest.TestCase]:
    for one in suite:
        if isinstance(one, unittest.TestSuite):
            yield from _each(one)
        else:
            yield one


def _hand_over(reported: _Reported, result: unittest.TestResult) -> None:
    for kind, name, text in reported:
        if kind == "run":
            result.testsRun += 1
            continue
        if kind != "passed":
            getattr(result, kind).append((_Ended(name), text))
        if stream := getattr(result, "stream", None):
            stream.write("." if kind == "passed" else kind[0].upper())
            stream.flush()
