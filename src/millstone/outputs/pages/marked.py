"""Marked texts as a page, and as plain text."""

from collections.abc import Mapping, Sequence

from markupsafe import Markup, escape

from millstone.core.base.wording import numbered
from millstone.core.dictionary.marked_text import MarkedText, MarkedTexts, letters, places_in
from millstone.outputs.pages.page import page, visible

TINTS = ("#cfe3f1", "#fbd9c4", "#f6e6ad", "#cdeae2", "#ecccd3", "#e6d3ec", "#dfe5ea", "#e2eebb")
"""Backgrounds of categories, in turn; the letter says which it is."""


def as_page(marked: MarkedTexts, title: str, about: str) -> bytes:
    """The page in UTF-8.

    Parameters
    ----------
    marked : MarkedTexts
    title, about : str
        The heading, and what was read and how, below it.
    """
    texts, names = marked.texts, marked.categories
    mark = letters(names)
    totals = [sum(column) for column in zip(*(text.places for text in texts), strict=True)]
    return page(
        "marked.html",
        title,
        style="marked.css",
        tints="".join(f"\n.c{number} {{ background: {tint}; }}" for number, tint in enumerate(TINTS)),
        about=about,
        legend=[
            {"style": _style(names, name), "mark": mark[name], "name": name, "places": f"{total:,}"}
            for name, total in zip(names, totals, strict=True)
        ],
        documents=numbered(len(texts), "document"),
        texts=[
            {
                "name": text.name,
                "group": f" ({text.group})" if text.group else "",
                "tokens": numbered(text.tokens, "token"),
                "places": places_in(text),
                "body": _body(text, names, mark),
            }
            for text in texts
        ],
    )


def _style(names: Sequence[str], name: str) -> str:
    return f"c{names.index(name) % len(TINTS)}"


def _body(text: MarkedText, names: Sequence[str], mark: Mapping[str, str]) -> Markup:
    """A text in which each word that was counted carries the letters of its categories."""
    parts = []
    for piece, categories in text.pieces:
        if categories:
            said = escape(visible("; ".join(categories)))
            label = " ".join(mark[name] for name in categories)
            style = _style(names, categories[0])
            parts.append(f'<mark class="{style}" title="{said}">{escape(visible(piece))}<sub>{label}</sub></mark>')
        else:
            parts.append(str(escape(visible(piece))))
    return Markup("".join(parts).strip())
