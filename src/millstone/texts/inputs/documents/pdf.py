"""PDF, page by page."""

import re
from collections.abc import Iterator
from pathlib import Path

from millstone.core.base.errors import DataError
from millstone.core.corpus.corpus import Document
from millstone.core.settings.inputs import InputOptions
from millstone.texts.inputs.files import watched
from millstone.texts.inputs.provenance import Provenance

# the library puts one of these for a hyphen at the end of a line and for the line end itself
_BROKEN = re.compile("[\ufffe\x02]\n?")


def read_pdf(path: Path, name: str, reading: InputOptions, provenance: Provenance) -> Iterator[Document]:
    """The text of all pages, a form feed between them; title and author are metadata.

    Raises
    ------
    DataError
        When it is damaged or locked by a password.
    """
    import pypdfium2

    with watched(path, provenance):
        try:
            book = pypdfium2.PdfDocument(path)
        except pypdfium2.PdfiumError as error:
            locked = "password" in str(error).lower()
            what = "is locked by a password" if locked else "is not a PDF that can be read: it is damaged"
            raise DataError(
                f"{path} {what}",
                "save it without a password" if locked else "open it in a viewer and print it again as a PDF",
            ) from error
        try:
            pages = [_page(book, number) for number in range(len(book))]
            fields = book.get_metadata_dict(skip_empty=True)
        finally:
            book.close()
    if pages and not any(page.strip() for page in pages):
        provenance.note(f"{name} has images of pages and no text: run text recognition (OCR) on it first")
    metadata = {key.lower(): fields[key] for key in ("Title", "Author") if fields.get(key)}
    yield Document(name, "", "\f".join(pages), metadata, str(path))


def _page(book: object, number: int) -> str:
    page = book[number]  # type: ignore[index]
    text_page = page.get_textpage()
    text = text_page.get_text_bounded()
    text_page.close()
    page.close()
    return _BROKEN.sub("-\n", text.replace("\r\n", "\n").replace("\r", "\n"))
