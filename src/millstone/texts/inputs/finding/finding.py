"""The files that the inputs of a command name, each once for a group."""

import glob
import os
from collections.abc import Callable, Collection, Iterable, Iterator
from dataclasses import dataclass, replace
from pathlib import Path

from millstone.core.base.addresses import address_in, is_address
from millstone.core.base.errors import DataError
from millstone.core.base.wording import escaped, listed, nearest
from millstone.core.corpus.corpus import natural_key
from millstone.core.settings.inputs import InputOptions
from millstone.core.tables.result import COMPANION
from millstone.outputs.disk.ledger import LEDGER, results_in
from millstone.outputs.disk.locks import LOCK
from millstone.outputs.disk.staging import ROOM
from millstone.texts.inputs.documents.texts import ONE_DOCUMENT, READ, is_read
from millstone.texts.inputs.files import STANDARD_INPUT, at_home, ending_of, not_regular, stem_of
from millstone.texts.inputs.finding.folders import files_below, identity_of
from millstone.texts.inputs.finding.remote import is_there, named_by, path_of, reached, remote_files_below
from millstone.texts.inputs.finding.stretches import WHOLE, Stretch, stretches_of
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.inputs.tables.table import TABLES, has_column, open_table

_SAME_AS_STANDARD_INPUT = ("/dev/stdin", "/dev/fd/0", "/proc/self/fd/0")


@dataclass(frozen=True)
class _Place:
    """An input as typed: a path, and the group's name when one was given."""

    path: Path
    name: str


@dataclass(frozen=True)
class FoundFile:
    """A file to read: its path, its path within the input, and its group unless a field makes the groups.

    `named` says that the group was given by hand; `place` is the number of the input; of a file that several read,
    `stretch` says which rows are meant.
    """

    path: Path
    inside: str
    group: str
    named: bool
    place: int = 0
    stretch: Stretch = WHOLE

    def cut(self, reading: InputOptions, size: int) -> "Iterator[FoundFile]":
        """The file in stretches of at least `size` bytes, where it can be cut between documents."""
        if not _can_be_cut(self.path, reading):
            yield self
            return
        for stretch in stretches_of(self.path, reading, size):
            yield replace(self, stretch=stretch)


def _can_be_cut(path: Path, reading: InputOptions) -> bool:
    """Whether a file is read wherever a row begins; what is wrong with a table whoever reads it will say."""
    ending = ending_of(path)
    if ending not in TABLES or ending == ".jsonl":
        return True
    try:
        return not open_table(path, reading, Provenance()).changed
    except DataError:
        return False


def files_to_read(
    inputs: Iterable[str], reading: InputOptions, provenance: Provenance, wanted: Collection[str] | None = None
) -> Iterator[FoundFile]:
    """The files of all inputs in their order, each once for a group; raises as `read_documents` does."""
    places = [place for typed in inputs for place in _places(typed)]
    once = _Once()
    for number, place in enumerate(places):
        for found in _files_of(place, reading, provenance, len(places) > 1, wanted):
            by_field = reading.group not in ("", "folder", "file") and not found.named
            if once.is_new(found.path, "" if by_field else found.group):
                yield replace(found, place=number)
    once.note_repeats(provenance)


class _Once:
    """Sees to it that a file that is named in several ways is read once for a group."""

    def __init__(self) -> None:
        self._groups: dict[tuple[int, int] | str, list[str]] = {}
        self._again: list[str] = []
        self._several: dict[str, list[str]] = {}

    def is_new(self, path: Path, group: str) -> bool:
        """Whether a file is still to be read for a group."""
        groups = self._groups.setdefault(identity_of(path), [])
        if group in groups:
            self._again.append(str(path))
            return False
        groups.append(group)
        if len(groups) > 1:
            self._several[str(path)] = groups
        return True

    def note_repeats(self, provenance: Provenance) -> None:
        """Note what was named in several ways, when everything is read."""
        if self._again:
            provenance.note(f"named more than once, read once in its group: {listed(self._again)}")
        by_groups: dict[tuple[str, ...], list[str]] = {}
        for path, groups in self._several.items():
            by_groups.setdefault(tuple(groups), []).append(path)
        for names, paths in by_groups.items():
            in_groups = listed(name or "its own group" for name in names)
            provenance.note(f"one file in several groups ({in_groups}), read for each: {listed(paths)}")


