"""The manual: pages that are made from the declarations, and completion in the shells themselves."""

import os
import pty
import re
import select
import shutil
import subprocess
import sys
import time
import unittest
from pathlib import Path

import millstone
from millstone.cli.main import SHELLS
from millstone.cli.manual.commands import manual
from tests.cli.program import PROGRAM, ProgramTest, environment

ROOT = Path(__file__).parents[2]
sys.path.insert(0, str(ROOT / "tools"))
import reference  # noqa: E402

CASES = (
    ("freq --chart-k", "--chart-kind"),
    ("freq t.csv --chart-kind gr", "growth"),
    ("key", "keyness"),
    ("keyness my\\ table.csv t.csv --group hu", "hut"),
    ("profile --unkn", ""),
    ("freq t.c", "t.csv"),
    ("keyness t.csv --stop own", "own.txt"),
    ("vary log", "logodds"),
    ("vary keyness t.csv --sampling-u", "--sampling-unit"),
    ("freq odd.csv --group ye", "year"),
    # what a shell would carry out, were it taken as typed
    (r"freq odd.csv --group \$", r"\$\(touch\ RAN\)"),
    (r"freq odd.csv --group \`", r"\`touch\ RAN\`"),
    ("freq odd.csv --group '$", "'$(touch RAN)'"),
    ("freq odd.csv --group x", r"x\;touch\ RAN"),
)


def _plain(typed: str) -> str:
    return re.sub(r"\\(.)|['\"]", lambda sign: sign[1] or "", typed)


class Pages(unittest.TestCase):
    def test_what_is_made_from_the_declarations_is_current(self):
        made = reference.made()
        for name, content in made.items():
            self.assertEqual((ROOT / name).read_text("utf-8"), content, "run tools/reference.py")
        for folder in ("docs/man", "docs/reference"):
            lying = {f"{folder}/{path.name}" for path in (ROOT / folder).iterdir()}
            self.assertEqual(lying, {name for name in made if name.startswith(folder)})

    def test_every_option_of_every_command_is_in_its_page(self):
        for page in manual():
            text = (ROOT / f"docs/reference/{page.name}.md").read_text("utf-8")
            for option in page.options:
                for form in option.forms:
                    self.assertIn(f"`{form}`", text)
            self.assertIn(page.examples[0], text)

    @unittest.skipUnless(shutil.which("groff"), "no groff here: manual pages were not set")
    def test_manual_pages_are_set_without_a_warning(self):
        pages = [str(path) for path in sorted((ROOT / "docs/man").glob("*.1"))]
        done = subprocess.run(["groff", "-man", "-ww", "-Tutf8", *pages], capture_output=True, text=True, check=True)
        self.assertEqual(done.stderr, "")
        plain = re.sub(r"\x1b\[\d*m|.\x08", "", done.stdout)
        self.assertIn("--min-freq N", plain)
        self.assertIn("millstone keyness guestbook.csv --text entry --group hut --min-freq 5", plain)


