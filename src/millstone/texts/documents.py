"""The documents of a request: read, cleaned, tagged, cut into units."""

from collections.abc import Callable, Collection, Iterator

from millstone.core.corpus.cleaning import Cleaned, clean, cleans
from millstone.core.corpus.corpus import Document
from millstone.core.corpus.text_units import cut_text
from millstone.core.settings.inputs import InputOptions
from millstone.core.settings.preparation import Preparation
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.inputs.reader import read_documents
from millstone.texts.machine import processors
from millstone.texts.request import TextRequest


def are_counted_as_read(reading: InputOptions, preparation: Preparation) -> bool:
    """Whether nothing is done to each text before its words are counted."""
    return not (preparation.tag or cleans(preparation) or _cuts_texts(reading))


def looks_at_all_texts(preparation: Preparation) -> bool:
    """Whether what is done to a text depends on those before it."""
    return bool(preparation.drop_repeats or preparation.drop_running)


def _cuts_texts(reading: InputOptions) -> bool:
    return not (reading.unit.kind == "whole" or reading.unit.by_tokens)


def documents_of(request: TextRequest, provenance: Provenance, cleaned: Cleaned) -> Iterator[Document]:
    """The documents of a request, cleaned and tagged as its preparation says; `provenance` gets them once."""
    return tagged(
        raw_documents_of(request, provenance, cleaned), request.preparation, processors(request.work), provenance
    )


def tagged(
    documents: Iterator[Document], preparation: Preparation, jobs: int, provenance: Provenance
) -> Iterator[Document]:
    """The documents with tags that are guessed, where the preparation asks for these."""
    if not preparation.tag:
        return documents
    # few texts are tagged, and worker processes take 40 ms to import
    from millstone.texts.inputs.tags.tagging import with_tags

    return with_tags(documents, preparation.tag, preparation.tokens, jobs, provenance)


def raw_documents_of(
    request: TextRequest, provenance: Provenance, cleaned: Cleaned, wanted: Collection[str] | None = None
) -> Iterator[Document]:
    """The documents of a request, cleaned, without tags that are guessed; their tokens are the same.

    Where only some are wanted, by their names before they are cut, others are read only if cleaning needs them.
    """
    if looks_at_all_texts(request.preparation):
        wanted = None
    # lines that recur are looked for in a separate reading, of which nothing is recorded
    records = iter([Provenance(), provenance] if request.preparation.drop_running else [provenance])

    def read() -> Iterator[Document]:
        return read_documents(request.inputs.input, request.reading, next(records), wanted)

    return cleaned_documents(read, request.reading, request.preparation, cleaned)


def cleaned_documents(
    read: Callable[[], Iterator[Document]], reading: InputOptions, preparation: Preparation, cleaned: Cleaned
) -> Iterator[Document]:
    """The documents that `read` gives anew each time, cleaned, and cut into the units that are cut from texts."""
    if not _cuts_texts(reading):
        return clean(read, preparation, cleaned)
    unit = reading.unit
    return clean(read, preparation, cleaned, lambda document: cut_text(document, unit.kind, unit.between))