def input_paths(inputs: Iterable[str]) -> list[Path]:
    """The files and folders that the inputs name, here and elsewhere.

    Raises
    ------
    DataError
        For a path that does not exist.
    """
    return [place.path for typed in inputs for place in _places(typed) if str(place.path) != STANDARD_INPUT]


def seen_from(folder: Path, typed: str) -> str:
    """An input, or a path, that was typed here, as it is typed in another folder."""
    if typed == STANDARD_INPUT or address_in(typed):
        return typed
    name, equals, path = typed.partition("=") if "=" in typed and not Path(typed).exists() else ("", "", typed)
    end = "/" if path.endswith(("/", os.sep)) else ""
    return f"{name}{equals}{os.path.relpath(path, folder).replace(os.sep, '/')}{end}"


def all_files(inputs: Iterable[str], recursive: bool) -> list[str]:
    """The files that the inputs name, and all those in the folders that they name, of whatever kind.

    Raises
    ------
    DataError
        For a path that does not exist, a folder that cannot be read.
    """
    found = []
    for path in input_paths(inputs):
        found += _below(path, recursive, lambda path, reason: None) if path.is_dir() else [str(path)]
    return found


def input_files(
    inputs: Iterable[str], reading: InputOptions, endings: Collection[str], provenance: Provenance
) -> Iterator[tuple[Path, str]]:
    """The files of all inputs that have one of the `endings`, each with the NAME it was given, if any.

    Raises
    ------
    DataError
        For a path that does not exist, an input without such a file.
    """

    def pass_over(path: str, reason: str) -> None:
        provenance.skipped.append((Path(path).name, reason))

    once = _Once()
    for place in (place for typed in inputs for place in _places(typed)):
        here = [place.path]
        if place.path.is_dir():
            here = [path_of(path) for path in _below(place.path, reading.recursive, pass_over)]
            here = [path for path in here if not path.name.startswith((".", "~$"))]
            here = [path for path in here if not path.name.endswith(COMPANION)]
        wanted = [path for path in here if ending_of(path) in endings]
        if not wanted:
            raise DataError(f"there is no table in {place.path}", f"name a file that ends in {', '.join(endings)}")
        for path in wanted:
            if once.is_new(path, place.name):
                yield path, place.name
    once.note_repeats(provenance)


def _below(folder: Path, recursive: bool, pass_over: Callable[[str, str], None]) -> list[str]:
    """All files below a folder, wherever it lies."""
    return (
        remote_files_below(folder, recursive)
        if is_address(str(folder))
        else files_below(folder, recursive, pass_over)
    )


def _places(typed: str) -> list[_Place]:
    if address := address_in(typed):
        return _places_elsewhere(address, typed.removesuffix(address).removesuffix("="))
    if not typed.strip() or (typed.endswith("=") and not Path(typed).exists()):
        # an empty path would be the folder that one is in
        raise DataError(
            f"an input is empty: {typed!r}", "name a folder, a file or NAME=PATH; the folder you are in is ."
        )
    path, name = at_home(STANDARD_INPUT if typed in _SAME_AS_STANDARD_INPUT else typed), ""
    if not path.exists() and "=" in typed:
        name, _, after = typed.partition("=")
        path = at_home(STANDARD_INPUT if after in _SAME_AS_STANDARD_INPUT else after)
        if not name.strip():
            raise DataError(f"{typed!r} names no group before the =", "write NAME=PATH")
    if path.exists() or str(path) == STANDARD_INPUT:
        return [_Place(path, name.strip())]
    found = sorted(glob.glob(str(path), recursive=True), key=natural_key)
    if not found:
        raise _missing(path)
    return [_Place(Path(one), name.strip()) for one in found]


