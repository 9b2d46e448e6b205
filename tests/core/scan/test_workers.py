"""Counting in several processes: the same result, faults reported, nothing left running."""

import itertools
import os
import random
import signal
import unittest
from contextlib import ExitStack
from unittest import mock

import numpy as np

from millstone.core.base.arrays import compiled
from millstone.core.base.errors import MillstoneError
from millstone.core.corpus.corpus import Document, Token
from millstone.core.scan import blocks
from millstone.core.scan import scan as scan_module
from millstone.core.scan.merge_parts import joined_scans, packed, unpacked
from millstone.core.scan.numbering import PADDING
from millstone.core.scan.scan import scan
from millstone.core.scan.tally import Block, RunTally
from millstone.core.scan.threads import Threads
from millstone.core.scan.workers import WorkerPool


def block(number: int, text: str) -> Block:
    data = f" {text} ".encode()
    return Block(number, np.array([number]), data + PADDING, np.array([len(data)]))


class Processes(unittest.TestCase):
    def crew(self, ordered: bool = False) -> WorkerPool:
        crew = WorkerPool(2, ordered)
        self.addCleanup(crew.close)
        return crew

    def test_all_blocks_are_counted_once(self):
        crew = self.crew(ordered=True)
        counted = sum(crew.add(block(number, "ice and snow " * (number + 1))) for number in range(30))
        tallies = list(crew.tallies())
        self.assertEqual(len(tallies), 2)
        found = [number for tally in tallies for number in tally.tally.sequences]
        self.assertEqual(sorted(found), list(range(30)))
        tokens = sum(int(cells.times.sum()) for tally in tallies for cells in tally.tally.cells)
        self.assertEqual(tokens, 3 * sum(range(1, 31)))
        self.assertLessEqual(counted, tokens)

    def test_one_that_is_ended_from_outside_is_reported(self):
        crew = self.crew()
        for process in crew._processes:
            os.kill(process.pid, signal.SIGKILL)
            process.join()
        with self.assertRaises(MillstoneError) as caught:
            for number in range(9):
                crew.add(block(number, "ice"))
            list(crew.tallies())
        self.assertIn("--jobs 1", caught.exception.remedy)

    def test_a_fault_in_one_is_a_fault_here(self):
        crew = self.crew()
        with self.assertRaises(AttributeError):
            crew.add("no block")
            list(crew.tallies())

    def test_closing_leaves_nothing_running(self):
        crew = self.crew()
        crew.add(block(1, "ice"))
        crew.close()
        self.assertFalse(any(process.is_alive() for process in crew._processes))

    def test_a_fault_of_reading_closes_them(self):
        def documents():
            yield Document("1", "g", "ice " * 100)
            raise MillstoneError("unreadable", "fix it")

        for kind, part in ((WorkerPool, None), (Threads, compiled)):
            closed = []
            real = kind.close
            patches = (
                mock.patch.object(scan_module, "LONG", 0),
                mock.patch.object(scan_module, "compiled", (part or True) if kind is Threads else None),
                mock.patch.object(blocks, "SIZE", 16),
                mock.patch.object(
                    kind, "close", lambda crew, real=real, closed=closed: (closed.append(1), real(crew))
                ),
            )
            with ExitStack() as stack, self.subTest(kind.__name__):
                for patch in patches:
                    stack.enter_context(patch)
                with self.assertRaisesRegex(MillstoneError, "unreadable"):
                    scan(documents(), jobs=2)
                self.assertEqual(len(closed), 1)

    def test_threads_count_as_one_does_and_pass_on_what_goes_wrong(self):
        chance = random.Random(8)
        texts = [
            " ".join(chance.choices(["ice", "snow", "fog", "rock", "hut"], k=chance.randrange(90))) for _ in range(40)
        ]
        documents = [Document(str(number), "g", text) for number, text in enumerate(texts)]
        whole = scan(documents, ordered=True)
        patches = (mock.patch.object(scan_module, "LONG", 0), mock.patch.object(blocks, "SIZE", 64))
        with patches[0], patches[1], mock.patch.object(scan_module, "compiled", compiled or True):
            for again in (scan(documents, jobs=3), in_order := scan(documents, ordered=True, jobs=3)):
                self.assertEqual((again.forms, again.groups), (whole.forms, whole.groups))
                self.assertEqual(again.form_counts.toarray().tolist(), whole.form_counts.toarray().tolist())
            for one, other in zip(in_order.sequence, whole.sequence, strict=True):
                self.assertEqual(one.tolist(), other.tolist())
        for what in ("add", "finish"):
            threads = Threads(2, ordered=False)
            self.addCleanup(threads.close)
            with (
                self.subTest(what),
                mock.patch(f"millstone.core.scan.tally.RunTally.{what}", side_effect=MemoryError("none left")),
                self.assertRaisesRegex(MemoryError, "none left"),
            ):
                threads.add(block(1, "ice"))
                list(threads.tallies())


