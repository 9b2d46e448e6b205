"""A description of the machine for reports of faults."""

import locale
import platform
import sys
from collections.abc import Iterator, Sequence
from importlib import metadata
from pathlib import Path

import platformdirs

from millstone.core.base.arrays import compiled
from millstone.core.base.version import VERSION
from millstone.study.record.versions import version_of

_PACKAGE = "millstone-corpus"


def described() -> Iterator[str]:
    """Versions, folders and extras, line by line."""
    yield f"millstone {VERSION}"
    yield f"Python {platform.python_version()} ({sys.executable})"
    yield f"system: {platform.platform()}"
    yield f"encoding: {locale.getpreferredencoding(False)}; files: {sys.getfilesystemencoding()}"
    yield f"installed in: {Path(__file__).parents[1]}"
    yield f"compiled part: {'there' if compiled is not None else 'not there (arrays do the same)'}"
    yield f"cache: {platformdirs.user_cache_path('millstone', appauthor=False)}"
    needed = metadata.requires(_PACKAGE) or []
    names = sorted(_name_of(one) for one in needed if "extra ==" not in one)
    found = ", ".join(f"{name} {version_of(name) or '(missing)'}" for name in names)
    yield f"libraries: {found}"
    for extra in ("cluster", "parquet", "remote", "tags"):
        packages = [_name_of(one) for one in needed if f'extra == "{extra}"' in one]
        found = ", ".join(f"{name} {version_of(name) or '(not installed)'}" for name in packages)
        yield f"extra {extra}: {found}"


def _name_of(requirement: str) -> str:
    end = next((at for at, sign in enumerate(requirement) if not (sign.isalnum() or sign in "-_.")), len(requirement))
    return requirement[:end]


def show(arguments: Sequence[str]) -> None:
    """Print the versions."""
    print("\n".join(described()))
