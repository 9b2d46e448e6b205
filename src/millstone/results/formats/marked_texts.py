"""Marked texts as a page, and as plain text."""

from collections.abc import Iterator, Mapping, Sequence
from html import escape
from string import Template, ascii_uppercase

from millstone.core.dictionary.marked_text import MarkedText, MarkedTexts
from millstone.core.wording import numbered

TINTS = ("#cfe3f1", "#fbd9c4", "#f6e6ad", "#cdeae2", "#ecccd3", "#e6d3ec", "#dfe5ea", "#e2eebb")
"""Backgrounds of categories, in turn; the letter says which it is."""

_PAGE = Template("""<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<title>$title</title>
<style>
body { font: 16px/1.6 Georgia, "DejaVu Serif", serif; color: #22282e; margin: 0 auto; max-width: 68rem;
  padding: 1.5rem; }
h1 { font-size: 1.5rem; margin: 0 0 .3rem; } h2 { font-size: 1.05rem; margin: 2rem 0 .2rem; }
.small { margin: .1rem 0 .4rem; font: .82rem/1.5 "DejaVu Sans", Verdana, sans-serif; color: #59636d; }
.legend { display: grid; grid-template-columns: repeat(auto-fill, minmax(15rem, 1fr)); gap: .15rem 1.5rem; padding: 0;
  margin: 1rem 0; list-style: none; }
.legend li { display: flex; gap: .5rem; } .legend .n { margin-left: auto; font-variant-numeric: tabular-nums; }
mark { color: inherit; border-bottom: 2px solid #59636d; padding: 0 .1em; border-radius: 2px; }
mark sub, .key { font: bold .68em/1 "DejaVu Sans", Verdana, sans-serif; vertical-align: -.3em; padding-left: .15em; }
.key { min-width: 1.6em; padding: .3em .2em; text-align: center; border-bottom: 2px solid #59636d; border-radius: 2px;
  font-size: .75rem; }
.text { white-space: pre-wrap; margin: .2rem 0 0; } .index { columns: 14rem; padding-left: 1.2rem; }
a { color: #17527c; } summary { cursor: pointer; }
@media print { details { display: none; } h2 { break-after: avoid; } }
$styles
</style>
</head>
<body>
<h1>$title</h1>
<p class="small">$about</p>
<ul class="legend small">
$legend
</ul>
<details class="small"><summary>$documents, with the places in each</summary>
<ol class="index">
$index
</ol></details>
$texts
</body>
</html>
""")


def letters(names: Sequence[str]) -> dict[str, str]:
    """The mark of each category: A to Z, then AA, AB, ..."""
    size = len(ascii_uppercase)
    return {
        name: (ascii_uppercase[at // size - 1] if at >= size else "") + ascii_uppercase[at % size]
        for at, name in enumerate(names)
    }


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
    legend = "\n".join(
        f'<li><span class="key {_style(names, name)}">{mark[name]}</span> {escape(name)} '
        f'<span class="n">{total:,}</span></li>'
        for name, total in zip(names, totals, strict=True)
    )
    index = "\n".join(
        f'<li><a href="#t{number}">{escape(text.name)}</a> {_places(text)}</li>' for number, text in enumerate(texts)
    )
    styles = "\n".join(f".c{number} {{ background: {tint}; }}" for number, tint in enumerate(TINTS))
    bodies = "\n".join(_text(number, text, names, mark) for number, text in enumerate(texts))
    page = _PAGE.substitute(
        title=escape(title),
        about=escape(about),
        legend=legend,
        documents=numbered(len(texts), "document"),
        index=index,
        styles=styles,
        texts=bodies,
    )
    return page.encode("utf-8")


def _places(text: MarkedText) -> str:
    covered = sum(1 for _, categories in text.pieces if categories)
    return numbered(covered, "place")


def _style(names: Sequence[str], name: str) -> str:
    return f"c{names.index(name) % len(TINTS)}"


def _text(number: int, text: MarkedText, names: Sequence[str], mark: Mapping[str, str]) -> str:
    parts = []
    for piece, categories in text.pieces:
        if categories:
            said = escape("; ".join(categories), quote=True)
            label = " ".join(mark[name] for name in categories)
            style = _style(names, categories[0])
            parts.append(f'<mark class="{style}" title="{said}">{escape(piece)}<sub>{label}</sub></mark>')
        else:
            parts.append(escape(piece))
    group = f" ({escape(text.group)})" if text.group else ""
    return (
        f'<section id="t{number}"><h2>{escape(text.name)}{group}</h2>\n'
        f'<p class="small">{numbered(text.tokens, "token")}, {_places(text)}</p>\n'
        f'<p class="text">{"".join(parts).strip()}</p></section>'
    )


def as_plain(marked: MarkedTexts) -> Iterator[str]:
    """The texts as plain lines: a counted word is followed by the letters of its categories in brackets."""
    texts, names = marked.texts, marked.categories
    mark = letters(names)
    for text in texts:
        yield f"== {text.name} ({text.group}), {numbered(text.tokens, 'token')}, {_places(text)}"
        yield "".join(
            f"{piece}[{' '.join(mark[name] for name in categories)}]" if categories else piece
            for piece, categories in text.pieces
        ).strip()
        yield ""
    totals = zip(*(text.places for text in texts), strict=True)
    yield "; ".join(f"[{mark[name]}] {name} {sum(column):,}" for name, column in zip(names, totals, strict=True))
