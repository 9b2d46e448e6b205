"""HTML: the text that a reader of the page sees."""

import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from millstone.core.base.errors import DataError
from millstone.core.corpus.corpus import Document
from millstone.core.settings.inputs import InputOptions
from millstone.texts.inputs.decoding import codec_of, decode
from millstone.texts.inputs.documents.markup import LINE, PARAGRAPH, TAB, Layout, text_of
from millstone.texts.inputs.documents.trees import local_name, parse_html
from millstone.texts.inputs.files import read_source
from millstone.texts.inputs.provenance import Provenance

_PARAGRAPHS = (
    *("address", "article", "aside", "blockquote", "body", "caption", "dd", "details", "dialog", "div", "dl", "dt"),
    *("fieldset", "figcaption", "figure", "footer", "form", "h1", "h2", "h3", "h4", "h5", "h6", "header", "hgroup"),
    *("hr", "li", "main", "menu", "nav", "ol", "option", "p", "pre", "section", "summary", "table", "tr", "ul"),
)
_UNSEEN = frozenset(
    ("head", "script", "style", "template", "noscript", "svg", "math", "iframe", "object", "audio", "video", "canvas")
)
_NAVIGATION = frozenset(("nav", "header", "footer", "aside"))
_DECLARED = re.compile(rb"<meta[^>]{0,200}?charset\s*=\s*[\"']?([\w.:-]+)", re.IGNORECASE)


def read_html(path: Path, name: str, reading: InputOptions, provenance: Provenance) -> Iterator[Document]:
    """The visible text of a page; its title is metadata.

    Raises
    ------
    DataError
    """
    data = read_source(path, provenance)
    encoding = reading.encoding or _declared(data, path)
    text = decode(data, path, encoding, provenance)
    root = parse_html(text, path, _name_of)
    if root is None:
        yield Document(name, "", "", source=str(path))
        return
    layout = Layout(
        breaks={**dict.fromkeys(_PARAGRAPHS, PARAGRAPH), "td": TAB, "th": TAB},
        marks={"br": LINE, "wbr": ""},
        skipped=_UNSEEN if reading.navigation else _UNSEEN | _NAVIGATION,
        is_skipped=_is_hidden,
    )
    title = " ".join((root.findtext(".//title") or "").split())
    yield Document(name, "", text_of(root, layout, path), {"title": title} if title else {}, str(path))


def _declared(data: bytes, path: Path) -> str:
    """The encoding that a page names for itself, when its first bytes do not give it."""
    found = _DECLARED.search(data[:4096])
    if not found or codec_of(data[:4], "") == "utf-16":
        return ""
    name = found[1].decode("ascii")
    try:
        codec_of(b"", name)
    except DataError as error:
        raise DataError(
            f"{path} says of itself that it is in {name!r}, which is not a known encoding",
            "name its encoding with --encoding",
        ) from error
    # pages that say latin-1 are read as browsers read them
    return "cp1252" if name.lower() in ("iso-8859-1", "latin1", "us-ascii") else name


def _name_of(element: Any, name: str) -> str:
    return "hidden" if element.keys() and _is_hidden(element) else name


def _is_hidden(element: Any) -> bool:
    style = element.get("style", "").replace(" ", "").lower()
    return element.get("hidden") is not None or "display:none" in style or local_name(element) == "title"
