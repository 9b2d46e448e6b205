"""Imports all that the program may need, so that a child of this process has it at once."""

import contextlib
import gc
import importlib
import pkgutil

# what the program imports where it is called
_LIBRARIES = (
    "charset_normalizer", "difflib", "lemminflect", "lxml.etree", "lxml.html", "openpyxl", "pandas",
    "pyarrow.parquet",
    "regex", "rich.console", "rich.progress", "scipy.fft", "scipy.io", "scipy.optimize", "scipy.sparse",
    "scipy.special", "scipy.stats", "simplemma", "snowballstemmer", "stop_words",
)  # fmt: skip


def import_program() -> None:
    """Import all modules of the program, and the libraries that are installed."""
    for layer in pkgutil.walk_packages(importlib.import_module("millstone").__path__, "millstone."):
        if layer.name != "millstone.__main__":
            importlib.import_module(layer.name)
    for name in _LIBRARIES:
        with contextlib.suppress(ImportError):
            importlib.import_module(name)
    gc.freeze()
