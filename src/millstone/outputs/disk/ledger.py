"""The ledger: what millstone wrote into a folder, by which its own files are known."""

import hashlib
import json
from collections.abc import Mapping
from dataclasses import field, replace
from functools import cache
from pathlib import Path

from millstone.core.base.errors import DataError
from millstone.core.base.light_dataclass import frozen

LEDGER = ".millstone-ledger.json"
"""The file in which each folder keeps account of what millstone wrote there; never a text."""

RESULTS, SAMPLES = "written by millstone", "sample texts of millstone"
"""The kinds of file that a ledger lists. Results are never texts of a folder, sample texts are."""

Sums = tuple[str, ...]
"""SHA-256 in hexadecimal: one; or several while a file is being replaced, any of which makes it millstone's own."""


@frozen
class Ledger:
    """The files of millstone in a folder: for each kind (`RESULTS`, `SAMPLES`), name -> `Sums`."""

    files: Mapping[str, Mapping[str, Sums]] = field(default_factory=dict)

    def sums_of(self, name: str) -> Sums:
        """The sums by which a file of this name is millstone's own; none where it wrote no such file."""
        return next((files[name] for files in self.files.values() if name in files), ())

    def beginning(self, kind: str, sums: Mapping[str, str]) -> "Ledger":
        """Before files get their names: until then each may be as it was ("": not there) or as it will be."""
        both = {name: (*(self.sums_of(name) or ("",)), one) for name, one in sums.items()}
        return self._with(kind, {name: tuple(dict.fromkeys(either)) for name, either in both.items()})

    def ended(self, kind: str, sums: Mapping[str, str]) -> "Ledger":
        """When all files have their names."""
        return self._with(kind, {name: (one,) for name, one in sums.items()})

    def settled(self, folder: Path) -> "Ledger":
        """Resolve entries left ambiguous by a killed run by hashing the file that is there."""
        return Ledger({kind: _settled(files, folder) for kind, files in self.files.items()})

    def _with(self, kind: str, sums: Mapping[str, Sums]) -> "Ledger":
        return replace(self, files={**self.files, kind: {**self.files.get(kind, {}), **sums}})

    def as_json(self) -> bytes:
        """The content of the file."""
        kinds = (kind for kind in (RESULTS, SAMPLES) if self.files.get(kind))
        content = {
            kind: {name: sums[0] if len(sums) == 1 else list(sums) for name, sums in sorted(self.files[kind].items())}
            for kind in kinds
        }
        # a name that is not UTF-8 becomes an escape that JSON reads back
        return (json.dumps(content, ensure_ascii=False, indent=1) + "\n").encode("utf-8", "backslashreplace")


def _settled(files: Mapping[str, Sums], folder: Path) -> dict[str, Sums]:
    found: dict[str, Sums] = {}
    for name, sums in files.items():
        if len(sums) == 1:
            found[name] = sums
        elif (folder / name).is_file():
            now = sha256_of(folder / name)
            found[name] = (now,) if now in sums else sums
    return found


def read_ledger(folder: Path) -> Ledger:
    """The ledger of a folder; an empty one where millstone wrote nothing.

    Raises
    ------
    DataError
        When it cannot be read or understood.
    """
    path = folder / LEDGER
    try:
        content = json.loads(path.read_bytes())
        if not isinstance(content, dict):
            raise TypeError(content)
        return Ledger(
            {kind: dict(map(_entry, content[kind].items())) for kind in (RESULTS, SAMPLES) if kind in content}
        )
    except (FileNotFoundError, NotADirectoryError):
        return Ledger()
    except OSError as error:
        raise DataError(
            f"{path} cannot be read: {(error.strerror or str(error)).lower()}",
            "make it readable: it distinguishes millstone's own results from other files",
        ) from error
    except (ValueError, TypeError, AttributeError, RecursionError) as error:
        raise DataError(
            f"{path} is damaged, so that millstone's own results here are not known from other files",
            "move the results to another folder, and remove that file",
        ) from error


def _entry(entry: tuple[str, object]) -> tuple[str, Sums]:
    name, sums = entry
    several = tuple(sums) if isinstance(sums, list) else (sums,)
    if not all(isinstance(one, str) for one in several):
        raise TypeError(name)
    return name, several


@cache
def results_in(folder: Path | str) -> frozenset[str]:
    """The names of millstone's own results in a folder, by the ledger that lies there.

    Raises
    ------
    DataError
        When the ledger cannot be read or understood.
    """
    names = read_ledger(Path(folder)).files.get(RESULTS, {})
    # plain text is never a result, though the ledgers of old samples list it
    return frozenset(name for name in names if not name.endswith(".txt"))


def sha256_of(path: Path) -> str:
    """The SHA-256 of a file, in hexadecimal."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()
