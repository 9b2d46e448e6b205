"""Runs that are killed, disturbed, or short of something: what was there stays whole, and one message says why."""

import contextlib
import io
import os
import random
import signal
import subprocess
import sys
import threading
import time
import unittest
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from unittest import mock

import numpy as np
from lxml.etree import SerialisationError

from millstone.cli.main import main
from millstone.core.base.errors import DataError
from millstone.core.tables.table import Table
from millstone.outputs.disk import staging as workroom
from millstone.outputs.disk.ledger import LEDGER, RESULTS, Ledger, read_ledger, results_in
from millstone.outputs.disk.locks import LOCK, lock, locked, uninterrupted, unlock
from millstone.outputs.files.formats.workbook import as_workbook
from millstone.outputs.files.writing import Outputs
from tests.cli.program import PROGRAM, ProgramTest, environment

ROOT = Path(__file__).parents[2]
sys.path.insert(0, str(ROOT / "tools"))
import kill  # noqa: E402

KILLED, SEED = 8, 2026
ROOMS = f"**/{workroom.ROOM}*"


class Written(ProgramTest):
    """Files and ledgers, as a run that fails or dies leaves them."""

    def outputs(self, **contents: bytes) -> Outputs:
        outputs = Outputs()
        for name, content in contents.items():
            outputs.claim(self.folder / name)
            outputs.add(self.folder / name, content)
        return outputs

    def left(self) -> dict[str, bytes]:
        return {path.name: path.read_bytes() for path in self.folder.iterdir() if path.is_file()}

    def test_a_fault_at_any_step_leaves_the_folder_as_it_was(self):
        self.outputs(a=b"old", b=b"old").commit()
        before = self.left()
        (self.folder / "fresh").mkdir()
        for step in ("prepare", "begin", "_put", "end"):
            real = getattr(workroom.StagedWrite, step)
            for number in range(4):
                calls = []

                def failing(room, *given, real=real, number=number, calls=calls):
                    calls.append(given)
                    if len(calls) > number:
                        raise OSError(28, "No space left on device")
                    return real(room, *given)

                outputs = self.outputs(a=b"new", b=b"new", c=b"new")
                outputs.claim(self.folder / "fresh/d")
                outputs.add(self.folder / "fresh/d", b"new")
                with self.subTest(step, number=number), mock.patch.object(workroom.StagedWrite, step, failing):
                    if len(calls) <= number and step != "_put" and number > 1:
                        continue
                    with self.assertRaisesRegex(DataError, "no space left on device"):
                        outputs.commit()
                    self.assertEqual(self.left(), before)
                    self.assertEqual(list(self.folder.glob(ROOMS)), [])
                    self.assertEqual(list((self.folder / "fresh").iterdir()), [])
        self.outputs(a=b"new", b=b"new", c=b"new").commit()
        self.assertEqual({self.left()[name] for name in "abc"}, {b"new"})

    def test_folders_are_made_with_the_first_file_and_not_before(self):
        self.three_huts()
        self.write("s.toml", '[study]\noutput = "out"\n[corpus]\ninput = ["huts"]\n[[step]]\ncommand = "freq"\n'
                   'output = "f.csv"\n[[step]]\ncommand = "freq"\noutput = "g.csv"\nmin_tokens = 99\n')  # fmt: skip
        for status, arguments in (
            (1, ("freq", "huts", "--min-tokens", "99", "-o", "lists/")),
            (1, ("freq", "huts", "--stop", "nothing.txt", "-o", "lists/")),
            (1, ("run", "s.toml", "--step", "2")),
        ):
            before = {path.name for path in self.folder.iterdir()}
            self.assertEqual(self.millstone(*arguments).code, status)
            self.assertEqual({path.name for path in self.folder.iterdir()}, before, arguments)
        self.succeeds("freq", "huts", "-o", "lists/")
        self.assertTrue((self.folder / "lists/Ostrel.csv").exists())
        self.write("file", "")
        self.fails(1, "the folder file/lists cannot be created", "another", "freq", "huts", "-o", "file/lists/")

    def test_the_ledger_of_a_run_that_was_killed_knows_both_and_the_next_settles_it(self):
        self.outputs(a=b"old", b=b"old").commit()
        begun = read_ledger(self.folder).beginning(RESULTS, {"a": "1" * 64, "b": "2" * 64, "c": "3" * 64})
        self.write(LEDGER, begun.as_json())
        self.write(f"{workroom.ROOM}abcd1234/0.part", "litter")
        self.assertEqual(read_ledger(self.folder), begun)
        self.outputs(b=b"new").commit()
        ledger = read_ledger(self.folder)
        self.assertEqual({len(ledger.sums_of(name)) for name in "ab"}, {1})
        self.assertEqual(ledger.sums_of("c"), (), "it never came to be")
        self.assertEqual(list(self.folder.glob(ROOMS)), [])

    def test_the_room_of_a_run_that_is_alive_is_left(self):
        room = self.folder / f"{workroom.ROOM}abcd1234"
        room.mkdir()
        held = lock(workroom.lock_file_of(room))
        self.outputs(a=b"new").commit()
        self.assertEqual(held is None or room.exists(), True)
        unlock(held)
        self.outputs(a=b"newer").commit()
        self.assertFalse(room.exists())
        (self.folder / f"{workroom.ROOM}of a user").mkdir()
        self.outputs(a=b"newest").commit()
        self.assertTrue((self.folder / f"{workroom.ROOM}of a user").exists())

    def test_a_ledger_that_is_damaged_is_reported(self):
        self.three_huts()
        self.succeeds("freq", "huts", "-o", "f.csv")
        for number, damaged in enumerate(
            ("{", "[]", '{"written by millstone": 3}', '{"written by millstone": {"a": 1}}')
        ):
            self.write(LEDGER, damaged)
            for arguments in (("freq", "huts", "-o", "f.csv"), ("freq", "huts", "-o", f"new{number}.csv")):
                self.fails(1, f"{LEDGER} is damaged", "remove that file", *arguments)
            self.write(f"huts/Ostrel/{LEDGER}", damaged)
            self.fails(1, f"huts/Ostrel/{LEDGER} is damaged", "remove that file", "freq", "huts")
            (self.folder / "huts/Ostrel" / LEDGER).unlink()
        self.assertEqual((self.folder / LEDGER).read_text(), damaged)
        self.assertFalse(list(self.folder.glob("new*")))

    def test_names_of_the_ledger_lead_nowhere(self):
        self.write(LEDGER, Ledger({RESULTS: {"../a.txt": ("1" * 64,), "": ("2" * 64,)}}).as_json())
        self.write("a.txt", "ice")
        results_in.cache_clear()
        self.assertEqual([row["term"] for row in self.succeeds("freq", "a.txt").rows()], ["ice"])
        self.outputs(b=b"new").commit()

    def test_eight_runs_at_once_lose_nothing(self):
        self.three_huts()
        names = [f"f{number}.{ending}" for number, ending in enumerate(("csv", "json", "xlsx", "svg") * 2)]

        def typed(name: str, folder: str) -> list[str]:
            output = ("--chart" if name.endswith("svg") else "-o", f"{folder}/{name}")
            return ["freq", "huts", "--min-freq", str(1 + int(name[1]) % 2), *output]

        for folder in ("one", "together"):
            (self.folder / folder).mkdir()
        for name in names:
            self.succeeds(*typed(name, "one"))
        for _ in range(3):
            with ThreadPoolExecutor(8) as pool:
                runs = list(pool.map(lambda name: self.millstone(*typed(name, "together")), names))
            self.assertEqual([run.err for run in runs if run.code], [])
            one, together = (
                {path.name: path.read_bytes() for path in (self.folder / folder).iterdir()}
                for folder in ("one", "together")
            )
            self.assertEqual(set(one), set(together))
            self.assertEqual(one, together)

    def test_eight_runs_to_one_new_output_write_one_after_the_other(self):
        self.three_huts()
        for name in ("f.csv", "f.xlsx"):
            with ThreadPoolExecutor(8) as pool:
                runs = list(
                    pool.map(lambda n, to=name: self.millstone("freq", "huts", "--top", n, "-o", to), range(1, 9))
                )
            self.assertEqual([run.err for run in runs if run.code], [])
            self.assertEqual(len(read_ledger(self.folder).sums_of(name)), 1)
        # what another program put there meanwhile is not overwritten
        outputs = self.outputs(a=b"new")
        self.write("a", "from elsewhere")
        with self.assertRaisesRegex(DataError, "written by another program meanwhile"):
            outputs.commit()

    def test_outputs_that_are_none(self):
        self.three_huts()
        (self.folder / "l.csv").symlink_to("nowhere/x.csv")
        (self.folder / "small").mkdir()
        self.each_fails([
            (2, f"{LEDGER} is a name that millstone keeps for its own records", "another name", "freq", "huts", "-o", f"small/{LEDGER}"),
            (2, "keeps for its own records", "another name", "freq", "huts", "-o", f"{workroom.ROOM}x.csv"),
            (1, "l.csv is a link to ", "remove it", "freq", "huts", "-o", "l.csv"),
            (1, "file name too long", "check the path", "freq", "huts", "-o", f"{250 * 'x'}.csv"),
        ])  # fmt: skip
        names = [90 * sign + end for sign in "\U0001f3d4\u00e9a" for end in "ab"]
        self.write("t.csv", "hut,text\n" + "".join(f"{name},ice\n" for name in names))
        self.succeeds("freq", "t.csv", "--text", "text", "--group", "hut", "-o", "lists/")
        self.assertEqual(len(list((self.folder / "lists").glob("*.csv"))), 6)

    def test_a_workbook_leaves_nothing_behind(self):
        apart = self.folder / "apart"
        (self.folder / "out").mkdir()
        apart.mkdir()
        own = environment(TMPDIR=str(apart))
        self.write("long.txt", " ".join(f"w{number}" for number in range(200_000)))
        command = [PROGRAM, "freq", "long.txt", "--no-cache", "-o", "out/f.xlsx"]
        process = subprocess.Popen(command, cwd=self.folder, env=own, stderr=subprocess.PIPE, text=True)
        seen = False
        while process.poll() is None and not seen:
            seen = any(self.folder.glob(f"{ROOMS}/openpyxl.*"))
            time.sleep(0.005)
        process.terminate()
        _, err = process.communicate(timeout=60)
        self.assertTrue(seen, "its parts lie in the room meanwhile")
        self.assertEqual(
            (process.returncode, err),
            (-signal.SIGTERM, "millstone freq: ended from outside, nothing further was written\n"),
        )
        self.assertEqual((list(apart.iterdir()), list((self.folder / "out").iterdir())), ([], []))
        # a full disk, as the library that writes sheets says it
        full = mock.patch(
            "openpyxl.worksheet._write_only.WriteOnlyWorksheet.append",
            side_effect=SerialisationError("unknown error"),
        )
        result = mock.Mock(lists=(), command="freq", table=Table({"a": np.array(["x"], dtype=object)}), columns={})
        notes = {"command": "freq", "millstone": "0", "settings": {}, "groups": [], "left_out": {}, "inputs": []}
        outputs = Outputs()
        outputs.claim(self.folder / "f.xlsx")
        outputs.add(self.folder / "f.xlsx", as_workbook(result, notes))
        with full, self.assertRaisesRegex(DataError, r"f\.xlsx cannot be written: no space left on device"):
            outputs.commit()

    def test_an_interruption_waits_until_the_end(self):
        done = []
        with self.assertRaises(KeyboardInterrupt), uninterrupted():
            signal.raise_signal(signal.SIGINT)
            done.append("one")
            time.sleep(0.01)
            done.append("two")
        self.assertEqual(done, ["one", "two"])
        self.assertIs(signal.getsignal(signal.SIGINT), signal.default_int_handler)
        in_thread = threading.Thread(target=lambda: done.append(uninterrupted().__enter__()))
        in_thread.start()
        in_thread.join()
        self.assertEqual(len(done), 3)

    def test_a_lock_is_held_by_one(self):
        held = lock(self.folder / LOCK)
        if held is None:
            self.skipTest("no locks of folders here")
        with self.assertRaises(BlockingIOError):
            lock(self.folder / LOCK, wait=False)
        unlock(held)
        with locked([self.folder]):
            pass

    @unittest.skipUnless(hasattr(os, "fork"), "no fork here: nothing was killed")
    def test_killed_at_random_moments(self):
        ends, faults = kill.tried(KILLED, SEED)
        self.assertEqual(dict(faults), {}, f"python tools/kill.py --runs {KILLED} --seed {SEED}: {ends}")


