"""Builds in a folder of its own, so that nothing of an earlier build is taken along and two builds do not meet.

Everything else is said in pyproject.toml.
"""

import atexit
import shutil
import sys
import tempfile

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


class _EggInfo(egg_info):
    def initialize_options(self) -> None:
        super().initialize_options()
        # an archive of sources holds it, and finds it where it is by default
        if "sdist" not in sys.argv:
            self.egg_base = _FOLDER


setup(cmdclass={"build": _Build, "build_ext": _BuildExtension, "egg_info": _EggInfo})
