"""From the inputs of a command to documents, one after the other."""

import glob
import os
import sys
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path

from millstone.core.corpus import Document, natural_key
from millstone.core.declare import nearest
from millstone.core.errors import DataError
from millstone.core.result import LEDGER
from millstone.sources.decoding import decode, read_bytes
from millstone.sources.provenance import Provenance
from millstone.sources.settings import Reading
from millstone.sources.table import header_of, read_table

TEXTS = (".txt",)
TABLES = (".csv", ".tsv")
READ = "millstone reads .txt, .csv and .tsv"
STANDARD_INPUT = "-"


@dataclass(frozen=True)
class _Place:
    """An input as typed: a path, and the group's name when one was given."""

    path: Path
    name: str


def read_documents(inputs: Iterable[str], reading: Reading, provenance: Provenance) -> Iterator[Document]:
    """The documents of all inputs, in their order; within a folder in natural order of path.

    Parameters
    ----------
    inputs : iterable of str
        Folders, files, ``-`` for standard input, or ``NAME=PATH``; ``~ * ? **`` in a path are expanded.
    reading : Reading
    provenance : Provenance
        Told what was read and what was passed over.

    Raises
    ------
    DataError
        For a path that does not exist, a folder without texts, a file of a kind that is not read.
    """
    places = [place for typed in inputs for place in _places(typed)]
    for place in places:
        if str(place.path) == STANDARD_INPUT:
            documents = iter([_standard_input(place, reading, provenance)])
        elif place.path.is_dir():
            documents = _folder(place, reading, provenance, several=len(places) > 1)
        else:
            documents = _file(place, reading, provenance)
        here: set[str] = set()
        for document in documents:
            here.add(document.group)
            yield document
        provenance.groups += sorted(here.difference(provenance.groups), key=natural_key)


def input_paths(inputs: Iterable[str]) -> list[Path]:
    """The files and folders that the inputs name.

    Raises
    ------
    DataError
        For a path that does not exist.
    """
    return [place.path for typed in inputs for place in _places(typed) if str(place.path) != STANDARD_INPUT]


def _places(typed: str) -> list[_Place]:
    path, name = Path(typed).expanduser(), ""
    if not path.exists() and "=" in typed:
        name, _, after = typed.partition("=")
        path = Path(after).expanduser()
        if not name.strip():
            raise DataError(f"{typed!r} names no group before the =", "write NAME=PATH")
    if path.exists() or str(path) == STANDARD_INPUT:
        return [_Place(path, name.strip())]
    found = sorted(glob.glob(str(path), recursive=True), key=natural_key)
    if not found:
        raise _missing(path)
    return [_Place(Path(one), name.strip()) for one in found]


def _missing(path: Path) -> DataError:
    folder = path.parent
    if not folder.is_dir():
        return DataError(
            f"there is no file or folder {path}", f"check the spelling; the folder {folder} is missing too"
        )
    around = [one.name for one in folder.iterdir()]
    return DataError(
        f"there is no file or folder {path}{nearest(path.name, around)}",
        f"check the spelling; you are in {Path.cwd()}",
    )


def _folder(place: _Place, reading: Reading, provenance: Provenance, several: bool) -> Iterator[Document]:
    wanted = TEXTS + TABLES if reading.text else TEXTS
    own_name = place.path.resolve().name
    found, passed_over = [], []
    for path in _files_below(place.path):
        if path.name == LEDGER:
            continue
        inside = path.relative_to(place.path)
        is_hidden = any(part.startswith(".") for part in inside.parts)
        is_read = path.suffix.lower() in wanted and not is_hidden
        if is_read and path.suffix.lower() in TABLES:
            is_read = reading.text in header_of(path, reading)
        (found if is_read else passed_over).append(inside)
    provenance.skipped += [str(inside) for inside in passed_over]
    if not found:
        seen = f"only files of other kinds, such as {passed_over[0]}" if passed_over else "no files at all"
        remedy = "a table in a folder is read when --text names its column; " if passed_over else ""
        raise DataError(f"there are no texts in the folder {place.path}: {seen}", remedy + READ)
    for inside in found:
        path = place.path / inside
        subfolder = inside.parts[0] if len(inside.parts) > 1 else own_name
        group = place.name or (path.stem if reading.group == "file" else subfolder)
        if path.suffix.lower() in TABLES:
            yield from read_table(path, group, reading, provenance, named=bool(place.name))
        else:
            name = Path(own_name, inside) if several else inside
            _check_group(reading, place)
            yield _text(path, name.as_posix(), group, reading, provenance)


def _files_below(folder: Path) -> list[Path]:
    def stop(error: OSError) -> None:
        raise DataError(
            f"the folder {error.filename} cannot be read: {(error.strerror or '').lower()}",
            "check that you may read it",
        ) from error

    found = [Path(root, name) for root, _, names in os.walk(folder, onerror=stop) for name in names]
    return sorted(found, key=lambda path: natural_key(path.as_posix()))


def _file(place: _Place, reading: Reading, provenance: Provenance) -> Iterator[Document]:
    path = place.path
    ending = path.suffix.lower()
    if ending not in TEXTS + TABLES:
        raise DataError(f"{path} is of a kind that is not read", READ)
    by_folder = path.resolve().parent.name if reading.group == "folder" else path.stem
    group = place.name or by_folder
    if ending in TABLES:
        yield from read_table(path, group, reading, provenance, named=bool(place.name))
    else:
        _check_group(reading, place)
        yield _text(path, path.name, group, reading, provenance)


def _text(path: Path, name: str, group: str, reading: Reading, provenance: Provenance) -> Document:
    data = read_bytes(path)
    provenance.add(path, data)
    text = decode(data, path, reading.encoding)
    return Document(name, group, text, source=str(path))


def _standard_input(place: _Place, reading: Reading, provenance: Provenance) -> Document:
    name = "standard input"
    data = sys.stdin.buffer.read()
    provenance.add(Path(STANDARD_INPUT), data)
    return Document(name, place.name or name, decode(data, Path(name), reading.encoding), source=STANDARD_INPUT)


def _check_group(reading: Reading, place: _Place) -> None:
    if reading.group not in ("", "folder", "file") and not place.name:
        raise DataError(
            f"--group {reading.group}: the plain texts of {place.path} have no column {reading.group!r}",
            "type --group folder or --group file, or name groups with NAME=PATH",
        )
