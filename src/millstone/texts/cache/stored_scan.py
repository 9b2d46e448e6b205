"""A scan as files, and back: nothing is run, and whatever is damaged or does not fit together is noticed."""

import json
import zlib
from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from mmap import mmap
from pathlib import Path
from typing import Any

import numpy as np

from millstone.core.corpus.cleaning import Cleaned
from millstone.core.corpus.corpus import Corpus, Token
from millstone.core.corpus.documents import table_of
from millstone.core.corpus.form_words import FormWords
from millstone.core.corpus.repeats import Repeats
from millstone.core.matrix.cells import SparseMatrix
from millstone.core.matrix.on_disk import NO_LIMIT, forget, mapped
from millstone.core.tables.table import Table
from millstone.outputs.disk.private import write_private
from millstone.texts.inputs.provenance import Provenance, SourceFile
from millstone.texts.scanned_texts import ScannedTexts

STATE, SUMS, FORMS, WORDS = "state.json", "sums.json", "forms", "words"
_ORDER = ("ids", "starts", "breaks")
_ARRAYS = ("tokens", "data", "indices", "indptr", "word_of", *_ORDER)
FILES = (STATE, SUMS, FORMS, WORDS, *_ARRAYS)
"""The names that files of a scan may have."""
BROKEN = (OSError, ValueError, KeyError, TypeError, AttributeError, OverflowError, RecursionError)
"""Errors of files that are not a whole scan."""


def write_scan(folder: Path, material: ScannedTexts) -> None:
    """Write a scan into an empty folder.

    Raises
    ------
    OSError
    """
    corpus = material.corpus
    # what most runs begin with
    lowered = corpus.lowered
    counts = corpus.form_counts
    arrays = {"tokens": corpus.tokens, "data": counts.data, "indices": counts.indices, "indptr": counts.indptr}
    arrays["word_of"] = lowered.number
    if corpus.ids is not None:
        arrays |= {name: getattr(corpus, name) for name in _ORDER}
    provenance = material.provenance
    state = {
        "arrays": {name: array.dtype.str for name, array in arrays.items()},
        "documents": {name: cells.tolist() for name, cells in corpus.documents.items()},
        "groups": corpus.groups,
        "annotation": corpus.annotation,
        "provenance": {**vars(provenance), "files": list(map(vars, provenance.files))},
        "cleaned": vars(material.cleaned),
        "too_short": material.too_short,
        "repeats": material.repeats.in_group,
    }
    contents: dict[str, bytes | np.ndarray] = {
        STATE: json.dumps(state).encode(),
        FORMS: as_lines(corpus.forms),
        WORDS: as_lines(lowered.words),
    }
    contents |= arrays
    sums = {name: _written(folder / name, content) for name, content in contents.items()}
    write_private(folder / SUMS, json.dumps(sums).encode())


def as_lines(words: Sequence[str]) -> bytes:
    """Words as they are stored, one per line."""
    return "\n".join([*words, ""]).encode("utf-8", "surrogatepass")


def from_lines(data: bytes) -> list[str]:
    """The words that were stored so."""
    return data.decode("utf-8", "surrogatepass").split("\n")[:-1]


def _written(path: Path, content: bytes | np.ndarray) -> tuple[int, int]:
    data = np.ascontiguousarray(content).view(np.uint8).data if isinstance(content, np.ndarray) else content
    write_private(path, data)
    size_and_sum = len(data), zlib.crc32(data)
    if isinstance(content, np.ndarray):
        forget(content)
    return size_and_sum


def size_of(material: ScannedTexts) -> int:
    """How many bytes a scan takes on disk, nearly: those of its arrays."""
    corpus = material.corpus
    arrays = (corpus.form_counts.data, corpus.form_counts.indices, corpus.ids)
    return sum(one.nbytes for one in arrays if one is not None)


def read_scan(folder: Path, ordered: bool, memory: int = NO_LIMIT) -> ScannedTexts:
    """A scan, with the order of its tokens or without; arrays of more than `memory` bytes stay on disk.

    Raises
    ------
    One of `BROKEN`
        When a checksum is wrong, or the parts do not fit together.
    """
    sums = json.loads((folder / SUMS).read_bytes())
    if not set(sums) <= set(FILES):
        raise ValueError("files of other names")

    def content(name: str) -> bytes | mmap:
        path = folder / name
        data = mapped(path) if name in _ARRAYS and path.stat().st_size > memory else path.read_bytes()
        if [len(data), zlib.crc32(data)] != sums[name]:
            raise ValueError(f"{name} is damaged")
        return data

    from concurrent.futures import ThreadPoolExecutor

    wanted = [name for name in sums if ordered or name not in _ORDER]
    # reading and summing let go of the interpreter
    with ThreadPoolExecutor() as pool:
        contents = dict(zip(wanted, pool.map(content, wanted), strict=True))
    state = json.loads(contents[STATE])
    arrays = {name: _array(contents[name], state["arrays"][name]) for name in _ARRAYS if name in contents}
    corpus = _corpus(contents, state, arrays)
    check(corpus)
    forget(*arrays.values())
    return ScannedTexts(
        corpus,
        _provenance(state["provenance"]),
        _cleaned(state["cleaned"]),
        _size(state["too_short"]),
        Repeats(_counter(state["repeats"])),
        kept_in=folder,
    )