def _places_elsewhere(address: str, name: str) -> list[_Place]:
    path = path_of(address)
    with reached(address):
        found = [path] if is_there(path) else named_by(address) if set("*?[") & set(address) else []
    if not found:
        raise DataError(f"there is no file or folder {address}", "check the spelling")
    return [_Place(one, name.strip()) for one in found]


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


def _files_of(
    place: _Place, reading: InputOptions, provenance: Provenance, several: bool, names: Collection[str] | None
) -> Iterator[FoundFile]:
    """The files to read for an input; where only documents of some `names` are wanted, those that can hold one."""
    path = place.path
    named = bool(place.name)
    if str(path) == STANDARD_INPUT:
        yield FoundFile(path, "standard input", place.name or "standard input", named)
    elif path.is_dir():
        yield from _folder(place, reading, provenance, several, names)
    elif not path.is_file():
        raise not_regular(path)
    elif not is_read(path, ending_of(path)):
        raise DataError(f"{path}: unsupported file type", READ)
    else:
        by_folder = path.resolve().parent.name if reading.group == "folder" else stem_of(path)
        if _can_hold(path.name, names):
            yield FoundFile(path, escaped(path.name), escaped(place.name or by_folder), named)


def _can_hold(inside: str, names: Collection[str] | None) -> bool:
    """Whether one of the documents of these names can be in a file."""
    return names is None or inside in names or ending_of(inside) not in ONE_DOCUMENT


def _folder(
    place: _Place, reading: InputOptions, provenance: Provenance, several: bool, names: Collection[str] | None
) -> Iterator[FoundFile]:
    own_name = place.path.resolve().name
    wanted, passed_over = _sorted_out(place.path, reading)
    read = 0
    for inside in wanted:
        name = f"{own_name}/{inside}" if several else inside
        if not _can_hold(name, names):
            read += 1
            continue
        path = place.path / inside
        if ending_of(path) in TABLES and not has_column(open_table(path, reading, Provenance()), reading.text):
            passed_over.append((inside, f"a table without the column {reading.text}"))
            continue
        read += 1
        subfolder = inside.split("/")[0] if "/" in inside else own_name
        group = place.name or (stem_of(path) if reading.group == "file" else subfolder)
        yield FoundFile(path, escaped(name), escaped(group), bool(place.name))
    provenance.skipped += passed_over
    if not read:
        seen = f"only files of other kinds, such as {passed_over[0][0]}" if passed_over else "no files at all"
        remedy = "a table in a folder is read when --text names its column; " if passed_over else ""
        raise DataError(f"there are no texts in the folder {place.path}: {seen}", remedy + READ)


def _sorted_out(folder: Path, reading: InputOptions) -> tuple[list[str], list[tuple[str, str]]]:
    """The files to read, and those passed over with the reason, both by their paths within the folder."""
    wanted: list[str] = []
    passed_over: list[tuple[str, str]] = []
    above = len(str(folder).removesuffix(os.sep)) + 1

    def pass_over(path: str, reason: str) -> None:
        passed_over.append((path[above:].replace(os.sep, "/"), reason))

    is_here = not is_address(str(folder))
    for path in _below(folder, reading.recursive, pass_over):
        inside = path[above:].replace(os.sep, "/")
        ending = ending_of(path)
        around, _, name = path.rpartition(os.sep)
        if name in (LEDGER, LOCK) or f"/{ROOM}" in f"/{inside}":
            continue
        if inside.startswith((".", "~$")) or "/." in inside or "/~$" in inside:
            pass_over(path, "hidden")
        elif (is_here and name in results_in(around or os.sep)) or name.endswith(COMPANION):
            pass_over(path, "written by millstone")
        elif not is_read(path, ending):
            pass_over(path, "unsupported file type")
        elif ending in TABLES and not reading.text:
            pass_over(path, "a table, and no --text names its column")
        else:
            wanted.append(inside)
    return wanted, passed_over
