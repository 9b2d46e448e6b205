"""Scans kept in the user's cache folder, so that the same texts need not be read again."""

import hashlib
import json
import os
import re
import sys
import time
import unicodedata
from collections.abc import Mapping
from contextlib import suppress
from dataclasses import replace
from pathlib import Path

from millstone.core.base.errors import DataError
from millstone.core.base.light_dataclass import frozen
from millstone.core.base.version import VERSION
from millstone.core.matrix.on_disk import NO_LIMIT
from millstone.core.settings.program import CacheSettings
from millstone.outputs.disk.private import is_own, make_private, write_private
from millstone.outputs.disk.staging import remove_files, room_in, sweep
from millstone.texts.cache.lemma_cache import LEMMAS
from millstone.texts.cache.stored_scan import BROKEN, FILES, SUMS, read_scan, size_of, write_scan
from millstone.texts.inputs.files import hashed, status_of
from millstone.texts.inputs.finding.finding import all_files
from millstone.texts.request import TextRequest
from millstone.texts.scanned_texts import ScannedTexts

SECONDS = 1
"""A scan that took longer is kept."""

MOST_GIGABYTES = CacheSettings().limit
"""The room that all scans together may take, unless the user says otherwise (`set_limit`)."""

_FORM = 5
_YOUNG = 2_000_000_000
_ABOUT, _LIMIT, _ORDERED = "about.json", "limit.json", "-ordered"
_SCAN = re.compile(rf"[0-9a-f]{{32}}({_ORDERED})?")
_LARGEST_ABOUT = 65_536


@frozen
class CachedScan:
    """One cached scan: its folder, bytes, when it was last used, what was read (empty where that is not known)."""

    folder: Path
    size: int
    used: float
    inputs: str
    tokens: int


def cache_folder() -> Path:
    """Where scans are kept.

    Raises
    ------
    DataError
        For a user without a home.
    """
    try:
        from platformdirs import user_cache_path

        folder = user_cache_path("millstone", appauthor=False)
    except RuntimeError:
        folder = Path()
    if not folder.is_absolute():
        raise DataError("there is no home folder in which scans are cached", "set HOME, or XDG_CACHE_HOME")
    return folder


def key_of(request: TextRequest, settings: Mapping[str, object], strict: bool = False) -> str:
    """The name of a scan, which changes with the files and with all `settings` that matter to scanning.

    Parameters
    ----------
    request : TextRequest
    settings : mapping
    strict : bool
        Files are known by their content, and not by size, time of change and inode.

    Returns
    -------
    str
        Empty where a scan cannot be kept, as of standard input, or by a user without a home.
    """
    try:
        cache_folder()
    except DataError:
        return ""
    if "-" in request.inputs.input or any(typed.endswith("=-") for typed in request.inputs.input):
        return ""
    paths = all_files(request.inputs.input, request.reading.recursive)
    paths += [request.reading.metadata] if request.reading.metadata else []
    files = [_mark(path, strict) for path in paths]
    known = {
        "millstone": [VERSION, _FORM, unicodedata.unidata_version, sys.byteorder],
        "inputs": [str(Path.cwd()), *request.inputs.input],
        "reading": repr(request.reading),
        "settings": {name: repr(value) for name, value in settings.items()},
        "files": files,
    }
    return hashlib.sha256(json.dumps(known, sort_keys=True).encode()).hexdigest()[:32]


def _mark(path: str, strict: bool) -> tuple[object, ...]:
    file = status_of(path)
    if strict or abs(time.time_ns() - file.changed) < _YOUNG:
        # so soon after a change a second one may have the same time
        return file.path, file.size, hashed(file).sha256
    return file.path, file.size, file.changed, file.inode


def load(key: str, ordered: bool, memory: int = NO_LIMIT) -> ScannedTexts | None:
    """A cached scan, if there is a whole one that is the user's own; a damaged one is deleted.

    Arrays of more than `memory` bytes stay on disk.
    """
    for name in (key + _ORDERED,) if ordered else (key, key + _ORDERED):
        folder = cache_folder() / name
        if not is_own(folder) or folder.is_symlink():
            continue
        try:
            found = read_scan(folder, ordered, memory)
        except BROKEN:
            _remove(folder)
            continue
        with suppress(OSError):
            # unless another run has just taken it away
            os.utime(folder / SUMS)
        return found
    return None


