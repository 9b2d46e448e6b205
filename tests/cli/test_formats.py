"""The same corpus in every format gives the same counts; what each format adds or hides."""

import unittest

from tests.cli.corpus_files import expected, write_tables, write_texts
from tests.cli.program import ProgramTest

MEND = "--mend=hyphens,entities"


class Formats(ProgramTest):
    def counts(self, *arguments: object) -> dict[str, dict[str, int]]:
        found: dict[str, dict[str, int]] = {}
        for row in self.succeeds("freq", *arguments, MEND).rows():
            found.setdefault(row["group"], {})[row["term"]] = int(row["freq"])
        return found

    def test_every_format_gives_the_same_frequencies(self):
        wanted = expected()
        for ending in write_texts(self.folder):
            with self.subTest(ending):
                self.assertEqual(self.counts(ending), wanted)
        write_tables(self.folder)
        names = sorted(path.name for path in self.folder.glob("*.*") if path.is_file())
        self.assertEqual(len(names), 8)
        tables = []
        for name in names:
            with self.subTest(name):
                self.assertEqual(self.counts(name, "--text=entry", "--group=hut"), wanted)
                tables.append(self.succeeds("freq", name, "--text=entry", "--group=hut", MEND).out)
        self.assertEqual(len(set(tables)), 1, "docs and dp too, where rows are documents")


if __name__ == "__main__":
    unittest.main()