class Surroundings(ProgramTest):
    """What the program is started in."""

    def setUp(self):
        super().setUp()
        self.three_huts()

    def shell(self, line: str, **own: str) -> subprocess.CompletedProcess[str]:
        return subprocess.run(
            ["bash", "-c", line.replace("millstone", str(PROGRAM))],
            cwd=self.folder,
            env=environment(**own),
            capture_output=True,
            text=True,
            check=False,
            timeout=120,
        )

    def test_streams_that_are_closed_or_full(self):
        table = [
            ("millstone freq huts >&-", 1, "standard output is closed"),
            ("millstone freq huts -o f.csv >&- && ls f.csv", 0, ""),
            ("millstone freq huts -o g.csv 2>&- && ls g.csv", 0, ""),
            ("millstone freq nothing 2>&-", 1, ""),
            ("millstone freq - <&-", 1, "standard input is closed"),
            ("millstone --version >&-", 1, "standard output is closed"),
            ("millstone --version >/dev/full", 1, "standard output: no space left on device"),
            ("millstone freq --help >/dev/full", 1, "standard output: no space left on device"),
        ]
        for line, status, said in table:
            with self.subTest(line):
                done = self.shell(line)
                self.assertEqual(done.returncode, status, done.stderr)
                self.assertIn(said, done.stderr)
                self.assertNotIn("Traceback", done.stderr)
                self.assertNotIn("Exception ignored", done.stderr)
                self.assertNotIn("error", done.stdout, "never on the wrong stream")

    def test_narrow_terminals_few_files_and_no_home(self):
        run = self.shell("millstone freq huts --top 1; millstone freq --help", COLUMNS="1")
        self.assertEqual((run.returncode, run.stderr.count("error")), (0, 0), run.stderr)
        run = self.shell("ulimit -n 24; millstone freq huts --jobs 40 -o lists/ && ls lists")
        self.assertEqual(run.returncode, 0, run.stderr)
        run = self.shell("unset HOME XDG_CACHE_HOME; millstone freq huts --chart c.png --top 1")
        self.assertEqual((run.returncode, run.stderr.count("error")), (0, 0), run.stderr)

    def test_a_user_without_an_entry_and_without_a_home(self):
        program = (
            "import pwd, sys\n"
            "def getpwuid(number): raise KeyError(number)\n"
            "pwd.getpwuid = getpwuid\n"
            "from millstone.texts.cache import scan_cache\n"
            "scan_cache.SECONDS = -1\n"
            "from millstone.cli.main import main\n"
            "sys.exit(main())\n"
        )
        nobody = {name: value for name, value in environment().items() if name not in ("HOME", "XDG_CACHE_HOME")}
        for arguments, status, said in (
            (("freq", "huts", "--chart", "c.png", "-o", "f.csv"), 0, "wrote f.csv"),
            (("cache",), 1, "there is no home folder"),
            (("cache", "--clear"), 1, "there is no home folder"),
            (("freq", "~/huts"), 1, "there is no file or folder ~/huts"),
        ):
            done = subprocess.run(
                [sys.executable, "-c", program, *arguments],
                cwd=self.folder, env=nobody, capture_output=True, text=True, check=False,
            )  # fmt: skip
            with self.subTest(arguments):
                self.assertEqual(done.returncode, status, done.stderr)
                self.assertIn(said, done.stderr)
                self.assertNotRegex(done.stderr, "fault|Traceback|Warning")
        self.assertFalse((self.folder / "~").exists())

    def test_too_little_memory_is_one_message(self):
        for megabytes in (250, 400):
            run = self.shell(f"ulimit -v {megabytes}000; millstone keyness huts -o k.csv --chart c.png")
            if run.returncode:
                lines = [line for line in run.stderr.splitlines() if not line.startswith("OpenBLAS")]
                self.assertEqual(lines[-2], "millstone keyness: error: there is not enough memory", run.stderr)
                self.assertEqual(len(lines), 2, run.stderr)
                self.assertEqual(list(self.folder.glob("*.csv*")), [])

    def test_an_interruption_of_one_run_is_not_one_of_the_next(self):
        def interrupted(arguments):
            signal.raise_signal(signal.SIGINT)

        for does, status, said in (
            (interrupted, 130, "interrupted, nothing further"),
            (mock.Mock(side_effect=ZeroDivisionError("x")), 1, "a fault in millstone itself"),
            (mock.Mock(side_effect=MemoryError), 1, "there is not enough memory"),
        ):
            with mock.patch("millstone.cli.main.program", does), mock.patch("millstone.cli.main.discard_output"):
                err = io.StringIO()
                with contextlib.redirect_stderr(err):
                    self.assertEqual(main(["freq"]), status)
                self.assertIn(said, err.getvalue())
        self.assertIs(signal.getsignal(signal.SIGINT), signal.default_int_handler)

    def test_signals(self):
        self.write("many/1.txt", "ice and snow " * 1_500_000)
        for number, status, said in (
            (signal.SIGTERM, -signal.SIGTERM, "ended from outside, nothing further was written"),
            (signal.SIGINT, 130, "interrupted, nothing further was written"),
        ):
            process = subprocess.Popen(
                [PROGRAM, "check", "many"],
                cwd=self.folder,
                env=environment(),
                stdout=subprocess.PIPE,
                stderr=subprocess.PIPE,
                text=True,
            )
            time.sleep(1.0)
            process.send_signal(number)
            _, err = process.communicate(timeout=60)
            if process.returncode:
                self.assertEqual((process.returncode, err), (status, f"millstone check: {said}\n"))

    def test_what_a_user_sees_of_a_library(self):
        self.write("d.csv", "text,hut\nice,a\nsnow,b\n")
        run = self.shell("millstone keyness d.csv --text text --group hut --chart c.png")
        self.assertNotRegex(run.stderr, "Warning")


