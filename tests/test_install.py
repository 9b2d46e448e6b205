"""Builds and installs from a clone: complete, current, and not in each other's way."""

import importlib.metadata
import os
import shutil
import subprocess
import sys
import sysconfig
import tarfile
import tempfile
import unittest
import venv
from pathlib import Path

from millstone.core.base.arrays import compiled

ROOT = Path(__file__).parent.parent
NEEDED = ("src", "docs", "tests", "pyproject.toml", "setup.py", "MANIFEST.in", "README.md", "LICENSE", "CHANGELOG.md")
BUILD = "import sys; from setuptools import build_meta; build_meta.build_sdist(sys.argv[1])"
PIP = (sys.executable, "-m", "pip", "install", "--quiet", "--no-build-isolation", "--no-deps", "--no-index")
SHOW = "import millstone, millstone.core.base.arrays as a; print(millstone.__file__, a.compiled is not None)"


class Install(unittest.TestCase):
    takes_long = True

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.clone = self.folder / "clone"
        self.clone.mkdir()
        left_out = shutil.ignore_patterns("*.so", "*.egg-info", "__pycache__", "screenshots")
        for name in (*NEEDED, "CITATION.cff"):
            source = ROOT / name
            copy = shutil.copy if source.is_file() else lambda one, to: shutil.copytree(one, to, ignore=left_out)
            copy(source, self.clone / name)

    def run_in(self, place: Path, *command: object, **own: str) -> str:
        done = subprocess.run(
            [str(one) for one in command],
            cwd=place,
            env={**os.environ, **own},
            capture_output=True,
            text=True,
            check=False,
        )
        self.assertEqual(done.returncode, 0, done.stderr)
        return done.stdout

    def test_two_installs_at_once_take_nothing_that_an_earlier_one_left(self) -> None:
        suffix = "lib.linux-x86_64-cpython-311"
        for left in ("build/lib/millstone", f"build/{suffix}/millstone", f"build/{suffix}/millstone/core"):
            (self.clone / left).mkdir(parents=True, exist_ok=True)
            (self.clone / left / "stale.py").write_text("left = True\n")
        before = sorted(path for path in self.clone.rglob("*"))
        places = [self.folder / "one", self.folder / "other"]
        installs = [
            subprocess.Popen([*PIP, "--target", str(place), "."], cwd=self.clone, stderr=subprocess.PIPE, text=True)
            for place in places
        ]
        for install in installs:
            _, err = install.communicate(timeout=300)
            self.assertEqual(install.returncode, 0, err)
        modules = {str(path.relative_to(ROOT / "src")) for path in (ROOT / "src").rglob("*.py")}
        for place in places:
            found = {str(path.relative_to(place)) for path in place.rglob("*.py")}
            self.assertEqual(found, modules)
            self.assertTrue((place / "share/man/man1/millstone-freq.1").exists())
            where, has_compiled = self.run_in(self.folder, sys.executable, "-c", SHOW, PYTHONPATH=str(place)).split()
            self.assertTrue(Path(where).is_relative_to(place), where)
            self.assertEqual(has_compiled, str(compiled is not None))
        self.assertEqual(sorted(path for path in self.clone.rglob("*")), before, "nothing is left in the clone")

    def test_archive_and_wheel_are_complete_and_run_the_demo_in_an_empty_environment(self) -> None:
        self.run_in(self.clone, sys.executable, "-c", BUILD, self.folder)
        (archive,) = self.folder.glob("*.tar.gz")
        with tarfile.open(archive) as opened:
            held = {name.partition("/")[2] for name in opened.getnames()}
        wanted = {"CHANGELOG.md", "CITATION.cff", "LICENSE", "README.md", "setup.py", "docs/man/millstone-freq.1"}
        wanted |= {str(path.relative_to(ROOT)) for path in (ROOT / "src").rglob("*.py")}
        wanted |= {
            "src/millstone/core/compiled/strings.h",
            "src/millstone/data/completion/bash",
            "src/millstone/py.typed",
        }
        self.assertEqual(wanted - held, set())
        self.assertEqual([name for name in held if name.startswith(("tests", "build"))], [])
        self.run_in(self.folder, *PIP[:3], "wheel", *PIP[4:], archive)
        (wheel,) = self.folder.glob("*.whl")
        if compiled is not None:
            self.assertIn("-cp311-abi3-", wheel.name, "one serves all versions of Python")
        place = self.folder / "empty"
        venv.create(place, with_pip=False, symlinks=os.name != "nt")
        python = place / "bin" / "python"
        self.run_in(self.folder, *PIP[:3], "--python", python, *PIP[3:], wheel)
        # the libraries that it needs are those of this environment; the package is not found there
        own = Path(self.run_in(self.folder, python, "-c", "import site; print(site.getsitepackages()[0])").strip())
        (own / "libraries.pth").write_text(f"{sysconfig.get_path('purelib')}\n", "utf-8")
        where, has_compiled = self.run_in(self.folder, python, "-c", SHOW).split()
        self.assertTrue(Path(where).is_relative_to(place), where)
        self.assertEqual(has_compiled, str(compiled is not None))
        self.run_in(self.folder, place / "bin" / "millstone", "demo", "huts", "--quiet")
        self.assertTrue((self.folder / "huts/results/report.html").exists())
        found = importlib.metadata.PathDistribution.at(next(own.glob("millstone*.dist-info"))).metadata["Version"]
        self.assertIn(found, archive.name)


if __name__ == "__main__":
    unittest.main()
