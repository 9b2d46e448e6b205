"""The tests; found as a whole, their classes run side by side."""

import os
import signal
import tempfile
import unittest
from pathlib import Path

# what is kept between runs must not lie in the folder of whoever runs the tests
_CACHE = tempfile.TemporaryDirectory()
os.environ["XDG_CACHE_HOME"] = _CACHE.name
os.environ["XDG_STATE_HOME"] = _CACHE.name

# a build server may have started this with interruptions ignored or with a stream closed, and runs would inherit it
signal.signal(signal.SIGINT, signal.default_int_handler)
signal.signal(signal.SIGTERM, signal.SIG_DFL)
for _number in range(3):
    try:
        os.fstat(_number)
    except OSError:
        # the lowest free number is this one
        os.open(os.devnull, os.O_RDWR)


def load_tests(loader: unittest.TestLoader, tests: unittest.TestSuite, pattern: str | None) -> unittest.TestSuite:
    """What discovery runs: all tests below this folder."""
    # a module of this package may be run as a program, and must not be imported before
    from tests.side_by_side import SideBySide

    here = Path(__file__).parent
    return SideBySide(loader.discover(str(here), pattern or "test*.py", str(here.parent)))
