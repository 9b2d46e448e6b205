"""The versions of everything that computes, and how to cite millstone."""

import platform
import unicodedata
from collections.abc import Iterable, Sequence
from importlib import metadata

from millstone.core.base.version import VERSION

COMPUTE = ("numpy", "scipy", "pandas", "networkx")
_OF_SETTING = {"stem": ("snowballstemmer",), "lemmas": ("lemminflect", "simplemma"), "tag": ("HanTa",)}


def version_of(package: str) -> str:
    """The version of an installed package; empty where it is not installed."""
    try:
        return metadata.version(package)
    except metadata.PackageNotFoundError:
        return ""


def versions(settings: Iterable[str] = (), draws: bool = False) -> list[str]:
    """``millstone 1.0, Python 3.12, numpy 2.1, ...``: what had a part in results made with these settings."""
    packages = [*COMPUTE, *(["matplotlib"] if draws else [])]
    packages += [package for name in settings for package in _OF_SETTING.get(name, ())]
    found = [f"{name} {version_of(name)}" for name in dict.fromkeys(packages)]
    first = [f"millstone {VERSION}", f"Python {platform.python_version()}"]
    return [*first, *found, f"Unicode {unicodedata.unidata_version}"]


def citation() -> str:
    """Text and BibTeX."""
    version = VERSION
    return "\n".join(
        [
            f"The millstone developers (2026). millstone (version {version}) [computer software].",
            "",
            "@software{millstone,",
            "  author  = {{The millstone developers}},",
            "  title   = {millstone},",
            f"  version = {{{version}}},",
            "  year    = {2026}",
            "}",
        ]
    )


def show(arguments: Sequence[str]) -> None:
    """Print how to cite millstone."""
    print(citation())
