"""Kept scans: used again when nothing changed, noticed when anything did, never trusted when damaged."""

import errno
import itertools
import json
import os
import random
import tempfile
import unittest
import zlib
from dataclasses import replace
from pathlib import Path
from unittest import mock

import numpy as np
import pandas as pd

from millstone.analyses import COMMANDS
from millstone.cli.commands.analysis import step_from
from millstone.cli.options import parse
from millstone.cli.parsers import parser_of
from millstone.core.base.errors import DataError
from millstone.outputs.files.writing import Outputs
from millstone.study.runner import Outcome, StepRunner
from millstone.texts import scans
from millstone.texts.cache import lemma_cache, scan_cache, stored_scan
from millstone.texts.cache.stored_scan import check, read_scan
from millstone.texts.inputs.files import hashed
from millstone.texts.inputs.lists import lemmas
from tests.cli.program import ProgramTest

HOUR_AGO = 3600


class Kept(ProgramTest):
    def setUp(self):
        super().setUp()
        self.three_huts()
        for path in (self.folder / "huts").rglob("*.txt"):
            self.make_old(path)
        cache = tempfile.TemporaryDirectory()
        self.addCleanup(cache.cleanup)
        self.cache = Path(cache.name, "cache")
        for patch in (
            mock.patch.object(scan_cache, "cache_folder", lambda: self.cache),
            mock.patch.object(scan_cache, "SECONDS", -1),
        ):
            patch.start()
            self.addCleanup(patch.stop)
        self.scans = 0
        real = scans.in_units

        def counted(*arguments):
            self.scans += 1
            return real(*arguments)

        patch = mock.patch.object(scans, "in_units", counted)
        patch.start()
        self.addCleanup(patch.stop)

    def make_old(self, path: Path) -> None:
        then = path.stat().st_mtime - HOUR_AGO
        os.utime(path, (then, then))

    def carried_out(self, command: str, *arguments: str) -> Outcome:
        typed = parse(parser_of(COMMANDS[command], full=False), [str(self.folder / "huts"), *arguments])
        step = step_from(COMMANDS[command], typed)
        return StepRunner().carry_out(step, Outputs())

    def assert_scans(self, expected: int, *arguments: str, command: str = "freq") -> pd.DataFrame:
        """The command makes so many new scans, and gives what it gives without anything kept."""
        before = self.scans
        found = self.carried_out(command, *arguments)
        self.assertEqual(self.scans - before, expected, arguments)
        anew = self.carried_out(command, *arguments, "--no-cache")
        pd.testing.assert_frame_equal(found.result.frame, anew.result.frame)
        self.assertEqual((found.notes, found.result.groups), (anew.notes, anew.result.groups))
        provenance = anew.material.provenance
        # what is kept has its checksums
        provenance.files = [hashed(file) for file in provenance.files]
        self.assertEqual(found.material.provenance, provenance)
        self.assertEqual(found.material.cleaned, anew.material.cleaned)
        return found.result.frame

    def test_tags_are_kept_with_the_scan(self):
        first = self.assert_scans(1, "--tag", "en", "--count-tags")
        with mock.patch(
            "millstone.texts.inputs.tags.tagging.tagged_sentences", side_effect=AssertionError("tagged again")
        ):
            kept = self.carried_out("freq", "--tag", "en", "--count-tags")
        pd.testing.assert_frame_equal(first, kept.result.frame)
        self.assertIn("guessed", " ".join(kept.notes))
        self.assert_scans(0, "--tag", "en", "--pos", "NOUN")
        self.assert_scans(1, "--tag", "de")

    def test_used_again_under_other_word_rules_and_not_under_other_text_rules(self):
        self.assert_scans(1)
        self.assert_scans(0)
        self.assert_scans(0, "--stop", "en", "--length", "4..", "--min-tokens", "5", "--case", "keep")
        self.assert_scans(0, "--against", "pairs", command="keyness")
        for arguments in (("--cut", "links"), ("--tokens", "spaces"), ("--unit", "line"), ("--drop-repeats",)):
            self.assert_scans(1, *arguments)
            self.assert_scans(0, *arguments)

    def test_one_with_the_order_of_words_serves_both(self):
        self.assert_scans(1)
        self.assert_scans(1, "--ngram", "2")
        self.assert_scans(0, "--ngram", "3")
        self.assert_scans(1, command="profile")
        self.assert_scans(0, "--per-document", command="profile")
        self.assert_scans(0)

    def test_every_change_of_a_file_is_noticed(self):
        path = self.folder / "huts/Ostrel/1.txt"
        self.assert_scans(1)
        path.write_text("Rope and ice. The rope tore.", "utf-8")
        self.assert_scans(1)
        # so young that a change may have the same time: the content decides
        then = path.stat()
        path.write_text("Rope and ice. The rope held.", "utf-8")
        os.utime(path, ns=(then.st_atime_ns, then.st_mtime_ns))
        self.assertIn("held", self.assert_scans(1)["term"].tolist())
        self.write("huts/Ostrel/3.txt", "more rope")
        self.assert_scans(1)
        (self.folder / "huts/Ostrel/2.txt").unlink()
        self.assert_scans(1)

    def test_strict_looks_at_the_content_of_old_files_too(self):
        path = self.folder / "huts/Ostrel/1.txt"
        self.assert_scans(1, "--strict")
        self.assert_scans(0, "--strict")
        then = path.stat()
        path.write_text("Rope and fog. The rope froze.", "utf-8")
        os.utime(path, ns=(then.st_atime_ns, then.st_mtime_ns))
        self.assertIn("fog", self.assert_scans(1, "--strict")["term"].tolist())

    def test_a_damaged_one_is_made_anew(self):
        self.assert_scans(1, "--ngram", "2")
        (folder,) = self.cache.iterdir()
        for name in sorted(path.name for path in folder.iterdir() if path.name != "about.json"):
            for damage in (lambda data: b"\xff" + data[1:], lambda data: data[:-1], lambda data: data + b"}"):
                path = folder / name
                path.write_bytes(damage(path.read_bytes()))
                with self.subTest(name):
                    self.assert_scans(1, "--ngram", "2")
                    self.assert_scans(0, "--ngram", "2")
            path.unlink()
            self.assert_scans(1, "--ngram", "2")

    def test_keeping_the_same_twice_and_keeping_nowhere(self):
        material = self.carried_out("freq").material
        (folder,) = self.cache.iterdir()
        scan_cache.save(folder.name, material)
        self.assertEqual([path.name for path in self.cache.iterdir()], [folder.name])
        self.cache = self.write("no folder", "a file")
        self.assert_scans(1)
        self.assert_scans(1)

    def test_lemmas_are_remembered_beside_it(self):
        asked: list[str] = []
        real = lemmas.of_language

        def of_language(code: str):
            known = real(code)
            return lambda form: asked.append(form) or known(form)

        with mock.patch.object(lemmas, "of_language", of_language), mock.patch.object(lemma_cache, "LEAST", 1):
            first = self.carried_out("freq", "--lemmas", "en").result.frame
            looked_up = len(asked)
            self.assertGreater(looked_up, 10)
            again = self.carried_out("freq", "--lemmas", "en", "--stop", "en").result.frame
            self.assertEqual(len(asked), looked_up, "nothing is looked up again")
            self.assertLess(len(again), len(first))
            (path,) = self.cache.rglob("lemmas-en-*")
            path.write_bytes(path.read_bytes().replace(b"leak\n", b"lark\n"))
            pd.testing.assert_frame_equal(self.carried_out("freq", "--lemmas", "en").result.frame, first)
            self.assertEqual(len(asked), 2 * looked_up, "a damaged one is made anew")

    def test_the_oldest_make_room(self):
        self.assert_scans(1)
        (one,) = scan_cache.cached_scans()
        with mock.patch.object(scan_cache, "MOST_GIGABYTES", 1.5 * one.size / 1e9):
            self.assert_scans(1, "--cut", "links")
            self.assertEqual(len(list(self.cache.iterdir())), 1)
            self.assert_scans(0, "--cut", "links")
        scan_cache.set_limit(1e-9)
        self.assertEqual((scan_cache.limit(), scan_cache.cached_scans()), (1e-9, []))
        self.carried_out("freq")
        self.assertEqual(scan_cache.cached_scans(), [], "it is larger than all that may be kept")

    def test_a_full_disk_keeps_nothing_and_stops_nothing(self):
        writes = itertools.count()
        real = stored_scan.write_private

        def write(path: Path, data: bytes | memoryview) -> None:
            if next(writes) == 3:
                raise OSError(errno.ENOSPC, "No space left on device")
            real(path, data)

        with mock.patch.object(stored_scan, "write_private", write):
            self.assert_scans(1)
        self.assertEqual(list(self.cache.iterdir()), [])

    def test_one_that_memory_is_too_small_for_stays_on_disk(self):
        for arguments in ((), ("--ngram", "2")):
            wanted = self.assert_scans(1, *arguments)
            with mock.patch.object(scans, "memory", return_value=4):
                found = self.carried_out("freq", *arguments)
            self.assertTrue(found.material.corpus.form_counts.on_disk)
            pd.testing.assert_frame_equal(found.result.frame, wanted)

    def test_rare_words_that_memory_has_no_room_for_change_nothing_and_are_not_cached(self):
        table = (
            (3, "--min-freq", "3"),
            (3, "--min-freq", "3", "--stop", "en", "--length", "4..", "--numbers", "drop", "--case", "keep"),
            (3, "--min-freq", "3", "--wide", "--stop", "stove,zebra", "--drop", "s*g"),
            (1, "--min-freq", "3", "--stop", "stove,zebra", "--spare", "stove"),
            (1, "--min-freq", "3", "--only", "stove,zebra,hut"),
            (2, "--min-freq", "2", "--min-tokens", "5", "--min-docs", "2"),
            (1, "--min-freq", "3", "--stem", "en"),
            (1, "--min-freq", "3", "--base", "kept"),
            (1, "--min-freq", "3", "--ngram", "2"),
            (1,),
        )
        for least, *arguments in table:
            with self.subTest(arguments):
                wanted = self.carried_out("freq", *arguments, "--no-cache")
                with (
                    mock.patch.object(scans, "memory", return_value=2000),
                    mock.patch("millstone.core.scan.blocks.SIZE", 20),
                    mock.patch("millstone.core.scan.merge_tallies._FORM", 0),
                ):
                    found = self.carried_out("freq", *arguments)
                self.assertEqual(found.material.corpus.least, least)
                pd.testing.assert_frame_equal(found.result.frame, wanted.result.frame)
                self.assertEqual((found.notes, found.result.left_out), (wanted.notes, wanted.result.left_out))
                self.assertEqual(len(scan_cache.cached_scans()), int(least == 1))
                scan_cache.clear()

    def test_a_table_that_memory_has_no_room_for_is_refused(self):
        for memory, arguments in ((500, ()), (500, ("--min-docs", "1")), (1000, ())):
            with (
                mock.patch("millstone.texts.term_counts.memory", return_value=memory),
                self.assertRaisesRegex(DataError, r"a table of \d+ rows takes about 0 MB of memory") as caught,
            ):
                self.carried_out("freq", *arguments)
            self.assertIn("--min-freq 5", caught.exception.remedy)
        with mock.patch("millstone.texts.term_counts.memory", return_value=500):
            # what is left has room
            self.assertEqual(len(self.carried_out("freq", "--min-freq", "1000").result.frame), 0)

    def test_the_command_lists_and_clears_its_own_and_nothing_else(self):
        self.assert_scans(1)
        place = {"XDG_CACHE_HOME": str(self.folder)}
        cache = self.folder / "millstone"
        cache.mkdir()
        own = cache / next(iter(self.cache.iterdir())).name
        next(iter(self.cache.iterdir())).rename(own)
        (own / "state.json").unlink()
        run = self.succeeds("cache", own=place)
        self.assertEqual([row["tokens"] for row in run.rows()], ["22"], "it reads no scan")
        self.assertIn("1 cached scan", run.err)
        self.assertIn("of at most 2,000.0 MB", run.err)
        theirs = self.write("theirs/notes.txt", "not millstone's")
        for name in ("0" * 32, f"{'1' * 32}-ordered"):
            (cache / name).symlink_to(theirs.parent)
        self.write("millstone/letters/a.txt", "a")
        self.write(f"millstone/{'2' * 32}/diary.txt", "a")
        (own / "forms").unlink()
        (own / "forms").symlink_to(theirs)
        self.assertIn("of at most 0.5 MB", self.succeeds("cache", "--limit", "0.0005", own=place).err)
        self.assertIn("cleared", self.succeeds("cache", "--clear", own=place).err)
        self.assertEqual(self.succeeds("cache", own=place).rows()[0]["tokens"], "", "a folder with a file of others")
        left = {path.relative_to(cache).as_posix() for path in cache.rglob("*") if path.is_file()}
        self.assertEqual(left, {"letters/a.txt", f"{'2' * 32}/diary.txt", "limit.json"})
        self.assertTrue(theirs.exists())
        self.succeeds("cache", "--clear", "--limit", "3", own=place)
        self.assertIn("of at most 3,000.0 MB", self.succeeds("cache", own=place).err)

    def test_it_is_for_the_eyes_of_its_user(self):
        self.assert_scans(1, "--ngram", "2")
        for path in (self.cache, *self.cache.rglob("*")):
            self.assertEqual(path.stat().st_mode & 0o077, 0, path)
        self.cache.chmod(0o755)
        self.assert_scans(0)
        self.assert_scans(1, "--cut", "links")
        self.assertEqual(self.cache.stat().st_mode & 0o777, 0o700)
        with mock.patch("os.geteuid", return_value=4711):
            self.assert_scans(1)

    def test_a_planted_one_whose_checksums_are_right_is_looked_at(self):
        self.assert_scans(1, "--ngram", "2")
        (folder,) = self.cache.iterdir()
        good = {path.name: path.read_bytes() for path in folder.iterdir()}
        sums = json.loads(good["sums.json"])
        whole = read_scan(folder, ordered=True).corpus
        chance = random.Random(8)
        for name in [*sums] * 6:
            data = bytearray(good[name])
            at = chance.randrange(len(data))
            data[at : at + 1] = chance.choice((b"", b"\xff", b"9", b"-", b"\x00", b"[", b"\n", bytes(data[at:]) * 2))
            planted = {**good, name: bytes(data)}
            planted["sums.json"] = json.dumps({**sums, name: [len(data), zlib.crc32(data)]}).encode()
            for file, content in planted.items():
                (folder / file).write_bytes(content)
            with self.subTest(name, at=at):
                # made anew or taken as it is, it is counted without leaving an array
                self.carried_out("freq", "--ngram", "2")
            for file, content in good.items():
                folder.mkdir(exist_ok=True)
                (folder / file).write_bytes(content)
        check(whole)
        for name, wrong in (
            ("ids", np.array([10**6], dtype=np.int32)),
            ("starts", np.array([0, 10**6])),
            ("breaks", np.array([0, -1, 10**6])),
            ("tokens", -whole.tokens),
        ):
            with self.subTest(name), self.assertRaisesRegex(ValueError, "do not fit"):
                check(replace(whole, **{name: wrong}))


if __name__ == "__main__":
    unittest.main()
