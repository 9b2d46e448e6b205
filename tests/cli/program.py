"""Runs the installed program on files in a temporary folder."""

import csv
import json
import os
import pty
import re
import subprocess
import sys
import tempfile
import threading
import unittest
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

from tests.cli.fork_server import fork_server

PROGRAM = Path(sys.executable).with_name("millstone")
_OF_DEVELOPERS = ("PYTHONUNBUFFERED", "PYTHONDONTWRITEBYTECODE", "MILLSTONE_CLUSTER")


@dataclass(frozen=True)
class Run:
    code: int
    out: str
    err: str

    def rows(self) -> list[dict[str, str]]:
        lines = self.out.splitlines()
        return [dict(zip(lines[0].split("\t"), line.split("\t"), strict=True)) for line in lines[1:]]


def environment(**own: str) -> dict[str, str]:
    """The environment as a user has it: output buffered, a plain locale."""
    inherited = {name: value for name, value in os.environ.items() if name not in _OF_DEVELOPERS}
    return {**inherited, "PYTHONWARNINGS": "error::RuntimeWarning", "COLUMNS": "100", "LC_ALL": "C", **own}


class ProgramTest(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def write(self, name: str, content: str | bytes) -> Path:
        path = self.folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(content.encode("utf-8") if isinstance(content, str) else content)
        return path

    def three_huts(self) -> None:
        self.write("huts/Ostrel/1.txt", "Rope and ice. The rope froze.")
        self.write("huts/Ostrel/2.txt", "Rope, rope, harness!")
        self.write("huts/Fallowmere/1.txt", "The boat leaks. The children laugh.")
        self.write("huts/Haskgate/1.txt", "A long stage, wet socks, the stove.")

    def millstone(
        self, *arguments: object, own: dict[str, str] | None = None, inside: Path | None = None, **settings: object
    ) -> Run:
        place, around = inside or self.folder, environment(**(own or {}))
        parent = fork_server(tuple(environment().items())) if not settings.keys() - {"input"} else None
        if parent is not None:
            given = str(settings.get("input", "")).encode()
            code, out, err = parent.run([str(one) for one in arguments], place, around, given)
            return Run(code, out.decode(), err.decode())
        done = subprocess.run(
            [PROGRAM, *map(str, arguments)],
            cwd=place,
            env=around,
            capture_output=True,
            text=True,
            encoding="utf-8",
            check=False,
            timeout=120,
            **settings,
        )
        return Run(done.returncode, done.stdout, done.stderr)

    def on_a_terminal(self, width: int, *arguments: object, inside: Path | None = None) -> tuple[list[str], str]:
        """The lines on a terminal of so many columns, and what was said beside."""
        main, other = pty.openpty()
        shown = bytearray()

        def read() -> None:
            try:
                while part := os.read(main, 65536):
                    shown.extend(part)
            except OSError:
                # the other end was closed
                return

        reader = threading.Thread(target=read)
        reader.start()
        typed, place = [str(one) for one in arguments], inside or self.folder
        settings = environment(COLUMNS=str(width), TERM="xterm", LC_ALL="C.UTF-8")
        parent = fork_server(tuple(environment().items()))
        if parent is not None:
            said = parent.run(typed, place, settings, terminal=other)[2].decode()
        else:
            done = subprocess.run(
                [PROGRAM, *typed],
                cwd=place,
                stdout=other,
                stderr=subprocess.PIPE,
                env=settings,
                text=True,
                check=False,
            )
            said = done.stderr
        os.close(other)
        reader.join()
        os.close(main)
        plain = re.sub(r"\x1b\[[\d;]*m", "", shown.decode())
        return [line.rstrip() for line in plain.splitlines()], said

    def succeeds(self, *arguments: object, **settings: object) -> Run:
        run = self.millstone(*arguments, **settings)
        self.assertEqual(run.code, 0, run.err)
        return run

    def fails(self, status: int, what: str, remedy: str, *arguments: object, **settings: object) -> Run:
        """The program ends with `status` and says, in two lines, what is wrong and what to do."""
        before = self.files()
        run = self.millstone(*arguments, **settings)
        self.check_failure(run, status, what, remedy)
        self.assertEqual(self.files(), before, "nothing is written")
        return run

    def each_fails(self, table: list[tuple]) -> None:
        """The same for rows of status, what, remedy and arguments, several at a time."""
        before = self.files()
        for row, run in zip(table, self.several([row[3:] for row in table]), strict=True):
            with self.subTest(row[3:]):
                self.check_failure(run, *row[:3])
        self.assertEqual(self.files(), before, "nothing is written")

    def check_failure(self, run: Run, status: int, what: str, remedy: str) -> None:
        lines = run.err.splitlines()
        self.assertEqual((run.code, len(lines)), (status, 2), run.err)
        self.assertRegex(lines[0], r"^millstone( \w+)?: error: ")
        self.assertIn(what, lines[0])
        self.assertTrue(lines[1].startswith("  what to do: "), lines[1])
        self.assertIn(remedy, lines[1])
        self.assertEqual(run.out, "", "nothing is printed")

    def several(self, commands: list[tuple]) -> list[Run]:
        """Commands that do not depend on each other, as many at a time as there are cores."""
        with ThreadPoolExecutor(os.cpu_count()) as pool:
            return list(pool.map(lambda arguments: self.millstone(*arguments), commands))

    def files(self) -> dict[str, bytes]:
        found = sorted(path for path in self.folder.rglob("*") if path.is_file() and not path.is_symlink())
        return {str(path.relative_to(self.folder)): path.read_bytes() for path in found}

    def table(self, name: str) -> list[dict[str, str]]:
        with (self.folder / name).open(encoding="utf-8", newline="") as file:
            return list(csv.DictReader(file))

    def notes(self, name: str) -> dict:
        return json.loads((self.folder / f"{name}-metadata.json").read_text("utf-8"))["notes"][0]
