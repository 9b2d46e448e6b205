"""Tables on screens of several widths: what was asked for is seen, and all blocks have the same columns."""

import fcntl
import io
import os
import pty
import re
import shlex
import struct
import subprocess
import termios
import unittest
from contextlib import suppress
from functools import cache
from pathlib import Path

from rich.console import Console

import millstone
from millstone.analyses import COMMANDS, command_for
from millstone.cli.commands.analysis import _shown_table, step_from
from millstone.cli.options import parse
from millstone.cli.parsers import HEADINGS, by_heading, parser_named
from millstone.cli.terminal.console import broken
from millstone.cli.terminal.screen import asked_columns, show
from millstone.cli.terminal.widths import most_important
from millstone.core.tables.result import Result
from millstone.study.outputs import claimed
from millstone.study.runner import StepRunner
from tests.cli.program import PROGRAM, ProgramTest, environment

DEMO = Path(millstone.__file__).parent / "data" / "demo"
GUESTS = "guestbook.csv --text entry --id entry_id"
WIDTHS = (60, 80, 100, 120, 200)
COLLOCATE_MEASURES = "delta_p_collocate_given_node,delta_p_node_given_collocate"
# command -> words of the headings that must be seen
ASKED = {
    "categories journals/Ostrel/2016.txt --unit parts:20 --dictionary dictionary.toml --select weather,fear,thanks": (
        *("weather", "fear", "thanks"),
    ),
    f"keyness {GUESTS} --group hut --measures bic,ell,percent_diff": ("bic", "ell", "% diff"),
    f"keyness {GUESTS} --group season --rank-by log_ratio --stop en": ("log ratio",),
    f"freq {GUESTS} --group hut --sort dp:asc --min-freq 20": ("dp",),
    f"contrast {GUESTS} --group hut --values tokens,mean_word_length": ("mean", "difference"),
    f"contrast {GUESTS} --group hut --values tokens --against rest": ("mean", "difference"),
    "contrast journals --dictionary dictionary.toml": ("mean", "difference"),
    "profile journals --stop en": ("ttr", "kept tokens"),
    f"dispersion {GUESTS} --group hut --min-freq 50 --sort juilland_d": ("juilland d",),
    f"collocates {GUESTS} --find stove --rank-by t_score --measures {COLLOCATE_MEASURES}": ("t score", "delta p"),
    f"logodds {GUESTS} --group hut --sort log_ratio": ("log ratio", "z"),
    f"collocates {GUESTS} --group hut --stop en --find hut --against 'warden*'": ("log ratio", "ll documents"),
    f"collocates {GUESTS} --group hut --find stove --against-group rest --sort log_dice_target": ("log dice",),
    f"network {GUESTS} --stop en --unit sentence --communities -": ("terms",),
    f"network {GUESTS} --stop en --unit sentence --nodes - --sort degree_rank:asc": ("degree rank",),
    f"freq {GUESTS} --group hut --ngram 1..3 --lemmas en --min-freq 20": ("freq",),
    f"keyness {GUESTS} --group hut --ngram 1..2 --min-freq 60": ("log ratio", "p adjusted"),
    f"keyness {GUESTS} --group hut --min-freq 20 --wide": ("log ratio",),
    f"keyness {GUESTS} --group hut --overlap -": ("rho", "shared"),
    "profile journals --equal-length shortest --sort equal_types": ("equal types",),
}


@cache
def result_of(command: str) -> Result:
    """The result of a command on the demo."""
    name, *arguments = shlex.split(command)
    of = arguments.pop(0) if COMMANDS[name].varies else ""
    without_cache = ["--no-cache"] if COMMANDS[name].reads_texts else []
    typed = parse(parser_named(name, full=False, of=of), [*arguments, *without_cache])
    step = step_from(command_for(name, of), {**typed, "of": of} if of else typed)
    outcome = StepRunner().carry_out(step, claimed(step))
    return _shown_table(outcome) or outcome.result


def shown(result: Result, width: int) -> tuple[list[str], list[str]]:
    """The lines of a screen of so many columns, and the columns that are not on it."""
    console = Console(width=width, file=io.StringIO(), highlight=False)
    hidden = show(result, 5, console)
    return [line.rstrip() for line in console.file.getvalue().splitlines()], hidden


