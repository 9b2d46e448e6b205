"""Lines of a concordance as a page: what was found under each other, each line opening its paragraph."""

from collections.abc import Mapping
from typing import Any

from markupsafe import Markup, escape

from millstone.core.base.wording import numbered
from millstone.core.matches.contexts import beside, joins_without_space
from millstone.core.tables.result import Result
from millstone.outputs.pages.page import page, visible

PARAGRAPHS = "paragraphs"
"""The further table that holds the paragraph of each line: ``line, left, right``."""

# a line shows no more of its context, and an open one no more of its paragraph, on either side
_OF_LINE, _OF_PARAGRAPH = 200, 1500
_MORE = "\u2026"
_ORDERS = {"line": "document", "left": "left", "right": "right"}


def as_lines_page(result: Result, notes: Mapping[str, Any]) -> bytes:
    """The page in UTF-8; without scripts its lines stay in their order."""
    table, settings = result.table, result.settings
    nodes = table.by(["node"]) if "node" in table else [(("",), table)]
    every = result.tables[PARAGRAPHS].table.rows() if PARAGRAPHS in result.tables else ()
    paragraphs = {row["line"]: row for row in every}
    blocks = [
        (
            f"{name}: {numbered(len(rows), 'line')}" if name else "",
            [_line(row, paragraphs) for row in rows.rows()],
        )
        for (name,), rows in nodes
    ]
    named = _looked_for(settings)
    inputs = " ".join(map(str, notes.get("input", [])))
    sort = settings.get("sort") or "document"
    return page(
        "lines.html",
        f"Concordance: {named}" if named else "Concordance",
        "lines.js",
        "lines.css",
        about=f"{numbered(len(table), 'line')} of {inputs}; millstone {notes['millstone']}. "
        "Open a line for its paragraph.",
        orders=[(by, name, str(name == sort).lower()) for by, name in _ORDERS.items()],
        blocks=blocks,
    )


def _looked_for(settings: Mapping[str, Any]) -> str:
    """Describe what was looked for, for the title."""
    if table := settings.get("from"):
        row = f"row {settings['row']}" if "row" in settings else str(settings.get("term"))
        return f"{row} of {table}"
    found = settings.get("find") or settings.get("select") or settings.get("dictionary")
    return ", ".join(map(str, found)) if isinstance(found, list | tuple) else str(found or "")


def _line(row: Mapping[Any, Any], paragraphs: Mapping[int, Mapping[str, Any]]) -> dict[str, object]:
    """A line as the page shows it."""
    left, found, right = (str(row[name]) for name in ("left", "found", "right"))
    before, after = left, right
    if row["line"] in paragraphs:
        before, after = (str(paragraphs[row["line"]][name]) for name in ("left", "right"))
    before, after = _end_of(before, _OF_PARAGRAPH), _beginning_of(after, _OF_PARAGRAPH)
    left, right = _end_of(left, _OF_LINE), _beginning_of(right, _OF_LINE)
    return {
        "number": row["line"],
        "numbered": f"{row['line']:,}",
        "document": row["document"],
        "group": f" ({row['group']})" if row["group"] != row["document"] else "",
        "left": _with_collocate(left, row, -1),
        "right": _marked("", found, right, row),
        "paragraph": _marked(before, found, after, row),
    }


def _beginning_of(text: str, most: int) -> str:
    """The beginning of a text, cut between words."""
    return text if len(text) <= most else f"{text[:most].rpartition(' ')[0] or text[:most]} {_MORE}"


def _end_of(text: str, most: int) -> str:
    """The end of a text, cut between words."""
    return text if len(text) <= most else f"{_MORE} {text[-most:].partition(' ')[2] or text[-most:]}"


def _marked(left: str, found: str, right: str, row: Mapping[Any, Any]) -> Markup:
    """The match in its context, with blanks where the text has them."""
    before = "" if not left or joins_without_space(left, opening=True) else " "
    after = "" if not right or joins_without_space(right, opening=False) else " "
    contexts = _with_collocate(left, row, -1), _with_collocate(right, row, 1)
    return Markup(f'{contexts[0]}{before}<b>{_safe(found)}</b>{after}<span class="t">{contexts[1]}</span>')


def _with_collocate(text: str, row: Mapping[Any, Any], side: int) -> Markup:
    """A context with the word near it marked, where the lines are of collocates or links."""
    distance = int(row["distance"]) if "collocate" in row and "distance" in row else 0
    where = beside(text, str(row["collocate"]), distance) if distance * side > 0 else None
    if where is None:
        return _safe(text)
    first, after = where
    return Markup(f"{_safe(text[:first])}<strong>{_safe(text[first:after])}</strong>{_safe(text[after:])}")


def _safe(text: str) -> Markup:
    return escape(visible(text))