class Joined(unittest.TestCase):
    def test_scans_of_parts_give_the_scan_of_the_whole(self):
        chance = random.Random(8)
        words = ["ice", "Ice", "snow.", "\u00e9t\u00e9", "rope", "two-fold", "So?", "\n\n"]
        tokens = [Token("ice", "ice", "NOUN"), Token("ices", "ice", "VERB"), Token("Snow"), None]

        def document(number: int) -> Document:
            fields = {name: str(number) for name in chance.sample("xyz", 2)}
            annotated = chance.choices(tokens, k=5) if number % 5 == 0 and has_tags else None
            text = "" if annotated else " ".join(chance.choices(words, k=chance.randrange(9)))
            part = number % 3 if has_parts else 0
            group = chance.choice(("a", "g10", "g9"))
            return Document(
                f"d{number}", group, text, fields, annotated=annotated, part_of="t" * (part > 1), part=part
            )

        for trial in range(60):
            has_tags, has_parts = trial % 3 == 0, trial % 2 == 0
            documents = [document(number) for number in range(1, chance.randrange(2, 14))]
            cuts = sorted(chance.randrange(len(documents) + 1) for _ in range(3))
            pieces = [documents[one:two] for one, two in itertools.pairwise([0, *cuts, len(documents)])]
            for ordered in (False, True):
                whole = scan(documents, ordered)
                joined = unpacked(joined_scans([packed(scan(piece, ordered)) for piece in pieces]))
                for name in ("forms", "annotation", "groups"):
                    self.assertEqual(getattr(joined, name), getattr(whole, name))
                for name in ("tokens", *(("ids", "starts", "breaks") if ordered else ())):
                    self.assertEqual(getattr(joined, name).tolist(), getattr(whole, name).tolist(), name)
                for name in ("data", "indices", "indptr"):
                    one, other = getattr(joined.form_counts, name), getattr(whole.form_counts, name)
                    self.assertEqual(one.tolist(), other.tolist())
                self.assertEqual(joined.documents.names, whole.documents.names)
                self.assertEqual(list(joined.documents.rows()), list(whole.documents.rows()))


class Tallies(unittest.TestCase):
    def test_documents_that_share_a_block_or_several(self):
        """Long documents are added up, short ones counted together; both give the same matrix."""
        texts = ["ice snow ice", "", "snow " * 50, "fog", "ice " * 70 + "fog", "rock"]
        documents = [Document(str(number), "g", text) for number, text in enumerate(texts)]
        whole = scan(documents)
        for size in (1, 10, 64, 200):
            with mock.patch.object(blocks, "SIZE", size), mock.patch("millstone.core.scan.tally._WAITING", 20):
                again = scan(documents)
            self.assertEqual(again.form_counts.toarray().tolist(), whole.form_counts.toarray().tolist(), size)
        expected = [[text.split().count(form) for form in whole.forms] for text in texts]
        self.assertEqual(whole.form_counts.toarray().tolist(), expected)

    def test_the_ends_of_documents_in_a_block(self):
        tally = RunTally(ordered=True)
        data = b" One. Two three. Four. " + PADDING
        ends = np.array([5, 5, 16, 23])
        tally.add(Block(1, np.array([7, 8, 9, 10]), data, ends))
        sequence = tally.tally.sequences[1]
        self.assertEqual(len(sequence.numbers), 4)
        self.assertEqual(sequence.ends.tolist(), [1, 1, 3, 4])
        self.assertEqual(sequence.breaks.tolist(), [1, 3, 4])


if __name__ == "__main__":
    unittest.main()