def save(key: str, material: ScannedTexts) -> ScannedTexts:
    """Keep a scan, unless it is too large, that is not possible, or another run did so meanwhile."""
    if size_of(material) > limit() * 1e9:
        return material
    try:
        # so that no later run need read the files for their checksums
        provenance = replace(material.provenance, files=[hashed(file) for file in material.provenance.files])
    except DataError:
        return material
    material = replace(material, provenance=provenance)
    target = cache_folder() / (key + ("" if material.corpus.ids is None else _ORDERED))
    try:
        make_private(target.parent)
        if not is_own(target.parent):
            return material
        with room_in(target.parent) as room:
            write_scan(room.path, material)
            about = {"inputs": _inputs_of(material), "tokens": int(material.corpus.tokens.sum())}
            write_private(room.path / _ABOUT, json.dumps(about).encode())
            room.path.rename(target)
    except OSError:
        return material
    make_room(target)
    return replace(material, kept_in=target)


def _inputs_of(material: ScannedTexts) -> str:
    files = material.provenance.files
    return f"{files[0].path}{f' and {len(files) - 1:,} more' if len(files) > 1 else ''}" if files else ""


def _folders() -> list[Path]:
    """The folders of scans; links are left alone."""
    with suppress(OSError), os.scandir(cache_folder()) as entries:
        return [Path(one.path) for one in entries if _SCAN.fullmatch(one.name) and one.is_dir(follow_symlinks=False)]
    return []


def cached_scans() -> list[CachedScan]:
    """All cached scans, the one used last first; none of them is read."""
    found = []
    for folder in _folders():
        try:
            size = sum(one.stat().st_size for one in folder.iterdir())
            used = next(one for one in (folder / SUMS, folder) if one.exists()).stat().st_mtime
        except (OSError, StopIteration):
            # another run has just taken it away
            continue
        found.append(CachedScan(folder, size, used, *_about(folder)))
    return sorted(found, key=lambda one: -one.used)


def _about(folder: Path) -> tuple[str, int]:
    try:
        with (folder / _ABOUT).open("rb") as file:
            content = json.loads(file.read(_LARGEST_ABOUT))
        return str(content["inputs"]), int(content["tokens"])
    except BROKEN:
        return "", 0


def limit() -> float:
    """How many gigabytes all scans together may take."""
    try:
        return float(json.loads((cache_folder() / _LIMIT).read_bytes())["gigabytes"])
    except BROKEN:
        return MOST_GIGABYTES


def set_limit(gigabytes: float) -> None:
    """Say how many gigabytes all scans together may take from now on.

    Raises
    ------
    DataError
        When it cannot be written down.
    """
    path = cache_folder() / _LIMIT
    try:
        make_private(path.parent)
        with room_in(path.parent) as room:
            write_private(room.path / _LIMIT, json.dumps({"gigabytes": gigabytes}).encode())
            (room.path / _LIMIT).replace(path)
    except OSError as error:
        raise DataError(
            f"{path} cannot be written: {(error.strerror or str(error)).lower()}", "check the folder, and its rights"
        ) from error
    make_room()


def make_room(newest: Path | None = None) -> None:
    """Take away the scans that were not used for longest, until what is kept is small enough."""
    most = limit() * 1e9
    total = 0
    for one in cached_scans():
        total += one.size
        if total > most and one.folder != newest:
            _remove(one.folder)


def _remove(folder: Path) -> None:
    """Take away what millstone wrote into the folder of a scan, and the folder if nothing else is in it."""
    with suppress(OSError):
        sweep(folder)
    remove_files(folder, lambda name: name in (*FILES, _ABOUT) or name.startswith(LEMMAS))


def clear() -> int:
    """Delete all cached scans and nothing else, following no links, and say how many bytes they had."""
    freed = sum(one.size for one in cached_scans())
    for folder in _folders():
        _remove(folder)
    with suppress(OSError):
        sweep(cache_folder())
        if not (cache_folder() / _LIMIT).exists():
            cache_folder().rmdir()
    return freed