class Completion(ProgramTest):
    def setUp(self):
        super().setUp()
        self.write("t.csv", "name,hut,full text\n1,Ostrel,ice\n")
        self.write("my table.csv", "a,hutch\n1,2\n")
        self.write("odd.csv", "year,$(touch RAN),`touch RAN`,x;touch RAN,text\n1,2,3,4,5\n")
        self.write("own.txt", "ice\n")
        for shell in SHELLS:
            self.write(f"script.{shell}", self.succeeds("--completion", shell).out)
        self.around = environment(PATH=f"{PROGRAM.parent}{os.pathsep}{os.environ['PATH']}", LC_ALL="C.UTF-8")

    def asked(self, *command: str) -> list[str]:
        done = subprocess.run(command, cwd=self.folder, env=self.around, capture_output=True, text=True, check=False)
        self.assertEqual(done.stderr, "")
        return done.stdout.splitlines()

    def check(self, typed: str, found: list[str], wanted: str) -> None:
        if wanted:
            self.assertIn(wanted, found, typed)
        else:
            self.assertEqual(found, [], typed)
        self.assertFalse((self.folder / "RAN").exists(), typed)

    @unittest.skipUnless(shutil.which("bash"), "no bash here")
    def test_in_bash(self):
        script = (
            'source script.bash; COMP_WORDS=(millstone "$@"); COMP_CWORD=$#; _millstone 2>/dev/null;'
            'printf "%s\\n" "${COMPREPLY[@]}"; compgen -o default -- "${!#}"'
        )
        for typed, wanted in CASES:
            words = re.findall(r"(?:\\.|[^ ])+", typed)
            found = [one for one in self.asked("bash", "--norc", "-c", script, "bash", *words) if one]
            # within quotation marks the shell closes them itself
            self.check(typed, found, wanted.strip("'"))
        equals = 'source script.bash; COMP_WORDS=(millstone freq --chart-kind = gr); COMP_CWORD=4; _millstone 2>/dev/null; echo "${COMPREPLY[@]}"'
        self.assertEqual(self.asked("bash", "--norc", "-c", equals), ["growth"])

    @unittest.skipUnless(shutil.which("fish"), "no fish here")
    def test_in_fish(self):
        for typed, wanted in (*CASES, ("--completion ", "zsh"), ("keyness t.csv --text ", "full text")):
            found = self.asked(
                "fish", "--no-config", "-c", "source script.fish; complete -C $argv", f"millstone {typed}"
            )
            self.check(typed, [_plain(line.partition("\t")[0]) for line in found], _plain(wanted))

    @unittest.skipUnless(shutil.which("zsh"), "no zsh here")
    def test_in_zsh(self):
        main, other = pty.openpty()
        shell = subprocess.Popen(
            ["zsh", "-f", "-i"],
            cwd=self.folder,
            env={**self.around, "TERM": "dumb", "PS1": "> "},
            stdin=other,
            stdout=other,
            stderr=other,
            start_new_session=True,
        )
        os.close(other)
        self.addCleanup(os.close, main)
        self.addCleanup(shell.wait)
        self.addCleanup(shell.kill)
        os.write(main, b"autoload -Uz compinit; compinit -u -D; source script.zsh; setopt NO_BEEP; echo re''ady\n")
        self.read_until_quiet(main, "ready")
        for typed, wanted in CASES:
            # what is completed stands in the line that is being typed, which is then taken back
            os.write(main, f"millstone {typed}\t".encode())
            self.read_until_quiet(main, wanted)
            os.write(main, b"\x15")
            self.read_until_quiet(main)
            self.check(typed, [wanted] if wanted else [], wanted)

    def read_until_quiet(self, terminal: int, sign: str = "") -> str:
        """What a terminal shows until nothing more comes, and a sign has come."""
        shown, end = "", time.monotonic() + 30
        while time.monotonic() < end:
            if select.select([terminal], [], [], 0.5)[0]:
                shown += re.sub(
                    r"\x1b\[[\d;?]*[a-zA-Z]|\r|\x07", "", os.read(terminal, 65536).decode("utf-8", "replace")
                )
            elif sign in shown and shown:
                return shown
        self.fail(f"nothing more came after {shown!r}")

    def test_columns_versions_and_unknown_shells(self):
        self.assertEqual(
            self.succeeds("--columns-of", "freq", "t.csv", "none.csv", "--text").out.split("\n"),
            ["name", "hut", "full text", ""],
        )
        self.write("broken.xlsx", b"PK")
        self.assertEqual(self.succeeds("--columns-of", "g=t.csv", "broken.xlsx").out.splitlines()[0], "name")
        self.fails(2, "--completion is not followed by a shell", "bash, zsh, fish", "--completion", "csh")
        lines = self.succeeds("--version", "--debug").out.splitlines()
        self.assertEqual(lines[0], f"millstone {millstone.__version__}")
        self.assertTrue(any(line.startswith("libraries: ") and "numpy" in line for line in lines))
        self.assertTrue(any(line.startswith("cache: ") for line in lines))
