"""Scans kept in the user's cache folder, so that the same texts need not be read again."""

import hashlib
import json
import os
import shutil
import sys
import tempfile
import time
import unicodedata
import zlib
from collections import Counter, defaultdict
from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np
import pandas as pd
from platformdirs import user_cache_path
from scipy import sparse

import millstone
from millstone.core.corpus.cleaning import Cleaned
from millstone.core.corpus.corpus import Corpus, Lowered, Token
from millstone.core.corpus.repeats import Repeats
from millstone.core.errors import DataError
from millstone.core.terms.stages import lowered_of
from millstone.sources.files import hashed, status_of
from millstone.sources.provenance import Provenance, SourceFile
from millstone.sources.reader import all_files
from millstone.study.step import Step
from millstone.study.texts.material import Material

SECONDS = 2
"""A scan that took longer is kept."""

_FORM = 3
MOST_BYTES = 8 << 30
_YOUNG = 2_000_000_000
_DAY = 86_400
_HALF_MADE = ".new-"
_STATE, _SUMS, _ORDERED = "state.json", "sums.json", "-ordered"
_ORDER = ("ids", "starts", "breaks")


@dataclass(frozen=True)
class CachedScan:
    """One cached scan: its folder, bytes, when it was last used, and what was read."""

    folder: Path
    size: int
    used: float
    inputs: str
    tokens: int


def cache_folder() -> Path:
    """Where scans are kept."""
    return user_cache_path("millstone", appauthor=False)


def key_of(step: Step, settings: Mapping[str, object], strict: bool = False) -> str:
    """The name of a scan, which changes with the files and with all `settings` that matter to scanning.

    Parameters
    ----------
    step : Step
    settings : mapping
    strict : bool
        Files are known by their content, and not by size, time of change and inode.

    Returns
    -------
    str
        Empty where a scan cannot be kept, as of standard input.
    """
    if "-" in step.inputs.input or any(typed.endswith("=-") for typed in step.inputs.input):
        return ""
    paths = all_files(step.inputs.input, step.reading.recursive)
    paths += [step.reading.metadata] if step.reading.metadata else []
    files = [_mark(path, strict) for path in paths]
    known = {
        "millstone": [millstone.__version__, _FORM, unicodedata.unidata_version, sys.byteorder],
        "inputs": [str(Path.cwd()), *step.inputs.input],
        "reading": repr(step.reading),
        "settings": {name: repr(value) for name, value in settings.items()},
        "files": files,
    }
    return hashlib.sha256(json.dumps(known, sort_keys=True).encode()).hexdigest()[:32]


def _mark(path: str, strict: bool) -> tuple[object, ...]:
    file = status_of(path)
    if strict or abs(time.time_ns() - file.changed) < _YOUNG:
        # so soon after a change a second one may bear the same time
        return file.path, file.size, hashed(file).sha256
    return file.path, file.size, file.changed, file.inode


def load(key: str, ordered: bool) -> Material | None:
    """A cached scan, if there is a whole one; a damaged one is deleted."""
    for name in (key + _ORDERED,) if ordered else (key, key + _ORDERED):
        folder = cache_folder() / name
        if not folder.is_dir():
            continue
        try:
            found = _loaded(folder, ordered)
        except (OSError, ValueError, KeyError, TypeError, EOFError, zlib.error):
            shutil.rmtree(folder, ignore_errors=True)
            continue
        _touch(folder)
        return found
    return None


def _touch(folder: Path) -> None:
    try:
        os.utime(folder / _SUMS)
    except OSError:
        # another run has just taken it away
        return


def _loaded(folder: Path, ordered: bool) -> Material:
    sums = json.loads((folder / _SUMS).read_text("utf-8"))

    def content(name: str) -> bytes:
        data = (folder / name).read_bytes()
        if [len(data), zlib.crc32(data)] != sums[name]:
            raise ValueError(f"{name} is damaged")
        return data

    def array(name: str) -> np.ndarray:
        return np.frombuffer(contents[name], dtype=np.dtype(state["arrays"][name]))

    # reading and summing let go of the interpreter
    with ThreadPoolExecutor() as pool:
        contents = dict(zip(sums, pool.map(content, sums), strict=True))
    state = json.loads(contents[_STATE])
    forms, words = (contents[name].decode("utf-8", "surrogatepass").split("\n")[:-1] for name in ("forms", "words"))
    documents = pd.DataFrame({name: _column(cells) for name, cells in state["documents"].items()})
    shape = (len(documents), len(forms))
    counts = sparse.csr_array((array("data"), array("indices"), array("indptr")), shape=shape)
    corpus = Corpus(
        forms=forms,
        form_counts=counts,
        tokens=array("tokens"),
        documents=documents,
        groups=tuple(state["groups"]),
        annotation=tuple(Token(*one) for one in state["annotation"]),
        lowered=Lowered(words, array("word_of")),
        **({name: array(name) for name in _ORDER} if ordered else {}),
    )
    return Material(
        corpus,
        _provenance(state["provenance"]),
        _cleaned(state["cleaned"]),
        state["too_short"],
        Repeats(Counter(state["repeats"])),
        kept_in=folder,
    )


