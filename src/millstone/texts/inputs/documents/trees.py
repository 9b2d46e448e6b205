"""Trees of elements out of markup; elements that add nothing to the text before them do not stay in memory."""

import io
from collections.abc import Callable, Set
from pathlib import Path
from typing import Any

from millstone.core.base.errors import DataError

_MOST_NAMES = 10_000
_LONGEST_PATH = 40


def local_name(element: Any) -> str:
    """The name of an element without its namespace; empty for comments and the like."""
    tag = element.tag
    return tag.rpartition("}")[2] if isinstance(tag, str) else ""


def parse_xml(data: bytes, path: Path, name_of: Callable[[Any, str], str] = lambda element, name: name) -> Any:
    """The root of an XML document: no entities expanded, no network, nothing loaded.

    Parameters
    ----------
    data : bytes
    path : Path
        For messages.
    name_of : callable
        Gives elements of the same meaning the same name, from an element and its local name; none to those that are
        not to be left out even if they are empty.

    Raises
    ------
    DataError
        Names file, line and column.
    """
    from lxml import etree

    elements = etree.iterparse(
        io.BytesIO(data),
        events=("end",),
        resolve_entities=False,
        no_network=True,
        load_dtd=False,
        remove_comments=True,
        remove_pis=True,
    )
    try:
        return _pruned(elements, path, name_of)
    except etree.XMLSyntaxError as error:
        line, column = error.position
        reason = (error.msg or "not valid XML").split(", line")[0]
        raise DataError(
            f"{path}, line {line}, column {column}: {reason[0].lower()}{reason[1:]}",
            "fix the XML there; as a plain text it would be read under the ending .txt",
        ) from error


def parse_html(text: str, path: Path, name_of: Callable[[Any, str], str] = lambda element, name: name) -> Any:
    """The root of a page, as `parse_xml` gives it; None where there is nothing in it.

    Raises
    ------
    DataError
        For elements of more names than any page has.
    """
    from lxml import etree

    # a str may have a declaration of its former encoding, which the parser must not follow
    data = io.BytesIO(text.encode("utf-8"))
    elements = etree.iterparse(data, events=("end",), html=True, encoding="utf-8", huge_tree=True)
    try:
        return _pruned(elements, path, name_of)
    except etree.XMLSyntaxError:
        return None


class _Siblings:
    """Elements of one parent that are closed: the last of them, and what is known of those before it.

    Attributes
    ----------
    element : Element
        The last, which is not yet known to stay: what follows it has not been read.
    paths : set of str or None
        The names in it and on the way to each, where it is empty; a blank in it counts as a name.
    before : set of str
        The same of the empty elements right before it.
    inside : set of str or None
        The same of all before it; None where there is text in them or between them.
    number : int
        How many there are before it.
    """

    __slots__ = ("before", "element", "inside", "number", "paths")

    def __init__(self, element: Any, paths: Set[str] | None) -> None:
        self.element, self.paths, self.number = element, paths, 0
        self.before: set[str] = set()
        self.inside: set[str] | None = set()

    def add(self, element: Any, paths: Set[str] | None, follows: bool) -> None:
        """Take in the next one, which `follows` right after the last; that one goes if it adds nothing."""
        tail = self.element.tail
        if self.inside is not None and tail:
            self.inside.add(" ")
        if self.paths is None or (tail and not tail.isspace()) or not follows:
            self.inside = None
            self.before = set()
            self.number += 1
        elif self.paths <= self.before:
            _leave_out(self.element, tail)
        else:
            self.before |= self.paths
            if self.inside is not None:
                self.inside |= self.paths
            self.number += 1
        self.element, self.paths = element, paths

    def all_in(self, parent: Any) -> Set[str] | None:
        """Paths of all elements in the children of one that is closed now; None where there is text in them."""
        tail = self.element.tail
        if self.inside is None or self.paths is None or (tail and not tail.isspace()):
            return None
        # entities are children, too
        return self.inside | self.paths | ({" "} if tail else set()) if self.number + 1 == len(parent) else None


class _Outer:
    """Paths in an element from those in its children; long ones are folded: depth costs no more than width."""

    def __init__(self) -> None:
        self._number_of: dict[frozenset[str], int] = {}

    def paths(self, name: str, inner: Set[str]) -> Set[str]:
        """The paths, each one name longer."""
        if any(len(path) > _LONGEST_PATH for path in inner):
            inner = {f"#{self._number_of.setdefault(frozenset(inner), len(self._number_of))}"}
        return {f"{name}/{path}" for path in inner}


def _pruned(elements: Any, path: Path, name_of: Callable[[Any, str], str]) -> Any:
    """The root, without empty elements that repeat what empty elements right before them say.

    Between two pieces of text many empty paragraphs are one break, as is any row of empty elements; a file of a few
    kilobytes may unpack to millions of them.
    """
    rows: list[_Siblings] = []
    local_names: dict[str, str] = {}
    alone: dict[str, frozenset[str]] = {}
    outer = _Outer()
    for _, element in elements:
        tag = element.tag
        if tag not in local_names:
            local_names[tag] = local_name(element)
            if len(local_names) > _MOST_NAMES:
                raise DataError(
                    f"{path} has elements of more than {_MOST_NAMES:,} names; refusing to read it as text",
                    "see that it is what its name says",
                )
        name, text = name_of(element, local_names[tag]), element.text
        is_empty = bool(name) and (not text or text.isspace())
        paths: Set[str] | None = alone.setdefault(name, frozenset((name,))) if is_empty else None
        if text and paths is not None:
            # a blank in it may part two words
            paths = paths | {f"{name}/ "}
        if len(element):
            inner = rows.pop().all_in(element) if rows and rows[-1].element.getparent() is element else None
            paths = paths | outer.paths(name, inner) if paths is not None and inner is not None else None
        previous = element.getprevious()
        if rows and previous is not None:
            last = rows[-1].element
            # where something else stands between them the parent tells
            if previous is last or last.getparent() is element.getparent():
                rows[-1].add(element, paths, previous is last)
                continue
        rows.append(_Siblings(element, paths))
    return elements.root


def _leave_out(element: Any, tail: str | None) -> None:
    """Remove an element that is not the first of its parent; white space after it is one blank all the same."""
    before = element.getprevious()
    element.tail = None
    if tail and not before.tail:
        before.tail = " "
    element.getparent().remove(element)