class Same(ProgramTest):
    """The same bytes whatever lies around a run."""

    takes_long = True

    def test_whatever_the_jobs_the_hashes_the_locale_and_the_order_of_files(self):
        chance = random.Random(2)
        words = [f"wort{number} é{number}" for number in range(300)]
        outputs = [f"k.{ending}" for ending in ("csv", "tsv", "json", "xlsx", "parquet", "html", "md")]
        steps = "".join(f'[[step]]\ncommand = "keyness"\noutput = "{name}"\n' for name in outputs)
        steps += "".join(
            f'[[step]]\ncommand = "{command}"\nchart = "{command}.{ending}"\n'
            for command in ("keyness", "logodds")
            for ending in ("svg", "png", "pdf")
        )
        steps += "".join(
            f'[[step]]\ncommand = "{command}"\noutput = "{command}.csv"\n' for command in ("profile", "dispersion")
        )
        study = '[study]\noutput = "out"\ndate = "2026-05-01"\n[corpus]\ninput = ["texts"]\n' + steps
        contents = {
            f"texts/{group}/{n}.txt": " ".join(chance.choices(words, k=110_000)) for group in "ab" for n in "12"
        }
        found = []
        for number, (jobs, own) in enumerate(
            (
                (1, {"PYTHONHASHSEED": "0"}),
                (2, {"PYTHONHASHSEED": "1", "LC_ALL": "C.UTF-8", "TZ": "Asia/Tokyo", "COLUMNS": "300"}),
                (4, {"PYTHONHASHSEED": "2", "LANG": "de_DE.UTF-8", "HOME": "/nowhere", "OMP_NUM_THREADS": "1"}),
            )
        ):
            place = self.folder / str(number)
            for name in sorted(contents, reverse=number % 2 == 1):
                self.write(f"{number}/{name}", contents[name])
            self.write(f"{number}/s.toml", study)
            run = subprocess.run(
                [PROGRAM, "run", "s.toml"],
                cwd=place,
                env=environment(**own),
                capture_output=True,
                text=True,
                check=False,
            )
            self.assertEqual(run.returncode, 0, run.stderr)
            run = subprocess.run(
                [PROGRAM, "freq", "texts", "--ngram", "2", "--no-cache", f"--jobs={jobs}", "-o", "out/n.csv"],
                cwd=place, env=environment(**own), capture_output=True, text=True, check=False,
            )  # fmt: skip
            self.assertEqual(run.returncode, 0, run.stderr)
            found.append({path.name: path.read_bytes() for path in (place / "out").iterdir()})
        self.assertGreater(len(found[0]), 15)
        for other in found[1:]:
            self.assertEqual(set(other), set(found[0]))
            self.assertEqual([name for name in other if other[name] != found[0][name]], [])


