"""Texts read by the workers of a cluster on this machine: the same bytes, faults reported, nothing counted twice."""

import json
import os
import random
import shlex
import signal
import subprocess
import sys
import tempfile
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any
from unittest import mock

from millstone.core.base.errors import DataError
from millstone.core.corpus.cleaning import Cleaned
from millstone.core.settings.inputs import InputOptions
from millstone.core.settings.preparation import Preparation
from millstone.texts.cluster import workers
from millstone.texts.cluster.parts import PartRules
from millstone.texts.inputs.finding.finding import files_to_read
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.machine import Scheduler
from tests.cli.program import PROGRAM, ProgramTest, Run, environment

WORDS = ["rope", "Ice", "froze.", "Snow", "\u00e9t\u00e9", "well-kept", "So?", "\n\n", "stove,"]


class Cluster(ProgramTest):
    takes_long = True

    client: Any

    @classmethod
    def setUpClass(cls) -> None:
        from distributed import Client, LocalCluster

        cluster = LocalCluster(n_workers=2, threads_per_worker=1, dashboard_address=None, silence_logs=50)
        cls.client = Client(cluster)
        cls.addClassCleanup(cluster.close)
        cls.addClassCleanup(cls.client.close)
        cls.address = cluster.scheduler_address

    def setUp(self) -> None:
        super().setUp()
        chance = random.Random(6)
        for group in ("a", "b", "c"):
            for number in range(1, 5):
                text = " ".join(chance.choices(WORDS, k=4000))
                self.write(f"texts/{group}/201{number}.txt", text)
        rows = "".join(f'r{n},{"abc"[n % 3]},"{" ".join(chance.choices(WORDS[:6], k=9))}"\n' for n in range(2400))
        # large enough to be cut, and not as plain everywhere
        self.write("rows.csv", f'id,hut,entry\n{rows}odd,c,"he said ""ice""\n\nand snow"\n\nshort,a\n')
        lines = [
            json.dumps({"hut": "abc"[n % 3], "entry": " ".join(chance.choices(WORDS, k=9))}) for n in range(2400)
        ]
        word = "1\t{0}\t{0}\tNOUN\t_\t_\t0\troot\t_\t_\n\n"
        tagged = (
            f"# newdoc id = t{n}\n# hut = {'abc'[n % 3]}\n" + 40 * word.format(chance.choice(WORDS[:3]))
            for n in range(90)
        )
        self.write("tagged.conllu", "".join(tagged))
        self.write("lines.jsonl", "\n".join(lines))
        self.write("dictionary.toml", '[categories]\ncold = ["ice", "snow", "froz*"]\n')

    def test_the_same_as_on_one_machine(self):
        table = (
            "freq texts",
            "freq texts rows.csv --text entry",
            "freq tagged.conllu --group hut --lemmas given --pos NOUN",
            "freq lines.jsonl rows.csv --text entry --group hut --cut pattern:[io]",
            "concordance lines.jsonl --text entry --group hut --find rope --top 3",
            "freq x=texts/a y=texts --lemmas en --stop en",
            "freq rows.csv --text entry --group hut --id id --where 'hut != b'",
            "freq texts --unit parts:3 --group part",
            "freq texts --path-pattern '(?P<year>[0-9]{4})' --group year --drop-repeats",
            "keyness texts",
            "keyness texts --unit parts:3 --resample 20",
            "categories texts --dictionary dictionary.toml",
            "contrast texts --dictionary dictionary.toml",
            "freq texts --ngram 2",
            "collocates texts --find rope",
            "concordance texts --find rope --top 30",
            # what one machine says of these, too
            "freq texts --where 'yaer > 2'",
            "freq texts --path-pattern '(?P<year>x[0-9]{4})'",
            "freq rows.csv --text entry --group hat",
        )
        with ThreadPoolExecutor(2) as pool:
            runs = list(pool.map(self.both, table))
        for typed, (alone, together) in zip(table, runs, strict=True):
            with self.subTest(typed):
                self.assertEqual(together, alone)

    def both(self, typed: str) -> list[Run]:
        arguments = [*shlex.split(typed), "--no-cache"]
        return [self.millstone(*arguments, *more) for more in ((), ("--cluster", self.address))]

    def test_a_study_and_workers_of_its_own(self):
        step = '[[step]]\ncommand = "freq"\noutput = "f.csv"\n'
        here = tempfile.TemporaryDirectory()
        self.addCleanup(here.cleanup)
        ways = ((), ("--cluster", self.address), ("--cluster", "local:1"))
        for number, typed in enumerate(ways):
            head = f'[study]\noutput = "out{number}"\n'
            self.write(f"{number}.toml", f'{head}[corpus]\ninput = ["texts"]\n{step}')
            self.succeeds("run", f"{number}.toml", *typed, own={"TMPDIR": here.name}, stdin=subprocess.DEVNULL)
        first, *others = [(self.folder / f"out{number}/f.csv").read_bytes() for number in range(3)]
        self.assertEqual(others, [first, first])
        self.assertEqual(list(Path(here.name).iterdir()), [], "workers of its own leave nothing behind")

    def test_who_writes_a_study_or_a_table_does_not_choose_the_scheduler(self):
        nobody = "tcp://127.0.0.1:1"
        step = f'[[step]]\ncommand = "freq"\noutput = "f.csv"\ncluster = "{nobody}"\n'
        self.write("s.toml", f'[study]\ncluster = "{nobody}"\n[corpus]\ninput = ["texts"]\n{step}')
        run = self.succeeds("run", "s.toml")
        self.assertEqual(run.err.count("cluster is not read from a study"), 2, run.err)
        self.assertIn("s.toml, line 2, column 1: cluster", run.err)
        run = self.succeeds("freq", "--study", "s.toml", "--no-cache", "--top", "1")
        self.assertIn("cluster is not read from a study", run.err)
        notes = json.loads((self.folder / "f.csv-metadata.json").read_text("utf-8"))
        notes["notes"][0]["settings"]["cluster"] = nobody
        self.write("f.csv-metadata.json", json.dumps(notes))
        self.succeeds("concordance", "--from", "f.csv", "--row", "1", "--no-cache")
        # a variable holds for all commands that this machine does not do better alone
        own = {"MILLSTONE_CLUSTER": nobody}
        self.fails(1, f"MILLSTONE_CLUSTER {nobody}: no scheduler answers there", "dask scheduler", "freq", "texts", "--no-cache", own=own)  # fmt: skip
        self.succeeds("freq", "-", input="rope and ice", own=own)
        own = {"MILLSTONE_CLUSTER": self.address}
        alone, together = (self.succeeds("freq", "texts", "--no-cache", own=one) for one in ({}, own))
        self.assertEqual(together, alone)

    def scanned(self, **patches: Any) -> Any:
        """The scan of all texts by the workers, as a library would ask for it."""
        rules = PartRules(InputOptions(), Preparation(), True, False)
        provenance = Provenance()
        with mock.patch.multiple(workers, _LEAST_PART=1, **patches):
            corpus = workers.scan_on_cluster(
                Scheduler(self.address, "--cluster"),
                [str(self.folder / "texts")],
                rules,
                provenance,
                Cleaned(),
                lambda size, tokens: None,
            )
        return corpus, provenance

    def test_a_worker_that_dies_is_replaced_and_nothing_is_counted_twice(self):
        whole, _ = self.scanned()
        process = next(iter(self.client.run(os.getpid).values()))
        # the first task that it gets ends it
        threading.Timer(0.05, os.kill, (process, signal.SIGKILL)).start()
        again, provenance = self.scanned(_seen_from=_slowly)
        self.assertNotIn(process, self.client.run(os.getpid).values())
        self.assertEqual(again.form_counts.toarray().tolist(), whole.form_counts.toarray().tolist())
        for one, other in zip(again.sequence, whole.sequence, strict=True):
            self.assertEqual(one.tolist(), other.tolist())
        self.assertEqual(len(provenance.files), 12)

    def test_what_is_wrong_with_a_cluster(self):
        self.each_fails([
            (1, "no scheduler answers there: [Errno 111]", "dask scheduler", "freq", "texts", "--cluster", "tcp://127.0.0.1:1"),
            (1, "an address is tcp://HOST:PORT", "dask scheduler", "freq", "texts", "--cluster", "first"),
            (2, "not a number of workers", "local:2", "freq", "texts", "--cluster", "local:0"),
            (2, "not a number of workers", "local:2", "freq", "texts", "--cluster", f"local:{'9' * 5000}"),
            (2, "standard input is on this machine", "files that all workers", "freq", "-", "--cluster", self.address),
        ])  # fmt: skip
        with self.assertRaisesRegex(DataError, "this is millstone 0.0.1, and .* has "), mock.patch("millstone.texts.cluster.workers.VERSION", "0.0.1"):  # fmt: skip
            self.scanned()
        (file,) = list(files_to_read([str(self.folder / "texts/a/2011.txt")], InputOptions(), Provenance()))
        rules = PartRules(InputOptions(), Preparation(), False, False)
        here = str(Path.cwd())
        self.addCleanup(os.chdir, here)
        file.path.unlink()
        with self.assertRaisesRegex(DataError, "the worker on .* does not see .*2011.txt"):
            workers._seen_from(here, rules, [file])
        with self.assertRaisesRegex(DataError, "does not see the folder .*gone"):
            workers._seen_from(str(self.folder / "gone"), rules, [file])

    def test_an_interruption_ends_the_work_on_the_cluster(self):
        self.write("long/1.txt", "snow and ice " * 3_000_000)
        command = [PROGRAM, "freq", "long", "--no-cache", "--cluster", self.address]
        with subprocess.Popen(command, cwd=self.folder, env=environment(), stderr=subprocess.PIPE) as run:
            until = time.monotonic() + 60
            while not any(self.client.processing().values()) and time.monotonic() < until:
                time.sleep(0.01)
            run.send_signal(signal.SIGINT)
            _, said = run.communicate()
        self.assertEqual(run.returncode, 130, said)
        self.assertIn(b"interrupted", said)
        until = time.monotonic() + 60
        while any(self.client.processing().values()) and time.monotonic() < until:
            time.sleep(0.05)
        self.assertFalse(any(self.client.processing().values()))


def _slowly(folder: str, rules: PartRules, files: Any) -> Any:
    time.sleep(0.2)
    return workers._seen_from(folder, rules, files)


if __name__ == "__main__":
    sys.exit("python -m unittest tests.cli.test_cluster")