def _column(cells: list[Any]) -> pd.Series:
    is_text = not cells or any(isinstance(cell, str) for cell in cells)
    return pd.Series(cells, dtype=object) if is_text else pd.Series(cells)


def _provenance(state: dict[str, Any]) -> Provenance:
    files = [SourceFile(**one) for one in state.pop("files")]
    skipped = [(name, reason) for name, reason in state.pop("skipped")]
    return Provenance(files, skipped=skipped, encodings=Counter(state.pop("encodings")), **state)


def _cleaned(state: dict[str, Any]) -> Cleaned:
    pieces = defaultdict(Counter, {what: Counter(found) for what, found in state.pop("pieces").items()})
    running, cut, fixed = (Counter(state.pop(name)) for name in ("running", "cut", "fixed"))
    return Cleaned(**state, running=running, cut=cut, fixed=fixed, pieces=pieces)


def save(key: str, material: Material) -> Material:
    """Keep a scan; where that is not possible, or another run did so meanwhile, nothing happens."""
    try:
        # so that no later run need read the files for their checksums
        provenance = replace(material.provenance, files=[hashed(file) for file in material.provenance.files])
    except DataError:
        return material
    material = replace(material, provenance=provenance)
    corpus = material.corpus
    is_ordered = corpus.ids is not None
    # what most runs begin with
    lowered = lowered_of(corpus)
    target = cache_folder() / (key + (_ORDERED if is_ordered else ""))
    counts = corpus.form_counts
    arrays = {"tokens": corpus.tokens, "data": counts.data, "indices": counts.indices, "indptr": counts.indptr}
    arrays["word_of"] = lowered.number
    arrays |= {name: getattr(corpus, name) for name in _ORDER} if is_ordered else {}
    state = {
        "arrays": {name: array.dtype.str for name, array in arrays.items()},
        "documents": {name: corpus.documents[name].tolist() for name in corpus.documents.columns},
        "groups": corpus.groups,
        "annotation": corpus.annotation,
        "provenance": {**vars(provenance), "files": list(map(vars, provenance.files))},
        "cleaned": vars(material.cleaned),
        "too_short": material.too_short,
        "repeats": material.repeats.in_group,
        "all_tokens": int(corpus.tokens.sum()),
    }
    contents = {_STATE: json.dumps(state).encode(), "forms": _lines(corpus.forms), "words": _lines(lowered.words)}
    contents |= arrays
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryDirectory(prefix=_HALF_MADE, dir=target.parent, ignore_cleanup_errors=True) as new:
            sums = {name: _written(Path(new, name), content) for name, content in contents.items()}
            Path(new, _SUMS).write_text(json.dumps(sums), "utf-8")
            Path(new).rename(target)
    except OSError:
        return material
    make_room(target)
    return replace(material, kept_in=target)


def _lines(words: list[str]) -> bytes:
    return "".join(f"{word}\n" for word in words).encode("utf-8", "surrogatepass")


def _written(path: Path, content: bytes | np.ndarray) -> tuple[int, int]:
    data = np.ascontiguousarray(content).view(np.uint8).data if isinstance(content, np.ndarray) else content
    path.write_bytes(data)
    return len(data), zlib.crc32(data)


def cached_scans() -> list[CachedScan]:
    """All cached scans, the one used last first."""
    found = []
    for folder in cache_folder().glob("*"):
        try:
            state = json.loads((folder / _STATE).read_bytes())
            files = state["provenance"]["files"]
            inputs = f"{files[0]['path']}{f' and {len(files) - 1:,} more' if len(files) > 1 else ''}" if files else ""
            size = sum(one.stat().st_size for one in folder.iterdir())
            found.append(CachedScan(folder, size, (folder / _SUMS).stat().st_mtime, inputs, state["all_tokens"]))
        except (OSError, ValueError, KeyError, TypeError):
            continue
    return sorted(found, key=lambda one: -one.used)


def make_room(newest: Path) -> None:
    """Take away the scans that were not used for longest, until what is kept is small enough."""
    for half_made in cache_folder().glob(f"{_HALF_MADE}*"):
        if time.time() - half_made.stat().st_mtime > _DAY:
            shutil.rmtree(half_made, ignore_errors=True)
    total = 0
    for one in cached_scans():
        total += one.size
        if total > MOST_BYTES and one.folder != newest:
            shutil.rmtree(one.folder, ignore_errors=True)


def clear() -> int:
    """Delete all cached scans, and say how many bytes they had."""
    freed = sum(one.size for one in cached_scans())
    shutil.rmtree(cache_folder(), ignore_errors=True)
    return freed
