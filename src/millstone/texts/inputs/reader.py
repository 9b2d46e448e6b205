"""From the inputs of a command to documents, one after the other."""

from collections.abc import Collection, Iterable, Iterator, Mapping
from itertools import chain

from millstone.core.base.read_errors import border, guarded
from millstone.core.corpus.corpus import Document, natural_key
from millstone.core.corpus.documents import DocumentBlock
from millstone.core.settings.inputs import InputOptions
from millstone.texts.inputs.documents.conllu import read_stretch
from millstone.texts.inputs.documents.texts import TEXTS, read_plain
from millstone.texts.inputs.fields import FieldAssigner
from millstone.texts.inputs.files import STANDARD_INPUT, ending_of
from millstone.texts.inputs.finding.finding import FoundFile, files_to_read
from millstone.texts.inputs.finding.stretches import WHOLE
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.inputs.tables.table import TABLES
from millstone.texts.inputs.tables.texts import read_table, read_table_in_blocks


def read_documents(
    inputs: Iterable[str], reading: InputOptions, provenance: Provenance, wanted: Collection[str] | None = None
) -> Iterator[Document]:
    """The documents of all inputs one by one, in their order; within a folder in natural order of path.

    Parameters
    ----------
    inputs : iterable of str
        Folders, files, ``-`` for standard input, or ``NAME=PATH``; ``~ * ? **`` in a path are expanded.
    reading : InputOptions
    provenance : Provenance
        Receives what was read and what was passed over.
    wanted : collection of str, optional
        Names of documents; files that can be seen to hold none of them are not opened.

    Raises
    ------
    DataError
        For a path that does not exist, a folder without texts, a file of an unsupported type.
    """
    files = Files(reading, provenance)
    for found in files_to_read(inputs, reading, provenance, wanted):
        yield from files.documents(found)
    files.finish()


def read_in_blocks(
    inputs: Iterable[str], reading: InputOptions, provenance: Provenance
) -> Iterator[Document | DocumentBlock]:
    """Read documents, of tables many rows at a time where nothing in them needs a closer look."""
    files = Files(reading, provenance)
    for found in files_to_read(inputs, reading, provenance):
        yield from files.blocks(found)
    files.finish()


class Files:
    """Reads files one after the other, and keeps what has to be known of all of them in the end.

    `groups` are those of the documents by the number of the input; `describer` has met what is checked.
    """

    def __init__(self, reading: InputOptions, provenance: Provenance) -> None:
        self.describer = FieldAssigner(reading, provenance)
        self.groups: dict[int, set[str]] = {}
        self._reading, self._provenance = reading, provenance

    def documents(self, found: FoundFile) -> Iterator[Document]:
        """The documents of a file with their fields and groups."""
        if found.stretch == WHOLE:
            return self._described(found, _read(found, self._reading, self._provenance))
        if ending_of(found.path) not in TABLES:
            return self._described(
                found, read_stretch(found.path, found.inside, self._reading, self._provenance, found.stretch)
            )
        some = read_table_in_blocks(found.path, self._reading, self._provenance, found.stretch)
        return self._described(found, chain.from_iterable(map(_one_by_one, some)))

    def blocks(self, found: FoundFile) -> Iterator[Document | DocumentBlock]:
        """The documents of a file; of a table many rows at a time."""
        if str(found.path) == STANDARD_INPUT or ending_of(found.path) not in TABLES:
            yield from self.documents(found)
            return
        here = self.groups.setdefault(found.place, set())
        for one in read_table_in_blocks(found.path, self._reading, self._provenance, found.stretch):
            block = None
            if isinstance(one, DocumentBlock):
                block = self.describer.described_block(one, found.group, found.named)
            if block is not None:
                here.update(block.groups)
                yield block
            else:
                yield from self._described(found, _one_by_one(one))

    def _described(self, found: FoundFile, documents: Iterable[Document]) -> Iterator[Document]:
        here = self.groups.setdefault(found.place, set())
        for document in documents:
            described = self.describer.described(document, found.inside, found.group, found.named)
            if described is not None:
                here.add(described.group)
                yield described

    def add_groups(self, groups: Mapping[int, set[str]]) -> None:
        """Add the groups of files that others read, by the number of the input."""
        for place, own in groups.items():
            self.groups.setdefault(place, set()).update(own)

    def finish(self) -> None:
        """Note the groups, and check, when all was read, that what was asked for was there.

        Raises
        ------
        DataError
        """
        known = self._provenance.groups
        for _, groups in sorted(self.groups.items()):
            known += sorted(groups.difference(known), key=natural_key)
        self.describer.finish()


def _one_by_one(one: Document | DocumentBlock) -> Iterable[Document]:
    return one.documents() if isinstance(one, DocumentBlock) else [one]


def _read(found: FoundFile, reading: InputOptions, provenance: Provenance) -> Iterator[Document]:
    if str(found.path) == STANDARD_INPUT:
        return read_plain(found.path, found.inside, reading, provenance)
    ending = ending_of(found.path)
    if ending in TABLES:
        return read_table(found.path, reading, provenance)
    kind = f"a text of the format {ending}"
    with border(found.path, kind):
        documents = iter(TEXTS[ending](found.path, found.inside, reading, provenance))
    return guarded(found.path, kind, documents)
