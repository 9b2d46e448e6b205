"""Builds in a folder of its own, so that nothing of an earlier build is taken along and two builds do not meet.

Everything else is said in pyproject.toml.
"""

import atexit
import os
import shutil
import sys
import tempfile
from pathlib import Path
from typing import Any

from setuptools import setup
from setuptools.command.build import build
from setuptools.command.build_ext import build_ext
from setuptools.command.egg_info import egg_info

_FOLDER = tempfile.mkdtemp(prefix="millstone-build-")
atexit.register(shutil.rmtree, _FOLDER, ignore_errors=True)


class _Build(build):
    def initialize_options(self) -> None:
        super().initialize_options()
        self.build_base = _FOLDER


class _BuildExtension(build_ext):
    def finalize_options(self) -> None:
        super().finalize_options()
        # a compiled part that is there may be of another version
        self.force = True

    def copy_file(self, infile: str, outfile: str, *args: Any, **named: Any) -> tuple[str, bool]:
        """Put the compiled part in its place at once: what runs, or installs, at the same time is not disturbed."""
        place = Path(outfile)
        new = place.with_name(f"{place.name}.{os.getpid()}")
        _, copied = super().copy_file(infile, str(new), *args, **named)
        new.replace(place)
        # one of an earlier version, for this Python alone, would be taken first
        for left in place.parent.glob("_compiled.c*"):
            left.unlink(missing_ok=True)
        return outfile, copied


class _EggInfo(egg_info):
    def initialize_options(self) -> None:
        super().initialize_options()
        # an archive of sources holds it, and finds it where it is by default
        if "sdist" not in sys.argv:
            self.egg_base = _FOLDER


setup(
    options={"bdist_wheel": {"py_limited_api": "cp311"}},
    cmdclass={"build": _Build, "build_ext": _BuildExtension, "egg_info": _EggInfo},
)
