"""The lemmas of a scan's forms, kept beside it: looking up a million takes longer than reading them."""

import contextlib
import json
import zlib
from collections.abc import Sequence
from pathlib import Path

import numpy as np

from millstone.core.corpus.corpus import Corpus
from millstone.core.corpus.form_words import FormWords
from millstone.core.matrix.totals import column_sums
from millstone.core.terms.lemmas import FoundLemmas, find_lemmas
from millstone.core.terms.word_lists import Lemmas
from millstone.outputs.disk.private import write_private
from millstone.outputs.disk.staging import room_in
from millstone.texts.cache.stored_scan import as_lines, from_lines

LEAST = 1000
"""The lemmas of so many forms are kept."""
LEMMAS = "lemmas-"
"""How the names of these files begin."""


def lemmas_of(corpus: Corpus, sources: Sequence[Lemmas], folder: Path | None) -> FoundLemmas:
    """The lemmas of the forms of a corpus, kept from an earlier run, or looked up and kept for the next.

    Parameters
    ----------
    corpus : Corpus
    sources : sequence of Lemmas
        What they say is kept where the data of all of them has a version.
    folder : Path or None
        That of the cached scan; without one nothing is kept.
    """
    if folder is None or len(corpus.forms) < LEAST or not all(source.version for source in sources):
        return find_lemmas(corpus, sources)
    path = folder / f"{LEMMAS}{'-'.join(source.name for source in sources)}-{_key(corpus, sources):08x}"
    found = _read(path, len(corpus.forms))
    if found is None:
        found = find_lemmas(corpus, sources)
        _write(path, found)
    return found


def _key(corpus: Corpus, sources: Sequence[Lemmas]) -> int:
    """Changes with the data of the sources, with the forms, and with how often each occurs, which tells names."""
    key = zlib.crc32(repr([(source.name, source.version) for source in sources]).encode())
    key = zlib.crc32(as_lines(corpus.forms), key)
    return zlib.crc32(column_sums(corpus.form_counts).data, key)


def _write(path: Path, found: FoundLemmas) -> None:
    """Write lemmas, if that is possible: a line that describes them, their words, the number of each form's."""
    sources = found.sources
    words = as_lines(found.words)
    content = words + found.number.tobytes() + sources.number.astype(np.uint8).tobytes()
    head = {"sum": zlib.crc32(content), "words": len(words), "sources": sources.words}
    with contextlib.suppress(OSError), room_in(path.parent) as room:
        write_private(room.path / path.name, json.dumps(head).encode() + b"\n" + content)
        (room.path / path.name).replace(path)


def _read(path: Path, forms: int) -> FoundLemmas | None:
    """The lemmas in a file, if it is whole and has them for so many forms."""
    try:
        line, _, content = path.read_bytes().partition(b"\n")
        head = json.loads(line)
        size = head["words"]
        words = from_lines(content[:size])
        number = np.frombuffer(content, np.int32, forms, size)
        source = np.frombuffer(content, np.uint8, forms, size + number.nbytes).astype(np.int32)
        names = head["sources"]
        fits = [
            zlib.crc32(content) == head["sum"],
            len(content) == size + number.nbytes + forms,
            -1 <= number.min() <= number.max() < len(words),
            source.max() < len(names) and all(isinstance(name, str) for name in names),
        ]
    except (OSError, ValueError, KeyError, TypeError):
        return None
    return FoundLemmas(words, number, FormWords(names, source)) if all(fits) else None
