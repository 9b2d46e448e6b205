"""Lemmas that were looked up, kept beside the scan of the words."""

import contextlib
import zlib
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path

from millstone.core.terms.word_lists import Lemmas, WordLists
from millstone.disk.private import write_private
from millstone.disk.workroom import Room

LEAST_NEW = 1000
LEMMAS = "lemmas-"
"""How the names of these files begin."""


@contextmanager
def remembered(lists: WordLists, folder: Path | None) -> Iterator[WordLists]:
    """The lists, their lemmas of languages known from earlier runs; what is new is kept at the end.

    Parameters
    ----------
    lists : WordLists
    folder : Path or None
        That of the cached scan; without one the lists stay as they are.
    """
    memories = [_Memory(source, folder) for source in lists.lemmas if source.version and folder]
    by_name = {memory.source.name: replace(memory.source, lemma_of=memory.lemma_of) for memory in memories}
    yield replace(lists, lemmas=_replaced(lists.lemmas, by_name))
    for memory in memories:
        memory.save()


def _replaced(sources: Sequence[Lemmas], by_name: dict[str, Lemmas]) -> list[Lemmas]:
    return [by_name.get(source.name, source) for source in sources]


class _Memory:
    """The lemmas of one source: form -> lemma, "" where it knows none."""

    def __init__(self, source: Lemmas, folder: Path | None) -> None:
        self.source = source
        self._path = (folder or Path()) / f"{LEMMAS}{source.name}-{zlib.crc32(source.version.encode()):08x}"
        self._known = self._read()
        self._new = 0

    def _read(self) -> dict[str, str]:
        try:
            head, _, content = self._path.read_bytes().partition(b"\n")
            if head != str(zlib.crc32(content)).encode():
                return {}
            lines = content.decode("utf-8", "surrogatepass").split("\n")[:-1]
            return dict(line.split("\t") for line in lines)
        except (OSError, ValueError):
            return {}

    def lemma_of(self, form: str) -> str | None:
        """The lemma of a form, looked up once and for all."""
        found = self._known.get(form)
        if found is None:
            found = self._known[form] = self.source.lemma_of(form) or ""
            self._new += 1
        return found or None

    def save(self) -> None:
        """Keep what was looked up, if it is worth it and possible."""
        if self._new < LEAST_NEW:
            return
        lines = (f"{form}\t{lemma}\n" for form, lemma in self._known.items() if "\t" not in form + lemma)
        content = "".join(lines).encode("utf-8", "surrogatepass")
        with contextlib.suppress(OSError), Room(self._path.parent) as room:
            write_private(room.path / self._path.name, str(zlib.crc32(content)).encode() + b"\n" + content)
            (room.path / self._path.name).replace(self._path)
