"""The examples in docstrings of the core and in the library guide."""

import doctest
import importlib
import pkgutil
import unittest
from pathlib import Path

import millstone

GUIDE = Path(__file__).parent.parent / "docs" / "library.md"


class Examples(unittest.TestCase):
    def test_docstrings(self):
        tried = 0
        for found in pkgutil.walk_packages(millstone.__path__, "millstone."):
            module = importlib.import_module(found.name)
            failed, attempted = doctest.testmod(module)
            self.assertEqual(failed, 0, module)
            tried += attempted
        self.assertGreaterEqual(tried, 7)

    def test_guide(self):
        failed, attempted = doctest.testfile(str(GUIDE), module_relative=False)
        self.assertEqual(failed, 0)
        self.assertGreaterEqual(attempted, 12)


if __name__ == "__main__":
    unittest.main()