class Protected(ProgramTest):
    def test_a_study_that_writes_outside_its_folder_says_so(self):
        self.three_huts()
        study = '[study]\noutput = "../out"\n[corpus]\ninput = ["huts"]\n[[step]]\ncommand = "freq"\noutput = "{}"\n'
        self.write("sub/s.toml", study.format("f.csv").replace('"huts"', '"../huts"'))
        run = self.succeeds("run", "sub/s.toml", "--no-report", "--trust")
        self.assertIn(
            f"note: outside its folder the study reads {self.folder}/huts; writes {self.folder}/out/f.csv; ", run.err
        )
        self.assertTrue((self.folder / "out/f.csv").exists())
        self.write("s.toml", study.format("f.csv").replace("../out", "out"))
        self.assertNotIn("outside", self.succeeds("run", "s.toml", "--no-report").err)

    def test_what_a_study_reads_is_never_written_to(self):
        self.three_huts()
        self.write("stop.csv", "term\nthe\n")
        (self.folder / "hard.csv").hardlink_to(self.folder / "stop.csv")
        (self.folder / "soft.csv").symlink_to("stop.csv")
        content = (self.folder / "stop.csv").read_bytes()
        for name in ("stop.csv", "hard.csv", "soft.csv", "sub/../stop.csv"):
            (self.folder / "sub").mkdir(exist_ok=True)
            self.write(
                "s.toml",
                '[study]\noutput = "."\n[corpus]\ninput = ["huts"]\n[prepare]\nstop = ["./stop.csv"]\n'
                f'[[step]]\ncommand = "freq"\noutput = "{name}"\nforce = true\n',
            )
            self.fails(1, "is one of the inputs", "another name", "run", "s.toml", "--force")
        self.assertEqual((self.folder / "stop.csv").read_bytes(), content)


if __name__ == "__main__":
    unittest.main()
