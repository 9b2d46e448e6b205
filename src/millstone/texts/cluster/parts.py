"""A corpus scanned part by part: what the files of a part give, and what the parts give together."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import chain

from millstone.core.corpus.cleaning import Cleaned
from millstone.core.corpus.corpus import Document
from millstone.core.corpus.documents import DocumentBlock
from millstone.core.scan.merge_parts import PartCorpus, joined_scans, packed
from millstone.core.scan.scan import scan
from millstone.core.settings.inputs import InputOptions
from millstone.core.settings.preparation import Preparation
from millstone.texts.documents import are_counted_as_read, cleaned_documents, tagged
from millstone.texts.inputs.field_audit import FieldAudit
from millstone.texts.inputs.finding.finding import FoundFile
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.inputs.reader import Files


@dataclass(frozen=True)
class PartRules:
    """How the files of a part are read and scanned: as those of a step, whose texts are looked at one by one."""

    reading: InputOptions
    preparation: Preparation
    ordered: bool
    marks: bool


@dataclass(frozen=True)
class PartScan:
    """The scan of some files, and what reading them gave; it can be sent to another process.

    `groups` are those of the documents by the number of the input.
    """

    corpus: PartCorpus
    provenance: Provenance
    cleaned: Cleaned
    met: FieldAudit
    groups: dict[int, set[str]]


def scan_part(rules: PartRules, files: Sequence[FoundFile]) -> PartScan:
    """Read and scan some files.

    Raises
    ------
    MillstoneError
    """
    provenance, cleaned = Provenance(), Cleaned()
    reader = Files(rules.reading, provenance)
    # a table that is joined is noted once, by whoever puts the parts together
    provenance.files.clear()
    provenance.encodings.clear()
    documents = _documents(rules, files, reader, provenance, cleaned)
    corpus = scan(documents, rules.ordered, rule=rules.preparation.tokens, marks=rules.marks)
    return PartScan(packed(corpus), provenance, cleaned, reader.describer.met, reader.groups)


def joined_parts(parts: Sequence[PartScan]) -> PartScan:
    """Join the scans of parts, each of which comes after the one before."""
    provenance, cleaned, met = Provenance(), Cleaned(), FieldAudit()
    groups: dict[int, set[str]] = {}
    for part in parts:
        provenance.add(part.provenance)
        cleaned.add(part.cleaned)
        met.add(part.met)
        for place, own in part.groups.items():
            groups.setdefault(place, set()).update(own)
    return PartScan(joined_scans([part.corpus for part in parts]), provenance, cleaned, met, groups)


def _documents(
    rules: PartRules, files: Sequence[FoundFile], reader: Files, provenance: Provenance, cleaned: Cleaned
) -> Iterator[Document | DocumentBlock]:
    """The documents of some files, cleaned, cut and tagged as the rules say."""
    reading, preparation = rules.reading, rules.preparation
    if are_counted_as_read(reading, preparation):
        return chain.from_iterable(map(reader.blocks, files))

    def read() -> Iterator[Document]:
        return chain.from_iterable(map(reader.documents, files))

    return tagged(cleaned_documents(read, reading, preparation, cleaned), preparation, 1, provenance)
