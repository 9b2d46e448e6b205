"""Runs the program in a forked child, and says what it did that no program should."""

import contextlib
import io
import os
import re
import resource
import signal
import sys
import tempfile
import time
import zipfile
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path

from lxml import etree

from fuzzing.samples import SECRET

SECONDS, MEGABYTES = 20, 1000
"""What one case may take."""
_STATUS = (0, 1, 2, 130)
_CODE = re.compile(rb"<script>alert|<img src=x")
_FAULT = "a fault in millstone itself"


@dataclass(frozen=True)
class Case:
    """One run of the program: what is typed, in which folder, what comes on standard input."""

    kind: str
    arguments: tuple[str, ...]
    folder: Path
    given: bytes = b""


@dataclass(frozen=True)
class Ended:
    """How a run ended: status (negative for a signal), what was printed and said, seconds, peak memory in MB."""

    status: int
    out: bytes
    err: str
    seconds: float
    memory: float


class Run:
    """A case being run in a child of this process, which has imported the program."""

    def __init__(self, case: Case, environment: dict[str, str], debug: bool = False) -> None:
        self.case = case
        self._streams = [tempfile.TemporaryFile() for _ in range(3)]  # noqa: SIM115 (closed when it has ended)
        self._streams[0].write(case.given)
        self._streams[0].seek(0)
        self._start = time.monotonic()
        self._child = os.fork()
        if self._child == 0:
            _as_program(case, environment, [stream.fileno() for stream in self._streams], debug)

    def send(self, number: int) -> None:
        """Send a signal, if it still runs."""
        with contextlib.suppress(ProcessLookupError):
            os.kill(self._child, number)

    def ended(self) -> Ended | None:
        """How it ended; None while it runs."""
        found, status, usage = os.wait4(self._child, os.WNOHANG)
        taken = time.monotonic() - self._start
        if not found:
            if taken > SECONDS:
                with contextlib.suppress(ProcessLookupError):
                    os.killpg(self._child, signal.SIGKILL)
            return None
        for stream in self._streams[1:]:
            stream.seek(0)
        out, err = (stream.read() for stream in self._streams[1:])
        for stream in self._streams:
            stream.close()
        code, memory = os.waitstatus_to_exitcode(status), usage.ru_maxrss / 1024
        return Ended(code, out, err.decode("utf-8", "replace"), taken, memory)


def run(case: Case, environment: dict[str, str], debug: bool = False) -> Ended:
    """Run a case to its end."""
    running = Run(case, environment, debug)
    while (ended := running.ended()) is None:
        time.sleep(0.002)
    return ended


def run_all(cases: Iterable[Case], environment: dict[str, str]) -> Iterator[tuple[Case, Ended]]:
    """Run cases, as many at a time as there are cores; forked by one thread, so that no lock is held in a child."""
    running: list[Run] = []
    waiting = iter(cases)
    while True:
        while len(running) < (os.cpu_count() or 1) and (case := next(waiting, None)) is not None:
            running.append(Run(case, environment))
        if not running:
            return
        for one in list(running):
            if (ended := one.ended()) is not None:
                running.remove(one)
                yield one.case, ended
        time.sleep(0.001)


def _as_program(case: Case, environment: dict[str, str], streams: list[int], debug: bool) -> None:
    """Be the program, and never return."""
    status = 70
    try:
        os.setpgrp()
        for place, stream in enumerate(streams):
            os.dup2(stream, place)
        resource.setrlimit(resource.RLIMIT_AS, (8 << 30, 8 << 30))
        os.chdir(case.folder)
        os.environ.clear()
        os.environ.update(environment)
        sys.stdin = io.TextIOWrapper(os.fdopen(0, "rb", closefd=False), encoding="utf-8", errors="surrogateescape")
        sys.stdout = io.TextIOWrapper(os.fdopen(1, "wb", closefd=False), encoding="utf-8", errors="surrogateescape")
        sys.stderr = io.TextIOWrapper(
            os.fdopen(2, "wb", closefd=False), encoding="utf-8", errors="backslashreplace", line_buffering=True
        )
        sys.argv = ["millstone", *case.arguments, *(["--debug"] if debug else [])]
        status = _ended()
        for stream in (sys.stdout, sys.stderr):
            stream.flush()
    finally:
        os._exit(status)