def _array(data: bytes | mmap, kind: str) -> np.ndarray:
    found = np.frombuffer(data, dtype=np.dtype(kind))
    if found.dtype.kind not in "iu":
        raise ValueError("an array that is not of whole numbers")
    return found


def _corpus(
    contents: Mapping[str, bytes | mmap], state: Mapping[str, Any], arrays: Mapping[str, np.ndarray]
) -> Corpus:
    forms, words = (from_lines(bytes(contents[name])) for name in (FORMS, WORDS))
    documents = _documents(state["documents"])
    shape = (len(documents), len(forms))
    counts = SparseMatrix(arrays["data"], arrays["indices"], arrays["indptr"], shape)
    return Corpus(
        forms=forms,
        form_counts=counts,
        tokens=arrays["tokens"],
        documents=documents,
        groups=tuple(_texts(state["groups"])),
        annotation=tuple(Token(*_texts(one)) for one in state["annotation"]),
        kept_lowered=FormWords(words, arrays["word_of"]),
        ids=arrays.get("ids"),
        starts=arrays.get("starts"),
        breaks=arrays.get("breaks"),
    )


def check(corpus: Corpus) -> None:
    """See that every number of a corpus that was read lies within what it counts or points to.

    Raises
    ------
    ValueError
    """
    counts, lowered = corpus.form_counts, corpus.kept_lowered
    documents, forms = counts.shape
    names = corpus.documents
    fits = [
        # the matrix: rows one after the other, columns that there are
        _rises(counts.indptr, 0, len(counts.indices)) and len(counts.indptr) == documents + 1,
        len(counts.data) == len(counts.indices) and _within(counts.indices, forms) and _within(counts.data),
        len(corpus.tokens) == documents and _within(corpus.tokens),
        lowered is not None and len(lowered.number) == forms and _within(lowered.number, len(lowered.words)),
        len(corpus.annotation) in (0, forms),
        {"document", "group"} <= set(names.names),
        all(isinstance(cell, str) for name in ("document", "group") for cell in names[name]),
        set(names["group"]) <= set(corpus.groups) and len(set(corpus.groups)) == len(corpus.groups),
    ]
    if corpus.ids is not None and corpus.starts is not None and corpus.breaks is not None:
        fits += [
            _within(corpus.ids, forms),
            _rises(corpus.starts, 0, len(corpus.ids)) and len(corpus.starts) == documents + 1,
            _rises(corpus.breaks, 0, len(corpus.ids)),
        ]
    if not all(fits):
        raise ValueError("its parts do not fit together")


def _within(numbers: np.ndarray, below: int | None = None) -> bool:
    """Whether all are at least 0, and below a bound."""
    return not len(numbers) or bool(numbers.min() >= 0 and (below is None or numbers.max() < below))


def _rises(numbers: np.ndarray, first: int, last: int) -> bool:
    """Whether numbers go from one bound to the other and never fall."""
    return len(numbers) > 0 and numbers[0] == first and numbers[-1] == last and bool((np.diff(numbers) >= 0).all())


def _documents(columns: Mapping[str, list[Any]]) -> Table:
    numbers = {
        name: np.array(cells)
        for name, cells in columns.items()
        if cells and not any(isinstance(cell, str) for cell in cells)
    }
    return table_of(columns).with_columns(numbers)


def _texts(values: Any) -> list[str]:
    if not isinstance(values, list) or not all(isinstance(one, str) for one in values):
        raise ValueError("what is not text")
    return values


def _size(value: Any) -> int:
    if not isinstance(value, int) or value < 0:
        raise ValueError("what is not a size")
    return value


def _counter(state: Mapping[str, Any]) -> Counter[str]:
    return Counter({name: _size(number) for name, number in state.items()})


def _provenance(state: dict[str, Any]) -> Provenance:
    files = [SourceFile(**one) for one in state.pop("files")]
    for one in files:
        _texts([one.path, one.sha256])
        _size(one.size)
    skipped = [(name, reason) for name, reason in map(_texts, state.pop("skipped"))]
    encodings = _counter(state.pop("encodings"))
    return Provenance(
        files,
        _texts(state.pop("groups")),
        skipped,
        encodings,
        _size(state.pop("empty_cells")),
        _size(state.pop("filtered")),
        _texts(state.pop("notes")),
        **state,
    )


def _cleaned(state: dict[str, Any]) -> Cleaned:
    pieces = defaultdict(Counter, {what: _counter(found) for what, found in state.pop("pieces").items()})
    running, cut, fixed = (_counter(state.pop(name)) for name in ("running", "cut", "fixed"))
    repeats, across = (_texts(state.pop(name)) for name in ("repeats", "repeats_across"))
    return Cleaned(repeats, across, running, cut, fixed, pieces, **state)
