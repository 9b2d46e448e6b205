"""Documents cut into pages, paragraphs, lines, or wherever a certain text stands."""

import re
from collections.abc import Callable, Iterator
from dataclasses import replace

from millstone.core.base.errors import DataError
from millstone.core.corpus.corpus import Document
from millstone.core.tokenise.words import paragraphs

_LINE = re.compile(r"\r\n|[\n\r\x0b\x0c\x85\u2028\u2029]")


def cut_text(document: Document, unit: str, between: str = "") -> Iterator[Document]:
    """The pieces of a document that are not blank, named NAME#1, NAME#2, ...

    Parameters
    ----------
    document : Document
    unit : str
        ``page`` (form feeds), ``paragraph`` (blank lines), ``line``, or ``between`` (the text `between`).

    Yields
    ------
    Document
        The document itself where it is not cut.

    Raises
    ------
    DataError
        For annotated tokens, which have no such pieces.
    """
    if document.annotated is not None:
        raise DataError(
            f"{document.source}: annotated texts cannot be cut by the unit {unit}",
            "cut them with --unit sentence, parts:N or words:N",
        )
    cutters: dict[str, Callable[[str], list[str]]] = {
        "page": lambda text: text.split("\f"),
        "paragraph": paragraphs,
        "line": _LINE.split,
        "between": lambda text: text.split(between),
    }
    pieces = cutters[unit](document.text)
    number = 0
    for place, piece in enumerate(pieces, 1):
        if piece.strip():
            # a blank page keeps its number
            number = place if unit == "page" else number + 1
            yield replace(document, name=f"{document.name}#{number}", text=piece, part_of=document.name, part=number)
    if not number:
        yield document