def _ended() -> int:
    from millstone.__main__ import run as program

    try:
        program()
    except SystemExit as end:
        return end.code if isinstance(end.code, int) else int(end.code is not None)
    except BaseException:
        sys.excepthook(*sys.exc_info())
        return 1
    return 0


def faults(case: Case, ended: Ended) -> list[str]:
    """What is wrong with how a run ended; nothing where all is well."""
    found = []
    if ended.seconds > SECONDS:
        found.append("hangs")
    elif ended.status not in _STATUS:
        found.append(f"exit status {ended.status}")
    # the models of the tagger alone take more
    if ended.memory > MEGABYTES * (2 if any("--tag" in one for one in case.arguments) else 1):
        found.append("memory")
    if _FAULT in ended.err:
        found.append("a fault of its own")
    if "Traceback" in ended.err:
        found.append("a traceback")
    if re.search(r"\w+Warning: ", ended.err):
        found.append("a warning of a library")
    if ended.status in (1, 2) and not _is_message(ended.err):
        found.append("a message that is not two lines")
    if list(case.folder.rglob(".millstone-room-*")):
        found.append("a half-written file")
    if case.kind in ("foreign_study", "addresses") and "--trust" not in case.arguments:
        found += _leaks(case, ended)
    if ended.status == 0:
        found += [f"{path.suffix}: {wrong}" for path in case.folder.rglob("*") if (wrong := _wrong_in(path))]
    return found


def _leaks(case: Case, ended: Ended) -> list[str]:
    """What was shown or written that nobody trusted the program with."""
    secret = SECRET.encode()
    found = ["a secret is shown"] if secret in ended.out or SECRET in ended.err else []
    own, sent = case.folder / "own", case.folder / "sent"
    if own.exists() and {path.name for path in own.iterdir()} != {"secret.txt", "secret.csv"}:
        found.append("something is written outside the folder of the study")
    written = (path for path in sent.rglob("*") if path.is_file() and not path.is_symlink())
    if any(secret in path.read_bytes() for path in written if "link" not in path.parts):
        found.append("a secret is written")
    return found


def _wrong_in(path: Path) -> str:
    """What a page or a drawing has that none should: code of the texts, or markup that does not close."""
    if path.suffix in (".svg", ".gexf", ".graphml"):
        try:
            etree.parse(path)
        except etree.XMLSyntaxError:
            return "not valid XML"
    if path.name == "o.xlsx":
        try:
            with zipfile.ZipFile(path) as book:
                for part in book.namelist():
                    etree.fromstring(book.read(part))
        except etree.XMLSyntaxError:
            return "not valid XML"
    if path.suffix in (".html", ".svg", ".gexf") and _CODE.search(path.read_bytes()):
        return "code of the texts"
    return ""


def _is_message(err: str) -> bool:
    lines = err.rstrip("\n").split("\n")
    return (
        len(lines) > 1
        and bool(re.match(r"millstone( \w+)?: error: .", lines[-2]))
        and lines[-1].startswith("  what to do: ")
    )


def place_of(case: Case, environment: dict[str, str]) -> str:
    """Where in the program a fault arose: the last of its own lines in the traceback, and the exception."""
    err = run(case, environment, debug=True).err
    own = re.findall(r'File "[^"]*/millstone/([^"]+)", line (\d+), in (\w+)', err)
    last = err.strip().splitlines()[-1] if err.strip() else ""
    where = "{}:{} {}".format(*own[-1]) if own else "?"
    return f"{where}: {last.partition(':')[0][:60]}"
