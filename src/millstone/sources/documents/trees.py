"""Trees of elements out of markup; elements that add nothing to the text before them do not stay in memory."""

import io
from collections.abc import Callable
from pathlib import Path
from typing import Any, NamedTuple

from millstone.core.errors import DataError

_MOST_NAMES = 10_000


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


class _Closed(NamedTuple):
    """An element that is closed, and is not yet known to stay.

    Attributes
    ----------
    element : Element
    paths : frozenset of str or None
        The names in it and on the way to each, where it is empty; a blank in it counts as a name.
    before : frozenset of str
        The same of the empty elements right before it.
    """

    element: Any
    paths: frozenset[str] | None
    before: frozenset[str]


_NONE: frozenset[str] = frozenset()


def _pruned(elements: Any, path: Path, name_of: Callable[[Any, str], str]) -> Any:
    """The root, without empty elements that repeat what empty elements right before them say.

    Between two pieces of text many empty paragraphs are one break, as is any row of empty elements; a file of a few
    kilobytes may unpack to millions of them.
    """
    closed: list[_Closed] = []
    local_names: dict[str, str] = {}
    alone: dict[str, frozenset[str]] = {}
    for _, element in elements:
        tag = element.tag
        if tag not in local_names:
            local_names[tag] = local_name(element)
            if len(local_names) > _MOST_NAMES:
                raise DataError(
                    f"{path} has elements of more than {_MOST_NAMES:,} names, as no text does",
                    "see that it is what its name says",
                )
        name, text = name_of(element, local_names[tag]), element.text
        is_empty = bool(name) and (not text or text.isspace())
        paths = alone.setdefault(name, frozenset((name,))) if is_empty else None
        if text and paths is not None:
            # a blank in it may part two words
            paths |= {f"{name}/ "}
        if len(element):
            inner = _taken(closed, element)
            paths = paths | {f"{name}/{one}" for one in inner} if paths is not None and inner is not None else None
        before = _NONE
        if closed and element.getprevious() is (last := closed[-1]).element:
            tail = last.element.tail
            if last.paths is None or (tail and not tail.isspace()):
                pass
            elif last.paths <= last.before:
                before = last.before
                _leave_out(last.element, tail)
                closed.pop()
            else:
                before = last.before | last.paths
        closed.append(_Closed(element, paths, before))
    return elements.root


def _taken(closed: list[_Closed], parent: Any) -> frozenset[str] | None:
    """What is in the children of an element, which need not be known any longer; None where there is text in them."""
    number, is_empty, paths = 0, True, set[str]()
    while closed and closed[-1].element.getparent() is parent:
        element, inside, _ = closed.pop()
        number += 1
        tail = element.tail
        is_empty = is_empty and inside is not None and not (tail and not tail.isspace())
        paths |= inside or _NONE
        paths |= {" "} if tail else _NONE
    # entities are children, too
    return frozenset(paths) if is_empty and number == len(parent) else None


def _leave_out(element: Any, tail: str | None) -> None:
    """Remove an element that is not the first of its parent; white space after it is one blank all the same."""
    before = element.getprevious()
    element.tail = None
    if tail and not before.tail:
        before.tail = " "
    element.getparent().remove(element)