class Screens(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        before = Path.cwd()
        cls.addClassCleanup(os.chdir, before)
        os.chdir(DEMO)

    def check(self, command: str, width: int) -> list[str]:
        result = result_of(command)
        lines, hidden = shown(result, width)
        self.assertLessEqual(max(map(len, lines)), width)
        self.assertEqual(set(asked_columns(result)) & set(hidden), set(), "what was asked for is seen")
        rules = [at for at, line in enumerate(lines) if line and not line.strip("─")]
        self.assertEqual(len({len(lines[at]) for at in rules}), 1 if rules else 0, "all blocks are as wide")
        return lines

    def test_every_command_at_five_widths(self):
        for name, command in COMMANDS.items():
            example = next(one for one in command.examples if " -o " not in one and "--chart" not in one)
            for width in WIDTHS:
                with self.subTest(name, width=width):
                    self.check(example, width)

    def test_what_was_asked_for_is_seen(self):
        for command, titles in ASKED.items():
            for width in WIDTHS:
                with self.subTest(command, width=width):
                    lines = self.check(command, width)
                    rule = next(at for at, line in enumerate(lines) if line and not line.strip("─"))
                    start = max((at for at in range(rule) if not lines[at]), default=-1) + 1
                    heads = " ".join(" ".join(lines[start:rule]).split())
                    for title in titles:
                        for word in title.split():
                            self.assertIn(word, heads)

    def test_blocks_are_named_once_and_at_most_twelve_are_shown(self):
        result = result_of("contrast journals --unit parts:6 --group part --dictionary dictionary.toml --select fear")
        lines, _ = shown(result, 80)
        pairs = len(set(zip(result.table["group_a"].tolist(), result.table["group_b"].tolist(), strict=True)))
        self.assertGreater(pairs, 12)
        self.assertEqual(sum("compared with" in line for line in lines), 12)
        self.assertTrue(any(f"{pairs - 12} more blocks of {pairs}" in line for line in lines), lines[-3:])

    def test_notes_are_cut_between_their_parts(self):
        for note, width, expected in (
            ("few counts; in one document only", 40, "few counts; in one document only"),
            ("few counts; in one document only; a name", 22, "few counts ..."),
            ("incomprehensibilities", 8, "incomprehensibilities"),
        ):
            self.assertEqual(most_important(note, width), expected)


class Messages(ProgramTest):
    def on_one_screen(self, width: int, *arguments: str) -> list[str]:
        """The lines of a command on a terminal that shows what is said as well."""
        main, other = pty.openpty()
        fcntl.ioctl(other, termios.TIOCSWINSZ, struct.pack("HHHH", 24, width, 0, 0))
        around = {name: value for name, value in environment(TERM="xterm").items() if name != "COLUMNS"}
        done = subprocess.Popen([PROGRAM, *arguments], cwd=DEMO, stdout=other, stderr=other, env=around)
        os.close(other)
        shown = bytearray()
        with suppress(OSError):
            while part := os.read(main, 65536):
                shown.extend(part)
        os.close(main)
        self.assertEqual(done.wait(), 0)
        return re.sub(r"\x1b\[[\d;]*m", "", shown.decode()).splitlines()

    def test_check_takes_a_screen_at_most(self):
        for arguments in (
            ("guestbook.csv", "--text", "entry", "--group", "hut"),
            ("guestbook.csv", "--text", "entry", "--group", "season", "--stop", "de", "--lemmas", "en"),
            ("journals",),
            ("journals", "--group", "document", "--path-pattern", "(?P<year>[0-9]{4})"),
            ("journals/Ostrel/2016.txt",),
        ):
            with self.subTest(arguments):
                lines = self.on_one_screen(80, "check", *arguments, "--no-cache")
                self.assertLessEqual(len(lines), 24, "\n".join(lines))
                self.assertLessEqual(max(map(len, lines)), 80)

    def test_long_messages_are_broken_between_words(self):
        line = "  to fix it: " + "look at them with --explain, " * 8
        for width in (60, 80, 120):
            with self.subTest(width):
                lines = broken(line, width).split("\n")
                self.assertLessEqual(max(map(len, lines)), width)
                self.assertEqual(" ".join(" ".join(lines).split()), " ".join(line.split()))
        self.assertEqual(broken(line, 0), line, "whole where there is no terminal")
        self.assertEqual(broken("at " + "x" * 99, 60), "at\n  " + "x" * 99, "a path is not cut")

    def test_the_overview_lists_every_command_once_below_its_part_of_the_work(self):
        lines = self.succeeds().out.splitlines()
        self.assertLessEqual(max(map(len, lines)), 80)
        places = [lines.index(heading) for heading in HEADINGS]
        self.assertEqual(places, sorted(places))
        for names in by_heading().values():
            for name in names:
                self.assertEqual(sum(bool(re.match(rf" [* ] {name} ", line)) for line in lines), 1, name)
        starred = [line.split()[1] for line in lines if line.startswith(" * ")]
        self.assertEqual(starred, ["demo", "check", "freq", "keyness", "concordance"])


if __name__ == "__main__":
    unittest.main()
