"""Text out of trees of elements: one way for HTML, XML, TEI and the XML inside office documents."""

import html
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from millstone.core.base.errors import DataError
from millstone.texts.inputs.documents.trees import local_name

TAB, LINE, PARAGRAPH, PAGE = "\t", "\n", "\n\n", "\f"
_STRENGTH = (TAB, LINE, PARAGRAPH, PAGE)


@dataclass(frozen=True)
class Layout:
    """Which elements mean what, by local name.

    Attributes
    ----------
    breaks : mapping
        Element -> what stands before and after its text.
    marks : mapping
        Empty element -> what stands in its place: a break, or characters.
    skipped, deferred : frozenset
        Elements without text of ours; elements, such as footnotes, whose text follows at the end.
    only : frozenset
        Text is taken from these alone; empty for all.
    is_skipped : callable
        A further test on an element.
    """

    breaks: dict[str, str] = field(default_factory=dict)
    marks: dict[str, str] = field(default_factory=dict)
    skipped: frozenset[str] = frozenset()
    deferred: frozenset[str] = frozenset()
    only: frozenset[str] = frozenset()
    is_skipped: Callable[[Any], bool] = lambda element: False


class _Text:
    """Pieces of text with the strongest break between them; white space is folded."""

    def __init__(self) -> None:
        self._pieces: list[str] = []
        self._waiting = ""

    def add(self, text: str | None) -> None:
        if not text:
            return
        folded = " ".join(text.split())
        if not folded:
            self._pieces += [" "] if self._pieces and self._pieces[-1] != " " and not self._waiting else []
            return
        if self._waiting:
            while self._pieces and self._pieces[-1] == " ":
                self._pieces.pop()
            if self._pieces:
                self._pieces[-1] = self._pieces[-1].rstrip(" ")
                self._pieces.append(self._waiting)
        elif text[0].isspace():
            self._pieces.append(" ")
        self._waiting = ""
        self._pieces.append(folded + (" " if text[-1].isspace() else ""))

    def mark(self, characters: str) -> None:
        if self._waiting:
            self._pieces.append(self._waiting)
            self._waiting = ""
        self._pieces.append(characters)

    def break_here(self, kind: str) -> None:
        if not self._waiting or _STRENGTH.index(kind) > _STRENGTH.index(self._waiting):
            self._waiting = kind

    def whole(self) -> str:
        return "".join(self._pieces).strip(" ")


def text_of(root: Any, layout: Layout, path: Path) -> str:
    """The text below an element.

    Raises
    ------
    DataError
        For an entity that the document defines itself, which is never expanded.
    """
    text = _Text()
    deferred: list[Any] = []
    _walk(root, layout, path, text, deferred)
    # a note may hold another
    while deferred:
        text.break_here(PARAGRAPH)
        _walk(deferred.pop(0), layout, path, text, deferred)
    return text.whole()


def _walk(root: Any, layout: Layout, path: Path, text: _Text, deferred: list[Any]) -> None:
    """Depth first, on an explicit stack, since documents may be nested more deeply than calls may."""
    stack: list[tuple[Any, bool]] = [(root, False)]
    while stack:
        element, done = stack.pop()
        name = local_name(element)
        if done:
            if name in layout.breaks:
                text.break_here(layout.breaks[name])
        elif not isinstance(element.tag, str):
            text.add(_entity(element, path))
        elif element is not root and name in layout.deferred:
            deferred.append(element)
        elif name in layout.marks:
            _mark(text, layout.marks[name])
        elif name not in layout.skipped and not layout.is_skipped(element):
            if name in layout.breaks:
                text.break_here(layout.breaks[name])
            if not layout.only or name in layout.only:
                text.add(element.text)
            stack.append((element, True))
            stack += [(child, False) for child in reversed(element)]
            continue
        if element is not root and _takes_tail(element, layout):
            text.add(element.tail)


def _takes_tail(element: Any, layout: Layout) -> bool:
    return not layout.only or local_name(element.getparent()) in layout.only


def _mark(text: _Text, mark: str) -> None:
    if mark in _STRENGTH:
        text.break_here(mark)
    elif mark:
        text.mark(mark)


def _entity(element: Any, path: Path) -> str:
    name = getattr(element, "name", "")
    if not name:
        return ""
    found = html.unescape(f"&{name};")
    if found == f"&{name};":
        raise DataError(
            f"{path}, line {element.sourceline}: the entity &{name}; is not expanded, for safety",
            "replace it by its text, as a text editor can",
        )
    return found
